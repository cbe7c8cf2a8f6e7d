"""Hands that meet, and hands on the body, where the other figure's meet and lie there."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from fox_hand.core.animation.performance import Performance
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.controls import ControlKind, Region
from fox_hand.core.model.skeleton import Index
from fox_hand.core.model.state import State
from fox_hand.core.retarget.arm_places import hand_length, laid_wrists, touches_of
from fox_hand.core.retarget.figure_motion import FigureMotion, role_nodes
from fox_hand.core.retarget.reach import ARM, Reach
from fox_hand.core.rig.rig import Rig

MEET, APART = 0.08, 0.16  # of the height: nearer than the first they are together, beyond apart
NEARBY = 0.24  # of the height: a wrist further from all joints of the body touches nothing
MOST, EVERY = 60, 3  # frames that are looked at closely, and of the flesh every n-th vertex
BODY = (Region.TORSO, Region.HEAD, Region.EYES, Region.MOUTH, Region.LEGS)
SIDES = ("left", "right")


def lay_hands(rig: Rig, state: State, performance: Performance) -> State:
    """The figure with its hands on its body where the other's lie on theirs. Frames between those
    that are looked at closely go straight.

    Args:
        rig: the figure's.
        state: a batch of frames, arms following their joints.
        performance: what is followed, frame by frame.
    """
    if not performance.rig.parts or not rig.parts:
        return state
    near = _near(performance)
    if not near.any():
        return state
    looked, frames = _looked_at(near), np.arange(len(near))
    for side, shift in _shifts(rig, state, performance, looked).items():
        limb = Reach.of(rig, side, ARM)
        between = np.stack([np.interp(frames, looked, shift[:, i]) for i in range(3)], 1)
        between[~near] = 0.0
        if limb is not None:
            state = _shifted(rig, state, limb, between)
    return state


def _shifts(rig: Rig, state: State, performance: Performance, looked: Index) -> dict[str, Array]:
    """By side how far the wrist is to go on each frame that is looked at, ``(K, 3)``."""
    known, source = role_nodes(rig), performance.rig
    found = {side: np.zeros((len(looked), 3)) for side in SIDES}
    for number, frame in enumerate(looked.tolist()):
        touches = touches_of(source, source.evaluate(_frame(performance.states, frame)), EVERY)
        if touches:
            here = rig.evaluate(_frame(state, frame))
            for side, place in laid_wrists(rig, here, touches, EVERY).items():
                own = rig.body.seen(here.nodes[known[f"{side}Hand"], :3, 3])
                found[side][number] = place - own
    return {side: shift for side, shift in found.items() if np.abs(shift).max(initial=0.0) > 0}


def _shifted(rig: Rig, state: State, limb: Reach, shift: Array) -> State:
    """The arm reaching for where its wrist is and a way from there ``(F, 3)``; frames without one
    stay bit for bit."""
    nodes = rig.evaluate(state).nodes
    moved = limb.reaching(rig, state, nodes, _wrist(rig, nodes, limb) + shift)
    turn, frames = state.turn.copy(), np.flatnonzero(np.abs(shift).max(1) > 0)
    for row in limb.rows:
        turn[frames, row] = moved.turn[frames, row]
    return state.with_(turn=turn)


def _near(performance: Performance) -> npt.NDArray[np.bool_]:
    """On which frames some wrist is near the body, ``(F,)``."""
    rig, known = performance.rig, role_nodes(performance.rig)
    joints = [c for c in rig.controls if c.kind is ControlKind.JOINT and c.region in BODY]
    wrists = [known[f"{side}Hand"] for side in SIDES if f"{side}Hand" in known]
    at = rig.evaluate(performance.states).nodes[:, :, :3, 3]
    found = np.zeros(len(at), bool)
    for wrist in wrists:
        for joint in joints:
            far = np.linalg.norm(at[:, joint.node] - at[:, wrist], axis=1)
            found |= far < NEARBY * rig.height
    return found


def _looked_at(near: npt.NDArray[np.bool_]) -> Index:
    """Frames that are looked at closely: as many as allowed, and the ends of every stretch."""
    frames = np.flatnonzero(near)
    edges = np.flatnonzero(np.diff(np.concatenate([[False], near, [False]]).astype(np.int8)))
    ends = np.concatenate([edges[::2], edges[1::2] - 1])
    step = max(int(np.ceil(len(frames) / MOST)), 1)
    return np.unique(np.concatenate([frames[::step], ends]))


def _frame(states: State, frame: int) -> State:
    return State(*(values[frame] for values in states.arrays()))


def join_hands(rig: Rig, state: State, motion: FigureMotion) -> State:
    """The figure with its hands as near to each other as the other's, where those are near.

    Args:
        rig: the figure's.
        state: a batch of frames, arms following their joints.
        motion: of the figure that is followed.
    """
    limbs = [Reach.of(rig, side, ARM) for side in SIDES]
    theirs = role_nodes(motion.rig)
    left, right = limbs
    if left is None or right is None or not {"leftHand", "rightHand"} <= set(theirs):
        return state
    gaps = motion.places[:, theirs["rightHand"]] - motion.places[:, theirs["leftHand"]]
    near = np.linalg.norm(gaps, axis=1) / motion.rig.height
    share = np.clip((APART - near) / (APART - MEET), 0.0, 1.0)
    if not share.any():
        return state
    gaps = gaps * hand_length(rig) / hand_length(motion.rig)
    nodes = rig.evaluate(state).nodes
    one, other = (_wrist(rig, nodes, limb) for limb in (left, right))
    middle = (one + other) / 2
    weight = (share * share * (3.0 - 2.0 * share))[:, None]
    state = left.reaching(rig, state, nodes, one + weight * (middle - gaps / 2 - one))
    nodes = rig.evaluate(state).nodes
    return right.reaching(rig, state, nodes, other + weight * (middle + gaps / 2 - other))


def _wrist(rig: Rig, nodes: Array, limb: Reach) -> Array:
    return rig.body.seen(nodes[:, limb.end, :3, 3])
