"""One closed part of a figure, ready to be painted and written."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from cast.bones import Bones
from cast.sdf import Array
from cast.surface import Surface, Triangles, bone_weights, vertex_normals

INFLUENCES = 4


@dataclass
class Piece:
    """A part with weights and colour.

    Args:
        name: for messages and painting.
        material: key of :data:`cast.paint.MATERIALS`.
        points, normals: ``(V, 3)`` in heads.
        triangles: ``(T, 3)``.
        joints, weights: ``(V, 4)``.
        colour: linear RGB per vertex ``(V, 3)``, before occlusion.
        uv: ``(V, 2)``, v downwards as in glTF.
        morphs: offsets ``(V, 3)`` by setting name.
        occlusion: 0 (hidden) ... 1 (open), ``(V,)``.
    """

    name: str
    material: str
    points: Array
    normals: Array
    triangles: Triangles
    joints: Array
    weights: Array
    colour: Array
    uv: Array
    morphs: dict[str, Array] = field(default_factory=dict)
    occlusion: Array = field(default_factory=lambda: np.ones(0))

    def __post_init__(self) -> None:
        if not len(self.occlusion):
            self.occlusion = np.ones(len(self.points))

    def morph_normals(self, name: str) -> Array:
        """How the normals change when a morph is fully on."""
        before = vertex_normals(self.points, self.triangles)
        after = vertex_normals(self.points + self.morphs[name], self.triangles)
        return np.asarray(after - before)


def strongest(weights: Array, rows: list[int]) -> tuple[Array, Array]:
    """The four largest weights of each vertex, summing to one, and the joints they belong to."""
    weights = np.pad(weights, ((0, 0), (0, max(0, INFLUENCES - weights.shape[1]))))
    rows = rows + [rows[0]] * (weights.shape[1] - len(rows))
    best = np.argsort(-weights, axis=1, kind="stable")[:, :INFLUENCES]
    kept = np.take_along_axis(weights, best, 1)
    kept = np.where(kept > 0.01, kept, 0)
    kept /= kept.sum(1, keepdims=True)
    return np.where(kept > 0, np.asarray(rows)[best], 0), kept


def linear(hex_colour: str) -> Array:
    """An sRGB hex colour as linear RGB (IEC 61966-2-1)."""
    v = np.array([int(hex_colour[i : i + 2], 16) for i in (1, 3, 5)]) / 255
    return np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4)


def make_piece(
    name: str,
    surface: Surface,
    bones: Bones,
    on: list[str],
    colour: str,
    *,
    material: str = "cloth",
    spread: float = 0.06,
    weights: Array | None = None,
    uv: Array | None = None,
) -> Piece:
    """A piece hung on the named bones; ``weights (V, len(on))`` overrules the nearest bone."""
    if weights is None:
        weights = bone_weights(surface, bones, on, spread)
    joints, kept = strongest(weights, [bones.row(n) for n in on])
    count = len(surface.points)
    return Piece(
        name,
        material,
        surface.points,
        surface.normals,
        surface.triangles,
        joints,
        kept,
        np.tile(linear(colour), (count, 1)),
        np.zeros((count, 2)) if uv is None else uv,
    )


def other_side(piece: Piece, surface: Surface, bones: Bones) -> Piece:
    """The right-hand twin of a left-hand piece."""
    swap = np.arange(len(bones.names))
    for name in bones.names:
        if name.endswith("_L"):
            left, right = bones.row(name), bones.row(name[:-2] + "_R")
            swap[[left, right]] = right, left
    mirror = surface.mirrored()
    return Piece(
        piece.name[:-2] + "_R",
        piece.material,
        mirror.points,
        mirror.normals,
        mirror.triangles,
        swap[piece.joints],
        piece.weights,
        piece.colour.copy(),
        piece.uv.copy(),
    )
