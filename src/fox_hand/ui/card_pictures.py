"""Pictures of cards, decoded and scaled beside the window and kept while there is room."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QImage

from fox_hand.base.work import Progress
from fox_hand.library.card import read_card
from fox_hand.library.store import Entry
from fox_hand.session.jobs import Jobs

KEPT = 900


class CardPictures:
    """``get`` answers at once: with the picture, or None and a call of ``arrived`` later."""

    def __init__(self, jobs: Jobs, arrived: Callable[[], None]) -> None:
        self._jobs, self._arrived = jobs, arrived
        self._kept: OrderedDict[tuple[str, str, int], QImage] = OrderedDict()
        self._asked: set[tuple[str, str, int]] = set()

    def get(self, entry: Entry, pixels: int) -> QImage | None:
        """The picture of a card at a size in device pixels; a null image where it has none that
        can be decoded."""
        changed = entry.card.changed if entry.card is not None else ""
        key = str(entry.path), changed, pixels
        if key in self._kept:
            self._kept.move_to_end(key)
            return self._kept[key]
        if not entry.has_picture:
            return QImage()
        if key not in self._asked:
            self._asked.add(key)
            self._jobs.run(
                lambda progress: _decode(progress, entry, pixels),
                lambda image: self._keep(key, image),
                lambda _: self._keep(key, QImage()),
            )
        return None

    def _keep(self, key: tuple[str, str, int], image: QImage) -> None:
        self._asked.discard(key)
        self._kept[key] = image
        while len(self._kept) > KEPT:
            self._kept.popitem(last=False)
        self._arrived()


def _decode(progress: Progress, entry: Entry, pixels: int) -> QImage:
    progress.step(0.0)
    data = read_card(entry.path)[1]
    image = QImage.fromData(data) if data is not None else QImage()
    if image.isNull():
        return image
    ready = QImage.Format.Format_ARGB32_Premultiplied
    return reduced(image, pixels).convertToFormat(ready)


def reduced(image: QImage, pixels: int) -> QImage:
    """A smaller picture, by halves first: one smooth step from 320 to 68 px would sparkle."""
    aspect, smooth = (
        Qt.AspectRatioMode.IgnoreAspectRatio,
        Qt.TransformationMode.SmoothTransformation,
    )
    while image.width() >= pixels * 2:
        image = image.scaled(image.width() // 2, image.height() // 2, aspect, smooth)
    return image.scaled(pixels, pixels, aspect, smooth)
