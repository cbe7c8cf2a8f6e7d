"""Which picture stands for a file."""

from __future__ import annotations

import zipfile
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.library.format.container import read_picture
from fox_hand.library.format.schema import SUFFIX as CARD
from fox_hand.library.store.pack import SUFFIX as PACK

LARGEST = 64 << 20  # bytes of a card in a pack


def picture_in(path: Path, size: int) -> bytes:
    """The picture of a card, or of the first card of a pack.

    Raises:
        FoxHandError: ``thumbnail.none`` or why it cannot be read.
    """
    kind = path.suffix.lower()
    found = None
    if kind == CARD:
        found = read_picture(path, size)
    elif kind == PACK:
        found = _first(path, size)
    if found is None:
        raise FoxHandError("thumbnail.none", tr("{name} has no picture.", name=path.name))
    return found


def _first(path: Path, size: int) -> bytes | None:
    """A picture out of a pack, whose cards are files within it."""
    name = "thumb@2x.webp" if size > 320 else "thumb.png"
    try:
        with zipfile.ZipFile(path) as pack:
            cards = [i for i in pack.infolist() if i.filename.lower().endswith(CARD)]
            for info in cards:
                if info.file_size > LARGEST:
                    continue
                with pack.open(info) as inside, zipfile.ZipFile(inside) as card:
                    if name in card.namelist() and card.getinfo(name).file_size <= LARGEST:
                        return card.read(name)
    except (OSError, zipfile.BadZipFile, NotImplementedError, RuntimeError) as error:
        raise FoxHandError(
            "thumbnail.unreadable",
            tr("{name} cannot be read ({error}).", name=path.name, error=error),
            tr("It was left as it is."),
        ) from error
    return None
