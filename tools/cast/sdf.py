"""Signed distance fields: negative inside, positive outside, roughly in units of length."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
Field = Callable[[Array], Array]
Vector = npt.ArrayLike


def unit(v: Vector) -> Array:
    """Vectors of length one along the last axis."""
    v = np.asarray(v, dtype=np.float64)
    return np.asarray(v / np.maximum(np.linalg.norm(v, axis=-1, keepdims=True), 1e-9))


def ellipsoid(p: Array, centre: Vector, radii: Vector) -> Array:
    """First-order distance to an ellipsoid with its axes along x, y and z."""
    q = p - np.asarray(centre)
    r = np.asarray(radii, dtype=np.float64)
    k0 = np.linalg.norm(q / r, axis=-1)
    k1 = np.linalg.norm(q / (r * r), axis=-1)
    return np.asarray(np.where(k1 > 1e-9, k0 * (k0 - 1) / np.maximum(k1, 1e-9), -r.min()))


def sphere(p: Array, centre: Vector, radius: float) -> Array:
    return np.asarray(np.linalg.norm(p - np.asarray(centre), axis=-1) - radius)


def capsule(
    p: Array,
    a: Vector,
    b: Vector,
    radius_a: float,
    radius_b: float,
    flat: tuple[Vector, float] | None = None,
) -> Array:
    """A tapered capsule; ``flat = (direction, factor)`` squeezes it along a direction."""
    a, b = np.asarray(a, dtype=np.float64), np.asarray(b, dtype=np.float64)
    axis = b - a
    h = np.clip((p - a) @ axis / (axis @ axis), 0, 1)
    q = p - a - h[..., None] * axis
    radius = radius_a + (radius_b - radius_a) * h
    if flat is None:
        return np.asarray(np.linalg.norm(q, axis=-1) - radius)
    direction, factor = unit(flat[0]), flat[1]
    q = q + ((q @ direction) * (1 / factor - 1))[..., None] * direction
    return np.asarray((np.linalg.norm(q, axis=-1) - radius) * min(1.0, factor))


def cylinder(
    p: Array, a: Vector, b: Vector, radius: float, edge: float, radius_b: float | None = None
) -> Array:
    """A cylinder with rounded edges; with ``radius_b`` a truncated cone."""
    a, b = np.asarray(a, dtype=np.float64), np.asarray(b, dtype=np.float64)
    length = float(np.linalg.norm(b - a))
    direction = (b - a) / length
    q = p - (a + b) / 2
    along = q @ direction
    across = np.linalg.norm(q - along[..., None] * direction, axis=-1)
    end = radius if radius_b is None else radius_b
    here = radius + (end - radius) * np.clip(along / length + 0.5, 0, 1)
    dx, dy = across - here + edge, np.abs(along) - length / 2 + edge
    outside = np.hypot(np.maximum(dx, 0), np.maximum(dy, 0))
    return np.asarray(np.minimum(np.maximum(dx, dy), 0) + outside - edge)


def torus(p: Array, centre: Vector, normal: Vector, ring: float, tube: float) -> Array:
    n = unit(normal)
    q = p - np.asarray(centre)
    y = q @ n
    x = np.linalg.norm(q - y[..., None] * n, axis=-1)
    return np.asarray(np.hypot(x - ring, y) - tube)


def union(k: float, *fields: Array) -> Array:
    """The smooth union of distances; ``k`` is the width of the fillet."""
    joined = fields[0]
    for other in fields[1:]:
        h = np.maximum(k - np.abs(joined - other), 0) / k
        joined = np.minimum(joined, other) - h * h * k * 0.25
    return joined


def common(k: float, a: Array, b: Array) -> Array:
    """The smooth intersection of two distances."""
    return np.asarray(-union(k, -a, -b))


def mirrored(p: Array) -> Array:
    """Points folded onto the figure's left half."""
    q = p.copy()
    q[..., 0] = np.abs(q[..., 0])
    return q


def smoothstep(low: float, high: float, x: Array) -> Array:
    """0 below ``low``, 1 above ``high``, smooth between; ``low`` may be the larger one."""
    t = np.clip((x - low) / (high - low), 0, 1)
    return np.asarray(t * t * (3 - 2 * t))
