"""Images that are kept for the next paint, as long as there is room."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Hashable
from typing import Generic, TypeVar

from PySide6.QtGui import QImage, QPixmap

ROOM = 4 << 20  # bytes
SCREENS = 3  # how many times what is in sight is kept: here, and where one came from and may go

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

    def make_room(self, seen: int, size: int) -> None:
        """Keep a few screens of what is in sight, and no more.

        Args:
            seen: how many are in sight.
            size: bytes of one.
        """
        self._room = max(SCREENS * seen * size, ROOM)
        self._shrink()

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
        self._shrink()

    def _shrink(self) -> None:
        while self._held > self._room and len(self._kept) > 1:
            self._held -= _bytes(self._kept.popitem(last=False)[1])


def _bytes(image: QImage | QPixmap) -> int:
    return image.width() * image.height() * max(image.depth(), 8) // 8 + 400  # as an object
