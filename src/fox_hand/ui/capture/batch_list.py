"""What each of many cards will hold, before they are taken."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QRect, Qt
from PySide6.QtGui import QPainter

from fox_hand.base.language import tr
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.painted_list import PaintedList, PaintedRow

ROW = 40
EDGE, FRAME = 12, 72


@dataclass(frozen=True)
class BatchRow:
    """One card to be.

    Args:
        name, frame: of the card, and where it is taken from.
        holds: what goes in; empty for a card that is not taken.
        lost: how much moved there and does not go in.
    """

    name: str
    frame: str
    holds: str
    lost: int

    @property
    def said(self) -> str:
        """The second line."""
        if not self.holds:
            return tr("nothing moved: no card")
        return (
            tr("{holds} · {lost} moved, not in it", holds=self.holds, lost=self.lost)
            if self.lost
            else self.holds
        )


class BatchList(PaintedList):
    """Name, frame, what goes in; what is not as it should be stands out."""

    def __init__(self, theme: Theme) -> None:
        super().__init__(tr("What each card will hold"))
        self._theme = theme
        self._rows: list[BatchRow] = []

    def show_rows(self, rows: list[BatchRow]) -> None:
        """Other cards."""
        self._rows = rows
        self.show_painted(
            [PaintedRow(f"{row.name}, {row.frame}: {row.said}", ROW) for row in rows], self.row
        )

    def paint_row(self, painter: QPainter, row: int) -> None:
        one, theme, wide = self._rows[row], self._theme, self.viewport().width()
        odd = not one.holds or one.lost > 0
        if row in (self.over, self.row):
            painter.fillRect(0, 0, wide, ROW, theme.colour("raised"))
        if odd:
            icon = "circle-alert" if one.holds else "circle-dashed"
            painter.drawPixmap(wide - EDGE - 14, 13, theme.pixmap(icon, 14, "warning", 2.0))
        inner = wide - 2 * EDGE - 20
        painter.setFont(theme.font(12, 600))
        painter.setPen(theme.colour("text" if one.holds else "quiet"))
        self._line(painter, QRect(EDGE, 4, inner - FRAME, 16), one.name)
        painter.setFont(theme.font(12))
        painter.setPen(theme.colour("quiet"))
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRect(EDGE + inner - FRAME, 4, FRAME, 16), right, one.frame)
        painter.setPen(theme.colour("warning" if odd else "quiet"))
        self._line(painter, QRect(EDGE, 20, inner, 16), one.said)

    @staticmethod
    def _line(painter: QPainter, box: QRect, text: str) -> None:
        flags = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        short = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, box.width())
        painter.drawText(box, flags, short)
