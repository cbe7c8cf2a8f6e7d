"""Tags of one or many cards."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from fox_hand.base.language import tr, tr_n
from fox_hand.library.format.entry import Entry
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.fields.completing import Completing, clearable
from fox_hand.ui.widgets.popup import Popup

WIDTH = 320
COLUMNS = 3
MOST = 15  # tags shown; the rest is reached by typing


class TagPopup(Popup):
    """Switches for the tags that some of the cards have, and a field for others.

    A tag that only some of the cards have is switched to "all have it" by one click, to "none" by
    another.

    Args:
        entries: the cards.
        known: all tags there are, offered while one types.
    """

    field: QLineEdit
    done = Signal(object, object)  # tags to add, tags to take away

    def __init__(
        self,
        theme: Theme,
        parent: QWidget,
        entries: Sequence[Entry],
        known: Callable[[], Sequence[str]],
    ) -> None:
        super().__init__(parent, WIDTH)
        self._count = len(entries)
        had = Counter(tag for e in entries for tag in e.tags)
        self._had = dict(had.most_common(MOST))
        self.buttons: dict[str, Button] = {}
        title = Words(
            tr(
                "Tags of {counted}",
                counted=tr_n("{number:,} card", "{number:,} cards", self._count),
            )
        )
        title.setProperty("role", "title")
        self.field = QLineEdit()
        self.field.setPlaceholderText(tr("more tags, with commas"))
        self.field.setAccessibleName(tr("More tags"))
        self.field.setFixedHeight(28)
        clearable(self.field)
        Completing(self.field, known, several=True)
        self.field.returnPressed.connect(self._finish)
        save = Button(theme, tr("Done"), kind=Kind.MAIN, key="Enter")
        save.clicked.connect(self._finish)
        line = QHBoxLayout()
        line.addWidget(self.field, 1)
        line.addWidget(save)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 12)
        column.setSpacing(8)
        column.addWidget(title)
        column.addLayout(self._switches(theme))
        column.addLayout(line)

    def _switches(self, theme: Theme) -> QGridLayout:
        grid = QGridLayout()
        grid.setSpacing(4)
        for place, (tag, number) in enumerate(self._had.items()):
            word = tag if number == self._count else f"{tag} ({number})"
            button = Button(theme, word, kind=Kind.CHIP, height=24)
            button.setCheckable(True)
            button.setChecked(number == self._count)
            button.setAccessibleName(
                tr("{tag}, on {number} of {count}", tag=tag, number=number, count=self._count)
            )
            self.buttons[tag] = button
            grid.addWidget(button, place // COLUMNS, place % COLUMNS)
        return grid

    def _finish(self) -> None:
        typed = [t.strip() for t in self.field.text().split(",") if t.strip()]
        on = [t for t, b in self.buttons.items() if b.isChecked()]
        add = [t for t in on if self._had[t] < self._count] + typed
        remove = [
            t for t, b in self.buttons.items() if not b.isChecked() and self._had[t] == self._count
        ]
        self.done.emit(add, remove)
        self.close()
