"""Distance fields to light triangle meshes, and the weights that hang them on bones."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import fast_simplification
import numpy as np
import numpy.typing as npt
import scipy.sparse as sp
from scipy.sparse.linalg import splu
from skimage import measure

from cast.bones import Bones
from cast.sdf import Array, Field, Vector, unit

Triangles = npt.NDArray[np.int64]
MARCH: Any = measure.marching_cubes  # the library has no types


@dataclass
class Surface:
    """A closed mesh. ``points (V, 3)``, ``triangles (T, 3)`` seen counter-clockwise from
    outside, ``normals (V, 3)``."""

    points: Array
    triangles: Triangles
    normals: Array

    def mirrored(self) -> Surface:
        """The same on the other side of the body."""
        m = np.array([-1.0, 1.0, 1.0])
        return replace(
            self,
            points=self.points * m,
            triangles=self.triangles[:, ::-1].copy(),
            normals=self.normals * m,
        )


def vertex_normals(points: Array, triangles: Triangles) -> Array:
    """Area-weighted normals, ``(V, 3)``."""
    a, b, c = (points[triangles[:, k]] for k in range(3))
    face = np.cross(b - a, c - a)
    normals = np.zeros_like(points)
    for k in range(3):
        for axis in range(3):
            normals[:, axis] += np.bincount(triangles[:, k], face[:, axis], len(points))
    return unit(normals)


def outward(points: Array, triangles: Triangles) -> Triangles:
    """The triangles turned so that a closed mesh has positive volume."""
    a, b, c = (points[triangles[:, k]] for k in range(3))
    volume = float((a * np.cross(b, c)).sum())
    return triangles if volume > 0 else triangles[:, ::-1].copy()


def gradient(field: Field, p: Array, step: float) -> Array:
    axes = np.eye(3) * step
    return np.stack([field(p + a) - field(p - a) for a in axes], -1) / (2 * step)


def mesh_field(field: Field, low: Vector, high: Vector, cell: float, triangles: int) -> Surface:
    """March, simplify, then pull every vertex back onto the field.

    Args:
        field: the shape.
        low, high: corners of a box around it.
        cell: edge of the marching cubes.
        triangles: how many to keep.
    """
    values, low = _sample(field, np.asarray(low) - 2.5 * cell, np.asarray(high) + 2.5 * cell, cell)
    points, faces, _, _ = MARCH(values, 0.0, spacing=(cell,) * 3)
    points = points + low
    if len(faces) > triangles:
        points, faces = fast_simplification.simplify(
            points.astype(np.float32), faces.astype(np.int32), target_count=triangles, agg=3
        )
    points, faces = points.astype(np.float64), faces.astype(np.int64)
    neighbours = _neighbour_average(len(points), faces)
    for _ in range(2):
        points = points + 0.35 * (neighbours @ points - points)
        slope = gradient(field, points, cell * 0.6)
        length = np.maximum((slope**2).sum(-1), 0.15)
        points = points - (field(points) / length)[:, None] * slope
    return Surface(points, outward(points, faces), unit(gradient(field, points, cell * 0.6)))


def _sample(field: Field, low: Array, high: Array, cell: float) -> tuple[Array, Array]:
    """Field values on a grid; only blocks near the surface are evaluated finely."""
    instance = 4
    n = np.ceil((high - low) / cell).astype(int) + 1
    coarse_n = -(-n // instance)
    centres = [low[k] + cell * (np.arange(coarse_n[k]) * instance + 1.5) for k in range(3)]
    grid = np.stack(np.meshgrid(*centres, indexing="ij"), -1).reshape(-1, 3)
    coarse = field(grid).reshape(coarse_n)

    def spread(a: npt.NDArray[Any]) -> npt.NDArray[Any]:
        for axis in range(3):
            a = a.repeat(instance, axis)
        return a[: n[0], : n[1], : n[2]]

    values = spread(coarse).copy()
    near = spread(np.abs(coarse) < cell * instance * 1.6)
    fine = [low[k] + cell * np.arange(n[k]) for k in range(3)]
    points = np.stack(np.meshgrid(*fine, indexing="ij"), -1)
    values[near] = field(points[near])
    return values, low


def _neighbour_average(count: int, triangles: Triangles) -> sp.csr_array:
    edges = np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]])
    link = sp.coo_array((np.ones(len(edges)), (edges[:, 0], edges[:, 1])), (count, count)).tocsr()
    link = ((link + link.T) > 0).astype(np.float64)
    total = np.maximum(np.asarray(link.sum(axis=1)).ravel(), 1)
    return sp.csr_array(sp.diags_array(1 / total) @ link)


def bone_weights(surface: Surface, bones: Bones, names: list[str], spread: float) -> Array:
    """Weights ``(V, len(names))``: the nearest bone, softened along the surface.

    Every vertex first belongs to the bone it is nearest to (distance by the bone's radius); two
    implicit steps of heat diffusion on the mesh then soften the borders by about ``spread``.
    """
    if len(names) == 1:
        return np.ones((len(surface.points), 1))
    distance = np.stack(
        [
            _segment_distance(surface.points, bones.at(n), bones.tips[n]) / bones.radii[n]
            for n in names
        ],
        1,
    )
    hard = np.zeros_like(distance)
    hard[np.arange(len(distance)), distance.argmin(1)] = 1
    return np.maximum(diffuse(surface, hard, spread), 0)


def _segment_distance(p: Array, a: Array, b: Array) -> Array:
    axis = b - a
    h = np.clip((p - a) @ axis / (axis @ axis), 0, 1)
    return np.asarray(np.linalg.norm(p - a - h[:, None] * axis, axis=-1))


def diffuse(surface: Surface, values: Array, spread: float) -> Array:
    """Values per vertex after two implicit steps of heat flow (cotangent Laplacian)."""
    points, faces = surface.points, surface.triangles
    count = len(points)
    mass = np.zeros(count)
    rows, columns, entries = [], [], []
    for k in range(3):
        a, b, c = faces[:, k], faces[:, (k + 1) % 3], faces[:, (k + 2) % 3]
        e1, e2 = points[b] - points[a], points[c] - points[a]
        area = np.linalg.norm(np.cross(e1, e2), axis=-1) + 1e-12
        cotangent = np.clip((e1 * e2).sum(-1) / area, 0.05, 8) * 0.5
        rows += [b, c]
        columns += [c, b]
        entries += [cotangent, cotangent]
        mass += np.bincount(a, area / 6, count)
    at = (np.concatenate(rows), np.concatenate(columns))
    weights = sp.coo_array((np.concatenate(entries), at), (count, count)).tocsc()
    degree = sp.diags_array(np.asarray(weights.sum(axis=1), dtype=np.float64).ravel())
    masses = (mass + 1e-12)[:, None]
    laplacian = sp.csc_array(degree - weights) * (spread * spread)
    solver = splu(sp.csc_array(sp.diags_array(masses[:, 0]) + laplacian))
    half = np.asarray(solver.solve(masses * values))
    return np.asarray(solver.solve(masses * half))


def grid_triangles(rows: int, columns: int) -> Triangles:
    """Triangles of a grid of ``rows`` rings with ``columns`` points each, closed around."""
    i = np.arange(rows - 1)[:, None] * columns
    j = np.arange(columns)[None]
    a, b = i + j, i + (j + 1) % columns
    c, d = a + columns, b + columns
    return np.concatenate(
        [np.stack([a, b, c], -1).reshape(-1, 3), np.stack([b, d, c], -1).reshape(-1, 3)]
    )
