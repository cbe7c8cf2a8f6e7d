"""Cards as they usually look, drawn once and kept."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QImage, QPainter, QPixmap

from fox_hand.library.format.entry import Entry
from fox_hand.ui.cards.card_painter import CardState, draw_card
from fox_hand.ui.cards.stamps import Stamps
from fox_hand.ui.theme.theme import Theme

BUDGET = 0.008  # seconds for new stamps in one paint
MARGIN = QPointF(2, 2)  # around a card in its stamp


class CardStamps(Stamps):
    """Drawing a card takes half a millisecond, showing its stamp a hundredth of that."""

    def __init__(self, theme: Theme) -> None:
        super().__init__(BUDGET)
        self._theme = theme

    def card(
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
        key = entry.path, shown, state, loaded, self._theme.age
        whole = size[0] + 2 * MARGIN.x(), size[1] + 2 * MARGIN.y()

        def draw(painter: QPainter) -> None:
            rect = QRectF(MARGIN.x(), MARGIN.y(), *size)
            draw_card(painter, self._theme, rect, entry, image, state, labels)

        return self.get(key, whole, ratio, draw)
