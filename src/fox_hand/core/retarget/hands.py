"""Hands that meet in a performance meet on other figures, too: clapping, holding, wringing."""

from __future__ import annotations

import numpy as np

from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.state import State
from fox_hand.core.retarget.arm_places import hand_length
from fox_hand.core.retarget.figure_motion import FigureMotion, role_nodes
from fox_hand.core.retarget.reach import ARM, Reach
from fox_hand.core.rig.rig import Rig

MEET, APART = 0.08, 0.16  # of the height: nearer than the first they are together, beyond apart


def join_hands(rig: Rig, state: State, motion: FigureMotion) -> State:
    """The figure with its hands as near to each other as the other's, where those are near.

    Args:
        rig: the figure's.
        state: a batch of frames, arms following their joints.
        motion: of the figure that is followed.
    """
    limbs = [Reach.of(rig, side, ARM) for side in ("left", "right")]
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
