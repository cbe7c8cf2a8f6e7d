"""Pictures of cards, decoded and scaled beside the window and kept while there is room."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QImage

from fox_hand.base.errors import FoxHandError
from fox_hand.base.work import Progress
from fox_hand.library.format.container import read_picture
from fox_hand.library.format.entry import Entry
from fox_hand.library.index.picture_cache import PictureCache
from fox_hand.session.runtime.jobs import JobRunner
from fox_hand.ui.cards.kept_images import KeptImages
from fox_hand.ui.services.picture_files import READY, decoded, encoded

UNDER_WAY = 6  # more would keep what is in sight waiting for what was scrolled by
Key = tuple[str, str, int]


class CardPictures:
    """``get`` answers at once: with the picture, or None and a call of ``arrived`` later.

    Args:
        jobs: where pictures are decoded.
        cache: small pictures of earlier days.
        arrived: called when one is there.
    """

    def __init__(self, jobs: JobRunner, cache: PictureCache, arrived: Callable[[], None]) -> None:
        self._jobs, self._cache, self._arrived = jobs, cache, arrived
        self._kept = KeptImages[QImage]()
        self._asked: set[Key] = set()
        self._wanted: OrderedDict[Key, Entry] = OrderedDict()

    def get(self, entry: Entry, pixels: int) -> QImage | None:
        """The picture of a card at a size in device pixels; a null image where it has none that
        can be decoded."""
        key = str(entry.path), f"{entry.changed} {entry.revision}", pixels
        known = self._kept.get(key)
        if known is not None:
            return known
        if not entry.has_picture:
            return QImage()
        if key not in self._asked:
            self._wanted[key] = entry
            self._wanted.move_to_end(key)
            self._ask()
        return None

    def make_room(self, seen: int, pixels: int) -> None:
        """So many are in sight, of this size in device pixels."""
        self._kept.make_room(seen, pixels * pixels * 4)

    def forget_wanted(self) -> None:
        """What was asked for and is not under way yet has gone out of sight."""
        self._wanted.clear()

    def _ask(self) -> None:
        while self._wanted and len(self._asked) < UNDER_WAY:
            key, entry = self._wanted.popitem(last=False)
            self._asked.add(key)
            self._jobs.run(
                partial(self._decoded, key, entry),
                partial(self._keep, key),
                partial(self._failed, key),
            )

    def _failed(self, key: Key, error: Exception) -> None:
        self._keep(key, QImage())
        raise error  # what can be wrong with a file is a null image already

    def _keep(self, key: Key, image: QImage) -> None:
        self._asked.discard(key)
        self._kept.put(key, image)
        self._ask()
        self._arrived()

    def _decoded(self, key: Key, entry: Entry, progress: Progress) -> QImage:
        progress.step(0.0)
        name = " ".join(map(str, key))
        known = self._cache.get(name)
        image = decoded(known)
        if image.isNull():
            image = _decode(entry, key[2])
            if not image.isNull():
                self._cache.put(name, encoded(image))
        return image if image.isNull() else image.convertToFormat(READY)


def _decode(entry: Entry, pixels: int) -> QImage:
    try:
        data = read_picture(entry.path, pixels)
    except FoxHandError:
        return QImage()  # the card says itself what is wrong with it
    image = decoded(data)
    return image if image.isNull() else reduced(image, pixels)


def reduced(image: QImage, pixels: int) -> QImage:
    """A smaller picture, by halves first: one smooth step from 320 to 68 px would sparkle."""
    aspect, smooth = (
        Qt.AspectRatioMode.IgnoreAspectRatio,
        Qt.TransformationMode.SmoothTransformation,
    )
    while image.width() >= pixels * 2:
        image = image.scaled(image.width() // 2, image.height() // 2, aspect, smooth)
    return image.scaled(pixels, pixels, aspect, smooth)
