"""What differs between two poses, the largest first."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPen

from fox_hand.base.language import number_text, tr
from fox_hand.session.applying.comparing import Comparison, DifferingPart, Row
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.key_map import KeyMap, LocalKey
from fox_hand.ui.widgets.painted_list import PaintedList, PaintedRow

ROW = 32
NAME, FIRST = 20, 172  # columns from the left
MIDDLE = Qt.AlignmentFlag.AlignVCenter


class CompareList(PaintedList):
    """Point at a row to see only that change; click or Space holds it; the arrows walk."""

    toggled = Signal(object)  # key of a row
    seen = Signal(object)  # key or None

    def __init__(self, theme: Theme) -> None:
        super().__init__(tr("What differs"))
        self._theme = theme
        self._comparison: Comparison | None = None
        self.rows: tuple[Row, ...] = ()
        self.setMinimumWidth(400)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.pointed.connect(self._see)
        self.walked.connect(self._see)
        self.keys = KeyMap([LocalKey(("Space",), self._hold)])

    def sizeHint(self) -> QSize:
        return QSize(404, max(len(self.rows) * ROW, 1))

    def show_rows(self, comparison: Comparison, rows: tuple[Row, ...]) -> None:
        """Show these differences."""
        self._comparison, self.rows = comparison, rows
        said = [
            PaintedRow(
                f"{row.label} {row.word}: {tr(' and ').join(shown_values(row))}",
                ROW,
                checked=row.key in comparison.chosen,
            )
            for row in rows
        ]
        self.show_painted(said, min(self.row, len(rows) - 1))

    def forget(self) -> None:
        """Nothing is compared any more."""
        self._comparison, self.rows = None, ()
        self.show_painted([])

    def _see(self, at: int) -> None:
        if at < 0 and self.hasFocus():
            return  # the keyboard goes on looking
        self.seen.emit(self.rows[at].key if 0 <= at < len(self.rows) else None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        super().mousePressEvent(event)
        if event.button() is not Qt.MouseButton.LeftButton:
            return
        at = self.row_at(event.position().toPoint().y())
        if at >= 0:
            self.toggled.emit(self.rows[at].key)

    def _hold(self) -> bool:
        if self.row >= 0:
            self.toggled.emit(self.rows[self.row].key)
        return self.row >= 0

    def paint_row(self, painter: QPainter, row: int) -> None:
        if self._comparison is not None:
            self._paint(painter, row, self.rows[row], self._comparison)

    def _paint(self, painter: QPainter, at: int, row: Row, comparison: Comparison) -> None:
        theme, y = self._theme, 0
        held = row.key in comparison.chosen
        if held or at in (self.row, self.over):
            painter.fillRect(
                QRectF(0, y, self.viewport().width(), ROW),
                theme.colour("high" if held else "raised"),
            )
        painter.fillRect(QRectF(0, y + ROW - 1, self.viewport().width(), 1), theme.colour("line2"))
        painter.fillRect(QRectF(8, y + 8, 4, ROW - 16), QColor(theme.tokens.region(row.region)))
        painter.setFont(theme.font(12, 500))
        painter.setPen(theme.colour("text"))
        metrics = painter.fontMetrics()
        room = FIRST - NAME - 8
        short = metrics.elidedText(row.label, Qt.TextElideMode.ElideRight, room)
        painter.drawText(QRectF(NAME, y, room, ROW), MIDDLE, short)
        used = metrics.horizontalAdvance(short) + 5
        painter.setFont(theme.font(12))
        painter.setPen(theme.colour("text" if held else "quiet"))
        if row.word and room - used > 20:
            word = painter.fontMetrics().elidedText(
                row.word, Qt.TextElideMode.ElideRight, room - used
            )
            painter.drawText(QRectF(NAME + used, y, room - used, ROW), MIDDLE, word)
        self._paint_values(painter, y, row)
        icon = "check" if held else "eye"
        pixmap = theme.pixmap(icon, 14, "text" if held else "quiet", self.devicePixelRatioF())
        painter.drawPixmap(self._right() + 8, y + 9, pixmap)

    def _right(self) -> int:
        return self.viewport().width() - 32

    def _paint_values(self, painter: QPainter, y: int, row: Row) -> None:
        theme = self._theme
        texts = shown_values(row)
        right = self._right()
        left_box = QRectF(FIRST - 8, y, 60, ROW)
        right_box = QRectF(right - 56, y, 56, ROW)
        align = MIDDLE | Qt.AlignmentFlag.AlignRight
        painter.setPen(theme.colour("text"))
        for box, text in ((left_box, texts[0]), (right_box, texts[1])):
            short = painter.fontMetrics().elidedText(
                text, Qt.TextElideMode.ElideRight, int(box.width())
            )
            painter.drawText(box, align, short)
        start, end = FIRST + 64, right - 68
        span = max(row.high - row.low, 1e-9)

        def x_of(value: float) -> float:
            return start + (end - start) * (value - row.low) / span

        middle = y + ROW / 2
        painter.setPen(QPen(theme.colour("line"), 2))
        painter.drawLine(QPointF(start, middle), QPointF(end, middle))
        a, b = x_of(row.first), x_of(row.second)
        painter.setPen(QPen(theme.colour("accent", 0.7), 5))
        painter.drawLine(QPointF(a, middle), QPointF(b, middle))
        painter.setPen(QPen(theme.colour("text"), 1.5))
        painter.setBrush(theme.colour("panel"))
        painter.drawEllipse(QPointF(a, middle), 4.5, 4.5)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("accent"))
        painter.drawEllipse(QPointF(b, middle), 5, 5)


def shown_values(row: Row) -> list[str]:
    """Both values as they are shown."""
    if row.options:
        last = len(row.options) - 1
        return [row.options[min(max(round(v), 0), last)] for v in (row.first, row.second)]
    digits = 2 if row.key[0] in (DifferingPart.SETTING, DifferingPart.SCALE) else 1
    return [number_text(v + 0.0, f".{digits}f") + row.unit for v in (row.first, row.second)]
