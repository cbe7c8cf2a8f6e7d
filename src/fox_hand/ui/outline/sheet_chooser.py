"""A sheet, chosen from an outline of those that can take something."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import QEvent, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.library.index.sheet_tree import SheetNode
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.ui.outline.outline_list import OutlineList
from fox_hand.ui.outline.outline_rows import OutlineContent, OutlineRow, RowKind, Spot
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.event_filter import EventFilter
from fox_hand.ui.widgets.fields.completing import clearable
from fox_hand.ui.widgets.key_map import ENTER, KeyMap, LocalKey
from fox_hand.ui.widgets.popup import Popup

WIDTH, HEIGHT = 320, 360


class SheetChooser(Popup):
    """Typing narrows, Enter or a click chooses; a new sheet is named by typing.

    Args:
        theme, parent: how it looks, and over what.
        title, word: what it is for, and what its button says.
        trees: libraries that can take it.
        able: whether a sheet can; the others are not offered.
        fresh: whether a new sheet can be named.
    """

    field: QLineEdit
    chosen = Signal(object, str)  # OpenLibrary, sheet

    def __init__(
        self,
        theme: Theme,
        parent: QWidget,
        words: tuple[str, str],
        trees: Sequence[tuple[OpenLibrary, SheetNode]],
        able: Callable[[Spot], bool] | None = None,
        *,
        fresh: bool = True,
    ) -> None:
        super().__init__(parent, WIDTH)
        self._trees, self._able, self._fresh = trees, able or bool, fresh
        self._folds: dict[str, bool] = {}
        title = Words(words[0])
        title.setProperty("role", "title")
        self.field = QLineEdit()
        clearable(self.field)
        self.field.setPlaceholderText(
            tr("Find a sheet, or name a new one") if fresh else tr("Find a sheet")
        )
        self.field.setAccessibleName(tr("Sheet"))
        self.field.setFixedHeight(28)
        self.list = OutlineList(theme)
        self.list.setFixedHeight(HEIGHT)
        self.done = Button(theme, words[1], kind=Kind.MAIN, key="Enter")
        self.done.clicked.connect(self._finish)
        self.new = Button(theme, tr("New sheet"), icon="folder-plus")
        self.new.setVisible(fresh)
        self.new.clicked.connect(self._make)
        foot = QHBoxLayout()
        foot.addWidget(self.new)
        foot.addStretch(1)
        foot.addWidget(self.done)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 12)
        column.setSpacing(8)
        column.addWidget(title)
        column.addWidget(self.field)
        column.addWidget(self.list)
        column.addLayout(foot)
        self.field.textChanged.connect(self._refresh)
        self.list.narrow_asked.connect(lambda spot, _: self._take(spot))
        self.list.folded.connect(self._fold)
        self.list.walked.connect(lambda _: self._say())
        self._from_field = KeyMap(
            [
                LocalKey(("Down",), partial(self._walk, 1)),
                LocalKey(("Up",), partial(self._walk, -1)),
                LocalKey(ENTER, self._enter),
            ]
        )
        self._keys = EventFilter(self.field, self._heard)
        self._refresh()

    def _refresh(self) -> None:
        content = OutlineContent(self._trees, (), self._folds, self.field.text())
        self.list.show_content(content, (), None)
        rows = [n for n, row in enumerate(self.list.rows) if self._takes(row)]
        words = self.field.text().casefold().split()
        named = [
            n for n in rows if words and all(w in self.list.rows[n].words.casefold() for w in words)
        ]
        self.list.go_to(next(iter(named or rows), -1), quietly=True)
        self._say()

    def _fold(self, key: str, folded: bool) -> None:
        self._folds[key] = folded
        self._refresh()

    def _takes(self, row: OutlineRow) -> bool:
        sheet = row.kind in (RowKind.CHARACTER, RowKind.SHEET)
        return sheet and row.spot is not None and self._able(row.spot)

    def _say(self) -> None:
        row = self.list.row
        self.done.setEnabled(0 <= row < len(self.list.rows) and self._takes(self.list.rows[row]))
        self.new.setEnabled(bool(self.field.text().strip()) and bool(self._trees))

    def _heard(self, event: QEvent) -> bool:
        if not isinstance(event, QKeyEvent) or event.type() != QEvent.Type.KeyPress:
            return False
        return self._from_field.do(event)

    def _walk(self, step: int) -> None:
        """To the next row that can be chosen, or the one before."""
        able = [n for n, row in enumerate(self.list.rows) if self._takes(row)]
        on = [n for n in able if (n - self.list.row) * step > 0]
        if on:
            self.list.go_to(min(on, key=lambda n: abs(n - self.list.row)))

    def _enter(self) -> None:
        if self.done.isEnabled():
            self._finish()
        elif self._fresh:
            self._make()

    def _finish(self) -> None:
        spot = self.list.rows[self.list.row].spot if self.list.row >= 0 else None
        if spot is not None:
            self._take(spot)

    def _take(self, spot: Spot) -> None:
        place = next((p for p, _ in self._trees if p.number == spot[0]), None)
        if place is not None and spot[1] and self._able(spot):
            self.chosen.emit(place, spot[1])
            self.close()

    def _make(self) -> None:
        """What is typed is a new sheet, in the library of the row that is current."""
        name = self.field.text().strip().strip("/")
        row = self.list.rows[self.list.row] if 0 <= self.list.row < len(self.list.rows) else None
        place = row.place if row is not None and row.place is not None else None
        if place is None and self._trees:
            place = self._trees[0][0]
        if name and place is not None:
            self.chosen.emit(place, name)
            self.close()
