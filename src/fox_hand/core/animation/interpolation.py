"""Keyed values over time: steps, straight lines and cubic splines, as glTF 2.0 defines them.

glTF 2.0 specification (Khronos), Appendix C: STEP holds a key until the next one, LINEAR goes
straight (rotations by slerp along the shortest way), CUBICSPLINE is the Hermite polynomial of two
values and the tangents between them, and rotations are normalised afterwards. Before the first and
after the last key its value holds.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum

import numpy as np
import numpy.typing as npt

from fox_hand.core.maths.rotations import Array, between, normalise
from fox_hand.core.model.skeleton import Index


class Ease(IntEnum):
    """How it goes from a key to the next."""

    STEP = 0
    LINEAR = 1
    SMOOTH = 2


@dataclass(frozen=True, eq=False)
class Track:
    """The keys of one channel.

    Args:
        frames: when, ascending, ``(K,)``.
        values: what, ``(K, w)``; unit quaternions ``(K, 4)`` for rotations.
        eases: how it goes on from each key, :class:`Ease` numbers ``(K,)``.
        rotation: whether the values are rotations.
        arrive, leave: tangents at the keys in units per frame, ``(K, w)``; None, or NaN in some
            rows, for those that :func:`smooth_tangents` gives.
    """

    frames: Array
    values: Array
    eases: npt.NDArray[np.uint8]
    rotation: bool = False
    arrive: Array | None = None
    leave: Array | None = None

    def __post_init__(self) -> None:
        count = len(self.frames)
        if not count or len(self.values) != count or len(self.eases) != count:
            raise ValueError("a track needs as many values and eases as keys, and at least one")
        if (np.diff(self.frames) <= 0).any():
            raise ValueError("the keys of a track must come one after the other")

    def sample(self, at: npt.ArrayLike) -> Array:
        """Values at some frames, ``(F, w)`` for ``(F,)``."""
        at = np.atleast_1d(np.asarray(at, dtype=np.float64))
        last = len(self.frames) - 1
        before = np.clip(np.searchsorted(self.frames, at, side="right") - 1, 0, last)
        after = np.minimum(before + 1, last)
        gap = np.where(after > before, self.frames[after] - self.frames[before], 1.0)
        part = np.clip((at - self.frames[before]) / gap, 0.0, 1.0)
        found = np.array(self.values[before], dtype=np.float64)
        moving = (after > before) & (at > self.frames[before])
        for ease, way in ((Ease.LINEAR, self._straight), (Ease.SMOOTH, self._curved)):
            rows = np.flatnonzero(moving & (self.eases[before] == ease))
            if len(rows):
                found[rows] = way(before[rows], after[rows], part[rows, None])
        return found

    def _straight(self, before: Index, after: Index, part: Array) -> Array:
        return straight(self.values[before], self.values[after], part, rotation=self.rotation)

    def _curved(self, before: Index, after: Index, part: Array) -> Array:
        arrive, leave = self.tangents()
        gap = (self.frames[after] - self.frames[before])[:, None]
        start, end = self.values[before], self.values[after]
        out, into = leave[before] * gap, arrive[after] * gap
        return curved(start, end, out, into, part, rotation=self.rotation)

    def tangents(self) -> tuple[Array, Array]:
        """Tangents with which keys are arrived at and left, each ``(K, w)``."""
        found = smooth_tangents(self.frames, self.values, rotation=self.rotation)
        return _or_own(found, self.arrive), _or_own(found, self.leave)


def _or_own(smooth: Array, own: Array | None) -> Array:
    return smooth if own is None else np.where(np.isnan(own), smooth, own)


def straight(start: Array, end: Array, part: Array, *, rotation: bool) -> Array:
    """Part of the way between values ``(N, w)``; ``part`` is ``(N, 1)``.

    Args:
        start, end: values ``(N, w)``.
        part: from 0 at the start to 1 at the end, ``(N, 1)``.
        rotation: whether they are quaternions (x, y, z, w).
    """
    return between(start, end, part) if rotation else np.asarray(start + part * (end - start))


def curved(
    start: Array, end: Array, leave: Array, arrive: Array, part: Array, *, rotation: bool
) -> Array:
    """The cubic Hermite polynomial between values ``(N, w)``; tangents are for the whole way.

    Args:
        start, end: values ``(N, w)``.
        leave, arrive: tangents ``(N, w)`` for the whole way.
        part: from 0 at the start to 1 at the end, ``(N, 1)``.
        rotation: whether they are quaternions (x, y, z, w); the shorter way is taken.
    """
    if rotation:  # the same rotation written the other way would take the long way round
        other = (start * end).sum(-1, keepdims=True) < 0
        end, arrive = np.where(other, -end, end), np.where(other, -arrive, arrive)
    t, t2, t3 = part, part**2, part**3
    found = (
        (2 * t3 - 3 * t2 + 1) * start
        + (t3 - 2 * t2 + t) * leave
        + (3 * t2 - 2 * t3) * end
        + (t3 - t2) * arrive
    )
    return normalise(found) if rotation else np.asarray(found)


def smooth_tangents(frames: Array, values: Array, *, rotation: bool = False) -> Array:
    """Tangents through keys that never overshoot: the weighted harmonic mean of the slopes beside
    a key (Fritsch and Butland 1984, SIAM J. Sci. Stat. Comput. 5), flat at the ends and where a
    value turns back, so that a pose that is held does not swing.

    Args:
        frames: ``(K,)``.
        values: ``(K, w)``.
        rotation: quaternions are first written so that neighbours lie on the same half.
    """
    found = np.zeros_like(values, dtype=np.float64)
    if len(frames) < 3:
        return found
    written = aligned(values) if rotation else values
    gaps = np.diff(frames)[:, None]
    slopes = np.diff(written, axis=0) / gaps
    one, other = slopes[:-1], slopes[1:]
    first, second = 2 * gaps[1:] + gaps[:-1], gaps[1:] + 2 * gaps[:-1]
    same = one * other > 0
    safe_one, safe_other = np.where(same, one, 1.0), np.where(same, other, 1.0)
    mean = (first + second) / (first / safe_one + second / safe_other)
    found[1:-1] = np.where(same, mean, 0.0)
    if rotation:  # beside its own value, written as that is
        found = np.where((written * values).sum(-1, keepdims=True) < 0, -found, found)
    return found


def aligned(turns: Array) -> Array:
    """The same rotations ``(K, 4)``, each on the same half as the one before."""
    dots = (turns[1:] * turns[:-1]).sum(-1)
    signs = np.concatenate([[1.0], np.where(dots < 0, -1.0, 1.0)])
    return np.asarray(turns * np.cumprod(signs)[:, None])
