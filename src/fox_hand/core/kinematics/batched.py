"""Vectors and matrices of many rows over many frames, with the frames last in memory.

Forward kinematics and solvers do the same few steps for every row and every frame. With the
frames as the last axis every NumPy operation runs over long contiguous stretches, which is several
times faster than 3x3 and 4x4 blocks with the frames in front. A single frame is a batch of one.

Shapes: vectors ``(K, 3, F)``, rotations ``(K, 3, 3, F)``, scalars ``(K, 1, F)``.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from fox_hand.core.maths.rotations import Array

TINY = 1e-12
NEXT, AFTER = np.array([1, 2, 0]), np.array([2, 0, 1])
# products of quaternion components: xx yy zz xy xz yz wx wy wz
FIRST = np.array([0, 1, 2, 0, 0, 1, 3, 3, 3])
SECOND = np.array([0, 1, 2, 1, 2, 2, 0, 1, 2])
# what each entry of the matrix, row by row, takes of them (the diagonal begins with 1)
SUMS = np.array(
    [
        [0, -2, -2, 0, 0, 0, 0, 0, 0],
        [0, 0, 0, 2, 0, 0, 0, 0, -2],
        [0, 0, 0, 0, 2, 0, 0, 2, 0],
        [0, 0, 0, 2, 0, 0, 0, 0, 2],
        [-2, 0, -2, 0, 0, 0, 0, 0, 0],
        [0, 0, 0, 0, 0, 2, -2, 0, 0],
        [0, 0, 0, 0, 2, 0, 0, -2, 0],
        [0, 0, 0, 0, 0, 2, 2, 0, 0],
        [-2, -2, 0, 0, 0, 0, 0, 0, 0],
    ],
    dtype=np.float64,
)


def _turned_entries() -> Array:
    """What each product of 1, cosine or sine of three angles gives to the entries, row by row, of
    the matrix of intrinsic X, Y, Z turns, ``(27, 9)``."""
    one, c, s = 0, 1, 2
    found = np.zeros((3, 3, 3, 9))
    for entry, *factors, sign in (
        (0, one, c, c, 1),
        (1, one, c, s, -1),
        (2, one, s, one, 1),
        (3, c, one, s, 1),
        (3, s, s, c, 1),
        (4, c, one, c, 1),
        (4, s, s, s, -1),
        (5, s, c, one, -1),
        (6, s, one, s, 1),
        (6, c, s, c, -1),
        (7, s, one, c, 1),
        (7, c, s, s, 1),
        (8, c, c, one, 1),
    ):
        found[(*factors, entry)] = sign
    return found.reshape(27, 9)


TURNED = _turned_entries()


def frames_last(values: Array) -> Array:
    """``(F, K, ...)`` or, for one frame, ``(K, ...)`` to contiguous ``(K, ..., F)``."""
    return np.ascontiguousarray(np.moveaxis(values, 0, -1))


def dot(a: Array, b: Array) -> Array:
    """``(K, 1, F)``."""
    return np.asarray((a * b).sum(1, keepdims=True))


def length(v: Array) -> Array:
    """``(K, 1, F)``."""
    return np.asarray(np.sqrt(dot(v, v)))


def cross(a: Array, b: Array) -> Array:
    """Vector products ``(K, 3, F)``."""
    found = a.take(NEXT, 1) * b.take(AFTER, 1)
    found -= a.take(AFTER, 1) * b.take(NEXT, 1)
    return found


def unit(v: Array, fallback: Callable[[], Array]) -> Array:
    """Vectors ``(K, 3, F)`` of length one; where one has no length that of the fallback, which is
    only made then."""
    size = length(v)
    if size.min(initial=1.0) > TINY:
        return np.asarray(v / size)
    return np.where(size > TINY, v / np.maximum(size, TINY), fallback())


def across(v: Array, along: Array) -> Array:
    """The part of ``v`` at right angles to the unit vectors ``along``, all ``(K, 3, F)``."""
    return np.asarray(v - dot(v, along) * along)


def around(v: Array, axis: Array, sine: Array, cosine: Array) -> Array:
    """Vectors turned about axes they lie across, ``(K, 3, F)``.

    Args:
        v: vectors ``(K, 3, F)`` across the axes.
        axis: unit vectors ``(K, 3, F)``.
        sine, cosine: of the angles, ``(K, 1, F)``.
    """
    return np.asarray(v * cosine + cross(axis, v) * sine)


def some_perpendicular(v: Array) -> Array:
    """Unit vectors across the unit vectors ``v``, both ``(K, 3, F)``, always the same for the same
    ``v``."""
    x = np.where(np.abs(v[:, :1]) < 0.9, 1.0, 0.0)
    axis = np.concatenate([x, 1.0 - x, np.zeros_like(x)], 1)
    found = cross(v, axis)
    return np.asarray(found / np.maximum(length(found), TINY))


def basis(along: Array, normal: Array) -> Array:
    """Axes as columns: along the bone, the bend axis, and across, ``(K, 3, 3, F)``."""
    found = np.empty((*along.shape[:2], 3, along.shape[-1]))
    found[:, :, 0], found[:, :, 1], found[:, :, 2] = along, normal, cross(along, normal)
    return found


def place(parents: Array, local: Array, out: Array) -> Array:
    """Forward kinematics of one level: world matrices of nodes from those of their parents and
    their own local ones, all affine ``(K, 3, 4, F)``, written to and given as ``out``.

    Args:
        parents: world matrices of the parents.
        local: the nodes' own.
        out: where the result goes; it must not overlap the others.
    """
    part = np.empty_like(out)
    np.multiply(parents[:, :, 0, None], local[:, None, 0], out=out)
    for k in (1, 2):
        np.multiply(parents[:, :, k, None], local[:, None, k], out=part)
        out += part
    out[:, :, 3] += parents[:, :, 3]
    return out


def product(a: Array, b: Array) -> Array:
    """Matrix products ``(K, 3, 3, F) x (K, 3, n, F) -> (K, 3, n, F)``."""
    count = max(a.shape[-1], b.shape[-1])
    if count == 1:
        return np.asarray(np.matmul(a[..., 0], b[..., 0])[..., None])
    found: Array = a[:, :, 0, None] * b[:, None, 0]
    part = np.empty_like(found)
    for k in range(1, a.shape[2]):
        np.multiply(a[:, :, k, None], b[:, None, k], out=part)
        found += part
    return found


def turned_back(a: Array, b: Array) -> Array:
    """``a`` transposed times ``b``: ``(K, 3, 3, F) x (K, 3, n, F) -> (K, 3, n, F)``."""
    return product(a.swapaxes(1, 2), b)


def apply(matrix: Array, v: Array) -> Array:
    """Matrices ``(K, 3, 3, F)`` times vectors ``(K, 3, F)``."""
    return product(matrix, v[:, :, None])[:, :, 0]


def column_lengths(matrix: Array) -> Array:
    """Lengths of the columns of ``(K, 3, 3, F)``, ``(K, 1, 3, F)``."""
    squares = (matrix * matrix).sum(1, keepdims=True)
    return np.asarray(np.sqrt(squares, out=squares))


def directions(matrix: Array) -> Array:
    """Matrices ``(K, 3, 3, F)`` whose columns have length one; a mirrored basis stays so."""
    return np.asarray(matrix / np.maximum(column_lengths(matrix), TINY))


def about(axis: Array, angle: Array) -> Array:
    """Rotations by ``angle (K, 1, F)`` about unit axes ``(K, 3, 1)``."""
    half = 0.5 * angle
    q = np.empty((max(len(axis), len(angle)), 4, angle.shape[-1]))
    q[:, :3] = axis * np.sin(half)
    q[:, 3:] = np.cos(half)
    return rotations(q)


def rotations(q: Array) -> Array:
    """Rotation matrices ``(K, 3, 3, F)`` of unit quaternions ``(K, 4, F)``.

    Every entry is a sum of products of two components, so all of them are one matrix product.
    """
    products = q.take(FIRST, 1) * q.take(SECOND, 1)
    found: Array
    if q.shape[-1] == 1:
        found = (products[..., 0] @ SUMS.T)[..., None]
    else:
        found = np.matmul(SUMS, products)
    found[:, ::4] += 1.0
    return np.asarray(found.reshape(len(q), 3, 3, q.shape[-1]))


def euler_xyz(angles: Array) -> Array:
    """Intrinsic X, Y, Z turns ``(K, 3, F)`` in radians as matrices ``(K, 3, 3, F)``."""
    if angles.shape[-1] == 1:
        return _euler_alone(angles[..., 0])
    s, c = np.sin(angles), np.cos(angles)
    sa, sb, sc, ca, cb, cc = s[:, 0], s[:, 1], s[:, 2], c[:, 0], c[:, 1], c[:, 2]
    found = np.empty((len(angles), 3, 3, angles.shape[-1]))
    found[:, 0, 0], found[:, 0, 1], found[:, 0, 2] = cb * cc, -cb * sc, sb
    sasb, casb = sa * sb, ca * sb
    found[:, 1, 0], found[:, 1, 1] = ca * sc + sasb * cc, ca * cc - sasb * sc
    found[:, 2, 0], found[:, 2, 1] = sa * sc - casb * cc, sa * cc + casb * sc
    found[:, 1, 2], found[:, 2, 2] = -sa * cb, ca * cb
    return found


def _euler_alone(angles: Array) -> Array:
    """One frame: a few operations on all nine entries instead of many on one."""
    parts = np.ones((len(angles), 3, 3))
    np.cos(angles, out=parts[..., 1])
    np.sin(angles, out=parts[..., 2])
    first = (parts[:, 0, :, None] * parts[:, 1, None]).reshape(-1, 9, 1)
    products = (first * parts[:, 2, None]).reshape(-1, 27)
    return np.asarray((products @ TURNED).reshape(-1, 3, 3, 1))
