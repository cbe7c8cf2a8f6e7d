"""Rotations as unit quaternions ``(x, y, z, w)``, batched over leading axes.

The conventions are those of glTF 2.0 and of ``scipy.spatial.transform.Rotation``, against which
the tests hold every function here. SciPy itself stays off this path: it costs 0.7 s to import.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
IDENTITY: Array = np.array([0.0, 0.0, 0.0, 1.0])
IDENTITY.flags.writeable = False
NOTHING = 1e-150  # stands for zero where a quotient of two small numbers has a limit
# which component stands where in the matrix of a left product, and with which sign
_LEFT = np.array([3, 2, 1, 0, 2, 3, 0, 1, 1, 0, 3, 2, 0, 1, 2, 3])
_LEFT_SIGNS = np.array([1, -1, 1, 1, 1, 1, -1, 1, -1, 1, 1, 1, -1, -1, -1, 1.0])
_DIAGONAL = np.arange(4)


def _outer() -> Array:
    """What each entry of a rotation matrix, row by row, gives to four times the products of its
    quaternion's components with each other, ``(9, 16)``; the diagonal begins with 1."""
    found = np.zeros((3, 3, 4, 4))
    for i in range(3):
        j, k = (i + 1) % 3, (i + 2) % 3
        found[i, i] = np.diag([1.0 if n in (i, 3) else -1.0 for n in range(4)])
        found[i, j, i, j] = found[i, j, j, i] = found[j, i, i, j] = found[j, i, j, i] = 1.0
        found[k, j, i, 3] = found[k, j, 3, i] = 1.0
        found[j, k, i, 3] = found[j, k, 3, i] = -1.0
    return found.reshape(9, 16)


_OUTER, _OUTER_ONE = _outer(), np.eye(4).reshape(16)


def _lengths(v: Array) -> Array:
    """``(..., n)`` to ``(..., 1)``; far quicker on small arrays than ``np.linalg.norm``."""
    return np.asarray(np.sqrt((v * v).sum(-1, keepdims=True)))


def normalise(q: npt.ArrayLike) -> Array:
    """Unit quaternions; a zero quaternion becomes the identity. Shape ``(..., 4)``."""
    q = np.asarray(q, dtype=np.float64)
    length = _lengths(q)
    if length.min(initial=1.0) > 1e-12:
        return np.asarray(q / length)
    safe = np.where(length > 1e-12, length, 1.0)
    return np.where(length > 1e-12, q / safe, IDENTITY)


def multiply(a: npt.ArrayLike, b: npt.ArrayLike) -> Array:
    """The rotation ``b`` followed by ``a`` (the product ``a b``). Shapes ``(..., 4)``."""
    ax, ay, az, aw = _parts(a)
    bx, by, bz, bw = _parts(b)
    x = aw * bx + ax * bw + ay * bz - az * by
    found = np.empty((*x.shape, 4))  # np.stack takes longer than the products
    found[..., 0] = x
    found[..., 1] = aw * by - ax * bz + ay * bw + az * bx
    found[..., 2] = aw * bz + ax * by - ay * bx + az * bw
    found[..., 3] = aw * bw - ax * bx - ay * by - az * bz
    return found


def _parts(q: npt.ArrayLike) -> tuple[Array, Array, Array, Array]:
    q = np.asarray(q, dtype=np.float64)
    return q[..., 0], q[..., 1], q[..., 2], q[..., 3]


def left(q: Array) -> Array:
    """Matrices ``(..., 4, 4)`` with ``left(a) @ b`` the product ``a b``; transposed they undo."""
    return np.asarray((q.take(_LEFT, -1) * _LEFT_SIGNS).reshape(*q.shape[:-1], 4, 4))


def inverse(q: npt.ArrayLike) -> Array:
    """The conjugates ``(..., 4)``, which undo unit quaternions."""
    conjugate = np.array([-1.0, -1.0, -1.0, 1.0])
    return np.asarray(np.asarray(q, dtype=np.float64) * conjugate)


def rotate(q: npt.ArrayLike, v: npt.ArrayLike) -> Array:
    """Vectors ``v``, shape ``(..., 3)``, turned by unit quaternions ``q``, shape ``(..., 4)``."""
    q = np.asarray(q, dtype=np.float64)
    v = np.asarray(v, dtype=np.float64)
    axis, w = q[..., :3], q[..., 3:]
    t = 2.0 * np.cross(axis, v)
    return np.asarray(v + w * t + np.cross(axis, t))


def to_matrix(q: npt.ArrayLike) -> Array:
    """Rotation matrices ``(..., 3, 3)`` of unit quaternions."""
    x, y, z, w = _parts(q)
    m = np.empty((*x.shape, 3, 3))
    m[..., 0, 0] = 1 - 2 * (y * y + z * z)
    m[..., 0, 1] = 2 * (x * y - z * w)
    m[..., 0, 2] = 2 * (x * z + y * w)
    m[..., 1, 0] = 2 * (x * y + z * w)
    m[..., 1, 1] = 1 - 2 * (x * x + z * z)
    m[..., 1, 2] = 2 * (y * z - x * w)
    m[..., 2, 0] = 2 * (x * z - y * w)
    m[..., 2, 1] = 2 * (y * z + x * w)
    m[..., 2, 2] = 1 - 2 * (x * x + y * y)
    return m


def from_matrix(m: npt.ArrayLike) -> Array:
    """Unit quaternions of rotation matrices ``(..., 3, 3)``, with w >= 0.

    Takes the largest of the four squared components first (Shepperd 1978, J. Guidance and
    Control 1(3)), so it is stable for every angle.
    """
    m = np.asarray(m, dtype=np.float64)
    rows = (m.reshape(-1, 9) @ _OUTER + _OUTER_ONE).reshape(-1, 4, 4)
    best = rows[:, _DIAGONAL, _DIAGONAL].argmax(-1)
    q = rows[np.arange(len(rows)), best]
    q /= _lengths(q)
    return shortest(q).reshape(*m.shape[:-2], 4)


def shortest(q: npt.ArrayLike) -> Array:
    """The same rotations ``(..., 4)`` with w >= 0, so that angles are at most a half turn."""
    q = np.asarray(q, dtype=np.float64)
    return np.where(q[..., 3:] < 0, -q, q)


def to_vector(q: npt.ArrayLike) -> Array:
    """Rotation vectors ``(..., 3)`` (axis times angle, at most pi long): the logarithm."""
    q = shortest(q)
    sine = np.maximum(_lengths(q[..., :3]), NOTHING)
    return np.asarray(q[..., :3] * (2.0 * np.arctan2(sine, q[..., 3:]) / sine))


def from_vector(v: npt.ArrayLike) -> Array:
    """Unit quaternions of rotation vectors ``(..., 3)``: the exponential."""
    v = np.asarray(v, dtype=np.float64)
    half = np.maximum(0.5 * _lengths(v), NOTHING)
    return np.concatenate([v * (0.5 * np.sin(half) / half), np.cos(half)], axis=-1)


def power(q: npt.ArrayLike, exponent: float | Array) -> Array:
    """``q``, shape ``(..., 4)``, raised to a power along the shortest arc; any real exponents, one
    or of shape ``(..., 1)``."""
    q = shortest(q)
    sine = np.maximum(_lengths(q[..., :3]), NOTHING)
    half = np.arctan2(sine, q[..., 3:]) * exponent
    return np.concatenate([q[..., :3] * (np.sin(half) / sine), np.cos(half)], axis=-1)


def between(q0: npt.ArrayLike, q1: npt.ArrayLike, amount: float | Array) -> Array:
    """``q0 exp(a log(q0^-1 q1))``, shape ``(..., 4)``: the geodesic from ``q0`` (a = 0) to ``q1``
    (a = 1) and beyond.

    Args:
        q0, q1: unit quaternions ``(..., 4)``.
        amount: a, one number or of shape ``(..., 1)``.
    """
    return normalise(multiply(q0, power(multiply(inverse(q0), q1), amount)))


def angle_between(q0: npt.ArrayLike, q1: npt.ArrayLike) -> Array:
    """Angles ``(...)`` in radians, 0 to pi, between rotations ``(..., 4)``."""
    return np.asarray(np.linalg.norm(to_vector(multiply(inverse(q0), q1)), axis=-1))


def about_axis(axis: npt.ArrayLike, angle: float | Array) -> Array:
    """Unit quaternions ``(..., 4)`` that turn by angles ``(...)`` in radians about unit axes
    ``(..., 3)``."""
    return from_vector(np.asarray(axis, dtype=np.float64) * np.asarray(angle)[..., None])
