"""Drawable parts out of glTF meshes: geometry, influences, morph targets, materials."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TypeVar

import numpy as np
import numpy.typing as npt

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.documents import BEYOND
from fox_hand.base.files.pictures import TooManyPixelsError, opened_picture
from fox_hand.base.language import tr
from fox_hand.core.maths.measurable import measurable
from fox_hand.core.model.mesh import (
    FloatArray,
    IntArray,
    Material,
    MeshPart,
    PackedPicture,
    smooth_normals,
)
from fox_hand.interchange.gltf.accessors import Accessors
from fox_hand.interchange.gltf.document import (
    PREVIEW,
    GltfDocument,
    Mesh,
    Primitive,
    damaged,
    read_uri,
)

TRIANGLES, STRIP, FAN = 4, 5, 6
LARGEST_TEXTURE = 2048
MUCH = 1 << 30  # bytes
Found = TypeVar("Found")


@dataclass(frozen=True)
class Binding:
    """How a mesh hangs on the palette.

    Args:
        first: palette row of the skin's first joint, or of the one rigid node.
        count: number of joints; 1 for a rigid part.
        rigid: the mesh has no skin and simply follows a node.
        settings: rig setting rows of the mesh's morph targets.
    """

    first: int
    count: int
    rigid: bool
    settings: tuple[int, ...]


class GltfPartReader:
    """Turns primitives into :class:`MeshPart`; textures are decoded once."""

    def __init__(self, path: Path, document: GltfDocument, accessors: Accessors) -> None:
        self._path = path
        self._document = document
        self._read = accessors
        self._materials: dict[int | None, Material] = {None: Material(name="default")}
        self.notes: list[str] = []
        self._drawings: dict[int, PackedPicture] = {}

    @property
    def memory_note(self) -> tuple[str, ...]:
        """How much all drawings would take, where that is much."""
        taken = sum(4 * d.width * d.height for d in self._drawings.values())
        if taken < MUCH:
            return ()
        return (
            tr(
                "Its {count} drawings would take {taken:.1f} GB unpacked; only those "
                "that are seen are.",
                count=len(self._drawings),
                taken=taken / 2**30,
            ),
        )

    def parts(self, mesh: Mesh, name: str, binding: Binding) -> list[MeshPart]:
        """The drawable primitives of a mesh; points and lines are left out."""
        return [
            self._part(primitive, name, binding)
            for primitive in mesh.primitives
            if primitive.mode in (TRIANGLES, STRIP, FAN) and "POSITION" in primitive.attributes
        ]

    def _part(self, primitive: Primitive, name: str, binding: Binding) -> MeshPart:
        attributes = primitive.attributes
        positions = self._read.floats(attributes["POSITION"])
        count = len(positions)
        if positions.shape[1] != 3:
            raise damaged(self._path, tr("mesh {name} has positions that are no places", name=name))
        triangles = self._triangles(primitive, count)
        normals = self._optional(attributes, "NORMAL", count, 3)
        if normals is None:
            normals = smooth_normals(positions, triangles)
        joints, weights = self._influences(primitive, count, binding)
        targets, target_normals = self._targets(primitive, count, len(binding.settings))
        uv = self._optional(attributes, "TEXCOORD_0", count, 2)
        material = self._material(primitive.material)
        if material.flat and (targets is not None or not in_a_plane(positions)):
            # such as lashes: they need what is around
            texture = None if material.drawing is None else decode_picture(material.drawing.data)
            material = replace(material, flat=False, drawing=None, texture=texture)
        return MeshPart(
            name=name,
            positions=positions,
            normals=normals,
            triangles=triangles,
            joints=joints,
            weights=weights,
            uv=np.zeros((count, 2), np.float32) if uv is None else uv,
            colours=self._colours(attributes, count),
            material=material,
            targets=targets,
            target_normals=target_normals,
            target_settings=binding.settings if targets is not None else (),
        )

    def _optional(
        self, attributes: dict[str, int], key: str, count: int, width: int
    ) -> FloatArray | None:
        if key not in attributes:
            return None
        values = self._read.loose_floats(attributes[key])
        if values.shape != (count, width):
            raise damaged(self._path, tr("{key} does not fit its positions", key=key))
        if not measurable(values):
            self.notes.append(
                tr("{key} of a mesh holds what is not a number; zero stands for it.", key=key)
            )
            values = np.where(np.abs(values) < BEYOND, values, np.float32(0))
        return values

    def _colours(self, attributes: dict[str, int], count: int) -> FloatArray:
        colours = np.ones((count, 4), np.float32)
        if "COLOR_0" in attributes:
            given = self._read.floats(attributes["COLOR_0"])
            if len(given) == count and given.shape[1] in (3, 4):
                colours[:, : given.shape[1]] = given
        return colours

    def _triangles(self, primitive: Primitive, count: int) -> IntArray:
        if primitive.indices is None:
            order = np.arange(count, dtype=np.int32)
        else:
            order = self._read.integers(primitive.indices)[:, 0]
        if len(order) and (int(order.max()) >= count or int(order.min()) < 0):
            raise damaged(self._path, tr("a triangle names a vertex that does not exist"))
        if primitive.mode == TRIANGLES:
            return order[: len(order) // 3 * 3].reshape(-1, 3)
        steps = np.arange(max(len(order) - 2, 0))
        if primitive.mode == FAN:
            return np.stack([order[steps * 0], order[steps + 1], order[steps + 2]], 1)
        odd = (steps % 2).astype(bool)
        a, b = np.where(odd, steps + 1, steps), np.where(odd, steps, steps + 1)
        return np.stack([order[a], order[b], order[steps + 2]], 1)

    def _influences(
        self, primitive: Primitive, count: int, binding: Binding
    ) -> tuple[IntArray, FloatArray]:
        if binding.rigid or "JOINTS_0" not in primitive.attributes:
            joints = np.full((count, 1), binding.first, np.int32)
            return joints, np.ones((count, 1), np.float32)
        joint_sets, weight_sets = [], []
        for n in range(2):
            if f"JOINTS_{n}" in primitive.attributes and f"WEIGHTS_{n}" in primitive.attributes:
                joint_sets.append(self._read.integers(primitive.attributes[f"JOINTS_{n}"]))
                weight_sets.append(self._read.floats(primitive.attributes[f"WEIGHTS_{n}"]))
        if not joint_sets:
            raise damaged(self._path, tr("a skinned mesh has joints but no weights"))
        joints = np.concatenate(joint_sets, axis=1)
        weights = np.concatenate(weight_sets, axis=1)
        if joints.shape != weights.shape or len(joints) != count:
            raise damaged(self._path, tr("joints and weights do not fit each other"))
        used = np.where(weights > 0, joints, 0)
        if used.size and int(used.max()) >= binding.count:
            raise damaged(self._path, tr("a vertex names a joint its skin does not have"))
        total = weights.sum(axis=1, keepdims=True)
        loose = total[:, 0] <= 0  # a vertex without any weight stays with the first joint
        weights = np.where(loose[:, None], np.eye(1, weights.shape[1]), weights / _nonzero(total))
        return (used + binding.first).astype(np.int32), weights.astype(np.float32)

    def _targets(
        self, primitive: Primitive, count: int, wanted: int
    ) -> tuple[FloatArray | None, FloatArray | None]:
        if not primitive.targets or not wanted:
            return None, None
        positions = np.zeros((wanted, count, 3), np.float32)
        normals = np.zeros((wanted, count, 3), np.float32)
        for i, target in enumerate(primitive.targets[:wanted]):
            for key, store in (("POSITION", positions), ("NORMAL", normals)):
                if key in target:
                    offsets = self._read.floats(target[key])
                    if offsets.shape != (count, 3):
                        raise damaged(self._path, tr("a morph target does not fit its mesh"))
                    store[i] = offsets
        return positions, normals

    def _material(self, index: int | None) -> Material:
        if index is not None and not 0 <= index < len(self._document.materials):
            raise damaged(self._path, tr("material {index} does not exist", index=index))
        if index not in self._materials:
            assert index is not None
            info = self._document.materials[index]
            look = info.pbr_metallic_roughness
            reference = look.base_color_texture if look else None
            flat = info.alpha_mode == "BLEND" and info.unlit
            drawing = self._drawing(reference.index) if reference and flat else None
            self._materials[index] = Material(
                name=info.name or f"material_{index}",
                colour=look.base_color_factor if look else (1.0, 1.0, 1.0, 1.0),
                roughness=look.roughness_factor if look else 1.0,
                texture=self._texture(reference.index) if reference and not flat else None,
                double_sided=info.double_sided,
                glow=info.emissive_factor,
                cutout=info.alpha_cutoff if info.alpha_mode == "MASK" else 0.0,
                flat=flat,
                drawing=drawing,
            )
        return self._materials[index]

    def _texture(self, index: int) -> npt.NDArray[np.uint8] | None:
        data = self._picture(index)
        return None if data is None else self._decoded(index, data, decode_picture)

    def _drawing(self, index: int) -> PackedPicture | None:
        """A picture that is not unpacked before it is seen."""
        data = self._picture(index)
        found = None if data is None else self._decoded(index, data, looked_at)
        if found is None:
            return None
        source = self._document.textures[index].source
        extras = self._document.images[source].extras if source is not None else None
        view = extras.get(PREVIEW) if isinstance(extras, dict) else None
        try:
            if isinstance(view, int):
                found = replace(found, preview=bytes(self._read.view(view)))
        except FoxHandError:  # a preview that is not there is none
            pass
        self._drawings[index] = found
        return found

    def _picture(self, index: int) -> bytes | None:
        textures, images = self._document.textures, self._document.images
        source = textures[index].source if 0 <= index < len(textures) else None
        if source is None or not 0 <= source < len(images):
            self.notes.append(
                tr("Texture {index} does not exist; its material is plain.", index=index)
            )
            return None
        image = images[source]
        try:
            if image.buffer_view is not None:
                return bytes(self._read.view(image.buffer_view))
            return read_uri(self._path, image.uri or "")
        except FoxHandError as error:
            if error.code not in ("gltf.part_missing", "gltf.outside"):
                raise
            self.notes.append(tr("{happened} Its material is plain.", happened=error.happened))
            return None

    def _decoded(self, index: int, data: bytes, how: Callable[[bytes], Found]) -> Found | None:
        try:
            return how(data)
        except TooManyPixelsError as error:
            self.notes.append(
                tr(
                    "Texture {index} is too large: {strerror}. It is left out.",
                    index=index,
                    strerror=error.strerror,
                )
            )
            return None
        except (OSError, SyntaxError, ValueError):
            self.notes.append(
                tr("Texture {index} cannot be decoded; its material is plain.", index=index)
            )
            return None


def in_a_plane(positions: FloatArray) -> bool:
    """Whether points ``(V, 3)`` lie in one plane, as those of a drawing do."""
    if len(positions) < 3:
        return False
    sizes = np.linalg.svd(positions - positions.mean(0), compute_uv=False)
    return bool(sizes[2] <= 1e-4 * sizes[0] and sizes[1] > 0)


def decode_picture(data: bytes) -> npt.NDArray[np.uint8]:
    """An embedded picture as RGBA, not larger than :data:`LARGEST_TEXTURE`.

    Raises:
        OSError, SyntaxError, ValueError: if it cannot be decoded.
    """
    with opened_picture(data) as picture:
        picture.thumbnail((LARGEST_TEXTURE, LARGEST_TEXTURE))
        return np.asarray(picture.convert("RGBA"))


def looked_at(data: bytes) -> PackedPicture:
    """An embedded picture that stays packed; it is looked through, as a file may be cut off.

    Raises:
        OSError, SyntaxError, ValueError: if it cannot be decoded.
    """
    with opened_picture(data) as picture:
        width, height = picture.size
        picture.verify()
    return PackedPicture(data, width, height)


def _nonzero(values: FloatArray) -> FloatArray:
    return np.where(values > 0, values, np.float32(1))
