"""A picture from a file as a drawing for a part of a puppet: it lies where the drawing lies that
is seen there, middle on middle and pixel on pixel."""

from __future__ import annotations

from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.inputs import read_file
from fox_hand.base.files.pictures import opened_picture
from fox_hand.base.language import tr
from fox_hand.core.puppet.drawn import png
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.drawings.drawing_folder import LARGEST_FILE, drawing_name
from fox_hand.interchange.drawings.layers import drawing_of as drawing_in
from fox_hand.interchange.drawings.svg import SvgRefusedError, svg_picture
from fox_hand.interchange.puppets.puppet_file import cut
from fox_hand.library.format.card import CardDrawing
from fox_hand.session.puppets.drawing_cards import drawing_of


def drawing_from(path: Path, rig: Rig, row: int, number: int) -> CardDrawing:
    """A picture as a drawing for a part.

    Args:
        path: a PNG, WebP or SVG file.
        rig: the puppet.
        row: the part's control.
        number: of the drawing in whose place it lies.

    Raises:
        FoxHandError: ``puppet.no_picture`` with what is wrong with it.
    """
    notes: list[str] = []
    try:
        data = read_file(path, LARGEST_FILE)
        data = svg_picture(data) if path.suffix.lower() == ".svg" else data
        found = drawing_in(path.name, data, notes, path.name)
    except SvgRefusedError as error:
        raise _refused(tr("{name} is not taken: {error}.", name=path.name, error=error)) from error
    except OSError as error:
        raise _refused(
            tr(
                "{name} cannot be read ({strerror}).",
                name=path.name,
                strerror=error.strerror or error,
            )
        ) from error
    if found is None:
        raise _refused(notes[-1].replace("is left out", "is not taken"))
    held = drawing_of(rig, row, number)
    if held is None:
        raise _refused(
            tr("{label} has no drawing in whose place it could lie.", label=rig.controls[row].label)
        )
    pixels = cut(found)[0]
    high, wide = pixels.shape[:2]
    x, y = _middle(held)
    pivot = wide / 2 - x, high / 2 - y
    name, label = drawing_name(path.stem), rig.controls[row].label
    return CardDrawing(name, label, pivot, held.pixel, rig.height, png(pixels))


def _middle(held: CardDrawing) -> tuple[float, float]:
    """From the pivot to the middle of a drawing, pixels, y downwards."""
    with opened_picture(held.data) as picture:
        width, height = picture.size
    return width / 2 - held.pivot[0], height / 2 - held.pivot[1]


def _refused(words: str) -> FoxHandError:
    return FoxHandError("puppet.no_picture", words, tr("The puppet is as it was."))
