"""Lists whose rows paint themselves; walking, scrolling and what is heard are Qt's list view."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import (
    QAbstractListModel,
    QEvent,
    QItemSelectionModel,
    QModelIndex,
    QPersistentModelIndex,
    QPoint,
    QRect,
    QSize,
    Qt,
    Signal,
)
from PySide6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent, QPainter
from PySide6.QtWidgets import (
    QAbstractItemView,
    QListView,
    QStyledItemDelegate,
    QStyleOptionViewItem,
)

from fox_hand.ui.widgets.key_map import KeyMap, LocalKey

MENU_IN = 20  # pixels from the left, of a menu the keyboard asks for

At = QModelIndex | QPersistentModelIndex


@dataclass(frozen=True)
class PaintedRow:
    """A row as the list knows it.

    Args:
        words: what a screen reader says.
        height: pixels.
        usable: whether the keyboard stops there; headings are passed.
        checked: whether it is ticked; None where that cannot be.
    """

    words: str
    height: int
    usable: bool = True
    checked: bool | None = None


class PaintedRows(QAbstractListModel):
    """Rows of a list that paints them."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[PaintedRow] = []

    def show(self, rows: list[PaintedRow]) -> None:
        """Other rows; those that are only said otherwise stay where they are."""
        if [r.height for r in rows] == [r.height for r in self.rows]:
            self.rows = rows
            if rows:
                self.dataChanged.emit(self.index(0), self.index(len(rows) - 1))
            return
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def rowCount(self, parent: At | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.rows)

    def data(self, index: At, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        row = self.rows[index.row()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return row.words
        if role == Qt.ItemDataRole.CheckStateRole and row.checked is not None:
            return Qt.CheckState.Checked if row.checked else Qt.CheckState.Unchecked
        return None

    def flags(self, index: At) -> Qt.ItemFlag:
        if not self.rows[index.row()].usable:
            return Qt.ItemFlag.ItemNeverHasChildren
        return Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable


class _Painting(QStyledItemDelegate):
    def __init__(self, rows: PaintedRows, paint: Callable[[QPainter, int], None]) -> None:
        super().__init__()
        self._rows, self._paint = rows, paint

    def sizeHint(self, option: QStyleOptionViewItem, index: At) -> QSize:
        return QSize(option.rect.width(), self._rows.rows[index.row()].height)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: At) -> None:
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.translate(option.rect.topLeft())
        self._paint(painter, index.row())
        painter.restore()


class PaintedList(QListView):
    """Up, Down, Home, End, Page Up and Page Down walk; other keys are for those that inherit, else
    for the window."""

    pointed = Signal(int)  # row under the pointer; -1 for none
    walked = Signal(int)  # row the keyboard has gone to
    row_menu_asked = Signal(int, QPoint)  # row, and where on the screen

    def __init__(self, name: str) -> None:
        super().__init__()
        self.over = -1  # row under the pointer
        self.keys = KeyMap([])
        self._menu_keys = KeyMap([LocalKey(("Menu", "Shift+F10"), self._ask_menu_here)])
        self._model = PaintedRows()
        self._painting = _Painting(self._model, self.paint_row)
        self.setModel(self._model)
        self.setItemDelegate(self._painting)
        self.setProperty("painted", True)
        self.setAccessibleName(name)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setFrameShape(QListView.Shape.NoFrame)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setResizeMode(QListView.ResizeMode.Adjust)
        self.selectionModel().currentChanged.connect(self._on_current)

    def paint_row(self, painter: QPainter, row: int) -> None:
        """Paint a row, its corner at 0, 0; it is as wide as the viewport."""
        raise NotImplementedError

    # -- rows -----------------------------------------------------------------------------

    def show_painted(self, rows: list[PaintedRow], current: int = -1) -> None:
        """Show other rows, one of them with the keyboard."""
        self._model.show(rows)
        self.over = min(self.over, len(rows) - 1)
        if current != self.row:
            self.go_to(current, quietly=True)
        self.viewport().update()

    @property
    def row(self) -> int:
        """The row with the keyboard; -1 for none."""
        return self.currentIndex().row()

    def go_to(self, row: int, *, quietly: bool = False) -> None:
        """Give the keyboard to a row."""
        index = self._model.index(row) if row >= 0 else QModelIndex()
        self.selectionModel().blockSignals(quietly)
        self.selectionModel().setCurrentIndex(
            index, QItemSelectionModel.SelectionFlag.ClearAndSelect
        )
        self.selectionModel().blockSignals(False)
        if row >= 0:
            self.scrollTo(index)
        self.viewport().update()

    def rect_of(self, row: int) -> QRect:
        """Where a row is in the viewport."""
        return self.visualRect(self._model.index(row))

    def row_at(self, y: int) -> int:
        """The row at a height of the viewport; -1 for none."""
        found = self.indexAt(QRect(4, y, 1, 1).center())
        return found.row() if found.isValid() else -1

    def _on_current(self, now: QModelIndex, before: QModelIndex) -> None:
        del before
        if now.isValid():
            self.walked.emit(now.row())
        self.viewport().update()

    # -- pointer and keys -----------------------------------------------------------------

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._point(self.row_at(event.position().toPoint().y()))
        event.accept()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        row = self.row_at(event.pos().y())
        if row >= 0 and self._model.rows[row].usable:
            self.go_to(row)
            self.row_menu_asked.emit(row, event.globalPos())

    def _ask_menu_here(self) -> bool:
        if self.row >= 0:
            corner = self.rect_of(self.row).bottomLeft() + QPoint(MENU_IN, 0)
            self.row_menu_asked.emit(self.row, self.viewport().mapToGlobal(corner))
        return self.row >= 0

    def leaveEvent(self, event: QEvent) -> None:
        self._point(-1)
        super().leaveEvent(event)

    def _point(self, row: int) -> None:
        if row != self.over:
            self.over = row
            self.pointed.emit(row)
            self.viewport().update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.keys.do(event) or self._menu_keys.do(event):
            return
        if event.text():  # typing does not walk here
            event.ignore()
        else:
            super().keyPressEvent(event)
