"""The scene of the simulated host: figures with values, keys on layers, spaces, and undo of its
own. It knows nothing of cards or links."""

from __future__ import annotations

import copy
from dataclasses import dataclass, field
from typing import Any

Values = dict[str, dict[str, float]]
BASE, FIX = "Base", "Hands fix"
STEPS = 100  # of undo
HALVINGS = 40  # of a span, in the search for the place of a frame on a curve
SPACES = {"handSpaceL": ("world", "chest"), "handSpaceR": ("world", "chest"), "armL": ("FK", "IK")}


@dataclass
class ChannelKeys:
    """Keys of one channel on one layer.

    Attributes:
        keys: frame -> value.
        eases: frame -> ``step``, ``line`` or ``curve``, of the way that begins there.
        handles: frame -> (in, out), each frames and value away from the key.
    """

    keys: dict[float, float] = field(default_factory=dict)
    eases: dict[float, str] = field(default_factory=dict)
    handles: dict[float, tuple[tuple[float, float], tuple[float, float]]] = field(
        default_factory=dict
    )

    def at(self, frame: float) -> float:
        """The value at a frame, held before the first and after the last key."""
        frames = sorted(self.keys)
        before = [f for f in frames if f <= frame]
        after = [f for f in frames if f > frame]
        if not before or not after:
            return self.keys[(before or after)[-1 if before else 0]]
        start, end = before[-1], after[0]
        ease = self.eases.get(start, "line")
        span = end - start
        share = (frame - start) / span
        if ease == "step":
            return self.keys[start]
        if ease == "line":
            return self.keys[start] + share * (self.keys[end] - self.keys[start])
        level = ((-span / 3, 0.0), (span / 3, 0.0))
        out, into = self.handles.get(start, level)[1], self.handles.get(end, level)[0]
        low, high = 0.0, 1.0
        for _ in range(HALVINGS):
            middle = (low + high) / 2
            there = _bezier((0.0, out[0] / span, 1.0 + into[0] / span, 1.0), middle)
            low, high = (middle, high) if there < share else (low, middle)
        first, last = self.keys[start], self.keys[end]
        return _bezier((first, first + out[1], last + into[1], last), (low + high) / 2)


def _bezier(points: tuple[float, float, float, float], t: float) -> float:
    a, b, c, d = points
    s = 1.0 - t
    return s * s * s * a + 3 * s * s * t * b + 3 * s * t * t * c + t * t * t * d


Layers = dict[str, dict[tuple[str, str], ChannelKeys]]


@dataclass
class HostFigure:
    """One control rig in the scene.

    Attributes:
        description: as a ``.foxrig.json`` has it.
        prefix: before all its names.
        still: values of what is not keyed.
        layers: keys, the lowest layer first; those above are added.
        spaces: what each switch is at.
        locked: channels that a stubborn host keeps.
    """

    description: dict[str, Any]
    prefix: str
    still: Values
    layers: Layers
    spaces: dict[str, str]
    locked: set[tuple[str, str]]

    @staticmethod
    def of(description: dict[str, Any], prefix: str) -> HostFigure:
        """At rest, with nothing keyed."""
        still: Values = {}
        for name, notes in description["controls"].items():
            channels = still.setdefault(name, {})
            for kind in notes["channels"]:
                channels.update(dict.fromkeys((f"{kind}.{axis}" for axis in "xyz"), 0.0))
            for setting in notes.get("settings", ()):
                channels[setting] = float(description["settings"][setting]["default"])
        little = next((n for n in still if "little_1" in n), next(iter(still)))
        locked = {(little, "turn.x")}
        spaces = {name: options[0] for name, options in SPACES.items()}
        return HostFigure(description, prefix, still, {BASE: {}, FIX: {}}, spaces, locked)

    def at(self, frame: float) -> Values:
        """All values at a frame."""
        found = {control: dict(channels) for control, channels in self.still.items()}
        for number, curves in enumerate(self.layers.values()):
            for (control, channel), curve in curves.items():
                below = found[control][channel] if number else 0.0
                found[control][channel] = below + curve.at(frame)
        return found


class HostScene:
    """What is open in the host."""

    def __init__(self, name: str, figures: dict[str, HostFigure]) -> None:
        self.name, self.figures = name, figures
        self.frame, self.first, self.last, self.rate = 1.0, 1.0, 72.0, 24.0
        self.selected: dict[str, list[str]] = {rig: [] for rig in figures}
        self.shown: dict[str, Values] = {}  # what is looked at over the scene, in no undo
        self.steps: list[tuple[str, Any]] = []
        self.undone: list[tuple[str, Any]] = []

    def values(self, rig: str) -> Values:
        """All values as they are seen now."""
        found = self.figures[rig].at(self.frame)
        for control, channels in self.shown.get(rig, {}).items():
            found[control].update(channels)
        return found

    def show(self, rig: str, values: Values) -> None:
        """Look at some values."""
        shown = self.shown.setdefault(rig, {})
        for control, channels in values.items():
            shown.setdefault(control, {}).update(channels)

    def begin(self, name: str) -> None:
        """An undo step begins here."""
        self.steps = [*self.steps[-STEPS:], (name, self._content())]
        self.undone = []

    def undo(self) -> str:
        """Take the last step back; its name, empty where there is none."""
        return self._step(self.steps, self.undone)

    def redo(self) -> str:
        return self._step(self.undone, self.steps)

    def _step(self, out: list[tuple[str, Any]], onto: list[tuple[str, Any]]) -> str:
        if not out:
            return ""
        name, content = out.pop()
        onto.append((name, self._content()))
        for rig, (still, layers, spaces) in content.items():
            figure = self.figures[rig]
            figure.still, figure.layers, figure.spaces = still, layers, spaces
        return name

    def _content(self) -> dict[str, Any]:
        return {
            rig: copy.deepcopy((f.still, f.layers, f.spaces)) for rig, f in self.figures.items()
        }

    def set(self, rig: str, control: str, channel: str, value: float, layer: str | None) -> None:
        """Set a value: a key of the frame on a layer, or where nothing is keyed the still one."""
        figure = self.figures[rig]
        if layer is None:
            known = figure.layers[BASE].get((control, channel))
            if known is None:
                figure.still[control][channel] = value
                return
            layer = BASE
        below = 0.0
        if layer != BASE:
            above = figure.layers[layer].pop((control, channel), None)
            below = figure.at(self.frame)[control][channel]
            if above is not None:
                figure.layers[layer][control, channel] = above
        curve = figure.layers[layer].setdefault((control, channel), ChannelKeys())
        curve.keys[self.frame] = value - below
        curve.eases.setdefault(self.frame, "curve")
