"""The simulated host's end of the link, with habits that real ones have, too."""

from __future__ import annotations

import json
import signal
import sys
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from fox_hand.base.language import tr
from fox_hand.demo.demo_project import shipped
from fox_hand.demo.host.control_rig import control_rig
from fox_hand.demo.host.first_keys import animate
from fox_hand.demo.host.host_scene import BASE, SPACES, ChannelKeys, HostFigure, HostScene, Values
from fox_hand.demo.host.host_view import HostView
from fox_hand.interchange.link.fox_hand_link import Host, Link, RefusedError
from fox_hand.interchange.readers import read_rig
from fox_hand.library.files.atomic import write_atomically

BREATH = 0.004  # seconds between two looks at what was asked
DROPS_AFTER = 12  # previews of a forgetful host
CHANGES_EVERY = 1.5  # seconds of a changing one


@dataclass(frozen=True)
class Habits:
    """What a host may be like.

    Args:
        slow: seconds that each answer takes besides.
        forgetful: drops the connection in the middle of a preview.
        stubborn: keeps locked channels as they are.
        changing: edits the scene by itself.
    """

    slow: float = 0.0
    forgetful: bool = False
    stubborn: bool = False
    changing: bool = False


class SimulatedHost(Host):
    """Two figures of the demo with the control rigs of somebody else.

    Args:
        habits: see there.
        keep_in: a file that the scene is read from and written to at every step; None for none.
        moves: whether somebody has animated the figures already.
    """

    name, version = "Harbour host", "7"
    can = ("preview", "keep", "undo", "select", "time", "keys", "layers", "switch", "picture")

    def __init__(
        self, habits: Habits | None = None, keep_in: Path | None = None, *, moves: bool = False
    ) -> None:
        self.habits, self._file = habits or Habits(), keep_in
        figures: dict[str, HostFigure] = {}
        self._view: HostView | None = None
        self._making = threading.Lock()
        for number, name in enumerate(("marrow", "pim"), 1):
            prefix = f"{name}:"
            model = shipped() / "cast" / f"{name}.glb"
            description = control_rig(read_rig(model), prefix, model)
            figures[f"rig-{number}"] = HostFigure.of(description, prefix)
            if moves:
                animate(figures[f"rig-{number}"])
        self.open = HostScene("harbour", figures)
        self.previews = self.turn = 0  # counts what is seen there that was not
        self.dropped: Callable[[], None] = lambda: None
        self.said: list[str] = []  # what happened, for the window and for tests
        if keep_in is not None and keep_in.is_file():
            self._read(json.loads(keep_in.read_text("utf-8")))

    # -- what a port fills in ------------------------------------------------------------------

    def scene(self) -> str:
        return self.open.name

    def rigs(self) -> list[dict[str, str]]:
        return [
            {"id": rig, "name": f.description["name"], "prefix": f.prefix}
            for rig, f in self.open.figures.items()
        ]

    def describe(self, rig: str) -> dict[str, object]:
        return self.open.figures[rig].description

    def values(self, rig: str) -> Values:
        return self.open.values(rig)

    def show(self, rig: str, values: Values) -> None:
        self._dawdle()
        self._known(rig, values)
        self.open.show(rig, values)
        self.previews += 1
        self.turn += 1
        if self.habits.forgetful and self.previews % DROPS_AFTER == 0:
            self.dropped()

    def put_back(self, rig: str, values: Values) -> None:
        del values  # they lie below, untouched
        self.open.shown.pop(rig, None)
        self.turn += 1

    def keep(
        self, rig: str, values: Values, name: str, keyed: bool, layer: str | None
    ) -> list[dict[str, str]]:
        self._dawdle()
        self._known(rig, values)
        self._layer(rig, layer)
        self.open.begin(name)
        refused = []
        for control, channels in values.items():
            for channel, value in channels.items():
                if self._locked(rig, control, channel):
                    refused.append(_no(control, channel))
                    continue
                self.open.set(rig, control, channel, value, (layer or BASE) if keyed else None)
        self._write(name)
        return refused

    def undo(self, rig: str, name: str) -> bool:
        del rig  # there is one row of steps for all
        if not self.open.steps or self.open.steps[-1][0] != name:
            return False
        self.open.undo()
        self._write(tr("Undo {name}", name=name))
        return True

    def selection(self, rig: str) -> list[str]:
        return self.open.selected[rig]

    def select(self, rig: str, controls: list[str]) -> None:
        known = self.open.figures[rig].still
        self.open.selected[rig] = [name for name in controls if name in known]
        self.turn += 1

    def time(self) -> dict[str, float]:
        now = self.open
        return {"frame": now.frame, "first": now.first, "last": now.last, "rate": now.rate}

    def go(self, frame: float) -> None:
        self.open.frame = frame

    def keys(self, rig: str, layer: str | None) -> list[dict[str, object]]:
        self._layer(rig, layer)
        found: list[dict[str, object]] = []
        for name, curves in self.open.figures[rig].layers.items():
            for (control, channel), curve in curves.items():
                if layer in (None, name):
                    one = {"control": control, "channel": channel, "layer": name}
                    found.append({**one, "keys": _keys_of(curve)})
        return found

    def set_keys(
        self, rig: str, curves: list[dict[str, Any]], name: str, layer: str | None
    ) -> list[dict[str, str]]:
        self._layer(rig, layer)
        for curve in curves:
            self._known(rig, {curve["control"]: {curve["channel"]: 0.0}})
        self.open.begin(name)
        refused, held = [], self.open.figures[rig].layers[layer or BASE]
        for curve in curves:
            control, channel = curve["control"], curve["channel"]
            if self._locked(rig, control, channel):
                refused.append(_no(control, channel))
                continue
            _lay(held.setdefault((control, channel), ChannelKeys()), curve["keys"])
        self._write(name)
        return refused

    def layers(self, rig: str) -> list[dict[str, object]]:
        return [{"name": n, "active": n == BASE} for n in self.open.figures[rig].layers]

    def switches(self, rig: str) -> list[dict[str, object]]:
        now = self.open.figures[rig].spaces
        return [
            {"name": name, "label": name, "options": list(options), "now": now[name]}
            for name, options in SPACES.items()
        ]

    def switch(self, rig: str, name: str, to: str) -> None:
        if to not in SPACES.get(name, ()):
            raise RefusedError("there is no such switch")
        self.open.begin(f"{name} to {to}")
        self.open.figures[rig].spaces[name] = to
        self._write(name)

    def picture(self, width: int, height: int) -> bytes:
        return self.view.png(self.open, width, height)

    @property
    def view(self) -> HostView:
        """What draws the scene; it takes a moment to begin."""
        with self._making:
            if self._view is None:
                self._view = HostView(self.open.figures)
            return self._view

    def stop(self) -> None:
        """Let go of what draws."""
        if self._view is not None:
            self._view.stop()

    # -- behind our back -----------------------------------------------------------------------

    def change_something(self) -> str:
        """Somebody works in the host; whose rig it was."""
        rig = next(iter(self.open.figures))
        control = next(name for name in self.open.figures[rig].still if "head" in name)
        self.open.begin("Nudge")
        now = self.open.values(rig)[control]["turn.x"]
        self.open.set(rig, control, "turn.x", now + 1.0, None)
        self._write("Nudge")
        return rig

    # -- inner ---------------------------------------------------------------------------------

    def _dawdle(self) -> None:
        if self.habits.slow:
            time.sleep(self.habits.slow)

    def _known(self, rig: str, values: Values) -> None:
        known = self.open.figures[rig].still
        for control, channels in values.items():
            for channel in channels:
                if channel not in known.get(control, {}):
                    raise RefusedError(f"there is no {control} {channel}"[:200])

    def _layer(self, rig: str, layer: str | None) -> None:
        if layer is not None and layer not in self.open.figures[rig].layers:
            raise RefusedError("there is no such layer")

    def _locked(self, rig: str, control: str, channel: str) -> bool:
        return self.habits.stubborn and (control, channel) in self.open.figures[rig].locked

    def written(self, name: str) -> None:
        """A step was done: it is said, and the scene is kept in its file."""
        self._write(name)

    def _write(self, name: str) -> None:
        self.said.append(name)
        self.turn += 1
        if self._file is None:
            return
        content = {
            rig: {
                "still": f.still,
                "spaces": f.spaces,
                "layers": {
                    layer: [[*key, _keys_of(curve)] for key, curve in curves.items()]
                    for layer, curves in f.layers.items()
                },
            }
            for rig, f in self.open.figures.items()
        }
        write_atomically(self._file, json.dumps(content).encode())

    def _read(self, content: dict[str, Any]) -> None:
        for rig, held in content.items():
            figure = self.open.figures[rig]
            figure.still, figure.spaces = held["still"], held["spaces"]
            for layer, curves in held["layers"].items():
                for control, channel, keys in curves:
                    curve = figure.layers[layer].setdefault((control, channel), ChannelKeys())
                    _lay(curve, keys)


def _no(control: str, channel: str) -> dict[str, str]:
    return {"control": control, "channel": channel, "why": "it is locked"}


def _keys_of(curve: ChannelKeys) -> list[dict[str, Any]]:
    found = []
    for frame, value in sorted(curve.keys.items()):
        key: dict[str, Any] = {"frame": frame, "value": value}
        key["ease"] = curve.eases.get(frame, "line")
        if frame in curve.handles:
            key["in"], key["out"] = curve.handles[frame]
        found.append(key)
    return found


def _lay(curve: ChannelKeys, keys: list[dict[str, Any]]) -> None:
    """Keys over the frames they span; those before and after stay."""
    frames = [float(key["frame"]) for key in keys]
    for frame in [f for f in curve.keys if frames and min(frames) <= f <= max(frames)]:
        for held in (curve.keys, curve.eases, curve.handles):
            held.pop(frame, None)
    for key, frame in zip(keys, frames, strict=True):
        curve.keys[frame] = float(key["value"])
        curve.eases[frame] = str(key.get("ease", "line"))
        if "in" in key and "out" in key:
            curve.handles[frame] = tuple(key["in"]), tuple(key["out"])


def run(host: SimulatedHost, say: Callable[[str], None], folder: Path | None = None) -> None:
    """Listen until somebody stops the process; its socket goes with it."""
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    link = Link(host, folder)
    host.dropped = link.drop_all
    link.start()
    threading.Thread(target=lambda: host.view, daemon=True).start()  # ready when it is asked for
    say(tr("{name} listens at {path}", name=host.name, path=link.path))
    changed = time.monotonic()
    try:
        while True:
            link.pump()
            if host.habits.changing and time.monotonic() - changed > CHANGES_EVERY:
                changed = time.monotonic()
                link.changed(host.change_something())
            time.sleep(BREATH)
    finally:
        link.stop()
        host.stop()
