"""Eyes, lids, brows, ears, teeth, tongue, hair and hat."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np

from cast.bones import Bones
from cast.piece import Piece, linear, make_piece, other_side
from cast.proportions import Build
from cast.sdf import Array, capsule, common, ellipsoid, sphere, unit
from cast.skull import ORIGIN, head_field, trace
from cast.surface import Surface, grid_triangles, mesh_field, outward, vertex_normals

# How far the lids stand open at rest, degrees about their joints' X.
LID_OPEN = {"upper": -35.0, "lower": -34.0}


def _closed(points: Array, rows: int, columns: int) -> Surface:
    triangles = outward(points - points.mean(0), grid_triangles(rows, columns))
    return Surface(points, triangles, vertex_normals(points, triangles))


def _ball(rows: int, columns: int, end: float = np.pi) -> Array:
    """Unit directions ``(rows, columns, 3)`` around +Z."""
    theta = np.linspace(0, end, rows)
    phi = np.arange(columns) / columns * 2 * np.pi
    T, P = np.meshgrid(theta, phi, indexing="ij")
    return np.stack([np.sin(T) * np.cos(P), np.sin(T) * np.sin(P), np.cos(T)], -1)


def eyes(build: Build, bones: Bones) -> Iterator[Piece]:
    """Eyeballs with the iris on a texture, laid flat onto the front."""
    rows, columns = 11, 18
    ball = _ball(rows, columns).reshape(-1, 3)
    # denser rings in front, where the iris is
    uv = np.stack([0.5 + ball[:, 0] * 0.5, 0.5 - ball[:, 1] * 0.5], 1)
    for side in "LR":
        points = ball * build.head.eye + bones.at(f"eye_{side}")
        surface = _closed(points, rows, columns)
        yield make_piece(
            f"eye_{side}", surface, bones, [f"eye_{side}"], "#ffffff", material="eye", uv=uv
        )


def lids(build: Build, bones: Bones) -> Iterator[Piece]:
    """Hemisphere shells turned by joints; the rim is dark with lashes on the upper one."""
    rows, columns, radius = 9, 22, build.head.eye
    shell = _ball(rows, columns, np.pi / 2)[..., [0, 2, 1]] * np.array([1, 1, -1])
    for side in "LR":
        for name, size, up in (("upper", 1.075, 1.0), ("lower", 1.05, -1.0)):
            scale = np.full((rows, columns), size)
            scale[-1] = 1.012  # the rim curls in
            scale[-2] = size + (0.012 if up > 0 else 0.006)
            points = shell * np.array([1, up, 1]) * scale[..., None] * radius
            bone = f"lid_{name}_{side}"
            axis = bones.world[bones.row(bone)][:3, 0]
            points = _turn(points.reshape(-1, 3), axis, LID_OPEN[name])
            surface = _closed(points, rows, columns)
            surface.points = points + bones.at(bone)
            piece = make_piece(bone, surface, bones, [bone], build.colours.skin, material="skin")
            ring = np.repeat(np.arange(rows), columns)
            if name == "upper":
                piece.colour[ring == rows - 1] = linear(build.colours.lash)
                piece.colour[ring == rows - 2] = linear(build.colours.lash) * 2.2
            yield piece


def _turn(points: Array, axis: Array, degrees: float) -> Array:
    angle = np.radians(degrees)
    cross = np.cross(axis, points)
    along = (points @ axis)[:, None] * axis
    return np.asarray(points * np.cos(angle) + cross * np.sin(angle) + along * (1 - np.cos(angle)))


class _BrowLine:
    """A tapered tube along the brow ridge, and the same line moved."""

    length, around = 11, 6

    def __init__(self, build: Build) -> None:
        self.head = build.head
        self.t = np.linspace(0, 1, self.length)
        self._skull = head_field(build.head, nose=False)

    def points(self, dx: Array, dy: Array) -> Array:
        head, t = self.head, self.t
        x = head.eye_x - 0.125 + 0.29 * t + dx
        y = head.eye_y + head.eye * 1.26 + 0.050 * np.sin(t * 2.4) - 0.055 * t**2 + dy
        d = unit(np.stack([x, y, np.zeros_like(t)], -1) - ORIGIN * (1, 1, 0) + (0, 0, 0.36))
        eye = (head.eye_x, head.eye_y, head.eye_z)

        def over(p: Array) -> Array:
            return np.minimum(self._skull(p), sphere(p, eye, head.eye * 1.09))

        r = trace(over, d, 0.95, 40)
        smooth = np.polyval(np.polyfit(t, r, 3), t)
        centre = ORIGIN + d * (smooth + max(0.0, float((r - smooth).max())) * 0.8 + 0.010)[:, None]
        thick = head.brow * np.sin(np.pi * np.clip(t * 0.88 + 0.10, 0, 1)) ** 0.8
        along = unit(np.gradient(centre, axis=0))
        across = unit(np.cross(along, d))
        angle = np.arange(self.around) / self.around * 2 * np.pi
        ring = np.cos(angle)[None, :, None] * across[:, None]
        ring = ring + np.sin(angle)[None, :, None] * d[:, None] * 0.65
        return np.asarray((centre[:, None] + thick[:, None, None] * ring).reshape(-1, 3))


def brows(build: Build, bones: Bones) -> Iterator[Piece]:
    """Brows with their morphs: up, down, together, inner end up."""
    line = _BrowLine(build)
    t, zero = line.t, np.zeros(line.length)
    inner, outer = (1 - t) ** 1.4, t**1.4
    rest = line.points(zero, zero)
    moved = {
        "brow_up": line.points(zero, zero + 0.046),
        "brow_down": line.points(zero, zero - 0.050),
        "brow_in": line.points(-0.04 * inner, -0.045 * inner),
        "brow_inner_up": line.points(zero - 0.01, 0.062 * inner - 0.040 * outer),
    }
    n, rows = line.around, line.length
    caps = [[0, i, i + 1] for i in range(1, n - 1)]
    caps += [[(rows - 1) * n, (rows - 1) * n + i + 1, (rows - 1) * n + i] for i in range(1, n - 1)]
    triangles = np.concatenate([grid_triangles(rows, n), np.array(caps)])
    triangles = outward(rest - rest.mean(0), triangles)
    for side, sign in (("L", 1.0), ("R", -1.0)):
        m = np.array([sign, 1, 1])
        faces = triangles if sign > 0 else triangles[:, ::-1].copy()
        points = rest * m
        surface = Surface(points + bones.head_centre, faces, vertex_normals(points, faces))
        piece = make_piece(f"brow_{side}", surface, bones, ["head"], build.colours.brow)
        piece.morphs = {f"{k}_{side}": (v - rest) * m for k, v in moved.items()}
        yield piece


def ears(build: Build, bones: Bones) -> list[Piece]:
    size, centre = build.head.ear, bones.head_centre
    at = centre + (build.head.cranium[0] * 0.93 + size * 0.22, -0.02, 0.0)
    n = unit((0.55, 0.05, 0.8))
    up = unit(np.array([0.2, 1, -0.1]) - n * (np.array([0.2, 1, -0.1]) @ n))
    axes = np.stack([np.cross(up, n), up, n], 1)

    def field(p: Array) -> Array:
        q = (p - at) @ axes
        shell = ellipsoid(q, (0, 0, 0), (size * 0.72, size, size * 0.36))
        bowl = (0, size * 0.06, size * 0.36), (size * 0.45, size * 0.66, size * 0.26)
        return common(0.025, shell, -ellipsoid(q, *bowl))

    surface = mesh_field(field, at - 0.2, at + 0.2, 0.014, 260)
    left = make_piece("ear_L", surface, bones, ["head"], build.colours.skin, material="skin")
    return [left, other_side(left, surface, bones)]


def mouth_inside(build: Build, bones: Bones, lips: Array) -> Iterator[Piece]:
    """Two rows of teeth and a tongue. ``lips`` is the mean of the lip line, head frame."""
    centre, half = bones.head_centre, build.head.mouth_width * 0.60
    y0, z0 = float(lips[1]), float(lips[2])

    def arch(p: Array, y: float, tall: float, thick: float) -> Array:
        q = p - centre
        bow = z0 - 0.055 - 0.25 * (q[:, 0] / half) ** 2
        plate = common(0.012, np.abs(q[:, 2] - bow) * 0.75 - thick, np.abs(q[:, 1] - y) - tall)
        return common(0.012, plate, np.abs(q[:, 0]) - half * 0.92)

    base = centre + (0, y0, z0 - 0.1)
    rows = (
        ("teeth_upper", "head", y0 + 0.034, 0.036, 0.022, 1.0),
        ("teeth_lower", "jaw", y0 - 0.066, 0.040, 0.018, -1.0),
    )
    for name, bone, y, tall, thick, sign in rows:
        surface = mesh_field(
            partial(arch, y=y, tall=tall, thick=thick),
            base - (half + 0.02, 0.14, 0.31),
            base + (half + 0.02, 0.10, 0.1),
            0.011,
            250,
        )
        x = (surface.points[:, 0] - centre[0]) / half
        uv = np.stack([0.5 + 0.45 * x, np.full(len(x), 0.5)], 1)
        piece = make_piece(
            name, surface, bones, [bone], build.colours.teeth, material="teeth", uv=uv
        )
        offset = np.ones((len(x), 1))
        piece.morphs = {
            "mouth_pucker": offset * (0, 0.045 * sign, -0.085),
            "mouth_round": offset * (0, 0.040 * sign, -0.075),
            "mouth_press": offset * (0, 0, -0.03),
        }
        yield piece
    a = centre + (0, y0 - 0.105, z0 - 0.25)
    b = centre + (0, y0 - 0.078, z0 - 0.125)
    k = half / 0.196
    tongue = mesh_field(
        lambda p: capsule(p, a, b, 0.085 * k, 0.068 * k, ((0, 1, 0), 0.42)),
        a - 0.14,
        b + 0.14,
        0.018,
        200,
    )
    piece = make_piece(
        "tongue",
        tongue,
        bones,
        ["tongue_1", "tongue_2"],
        build.colours.tongue,
        material="shiny",
        spread=0.04,
    )
    offset = np.ones((len(tongue.points), 1))
    piece.morphs = dict.fromkeys(("mouth_pucker", "mouth_round"), offset * (0, -0.02, -0.07))
    yield piece


def neck(build: Build, bones: Bones) -> Piece:
    low, high = bones.at("neck"), bones.at("head")
    surface = mesh_field(
        lambda p: capsule(p, low - (0, 0.05, 0), high + (0, 0.10, -0.03), 0.160, 0.15),
        low - (0.2, 0.25, 0.2),
        high + (0.2, 0.36, 0.2),
        0.026,
        380,
    )
    piece = make_piece(
        "neck",
        surface,
        bones,
        ["chest", "neck", "head"],
        build.colours.skin,
        material="skin",
        spread=0.08,
    )
    inside = head_field(build.head)(surface.points - bones.head_centre) < -0.035
    piece.colour[inside] = linear(build.colours.mouth)
    return piece


def blush(points: Array) -> Array:
    """Where cheeks and nose are redder, 0...1; head frame, ``(V,)``."""
    q = points * (1, 1, 1)
    q[:, 0] = np.abs(q[:, 0])
    cheek = np.linalg.norm((q - (0.235, -0.11, 0.31)) * (1, 1.25, 0.8), axis=-1) / 0.13
    nose = np.linalg.norm(q - (0, -0.07, 0.52), axis=-1) / 0.13
    return np.asarray(0.42 * np.exp(-(cheek**2)) + 0.35 * np.exp(-(nose**2)))
