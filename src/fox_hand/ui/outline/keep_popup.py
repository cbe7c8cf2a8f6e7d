"""A name for a search that is to be kept, and for whom."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.fields.completing import clearable
from fox_hand.ui.widgets.popup import Popup

WIDTH = 320


class KeepPopup(Popup):
    """Asks for both.

    Args:
        theme, parent: how it looks, and over what.
        text: what is looked for.
        places: libraries that can keep it for everybody.
    """

    field: QLineEdit
    done = Signal(str, object)  # name, OpenLibrary or None

    def __init__(
        self, theme: Theme, parent: QWidget, text: str, places: Sequence[OpenLibrary]
    ) -> None:
        super().__init__(parent, WIDTH)
        title = Words(tr("Keep this search"))
        title.setProperty("role", "title")
        said = Words(text)
        said.setProperty("quiet", True)
        said.setWordWrap(True)
        self.field = QLineEdit()
        clearable(self.field)
        self.field.setPlaceholderText(tr("Name"))
        self.field.setAccessibleName(tr("Name of the search"))
        self.field.setFixedHeight(28)
        self.field.returnPressed.connect(self._finish)
        self.field.textChanged.connect(self._on_name)
        self.keep = Button(theme, tr("Keep"), kind=Kind.MAIN, key="Enter")
        self.keep.setEnabled(False)
        self.keep.clicked.connect(self._finish)
        self._places: list[OpenLibrary | None] = [None, *places]
        self.whose: list[Button] = []
        who = QVBoxLayout()
        who.setSpacing(4)
        for number, place in enumerate(self._places):
            words = (
                tr("Only for me")
                if place is None
                else tr("For everybody in {name}", name=place.name)
            )
            button = Button(theme, words, kind=Kind.CHIP, height=24)
            button.setCheckable(True)
            button.clicked.connect(lambda _=False, n=number: self._for(n))
            self.whose.append(button)
            who.addWidget(button)
        line = QHBoxLayout()
        line.addWidget(self.field, 1)
        line.addWidget(self.keep)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 12)
        column.setSpacing(8)
        column.addWidget(title)
        column.addWidget(said)
        column.addLayout(who)
        column.addLayout(line)
        self._for(0)

    def _for(self, number: int) -> None:
        self._chosen = number
        for one, button in enumerate(self.whose):
            button.setChecked(one == number)

    def _on_name(self, name: str) -> None:
        self.keep.setEnabled(bool(name.strip()))

    def _finish(self) -> None:
        if self.field.text().strip():
            self.done.emit(self.field.text().strip(), self._places[self._chosen])
            self.close()
