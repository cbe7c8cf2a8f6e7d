"""A body of sticks for rigs that have none: from joint to joint, so that there is something to see,
to point at and to take pictures of."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.mesh import Material, MeshPart
from fox_hand.core.model.skeleton import Skeleton

THICK = 0.09  # of a stick's length, at most
THICKEST, THINNEST = 0.022, 0.004  # of the figure's height
WAIST = 0.18  # where along it a stick is thickest
SHORTEST = 1e-3  # of the height; joints that lie in one place have no stick
COLOUR = (0.15, 0.22, 0.26, 1.0)  # linear
FACES = np.array(  # of the start, the ring of four, the end
    [(0, 2, 1), (0, 3, 2), (0, 4, 3), (0, 1, 4), (5, 1, 2), (5, 2, 3), (5, 3, 4), (5, 4, 1)]
)


def stick_body(skeleton: Skeleton, nodes: Sequence[int]) -> tuple[MeshPart, ...]:
    """One part with a stick from each of some nodes to those of them that hang on it, and a grain
    at its end. It follows a palette of all nodes in their order.

    Args:
        skeleton: how they rest, metres.
        nodes: those that are joined, in topological order.
    """
    places = skeleton.rest_world[:, :3, 3]
    known, found = set(nodes), list[tuple[int, Array]]()
    height = float(np.ptp(places[list(nodes)], axis=0).max()) if nodes else 0.0
    ends = set(nodes)
    for node in nodes:
        above = skeleton.parents[node]
        while above >= 0 and above not in known:
            above = skeleton.parents[above]
        way = places[node] - places[above]
        if above >= 0 and np.linalg.norm(way) > SHORTEST * height:
            found.append((above, _corners(places[above], way, height)))
            ends.discard(above)
    grain = 2 * THINNEST * max(height, 1e-3)
    for node in sorted(ends):
        start = places[node] - np.array([0.0, grain / 2, 0.0])
        found.append((node, _corners(start, np.array([0.0, grain, 0.0]), height)))
    return (_part(found),) if found else ()


def _corners(start: Array, way: Array, height: float) -> Array:
    """Start, a ring of four, and end of a stick, ``(6, 3)``."""
    length = float(np.linalg.norm(way))
    ahead = way / length
    aside = np.cross(ahead, np.eye(3)[int(np.argmin(np.abs(ahead)))])
    aside /= np.linalg.norm(aside)
    up = np.cross(ahead, aside)
    thick = min(max(THICK * length, THINNEST * height), THICKEST * height, 0.5 * length)
    middle = start + WAIST * way
    ring = [middle + thick * v for v in (aside, up, -aside, -up)]
    return np.array([start, *ring, start + way])


def _part(sticks: Sequence[tuple[int, Array]]) -> MeshPart:
    corners = np.array([stick for _, stick in sticks])[:, FACES]  # (sticks, faces, 3, 3)
    normals = np.cross(corners[:, :, 1] - corners[:, :, 0], corners[:, :, 2] - corners[:, :, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=-1, keepdims=True), 1e-12)
    count = corners.shape[0] * corners.shape[1] * 3
    joints = np.repeat([node for node, _ in sticks], len(FACES) * 3).astype(np.int32)
    return MeshPart(
        "sticks",
        corners.reshape(-1, 3).astype(np.float32),
        np.repeat(normals.reshape(-1, 3), 3, axis=0).astype(np.float32),
        np.arange(count, dtype=np.int32).reshape(-1, 3),
        joints[:, None],
        np.ones((count, 1), dtype=np.float32),
        np.zeros((count, 2), dtype=np.float32),
        np.tile(np.array(COLOUR, dtype=np.float32), (count, 1)),
        Material("sticks", (1.0, 1.0, 1.0, 1.0), 0.6),
    )
