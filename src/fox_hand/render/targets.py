"""What pictures are drawn into. A framebuffer does not own what is attached to it, so both are
kept, and given back, together."""

from __future__ import annotations

from collections import OrderedDict

import moderngl

KEPT = 8  # sizes; a stage, a lens, cards in two sizes, and a few on their way


class Target:
    """A framebuffer with colour and depth.

    Args:
        context: of the calling thread.
        size: width and height in pixels.
        samples: a pixel; with more than 0 there is a second framebuffer to resolve into.
        depth: whether there is a depth buffer.
    """

    def __init__(
        self,
        context: moderngl.Context,
        size: tuple[int, int],
        samples: int = 0,
        *,
        depth: bool = True,
    ) -> None:
        self.size = size
        self._parts: list[moderngl.Renderbuffer] = []
        colour = self._kept(context.renderbuffer(size, 4, samples=samples))
        deep = self._kept(context.depth_renderbuffer(size, samples=samples)) if depth else None
        self.drawn = context.framebuffer([colour], deep)
        self.resolved = self.drawn
        if samples:
            self.resolved = context.framebuffer([self._kept(context.renderbuffer(size, 4))])

    def _kept(self, part: moderngl.Renderbuffer) -> moderngl.Renderbuffer:
        self._parts.append(part)
        return part

    def release(self) -> None:
        """Give the memory back."""
        for framebuffer in {self.drawn, self.resolved}:
            framebuffer.release()
        for part in self._parts:
            part.release()
        self._parts.clear()


class Targets:
    """Targets by size; those used last stay.

    Args:
        context: of the calling thread.
    """

    def __init__(self, context: moderngl.Context) -> None:
        self._context = context
        self._kept: OrderedDict[tuple[int, int, int], Target] = OrderedDict()

    def get(self, width: int, height: int, samples: int) -> Target:
        """One of this size, made if need be."""
        key = (width, height, samples)
        if key not in self._kept:
            while len(self._kept) >= KEPT:
                self._kept.popitem(last=False)[1].release()
            self._kept[key] = Target(self._context, (width, height), samples)
        self._kept.move_to_end(key)
        return self._kept[key]
