"""Drawings over each other. Where many cover the same ground, what hides all behind it is drawn
first and front to back, so that what is hidden is not drawn; what lets through comes after it,
back to front. The picture is the same."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import moderngl
import numpy as np

from fox_hand.render.programs import ShaderProgram

MANY = 4.0  # pictures full of drawings; with fewer, drawing twice costs more than it spares
FRONT = 3.0  # pictures full of drawings in front, behind which next to nothing is seen any more
IN_SPACE = 2.0  # of the shader: a drawing is as far away as it is
NEAREST, FARTHEST = -0.9, 0.9  # depths that stand for the order of drawings


class OverlaidDrawing(NamedTuple):
    """One drawing as it is drawn.

    Args:
        array: holds its triangles.
        vertices, first: which of them.
        texture: its picture.
        factor: what its colour and opacity are multiplied by.
        share: of the picture that its frame takes up.
    """

    array: moderngl.VertexArray
    vertices: int
    first: int
    texture: moderngl.Texture
    factor: tuple[float, float, float, float]
    share: float


class Overlay:
    """Paints drawings, the farthest first in the list.

    Args:
        context: of the thread that draws.
        program: of drawings.
    """

    def __init__(self, context: moderngl.Context, program: ShaderProgram) -> None:
        self._context, self._program = context, program

    def paint(
        self, layers: Sequence[OverlaidDrawing], target: moderngl.Framebuffer, alone: bool
    ) -> None:
        """Draw all.

        Args:
            layers: from the back to the front.
            target: what is drawn on; its colours are there already.
            alone: nothing solid is in the picture, so depth may stand for the order.
        """
        depths = np.linspace(FARTHEST, NEAREST, len(layers)).tolist()
        if alone and sum(layer.share for layer in layers) > MANY:
            self._paint_front(list(zip(layers, depths, strict=True)))
        else:
            depths = [IN_SPACE] * len(layers)
        self._context.enable_only(moderngl.DEPTH_TEST | moderngl.BLEND)
        one, rest = moderngl.ONE, moderngl.ONE_MINUS_SRC_ALPHA
        self._context.blend_func = moderngl.SRC_ALPHA, rest, one, rest  # type: ignore[assignment]  # four are taken, too
        target.depth_mask = False  # what is in front is drawn later
        self._program.set(opaque=False)
        for layer, depth in zip(layers, depths, strict=True):
            self._paint(layer, depth)
        target.depth_mask = True

    def _paint_front(self, layers: list[tuple[OverlaidDrawing, float]]) -> None:
        self._context.enable_only(moderngl.DEPTH_TEST)
        self._program.set(opaque=True)
        drawn = 0.0
        for layer, depth in reversed(layers):
            if layer.factor[3] < 1.0:
                continue  # all of it lets through
            self._paint(layer, depth)
            drawn += layer.share
            if drawn > FRONT:
                return

    def _paint(self, layer: OverlaidDrawing, depth: float) -> None:
        self._program.set(factor=layer.factor, layer=depth)
        layer.texture.use(1)
        layer.array.render(vertices=layer.vertices, first=layer.first)
