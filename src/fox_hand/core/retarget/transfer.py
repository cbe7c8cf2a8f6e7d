"""One figure follows another through time: each limb turns as the other's does in the world.

What is carried over is the whole change of a limb from rest, seen in the figure's own directions.
So neither axes nor facing matter, and what joints between do that have no partner is not lost: the
next one with a partner holds it too.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from fox_hand.core.animation.performance import Performance
from fox_hand.core.maths.rotations import Array, to_matrix
from fox_hand.core.model.controls import Channel, ControlKind
from fox_hand.core.model.state import State
from fox_hand.core.pose.pose import ChannelFilter, take
from fox_hand.core.retarget.feet import GroundHold, hold_feet
from fox_hand.core.retarget.figure_motion import FigureMotion, leg_measure, role_nodes, sole_level
from fox_hand.core.retarget.hands import join_hands, lay_hands
from fox_hand.core.retarget.reach import ARM
from fox_hand.core.retarget.rest_alignment import Stance, bone_ways, stance_of, still
from fox_hand.core.retarget.soles import Stands, heights_of, stands_of
from fox_hand.core.retarget.stand_edits import Spans, with_spans
from fox_hand.core.retarget.standing import standing
from fox_hand.core.retarget.turning import moved, turned
from fox_hand.core.rig.rig import Rig

LEGS = ("leftUpperLeg", "rightUpperLeg")


@dataclass(frozen=True)
class FollowOptions:
    """How a figure follows another.

    Args:
        feet: whether feet hold the ground where the other's do.
        hands: whether hands meet and lie on the body where the other's do.
        stretch: whether ways are scaled by the length of the legs.
        stance: whether it stands as the other rests first.
        starts: whether it begins where it stands, instead of as far from there as the other
            begins from where it rests.
        ahead: whether it is turned about so that it begins looking ahead.
        spans: by side on which frames feet stand, where somebody says it.
    """

    feet: bool = True
    hands: bool = True
    stretch: bool = True
    stance: bool = True
    starts: bool = False
    ahead: bool = False
    spans: Mapping[str, Spans] = field(default_factory=dict)


@dataclass(frozen=True, eq=False)
class Transferred:
    """What came out.

    Args:
        state: a batch ``(F, C, ...)``.
        rows: controls that got something, by row the source's row.
        legs: how many times longer the legs are; 1 where that is not known.
        stance: how the figure stood as the other rests.
        stands: when the source's feet stand; None where its feet are not known.
        held: what holding the ground changed; None where nothing was held.
        heights: by side how high the source's foot is over its ground, metres ``(F,)``.
        facing: radians that the source is turned to its left of ahead as it begins.
        faces: names of the source's settings that some setting follows.
    """

    state: State
    rows: Mapping[int, int]
    legs: float
    stance: Stance
    stands: Stands | None
    held: GroundHold | None
    heights: Mapping[str, Array] = field(default_factory=dict)
    facing: float = 0.0
    faces: frozenset[str] = frozenset()


def follow(
    performance: Performance,
    rig: Rig,
    pairs: Mapping[int, int],
    options: FollowOptions | None = None,
) -> Transferred:
    """Let a character follow a performance of another one.

    Args:
        performance: the source's frames.
        rig: the character.
        pairs: by row of its controls the source's row that it follows; joints both.
        options: see there.
    """
    options, performance = options or FollowOptions(), standing(performance)
    source = performance.rig
    motion = FigureMotion.of(source, performance.states, performance.rate)
    facing = motion.facing(0)
    if options.ahead:
        motion = motion.turned(-facing)
    stance = _stance(source, rig, pairs) if options.stance else still(rig)
    state = _turns(motion, rig, pairs, stance, _fk(rig, pairs, len(motion)))
    legs, stands = (leg_measure(source), leg_measure(rig)), None
    scale = rig.height / source.height
    if legs[0] is not None and legs[1] is not None:
        scale = legs[1].bones / legs[0].bones
        stands = with_spans(stands_of(motion, legs[0].whole), options.spans)
    scale = scale if options.stretch else 1.0
    state = _placed(motion, rig, pairs, state, scale, stands, options)
    if options.hands and all(row in pairs for row in _arm_rows(rig)):
        state = lay_hands(rig, join_hands(rig, state, motion), performance)
    held = None
    if options.feet and stands is not None:
        state, held = hold_feet(rig, state, stands, performance.rate)
    heights = heights_of(motion, stands.floor) if stands is not None else {}
    return Transferred(state, dict(pairs), scale, stance, stands, held, heights, facing)


def _arm_rows(rig: Rig) -> list[int]:
    """Controls of both arms that turn when hands meet."""
    arms = {side + part for side in ("left", "right") for part in ARM}
    return [row for row, control in enumerate(rig.controls) if control.role in arms]


def _fk(rig: Rig, pairs: Mapping[int, int], frames: int) -> State:
    """Rest, with limbs that get joints following their joints."""
    state = State(*(np.broadcast_to(v, (frames, *v.shape)).copy() for v in rig.rest.arrays()))
    nodes = {rig.controls[row].node for row in pairs}
    for limb in rig.limbs:
        if limb.blend is not None and nodes & {limb.upper, limb.lower, limb.end}:
            state.settings[:, limb.blend] = 0.0
    return state


def _stance(source: Rig, rig: Rig, pairs: Mapping[int, int]) -> Stance:
    """How the character turns to stand as the source rests."""
    rest = take(source, source.rest, ChannelFilter.of(source, sorted(set(pairs.values()))))
    names = {source.controls[there].name: rig.controls[here].name for here, there in pairs.items()}
    facing = rig.body.axes @ source.body.axes.T
    more = {role: facing @ way for role, way in bone_ways(source).items()}
    return stance_of(rig, rest, names, facing, more)


def _turns(
    motion: FigureMotion, rig: Rig, pairs: Mapping[int, int], stance: Stance, state: State
) -> State:
    """Every limb turned as the source's is."""
    source, frames = motion.rig, len(motion)
    rows = {
        rig.controls[row].node: row for row in pairs if Channel.TURN in rig.controls[row].channels
    }
    there = [source.controls[pairs[row]].node for row in rows.values()]
    axes = rig.body.axes
    wanted = dict(zip(rows, np.moveaxis(axes @ motion.changes(there) @ axes.T, 1, 0), strict=True))
    before, into = to_matrix(stance.before), to_matrix(stance.turns)
    rest = rig.skeleton.rest_world
    ways: list[Array] = []
    turn = state.turn.copy()
    for node, parent in enumerate(rig.skeleton.parents):
        above = ways[parent] if parent >= 0 else np.tile(np.eye(3), (frames, 1, 1))
        if node in wanted:
            way = wanted[node] @ into[node]
            row = rows[node]
            turn[:, row] = turned(rig, row, rig.rest.turn[row], rest, above, way)
        else:
            way = above @ (before[node].T @ into[node])
        ways.append(way)
    return state.with_(turn=turn)


def _placed(
    motion: FigureMotion,
    rig: Rig,
    pairs: Mapping[int, int],
    state: State,
    scale: float,
    stands: Stands | None,
    options: FollowOptions,
) -> State:
    """The hips as high over the ground as the source's, and as far along, by the legs: what the
    bones span is scaled, and the ankle is as high over the sole as it is."""
    row = _root_row(rig, pairs)
    if row is None:
        return state
    here, there = role_nodes(rig), role_nodes(motion.rig)
    at = rig.evaluate(state).nodes
    node = rig.controls[row].node
    theirs = motion.rig.controls[pairs[row]].node
    if stands is not None and all(r in here and r in there for r in LEGS):
        from_floor = motion.places[:, [there[r] for r in LEGS]].mean(1)
        theirs_high, mine_high = leg_measure(motion.rig), leg_measure(rig)
        assert theirs_high is not None
        assert mine_high is not None
        from_floor[:, 1] -= stands.floor + theirs_high.ankle
        if options.starts:
            from_floor[:, [0, 2]] -= from_floor[0, [0, 2]]
        goal = from_floor * scale
        goal[:, 1] += _own_floor(rig) + mine_high.ankle
        own = rig.body.seen(at[:, :, :3, 3])[:, [here[r] for r in LEGS]].mean(1)
        if options.starts:
            goal[:, [0, 2]] += rig.body.seen(rig.skeleton.rest_world[:, :3, 3])[
                [here[r] for r in LEGS]
            ].mean(0)[[0, 2]]
        mine = rig.body.seen(at[:, node, :3, 3]) + goal - own
    else:
        gone = motion.places[:, theirs] - motion.rest_places[theirs]
        if options.starts:
            gone[:, [0, 2]] -= gone[0, [0, 2]]
        mine = rig.body.seen(rig.skeleton.rest_world[node, :3, 3]) + gone * scale
    places = mine @ rig.body.axes.T + np.array(rig.body.middle)
    move = state.move.copy()
    move[:, row] = moved(rig, row, at, places)
    return state.with_(move=move)


def _root_row(rig: Rig, pairs: Mapping[int, int]) -> int | None:
    """The control that carries the whole figure along: the hips, else the topmost one."""
    able = [
        row
        for row in pairs
        if Channel.MOVE in rig.controls[row].channels
        and rig.controls[row].kind is ControlKind.JOINT
    ]
    hips = [row for row in able if rig.controls[row].role == "hips"]
    tops = [row for row in able if rig.parents[row] < 0 or rig.parents[row] not in pairs]
    return next(iter(hips or tops), None)


def _own_floor(rig: Rig) -> float:
    """How high the ground is that the character stands on at rest, in its own directions."""
    known = role_nodes(rig)
    return min(sole_level(rig, s) for s in ("left", "right") if f"{s}Foot" in known)
