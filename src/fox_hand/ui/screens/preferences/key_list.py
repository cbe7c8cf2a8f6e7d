"""The list of commands and keys; one row can be opened to take another key."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QMouseEvent, QPainter, QPen

from fox_hand.base.key_words import key_words
from fox_hand.base.language import tr
from fox_hand.ui.screens.preferences.key_rows import PLACES, KeyRow, back_to, words_of
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.key_map import KeyMap, LocalKey
from fox_hand.ui.widgets.painted_list import PaintedList, PaintedRow
from fox_hand.ui.widgets.passing_menu import passing_menu

ROW, HEADING = 28, 32
KEY, PLACE, BACK = 0.41, 0.66, 0.82  # columns, of the width
MIDDLE = Qt.AlignmentFlag.AlignVCenter


class KeyList(PaintedList):
    """Click or Enter opens a row; a click on "back to" takes the shipped keys."""

    opened = Signal(int)
    back_asked = Signal(int)
    none_asked = Signal(int)

    def __init__(self, theme: Theme) -> None:
        super().__init__(tr("Commands and keys"))
        self._theme = theme
        self.rows: list[KeyRow] = []
        self.open_row, self.open_height = -1, ROW
        self.keys = KeyMap(
            [
                LocalKey(("Return", "Enter"), lambda: self._open(self.row)),
                LocalKey(("Backspace",), lambda: self._back(self.row)),
            ]
        )

    def show_rows(self, rows: list[KeyRow], open_row: int = -1, open_height: int = ROW) -> None:
        """Other rows, one of them open."""
        self.rows, self.open_row, self.open_height = rows, open_row, open_height
        heights = [HEADING if row.command is None else ROW for row in rows]
        if open_row >= 0:
            heights[open_row] = open_height
        self.show_painted(
            [
                PaintedRow(row.said, height, usable=row.command is not None)
                for row, height in zip(rows, heights, strict=True)
            ],
            min(self.row, len(rows) - 1),
        )

    def _open(self, row: int) -> bool:
        if row < 0 or self.rows[row].command is None:
            return False
        self.opened.emit(row)
        return True

    def _back(self, row: int) -> bool:
        if row < 0 or not self.rows[row].changed:
            return False
        self.back_asked.emit(row)
        return True

    def mousePressEvent(self, event: QMouseEvent) -> None:
        super().mousePressEvent(event)
        if event.button() is not Qt.MouseButton.LeftButton:
            return
        at = event.position()
        row = self.row_at(round(at.y()))
        if row < 0:
            return
        far = at.x() >= self.viewport().width() * BACK
        if not (far and self._back(row)):
            self._open(row)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """What can be done with the keys of the command there."""
        row = self.row_at(event.pos().y())
        if row < 0 or (command := self.rows[row].command) is None:
            return
        menu = passing_menu(self)
        menu.addAction(tr("Other keys …"), partial(self._open, row))
        none = menu.addAction(tr("Take its keys away"), partial(self.none_asked.emit, row))
        none.setEnabled(bool(command.keys))
        back = menu.addAction(tr("Back to ours"), partial(self._back, row))
        back.setEnabled(self.rows[row].changed)
        menu.popup(event.globalPos())

    # -- painting -------------------------------------------------------------------------

    def paint_row(self, painter: QPainter, row: int) -> None:
        one, wide = self.rows[row], self.viewport().width()
        if one.command is None:
            self._paint_heading(painter, one, wide)
            return
        theme, height = self._theme, self.open_height if row == self.open_row else ROW
        if row in (self.row, self.over, self.open_row):
            painter.fillRect(QRectF(0, 0, wide, height), theme.colour("raised"))
        if row == self.open_row:
            painter.fillRect(QRectF(0, 0, 2, height), theme.colour("text"))
        elif row == self.row and self.hasFocus():
            painter.setPen(QPen(theme.colour("text"), 1))
            painter.drawRect(QRectF(0.5, 0.5, wide - 1, ROW - 1))
        if one.command.icon:
            ratio = self.devicePixelRatioF()
            painter.drawPixmap(12, 7, theme.pixmap(one.command.icon, 14, "quiet", ratio))
        painter.setFont(theme.font(12))
        painter.setPen(theme.colour("text"))
        painter.drawText(QRectF(34, 0, wide * KEY - 42, ROW), MIDDLE, words_of(one.command))
        if row != self.open_row:
            self._paint_keys(painter, one, wide * KEY)
        painter.setFont(theme.font(12))
        painter.setPen(theme.colour("quiet"))
        room = QRectF(wide * PLACE, 0, wide * (BACK - PLACE) - 8, ROW)
        painter.drawText(room, MIDDLE, PLACES[one.command.where])
        if one.changed:
            metrics = painter.fontMetrics()
            text = metrics.elidedText(
                tr("back to {back_to}", back_to=back_to(one.shipped)),
                Qt.TextElideMode.ElideRight,
                round(wide * (1 - BACK)) - 12,
            )
            painter.drawText(QRectF(wide * BACK, 0, wide * (1 - BACK) - 12, ROW), MIDDLE, text)

    def _paint_heading(self, painter: QPainter, one: KeyRow, wide: int) -> None:
        theme = self._theme
        painter.setFont(theme.font(12, 600))
        painter.setPen(theme.colour("text"))
        painter.drawText(QRectF(12, 4, wide, HEADING - 4), MIDDLE, one.title)
        far = 20 + painter.fontMetrics().horizontalAdvance(one.title)
        painter.setFont(theme.font(11))
        painter.setPen(theme.colour("quiet"))
        painter.drawText(QRectF(far, 4, 40, HEADING - 4), MIDDLE, f"{one.count}")
        far += 12 + painter.fontMetrics().horizontalAdvance(f"{one.count}")
        painter.fillRect(QRectF(far, 18, max(wide - far - 12, 0), 1), theme.colour("line2"))

    def _paint_keys(self, painter: QPainter, one: KeyRow, x: float) -> None:
        theme = self._theme
        assert one.command is not None
        for number, key in enumerate(map(key_words, one.command.keys[:2])):
            if number:
                painter.setFont(theme.font(11))
                painter.setPen(theme.colour("quiet"))
                painter.drawText(QRectF(x, 0, 20, ROW), MIDDLE, tr("or"))
                x += 18
            painter.setFont(theme.font(11, 600))
            wide = painter.fontMetrics().horizontalAdvance(key) + 12
            painter.setPen(QPen(theme.colour("warning" if one.changed else "line"), 1))
            painter.setBrush(theme.colour("raised"))
            painter.drawRoundedRect(QRectF(x + 0.5, 4.5, wide, 19), 4, 4)
            painter.setPen(theme.colour("text"))
            painter.drawText(QRectF(x, 4, wide + 1, 20), Qt.AlignmentFlag.AlignCenter, key)
            x += wide + 8
