"""Keys written down: one entry a channel, so that two versions of a file are easy to compare."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from weakref import WeakKeyDictionary

import msgspec
import numpy as np

from fox_hand.base.files.documents import Number
from fox_hand.core.animation.curves import ChannelCurve, ChannelId, ChannelKind
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.maths.rotations import Array, normalise

EASES = {Ease.STEP: "h", Ease.LINEAR: "l", Ease.SMOOTH: "s"}
LETTERS = {letter: ease for ease, letter in EASES.items()}


class KeptLine(msgspec.Struct, omit_defaults=True):
    """The keys of one channel.

    ``eases`` has a letter for each key: h holds, l goes straight, s goes smoothly. ``origins`` are
    numbers of cards, 0 for none; left out where all are. ``euler`` is in radians. ``slopes`` has
    for each smooth key with slopes of its own how it is arrived at and left, in units a frame one
    after the other, and an empty list for every other key; null for a slope that the neighbours
    give.
    """

    kind: ChannelKind
    name: str
    frames: list[Number]
    values: list[list[Number]]
    eases: str
    origins: list[int] = []
    euler: list[list[Number]] = []
    slopes: list[list[Number | None]] = []


class LineBook:
    """Writes lines down. They never change, so one that was written before needs no second look.

    What is written takes many times the room of a line, so only what was written since the turn
    before last is remembered; the history keeps lines for long.
    """

    def __init__(self) -> None:
        self._known: WeakKeyDictionary[ChannelCurve, KeptLine] = WeakKeyDictionary()
        self._used: WeakKeyDictionary[ChannelCurve, KeptLine] = WeakKeyDictionary()

    def turn(self) -> None:
        """Everything is written; what was not asked for is forgotten."""
        self._known, self._used = self._used, WeakKeyDictionary()

    def learn(self, other: LineBook) -> None:
        """Know what another knows, too."""
        for known in (other._known, other._used):
            self._used.update(known)

    def write(self, lines: Mapping[ChannelId, ChannelCurve]) -> list[KeptLine]:
        """All lines, in a steady order."""
        return [self._one(channel_id, line) for channel_id, line in sorted(lines.items())]

    def _one(self, channel_id: ChannelId, line: ChannelCurve) -> KeptLine:
        known = self._used.get(line) or self._known.get(line)
        if known is None or (known.kind, known.name) != (channel_id.kind, channel_id.name):
            known = _kept(channel_id, line)
        self._used[line] = known
        return known


def kept_lines(lines: Mapping[ChannelId, ChannelCurve]) -> list[KeptLine]:
    """All lines, in a steady order."""
    return LineBook().write(lines)


def _kept(channel_id: ChannelId, line: ChannelCurve) -> KeptLine:
    return KeptLine(
        channel_id.kind,
        channel_id.name,
        line.frames.tolist(),
        line.values.tolist(),
        "".join(EASES[Ease(e)] for e in line.eases.tolist()),
        line.origins.tolist() if line.origins.any() else [],
        line.euler.tolist() if line.euler is not None and line.euler.any() else [],
        _kept_slopes(line),
    )


def _kept_slopes(line: ChannelCurve) -> list[list[float | None]]:
    if line.slopes is None or np.isnan(line.slopes).all():
        return []
    rows = line.slopes.reshape(len(line), -1)
    return [
        [] if np.isnan(row).all() else [None if np.isnan(n) else n for n in row.tolist()]
        for row in rows
    ]


def _slopes(kept: KeptLine) -> Array | None:
    """The slopes, ``(K, 2, w)``; of keys whose numbers do not fit those the neighbours give."""
    count, width = len(kept.frames), kept.kind.width
    if len(kept.slopes) != count:
        return None
    found = np.full((count, 2 * width), np.nan)
    for row, numbers in enumerate(kept.slopes):
        if len(numbers) == 2 * width:
            found[row] = [np.nan if n is None else n for n in numbers]
    return found.reshape(count, 2, width)


def lines_from(kept: Sequence[KeptLine]) -> dict[ChannelId, ChannelCurve]:
    """The lines that were written down. What does not fit together, as after editing by hand, is
    left out line by line."""
    found = {}
    for one in kept:
        line = _line(one)
        if line is not None:
            found[ChannelId(one.kind, one.name)] = line
    return found


def _line(kept: KeptLine) -> ChannelCurve | None:
    count, width = len(kept.frames), kept.kind.width
    if not count or len(kept.values) != count or any(len(v) != width for v in kept.values):
        return None
    frames, values = np.array(kept.frames), np.array(kept.values)
    if not (np.isfinite(frames).all() and np.isfinite(values).all()):
        return None
    order = np.argsort(frames, kind="stable")
    order = order[np.append(np.diff(frames[order]) > 0, True)]
    letters = (kept.eases + "s" * count)[:count]
    eases = np.array([LETTERS.get(letter, Ease.SMOOTH) for letter in letters], np.uint8)
    origins = np.array(kept.origins if len(kept.origins) == count else [0] * count, np.intp)
    euler = None
    if kept.kind is ChannelKind.TURN:
        off = np.abs(np.linalg.norm(values, axis=1) - 1.0) > 1e-6
        values[off] = normalise(values[off])
        fits = len(kept.euler) == count and all(len(e) == 3 for e in kept.euler)
        euler = np.array(kept.euler) if fits else np.zeros((count, 3))
    return ChannelCurve(frames, values, eases, origins, euler, _slopes(kept)).taken(order)
