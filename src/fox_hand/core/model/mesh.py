"""Skinned mesh parts."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from fox_hand.core.maths.cached import WithoutCaches

if TYPE_CHECKING:
    from scipy.sparse import csr_array

FloatArray = npt.NDArray[np.float32]
IntArray = npt.NDArray[np.int32]


@dataclass(frozen=True, eq=False, repr=False)
class PackedPicture:
    """A picture that is unpacked when it is first seen.

    Args:
        data: as a file (PNG or WebP).
        width, height: pixels.
        preview: the same, small, as a file; empty for none.
    """

    data: bytes
    width: int
    height: int
    preview: bytes = b""


@dataclass(frozen=True, eq=False)
class Material:
    """What a part looks like, after glTF 2.0's metallic-roughness model.

    Args:
        name: as in the file.
        colour: linear RGBA factor.
        roughness: 0...1.
        texture: 8-bit sRGB picture ``(height, width, 4)`` or None.
        drawing: the picture of what is flat, not unpacked; None where there is a texture.
        double_sided: whether back faces are drawn.
        glow: linear RGB that is added whatever the light (glTF's emissive factor).
        cutout: alpha below this is not drawn; 0 draws everything.
        flat: whether it is a drawing, shown in its own colours without light and laid over what
            is behind it by its alpha (glTF's KHR_materials_unlit with alphaMode BLEND).
    """

    name: str = ""
    colour: tuple[float, float, float, float] = (0.8, 0.8, 0.8, 1.0)
    roughness: float = 0.8
    texture: npt.NDArray[np.uint8] | None = None
    double_sided: bool = False
    cutout: float = 0.0
    glow: tuple[float, float, float] = (0.0, 0.0, 0.0)
    flat: bool = False
    drawing: PackedPicture | None = None


@dataclass(frozen=True, eq=False)
class MeshPart(WithoutCaches):
    """One drawable part: a glTF primitive with up to eight influences a vertex.

    Args:
        name: name of the mesh it came from.
        positions, normals: rest geometry ``(V, 3)``.
        triangles: ``(T, 3)`` indices, counter-clockwise from outside.
        joints: rows of the rig's palette that move each vertex, ``(V, K)``.
        weights: their weights, ``(V, K)``, each row summing to 1.
        uv: texture coordinates ``(V, 2)``.
        colours: linear RGBA per vertex ``(V, 4)``.
        material: see :class:`Material`.
        targets: morph position offsets ``(M, V, 3)``; None where there are no morphs.
        target_normals: morph normal offsets of the same shape.
        target_settings: for each morph target the row of the rig's setting that drives it.
    """

    name: str
    positions: FloatArray
    normals: FloatArray
    triangles: IntArray
    joints: IntArray
    weights: FloatArray
    uv: FloatArray
    colours: FloatArray
    material: Material = field(default_factory=Material)
    targets: FloatArray | None = None
    target_normals: FloatArray | None = None
    target_settings: tuple[int, ...] = ()

    @cached_property
    def sparse_weights(self) -> csr_array:
        """The weights as a matrix (vertices x palette rows), float64."""
        from scipy.sparse import csr_array  # noqa: PLC0415 - slow to import, not needed at start

        count, influences = self.weights.shape
        rows = np.arange(0, count * influences + 1, influences)
        columns = int(self.joints.max(initial=0)) + 1
        values = self.weights.ravel().astype(np.float64)
        return csr_array((values, self.joints.ravel(), rows), shape=(count, columns))


def smooth_normals(positions: FloatArray, triangles: IntArray) -> FloatArray:
    """Area-weighted vertex normals, for files that carry none."""
    corners = positions[triangles].astype(np.float64)
    face = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals = np.zeros((len(positions), 3))
    for corner in range(3):
        np.add.at(normals, triangles[:, corner], face)
    length = np.linalg.norm(normals, axis=1, keepdims=True)
    normals = np.where(length > 1e-20, normals / np.maximum(length, 1e-20), (0.0, 1.0, 0.0))
    return normals.astype(np.float32)
