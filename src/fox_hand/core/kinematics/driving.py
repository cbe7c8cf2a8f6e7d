"""Drives: piecewise-linear curves from settings to settings and to channels of nodes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.skeleton import Index
from fox_hand.core.model.solvers import Drive, DrivenKind


def curve(points: tuple[tuple[float, float], ...], at: Array) -> Array:
    """Values ``(F,)`` of a piecewise-linear curve at ``at (F,)``, level outside its ends."""
    xs, ys = zip(*points, strict=True)
    return np.asarray(np.interp(at, xs, ys))


def output(drive: Drive, settings: Array) -> Array:
    """What a drive gives, ``(F,)``, from effective setting values ``(S, F)``."""
    value = curve(drive.points, settings[drive.source])
    return value if drive.times is None else value * settings[drive.times]


def driven_settings(drives: Sequence[Drive], settings: Array) -> Array:
    """Effective setting values ``(S, F)``: the drives onto settings added, in the rig's order."""
    onto = [d for d in drives if d.kind is DrivenKind.SETTING]
    if not onto:
        return settings
    found = settings.copy()
    for drive in onto:
        found[drive.target] += output(drive, found)
    return found


def moves_rest(drives: Sequence[Drive]) -> bool:
    """Whether some drive moves, turns or scales its node while every setting is zero."""
    onto = [d for d in drives if d.kind is not DrivenKind.SETTING]
    given = [0.0 if d.times is not None else float(curve(d.points, np.zeros(()))) for d in onto]
    neutral = [1.0 if d.kind is DrivenKind.SCALE else 0.0 for d in onto]
    return given != neutral


@dataclass(frozen=True, eq=False)
class DrivenNodes:
    """Drives onto nodes, all evaluated at once.

    A piecewise-linear curve is its first output plus, for each segment, the slope times how far
    the input has come into it.

    Args:
        nodes: the driven nodes, ``(K,)``.
        sources: rows of the driving settings, ``(D,)``.
        starts, lengths, slopes: of the segments, ``(D, P, 1)``; unused ones have no length.
        first: outputs before the first segment, ``(D, 1)``.
        times: rows of the settings that multiply, and which drives they belong to.
        moves, turns, scales: drives that add to a place, add to a turn and multiply a scale, each
            ``(3, Z)``: drive, slot of the node, axis.
    """

    nodes: Index
    sources: Index
    starts: Array
    lengths: Array
    slopes: Array
    first: Array
    times: tuple[Index, Index]
    moves: Index
    turns: Index
    scales: Index

    @staticmethod
    def of(drives: Sequence[Drive]) -> DrivenNodes:
        """Gather the drives that are onto nodes."""
        onto = [d for d in drives if d.kind is not DrivenKind.SETTING]
        slot = {node: i for i, node in enumerate(dict.fromkeys(d.target for d in onto))}
        most = max((len(d.points) for d in onto), default=1)
        starts, lengths, slopes = (np.zeros((len(onto), max(most - 1, 1), 1)) for _ in range(3))
        for row, drive in enumerate(onto):
            for k, ((x0, y0), (x1, y1)) in enumerate(pairwise(drive.points)):
                starts[row, k], lengths[row, k] = x0, x1 - x0
                slopes[row, k] = (y1 - y0) / (x1 - x0)

        def of_kind(kind: DrivenKind) -> Index:
            rows = [(r, slot[d.target], d.axis) for r, d in enumerate(onto) if d.kind is kind]
            return np.array(rows, dtype=np.intp).reshape(-1, 3).T

        multiplied = [(row, d.times) for row, d in enumerate(onto) if d.times is not None]
        return DrivenNodes(
            np.array(list(slot), dtype=np.intp),
            np.array([d.source for d in onto], dtype=np.intp),
            starts,
            lengths,
            slopes,
            np.array([[d.points[0][1]] for d in onto]).reshape(-1, 1),
            (
                np.array([t for _, t in multiplied], dtype=np.intp),
                np.array([row for row, _ in multiplied], dtype=np.intp),
            ),
            of_kind(DrivenKind.MOVE),
            of_kind(DrivenKind.TURN),
            of_kind(DrivenKind.SCALE),
        )

    def values(self, settings: Array) -> tuple[Array, Array, Array | None]:
        """Moves in metres, turns (Euler XYZ, radians) and scale factors that the drives give,
        each ``(K, 3, F)``; None where no drive is onto scale."""
        count = settings.shape[-1]
        into = settings[self.sources][:, None] - self.starts
        np.maximum(into, 0.0, out=into)
        np.minimum(into, self.lengths, out=into)
        into *= self.slopes
        given = self.first + into.sum(1)
        rows, at = self.times
        if len(rows):
            given[at] *= settings[rows]
        shape = (len(self.nodes), 3, count)
        move, turn = np.zeros(shape), np.zeros(shape)
        for onto, (row, slot, axis) in ((move, self.moves), (turn, self.turns)):
            np.add.at(onto, (slot, axis), given[row])
        if not self.scales.size:
            return move, turn, None
        scale = np.ones(shape)
        row, slot, axis = self.scales
        np.multiply.at(scale, (slot, axis), given[row])
        return move, turn, scale
