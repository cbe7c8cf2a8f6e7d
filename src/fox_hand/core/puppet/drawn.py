"""Drawings of a flat puppet as they come from their author: parts in order, each with one drawing
or several that take turns."""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from fox_hand.base.files.pictures import opened_picture

Pixels = npt.NDArray[np.uint8]


@dataclass(frozen=True, eq=False)
class PartDrawing:
    """One picture with transparency.

    Args:
        name: unique within its part.
        data: the picture as a file (PNG or WebP); unpacked only when it is looked at.
        width, height: pixels.
        left, top: where its upper left corner lies on the canvas, pixels, y downwards.
        opacity: 0...1.
        source: file or layer it came from, by which it is found again when it was drawn anew.
    """

    name: str
    data: bytes
    width: int
    height: int
    left: float = 0.0
    top: float = 0.0
    opacity: float = 1.0
    source: str = ""

    def pixels(self) -> Pixels:
        """Unpacked: sRGB with straight alpha, ``(height, width, 4)``.

        Raises:
            OSError, SyntaxError, ValueError: if it cannot be decoded.
        """
        with opened_picture(self.data) as picture:
            return np.asarray(picture.convert("RGBA"))


@dataclass(frozen=True, eq=False)
class DrawnPart:
    """What moves as one.

    Args:
        name: unique within its view.
        drawings: in the author's order; one of them is seen at a time.
        view: the view it belongs to; empty where there is one only.
        shown: which of the drawings is seen at first.
        within: name of the group around it; empty for none.
    """

    name: str
    drawings: tuple[PartDrawing, ...]
    view: str = ""
    shown: int = 0
    within: str = ""

    @property
    def seen(self) -> PartDrawing:
        """The drawing that is seen at first."""
        return self.drawings[self.shown]


@dataclass(frozen=True, eq=False)
class DrawnFigure:
    """Everything that was brought in.

    Args:
        name: of the folder or file.
        width, height: of the canvas, pixels.
        parts: of all views, what is in front first.
        notes: sentences on what was left out or is drawn otherwise than its author saw it.
    """

    name: str
    width: int
    height: int
    parts: tuple[DrawnPart, ...]
    notes: tuple[str, ...] = ()

    @property
    def views(self) -> tuple[str, ...]:
        """Names of the views, in the author's order; one empty name where there are none."""
        return tuple(dict.fromkeys(part.view for part in self.parts))

    def of_view(self, view: str) -> tuple[DrawnPart, ...]:
        """The parts of one view, in front first."""
        return tuple(part for part in self.parts if part.view == view)


def png(pixels: Pixels) -> bytes:
    """A picture as a PNG file, without what the moment of writing would put into it."""
    from PIL import Image  # noqa: PLC0415 - loading it takes longer than many commands

    buffer = io.BytesIO()
    Image.fromarray(pixels, "RGBA").save(buffer, "PNG", compress_level=6)
    return buffer.getvalue()
