"""Feet that hold the ground: where a foot stands it neither slides nor sinks nor floats.

A foot stands on its heel, its ball, or both. Where it begins to stand, the point it stands on is
fixed; where it rolls from one point to the other, the next one is fixed where it is by then. The
leg's own two bones reach for it, bent as they were. Between two stands the difference fades out
and in. Who stands on the balls of larger feet stands higher, so the hips go up with the ankles;
where a leg would have to be longer than it is, they come down.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.controls import Channel
from fox_hand.core.model.state import State
from fox_hand.core.retarget.figure_motion import role_nodes
from fox_hand.core.retarget.reach import FULL, LEG, Reach
from fox_hand.core.retarget.soles import Marks, Sole, Stands, runs, soles_of
from fox_hand.core.retarget.turning import moved
from fox_hand.core.rig.rig import Rig

FADE = 0.25  # seconds over which a difference fades
SINKS = 0.004  # of the figure's height: a sole may lie this far under the ground
DRIFTS = 0.15  # of the figure's height: what slides further while it stands is left sliding
FOLDS = 0.85  # from hip to ankle a leg keeps this share at least of what it spanned before
HEEL, BALL = 0, 1


@dataclass(frozen=True, eq=False)
class GroundHold:
    """What holding the ground changed.

    Args:
        feet: by side how far the ankle was moved, metres ``(F,)``.
        hips: how far the hips came down, metres ``(F,)``.
        slid: by side how far the standing point slid from frame to frame before, metres ``(F,)``.
        sank: how far the lowest point of the feet was under the ground before, metres ``(F,)``.
    """

    feet: Mapping[str, Array]
    hips: Array
    slid: Mapping[str, Array]
    sank: Array

    @property
    def moved(self) -> Array:
        """How far a foot or the hips were moved at most, metres ``(F,)``."""
        return np.asarray(np.max([*self.feet.values(), np.abs(self.hips)], axis=0))


def hold_feet(rig: Rig, state: State, stands: Stands, rate: float) -> tuple[State, GroundHold]:
    """The figure with its feet on the ground where they stand.

    Args:
        rig: the figure's.
        state: a batch of frames, legs following their joints.
        stands: when feet stand, by the figure that was followed.
        rate: frames a second.
    """
    nodes = rig.evaluate(state).nodes
    soles = {s: sole for s, sole in soles_of(rig).items() if s in stands.heels}
    legs = {s: leg for s in soles if (leg := Reach.of(rig, s, LEG)) is not None}
    if not legs:
        none = np.zeros(len(nodes))
        return state, GroundHold({}, none, {}, none)
    floor = min(_level(rig, sole) for sole in soles.values())
    points = {s: rig.body.seen(soles[s].points(nodes)) for s in legs}
    shifts = {
        s: _shifts(points[s], stands.heels[s], stands.balls[s], floor, rig.height, rate)
        for s in legs
    }
    places = rig.body.seen(nodes[:, :, :3, 3])
    goals = {s: places[:, legs[s].end] + shifts[s] for s in legs}
    lift = _lifted(places, goals, legs, shifts, stands, rate)
    places[:, :, 1] += lift[:, None]
    lower = _lowered(places, goals, legs, stands, rate)
    found = _with_hips(rig, state, nodes, lift - lower)
    for side, leg in legs.items():
        found = leg.reaching(rig, found, rig.evaluate(found).nodes, goals[side])
    slid = {s: _slid(points[s], stands, s) for s in legs}
    lowest = np.min([p[:, :, 1].min(1) for p in points.values()], axis=0)
    sank = np.maximum(floor - lowest, 0.0)
    return found, GroundHold(
        {s: np.linalg.norm(shifts[s], axis=1) for s in legs}, lower, slid, sank
    )


def _level(rig: Rig, sole: Sole) -> float:
    rest = rig.skeleton.rest_world[None]
    return float(rig.body.seen(sole.points(rest))[0, :, 1].min())


def _slid(points: Array, stands: Stands, side: str) -> Array:
    found = np.zeros(len(points))
    for number, marks in ((HEEL, stands.heels[side]), (BALL, stands.balls[side])):
        both = marks[1:] & marks[:-1]
        steps = np.linalg.norm(np.diff(points[:, number], axis=0), axis=1)
        found[1:] = np.where(both, np.maximum(found[1:], steps), found[1:])
    return found


# -- where feet go ----------------------------------------------------------------------------


def _shifts(
    points: Array, heel: Marks, ball: Marks, floor: float, height: float, rate: float
) -> Array:
    """By how much an ankle moves at each frame, ``(F, 3)`` in the figure's own directions."""
    shifts = np.zeros((len(points), 3))
    stands = runs(heel | ball)
    for first, last in stands:
        _fix(shifts, points, heel, ball, first, last, floor, height)
    _fade(shifts, stands, max(round(FADE * rate), 1))
    lowest = (points[:, :, 1] + shifts[:, None, 1]).min(1)
    allowed = floor - SINKS * height
    shifts[:, 1] += np.maximum(allowed - lowest, 0.0)
    return shifts


def _fix(
    shifts: Array,
    points: Array,
    heel: Marks,
    ball: Marks,
    first: int,
    last: int,
    floor: float,
    height: float,
) -> None:
    """One stand: the point that bears it stays where it is, one after the other."""
    marks = (heel, ball)
    bears = HEEL if heel[first] else BALL
    fixed = _first_place(points, marks[bears], bears, first, last, height)
    for frame in range(first, last):
        if not marks[bears][frame]:
            bears = BALL if bears == HEEL else HEEL
            fixed = points[frame - 1, bears] + shifts[frame - 1]
        gap = fixed - points[frame, bears]
        gap[1] = floor - points[frame, bears, 1]
        shifts[frame] = gap


def _first_place(
    points: Array, marks: Marks, bears: int, first: int, last: int, height: float
) -> Array:
    """Where a stand begins: the middle of where the point would be while it bears; where it
    would slide a long way, its first place."""
    until = next((f for f in range(first, last) if not marks[f]), last)
    seen = points[first:until, bears]
    if np.ptp(seen, axis=0).max() > DRIFTS * height:
        return np.asarray(seen[0])
    return np.asarray(np.median(seen, axis=0))


def _fade(shifts: Array, stands: list[tuple[int, int]], frames: int) -> None:
    """Between stands the difference goes out smoothly and comes in smoothly."""
    count = len(shifts)
    ends = [(None, 0), *((s, s[1]) for s in stands)]
    for number, (before, start) in enumerate(ends):
        after = stands[number] if number < len(stands) else None
        stop = after[0] if after is not None else count
        length = stop - start
        if length <= 0:
            continue
        steps = np.arange(1, length + 1, dtype=np.float64)
        over = min(frames, length + 1)
        if before is not None:
            shifts[start:stop] += (1 - _smooth(steps / over))[:, None] * shifts[start - 1]
        if after is not None:
            left = length + 1 - steps
            shifts[start:stop] += (1 - _smooth(left / over))[:, None] * shifts[stop]


def _smooth(part: Array) -> Array:
    part = np.clip(part, 0.0, 1.0)
    return part * part * (3.0 - 2.0 * part)


# -- legs and hips ----------------------------------------------------------------------------


def _lifted(
    places: Array,
    goals: Mapping[str, Array],
    legs: Mapping[str, Reach],
    shifts: Mapping[str, Array],
    stands: Stands,
    rate: float,
) -> Array:
    """How far the hips go up ``(F,)`` with ankles that stand higher than the other's do: by the
    foot that goes up least of those that stand, and so far that no leg folds much more than it
    did."""
    count = len(next(iter(shifts.values())))
    least = np.full(count, np.inf)
    for side, shift in shifts.items():
        least = np.where(stands.feet(side), np.minimum(least, shift[:, 1]), least)
    standing = np.isfinite(least)
    found = np.zeros((count, 3))
    found[standing, 1] = np.maximum(least[standing], 0.0)
    for side, leg in legs.items():
        before = np.linalg.norm(places[:, leg.upper] - places[:, leg.end], axis=1)
        way = places[:, leg.upper] - goals[side]
        flat = np.hypot(way[:, 0], way[:, 2])
        room = np.sqrt(np.maximum((FOLDS * before) ** 2 - flat**2, 0.0))
        needed = np.where(stands.feet(side), room - way[:, 1], 0.0)
        found[:, 1] = np.maximum(found[:, 1], needed)
    _fade(found, runs(standing), max(round(FADE * rate), 1))
    return _smoothed(found[:, 1], rate)


def _smoothed(values: Array, rate: float) -> Array:
    """The mean over a fifth of a second around each frame."""
    width = max(round(0.1 * rate), 1)
    if len(values) == 1:
        return values
    around = np.pad(values, width, mode="edge")
    return np.asarray(np.lib.stride_tricks.sliding_window_view(around, 2 * width + 1).mean(1))


def _lowered(
    places: Array,
    goals: Mapping[str, Array],
    legs: Mapping[str, Reach],
    stands: Stands,
    rate: float,
) -> Array:
    """How far the hips come down ``(F,)`` so that standing feet are within reach, smoothly."""
    lower = np.zeros(len(places))
    for side, leg in legs.items():
        way = places[:, leg.upper] - goals[side]
        reach = leg.length(places) * FULL
        flat = np.hypot(way[:, 0], way[:, 2])
        room = np.sqrt(np.maximum(reach**2 - flat**2, 0.0))
        lower = np.maximum(lower, np.where(stands.feet(side), way[:, 1] - room, 0.0))
    width = max(round(0.1 * rate), 1)
    if not lower.any() or len(lower) == 1:
        return np.maximum(lower, 0.0)
    around = np.pad(np.maximum(lower, 0.0), 2 * width, mode="edge")
    views = np.lib.stride_tricks.sliding_window_view
    highest = views(around, 2 * width + 1).max(1)
    return np.asarray(views(highest, 2 * width + 1).mean(1))


def _with_hips(rig: Rig, state: State, nodes: Array, up: Array) -> State:
    hips = role_nodes(rig).get("hips")
    if hips is None or not up.any():
        return state
    row = rig.row_of_node[hips]
    if Channel.MOVE not in rig.controls[row].channels:
        return state
    places = nodes[:, hips, :3, 3] + up[:, None] * rig.body.axes[:, 1]
    move = state.move.copy()
    move[:, row] = moved(rig, row, nodes, places)
    return state.with_(move=move)
