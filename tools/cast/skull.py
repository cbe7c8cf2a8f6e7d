"""The head: a grid whose pole sits at the mouth, traced onto a distance field.

Edge loops ring the lips and the mouth opens cleanly. Mouth shapes move the grid's flat
coordinates and trace again, so skin slides over the skull.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from cast.proportions import HeadBuild
from cast.sdf import Array, Field, capsule, common, ellipsoid, mirrored, smoothstep, sphere, union
from cast.sdf import unit as unit_vector
from cast.surface import Triangles

ORIGIN = np.array([0.0, -0.06, 0.02])
COLUMNS = 48


def head_field(head: HeadBuild, *, nose: bool = True) -> Field:
    """The skull with muzzle, brow ridge, shallow eye dishes and, if wanted, the nose."""
    ex, ey, er, n = head.eye_x, head.eye_y, head.eye, head.nose

    def field(p: Array) -> Array:
        q = mirrored(p)
        d = union(
            0.22,
            ellipsoid(q, (0, 0.5 - head.cranium[1], -0.03), head.cranium),
            ellipsoid(q, (0, -0.5 + head.jaw[1] + 0.02, 0.045), head.jaw),
        )
        cheek = np.array([1, 0.95, 1]) * head.cheek
        d = union(0.12, d, ellipsoid(q, (head.jaw[0] * 0.62, -0.13, 0.20), cheek))
        chin = np.array([1.1, 0.8, 0.9]) * head.chin
        d = union(0.12, d, ellipsoid(q, (0, -0.44, 0.235), chin))
        ridge = (0.0, ey + er * 1.15, 0.355), (ex * 1.35, ey + er * 1.25, 0.27)
        d = union(0.09, d, capsule(q, *ridge, 0.055, 0.05))
        d = union(0.08, d, ellipsoid(q, (0, -0.245, 0.31), (0.17, 0.10, 0.10)))
        dish = sphere(q, (ex, ey + 0.01, head.eye_z + er * 1.72), er * 1.5)
        d = common(0.12, d, -dish)
        return _with_nose(d, q, head) if nose else d

    def _with_nose(d: Array, q: Array, head: HeadBuild) -> Array:
        bridge = capsule(q, (0, ey + 0.03, 0.37), (0, -0.07, 0.385 + n[2] * 0.5), 0.03, n[0] * 0.62)
        d = union(head.nose_fillet, d, bridge)
        d = union(head.nose_fillet, d, ellipsoid(q, (0, -0.085, 0.385 + n[2] * 0.62), n))
        wing = (n[0] * 0.75, -0.105, 0.385 + n[2] * 0.25), (n[0] * 0.5, n[1] * 0.55, n[0] * 0.55)
        return union(0.03, d, ellipsoid(q, *wing))

    return field


def trace(field: Field, directions: Array, start: float | Array = 0.95, steps: int = 30) -> Array:
    """Distances from :data:`ORIGIN` at which rays from outside meet the surface, ``(N,)``."""
    r = np.broadcast_to(np.asarray(start, dtype=np.float64), directions.shape[:1]).copy()
    for _ in range(steps):
        r = np.maximum(r - 0.85 * field(ORIGIN + directions * r[:, None]), 0.05)
    return r


class HeadGrid:
    """Rings around the mouth: ring angle ``T`` (0 at the lips, pi at the back) and azimuth."""

    def __init__(self, head: HeadBuild) -> None:
        self._head = head
        self._field = head_field(head)
        self._pole = unit_vector(np.array([0, -0.245, 0.40]) - ORIGIN)
        self._right = np.array([1.0, 0.0, 0.0])
        self._up = np.cross(self._pole, self._right)
        self._up = self._up if self._up[1] > 0 else -self._up
        lips = [0, 0.02, 0.045, 0.072, 0.105, 0.145, 0.19, 0.24]
        rings = np.concatenate([lips, np.arange(0.295, 1.30, 0.062), np.linspace(1.40, np.pi, 9)])
        azimuth = np.arange(COLUMNS) / COLUMNS * 2 * np.pi
        self.T, u = np.meshgrid(rings, azimuth, indexing="ij")
        self.cos, self.sin = np.cos(u), np.sin(u)
        self.flat = self._rest_coordinates()
        self._radius: Array | None = None
        self.points = self.surface(self.flat)

    def _rest_coordinates(self) -> Array:
        width, T = self._head.mouth_width, self.T
        across = (width * (1 - T / np.pi) + T) * self.cos
        smile = 0.035 * np.exp(-((T / 0.25) ** 2)) * self.cos**2
        return np.stack([across, T * self.sin + smile - 0.018 * np.exp(-((T / 0.3) ** 2))], -1)

    def directions(self, flat: Array) -> Array:
        """Unit directions of flat coordinates (length = angle from the pole)."""
        r = np.linalg.norm(flat, axis=-1)
        angle = np.minimum(r, np.pi)
        k = np.where(r > 1e-9, np.sin(angle) / np.maximum(r, 1e-9), 1.0)
        return np.asarray(
            np.cos(angle)[..., None] * self._pole
            + (k * flat[..., 0])[..., None] * self._right
            + (k * flat[..., 1])[..., None] * self._up
        )

    def surface(self, flat: Array, push: float | Array = 0.0, press: float = 0.0) -> Array:
        """Points ``(rings, columns, 3)`` of moved coordinates; ``press`` flattens the lips."""
        d = self.directions(flat)
        rays = d.reshape(-1, 3)
        if self._radius is None:
            radius = self._radius = trace(self._field, rays)
        else:
            radius = trace(self._field, rays, self._radius + 0.06, 18)
        out = radius.reshape(self.T.shape) + self._lips(press) + push
        return np.asarray(ORIGIN + d * out[..., None])

    def _lips(self, press: float) -> Array:
        T = self.T
        full = 0.016 * np.exp(-(((T - 0.08) / 0.055) ** 2)) * (1 - 0.75 * np.abs(self.cos) ** 3)
        full = full - 0.018 * np.exp(-((T / 0.03) ** 2))
        return np.asarray(full * (1 - press) - press * 0.03 * np.exp(-((T / 0.09) ** 2)))

    def near(self, spread: float) -> Array:
        """1 at the lips, falling off with the ring angle."""
        return np.asarray(np.exp(-((self.T / spread) ** 2)))

    def side(self, side: str) -> Array:
        """1 on one side of the face, 0 on the other, soft in the middle."""
        sign = 1.0 if side == "L" else -1.0
        return np.asarray(1 / (1 + np.exp(-sign * self.flat[..., 0] / 0.06)))

    def jaw_weights(self) -> Array:
        """How much each point follows the jaw: the lower half, less towards ears and neck."""
        lower = 0.5 * (-self.sin + np.sqrt(self.sin**2 + 0.04))
        lower = np.clip(lower / 1.01, 0, 1) ** (1 - 0.55 * np.clip(self.T / 0.5, 0, 1))
        return np.asarray(lower * smoothstep(1.35, 0.70, self.T))

    def triangles(self, rows: int) -> Triangles:
        """Grid triangles whose diagonals mirror each other left and right."""
        i = np.arange(rows - 1)[:, None] * COLUMNS
        j = np.arange(COLUMNS)[None]
        a, b = i + j, i + (j + 1) % COLUMNS
        c, d = a + COLUMNS, b + COLUMNS
        left = np.cos((j + 0.5) / COLUMNS * 2 * np.pi) > 0
        upper = np.sin((j + 0.5) / COLUMNS * 2 * np.pi) > 0
        one = np.broadcast_to(left == upper, a.shape)[..., None]
        first = np.where(one, np.stack([a, b, c], -1), np.stack([a, b, d], -1))
        second = np.where(one, np.stack([b, d, c], -1), np.stack([a, d, c], -1))
        return np.concatenate([first.reshape(-1, 3), second.reshape(-1, 3)])


def bag(grid: HeadGrid) -> tuple[Array, Array]:
    """The inside of the mouth: rings ``(R, columns, 3)`` from the depth to the lips, and their
    jaw weights ``(R, columns)``."""
    lips, jaw = grid.points[0], grid.jaw_weights()[0]
    centre = lips.mean(0)
    rings, weights = [], []
    depths = (
        (0.02, 0.98, 0.012),
        (0.06, 1.0, 0.06),
        (0.12, 0.98, 0.10),
        (0.22, 0.80, 0.11),
        (0.31, 0.05, 0.01),
    )
    for depth, wide, high in depths:
        ring = centre + (lips - centre) * np.array([wide, 0.0, 1.0])
        ring[:, 1] += grid.sin[0] * high + (lips - centre)[:, 1] * 0.6 * max(0.0, 1 - depth * 8)
        ring[:, 2] -= depth
        rings.append(ring)
        weights.append(jaw * (1 - depth * 1.5))
    return np.array(rings[::-1]), np.array(weights[::-1])


def mouth_morphs(grid: HeadGrid, head: HeadBuild) -> dict[str, Array]:
    """Offsets of the head grid for every face setting, by name."""
    found: dict[str, Array] = {}
    mask = smoothstep(0.66, 0.42, grid.T)[..., None]  # mouth shapes never reach the eyes
    zero = np.zeros_like(grid.T)

    def slide(across: Array, upwards: Array, push: float | Array = 0.0, press: float = 0) -> Array:
        moved = grid.flat + np.stack([across, upwards], -1)
        return np.asarray((grid.surface(moved, push, press) - grid.points) * mask)

    lower = np.maximum(-grid.sin, 0)
    for side in "LR":
        _side_morphs(found, grid, head, side, slide)
    flat = grid.flat
    found["mouth_pucker"] = slide(
        -flat[..., 0] * 0.54 * grid.near(0.42),
        0.030 * np.sign(grid.sin) * np.sqrt(np.abs(grid.sin)) * grid.near(0.15),
        push=0.060 * grid.near(0.20),
    )
    found["mouth_round"] = slide(
        -flat[..., 0] * 0.42 * grid.near(0.45),
        0.15 * grid.sin * grid.near(0.20),
        push=0.03 * grid.near(0.2),
    )
    found["mouth_press"] = slide(
        flat[..., 0] * 0.10 * grid.near(0.2), -flat[..., 1] * 0.85 * grid.near(0.15), press=1.0
    )
    found["lip_lower_in"] = slide(
        zero, 0.10 * lower * grid.near(0.20), push=-0.10 * np.sqrt(lower) * grid.near(0.12)
    )
    return found


def _side_morphs(
    found: dict[str, Array],
    grid: HeadGrid,
    head: HeadBuild,
    side: str,
    slide: Callable[..., Array],
) -> None:
    sign = 1.0 if side == "L" else -1.0
    weight, zero = grid.side(side), np.zeros_like(grid.T)
    corner = np.abs(grid.cos)
    out = np.sign(grid.cos)
    upper, lower = np.maximum(grid.sin, 0), np.maximum(-grid.sin, 0)
    dx, dy = grid.flat[..., 0] - 0.42 * sign, grid.flat[..., 1] - 0.2
    apple = 0.010 * np.exp(-((dx / 0.15) ** 2) - (dy / 0.16) ** 2)
    found[f"mouth_wide_{side}"] = slide(out * corner**1.3 * 0.15 * grid.near(0.42) * weight, zero)
    found[f"mouth_corner_up_{side}"] = slide(
        out * corner**1.3 * 0.05 * grid.near(0.45) * weight,
        0.19 * corner**2.5 * grid.near(0.42) * weight,
        push=apple,
    )
    found[f"mouth_corner_down_{side}"] = slide(
        out * corner**1.3 * 0.02 * grid.near(0.45) * weight,
        -0.18 * corner**2.5 * grid.near(0.42) * weight,
    )
    found[f"lip_upper_up_{side}"] = slide(zero, 0.155 * upper**0.8 * grid.near(0.22) * weight)
    found[f"lip_lower_down_{side}"] = slide(zero, -0.14 * lower**0.8 * grid.near(0.24) * weight)

    def bump(centre: tuple[float, float, float], stretch: tuple[float, ...], size: float) -> Array:
        at = np.array([centre[0] * sign, centre[1], centre[2]])
        far = np.linalg.norm((grid.points - at) * np.array(stretch), axis=-1) / size
        return np.asarray(np.exp(-(far**2))[..., None])

    found[f"cheek_up_{side}"] = bump((0.22, -0.09, 0.30), (1, 1.2, 0.6), 0.13) * (0, 0.045, 0.03)
    found[f"cheek_puff_{side}"] = bump((0.25, -0.22, 0.25), (1, 1, 0.7), 0.16) * (
        0.075 * sign,
        0.0,
        0.065,
    )
    lift = slide(zero, 0.06 * upper * grid.near(0.3) * weight)
    found[f"nose_sneer_{side}"] = lift + bump((0.06, -0.08, 0.42), (1, 1, 1), 0.08) * (0, 0.03, 0)
    brow = bump((0.15, head.eye_y + 0.19, 0.36), (0.8, 1.3, 0.6), 0.13)
    found[f"brow_up_{side}"] = brow * (0, 0.035, 0)
    found[f"brow_down_{side}"] = brow * (0, -0.03, 0.006)
