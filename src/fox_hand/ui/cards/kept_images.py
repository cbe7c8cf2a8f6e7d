"""Images that are kept for the next paint, as long as there is room."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Hashable
from typing import Generic, TypeVar

from PySide6.QtGui import QImage, QPixmap

ROOM = 32 << 20  # bytes; a screen of 3840 x 2160 full of cards has 33 MB, and half of it shows them
SMALL_ROOM = 4 << 20  # of places that show a few; it is not asked of the disk again for a while

Image = TypeVar("Image", QImage, QPixmap)


class KeptImages(Generic[Image]):
    """Those that were not asked for the longest go first. Counted in bytes: cards are shown at any
    size, and 900 large ones are a hundred times as much as 900 small ones.

    Args:
        room: bytes of all of them together.
    """

    def __init__(self, room: int = ROOM) -> None:
        self._kept: OrderedDict[Hashable, Image] = OrderedDict()
        self._room, self._held = room, 0

    def __len__(self) -> int:
        return len(self._kept)

    @property
    def held(self) -> int:
        """Bytes of all of them together."""
        return self._held

    def get(self, key: Hashable) -> Image | None:
        """The image, which is then the last to go; None where it is not kept."""
        found = self._kept.get(key)
        if found is not None:
            self._kept.move_to_end(key)
        return found

    def put(self, key: Hashable, image: Image) -> None:
        """Keep one; it stays at least until the next."""
        before = self._kept.pop(key, None)
        self._held += _bytes(image) - (0 if before is None else _bytes(before))
        self._kept[key] = image
        while self._held > self._room and len(self._kept) > 1:
            self._held -= _bytes(self._kept.popitem(last=False)[1])


def _bytes(image: QImage | QPixmap) -> int:
    return image.width() * image.height() * max(image.depth(), 8) // 8 + 400  # as an object
