"""Hair, beard and the knitted hat."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from cast.bones import Bones
from cast.piece import Piece, make_piece
from cast.proportions import Build
from cast.sdf import Array, Field, capsule, common, ellipsoid, smoothstep, sphere, union, unit
from cast.skull import head_field
from cast.surface import Surface, mesh_field, outward, vertex_normals


def hair(build: Build, bones: Bones) -> tuple[list[Piece], Field]:
    """Hair and beard of a figure, and the hair's field."""
    skull, centre = head_field(build.head, nose=False), bones.head_centre
    styles = {"short": _short, "swept": _swept, "mop": _mop}
    shape, triangles, cell = {
        "short": (styles["short"], 480, 0.026),
        "swept": (styles["swept"], 1300, 0.026),
        "mop": (styles["mop"], 2150, 0.030),
    }[build.hair]
    field = shape(build, skull)
    low, high = centre - (0.70, 0.66, 0.70), centre + (0.70, 0.80, 0.70)
    surface = mesh_field(lambda p: field(p - centre), low, high, cell, triangles)
    pieces = [make_piece("hair", surface, bones, ["head"], build.colours.hair)]
    if build.beard:
        pieces.append(_beard(build, bones, skull))
    return pieces, lambda p: field(p - centre)


def _short(build: Build, skull: Field) -> Field:
    del build

    def field(q: Array) -> Array:
        back = q[:, 2] * 0.9 + q[:, 1] * 0.25 + 0.04 - 0.35 * np.clip(q[:, 1] - 0.08, 0, 1)
        nape = -(q[:, 1] + 0.24 - 0.25 * np.clip(-q[:, 2], 0, 1))
        return common(0.04, skull(q) - 0.035, common(0.05, back, nape))

    return field


def _cap(q: Array, skull: Field) -> Array:
    """A cap over crown and back of the head that leaves forehead and neck free."""
    front = common(0.05, q[:, 2] * 0.95 - q[:, 1] * 0.80 + 0.045, -(q[:, 1] + 0.12))
    return common(0.05, skull(q) - 0.05, front)


def _swept(build: Build, skull: Field) -> Field:
    """Stiff locks combed up and back."""
    del build
    locks = [((x, 0.40, 0.24), (x * 1.5 + 0.06, 0.60, 0.06)) for x in (-0.22, -0.11, 0, 0.11, 0.2)]
    behind = [((x, 0.46, 0.0), (x * 1.2, 0.50, -0.28)) for x in (-0.2, 0, 0.2)]

    def field(q: Array) -> Array:
        tops = union(0.05, *(capsule(q, a, b, 0.09, 0.05) for a, b in locks))
        backs = union(0.05, *(capsule(q, a, b, 0.09, 0.06) for a, b in behind))
        return union(0.10, _cap(q, skull), tops, backs)

    return field


def _mop(build: Build, skull: Field) -> Field:
    """Curls: balls spread evenly over the head (golden angle), none in the face."""
    rng = np.random.default_rng(4)
    count = 90
    g, turn = (np.arange(count) + 0.5) / count, np.pi * (1 + 5**0.5) * np.arange(count)
    y = 1 - 2 * g * 0.62
    ring = np.sqrt(1 - y * y)
    way = np.stack([ring * np.cos(turn), y, ring * np.sin(turn)], -1)
    face = ((way[:, 1] <= 0.18) & (way[:, 2] >= 0.15)) | ((way[:, 2] > 0.35) & (way[:, 1] < 0.56))
    way = way[~face]
    crown = np.array([0, 0.5 - build.head.cranium[1], -0.03])
    places = crown + way * (np.array(build.head.cranium) + 0.035)
    radii = 0.095 + 0.025 * rng.random(len(places))

    def field(q: Array) -> Array:
        d = _cap(q, skull)
        for place, radius in zip(places, radii, strict=True):
            d = union(0.03, d, sphere(q, place, float(radius)))
        return d

    return field


def _beard(build: Build, bones: Bones, skull: Field) -> Piece:
    centre = bones.head_centre

    def field(p: Array) -> Array:
        q = p - centre
        down = smoothstep(0.02, 0.28, -q[:, 1])
        d = union(
            0.10,
            skull(q) - 0.012 - 0.075 * down,
            ellipsoid(q, (0, -0.50, 0.20), (0.26, 0.20, 0.17)),
        )
        d = common(0.02, d, -(skull(q) + 0.05))
        sides = q[:, 1] + 0.225 - 0.88 * np.clip(np.abs(q[:, 0]) - 0.14, 0, 1)
        d = common(0.05, common(0.05, d, sides), -q[:, 2])
        return common(0.05, d, -ellipsoid(q, (0, -0.235, 0.42), (0.20, 0.115, 0.25)))

    low, high = centre - (0.6, 0.78, 0.1), centre + (0.6, 0.1, 0.62)
    surface = mesh_field(field, low, high, 0.028, 480)
    q = surface.points - centre
    jaw = np.clip((-0.17 - q[:, 1]) / 0.12, 0, 1) * np.clip((q[:, 2] - 0.02) / 0.25, 0, 1)
    return make_piece(
        "beard",
        surface,
        bones,
        ["jaw", "head"],
        build.colours.hair,
        weights=np.stack([jaw, 1 - jaw], 1),
    )


def hat(build: Build, bones: Bones) -> Iterator[Piece]:
    """A knitted hat: dome, turned-up rim and bobble; the ribs are on a texture."""
    head, colours = build.head, build.colours
    crown = np.array([0, 0.5 - head.cranium[1], -0.03])
    skull = head_field(head, nose=False)
    tilt = np.radians(-15)
    R = np.array(
        [
            [1, 0, 0],
            [0, np.cos(tilt), -np.sin(tilt)],
            [0, np.sin(tilt), np.cos(tilt)],
        ]
    )

    def shell(start: float, end: float, rows: int, columns: int, profile: Array) -> Array:
        theta = np.linspace(start, end, rows)
        phi = np.linspace(0, 2 * np.pi, columns + 1)
        T, P = np.meshgrid(theta, phi, indexing="ij")
        d = np.stack([np.sin(T) * np.cos(P), np.cos(T), np.sin(T) * np.sin(P)], -1) @ R.T
        rays = d.reshape(-1, 3)
        r = np.full(len(rays), 0.9)
        for _ in range(25):
            r = r - 0.85 * skull(crown + rays * r[:, None])
        r = np.maximum(r, np.percentile(r, 30) * 0.93).reshape(T.shape) + profile[:, None]
        return np.asarray(crown + d * r[..., None])

    x = np.linspace(0, 1, 10)
    dome = shell(0.001, 1.17, 10, 36, 0.075 + 0.09 * np.exp(-((x / 0.35) ** 2)))
    lean = 0.08 * np.clip(1 - np.linspace(0.001, 1.17, 10) / 0.9, 0, 1) ** 2
    dome[..., 2] -= lean[:, None]
    x = np.linspace(0, 1, 10)
    rim = shell(0.96, 1.25, 10, 36, 0.105 * np.clip(1 - np.abs(2 * x - 1) ** 3.5, 0, 1) ** 0.6)
    yield _wrapped("hat", dome, bones, colours.hat, ribs=36, stitches=7)
    yield _wrapped("hat_rim", rim, bones, colours.rim, ribs=36, stitches=4)
    bobble_at = bones.head_centre + crown + R @ np.array([0, head.cranium[1] + 0.20, 0])
    bobble_at = bobble_at - (0, 0.01, 0.05)

    def bobble(p: Array) -> Array:
        bumps = np.sin(p[:, 0] * 75) * np.sin(p[:, 1] * 75) * np.sin(p[:, 2] * 75)
        return sphere(p, bobble_at, 0.085) + 0.012 * bumps

    surface = mesh_field(bobble, bobble_at - 0.12, bobble_at + 0.12, 0.016, 280)
    yield make_piece("bobble", surface, bones, ["hat"], colours.rim)


def _wrapped(
    name: str, points: Array, bones: Bones, colour: str, *, ribs: int, stitches: int
) -> Piece:
    rows, columns = points.shape[:2]
    i = np.arange(rows - 1)[:, None] * columns
    j = np.arange(columns - 1)[None]
    a = i + j
    triangles = np.concatenate(
        [
            np.stack([a, a + 1, a + columns], -1).reshape(-1, 3),
            np.stack([a + 1, a + columns + 1, a + columns], -1).reshape(-1, 3),
        ]
    )
    flat = points.reshape(-1, 3)
    triangles = outward(flat - np.array([0, flat[:, 1].min(), 0]), triangles)
    normals = vertex_normals(flat, triangles).reshape(rows, columns, 3)
    seam = unit(normals[:, 0] + normals[:, -1])
    normals[:, 0] = normals[:, -1] = seam
    u, v = np.meshgrid(np.linspace(0, ribs, columns), np.linspace(0, stitches, rows))
    surface = Surface(flat + bones.head_centre, triangles, normals.reshape(-1, 3))
    uv = np.stack([u, v], -1).reshape(-1, 2)
    return make_piece(name, surface, bones, ["hat"], colour, material="knit", uv=uv)
