"""Pictures of cards, decoded beside the window and kept while there is room."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable

from PySide6.QtGui import QImage

from fox_hand.base.work import Progress
from fox_hand.library.card import read_card
from fox_hand.library.store import Entry
from fox_hand.session.jobs import Jobs

KEPT = 600


class CardPictures:
    """``get`` answers at once: with the picture, or None and a call of ``arrived`` later."""

    def __init__(self, jobs: Jobs, arrived: Callable[[], None]) -> None:
        self._jobs, self._arrived = jobs, arrived
        self._kept: OrderedDict[tuple[str, str], QImage] = OrderedDict()
        self._asked: set[tuple[str, str]] = set()

    def get(self, entry: Entry) -> QImage | None:
        """The picture of a card; a null image where it has none that can be decoded."""
        key = self._key(entry)
        if key in self._kept:
            self._kept.move_to_end(key)
            return self._kept[key]
        if not entry.has_picture:
            return QImage()
        if key not in self._asked:
            self._asked.add(key)
            self._jobs.run(
                lambda progress: _decode(progress, entry),
                lambda image: self._keep(key, image),
                lambda _: self._keep(key, QImage()),
            )
        return None

    def _keep(self, key: tuple[str, str], image: QImage) -> None:
        self._asked.discard(key)
        self._kept[key] = image
        while len(self._kept) > KEPT:
            self._kept.popitem(last=False)
        self._arrived()

    @staticmethod
    def _key(entry: Entry) -> tuple[str, str]:
        changed = entry.card.changed if entry.card is not None else ""
        return str(entry.path), changed


def _decode(progress: Progress, entry: Entry) -> QImage:
    progress.step(0.0)
    data = read_card(entry.path)[1]
    return QImage.fromData(data) if data is not None else QImage()
