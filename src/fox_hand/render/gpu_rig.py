"""A rig's geometry on the graphics side, and its skinning for one pose."""

from __future__ import annotations

from dataclasses import dataclass

import moderngl
import numpy as np
import numpy.typing as npt

from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.mesh import Material, MeshPart
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.render_request import Standing
from fox_hand.render.drawing_textures import DrawingTextures
from fox_hand.render.drawn_parts import DrawnParts
from fox_hand.render.programs import ShaderProgram

F4 = npt.NDArray[np.float32]
INFLUENCES = 8
COARSE = 40  # cells along the longest side of what casts shadows while something moves
Slot = int
FEW = 4000  # triangles that are not worth thinning out


@dataclass(frozen=True)
class Batch:
    """Triangles drawn with one material: a range of the index buffer.

    Args:
        material: of all of them.
        first, count: the range.
        texture: the material's picture, or white; of a drawing see :meth:`GpuRig.texture`.
        part: row of the rig's part.
    """

    material: Material
    first: int
    count: int
    texture: moderngl.Texture
    part: int


@dataclass
class _Skin:
    """The skinned vertices of one copy, and the pose they are in."""

    buffer: moderngl.Buffer
    posed: tuple[bytes, bytes, frozenset[int] | None] | None = None


class GpuRig:
    """Buffers of one rig. All methods run on the thread that owns the context.

    Attributes:
        solid: what is no drawing.
    """

    def __init__(self, context: moderngl.Context, rig: Rig, skinning: ShaderProgram) -> None:
        self._context, self._rig = context, rig
        self._skinning = skinning
        self._white = context.texture((1, 1), 4, b"\xff" * 4)
        self._drawings = DrawingTextures(context)
        self._starts = np.cumsum([0] + [len(p.positions) for p in rig.parts])
        self.count = int(self._starts[-1])
        self._rest = _stacked([p.positions for p in rig.parts], 3)
        self._rest_normals = _stacked([p.normals for p in rig.parts], 3)
        self._moving = context.buffer(self._interleaved(self._rest, self._rest_normals))
        self._settings: npt.NDArray[np.float64] | None = None
        influences = _stacked([_influences(p) for p in rig.parts], 2 * INFLUENCES)
        self._influences = context.buffer(_bytes(influences))
        joints = "in_joints0", "in_joints1", "in_weights0", "in_weights1"
        self._feedback = skinning.array(
            [
                (self._moving, "3f 3f", "in_position", "in_normal"),
                (self._influences, "4f 4f 4f 4f", *joints),
            ],
        )
        self._skins: dict[Slot, _Skin] = {}
        rows = max(len(rig.palette_nodes), 1)
        self._palette = self._float_texture(3, rows, 4)
        self._chosen = self._float_texture(1, rows, 1)
        look = [np.concatenate([p.uv, p.colours], 1) for p in rig.parts]
        self.look = context.buffer(_bytes(_stacked(look, 6)))
        self.indices, self.batches = self._index()
        self.solid = [batch for batch in self.batches if not batch.material.flat]
        flat = self.batches[len(self.solid) :]  # see above: they come last
        self._drawn = DrawnParts([rig.parts[batch.part] for batch in flat])
        self.coarse = context.buffer(self._coarse().tobytes() or b"\0" * 4)

    def _float_texture(self, width: int, height: int, components: int) -> moderngl.Texture:
        texture = self._context.texture((width, height), components, dtype="f4", alignment=1)
        texture.filter = (moderngl.NEAREST, moderngl.NEAREST)
        return texture

    def _index(self) -> tuple[moderngl.Buffer, list[Batch]]:
        chunks, batches, first = [], [], 0
        uploaded: dict[int, moderngl.Texture] = {}
        parts = self._rig.parts
        # drawings come last, so that what is solid is one range
        for row in sorted(range(len(parts)), key=lambda row: parts[row].material.flat):
            part, start = parts[row], self._starts[row]
            chunks.append((part.triangles + start).astype(np.int32).ravel())
            key = id(part.material.texture)
            if key not in uploaded:
                uploaded[key] = self._texture(part.material)
            batches.append(Batch(part.material, first, part.triangles.size, uploaded[key], row))
            first += part.triangles.size
        joined = np.concatenate(chunks) if chunks else np.zeros(0, np.int32)
        return self._context.buffer(joined.tobytes() or b"\0" * 4), batches

    def _coarse(self) -> npt.NDArray[np.int32]:
        """Triangles ``(T * 3,)`` with one vertex for all of a cell (Rossignac and Borrel 1993):
        few enough for a quick shadow, and still skinned with all others."""
        parts = zip(self._rig.parts, self._starts, strict=False)
        chunks = [part.triangles + start for part, start in parts if not part.material.flat]
        triangles = np.concatenate(chunks) if chunks else np.zeros((0, 3), np.int32)
        if len(triangles) < FEW:
            return np.asarray(triangles, np.int32).ravel()
        side = float(np.ptp(self._rest, axis=0).max()) / COARSE or 1.0
        cells = np.floor(self._rest / side).astype(np.int64)
        _, first, cell = np.unique(cells, axis=0, return_index=True, return_inverse=True)
        corners = np.sort(first[cell.ravel()][triangles], axis=1)
        flat = (np.diff(corners, axis=1) == 0).any(1)
        return np.unique(corners[~flat], axis=0).astype(np.int32).ravel()

    def prepare(self, seen: list[Batch], most: int | None) -> bool:
        """Have the pictures of some drawings ready; see :meth:`DrawingTextures.prepare`."""
        drawings = [b.material.drawing for b in seen if b.material.drawing is not None]
        return self._drawings.prepare(drawings, most)

    def factor(self, batch: Batch, standing: Standing) -> tuple[float, float, float, float]:
        """What a drawing's colour and opacity are multiplied by."""
        red, green, blue, alpha = batch.material.colour
        row = self._rig.opacities.get(int(self._rig.parts[batch.part].joints[0, 0]))
        if row is not None:
            alpha *= min(max(float(standing.at.settings[row]), 0.0), 1.0)
        return red, green, blue, alpha

    def texture(self, batch: Batch) -> moderngl.Texture:
        """What there is now of a batch's picture."""
        drawing = batch.material.drawing
        return batch.texture if drawing is None else self._drawings.texture(drawing)

    def _texture(self, material: Material) -> moderngl.Texture:
        if material.texture is None:
            return self._white
        height, width = material.texture.shape[:2]
        texture = self._context.texture((width, height), 4, material.texture.tobytes())
        texture.build_mipmaps()
        texture.filter = (moderngl.LINEAR_MIPMAP_LINEAR, moderngl.LINEAR)
        return texture

    @property
    def solid_count(self) -> int:
        """How many indices, from the first on, are of what is no drawing."""
        return sum(batch.count for batch in self.solid)

    def drawings(self, standing: Standing) -> list[Batch]:
        """The drawings that are seen in a pose; see :meth:`DrawnParts.seen`."""
        return [
            self.batches[len(self.solid) + row] for row in self._drawn.seen(standing.at.palette)
        ]

    def seen_drawings(
        self, standing: Standing, eye: Array, to_clip: Array
    ) -> list[tuple[Batch, float]]:
        """The drawings that are seen, the farthest first, each with how much of the picture its
        frame takes up, 0 to 1.

        Args:
            standing: the pose.
            eye: from where, ``(3,)`` metres.
            to_clip: ``(4, 4)``.
        """
        rows = self._drawn.seen(standing.at.palette, eye)
        shares = self._drawn.shares(rows, standing.at.palette, to_clip)
        first = len(self.solid)
        return [(self.batches[first + r], float(s)) for r, s in zip(rows, shares, strict=True)]

    def skinned(self, slot: Slot) -> moderngl.Buffer:
        """Positions, normals and marks of one copy: 3, 3 and 1 numbers a vertex."""
        if slot not in self._skins:
            self._skins[slot] = _Skin(self._context.buffer(reserve=max(self.count, 1) * 28))
        return self._skins[slot].buffer

    def pose(self, standing: Standing, slot: Slot = 0, nodes: frozenset[int] | None = None) -> None:
        """Skin all vertices for a pose. What is skinned so already stays: those who stand still
        cost nothing.

        Args:
            standing: the pose.
            slot: which copy of the rig.
            nodes: marks the flesh of some joints; None for all.
        """
        rows = np.ascontiguousarray(standing.at.palette[:, :3, :], dtype=np.float32)
        wanted = rows.tobytes(), standing.at.settings.tobytes(), nodes
        target = self.skinned(slot)
        if wanted == self._skins[slot].posed:
            return
        self._skins[slot].posed = wanted
        if not self.count:
            return  # a skeleton alone has nothing to skin, and may have no palette
        self._apply_morphs(standing.at.settings)
        self._palette.write(wanted[0])
        marked = np.ones(max(len(rows), 1), np.float32)
        if nodes is not None:
            marked = np.isin(self._rig.palette_nodes, list(nodes)).astype(np.float32)
        self._chosen.write(marked.tobytes())
        self._palette.use(0)
        self._chosen.use(1)
        self._skinning.set(palette=0, chosen=1)
        self._feedback.transform(target, moderngl.POINTS, vertices=self.count)

    def _apply_morphs(self, settings: npt.NDArray[np.float64]) -> None:
        if self._settings is not None and np.array_equal(self._settings, settings):
            return
        positions, normals = self._rest.copy(), self._rest_normals.copy()
        for part, start in zip(self._rig.parts, self._starts, strict=False):
            if part.targets is None:
                continue
            rows = slice(start, start + len(part.positions))
            weights = settings[list(part.target_settings)].astype(np.float32)
            for target in np.flatnonzero(weights):
                positions[rows] += weights[target] * part.targets[target]
                if part.target_normals is not None:
                    normals[rows] += weights[target] * part.target_normals[target]
        self._moving.write(self._interleaved(positions, normals))
        self._settings = settings.copy()

    @staticmethod
    def _interleaved(positions: F4, normals: F4) -> bytes:
        return _bytes(np.concatenate([positions, normals], axis=1))

    def release(self) -> None:
        """Give the memory back."""
        self._drawings.release()
        for batch in self.batches:
            batch.texture.release()
        for thing in (self._moving, self._influences, self.look, self.indices, self.coarse):
            thing.release()
        for skin in self._skins.values():
            skin.buffer.release()
        self._feedback.release()
        for texture in (self._palette, self._chosen, self._white):
            texture.release()


def _stacked(arrays: list[F4], width: int) -> F4:
    return np.concatenate(arrays).astype(np.float32) if arrays else np.zeros((0, width), np.float32)


def _bytes(values: npt.NDArray[np.floating]) -> bytes:
    raw = np.ascontiguousarray(values, dtype=np.float32).tobytes()
    return raw or b"\0" * 64  # an empty buffer is not allowed


def _influences(part: MeshPart) -> F4:
    """Eight joints and eight weights a vertex, ``(V, 16)``; short ones are padded with zeros."""
    count, used = part.weights.shape
    best = np.argsort(-part.weights, axis=1, kind="stable")[:, :INFLUENCES]
    table = np.zeros((count, 2 * INFLUENCES), np.float32)
    kept = min(used, INFLUENCES)
    table[:, :kept] = np.take_along_axis(part.joints, best, 1)
    table[:, INFLUENCES : INFLUENCES + kept] = np.take_along_axis(part.weights, best, 1)
    return table
