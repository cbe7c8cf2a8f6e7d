"""Draws one view: skin, shadow, ground, floor, figures, outlines."""

from __future__ import annotations

import time
from collections import Counter
from typing import Literal

import moderngl
import numpy as np
import numpy.typing as npt

from fox_hand.core.maths.rotations import Array
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.render_request import Contour, Picture, Pixels, Quality, Standing, View
from fox_hand.render.context import open_context, shader
from fox_hand.render.gpu_rig import Batch, GpuRig, Slot
from fox_hand.render.ink import ink_drawing
from fox_hand.render.light import Room, room_of
from fox_hand.render.no_memory import OPENGL_WORD, no_memory
from fox_hand.render.overlay import OverlaidDrawing, Overlay
from fox_hand.render.programs import Content, ShaderProgram
from fox_hand.render.targets import Target, Targets

GROUND_MIDDLE = (0xEC / 255, 0xE5 / 255, 0xD8 / 255)
GROUND_EDGE = (0xCD / 255, 0xC2 / 255, 0xB0 / 255)
RIGS_KEPT = 6  # beyond those that are in the picture
FINE_FILTER = moderngl.LINEAR_MIPMAP_LINEAR, moderngl.LINEAR  # of drawings
QUICK_FILTER = moderngl.LINEAR_MIPMAP_NEAREST, moderngl.LINEAR  # half the work where it is much
Kind = Quality | Literal["sketch", "mask", "depth", "coarse", "flat"]
WET = 0.25  # smoother things, such as eyes, show what they mirror; that needs every pixel
# how many drawings are unpacked for a picture; the others are shown by their previews
UNPACKED = {Quality.DRAFT: 0, Quality.FULL: 16, Quality.CARD: None}
SHADOWS = {Quality.DRAFT: 256, Quality.CARD: 512, Quality.FULL: 1024}  # pixels
OUTLINE: Slot = -1  # skin for outlines, which mark some of the flesh
STYLES = {"shaded": 0, "clay": 1, "outline": 2}


class Engine:
    """Owns the context; every method must be called on the thread that made it.

    Raises:
        FoxHandError: ``render.no_context`` where OpenGL is missing.
    """

    def __init__(self) -> None:
        self._context = context = open_context()

        def program(name: str, taps: int = 1) -> ShaderProgram:
            return ShaderProgram.shipped(context, name, taps)

        self._skinning = ShaderProgram(
            context, shader("skin.vert"), varyings=("out_position", "out_normal", "out_share")
        )
        self._figures: dict[Kind, ShaderProgram] = {
            Quality.DRAFT: program("figure", 0),
            Quality.FULL: program("figure"),
            "sketch": program("sketch"),
        }
        self._figures[Quality.CARD] = self._figures[Quality.FULL]
        self._floors = {Quality.DRAFT: program("floor"), Quality.FULL: program("floor", 2)}
        self._floors[Quality.CARD] = self._floors[Quality.DRAFT]
        self._depth, self._mask = program("depth"), program("mask")
        self._flat = program("flat")
        self._overlay = Overlay(context, self._flat)
        self._unfinished = False  # drawings are shown by their previews
        self._ground = program("ground")
        square = context.buffer(np.array([-1, -1, 1, -1, -1, 1, 1, 1], "f4").tobytes())
        corners = [(square, "2f", "in_corner")]
        self._ground_quad = self._ground.array(corners)
        self._floor_quads = {
            quality: floor.array(corners) for quality, floor in self._floors.items()
        }
        self._paper: Target | None = None
        self._rigs: dict[Rig, GpuRig] = {}
        self._arrays: dict[tuple[Rig, Kind, Slot], moderngl.VertexArray] = {}
        self._room_for = RIGS_KEPT
        self._shadows: dict[int, tuple[moderngl.Texture, moderngl.Framebuffer]] = {}
        self._targets = Targets(context)

    @property
    def renderer(self) -> str:
        """What draws, as the driver names itself."""
        return str(self._context.info["GL_RENDERER"])

    def draw(self, view: View) -> Picture:
        """Make one picture. An outline has plain paper for its background."""
        start = time.perf_counter()
        self._unfinished = False
        factor = 2 if view.quality is Quality.CARD else 1
        samples = 4 if view.quality is Quality.FULL and not view.rough else 0
        width, height = view.width * factor, view.height * factor
        room = room_of(view.figures)
        placed = self._placed(view)
        shadow = self._shadow_pass(view, placed, room)
        surface = self._targets.get(width, height, samples)
        target, resolved = surface.drawn, surface.resolved
        target.use()
        self._context.viewport = (0, 0, width, height)
        target.clear(0.0, 0.0, 0.0, 0.0, depth=1.0)
        to_clip = view.camera.projection(width / height) @ view.camera.view()
        drawing = view.style == "outline"
        if view.background and not drawing:
            self._draw_ground(view, room, to_clip, shadow)
        self._draw_figures(view, placed, room, to_clip, shadow)
        if samples:
            self._context.copy_framebuffer(resolved, target)
        pixels = _read(resolved if samples else target, width, height)
        if drawing:
            pixels = ink_drawing(pixels, paper=view.background)
        pixels = _reduced(pixels, factor)
        contours = {c.name: self._contour(c, view, to_clip) for c in view.contours}
        if self._context.error == OPENGL_WORD:  # said once, and of everything since the last asking
            for standing in (*view.figures, *view.backdrops):
                self.forget(standing.rig)
            raise no_memory(OPENGL_WORD)
        took = (time.perf_counter() - start) * 1000
        return Picture(pixels, view, contours, took, self._unfinished)

    def _placed(self, view: View) -> list[tuple[Standing, Slot]]:
        """The figures, each with a number among the copies of its rig: every copy keeps a skin of
        its own, so that whoever stands still costs nothing."""
        everything = (*view.figures, *view.backdrops)
        rigs = {s.rig for s in everything} | {c.standing.rig for c in view.contours}
        self._room_for = max(RIGS_KEPT, len(rigs))
        copies: Counter[Rig] = Counter()
        placed = []
        for standing in everything:
            placed.append((standing, copies[standing.rig]))
            copies[standing.rig] += 1
        return placed

    def _gpu(self, rig: Rig) -> GpuRig:
        found = self._rigs.pop(rig, None)
        if found is None:
            found = GpuRig(self._context, rig, self._skinning)
            while len(self._rigs) >= self._room_for:
                self.forget(next(iter(self._rigs)))
        self._rigs[rig] = found  # last used comes last
        return found

    def forget(self, rig: Rig) -> None:
        """Give back what a rig took up."""
        if rig not in self._rigs:
            return
        for key in [k for k in self._arrays if k[0] is rig]:
            self._arrays.pop(key).release()
        self._rigs.pop(rig).release()

    def _array(self, rig: Rig, kind: Kind, slot: Slot) -> moderngl.VertexArray:
        if (rig, kind, slot) not in self._arrays:
            gpu = self._gpu(rig)
            skinned = gpu.skinned(slot)
            if kind in self._figures:
                content = [
                    (skinned, "3f 3f 4x", "in_position", "in_normal"),
                    (gpu.look, "2f 4f", "in_uv", "in_colour"),
                ]
                array = self._figures[kind].array(content, gpu.indices)
            elif kind == "mask":
                mask: list[Content] = [
                    (skinned, "3f 12x 1f", "in_position", "in_share"),
                    (gpu.look, "2f 16x", "in_uv"),
                ]
                array = self._mask.array(mask, gpu.indices)
            elif kind == "flat":
                flat: list[Content] = [
                    (skinned, "3f 16x", "in_position"),
                    (gpu.look, "2f 4f", "in_uv", "in_colour"),
                ]
                array = self._flat.array(flat, gpu.indices)
            else:
                depth = [(skinned, "3f 16x", "in_position")]
                indices = gpu.indices if kind == "depth" else gpu.coarse
                array = self._depth.array(depth, indices)
            self._arrays[rig, kind, slot] = array
        return self._arrays[rig, kind, slot]

    def _shadow_map(self, size: int) -> tuple[moderngl.Texture, moderngl.Framebuffer]:
        if size not in self._shadows:
            texture = self._context.depth_texture((size, size))
            texture.compare_func = "<="
            texture.repeat_x = texture.repeat_y = False
            texture.filter = (moderngl.LINEAR, moderngl.LINEAR)
            self._shadows[size] = texture, self._context.framebuffer(depth_attachment=texture)
        return self._shadows[size]

    def _shadow_pass(
        self, view: View, placed: list[tuple[Standing, Slot]], room: Room
    ) -> moderngl.Texture:
        texture, target = self._shadow_map(SHADOWS[Quality.DRAFT if view.rough else view.quality])
        casts: Kind = "coarse" if view.quality is Quality.DRAFT else "depth"
        target.use()
        self._context.viewport = (0, 0, *target.size)
        target.clear(depth=1.0)
        self._context.enable_only(moderngl.DEPTH_TEST)
        self._depth.set_matrix("to_clip", room.to_light())
        for standing, slot in placed:
            gpu = self._gpu(standing.rig)
            gpu.pose(standing, slot)
            if gpu.solid:  # drawings cast no shadow
                vertices = -1 if casts == "coarse" else gpu.solid_count
                self._array(standing.rig, casts, slot).render(vertices=vertices)
        return texture

    def _draw_ground(
        self, view: View, room: Room, to_clip: Array, shadow: moderngl.Texture
    ) -> None:
        context = self._context
        if view.quality is Quality.DRAFT:
            self._copy_ground(view)
        else:
            self._paint_ground(view)
        if not view.floor or not view.figures or view.camera.eye[1] <= room.floor + 0.01:
            return
        context.enable_only(moderngl.BLEND)
        context.blend_func = moderngl.DST_COLOR, moderngl.ZERO
        floor = self._floors[view.quality]
        floor.set_matrix("to_clip", to_clip)
        floor.set_matrix("to_light", room.to_light())
        centre = (float(room.centre[0]), room.floor, float(room.centre[2]))
        floor.set(centre=centre, reach=room.reach * 2.6, texel=1.0 / shadow.width, shadow=0)
        floor.set_raw("feet", room.feet.astype("f4").tobytes())
        shadow.use(0)
        self._floor_quads[view.quality].render(moderngl.TRIANGLE_STRIP)

    def _paint_ground(self, view: View) -> None:
        self._context.enable_only(moderngl.NOTHING)
        grain = 0.0 if view.quality is Quality.CARD else 1.0
        aspect = view.width / view.height
        self._ground.set(middle=GROUND_MIDDLE, edge=GROUND_EDGE, aspect=aspect, grain=grain)
        self._ground_quad.render(moderngl.TRIANGLE_STRIP)

    def _copy_ground(self, view: View) -> None:
        """The paper never changes, so while something moves it is copied, not painted."""
        target = self._targets.get(view.width, view.height, 0).drawn
        if self._paper is None or self._paper.size != target.size:
            if self._paper is not None:
                self._paper.release()
            self._paper = Target(self._context, target.size, depth=False)
            self._paper.drawn.use()
            self._paint_ground(view)
        self._context.copy_framebuffer(target, self._paper.drawn)
        target.use()

    def _draw_figures(
        self,
        view: View,
        placed: list[tuple[Standing, Slot]],
        room: Room,
        to_clip: Array,
        shadow: moderngl.Texture,
    ) -> None:
        quick = view.quality is Quality.DRAFT and view.style == "shaded"
        dull: Kind = "sketch" if quick else view.quality
        self._context.enable_only(moderngl.DEPTH_TEST)
        for kind in {view.quality, dull}:
            program = self._figures[kind]
            program.set_matrix("to_clip", to_clip)
            program.set_matrix("to_light", room.to_light())
            program.set(eye=tuple(view.camera.eye), key=tuple(room.key), shadow=0, picture=1)
            program.set(about=room.about)
            if kind != "sketch":
                program.set(style=STYLES[view.style], texel=1.0 / shadow.width)
        shadow.use(0)
        if view.quality is Quality.CARD:
            self._draw_depth(placed, to_clip)
        for standing, slot in placed:  # still skinned from the shadow pass
            for batch in self._gpu(standing.rig).solid:
                kind = dull if batch.material.roughness >= WET else view.quality
                array = self._array(standing.rig, kind, slot)
                self._draw_batch(self._figures[kind], array, batch)
        self._context.depth_func = "<"
        self._draw_flat(view, placed, to_clip)

    def _draw_flat(self, view: View, placed: list[tuple[Standing, Slot]], to_clip: Array) -> None:
        """Drawings over all that is solid, who is farther away first."""
        eye, found = (
            view.camera.eye,
            list[tuple[float, Standing, Slot, list[tuple[Batch, float]]]](),
        )
        for standing, slot in placed:
            seen = self._gpu(standing.rig).seen_drawings(standing, eye, to_clip)
            if seen:
                root = standing.at.palette[:, :3, 3].mean(0)
                found.append((float(to_clip[3, :3] @ root), standing, slot, seen))
        if not found:
            return
        target = self._context.fbo
        assert isinstance(target, moderngl.Framebuffer)
        quick = view.quality is Quality.DRAFT
        layers = list[OverlaidDrawing]()
        for _, standing, slot, seen in sorted(found, key=lambda one: -one[0]):
            gpu, array = self._gpu(standing.rig), self._array(standing.rig, "flat", slot)
            self._unfinished |= not gpu.prepare(
                [batch for batch, _ in seen], UNPACKED[view.quality]
            )
            for batch, share in seen:
                texture, factor = gpu.texture(batch), gpu.factor(batch, standing)
                texture.filter = QUICK_FILTER if quick else FINE_FILTER
                layers.append(
                    OverlaidDrawing(array, batch.count, batch.first, texture, factor, share)
                )
        self._flat.set_matrix("to_clip", to_clip)
        self._flat.set(picture=1, style=STYLES[view.style])
        alone = not any(self._gpu(standing.rig).solid for standing, _ in placed)
        self._overlay.paint(layers, target, alone)

    def _draw_depth(self, placed: list[tuple[Standing, Slot]], to_clip: Array) -> None:
        """How far away everything is, first: shading, which is dear with four points to a pixel,
        is then done only where it will be seen."""
        target = self._context.fbo
        assert isinstance(target, moderngl.Framebuffer)
        self._depth.set_matrix("to_clip", to_clip)
        target.color_mask = False, False, False, False
        for standing, slot in placed:
            array = self._array(standing.rig, "depth", slot)
            for batch in self._gpu(standing.rig).solid:
                if not batch.material.cutout:  # what has holes is not known before it is shaded
                    self._cull(batch)
                    array.render(vertices=batch.count, first=batch.first)
        target.color_mask = True, True, True, True
        self._context.depth_func = "<="

    def _cull(self, batch: Batch) -> None:
        if batch.material.double_sided:
            self._context.disable(moderngl.CULL_FACE)
        else:
            self._context.enable(moderngl.CULL_FACE)

    def _draw_batch(
        self, program: ShaderProgram, array: moderngl.VertexArray, batch: Batch
    ) -> None:
        material = batch.material
        program.set(
            factor=material.colour,
            roughness=material.roughness,
            cutoff=material.cutout,
            glow=material.glow,
            two_sided=material.double_sided,
        )
        batch.texture.use(1)
        self._cull(batch)
        array.render(vertices=batch.count, first=batch.first)

    def _contour(self, contour: Contour, view: View, to_clip: Array) -> tuple[Array, ...]:
        # half the size is enough for a smooth line and costs a quarter
        width, height = max(view.width // 2, 1), max(view.height // 2, 1)
        target = self._targets.get(width, height, 0).drawn
        target.use()
        self._context.viewport = (0, 0, width, height)
        target.clear(0.0, 0.0, 0.0, 0.0, depth=1.0)
        self._context.enable_only(moderngl.DEPTH_TEST)
        self._mask.set_matrix("to_clip", to_clip)
        gpu = self._gpu(contour.standing.rig)
        gpu.pose(contour.standing, OUTLINE, contour.nodes)
        array = self._array(contour.standing.rig, "mask", OUTLINE)
        self._mask.set(picture=1, drawn=False)
        if gpu.solid:
            array.render(vertices=gpu.solid_count)
        self._mask.set(drawn=True)
        for batch in gpu.drawings(contour.standing):
            gpu.texture(batch).use(1)
            array.render(vertices=batch.count, first=batch.first)
        mask = _read(target, width, height)[..., 0]
        scale = np.array([view.width / width, view.height / height])
        return tuple(line * scale for line in trace_mask(mask))


def trace_mask(mask: npt.NDArray[np.uint8]) -> tuple[Array, ...]:
    """Closed lines ``(N, 2)`` around the white of a mask, in pixels from the top left."""
    import contourpy  # noqa: PLC0415 - slow to import, not needed for the first picture

    padded = np.pad(mask, 1).astype(np.float32)
    lines = contourpy.contour_generator(z=padded, name="serial").lines(127.5)
    found = []
    for line in lines:
        points = np.asarray(line, dtype=np.float64)
        if len(points) > 8:
            found.append(_smoothed(points - 0.5))  # the frame of zeros, and pixel centres
    return tuple(found)


def _smoothed(points: Array) -> Array:
    """A staircase line made even: the running mean of three neighbours, every second kept."""
    ring = points[:-1] if np.allclose(points[0], points[-1]) else points
    mean = (np.roll(ring, 1, 0) + ring * 2 + np.roll(ring, -1, 0)) / 4
    mean = (np.roll(mean, 1, 0) + mean * 2 + np.roll(mean, -1, 0)) / 4
    return np.asarray(mean[::2])


def _read(target: moderngl.Framebuffer, width: int, height: int) -> Pixels:
    raw = np.frombuffer(target.read(components=4, alignment=1), np.uint8)
    return raw.reshape(height, width, 4)[::-1]


def _reduced(pixels: Pixels, factor: int) -> Pixels:
    """Squares of pixels as one each: their means."""
    if factor == 1:
        return np.ascontiguousarray(pixels)
    wide = pixels.astype(np.uint16)
    # whole rows, then columns: ten times as quick as one sum over both axes
    rows = sum((wide[i::factor] for i in range(1, factor)), wide[::factor].copy())
    squares = sum((rows[:, i::factor] for i in range(1, factor)), rows[:, ::factor].copy())
    return np.asarray((squares + factor * factor // 2) // (factor * factor), np.uint8)
