"""The subjects of the Care screen at its left, with how many there are of each."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter

from fox_hand.base.language import tr
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import draw_focus
from fox_hand.ui.widgets.key_map import ENTER, KeyMap, LocalKey
from fox_hand.ui.widgets.painted_list import PaintedList, PaintedRow

HIGH = 40


class CareList(PaintedList):
    """Rows that are chosen with the pointer or with the arrow keys."""

    chosen = Signal(str)

    def __init__(self, theme: Theme, subjects: Mapping[str, tuple[str, str]]) -> None:
        super().__init__(tr("Subjects"))
        self._theme, self._subjects = theme, dict(subjects)
        self._counts: dict[str, int] = {}
        self.setFixedHeight(HIGH * len(subjects))
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.set_counts({})
        self.go_to(0, quietly=True)
        self.walked.connect(self._choose)
        self.keys = KeyMap([LocalKey((*ENTER, "Space"), lambda: self._choose(self.row))])

    def _choose(self, row: int) -> None:
        self.chosen.emit(list(self._subjects)[row])

    def sizeHint(self) -> QSize:
        return QSize(184, HIGH * len(self._subjects))

    def set_counts(self, counts: Mapping[str, int]) -> None:
        """How many there are of each."""
        self._counts = dict(counts)
        subjects = self._subjects.items()
        said = [PaintedRow(f"{word}: {counts.get(k, 0)}", HIGH) for k, (_, word) in subjects]
        self.show_painted(said, self.row)

    def paint_row(self, painter: QPainter, row: int) -> None:
        theme, ratio, middle = self._theme, self.devicePixelRatioF(), Qt.AlignmentFlag.AlignVCenter
        key, (icon, word) = list(self._subjects.items())[row]
        line = QRectF(0, 0, self.viewport().width(), HIGH - 4)
        if row == self.row:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour("high"))
            painter.drawRoundedRect(line, 6, 6)
            if self.hasFocus():
                draw_focus(painter, theme, line, 6)
        count = self._counts.get(key, 0)
        token = "text" if count else "quiet"
        painter.drawPixmap(10, 10, theme.pixmap(icon, 16, token, ratio))
        painter.setFont(theme.font(12, 500))
        painter.setPen(theme.colour(token))
        room = line.adjusted(34, 0, -26, 0)
        shown = painter.fontMetrics().elidedText(
            word, Qt.TextElideMode.ElideRight, round(room.width())
        )
        painter.drawText(room, middle, shown)
        painter.setFont(theme.font(12, 600))
        right = middle | Qt.AlignmentFlag.AlignRight
        painter.drawText(line.adjusted(0, 0, -10, 0), right, str(count))
