"""``PYTHONPATH=src:tools python -m cast.ticket OUT``: a paper ticket with a face, as drawings.

Writes a folder of PNG files and the same as one OpenRaster file: what the manual's page *From
drawings to a puppet* begins with.
"""

from __future__ import annotations

import sys
from collections.abc import Callable
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw

from fox_hand.interchange.drawings.open_raster import StackLayer, open_raster_bytes

SIZE, SMOOTH = (600, 800), 4
PAPER, EDGE, INK, RED = "#f3e3bf", "#d8c08a", "#2b2a2a", "#c8452f"
SKIN, BLUE, MOUTH, TONGUE = "#e3a07d", "#3f6f8f", "#7d2b31", "#d9707a"
Pen = Callable[[ImageDraw.ImageDraw], None]


def at(*numbers: float) -> list[float]:
    """Canvas pixels as they are drawn, larger."""
    return [n * SMOOTH for n in numbers]


def drawn(*pens: Pen) -> Image.Image:
    """A drawing with smooth edges that keep their colour."""
    large = Image.new("RGBA", (SIZE[0] * SMOOTH, SIZE[1] * SMOOTH))
    for pen in pens:
        pen(ImageDraw.Draw(large))
    return large.resize(SIZE, Image.Resampling.BOX)


def line(colour: str, wide: float, *points: float) -> Pen:
    """A line with round ends and corners."""

    def pen(draw: ImageDraw.ImageDraw) -> None:
        places = list(zip(at(*points[::2]), at(*points[1::2]), strict=True))
        draw.line(places, colour, round(wide * SMOOTH), "curve")
        half = wide * SMOOTH / 2
        for x, y in places:
            draw.ellipse((x - half, y - half, x + half, y + half), colour)

    return pen


def round_(colour: str, x: float, y: float, wide: float, high: float) -> Pen:
    """An ellipse about a point."""
    box = at(x - wide / 2, y - high / 2, x + wide / 2, y + high / 2)
    return lambda draw: draw.ellipse(box, colour)


def shape(colour: str, *points: float) -> Pen:
    """A filled outline."""
    return lambda draw: draw.polygon(
        list(zip(at(*points[::2]), at(*points[1::2]), strict=True)), colour
    )


def paper(draw: ImageDraw.ImageDraw) -> None:
    """The ticket: two corners punched, a torn edge, a stripe."""
    draw.rounded_rectangle(at(176, 176, 424, 576), 22 * SMOOTH, EDGE)
    draw.rounded_rectangle(at(182, 182, 418, 570), 18 * SMOOTH, PAPER)
    draw.rectangle(at(182, 486, 418, 514), RED)
    for y in range(196, 570, 26):
        draw.ellipse(at(169, y, 185, y + 16), (0, 0, 0, 0))
        draw.ellipse(at(415, y, 431, y + 16), (0, 0, 0, 0))
    for x in range(206, 400, 18):
        draw.rectangle(at(x, 534, x + 10, 538), EDGE)


def eyes(white: float, pupil: float) -> tuple[Pen, ...]:
    """Both eyes; ``white`` is how far they are open."""
    found: list[Pen] = []
    for x in (254, 346):
        if white <= 0:
            found.append(line(INK, 6, x - 26, 286, x, 294, x + 26, 286))
            continue
        found += [
            round_(INK, x, 280, 62, 66 * white + 6),
            round_("#ffffff", x, 280, 54, 64 * white),
        ]
        found.append(round_(INK, x + 4, 282, 24, min(26, 60 * white) * pupil))
    return tuple(found)


def arm(side: int, up: bool) -> tuple[Pen, ...]:
    """From the shoulder at the paper's edge to the hand; ``side`` 1 is at the right."""
    x, y = 300 + side * 124, 380
    elbow = (x + side * 52, y + (-6 if up else 62))
    hand = (x + side * (76 if up else 38), y + (-112 if up else 132))
    return (
        line(INK, 22, x, y, *elbow, *hand),
        line(BLUE, 14, x, y, *elbow, *hand),
        round_(INK, *hand, 40, 40),
        round_(SKIN, *hand, 32, 32),
    )


def leg(side: int) -> tuple[Pen, ...]:
    """From the lower edge to the shoe."""
    x = 300 + side * 58
    return (
        line(INK, 24, x, 566, x, 700),
        line(BLUE, 16, x, 566, x, 696),
        shape(INK, x - 22, 690, x + 20, 690, x + 20 + 22 * side, 732, x - 22 + 22 * side, 732),
        round_(INK, x + 14 * side, 716, 74, 38),
        round_(RED, x + 14 * side, 714, 62, 28),
    )


def ticket() -> dict[str, Image.Image]:
    """Part or part/drawing, in front first."""
    own = {-1: "Right", 1: "Left"}  # it looks at us, so its left is at our right
    found = {
        "Mouth/shut": drawn(line(INK, 6, 264, 384, 300, 394, 336, 384)),
        "Mouth/open": drawn(round_(INK, 300, 392, 76, 60), round_(MOUTH, 300, 392, 64, 48)),
        "Mouth/grin": drawn(
            shape(INK, 250, 366, 350, 366, 336, 404, 300, 418, 264, 404),
            shape("#ffffff", 258, 372, 342, 372, 330, 400, 300, 410, 270, 400),
        ),
        "Mouth/oh": drawn(
            round_(INK, 300, 394, 46, 54),
            round_(MOUTH, 300, 394, 34, 42),
            round_(TONGUE, 300, 406, 22, 16),
        ),
    }
    for side in (-1, 1):
        x = 300 + side * 46
        found[f"{own[side]} brow"] = drawn(line(INK, 9, x - 26, 232, x, 224, x + 26, 232))
    found |= {
        "Eyes/open": drawn(*eyes(1.0, 1.0)),
        "Eyes/half": drawn(*eyes(0.45, 0.9)),
        "Eyes/shut": drawn(*eyes(0.0, 0.0)),
        "Body": drawn(paper),
        "Left arm/down": drawn(*arm(1, up=False)),
        "Left arm/up": drawn(*arm(1, up=True)),
        "Right arm/down": drawn(*arm(-1, up=False)),
        "Right arm/up": drawn(*arm(-1, up=True)),
        "Left leg": drawn(*leg(1)),
        "Right leg": drawn(*leg(-1)),
    }
    return found


def write(out: Path) -> None:
    """The folder ``ticket`` and the file ``ticket.ora``."""
    drawings, numbers = ticket(), dict[str, int]()
    for name, picture in drawings.items():
        part, _, word = name.partition("/")
        number = numbers.setdefault(part, len(numbers) + 1)
        path = out / "ticket" / f"{number:02} {part}"
        path = path / f"{word}.png" if word else path.with_name(f"{path.name}.png")
        path.parent.mkdir(parents=True, exist_ok=True)
        picture.save(path, optimize=True)
    layers = []
    canvas, firsts = Image.new("RGBA", SIZE), dict[str, Image.Image]()
    for name, picture in drawings.items():
        box = picture.getbbox()
        assert box is not None
        part, _, word = name.rpartition("/")
        groups = (part,) if part else ()
        first = part not in firsts
        firsts.setdefault(part or word, picture)
        pixels = np.asarray(picture.crop(box))
        layers.append(StackLayer(word, pixels, box[0], box[1], groups, first or not part))
    for picture in reversed(firsts.values()):
        canvas.alpha_composite(picture)
    (out / "ticket.ora").write_bytes(open_raster_bytes(SIZE, layers, np.asarray(canvas)))


if __name__ == "__main__":
    write(Path(sys.argv[1]))
