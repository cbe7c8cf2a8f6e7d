"""Occlusion, materials and the small generated textures."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from cast.piece import Piece, linear
from cast.proportions import Colours
from cast.sdf import Array, Field, smoothstep

Picture = npt.NDArray[np.uint8]


@dataclass(frozen=True)
class Surfacing:
    """A glTF material: roughness, own glow and, where it has one, the painter of its texture."""

    roughness: float
    texture: Callable[[Colours], Picture] | None = None
    repeat: bool = False
    glow: float = 0.0


def occlusion(pieces: Sequence[Piece], fields: Sequence[Field]) -> None:
    """Darken creases: how near other surfaces are along the normal, at four distances."""
    for piece in pieces:
        hidden = np.zeros(len(piece.points))
        for reach, weight in ((0.04, 0.5), (0.09, 0.4), (0.17, 0.32), (0.30, 0.25)):
            p = piece.points + piece.normals * reach
            distance = np.min([field(p) for field in fields], axis=0)
            hidden += np.clip((reach - distance) / reach, 0, 1.3) * weight
        piece.occlusion = np.clip(1 - 0.62 * hidden, 0.12, 1) * piece.occlusion


def _srgb(values: Array) -> Picture:
    v = np.clip(values, 0, 1)
    v = np.where(v <= 0.0031308, v * 12.92, 1.055 * v ** (1 / 2.4) - 0.055)
    return np.asarray(np.round(v * 255), dtype=np.uint8)


def iris_texture(colours: Colours) -> Picture:
    """The front of an eyeball, flat."""
    size = 256
    x, y = np.meshgrid(*(np.linspace(-1, 1, size),) * 2)
    angle = np.arcsin(np.clip(np.hypot(x, y), 0, 1))
    around = np.arctan2(y, x)
    base = linear(colours.iris) * 1.35
    strands = 0.86 + 0.16 * np.sin(around * 23 + 3 * np.sin(around * 5)) * np.sin(angle * 9)
    glow = 0.75 + 0.75 * smoothstep(-0.5, 0.9, y / np.maximum(np.sin(angle), 0.01))
    iris = base * (strands * glow)[..., None]
    limbus = smoothstep(0.42, 0.52, angle)[..., None]
    iris = iris * (1 - limbus) + base * 0.18 * limbus
    white = np.array([0.90, 0.88, 0.84]) * (1 - 0.25 * smoothstep(0.9, 1.5, angle))[..., None]
    edge = smoothstep(0.515, 0.55, angle)[..., None]
    pupil = smoothstep(0.275, 0.245, angle)[..., None]
    picture = (iris * (1 - edge) + white * edge) * (1 - pupil) + 0.012 * pupil
    return _srgb(picture)


def knit_texture(colours: Colours) -> Picture:
    """One rib and one row of stitches; repeats in both directions."""
    del colours  # a grey tile, tinted by the vertices
    u, v = np.meshgrid(np.linspace(0, 1, 64), np.linspace(0, 1, 64))
    rib = 0.5 - 0.5 * np.cos(2 * np.pi * u)
    slant = 0.5 + 0.5 * np.cos(2 * np.pi * (v + 0.35 * np.abs(u - 0.5) * 2))
    tone = 0.42 + 0.58 * rib**0.7 - 0.16 * slant * rib
    return _srgb(np.repeat(tone[..., None], 3, -1))


def jacket_texture(colours: Colours) -> Picture:
    """The front placket with its seams on plain cloth; u runs away from the middle."""
    u, _ = np.meshgrid(np.linspace(0, 1, 512), np.linspace(0, 1, 64))
    across = u * 1.6
    rng = np.random.default_rng(7)
    weave = 1 + 0.05 * (rng.random(u.shape) - 0.5)
    ratio = linear(colours.trim) / linear(colours.jacket)
    placket = smoothstep(0.056, 0.050, across)[..., None]
    seam = 1 - 0.45 * np.exp(-(((across - 0.053) / 0.006) ** 2))
    tone = (placket * ratio + (1 - placket)) * (weave * seam)[..., None]
    return _srgb(tone)


def teeth_texture(colours: Colours) -> Picture:
    """Fine lines between the teeth."""
    del colours
    u, _ = np.meshgrid(np.linspace(0, 1, 256), np.linspace(0, 1, 8))
    phase = (u - 0.05) / 0.9 * 8
    gap = np.exp(-(((phase - np.round(phase)) / 0.07) ** 2))
    tone = 1 - 0.38 * gap
    return _srgb(np.stack([tone, tone * 0.985, tone * 0.96], -1))


MATERIALS: dict[str, Surfacing] = {
    "skin": Surfacing(0.55),
    "cloth": Surfacing(0.95),
    "shiny": Surfacing(0.38),
    "jacket": Surfacing(0.92, jacket_texture),
    "knit": Surfacing(1.0, knit_texture, repeat=True),
    "eye": Surfacing(0.08, iris_texture),
    "teeth": Surfacing(0.30, teeth_texture, glow=0.22),  # they stand in the shadow of the lips,
}
