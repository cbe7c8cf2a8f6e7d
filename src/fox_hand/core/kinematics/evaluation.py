"""From channel values to matrices: drives, forward kinematics, solvers, in that order.

One frame and thousands of frames run through the same few array operations; what those are is
worked out once per rig (:mod:`fox_hand.core.kinematics.schedule`).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from fox_hand.core.kinematics.batched import (
    apply,
    euler_xyz,
    frames_last,
    place,
    product,
    rotations,
)
from fox_hand.core.kinematics.driving import DrivenNodes, driven_settings, moves_rest
from fox_hand.core.kinematics.schedule import (
    Levels,
    Planner,
    placing_order,
    renumbered,
    renumbered_drive,
    renumbered_solver,
)
from fox_hand.core.maths.cached import WithoutCaches
from fox_hand.core.maths.rotations import Array, to_matrix
from fox_hand.core.maths.transforms import compose
from fox_hand.core.model.skeleton import Index, Skeleton
from fox_hand.core.model.solvers import Drive, DrivenKind, Limb, Solver
from fox_hand.core.model.state import State

BROUGHT_OUT = 100.0  # a drive that makes something so many times larger lets it be seen
TOGETHER = 128  # frames that go through the operations together: they stay near the processor


@dataclass(frozen=True, eq=False)
class Evaluation(WithoutCaches):
    """Where everything is for one state, or for each of a batch of them.

    Args:
        nodes: world matrices of the skeleton's nodes, ``(..., N, 4, 4)``.
        settings: effective setting values with the drives' share, ``(..., S)``.
        palette_nodes: the nodes that carry skin, ``(P,)``.
        inverse_binds: their inverse bind matrices, ``(P, 4, 4)``.
    """

    nodes: Array
    settings: Array
    palette_nodes: Index
    inverse_binds: Array

    @cached_property
    def palette(self) -> Array:
        """Joint matrices for skinning, ``(..., P, 4, 4)``."""
        return np.asarray(self.nodes[..., self.palette_nodes, :, :] @ self.inverse_binds)


class Program:
    """How one rig is evaluated.

    Args:
        skeleton: the rig's nodes.
        rows, nodes: the controls that move a node, and those nodes, ``(J,)``.
        solvers, drives: the rig's, in its order; drives onto nodes only where a control is.
    """

    def __init__(
        self,
        skeleton: Skeleton,
        rows: Index,
        nodes: Index,
        solvers: Sequence[Solver],
        drives: Sequence[Drive],
    ) -> None:
        order = placing_order(skeleton, solvers)
        new = np.argsort(order)
        inner = renumbered(skeleton, order)
        solvers = [renumbered_solver(s, new) for s in solvers]
        self._drives = [renumbered_drive(d, new) for d in drives]
        self._driven = DrivenNodes.of(self._drives)
        self._new, self._rows, self._nodes = new, rows, new[nodes]
        self._rest = inner.rest_locals()[:, :3]
        self._frames = to_matrix(inner.rotation[self._nodes])[..., None]
        self._scale = inner.scale[self._nodes][..., None]
        self._scaled = bool(np.abs(inner.scale - 1).max() > 1e-12)
        self._units = rest_units(inner, self._drives)[self._nodes]
        self._awake = moves_rest(self._drives)
        slot = {int(node): i for i, node in enumerate(self._nodes)}
        self._driven_slots = np.array([slot[int(n)] for n in self._driven.nodes], dtype=np.intp)
        self._still = np.setdiff1d(np.arange(len(inner)), self._nodes)  # nodes no control moves
        limbs = [x for x in solvers if isinstance(x, Limb)]
        self._bones = np.array([n for x in limbs for n in (x.lower, x.end)], dtype=np.intp)
        self._stages, self._last = Planner(inner).plan(solvers)

    def effective(self, state: State) -> Array:
        """Setting values of one state with the drives' share, ``(S,)``."""
        return driven_settings(self._drives, state.settings[:, None])[:, 0]

    def locals(self, state: State) -> Array:
        """Local matrices of all nodes of one state before any solver, ``(N, 4, 4)``.

        A control's values are relative to rest and in the rest frame of its node: moving goes
        along the node's own rest axes, turning about them, so every channel at its neutral
        value is the rest pose whatever the rig's axes are. Moves are metres, whatever unit the
        file was drawn in. Driven values come before the control's own: they move its rest.
        """
        channels = _Channels.of(state, None)
        settings = driven_settings(self._drives, channels.settings)
        local = np.empty((*self._rest.shape, 1))
        self._fill(local, channels, settings)
        return self._full(local)[..., 0]

    def run(self, state: State, palette_nodes: Index, inverse_binds: Array) -> Evaluation:
        """Evaluate one state ``(C, ...)`` or a batch ``(F, C, ...)``; a pure function.

        Args:
            state: one or many.
            palette_nodes: nodes of the skin's joints, ``(P,)``.
            inverse_binds: mesh space to joint space at bind, ``(P, 4, 4)``.
        """
        if state.turn.ndim == 2:
            world, settings = self._frames_of(_Channels.of(state, None))
            return Evaluation(
                self._full(world)[..., 0], settings[:, 0], palette_nodes, inverse_binds
            )
        count = len(state.turn)
        nodes = np.empty((count, len(self._rest), 4, 4))
        values = np.empty((count, state.settings.shape[-1]))
        for part in _runs(count, TOGETHER):
            world, settings = self._frames_of(_Channels.of(state, part))
            self._give_out(nodes[part], world)
            values[part] = settings.T
        return Evaluation(nodes, values, palette_nodes, inverse_binds)

    def _frames_of(self, channels: _Channels) -> tuple[Array, Array]:
        """World matrices in the inner order ``(N, 3, 4, F)`` and effective settings ``(S, F)``."""
        settings = driven_settings(self._drives, channels.settings)
        count = settings.shape[-1]
        local, world = (_affine(len(self._rest), count) for _ in range(2))
        unscaled = self._fill(local, channels, settings) and not self._scaled
        rigid = unscaled and self._bones_rest(local)
        for stage in self._stages:
            _place(world, local, stage.place)
            stage.solvers.solve(local, world, settings, rigid)
        _place(world, local, self._last)
        return world, settings

    def _give_out(self, nodes: Array, world: Array) -> None:
        """``(N, 3, 4, F)`` in the inner order to whole matrices ``(F, N, 4, 4)``."""
        nodes[:, :, :3] = np.moveaxis(world[self._new], -1, 0)
        nodes[:, :, 3] = (0.0, 0.0, 0.0, 1.0)

    def _full(self, inner: Array) -> Array:
        """``(N, 3, 4, F)`` in the inner order to ``(N, 4, 4, F)`` in the skeleton's."""
        found = np.empty((len(inner), 4, 4, inner.shape[-1]))
        found[:, :3] = inner[self._new]
        found[:, 3] = np.array([0.0, 0.0, 0.0, 1.0])[:, None]
        return found

    def _fill(self, local: Array, channels: _Channels, settings: Array) -> bool:
        """Write the local matrices ``(N, 3, 4, F)`` that the channels give.

        Returns:
            whether nothing is scaled away from rest.
        """
        nodes = self._nodes
        turn, move = channels.turn[self._rows], channels.move[self._rows]
        scale, driven, unscaled = self._scale, None, channels.unscaled
        local[:, :, 3] = self._rest[:, :, 3, None]
        local[self._still, :, :3] = self._rest[self._still, :, :3, None]
        if not channels.unscaled:
            scale = scale * channels.scale[self._rows]
        if self._drives and (self._awake or settings.any()):
            more, driven, factor = self._driven.values(settings)
            at = self._driven_slots
            move[at] += more
            if factor is not None:
                scale = np.array(np.broadcast_to(scale, move.shape))
                scale[at] *= factor
                unscaled = unscaled and bool((factor == 1.0).all())
        local[nodes, :, :3] = self._bases(turn, driven) * scale[:, None]
        moved = np.flatnonzero(move.any((1, 2)))
        if len(moved):
            step = apply(self._frames[moved], move[moved] / self._units[moved])
            local[nodes[moved], :, 3] += step
        return unscaled

    def _bases(self, turn: Array, driven: Array | None) -> Array:
        """Rest turn, driven turn and own turn of the controls, ``(J, 3, 3, F)``."""
        own = rotations(turn)
        found = product(self._frames, own)
        if driven is not None and driven.any():
            at = self._driven_slots
            found[at] = product(product(self._frames[at], euler_xyz(driven)), own[at])
        return found

    def _bones_rest(self, local: Array) -> bool:
        """Whether every bone of a limb sits where it does at rest."""
        gap = local[self._bones, :, 3] - self._rest[self._bones, :, 3, None]
        return bool(np.abs(gap).max(initial=0.0) < 1e-12)


@dataclass(frozen=True, eq=False)
class _Channels:
    """Channel values with the frames last: ``(C, x, F)``, settings ``(S, F)``."""

    turn: Array
    move: Array
    scale: Array
    settings: Array
    unscaled: bool

    @staticmethod
    def of(state: State, part: slice | None) -> _Channels:
        """Some frames of a batch; with None the one frame of a single state."""
        scale = state.scale if part is None else state.scale[part]
        unscaled = bool((scale == 1).all())
        if unscaled:
            scale = scale[:1]  # nobody looks at it
        turn, move, settings = (
            v if part is None else v[part] for v in (state.turn, state.move, state.settings)
        )
        last = _alone if part is None else frames_last
        return _Channels(last(turn), last(move), last(scale), last(settings), unscaled)


def _alone(values: Array) -> Array:
    return values[..., None]


def _place_one(world: Array, local: Array, levels: Levels) -> None:
    """One frame, as whole matrices ``(N, 4, 4)``."""
    for rows, parents in levels.runs:
        world[rows] = local[rows] if parents[0] < 0 else world[parents] @ local[rows]


def _affine(rows: int, count: int) -> Array:
    """Room for affine matrices ``(N, 3, 4, F)``. For one frame it is a view into whole 4x4
    matrices, which NumPy multiplies in one call."""
    if count > 1:
        return np.empty((rows, 3, 4, count))
    whole = np.zeros((rows, 4, 4))
    whole[:, 3, 3] = 1.0
    return whole[:, :3, :, None]


def _runs(count: int, size: int) -> list[slice]:
    return [slice(start, min(start + size, count)) for start in range(0, count, size)]


def _place(world: Array, local: Array, levels: Levels) -> None:
    whole, parts = world.base, local.base
    if world.shape[-1] == 1 and whole is not None and parts is not None:
        _place_one(whole, parts, levels)
        return
    for rows, parents in levels.runs:
        if parents[0] < 0:
            world[rows] = local[rows]
        elif isinstance(rows, slice):
            place(world[parents], local[rows], world[rows])
        else:
            found = np.empty((len(rows), 3, 4, world.shape[-1]))
            world[rows] = place(world[parents], local[rows], found)


def rest_units(skeleton: Skeleton, drives: Sequence[Drive] = ()) -> Array:
    """How many metres one local unit of each node is at rest, ``(N, 1, 1)``; files drawn in
    centimetres under a scaled root have 0.01. What is next to nothing at rest, until a drive lets
    it be seen (another view of a puppet), counts as it is when it is seen."""
    scale = skeleton.scale.copy()
    for drive in drives:
        outputs = [out for _, out in drive.points]
        if drive.kind is DrivenKind.SCALE and max(outputs) > BROUGHT_OUT * min(outputs) > 0:
            scale[drive.target, drive.axis] *= max(outputs)
    rest = skeleton.rest_world
    if not np.array_equal(scale, skeleton.scale):
        rest = skeleton.world(compose(skeleton.translation, skeleton.rotation, scale))
    basis = np.array([rest[p, :3, :3] if p >= 0 else np.eye(3) for p in skeleton.parents])
    volume = np.abs(np.linalg.det(basis.reshape(-1, 3, 3)))
    return np.where(volume > 1e-18, np.cbrt(volume), 1.0)[:, None, None]
