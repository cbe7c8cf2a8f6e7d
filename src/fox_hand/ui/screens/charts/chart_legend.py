"""What the marks on slots mean."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from fox_hand.base.language import tr
from fox_hand.ui.theme.theme import Theme

ROW, SIGN = 26, 20
LINES = (
    ("2", tr("has two, best first")),
    (tr("1 of 3"), tr("more are wanted")),
    ("link", tr("lent by another character")),
    ("likely", tr("a card looks like it")),
    ("plus", tr("missing: click to capture")),
)


class ChartLegend(QWidget):
    """A sign and its words in each line."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self.setFixedHeight(ROW * len(LINES) + 36)
        self.setAccessibleName(tr("Slots"))
        self.setAccessibleDescription("; ".join(words for _, words in LINES))
        self.setToolTip("\n".join(words for _, words in LINES))

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter, theme = QPainter(self), self._theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setFont(theme.font(12, 600))
        painter.setPen(theme.colour("text"))
        painter.drawText(QRectF(20, 4, 160, 20), middle, tr("Slots"))
        for number, (sign, words) in enumerate(LINES):
            y = 28 + number * ROW
            self._paint_sign(painter, sign, QRectF(20, y + 3, SIGN, SIGN))
            painter.setFont(theme.font(12))
            painter.setPen(theme.colour("text"))
            shown = painter.fontMetrics().elidedText(
                words, Qt.TextElideMode.ElideRight, self.width() - 70
            )
            painter.drawText(QRectF(66, y, self.width() - 70, ROW), middle, shown)

    def _paint_sign(self, painter: QPainter, sign: str, rect: QRectF) -> None:
        theme, ratio = self._theme, self.devicePixelRatioF()
        if sign in ("link", "plus"):
            painter.setBrush(theme.colour("window" if sign == "link" else "raised"))
            pen = QPen(theme.colour("quiet"), 1, Qt.PenStyle.DashLine)
            painter.setPen(Qt.PenStyle.NoPen if sign == "link" else pen)
            painter.drawRoundedRect(rect, 4, 4)
            pixmap = theme.pixmap(sign, 12, "text", ratio)
            painter.drawPixmap(round(rect.left()) + 4, round(rect.top()) + 4, pixmap)
            return
        painter.setFont(theme.font(11, 600))
        said = tr("likely") if sign == "likely" else sign
        wide = painter.fontMetrics().horizontalAdvance(said) + 8
        plate = QRectF(rect.left(), rect.top() + 2, max(wide, 16), 16)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("window"))
        painter.drawRoundedRect(plate, 4, 4)
        painter.setPen(theme.colour("text"))
        painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, said)
