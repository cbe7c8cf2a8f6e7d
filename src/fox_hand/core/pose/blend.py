"""Blending a pose onto a figure by an amount."""

from __future__ import annotations

import numpy as np

from fox_hand.core.maths.rotations import Array, between
from fox_hand.core.model.state import State
from fox_hand.core.pose.pose import BoundPose
from fox_hand.core.rig.rig import SettingRules

JUMP = 0.5


def blend_scale(s0: Array, s1: Array, amount: float) -> Array:
    """Scale factors between ``s0`` and ``s1``, of one shape ``(..., 3)``: linear in the logarithm
    where both are positive, plainly linear where one is zero or negative.

    Args:
        s0, s1: factors.
        amount: 0 gives ``s0``, 1 gives ``s1``; any real number.
    """
    positive = (s0 > 0) & (s1 > 0)
    a, b = np.where(positive, s0, 1.0), np.where(positive, s1, 1.0)
    geometric = a * (b / a) ** amount
    return np.asarray(np.where(positive, geometric, s0 + amount * (s1 - s0)))


def blend(state: State, pose: BoundPose, amount: float, rules: SettingRules) -> State:
    """The figure with a pose put on by ``amount``.

    Amount 0 returns ``state`` itself, so every bit stays; 1 gives the pose's values exactly.
    Moves and settings go linearly, turns along the shortest geodesic (also below 0 and past 1),
    scale linearly in its logarithm; switches and choices jump at the half. Past the ends settings
    stop at the rig's limits unless the pose or the state already lies outside.

    Args:
        state: what to blend from.
        pose: what to blend towards; only channels it holds are touched.
        amount: any real number.
        rules: the rig's ranges of settings.
    """
    if amount == 0:
        return state
    move, turn = state.move.copy(), state.turn.copy()
    scale, settings, euler = state.scale.copy(), state.settings.copy(), state.euler.copy()
    if amount == 1:
        move[pose.move_rows] = pose.move
        turn[pose.turn_rows] = pose.turn
        euler[pose.turn_rows] = pose.euler
        scale[pose.scale_rows] = pose.scale
        settings[pose.setting_rows] = pose.settings
    else:
        move[pose.move_rows] += amount * (pose.move - move[pose.move_rows])
        turn[pose.turn_rows] = between(turn[pose.turn_rows], pose.turn, amount)
        scale[pose.scale_rows] = blend_scale(scale[pose.scale_rows], pose.scale, amount)
        settings[pose.setting_rows] = _blend_settings(state, pose, amount, rules)
    return state.with_(move=move, turn=turn, scale=scale, settings=settings, euler=euler)


def _blend_settings(state: State, pose: BoundPose, amount: float, rules: SettingRules) -> Array:
    before = state.settings[pose.setting_rows]
    low, high = rules.low[pose.setting_rows], rules.high[pose.setting_rows]
    low = np.minimum(low, np.minimum(before, pose.settings))
    high = np.maximum(high, np.maximum(before, pose.settings))
    smooth = np.clip(before + amount * (pose.settings - before), low, high)
    jumped = pose.settings if amount >= JUMP else before
    return np.where(rules.discrete[pose.setting_rows], jumped, smooth)
