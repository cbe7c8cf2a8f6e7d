"""The subjects of the Care screen at its left, with how many there are of each."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import draw_focus

HIGH = 40


class CareList(QWidget):
    """Rows that are chosen with the pointer or with the arrow keys."""

    chosen = Signal(str)

    def __init__(self, theme: Theme, subjects: Mapping[str, tuple[str, str]]) -> None:
        super().__init__()
        self._theme, self._subjects = theme, dict(subjects)
        self._counts: dict[str, int] = {}
        self._at = 0
        self.setFixedHeight(HIGH * len(subjects))
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName("Subjects")

    def sizeHint(self) -> QSize:
        return QSize(184, HIGH * len(self._subjects))

    def set_counts(self, counts: Mapping[str, int]) -> None:
        self._counts = dict(counts)
        said = (f"{word}: {counts.get(key, 0)}" for key, (_, word) in self._subjects.items())
        self.setAccessibleDescription(", ".join(said))
        self.update()

    def _choose(self, at: int) -> None:
        self._at = min(max(at, 0), len(self._subjects) - 1)
        self.chosen.emit(list(self._subjects)[self._at])
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._choose(int(event.position().y()) // HIGH)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        key = Qt.Key(event.key())
        if key in steps:
            self._choose(self._at + steps[key])
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self._choose(self._at)
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        theme, painter = self._theme, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        ratio, middle = self.devicePixelRatioF(), Qt.AlignmentFlag.AlignVCenter
        for i, (key, (icon, word)) in enumerate(self._subjects.items()):
            row = QRectF(0, i * HIGH, self.width(), HIGH - 4)
            if i == self._at:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(theme.colour("high"))
                painter.drawRoundedRect(row, 6, 6)
                if self.hasFocus():
                    draw_focus(painter, theme, row, 6)
            count = self._counts.get(key, 0)
            token = "text" if count else "quiet"
            painter.drawPixmap(10, round(row.top()) + 10, theme.pixmap(icon, 16, token, ratio))
            painter.setFont(theme.font(12, 500))
            painter.setPen(theme.colour(token))
            painter.drawText(row.adjusted(34, 0, -34, 0), middle, word)
            painter.setFont(theme.font(12, 600))
            painter.drawText(
                row.adjusted(0, 0, -10, 0), middle | Qt.AlignmentFlag.AlignRight, str(count)
            )
