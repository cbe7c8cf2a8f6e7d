"""Puts a whole figure together: pieces, weights, colours, occlusion."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from cast import features
from cast.bones import Bones, build_bones
from cast.clothes import dress
from cast.hair import hair, hat
from cast.hands import hands
from cast.paint import occlusion
from cast.piece import Piece, linear, make_piece
from cast.proportions import Build
from cast.sdf import Array, Field, mirrored, smoothstep
from cast.skull import HeadGrid, bag, head_field, mouth_morphs
from cast.surface import Surface, outward, vertex_normals

SEAL = "lips_seal"
JAW_OPEN = 22.0  # degrees the jaw has turned when its setting is 1


@dataclass
class Figure:
    """A finished figure, in heads."""

    build: Build
    bones: Bones
    pieces: list[Piece]

    @property
    def morphs(self) -> list[str]:
        """Names of all face settings."""
        return sorted({name for piece in self.pieces for name in piece.morphs})


def sculpt(build: Build) -> Figure:
    """Build one member of the cast."""
    bones = build_bones(build)
    clothes, fields = dress(build, bones)
    both_hands, hand = hands(build, bones)
    head, lips = _head(build, bones)
    locks, hair_field = hair(build, bones)
    pieces = [*clothes, *both_hands, head, features.neck(build, bones), *locks]
    pieces += features.ears(build, bones)
    if build.hat:
        pieces += hat(build, bones)
    lids = list(features.lids(build, bones))
    brows = list(features.brows(build, bones))
    skull = head_field(build.head)
    around: list[Field] = [
        *fields,
        lambda p: hand(mirrored(p)),
        lambda p: skull(p - bones.head_centre),
        hair_field,
    ]
    occlusion([*pieces, *lids, *brows], around)
    for piece in lids:
        piece.occlusion = np.maximum(piece.occlusion, 0.9)
    pieces += [*lids, *brows, *features.eyes(build, bones)]
    inside = list(features.mouth_inside(build, bones, lips))
    _shade_inside(inside, build, bones, lips)
    return Figure(build, bones, [*pieces, *inside])


def _head(build: Build, bones: Bones) -> tuple[Piece, Array]:
    grid = HeadGrid(build.head)
    inner, inner_jaw = bag(grid)
    points = np.concatenate([inner, grid.points])
    jaw = np.concatenate([inner_jaw, grid.jaw_weights()]).reshape(-1)
    rows, columns = points.shape[:2]
    flat = points.reshape(-1, 3)
    triangles = outward(flat, grid.triangles(rows))
    normals = vertex_normals(flat, triangles)
    surface = Surface(flat + bones.head_centre, triangles, normals)
    piece = make_piece(
        "head",
        surface,
        bones,
        ["jaw", "head"],
        build.colours.skin,
        material="skin",
        weights=np.stack([jaw, 1 - jaw], 1),
    )
    fade = np.array([0, 0.1, 0.4, 0.8, 1.0])[:, None, None]  # the bag follows the lips
    piece.morphs = {
        name: np.concatenate([offset[0][None] * fade, offset]).reshape(-1, 3)
        for name, offset in mouth_morphs(grid, build.head).items()
    }
    if build.sealed:
        rings = np.concatenate([np.zeros((rows - len(grid.T), columns)), grid.T]).reshape(-1)
        piece.morphs[SEAL] = _seal(bones, surface.points, jaw, rings)
    _paint_head(piece, grid, build, len(inner), flat)
    dark = np.array([0.22, 0.3, 0.4, 0.5, 0.6])
    piece.occlusion[: len(inner) * columns] = np.repeat(dark, columns)
    return piece, grid.points[0].mean(0)


def _seal(bones: Bones, points: Array, jaw: Array, rings: Array) -> Array:
    """Offsets that keep the lips together when the jaw stands at :data:`JAW_OPEN`: near the lips
    every point comes to move half with the jaw and half with the head."""
    at = bones.world[bones.row("jaw")]
    turn = at[:3, :3] @ _about_x(JAW_OPEN) @ at[:3, :3].T - np.eye(3)
    share = np.exp(-((rings / 0.20) ** 2)) * (0.5 - jaw)
    wanted = ((points - at[:3, 3]) @ turn.T) * share[:, None]
    skin = np.eye(3) + jaw[:, None, None] * turn
    return np.asarray(np.linalg.solve(skin, wanted[..., None])[..., 0])


def _about_x(degrees: float) -> Array:
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    return np.array([[1, 0, 0], [0, c, -s], [0, s, c]])


def _paint_head(piece: Piece, grid: HeadGrid, build: Build, bag_rings: int, flat: Array) -> None:
    columns = grid.T.shape[1]
    skin, lip = linear(build.colours.skin), linear(build.colours.lip)
    lips = smoothstep(0.125, 0.085, grid.T) * (1 - 0.4 * np.abs(grid.cos) ** 6)
    share = np.concatenate([np.ones((bag_rings, columns)), lips]).reshape(-1, 1) * 0.72
    colour = skin * (1 - share) + lip * share
    red = features.blush(flat)[:, None]
    colour = colour * (1 - red) + lip * (1.25, 0.95, 0.9) * red
    colour[: (bag_rings - 1) * columns] = linear(build.colours.mouth)
    piece.colour = colour


def _shade_inside(pieces: list[Piece], build: Build, bones: Bones, lips: Array) -> None:
    """Teeth and tongue get darker towards the cheeks and the throat."""
    half = build.head.mouth_width * 0.60
    for piece in pieces:
        local = piece.points - bones.head_centre
        side = np.clip(0.97 - 0.70 * (local[:, 0] / half) ** 2, 0.12, 1)
        deep = np.clip((local[:, 2] - lips[2] + 0.30) / 0.18, 0.25, 1)
        piece.occlusion = side * deep
