"""Drawings as geometry of a glTF file: an unlit quad with transparency for each."""

from __future__ import annotations

from typing import Any

import numpy as np
import numpy.typing as npt

from fox_hand.core.puppet.drawn import Pixels, png
from fox_hand.interchange.gltf.writing import GltfFile

UNLIT = "KHR_materials_unlit"
CLAMPED = {"wrapS": 33071, "wrapT": 33071}  # glTF's number for clamping to the edge
LARGE, PREVIEW_SIDE = 512 * 512, 96  # pixels from which on a drawing has a small one beside it


def drawing_mesh(
    file: GltfFile,
    picture: bytes,
    corners: npt.ArrayLike,
    name: str,
    preview: bytes = b"",
    opacity: float = 1.0,
) -> int:
    """Add a drawing; returns the number of its mesh.

    Args:
        file: is added to.
        picture: as a file.
        corners: lower left, lower right, upper right and upper left, ``(4, 3)``.
        name: of everything that belongs to it.
        preview: the same, small; empty for none.
        opacity: 0...1.
    """
    document = file.document
    used = document.setdefault("extensionsUsed", [])
    if UNLIT not in used:
        used.append(UNLIT)
    image = _add(document, "images", file.picture(picture, name, preview))
    samplers = document.setdefault("samplers", [])
    if CLAMPED not in samplers:
        samplers.append(dict(CLAMPED))
    texture = {"sampler": samplers.index(CLAMPED), "source": image, "name": name}
    look = {
        "baseColorFactor": [1, 1, 1, opacity],
        "baseColorTexture": {"index": _add(document, "textures", texture)},
        "metallicFactor": 0,
        "roughnessFactor": 1,
    }
    material = {
        "name": name,
        "alphaMode": "BLEND",
        "doubleSided": True,
        "extensions": {UNLIT: {}},
        "pbrMetallicRoughness": look,
    }
    primitive = {
        "attributes": {
            "POSITION": file.floats(corners, "VEC3", bounds=True),
            "NORMAL": file.floats(np.tile([0.0, 0.0, 1.0], (4, 1)), "VEC3"),
            "TEXCOORD_0": file.floats([[0, 1], [1, 1], [1, 0], [0, 0]], "VEC2"),
        },
        "indices": file.indices([0, 1, 2, 0, 2, 3]),
        "material": _add(document, "materials", material),
    }
    return _add(document, "meshes", {"name": name, "primitives": [primitive]})


def _add(document: dict[str, Any], key: str, thing: dict[str, Any]) -> int:
    things = document.setdefault(key, [])
    things.append(thing)
    return len(things) - 1


def preview_of(pixels: Pixels) -> bytes:
    """The same, small, of what takes long to unpack; empty for what does not.

    Args:
        pixels: sRGB with straight alpha, ``(height, width, 4)``.
    """
    from PIL import Image  # noqa: PLC0415 - loading it takes longer than many commands

    if pixels.shape[0] * pixels.shape[1] < LARGE:
        return b""
    picture = Image.fromarray(pixels, "RGBA")
    picture.thumbnail((PREVIEW_SIDE, PREVIEW_SIDE))
    return png(np.asarray(picture))
