"""The simulated host as somebody sits at it: time line, undo, what is selected, and its picture."""

from __future__ import annotations

import time
from dataclasses import dataclass, replace
from pathlib import Path

from fox_hand.base.language import tr
from fox_hand.core.view.render_request import Ready
from fox_hand.demo.host.simulated_host import CHANGES_EVERY, Habits, SimulatedHost
from fox_hand.interchange.link.fox_hand_link import Link

SLOW = 0.2  # seconds
DEEPEST = 6  # levels that the list is indented by


@dataclass(frozen=True)
class HostRow:
    """A control in the list: where it hangs, and its first value that is not at rest."""

    rig: str
    control: str
    label: str
    depth: int
    value: str
    selected: bool


class HostDesk:
    """What a window of the host shows and does.

    Args:
        host: whose scene it is.
        folder: where its socket lies; None for the usual place.
    """

    def __init__(self, host: SimulatedHost, folder: Path | None = None) -> None:
        self.host, self.link = host, Link(host, folder)
        host.dropped = self.link.drop_all
        self._tree = [
            (rig, name, depth)
            for rig, figure in host.open.figures.items()
            for name, depth in _tree(figure.description)
        ]
        self._changed = time.monotonic()
        self._seen: object = None

    def start(self) -> None:
        self.link.start()

    def stop(self) -> None:
        """Put back what is shown, and hang up."""
        self.link.stop()
        self.host.stop()

    def pump(self) -> bool:
        """Do what was asked; whether anything may look otherwise now."""
        self.link.pump()
        if self.host.habits.changing and time.monotonic() - self._changed > CHANGES_EVERY:
            self._changed = time.monotonic()
            self.link.changed(self.host.change_something())
        now = self.host.turn, self.host.open.frame, tuple(self.link.guests)
        before, self._seen = self._seen, now
        return now != before

    # -- what is seen -------------------------------------------------------------------------

    @property
    def title(self) -> str:
        return f"{self.host.open.name}, v{int(self.host.version):02d}"

    @property
    def time(self) -> tuple[float, float, float]:
        """Frame, first and last."""
        now = self.host.open
        return now.frame, now.first, now.last

    @property
    def said(self) -> str:
        """What goes on, in a line."""
        guests = self.link.guests
        if not guests:
            return tr("nobody is linked")
        shown = sum(map(len, self.host.open.shown.values()))
        last = self.host.said[-1] if self.host.said else ""
        words = tr(
            "linked: {names}. Controls shown: {shown}, steps kept: {steps}",
            names=", ".join(guests),
            shown=shown,
            steps=len(self.host.said),
        )
        return f"{words}: {last}" if last else words

    def rows(self) -> list[HostRow]:
        """All controls, as they are seen now."""
        values = {rig: self.host.values(rig) for rig in self.host.open.figures}
        found: list[HostRow] = []
        for rig, control, depth in self._tree:
            held = values[rig].get(control, {})
            away = next(((c, v) for c, v in held.items() if abs(v) > 1e-3), None)
            value = f"{away[0]} {away[1]:.1f}" if away is not None else ""
            selected = control in self.host.open.selected[rig]
            plain = control.removeprefix(self.host.open.figures[rig].prefix)
            label = plain if depth else f"{self.host.open.figures[rig].prefix}{plain}"
            found.append(HostRow(rig, control, label, depth, value, selected))
        return found

    def ask_picture(self, width: int, height: int, ready: Ready) -> None:
        """Draw what is seen now; ``ready`` is called on another thread."""
        self.host.view.ask(self.host.open, width, height, ready)

    # -- what is done -------------------------------------------------------------------------

    def go(self, frame: float) -> None:
        """Another frame; whoever is linked hears of it."""
        self.link.end_previews()
        self.host.go(frame)
        self.link.moved_in_time()

    def select(self, rig: str, controls: list[str]) -> None:
        self.host.select(rig, controls)
        self.link.selected(rig)

    def step(self, *, back: bool) -> None:
        """The host's own undo and redo."""
        self.link.end_previews()
        scene = self.host.open
        name = scene.undo() if back else scene.redo()
        if name:
            self.host.written(tr("Undo {name}", name=name) if back else name)
            self.link.scene_changed("undone")

    def behave(self, **habits: bool) -> None:
        """Be slow, forgetful, stubborn or changing from now on."""
        slow = habits.pop("slow", None)
        now: Habits = replace(self.host.habits, **habits)
        if slow is not None:
            now = replace(now, slow=SLOW if slow else 0.0)
        self.host.habits = now

    @property
    def habits(self) -> dict[str, bool]:
        now = self.host.habits
        return {
            "slow": now.slow > 0,
            "forgetful": now.forgetful,
            "stubborn": now.stubborn,
            "changing": now.changing,
        }

    def edit(self) -> None:
        """Somebody works in the host: the head nods a little further."""
        self.link.changed(self.host.change_something())


def _tree(description: dict[str, object]) -> list[tuple[str, int]]:
    """Names of controls from the root down, with how deep they hang."""
    nodes = description["nodes"]
    assert isinstance(nodes, list)
    depth: dict[str, int] = {}
    found: list[tuple[str, int]] = []
    for node in nodes:
        above = depth.get(node.get("parent", ""), -1)
        is_control = node.get("control", True)
        depth[node["name"]] = above + 1 if is_control else above
        if is_control:
            found.append((node["name"], min(depth[node["name"]], DEEPEST)))
    return found
