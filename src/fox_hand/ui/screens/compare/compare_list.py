"""What differs between two poses, the largest first."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from fox_hand.session.applying.comparing import Comparison, DifferingPart, Row
from fox_hand.ui.theme.theme import Theme

ROW = 32
NAME, FIRST, BAR, SECOND, EYE = 20, 140, 208, 348, 376  # right-hand columns from the left
MIDDLE = Qt.AlignmentFlag.AlignVCenter


class CompareList(QWidget):
    """Point at a row to see only that change; click or Space holds it; Up and Down walk."""

    toggled = Signal(object)  # key of a row
    pointed = Signal(object)  # key or None
    walked = Signal(int, int)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._comparison: Comparison | None = None
        self.rows: tuple[Row, ...] = ()
        self._at = -1
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMinimumWidth(400)
        self.setAccessibleName("What differs")
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        return QSize(404, max(len(self.rows) * ROW, 1))

    def show_rows(self, comparison: Comparison, rows: tuple[Row, ...]) -> None:
        """Show these differences."""
        self._comparison, self.rows = comparison, rows
        self._at = min(self._at, len(rows) - 1)
        self.setFixedHeight(max(len(rows) * ROW, 1))
        self.update()

    def _row_at(self, y: float) -> int:
        at = int(y // ROW)
        return at if 0 <= at < len(self.rows) else -1

    def _point(self, at: int) -> None:
        if at != self._at:
            self._at = at
            self.pointed.emit(self.rows[at].key if at >= 0 else None)
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._point(self._row_at(event.position().y()))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = self._row_at(event.position().y())
        if at >= 0:
            self._point(at)
            self.toggled.emit(self.rows[at].key)

    def leaveEvent(self, event: QEvent) -> None:
        if not self.hasFocus():
            self._point(-1)
        super().leaveEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        key = Qt.Key(event.key())
        if key in steps and self.rows:
            self._point(min(max(self._at + steps[key], 0), len(self.rows) - 1))
            self.walked.emit(self._at * ROW, ROW)
        elif key == Qt.Key.Key_Space and self._at >= 0:
            self.toggled.emit(self.rows[self._at].key)
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._comparison is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        first, last = event.rect().top() // ROW, event.rect().bottom() // ROW
        for at in range(max(first, 0), min(last + 1, len(self.rows))):
            self._paint_row(painter, at, self.rows[at], self._comparison)

    def _paint_row(self, painter: QPainter, at: int, row: Row, comparison: Comparison) -> None:
        theme, y = self._theme, at * ROW
        held = row.key in comparison.chosen
        if held or at == self._at:
            painter.fillRect(
                QRectF(0, y, self.width(), ROW), theme.colour("high" if held else "raised")
            )
        painter.fillRect(QRectF(0, y + ROW - 1, self.width(), 1), theme.colour("line2"))
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
        return self.width() - 32

    def _paint_values(self, painter: QPainter, y: int, row: Row) -> None:
        theme = self._theme
        digits = 2 if row.key[0] in (DifferingPart.SETTING, DifferingPart.SCALE) else 1
        texts = [f"{v + 0.0:.{digits}f}{row.unit}" for v in (row.first, row.second)]
        right = self._right()
        left_box = QRectF(FIRST - 8, y, 60, ROW)
        right_box = QRectF(right - 56, y, 56, ROW)
        align = MIDDLE | Qt.AlignmentFlag.AlignRight
        painter.setPen(theme.colour("text"))
        painter.drawText(left_box, align, texts[0])
        painter.drawText(right_box, align, texts[1])
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
