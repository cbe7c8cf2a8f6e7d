"""The charts at the left: their names, and how much of each is filled."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPoint, QRectF, Qt, Signal, SignalInstance
from PySide6.QtGui import QContextMenuEvent, QMouseEvent, QPainter

from fox_hand.base.language import tr
from fox_hand.session.charts.chart_board import ChartBoard
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.key_map import ENTER, KeyMap, LocalKey
from fox_hand.ui.widgets.painted_list import PaintedList, PaintedRow

ROW = 46
MIDDLE = Qt.AlignmentFlag.AlignVCenter
Key = tuple[int, str]


class ChartList(PaintedList):
    """A click shows one chart, with Ctrl one more beside those that are shown.

    Args:
        theme: colours and type.
    """

    chosen = Signal()
    menu_asked = Signal(object, QPoint)  # ChartBoard
    remove_asked = Signal(object)  # ChartBoard
    rename_asked = Signal(object)  # ChartBoard

    def __init__(self, theme: Theme) -> None:
        super().__init__(tr("Charts"))
        self._theme = theme
        self.boards: tuple[ChartBoard, ...] = ()
        self.shown: set[Key] = set()
        self._known: set[Key] = set()
        self.keys = KeyMap(
            [
                LocalKey((*ENTER, "Space"), self._press, tr("show one chart")),
                LocalKey(("Ctrl+Return", "Ctrl+Enter", "Ctrl+Space"), self._press_more),
                LocalKey(("F2",), self._rename, tr("rename a chart")),
                LocalKey(("Del",), self._remove, tr("remove a chart")),
                LocalKey(("Menu", "Shift+F10"), self._menu),
            ]
        )

    def show_boards(self, boards: Sequence[ChartBoard]) -> None:
        """Show these; a new one is shown beside the others."""
        self.boards = tuple(boards)
        there = {board.key for board in boards}
        self.shown = (self.shown & there) | (there - self._known)
        self.shown = self.shown or there
        self._known = there
        self._say()

    def _say(self) -> None:
        several = len({board.place.number for board in self.boards}) > 1
        rows = []
        for board in self.boards:
            words = tr(
                "{name}, {count} of {whole} filled",
                name=board.chart.name,
                count=board.count,
                whole=board.whole,
            )
            if several:
                words += f", {board.place.name}"
            rows.append(PaintedRow(words, ROW, checked=board.key in self.shown))
        self.show_painted(rows, self.row)

    def paint_row(self, painter: QPainter, row: int) -> None:
        theme, board, width = self._theme, self.boards[row], self.viewport().width()
        shown = board.key in self.shown
        frame = QRectF(8, 2, width - 16, ROW - 6)
        painter.setPen(Qt.PenStyle.NoPen)
        if shown or row == self.over:
            painter.setBrush(theme.colour("high" if shown else "raised"))
            painter.drawRoundedRect(frame, 6, 6)
        number = f"{board.count}/{board.whole}"
        painter.setFont(theme.font(12, 600 if shown else 400))
        painter.setPen(theme.colour("text" if shown else "quiet"))
        wide = painter.fontMetrics().horizontalAdvance(number)
        painter.drawText(QRectF(width - 20 - wide, 6, wide + 2, 18), MIDDLE, number)
        painter.setPen(theme.colour("text"))
        room = width - 52 - wide
        name = painter.fontMetrics().elidedText(board.chart.name, Qt.TextElideMode.ElideRight, room)
        painter.drawText(QRectF(20, 6, room + 4, 18), MIDDLE, name)
        bar = QRectF(20, 30, width - 40, 4)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("line"))
        painter.drawRoundedRect(bar, 2, 2)
        if board.whole:
            painter.setBrush(theme.colour("text"))
            bar.setWidth(bar.width() * board.count / board.whole)
            painter.drawRoundedRect(bar, 2, 2)
        if row == self.row and self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(theme.colour("text"))
            painter.drawRoundedRect(frame.adjusted(0.5, 0.5, -0.5, -0.5), 6, 6)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        row = self.row_at(event.position().toPoint().y())
        event.accept()
        if row >= 0 and event.button() is Qt.MouseButton.LeftButton:
            self.go_to(row, quietly=True)
            more = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
            self._show(row, more=more)

    def _show(self, row: int, *, more: bool) -> None:
        key = self.boards[row].key
        if more:
            self.shown = (self.shown ^ {key}) or {key}
        else:
            self.shown = {b.key for b in self.boards} if self.shown == {key} else {key}
        self._say()
        self.chosen.emit()

    def _press(self) -> bool:
        if 0 <= self.row < len(self.boards):
            self._show(self.row, more=False)
            return True
        return False

    def _press_more(self) -> bool:
        if 0 <= self.row < len(self.boards):
            self._show(self.row, more=True)
            return True
        return False

    def _rename(self) -> bool:
        return self._with_row(self.rename_asked)

    def _remove(self) -> bool:
        return self._with_row(self.remove_asked)

    def _with_row(self, asked: SignalInstance) -> bool:
        if 0 <= self.row < len(self.boards):
            asked.emit(self.boards[self.row])
            return True
        return False

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        row = self.row_at(event.pos().y())
        event.accept()
        if row >= 0:
            self.go_to(row, quietly=True)
            self.menu_asked.emit(self.boards[row], event.globalPos())

    def _menu(self) -> bool:
        if not 0 <= self.row < len(self.boards):
            return False
        corner = self.rect_of(self.row).bottomLeft() + QPoint(20, 0)
        self.menu_asked.emit(self.boards[self.row], self.viewport().mapToGlobal(corner))
        return True
