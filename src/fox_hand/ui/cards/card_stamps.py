"""Cards as they usually theme, drawn once and kept."""

from __future__ import annotations

import time

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QPixmap

from fox_hand.library.format.entry import Entry
from fox_hand.ui.cards.card_painter import CardState, draw_card
from fox_hand.ui.cards.kept_images import KeptImages
from fox_hand.ui.theme.theme import Theme

BUDGET = 0.008  # seconds for new stamps in one paint; the others follow in the next
MARGIN = QPointF(2, 2)  # around a card in its stamp


class CardStamps:
    """Drawing a card takes half a millisecond, showing its stamp a hundredth of that."""

    def __init__(self, theme: Theme) -> None:
        self._theme = theme
        self._kept = KeptImages[QPixmap]()
        self._began = 0.0

    def begin(self) -> None:
        """A paint begins."""
        self._began = time.perf_counter()

    def make_room(self, seen: int, size: tuple[int, int], ratio: float) -> None:
        """So many are in sight, of this size in logical pixels."""
        around = 2 * MARGIN.x()
        bytes_of_one = (size[0] + around) * (size[1] + around) * ratio * ratio * 4
        self._kept.make_room(seen, round(bytes_of_one))

    def get(
        self,
        entry: Entry,
        image: QImage | None,
        state: CardState,
        size: tuple[int, int],
        labels: bool,
        ratio: float,
    ) -> QPixmap | None:
        """A card's stamp; None where enough was drawn for one paint."""
        loaded = image.cacheKey() if image is not None else -1
        shown = entry.name, entry.region, entry.side, entry.locked
        key = (entry.path, shown, state, loaded, size, ratio, self._theme.age)
        stamp = self._kept.get(key)
        if stamp is None and time.perf_counter() - self._began <= BUDGET:
            stamp = self._drawn(entry, image, state, size, labels, ratio)
            self._kept.put(key, stamp)
        return stamp

    def _drawn(
        self,
        entry: Entry,
        image: QImage | None,
        state: CardState,
        size: tuple[int, int],
        labels: bool,
        ratio: float,
    ) -> QPixmap:
        width, height = size
        room = 2 * round(MARGIN.x())
        stamp = QPixmap(round((width + room) * ratio), round((height + room) * ratio))
        stamp.setDevicePixelRatio(ratio)
        stamp.fill(Qt.GlobalColor.transparent)
        painter = QPainter(stamp)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        rect = QRectF(MARGIN.x(), MARGIN.y(), width, height)
        draw_card(painter, self._theme, rect, entry, image, state, labels)
        painter.end()
        return stamp
