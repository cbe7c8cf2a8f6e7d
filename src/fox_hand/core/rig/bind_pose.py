"""The stance a skin was bound in, where the nodes of a file stand in another.

A character that was written at some frame of its animation stands in that frame's pose, and
nothing in its nodes says so. Its inverse bind matrices do: at rest a joint's world matrix times its
inverse bind matrix is the same for all joints of a skin, namely the place of the space the mesh
was bound in (glTF 2.0, 3.7.3.1; UsdSkel's bindTransforms).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fox_hand.core.maths.rotations import Array, angle_between
from fox_hand.core.maths.transforms import compose, decompose, undone
from fox_hand.core.model.skeleton import Index, Skeleton

TURNED = np.radians(0.5)  # joints that differ by less stand as they were bound
SHIFTED = 0.002  # of the figure's height
ALIKE = 1e-3  # between two placements, relative to the figure's size
FURTHEST = np.radians(100.0)  # a figure is not written lying on its head
GROWN = 3.0  # a bound figure this much larger or smaller than the nodes' is no stance of it


@dataclass(frozen=True, eq=False)
class SkinBind:
    """What one skin says.

    Args:
        nodes: rows of its joints, ``(K,)``.
        inverse: their inverse bind matrices, ``(K, 4, 4)``.
        places: matrices that may carry the space it was bound in into the world, likely ones first,
            each ``(4, 4)``.
    """

    nodes: Index
    inverse: Array
    places: Sequence[Array]


@dataclass(frozen=True, eq=False)
class BindPose:
    """The bound stance.

    Args:
        skeleton: at rest as it was bound; nodes that stand so already are untouched.
        changed: nodes that stand otherwise in the file, with the angle in radians, largest first.
    """

    skeleton: Skeleton
    changed: tuple[tuple[int, float], ...]


def bind_pose(skeleton: Skeleton, skins: Sequence[SkinBind]) -> BindPose | None:
    """The stance the skins were bound in; None where the nodes stand so, or where the matrices
    say nothing that can be a stance of this skeleton.

    Args:
        skeleton: the nodes as the file places them.
        skins: what each skin says; of a joint in several the first counts.
    """
    world = skeleton.rest_world
    size = _size(world[:, :3, 3])
    bound: dict[int, Array] = {}
    for skin in skins:
        found = _bound_worlds(skin, world, size)
        bound = {**found, **bound}
    if not bound:
        return None
    try:
        return _stance(skeleton, bound, size)
    except np.linalg.LinAlgError:
        return None  # a node without size: nothing hangs on it that could be placed


def _stance(skeleton: Skeleton, bound: dict[int, Array], size: float) -> BindPose | None:
    world = skeleton.rest_world
    local, worlds = skeleton.rest_locals(), np.empty_like(world)
    for node, parent in enumerate(skeleton.parents):
        above = worlds[parent] if parent >= 0 else np.eye(4)
        if node in bound:
            local[node] = np.linalg.solve(above, bound[node])
        worlds[node] = above @ local[node]
    rows = sorted(bound)
    if not 1 / GROWN < _size(worlds[rows, :3, 3]) / max(_size(world[rows, :3, 3]), 1e-12) < GROWN:
        return None
    return _kept(skeleton, local, size)


def _bound_worlds(skin: SkinBind, world: Array, size: float) -> dict[int, Array]:
    """World matrices of a skin's joints as they were bound; empty where they stand so, or where
    its matrices say nothing."""
    usable = np.abs(np.linalg.det(skin.inverse[:, :3, :3])) > 1e-18
    nodes, inverse = skin.nodes[usable], skin.inverse[usable]
    if len(nodes) < 2 or np.abs(inverse - inverse[0]).max() < 1e-9:
        return {}
    placements = world[nodes] @ inverse
    first = placements[int(np.argmin(nodes))]
    if abs(np.linalg.det(first[:3, :3])) < 1e-18:
        return {}
    if all(_alike(first, other, size) for other in placements):
        return {}
    place = _place_of(first, placements, skin.places, size)
    return dict(zip(nodes.tolist(), place @ undone(inverse), strict=True))


def _place_of(first: Array, placements: Array, places: Sequence[Array], size: float) -> Array:
    """Where the space of a skin stands: at the likely place that most joints agree with, else at
    the one that turns the figure least; at the topmost joint's own where none will do."""
    likely = [p for p in places if _same_scale(p, first)]
    agreeing = [sum(_alike(p, other, size) for other in placements) for p in likely]
    if any(agreeing):
        return likely[int(np.argmax(agreeing))]
    angles = [_angle(p, first) for p in likely]
    if angles and min(angles) < FURTHEST:
        return likely[int(np.argmin(angles))]
    return first


def _kept(skeleton: Skeleton, local: Array, size: float) -> BindPose | None:
    move, turn, scale = decompose(local)
    if np.abs(compose(move, turn, scale) - local).max() > ALIKE * max(size, 1.0):
        return None  # sheared, which no node of a file can be
    angles = np.asarray(angle_between(skeleton.rotation, turn))
    units = np.linalg.norm(skeleton.rest_world[:, :3, 1], axis=1)  # how long a step of a node is
    above = [units[p] if p >= 0 else 1.0 for p in skeleton.parents]
    shifts = np.linalg.norm(skeleton.translation - move, axis=1) * np.array(above)
    sized = np.abs(skeleton.scale - scale).max(1)
    moved = (angles > TURNED / 10) | (shifts > SHIFTED / 10 * size) | (sized > ALIKE)
    if not ((angles > TURNED) | (shifts > SHIFTED * size)).any():
        return None
    rest = Skeleton(
        skeleton.names,
        skeleton.parents,
        np.where(moved[:, None], move, skeleton.translation),
        np.where(moved[:, None], turn, skeleton.rotation),
        np.where(moved[:, None], scale, skeleton.scale),
    )
    order = sorted(np.flatnonzero(moved).tolist(), key=lambda node: -float(angles[node]))
    return BindPose(rest, tuple((node, float(angles[node])) for node in order))


def _size(places: Array) -> float:
    return float(np.linalg.norm(np.ptp(places, axis=0))) if len(places) else 0.0


def _alike(a: Array, b: Array, size: float) -> bool:
    unit = max(float(np.abs(a[:3, :3]).max()), 1e-12)
    turned = float(np.abs(a[:3, :3] - b[:3, :3]).max()) / unit
    return turned < ALIKE * 5 and float(np.abs(a[:3, 3] - b[:3, 3]).max()) < ALIKE * size


def _same_scale(a: Array, b: Array) -> bool:
    one, other = np.linalg.det(a[:3, :3]), np.linalg.det(b[:3, :3])
    return bool(one * other > 0 and 0.94 < one / other < 1.06)


def _angle(a: Array, b: Array) -> float:
    return float(angle_between(decompose(a)[1], decompose(b)[1]))
