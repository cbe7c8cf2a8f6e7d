"""Stretches of frames on which feet stand, as somebody sets them, and how well they do."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.state import State
from fox_hand.core.retarget.feet import GroundHold
from fox_hand.core.retarget.figure_motion import sole_level
from fox_hand.core.retarget.soles import Marks, Stands, runs, soles_of
from fox_hand.core.rig.rig import Rig

Spans = tuple[tuple[int, int], ...]  # first frame, and the one after the last
LOWER = 0.001  # metres: hips that come down less have not come down


def spans_of(stands: Stands, side: str) -> Spans:
    """On which frames a foot stands."""
    return tuple(runs(stands.feet(side)))


def with_spans(stands: Stands, spans: Mapping[str, Spans]) -> Stands:
    """The same feet standing on other frames. What bore a foot before bears it where it stood
    before; on fresh frames what bore it next to them does, and where it never stood the whole
    foot.

    Args:
        stands: as they were found.
        spans: by side; a foot that is not named stands as it did.
    """
    heels, balls = dict(stands.heels), dict(stands.balls)
    for side, wanted in spans.items():
        if side not in heels:
            continue
        before = heels[side], balls[side]
        after = np.zeros_like(before[0]), np.zeros_like(before[1])
        for first, last in wanted:
            _fill(before, after, max(first, 0), min(last, len(before[0])))
        heels[side], balls[side] = after
    return Stands(stands.floor, heels, balls)


def _fill(before: tuple[Marks, Marks], after: tuple[Marks, Marks], first: int, last: int) -> None:
    known = np.flatnonzero(before[0][first:last] | before[1][first:last]) + first
    for frame in range(first, last):
        if not len(known):
            after[0][frame] = after[1][frame] = True
            continue
        near = known[np.argmin(np.abs(known - frame))]
        after[0][frame], after[1][frame] = before[0][near], before[1][near]


@dataclass(frozen=True)
class Worst:
    """How far something went at most, metres, and on which frame."""

    far: float
    frame: int


@dataclass(frozen=True)
class GroundFigures:
    """How well feet stand.

    Args:
        slide: of a point of a foot from where it began to stand.
        below: of the lowest point of the feet under the ground.
        lower: of the hips, so that standing feet are within reach.
        lowered: on how many frames they come down.
    """

    slide: Worst
    below: Worst
    lower: Worst
    lowered: int


def ground_figures(
    rig: Rig, state: State, stands: Stands, held: GroundHold | None = None
) -> GroundFigures:
    """How well the feet of a figure stand where they should.

    Args:
        rig: the figure's.
        state: a batch of frames.
        stands: where they should.
        held: what holding them changed; None where nothing was held.
    """
    nodes = rig.evaluate(state).nodes
    soles = {s: sole for s, sole in soles_of(rig).items() if s in stands.heels}
    count = len(nodes)
    slid, lowest = np.zeros(count), np.full(count, np.inf)
    floor = min((sole_level(rig, side) for side in soles), default=0.0)
    for side, sole in soles.items():
        points = rig.body.seen(sole.points(nodes))
        for number, marks in ((0, stands.heels[side]), (1, stands.balls[side])):
            slid = np.maximum(slid, _from_the_first(points[:, number], marks))
        lowest = np.minimum(lowest, points[:, :, 1].min(1))
    under = np.maximum(floor - np.where(np.isfinite(lowest), lowest, floor), 0.0)
    hips = held.hips if held is not None else np.zeros(count)
    lowered = int((hips > LOWER).sum())
    return GroundFigures(_worst(slid), _worst(under), _worst(hips), lowered)


def _from_the_first(points: Array, marks: Marks) -> Array:
    """How far a point is along the ground from where each of its stands began, ``(F,)``."""
    found = np.zeros(len(points))
    for first, last in runs(marks):
        way = points[first:last, [0, 2]] - points[first, [0, 2]]
        found[first:last] = np.linalg.norm(way, axis=1)
    return found


def _worst(values: Array) -> Worst:
    if not len(values):
        return Worst(0.0, 0)
    frame = int(np.argmax(values))
    return Worst(float(values[frame]), frame)
