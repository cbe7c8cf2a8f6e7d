"""How quick the link is: previews a second of a hundred controls, and how long the window does not
answer while a card is pulled on a host that takes 200 ms for each answer.

Prints one line for each: previews a second at a quick host (hands pull sixty times a second), how
late they are in milliseconds; then the longest gap of the window with the quick and the slow host,
and as a ratio to pulling the same on a figure of ours.
"""

from __future__ import annotations

import os
import tempfile
import threading
import time
from pathlib import Path
from typing import Any

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from PySide6.QtWidgets import QApplication

from answering import Watch, wait  # type: ignore[import-not-found]  # it lies beside this file
from fox_hand.__main__ import assembled, set_aside_what_stays
from fox_hand.base.places import Places
from fox_hand.core.maths.euler import from_euler
from fox_hand.interchange.link.fox_hand_link import Host, Link, folder_of_hosts
from fox_hand.session.figures.figure import Edit
from fox_hand.ui.main.window import Window

CONTROLS, PULLS, PAUSE = 100, 180, 16


class Hundred(Host):
    """A host with one rig of a hundred controls, and nothing else."""

    name, version = "Bench host", "1"
    can = ("preview", "keep")

    def __init__(self, slow: float) -> None:
        self._slow = slow
        self.held = {
            f"c{i}": dict.fromkeys(("turn.x", "turn.y", "turn.z"), 0.0) for i in range(CONTROLS)
        }

    def scene(self) -> str:
        return "bench"

    def rigs(self) -> list[dict[str, str]]:
        return [{"id": "rig", "name": "Hundred", "prefix": ""}]

    def describe(self, rig: str) -> dict[str, Any]:
        del rig
        nodes: list[dict[str, Any]] = []
        for i in range(CONTROLS):
            above = {"parent": f"c{i - 1}"} if i % 10 else {}
            nodes.append({"name": f"c{i}", "translation": [4.0, 3.0 * (i % 10), 20.0], **above})
        return {
            "format": "fox-hand rig sidecar",
            "version": 3,
            "name": "Hundred",
            "metres_per_unit": 0.01,
            "up": "z",
            "nodes": nodes,
            "controls": {f"c{i}": {"channels": ["turn"]} for i in range(CONTROLS)},
        }

    def values(self, rig: str) -> dict[str, dict[str, float]]:
        del rig
        return {c: dict(v) for c, v in self.held.items()}

    def show(self, rig: str, values: dict[str, dict[str, float]]) -> None:
        del rig
        time.sleep(self._slow)
        for control, channels in values.items():
            self.held[control].update(channels)

    def keep(self, rig: str, values: Any, name: str, keyed: bool, layer: Any) -> list[Any]:
        del name, keyed, layer
        self.show(rig, values)
        return []


def pull(window: Window, watch: Watch, name: str) -> float:
    """Turn all controls again and again, as a hand does; the longest gap."""
    actor = window.workspace.actor
    assert actor is not None
    edit, rig = Edit(actor, window.workspace.history, "Pull"), actor.rig
    orders = rig.orders

    def step(number: int) -> None:
        euler = actor.rig.rest.euler + np.radians(10 * np.sin(number / 20))
        turn = np.stack([from_euler(e, o) for e, o in zip(euler, orders, strict=True)])
        edit.preview(edit.before.with_(turn=turn, euler=euler))

    steps = [lambda number=number: step(number) for number in range(PULLS)]
    watch.during(name, steps, PAUSE)
    edit.cancel()
    wait(500)
    return float(watch.longest)


def linked(window: Window, watch: Watch, slow: float, word: str) -> float:
    host = Hundred(slow)
    link = Link(host, folder_of_hosts())
    link.start()
    stop = threading.Event()

    def pump() -> None:
        while not stop.wait(0.003):
            link.pump()

    thread = threading.Thread(target=pump)
    thread.start()
    linking = window.workspace.linking
    linking.open(link.path)
    while not linking.stands:
        wait(50)
    wait(1500)
    seen: list[tuple[int, float]] = []

    def shown() -> None:
        if linking.link is not None:
            seen.append(linking.link.speed)

    linking.shown_there.connect(shown)
    gap = pull(window, watch, f"pulling {CONTROLS} controls on a {word} host")
    rate, late = max(seen, default=(0, 0.0))
    print(f"previews a second at a {word} host\t{rate}\t{late * 1000:.0f} ms late", flush=True)
    linking.end()
    wait(300)
    stop.set()
    thread.join()
    link.stop()
    return gap


def main() -> None:
    application = QApplication([])
    with tempfile.TemporaryDirectory() as home:
        os.environ["XDG_RUNTIME_DIR"] = home
        with assembled(Places.under(Path(home))) as window:
            wait(500)
            set_aside_what_stays()
            window.opener.open_crew()
            wait(4000)
            watch = Watch()
            own = pull(window, watch, "pulling a figure of ours")
            quick = linked(window, watch, 0.0, "quick")
            slow = linked(window, watch, 0.2, "slow")
            print(f"gap against our own\tquick {quick / own:.2f}\tslow {slow / own:.2f}")
    del application


if __name__ == "__main__":
    main()
