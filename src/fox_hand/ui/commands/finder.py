"""Type part of a word, see the key, do it: every command, and every place one can go to."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from PySide6.QtCore import (
    QAbstractListModel,
    QEvent,
    QModelIndex,
    QObject,
    QPersistentModelIndex,
    QPoint,
    Qt,
)
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QListView, QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.ui.commands.finder_rows import FINDER_ROW, HIT, RowDelegate
from fox_hand.ui.commands.finding import Findable, FoundWord, find, grouped
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.fields.completing import clearable
from fox_hand.ui.widgets.popup import Popup
from fox_hand.ui.widgets.sign import SearchSign

WIDTH, TALLEST = 516, 380
At = QModelIndex | QPersistentModelIndex


class HitModel(QAbstractListModel):
    """Headings and what was found below each of them."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[FoundWord | tuple[str, int]] = []

    def show(self, hits: list[FoundWord]) -> None:
        """Other rows."""
        self.beginResetModel()
        self.rows = []
        for group, found in grouped(hits):
            self.rows += [(group, len(found)), *found]
        self.endResetModel()

    def rowCount(self, parent: At | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.rows)

    def data(self, index: At, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        row = self.rows[index.row()]
        if role == HIT:
            return row
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            if isinstance(row, tuple):
                return f"{row[0]}, {row[1]}"
            said = (row.of.words, row.of.more, row.of.keys or row.of.state)
            return ", ".join(word for word in said if word)
        return None

    def flags(self, index: At) -> Qt.ItemFlag:
        row = self.rows[index.row()]
        if isinstance(row, FoundWord) and row.of.ready:
            return Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        return Qt.ItemFlag.NoItemFlags

    def usable(self) -> list[int]:
        """Rows that can be chosen."""
        return [n for n, r in enumerate(self.rows) if isinstance(r, FoundWord) and r.of.ready]


class Finder(Popup):
    """Opened over the window's upper right.

    Args:
        theme: colours and type.
        parent: the window.
        findables: everything there is now, asked again whenever something was done.
    """

    def __init__(
        self, theme: Theme, parent: QWidget, findables: Callable[[], Iterable[Findable]]
    ) -> None:
        super().__init__(parent, WIDTH)
        self._theme, self._findables = theme, findables
        self._all = list(findables())
        self.setAccessibleName(tr("Find a command"))
        self.field = self.search = QLineEdit()
        clearable(self.field)
        self.search.setPlaceholderText(tr("A command, a sheet, a character, a shot"))
        self.search.setAccessibleName(tr("Find a command"))
        self.search.setFixedHeight(36)
        SearchSign(self.search, theme)
        self.search.textChanged.connect(self._find)
        self.search.installEventFilter(self)
        self.model = HitModel()
        self.list = QListView()
        self.list.setModel(self.model)
        self.list.setItemDelegate(RowDelegate(theme))
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.setMouseTracking(True)
        self.list.setAccessibleName(tr("What was found"))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.clicked.connect(lambda at: self._do(at.row(), stay=False))
        self.none = Words(tr("Nothing is called so. Cards are found with Ctrl+F."))
        self.none.setProperty("quiet", True)
        self.none.setContentsMargins(16, 4, 16, 12)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 12, 0, 12)
        column.setSpacing(8)
        line = QHBoxLayout()
        line.setContentsMargins(12, 0, 12, 0)
        line.addWidget(self.search)
        column.addLayout(line)
        column.addWidget(self.list)
        column.addWidget(self.none)
        column.addLayout(self._foot())
        self._find("")

    def _foot(self) -> QHBoxLayout:
        self._said = QLabel(tr("Up, Down choose   Tab next group   Ctrl+Enter do it, stay here"))
        self._said.setProperty("quiet", True)
        self._said.setWordWrap(True)
        self.go = Button(self._theme, tr("Do it"), kind=Kind.MAIN, key="Enter")
        self.go.clicked.connect(lambda: self._do(self.list.currentIndex().row(), stay=False))
        foot = QHBoxLayout()
        foot.setContentsMargins(16, 0, 12, 0)
        foot.addWidget(self._said, 1)
        foot.addWidget(self.go)
        return foot

    def open_in(self, window: QWidget) -> None:
        """Show it over the upper right of a window."""
        corner = window.mapToGlobal(QPoint(max(window.width() - WIDTH - 12, 0), 52))
        self._fit()
        self.move(corner)
        self._show()

    def _fit(self) -> None:
        rows = self.model.rowCount()
        self.list.setVisible(rows > 0)
        self.none.setVisible(rows == 0)
        self.list.setFixedHeight(min(rows * FINDER_ROW + 2, TALLEST))
        self.adjustSize()

    def _find(self, text: str) -> None:
        self.model.show(find(text, self._all))
        usable = self.model.usable()
        self.go.setEnabled(bool(usable))
        if usable:
            self._choose(usable[0])
        self._fit()

    def _choose(self, row: int) -> None:
        at = self.model.index(row)
        self.list.setCurrentIndex(at)
        self.list.scrollTo(self.model.index(max(row - 1, 0)))
        self.list.scrollTo(at)

    def _do(self, row: int, *, stay: bool) -> None:
        if row not in self.model.usable():
            return
        hit = self.model.rows[row]
        assert isinstance(hit, FoundWord)
        if not stay:
            self.close()
        hit.of.run()
        if stay:
            self._all = list(self._findables())
            self._find(self.search.text())

    # -- keys -----------------------------------------------------------------------------

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """The field keeps the keyboard, and the keys of the list work in it."""
        if isinstance(event, QKeyEvent) and event.type() is QEvent.Type.KeyPress:
            return self._key(event)
        return super().eventFilter(watched, event)

    def _key(self, event: QKeyEvent) -> bool:
        key, row = Qt.Key(event.key()), self.list.currentIndex().row()
        steps = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._do(row, stay=bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))
        elif key in steps:
            self._step(row, steps[key])
        elif key in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab):
            self._next_group(row, back=key == Qt.Key.Key_Backtab)
        else:
            return False
        return True

    def _step(self, row: int, way: int) -> None:
        usable = self.model.usable()
        if usable:
            at = usable.index(row) if row in usable else -1
            self._choose(usable[(at + way) % len(usable)])

    def _next_group(self, row: int, *, back: bool) -> None:
        rows = self.model.rows
        usable = self.model.usable()
        firsts = []
        for number, one in enumerate(rows):
            if isinstance(one, tuple):
                below = [u for u in usable if u > number]
                if below and not any(isinstance(r, tuple) for r in rows[number + 1 : below[0]]):
                    firsts.append(below[0])
        if not firsts:
            return
        at = max((n for n, first in enumerate(firsts) if first <= row), default=0)
        self._choose(firsts[(at + (-1 if back else 1)) % len(firsts)])
