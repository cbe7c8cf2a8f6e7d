"""Made-up drawings of a bird, as their author would leave them in a folder or a layered file."""

from __future__ import annotations

import io
from collections.abc import Callable
from pathlib import Path

import numpy as np
import numpy.typing as npt
from PIL import Image, ImageDraw

SIZE = (400, 300)
Draw = Callable[[ImageDraw.ImageDraw], None]
BEAKS = {"shut": 12, "open": 30, "shout": 44}


def drawn(draw: Draw, size: tuple[int, int] = SIZE, smooth: int = 4) -> Image.Image:
    """A drawing with soft edges."""
    large = Image.new("RGBA", (size[0] * smooth, size[1] * smooth))
    draw(ImageDraw.Draw(large))
    # colours are kept apart from alpha, or the edges would be dark
    return large.resize(size, Image.Resampling.BOX)


def blob(x: float, y: float, wide: float, high: float, colour: str) -> Image.Image:
    """An ellipse about a point of the canvas."""
    box = [4 * v for v in (x - wide / 2, y - high / 2, x + wide / 2, y + high / 2)]
    return drawn(lambda d: d.ellipse(box, fill=colour))


def bird() -> dict[str, Image.Image]:
    """Part or part/drawing, in front first, seen from the side."""
    return {
        "Near wing": blob(170, 190, 110, 50, "#8c99a4"),
        "Near wing tip": blob(118, 200, 40, 26, "#39424d"),
        "Eye/open": blob(268, 84, 16, 16, "#202020"),
        "Eye/shut": blob(268, 84, 16, 4, "#202020"),
        **{f"Beak/{word}": blob(318, 100, 60, high, "#e9b23c") for word, high in BEAKS.items()},
        "Head": blob(260, 95, 90, 80, "#f4f1ea"),
        "Body": blob(200, 190, 190, 100, "#ffffff"),
        "Near leg": blob(210, 250, 10, 70, "#d9917e"),
        "Far leg": blob(190, 250, 10, 70, "#c97f6d"),
        "Far wing": blob(230, 190, 108, 48, "#39424d"),
    }


def as_folder(folder: Path, drawings: dict[str, Image.Image]) -> Path:
    """Full-canvas PNG files, numbered as they lie one before the other."""
    numbers: dict[str, int] = {}
    for name, picture in drawings.items():
        part, _, drawing = name.partition("/")
        number = numbers.setdefault(part, len(numbers) + 1)
        if drawing:
            place = folder / f"{number:02} {part}" / f"{drawing}.png"
        else:
            place = folder / f"{number:02} {part}.png"
        place.parent.mkdir(parents=True, exist_ok=True)
        picture.save(place)
    return folder


def flat(pictures: list[Image.Image], size: tuple[int, int] = SIZE) -> npt.NDArray[np.uint8]:
    """All of them laid over each other by Pillow, in front first: ``(H, W, 4)`` straight alpha."""
    canvas = Image.new("RGBA", size)
    for picture in reversed(pictures):
        canvas.alpha_composite(picture)
    return np.asarray(canvas)


def png_bytes(picture: Image.Image) -> bytes:
    buffer = io.BytesIO()
    picture.save(buffer, "PNG")
    return buffer.getvalue()
