"""How many controls of a card land, as parts of a bar."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from fox_hand.core.retarget.retarget import Landing
from fox_hand.ui.theme.theme import Theme

BAR = {
    Landing.LANDS: "good",
    Landing.CORRECTED: "quiet",
    Landing.LIMIT: "warning",
    Landing.ASK: "warning",
    Landing.LOCKED: "line",
    Landing.MISSING: "line",
}


class FitBar(QWidget):
    """How many land which way, as parts of a bar; the words beside say the same."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme, self._counts = theme, dict[Landing, int]()
        self.setFixedSize(216, 8)

    def show_counts(self, counts: dict[Landing, int]) -> None:
        self._counts = counts
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        total, x = max(sum(self._counts.values()), 1), 0.0
        for landing, token in BAR.items():
            wide = self.width() * self._counts.get(landing, 0) / total
            if wide > 0:
                painter.setBrush(self._theme.colour(token))
                painter.drawRect(QRectF(x, 0, max(wide - 1, 1), 8))
            x += wide
