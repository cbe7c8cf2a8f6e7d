"""Mixing several poses onto a figure, each with its own weight.

For every control the cards that hold it share it by their weights; what they leave up to one
belongs to the figure as it stands, and where they are more than one they are scaled down to it.
So two cards that hold different controls both go on whole, and nothing jumps when a weight comes
from zero. With one card it is the same as blending it on by its weight.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from fox_hand.core.maths.rotation_mean import weighted_mean
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.skeleton import Index
from fox_hand.core.model.state import State
from fox_hand.core.pose.blend import blend
from fox_hand.core.pose.pose import BoundPose
from fox_hand.core.rig.rig import SettingRules

Held = Callable[[BoundPose], tuple[Index, Array]]


def mix(
    state: State,
    poses: Sequence[BoundPose],
    weights: Array,
    rules: SettingRules,
    holders: Index,
) -> State:
    """The figure with several poses put on.

    Args:
        state: what belongs to nobody; with all weights zero it is returned itself.
        poses: laid against the figure's rig.
        weights: for each pose and control 0...1, ``(n, C)``; for one pose any amount.
        rules: the rig's ranges of settings.
        holders: for each setting the control that holds it, ``(S,)``.
    """
    if not weights.any():
        return state
    if len(poses) == 1 and np.all(weights == weights[0, 0]):
        return blend(state, poses[0], float(weights[0, 0]), rules)
    turns = _shared(state.turn, poses, weights, lambda p: (p.turn_rows, p.turn))
    moves = _shared(state.move, poses, weights, lambda p: (p.move_rows, p.move))
    sizes = _shared(state.scale, poses, weights, lambda p: (p.scale_rows, p.scale))
    values = _shared(
        state.settings, poses, weights[:, holders], lambda p: (p.setting_rows, p.settings)
    )
    return state.with_(
        turn=_put(state.turn, turns, weighted_mean),
        move=_put(state.move, moves, _plain),
        scale=_put(state.scale, sizes, _scales),
        settings=_settings(state.settings, values, rules),
    )


Shared = tuple[Index, Array, Array]  # rows (k,), values (n + 1, k, ...), weights (n + 1, k)


def _shared(before: Array, poses: Sequence[BoundPose], weights: Array, of: Held) -> Shared:
    """The rows that any pose with a weight holds; first the figure's own values and remainder."""
    values = np.broadcast_to(before, (len(poses), *before.shape)).copy()
    share = np.zeros((len(poses), len(before)))
    for i, pose in enumerate(poses):
        rows, held = of(pose)
        values[i, rows] = held
        share[i, rows] = weights[i, rows]
    total = share.sum(0)
    rows = np.flatnonzero(total > 0)
    share = share[:, rows] / np.maximum(total[rows], 1.0)
    left = np.maximum(1.0 - total[rows], 0.0)
    everything = np.concatenate([before[None, rows], values[:, rows]])
    return rows, everything, np.concatenate([left[None], share])


def _put(before: Array, shared: Shared, mean: Callable[[Array, Array], Array]) -> Array:
    rows, values, share = shared
    after = before.copy()
    if len(rows):
        after[rows] = mean(values, share)
    return after


def _plain(values: Array, share: Array) -> Array:
    """Weighted sums; a value that has all the weight stays bit for bit."""
    found = (share.reshape(*share.shape, *[1] * (values.ndim - 2)) * values).sum(0)
    return _alone(values, share, found)


def _scales(values: Array, share: Array) -> Array:
    """Linear in the logarithm where all that count are positive, else plainly linear."""
    weight = share[..., None]
    counts = weight > 0
    positive = (values > 0) | ~counts
    logs = np.log(np.where(positive & counts, values, 1.0))
    geometric = np.exp((weight * logs).sum(0))
    found = np.where(positive.all(0), geometric, (weight * values).sum(0))
    return _alone(values, share, found)


def _alone(values: Array, share: Array, found: Array) -> Array:
    heaviest, columns = np.argmax(share, axis=0), np.arange(share.shape[1])
    alone = share[heaviest, columns] == 1.0
    whole = values[heaviest, columns]
    return np.asarray(np.where(alone.reshape(-1, *[1] * (found.ndim - 1)), whole, found))


def _settings(before: Array, shared: Shared, rules: SettingRules) -> Array:
    """Numbers by weighted sums, switches and choices by the largest weight, where cards go before
    the figure and the first card before the others."""
    rows, values, share = shared
    after = before.copy()
    if not len(rows):
        return after
    order = [*range(1, len(values)), 0]
    chosen = np.array(order)[np.argmax(share[order], axis=0)]
    jumped = values[chosen, np.arange(len(rows))]
    after[rows] = np.where(rules.discrete[rows], jumped, _plain(values, share))
    return after
