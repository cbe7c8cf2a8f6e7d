"""Shader programs, and the one place that hands them their values.

A driver drops what a variant of a shader does not use, and drivers differ in what they notice. So
what may be set is read from the sources; what a driver kept of it is asked each time.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

import moderngl
import numpy as np

from fox_hand.core.maths.rotations import Array
from fox_hand.render.context import shader

_UNIFORM = re.compile(r"^uniform\s+\w+\s+(\w+)", re.MULTILINE)
_INPUT = re.compile(r"^in\s+\w+\s+(\w+)", re.MULTILINE)
Content = tuple[moderngl.Buffer, str, *tuple[str, ...]]


class ShaderProgram:
    """A linked program that knows what its sources declare.

    Args:
        context: the context of the calling thread.
        vertex, fragment: GLSL sources; a program without the second only feeds back.
        varyings: outputs of the vertex shader that are fed back.

    Raises:
        moderngl.Error: if the driver does not take the sources.
    """

    def __init__(
        self,
        context: moderngl.Context,
        vertex: str,
        fragment: str | None = None,
        varyings: Sequence[str] = (),
    ) -> None:
        self._context = context
        self._program = context.program(
            vertex_shader=vertex, fragment_shader=fragment, varyings=tuple(varyings)
        )
        self._declared = frozenset(_UNIFORM.findall(vertex + "\n" + (fragment or "")))
        self._inputs = frozenset(_INPUT.findall(vertex))

    @staticmethod
    def shipped(context: moderngl.Context, name: str, taps: int = 1) -> ShaderProgram:
        """The program ``name`` of the package, with its constant ``TAPS``."""
        return ShaderProgram(context, shader(f"{name}.vert"), shader(f"{name}.frag", taps))

    def _kept(self, name: str) -> moderngl.Uniform | None:
        if name not in self._declared:
            raise KeyError(f"no shader of this program declares {name}")
        found = self._program.get(name, None)
        return found if isinstance(found, moderngl.Uniform) else None

    def set(self, **values: Any) -> None:
        """Give values by name: numbers, tuples of numbers, or the unit of a texture. What a
        driver dropped because nothing uses it is passed over.

        Raises:
            KeyError: for a name that the sources do not declare.
        """
        for name, value in values.items():
            uniform = self._kept(name)
            if uniform is not None:
                uniform.value = value

    def set_matrix(self, name: str, matrix: Array) -> None:
        """Give a matrix ``(4, 4)`` that acts on columns."""
        self.set_raw(name, np.ascontiguousarray(matrix.T, dtype="f4").tobytes())

    def set_raw(self, name: str, data: bytes) -> None:
        """Give the bytes of an array of single-precision numbers.

        Raises:
            KeyError: for a name that the sources do not declare.
        """
        uniform = self._kept(name)
        if uniform is not None:
            uniform.write(data)

    def array(
        self, content: Sequence[Content], indices: moderngl.Buffer | None = None
    ) -> moderngl.VertexArray:
        """Buffers laid onto the inputs of the vertex shader. Each is ``(buffer, format, names)``
        as moderngl takes it; what a driver dropped is stepped over.

        Raises:
            KeyError: for a name that the source does not declare.
        """
        laid = [(buffer, *self._stepped_over(layout, names)) for buffer, layout, *names in content]
        kept = [part for part in laid if len(part) > 2]
        return self._context.vertex_array(self._program, kept, indices)

    def _stepped_over(self, layout: str, names: Sequence[str]) -> tuple[str, ...]:
        left, used, pieces = list(names), [], []
        for piece in layout.split():
            if piece.endswith("x"):
                pieces.append(piece)
                continue
            name = left.pop(0)
            if name not in self._inputs:
                raise KeyError(f"no vertex shader of this program declares {name}")
            if isinstance(self._program.get(name, None), moderngl.Attribute):
                pieces.append(piece)
                used.append(name)
            else:
                pieces.append(f"{int(piece[:-1]) * 4}x")
        return (" ".join(pieces), *used)
