"""Euler angles: three turns about a node's own axes, in one of six orders.

Angles are intrinsic and always listed x, y, z, whatever the order of the turns: ``"ZXY"`` is
``Rz Rx Ry``, SciPy's ``from_euler("ZXY", ...)``. An order may also be given as the axes of the
turns for every row, :func:`axes_of`, so that rows of several orders go together.
"""

from __future__ import annotations

from collections.abc import Sequence
from types import EllipsisType
from typing import Literal, get_args

import numpy as np
import numpy.typing as npt

from fox_hand.core.maths.rotations import Array

EulerOrder = Literal["XYZ", "XZY", "YXZ", "YZX", "ZXY", "ZYX"]
EULER_ORDERS: tuple[EulerOrder, ...] = get_args(EulerOrder)
Axes = npt.NDArray[np.intp]
_AXES = {order: tuple("XYZ".index(letter) for letter in order) for order in EULER_ORDERS}
_TURN = 2 * np.pi
_LOCKED = 1e-10  # 1 minus the sine of the middle turn


def axes_of(orders: EulerOrder | Sequence[EulerOrder]) -> Axes:
    """The axes of the three turns: ``(3,)`` of one order, ``(K, 3)`` of several."""
    if isinstance(orders, str):
        return np.array(_AXES[orders], dtype=np.intp)
    return np.array([_AXES[order] for order in orders], dtype=np.intp).reshape(-1, 3)


def _axes_and_sign(order: EulerOrder | Axes) -> tuple[Axes, Array]:
    """The axes, and 1 where each follows the one before it cyclically, else -1."""
    axes = axes_of(order) if isinstance(order, str) else order
    return axes, np.where((axes[..., 1] - axes[..., 0]) % 3 == 1, 1.0, -1.0)


def _in_order(angles: Array, axes: Axes) -> Array:
    """x, y, z to first, second, third."""
    return angles[_columns(axes)]


def _by_axis(values: Array, axes: Axes) -> Array:
    """First, second, third to x, y, z; what comes after them stays."""
    found = values.copy()
    found[_columns(axes)] = values[..., :3]
    return found


def _columns(axes: Axes) -> tuple[EllipsisType | Axes, ...]:
    """The index that takes each row's values in the order of its turns."""
    if axes.ndim == 1:
        return ..., axes
    return ..., np.arange(len(axes))[:, None], axes


def from_euler(angles: npt.ArrayLike, order: EulerOrder | Axes) -> Array:
    """Intrinsic turns to unit quaternions ``(..., 4)``.

    Args:
        angles: radians about the x, y and z axis, ``(..., 3)``.
        order: of the turns, each about the axes as already turned.
    """
    axes, sign = _axes_and_sign(order)
    half = 0.5 * _in_order(np.asarray(angles, dtype=np.float64), axes)
    sine, cosine = np.sin(half), np.cos(half)
    s1, s2, s3 = sine[..., 0], sine[..., 1] * sign, sine[..., 2]
    c1, c2, c3 = cosine[..., 0], cosine[..., 1], cosine[..., 2]
    q = np.empty((*half.shape[:-1], 4))
    q[..., 0] = s1 * c2 * c3 + c1 * s2 * s3
    q[..., 1] = (c1 * s2 * c3 - s1 * c2 * s3) * sign
    q[..., 2] = c1 * c2 * s3 + s1 * s2 * c3
    q[..., 3] = c1 * c2 * c3 - s1 * s2 * s3
    return _by_axis(q, axes)


def to_euler(q: npt.ArrayLike, order: EulerOrder | Axes) -> Array:
    """Intrinsic turns ``(..., 3)`` in radians (listed x, y, z); middle turn in -pi/2...pi/2.

    Where the middle turn is a quarter turn (gimbal lock) the last turn is set to zero.
    """
    axes, sign = _axes_and_sign(order)
    angles = _turns(np.asarray(q, dtype=np.float64), axes, sign)
    angles -= _TURN * np.round(angles / _TURN)
    return angles


def _turns(q: Array, axes: Axes, sign: Array) -> Array:
    """The turns, the first and the last up to whole turns.

    Half the sum and half the difference of the outer turns are the angles of two pairs of the
    quaternion's components, whose lengths give the middle one (Bernardes and Viollet 2022,
    PLoS ONE 17(11)). Unlike an arcsine that is exact near the lock.
    """
    own, w = _in_order(q[..., :3], axes), q[..., 3]
    i, j, k = own[..., 0], own[..., 1], own[..., 2] * sign
    a, b, c, d = w + j, i + k, w - j, i - k
    plus, minus = np.arctan2(b, a), np.arctan2(d, c)
    high, low = a * a + b * b, c * c + d * d
    plus, minus = np.where(high < _LOCKED, minus, plus), np.where(low < _LOCKED, plus, minus)
    angles = np.empty((*w.shape, 3))
    angles[..., 0] = plus + minus
    angles[..., 1] = 2.0 * np.arctan2(np.sqrt(high), np.sqrt(low)) - np.pi / 2
    angles[..., 2] = (plus - minus) * sign
    return _by_axis(angles, axes)


def to_euler_near(q: npt.ArrayLike, order: EulerOrder | Axes, hint: npt.ArrayLike) -> Array:
    """The Euler triples ``(..., 3)`` in radians of ``q (..., 4)`` that lie nearest to ``hint
    (..., 3)``, whole turns included.

    Every rotation has two triples per whole turn; values that were typed as 200 degrees are
    shown as 200 degrees again.

    Args:
        q: unit quaternions x, y, z, w, ``(..., 4)``.
        order: the axes in the order in which they are turned about.
        hint: angles shown before, radians ``(..., 3)``.
    """
    hint = np.asarray(hint, dtype=np.float64)
    axes, sign = _axes_and_sign(order)
    first = _turns(np.asarray(q, dtype=np.float64), axes, sign)
    middle = axes[..., 1:2] == np.arange(3)
    both = np.stack((first, np.where(middle, np.pi - first, first + np.pi)))
    both -= _TURN * np.round((both - hint) / _TURN)
    distance = np.abs(both - hint).sum(-1, keepdims=True)
    return np.asarray(np.where(distance[0] <= distance[1], both[0], both[1]))
