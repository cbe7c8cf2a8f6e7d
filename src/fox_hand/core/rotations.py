"""Rotations as unit quaternions ``(x, y, z, w)``, batched over leading axes.

The conventions are those of glTF 2.0 and of ``scipy.spatial.transform.Rotation``, against which
the tests hold every function here. SciPy itself stays off this path: it costs 0.7 s to import.
"""

from __future__ import annotations

from typing import Literal, get_args

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
EulerOrder = Literal["XYZ", "XZY", "YXZ", "YZX", "ZXY", "ZYX"]
EULER_ORDERS: tuple[EulerOrder, ...] = get_args(EulerOrder)
IDENTITY: Array = np.array([0.0, 0.0, 0.0, 1.0])
IDENTITY.flags.writeable = False


def normalise(q: npt.ArrayLike) -> Array:
    """Unit quaternions; a zero quaternion becomes the identity. Shape ``(..., 4)``."""
    q = np.asarray(q, dtype=np.float64)
    length = np.linalg.norm(q, axis=-1, keepdims=True)
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


def inverse(q: npt.ArrayLike) -> Array:
    """The conjugate, which undoes a unit quaternion."""
    conjugate = np.array([-1.0, -1.0, -1.0, 1.0])
    return np.asarray(np.asarray(q, dtype=np.float64) * conjugate)


def rotate(q: npt.ArrayLike, v: npt.ArrayLike) -> Array:
    """Vectors ``v (..., 3)`` turned by ``q (..., 4)``."""
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
    d0, d1, d2 = m[..., 0, 0], m[..., 1, 1], m[..., 2, 2]
    squares = np.stack([1 + d0 - d1 - d2, 1 - d0 + d1 - d2, 1 - d0 - d1 + d2, 1 + d0 + d1 + d2], -1)
    wx, wy, wz = (
        m[..., 2, 1] - m[..., 1, 2],
        m[..., 0, 2] - m[..., 2, 0],
        m[..., 1, 0] - m[..., 0, 1],
    )
    xy, xz, yz = (
        m[..., 1, 0] + m[..., 0, 1],
        m[..., 0, 2] + m[..., 2, 0],
        m[..., 2, 1] + m[..., 1, 2],
    )
    rows = np.stack(
        [
            np.stack([squares[..., 0], xy, xz, wx], -1),
            np.stack([xy, squares[..., 1], yz, wy], -1),
            np.stack([xz, yz, squares[..., 2], wz], -1),
            np.stack([wx, wy, wz, squares[..., 3]], -1),
        ],
        -2,
    )
    best = np.argmax(squares, axis=-1)
    q = np.take_along_axis(rows, best[..., None, None], axis=-2)[..., 0, :]
    q = normalise(q)
    return np.where(q[..., 3:] < 0, -q, q)


def shortest(q: npt.ArrayLike) -> Array:
    """The same rotations with w >= 0, so that angles are at most a half turn."""
    q = np.asarray(q, dtype=np.float64)
    return np.where(q[..., 3:] < 0, -q, q)


def to_vector(q: npt.ArrayLike) -> Array:
    """Rotation vectors ``(..., 3)`` (axis times angle, at most pi long): the logarithm."""
    q = shortest(q)
    sine = np.linalg.norm(q[..., :3], axis=-1, keepdims=True)
    angle = 2.0 * np.arctan2(sine, q[..., 3:])
    # for tiny angles angle/sine tends to 2; the quotient itself would be 0/0
    factor = np.where(sine > 1e-12, angle / np.where(sine > 1e-12, sine, 1.0), 2.0)
    return np.asarray(q[..., :3] * factor)


def from_vector(v: npt.ArrayLike) -> Array:
    """Unit quaternions of rotation vectors ``(..., 3)``: the exponential."""
    v = np.asarray(v, dtype=np.float64)
    angle = np.linalg.norm(v, axis=-1, keepdims=True)
    # sin(x/2)/x written with sinc, which is defined at 0
    half = 0.5 * np.sinc(angle / (2.0 * np.pi))
    return np.concatenate([v * half, np.cos(angle * 0.5)], axis=-1)


def power(q: npt.ArrayLike, exponent: float | Array) -> Array:
    """``q`` raised to a power along the shortest arc; any real exponent."""
    return from_vector(to_vector(q) * np.asarray(exponent))


def between(q0: npt.ArrayLike, q1: npt.ArrayLike, amount: float | Array) -> Array:
    """``q0 exp(a log(q0^-1 q1))``: the geodesic from ``q0`` (a=0) to ``q1`` (a=1) and beyond."""
    return normalise(multiply(q0, power(multiply(inverse(q0), q1), amount)))


def angle_between(q0: npt.ArrayLike, q1: npt.ArrayLike) -> Array:
    """The angle in radians, 0...pi, between two rotations. Shape of the leading axes."""
    return np.asarray(np.linalg.norm(to_vector(multiply(inverse(q0), q1)), axis=-1))


def about_axis(axis: npt.ArrayLike, angle: float | Array) -> Array:
    """Rotation by ``angle`` radians about a unit ``axis (..., 3)``."""
    return from_vector(np.asarray(axis, dtype=np.float64) * np.asarray(angle)[..., None])


_AXES = {"X": 0, "Y": 1, "Z": 2}


def from_euler(angles: npt.ArrayLike, order: EulerOrder) -> Array:
    """Intrinsic Euler turns to quaternions.

    Args:
        angles: radians about the x, y and z axis, ``(..., 3)`` (always in the order x, y, z).
        order: the order of the turns, each about the axes as already turned: ``"ZXY"`` is
            ``Rz Rx Ry``, SciPy's ``from_euler("ZXY", ...)``.
    """
    angles = np.asarray(angles, dtype=np.float64)
    q: Array | None = None
    for letter in order:
        axis = _AXES[letter]
        part = np.zeros((*angles.shape[:-1], 4))
        part[..., axis] = np.sin(angles[..., axis] * 0.5)
        part[..., 3] = np.cos(angles[..., axis] * 0.5)
        q = part if q is None else multiply(q, part)
    assert q is not None
    return q


def to_euler(q: npt.ArrayLike, order: EulerOrder) -> Array:
    """Intrinsic Euler turns ``(..., 3)`` in radians (listed x, y, z); middle turn in -pi/2...pi/2.

    Where the middle turn is a quarter turn (gimbal lock) the last turn is set to zero.
    """
    m = to_matrix(q)
    i, j, k = (_AXES[c] for c in order)
    sign = 1.0 if (j - i) % 3 == 1 else -1.0
    sine = np.clip(sign * m[..., i, k], -1.0, 1.0)
    locked = np.abs(sine) > 1 - 1e-10
    first = np.where(
        locked,
        np.arctan2(sign * m[..., k, j], m[..., j, j]),
        np.arctan2(-sign * m[..., j, k], m[..., k, k]),
    )
    last = np.where(locked, 0.0, np.arctan2(-sign * m[..., i, j], m[..., i, i]))
    angles = np.empty((*sine.shape, 3))
    angles[..., i], angles[..., j], angles[..., k] = first, np.arcsin(sine), last
    return angles


def to_euler_near(q: npt.ArrayLike, order: EulerOrder, hint: npt.ArrayLike) -> Array:
    """The Euler triple of ``q`` that lies nearest to ``hint`` (radians), whole turns included.

    Every rotation has two triples per whole turn; values that were typed as 200 degrees are
    shown as 200 degrees again.
    """
    hint = np.asarray(hint, dtype=np.float64)
    first = to_euler(q, order)
    i, j, k = (_AXES[c] for c in order)
    other = first.copy()
    other[..., i] += np.pi
    other[..., j] = np.pi - other[..., j]
    other[..., k] += np.pi
    turn = 2 * np.pi
    near = [a - turn * np.round((a - hint) / turn) for a in (first, other)]
    distance = [np.abs(a - hint).sum(-1, keepdims=True) for a in near]
    return np.asarray(np.where(distance[0] <= distance[1], near[0], near[1]))
