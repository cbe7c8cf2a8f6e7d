"""Textures of drawings, unpacked when they are first seen, within a budget.

A puppet may have hundreds of drawings of which a few dozen are seen. While something moves, the
small preview of a drawing does until it is unpacked; where all that are seen together would take
too much, they are halved until they fit.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Iterable
from concurrent.futures import ThreadPoolExecutor

import moderngl
import numpy as np
import numpy.typing as npt

from fox_hand.base.files.pictures import opened_picture
from fox_hand.core.model.mesh import PackedPicture

BUDGET = 64 << 20  # pixels that are seen at once; four bytes each, a third more for smaller copies
KEPT = 2 * BUDGET  # pixels that stay, seen or not
WORKERS = 4
WRONG = (OSError, SyntaxError, ValueError)
Pixels = npt.NDArray[np.uint8]
Key = tuple[int, int]


class DrawingTextures:
    """Of one rig. Drawings are known by identity: the rig holds them.

    Args:
        context: of the thread that draws.
    """

    def __init__(self, context: moderngl.Context) -> None:
        self._context = context
        self._loaded: OrderedDict[Key, moderngl.Texture] = OrderedDict()
        self._previews: dict[int, moderngl.Texture] = {}
        self._factor = 1

    def prepare(self, seen: Iterable[PackedPicture], most: int | None) -> bool:
        """Have everything ready that is seen now.

        Args:
            seen: the drawings.
            most: how many of those that have previews are unpacked in one go; None for all.

        Returns:
            whether all are there as they are, and none by its preview.
        """
        drawings = {id(one): one for one in seen}
        total = sum(one.width * one.height for one in drawings.values())
        factor = 1
        while total > BUDGET * factor * factor:
            factor *= 2
        self._factor = factor
        missing = [one for key, one in drawings.items() if (key, factor) not in self._loaded]
        if most is not None:
            waiting = [one for one in missing if one.preview]
            missing = [one for one in missing if not one.preview] + waiting[:most]
        if len(missing) > 1:
            with ThreadPoolExecutor(WORKERS) as pool:  # decoding lets other threads run
                unpacked = list(pool.map(lambda one: unpack(one.data, factor), missing))
        else:
            unpacked = [unpack(one.data, factor) for one in missing]
        for one, pixels in zip(missing, unpacked, strict=True):
            self._loaded[id(one), factor] = self._texture(pixels)
        for key in drawings:
            if (key, factor) in self._loaded:
                self._loaded.move_to_end((key, factor))
        wanted = {(key, factor) for key in drawings}
        self._give_back(wanted)
        return wanted <= self._loaded.keys()

    def texture(self, drawing: PackedPicture) -> moderngl.Texture:
        """What there is of a drawing now."""
        found = self._loaded.get((id(drawing), self._factor))
        if found is not None:
            return found
        if not drawing.preview:
            self._loaded[id(drawing), self._factor] = self._texture(
                unpack(drawing.data, self._factor)
            )
            return self._loaded[id(drawing), self._factor]
        if id(drawing) not in self._previews:
            self._previews[id(drawing)] = self._texture(unpack(drawing.preview, 1))
        return self._previews[id(drawing)]

    def _texture(self, pixels: Pixels) -> moderngl.Texture:
        height, width = pixels.shape[:2]
        texture = self._context.texture((width, height), 4, pixels.tobytes())
        texture.build_mipmaps()
        texture.filter = (moderngl.LINEAR_MIPMAP_LINEAR, moderngl.LINEAR)
        texture.repeat_x = texture.repeat_y = False
        return texture

    def _give_back(self, keep: set[Key]) -> None:
        """Take the longest unseen ones away until what stays is within bounds."""
        sizes = {key: t.width * t.height for key, t in self._loaded.items()}
        total = sum(sizes.values())
        for key in [k for k in self._loaded if k not in keep]:
            if total <= KEPT:
                return
            total -= sizes[key]
            self._loaded.pop(key).release()

    def release(self) -> None:
        """Give the memory back."""
        for texture in (*self._loaded.values(), *self._previews.values()):
            texture.release()
        self._loaded.clear()
        self._previews.clear()


def unpack(data: bytes, factor: int) -> Pixels:
    """A drawing's pixels, smaller by a factor; nothing at all for one that cannot be decoded, which
    was told when its file was read."""
    try:
        with opened_picture(data) as picture:
            whole = picture.convert("RGBA")
            if factor > 1:
                whole = whole.reduce(factor)
            return np.asarray(whole)
    except WRONG:
        return np.zeros((1, 1, 4), np.uint8)
