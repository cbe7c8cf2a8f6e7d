"""Laying a pose on top: what it adds to a ground pose is added to the figure."""

from __future__ import annotations

import numpy as np

from fox_hand.core.maths.rotations import Array, inverse, multiply, normalise, power
from fox_hand.core.model.state import State
from fox_hand.core.pose.blend import JUMP
from fox_hand.core.pose.pose import BoundPose
from fox_hand.core.rig.rig import SettingRules


def layer(
    state: State, pose: BoundPose, ground: State, amount: float, rules: SettingRules
) -> State:
    """The figure with the difference of a pose from its ground composed onto it.

    Turns: ``q * (ground^-1 pose)^a`` in the control's own space; moves and settings by addition,
    scales by multiplication; switches and choices that differ from the ground jump at the half.
    Settings stop at the rig's limits, or no further outside than they were.

    Args:
        state: what is added to; with amount 0 it is returned itself.
        pose: what is added; only channels it holds are touched.
        ground: what the pose is measured from: rest, or a neutral pose on the same rig.
        amount: any real number.
        rules: the rig's ranges of settings.
    """
    if amount == 0:
        return state
    move, turn, scale = state.move.copy(), state.turn.copy(), state.scale.copy()
    rows = pose.turn_rows
    added = power(multiply(inverse(ground.turn[rows]), pose.turn), amount)
    turn[rows] = normalise(multiply(turn[rows], added))
    rows = pose.move_rows
    move[rows] += amount * (pose.move - ground.move[rows])
    rows = pose.scale_rows
    scale[rows] = _scaled(scale[rows], ground.scale[rows], pose.scale, amount)
    settings = state.settings.copy()
    settings[pose.setting_rows] = _added(state, pose, ground, amount, rules)
    return state.with_(move=move, turn=turn, scale=scale, settings=settings)


def _scaled(scale: Array, ground: Array, pose: Array, amount: float) -> Array:
    positive = (ground > 0) & (pose > 0)
    ratio = np.where(positive, pose, 1.0) / np.where(positive, ground, 1.0)
    return np.asarray(np.where(positive, scale * ratio**amount, scale + amount * (pose - ground)))


def _added(
    state: State, pose: BoundPose, ground: State, amount: float, rules: SettingRules
) -> Array:
    rows = pose.setting_rows
    before, base = state.settings[rows], ground.settings[rows]
    low, high = np.minimum(rules.low[rows], before), np.maximum(rules.high[rows], before)
    summed = np.clip(before + amount * (pose.settings - base), low, high)
    jumps = (pose.settings != base) & (amount >= JUMP)
    return np.where(rules.discrete[rows], np.where(jumps, pose.settings, before), summed)
