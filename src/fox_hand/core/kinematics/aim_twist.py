"""Nodes that turn towards a target, and helpers that share another node's twist.

Arrays have the shapes of :mod:`fox_hand.core.kinematics.batched`: ``(K, ..., F)``, frames last.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fox_hand.core.kinematics.batched import (
    about,
    across,
    apply,
    cross,
    directions,
    dot,
    product,
    some_perpendicular,
    turned_back,
    unit,
)
from fox_hand.core.maths.rotations import Array, to_matrix
from fox_hand.core.model.skeleton import Index, Skeleton
from fox_hand.core.model.solvers import Aim, Twist

UP = np.array([[[0.0], [1.0], [0.0]]])
# entries (2, 1), (0, 2), (1, 0) of a matrix, row by row, and those across from them
BELOW, ABOVE = np.array([7, 2, 3]), np.array([5, 6, 1])
AHEAD = np.array([[[0.0], [0.0], [1.0]]])


@dataclass(frozen=True, eq=False)
class AimSet:
    """Looks that can be solved together.

    Args:
        looks: what they were made from.
        nodes, targets, parents: skeleton nodes ``(K,)``; parent -1 for none.
        axes: left, up and forward at rest in the parents' frames as columns, ``(K, 3, 3, 1)``.
        low, high: limits of the turns to the left and up, radians, ``(K, 2, 1)``.
    """

    looks: tuple[Aim, ...]
    nodes: Index
    targets: Index
    parents: Index
    axes: Array
    low: Array
    high: Array

    @staticmethod
    def of(looks: Sequence[Aim], skeleton: Skeleton) -> AimSet:
        """Measure some looks at rest."""
        nodes = np.array([x.node for x in looks], dtype=np.intp)
        targets = np.array([x.target for x in looks], dtype=np.intp)
        parents = np.asarray(skeleton.parents, dtype=np.intp)[nodes]
        world = skeleton.rest_world[..., None]
        ahead = unit(world[targets, :3, 3] - world[nodes, :3, 3], lambda: AHEAD)
        up = unit(
            across(np.broadcast_to(UP, ahead.shape), ahead), lambda: some_perpendicular(ahead)
        )
        axes = np.stack([cross(up, ahead), up, ahead], 2)
        limits = np.array([(x.right, x.down, x.left, x.up) for x in looks])[..., None]
        above = _frames(world, parents)
        return AimSet(
            tuple(looks),
            nodes,
            targets,
            parents,
            turned_back(above, axes),
            -limits[:, :2],
            limits[:, 2:],
        )

    def solve(self, local: Array, world: Array, settings: Array, rigid: bool) -> None:
        """Turn the aiming nodes.

        Args:
            local: local matrices ``(J, 3, 4, F)``; those of the nodes are changed.
            world: world matrices ``(J, 3, 4, F)`` as placed so far, metres.
            settings: effective setting values ``(S, F)``.
            rigid: whether no bone is scaled; of no account here.
        """
        amount = np.ones((len(self.looks), settings.shape[-1]))
        for i, look in enumerate(self.looks):
            if look.blend is not None:
                amount[i] = settings[look.blend]
        if not amount.any():
            return
        gap = world[self.targets, :3, 3] - world[self.nodes, :3, 3]
        del rigid
        frames = product(_frames(world, self.parents), self.axes)
        seen = apply(frames.swapaxes(1, 2), unit(gap, lambda: frames[:, :, 2]))
        turns = np.empty((len(self.looks), 2, settings.shape[-1]))
        np.arctan2(seen[:, 0], seen[:, 2], out=turns[:, 0])
        np.arcsin(_held(seen[:, 1], -1.0, 1.0), out=turns[:, 1])
        turns = _held(turns, self.low, self.high) * _held(amount, 0.0, 1.0)[:, None]
        turns[:, 1] *= -1.0
        left, up = self.axes[:, :, 0], self.axes[:, :, 1]
        both = about(np.concatenate((up, left)), np.concatenate((turns[:, :1], turns[:, 1:])))
        swing = product(both[: len(up)], both[len(up) :])
        local[self.nodes, :3, :3] = product(swing, local[self.nodes, :3, :3])


def _held(values: Array, low: Array | float, high: Array | float) -> Array:
    """What ``np.clip`` gives, several times as fast on a few values."""
    return np.minimum(np.maximum(values, low), high)


def _frames(world: Array, parents: Index) -> Array:
    found = directions(world[parents, :3, :3])
    if (parents < 0).any():
        found[parents < 0] = np.eye(3)[..., None]
    return found


@dataclass(frozen=True, eq=False)
class TwistSet:
    """Twist helpers that can be solved together.

    Args:
        nodes, sources: helpers and whom they follow, ``(K,)``.
        axes: bone axes, ``(K, 3, 1)``.
        shares: ``(K, 1, 1)``.
        rest: rest rotations of the sources, ``(K, 3, 3, 1)``.
    """

    nodes: Index
    sources: Index
    axes: Array
    shares: Array
    rest: Array

    @staticmethod
    def of(twists: Sequence[Twist], skeleton: Skeleton) -> TwistSet:
        """Measure some twists at rest."""
        sources = np.array([x.source for x in twists], dtype=np.intp)
        return TwistSet(
            np.array([x.node for x in twists], dtype=np.intp),
            sources,
            np.eye(3)[[x.axis for x in twists]][..., None],
            np.array([x.share for x in twists])[:, None, None],
            to_matrix(skeleton.rotation[sources])[..., None],
        )

    def solve(self, local: Array, world: Array, settings: Array, rigid: bool) -> None:
        """Turn the helpers by their share of the sources' twist (swing-twist split).

        Args:
            local: local matrices ``(J, 3, 4, F)``; those of the helpers are changed.
            world, settings, rigid: as for :meth:`AimSet.solve`; of no account here.
        """
        del world, settings, rigid
        away = turned_back(self.rest, directions(local[self.sources, :3, :3]))
        # the quaternion's axis part and w, both times 4w
        entries = away.reshape(len(away), 9, -1)
        skew = entries.take(BELOW, 1) - entries.take(ABOVE, 1)
        w = 1.0 + away[:, 0, 0] + away[:, 1, 1] + away[:, 2, 2]
        angle = 2 * np.arctan2(dot(skew, self.axes), w[:, None])
        turn = about(self.axes, angle * self.shares)
        local[self.nodes, :3, :3] = product(local[self.nodes, :3, :3], turn)
