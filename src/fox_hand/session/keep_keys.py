"""Keys written down: one entry a channel, so that two versions of a shot are easy to compare."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec
import numpy as np

from fox_hand.core.keys import Keys, Lane, LaneKind, Line, Origin
from fox_hand.core.rotations import normalise
from fox_hand.core.tracks import Ease
from fox_hand.session.timing import Timing

EASES = {Ease.STEP: "h", Ease.LINEAR: "l", Ease.SMOOTH: "s"}
LETTERS = {letter: ease for ease, letter in EASES.items()}


class KeptLine(msgspec.Struct, omit_defaults=True):
    """The keys of one channel.

    ``eases`` has a letter for each key: h holds, l goes straight, s goes smoothly. ``origins`` are
    numbers of cards, 0 for none; left out where all are. ``euler`` is in radians.
    """

    kind: LaneKind
    name: str
    frames: list[float]
    values: list[list[float]]
    eases: str
    origins: list[int] = []
    euler: list[list[float]] = []


class KeptOrigin(msgspec.Struct, omit_defaults=True):
    """A card that keys came from."""

    number: int
    card: str
    name: str
    revision: int = 1
    amount: float = 1.0
    side: str = "captured"
    whole: bool = True


class KeptTime(msgspec.Struct, omit_defaults=True):
    """The range, the rate and the marks of a shot."""

    first: int = 1
    last: int = 72
    rate: float = 24.0
    frame: float = 1.0
    marks: list[int] = []
    ease: str = "s"


def kept_lines(keys: Keys) -> list[KeptLine]:
    """All lines, in a steady order."""
    return [
        KeptLine(
            lane.kind,
            lane.name,
            line.frames.tolist(),
            line.values.tolist(),
            "".join(EASES[Ease(e)] for e in line.eases.tolist()),
            line.origins.tolist() if line.origins.any() else [],
            line.euler.tolist() if line.euler is not None and line.euler.any() else [],
        )
        for lane, line in sorted(keys.lines.items())
    ]


def kept_origins(keys: Keys) -> list[KeptOrigin]:
    """The cards they came from."""
    return [
        KeptOrigin(n, o.card, o.name, o.revision, o.amount, o.side, o.whole)
        for n, o in sorted(keys.origins.items())
    ]


def keys_from(lines: Sequence[KeptLine], origins: Sequence[KeptOrigin]) -> Keys:
    """The keys that were written down. What does not fit together, as after editing by hand, is
    left out line by line."""
    found = {}
    for kept in lines:
        line = _line(kept)
        if line is not None:
            found[Lane(kept.kind, kept.name)] = line
    known = {
        o.number: Origin(o.card, o.name, o.revision, o.amount, o.side, o.whole) for o in origins
    }
    return Keys(found, known)


def _line(kept: KeptLine) -> Line | None:
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
    if kept.kind is LaneKind.TURN:
        off = np.abs(np.linalg.norm(values, axis=1) - 1.0) > 1e-6
        values[off] = normalise(values[off])
        fits = len(kept.euler) == count and all(len(e) == 3 for e in kept.euler)
        euler = np.array(kept.euler) if fits else np.zeros((count, 3))
    return Line(frames, values, eases, origins, euler).taken(order)


def kept_time(timing: Timing) -> KeptTime:
    """When everything happens."""
    return KeptTime(
        timing.first,
        timing.last,
        timing.rate,
        timing.frame,
        sorted(timing.marks),
        EASES[timing.ease],
    )


def wake_time(timing: Timing, kept: KeptTime) -> None:
    """As it was written down."""
    timing.set_range(kept.first, kept.last)
    timing.set_rate(kept.rate)
    timing.put(kept.frame)
    timing.set_marks(kept.marks)
    timing.work_with(ease=LETTERS.get(kept.ease, Ease.SMOOTH))
    timing.moved.emit()
