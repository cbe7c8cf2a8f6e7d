"""Which libraries there are, in which order, and where new cards go."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.session.preferences.preferences import Preferences
from fox_hand.ui.screens.preferences.page import WIDEST, PreferencePage
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind


class LibraryRow(QWidget):
    """One library: its name and folder, how it is, and what can be done with it."""

    def __init__(self, theme: Theme, place: OpenLibrary, *, first: bool, last: bool) -> None:
        super().__init__()
        self.setProperty("plate", "raised")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setMaximumWidth(WIDEST)
        name, where = Words(place.name), Words(str(place.folder))
        name.setProperty("role", "heading")
        where.setProperty("quiet", True)
        words = QVBoxLayout()
        words.setSpacing(0)
        words.addWidget(name)
        words.addWidget(where)
        state = Words(_state(place))
        state.setProperty("tone", "warning" if place.problem is not None else "")
        self.target = Button(theme, tr("New cards go here"), kind=Kind.CHIP, height=24)
        self.target.setCheckable(True)
        self.up = Button(
            theme,
            icon="arrow-up",
            kind=Kind.FLAT,
            tip=tr("{name}: earlier", name=place.name),
            height=24,
        )
        self.down = Button(
            theme,
            icon="arrow-down",
            kind=Kind.FLAT,
            tip=tr("{name}: later", name=place.name),
            height=24,
        )
        self.forget = Button(
            theme, tr("Forget"), kind=Kind.FLAT, height=24, tip=tr("Its files stay")
        )
        self.up.setEnabled(not first)
        self.down.setEnabled(not last)
        line = QHBoxLayout(self)
        line.setContentsMargins(12, 8, 8, 8)
        line.setSpacing(8)
        line.addLayout(words, 1)
        for widget in (state, self.target, self.up, self.down, self.forget):
            line.addWidget(widget)


def _state(place: OpenLibrary) -> str:
    if place.problem is not None:
        return tr("cannot be reached")
    return "" if place.writable else "read-only"


class LibrariesPage(PreferencePage):
    """All of them. Their order is the one of the sheets."""

    forget_asked = Signal(object)  # OpenLibrary

    def __init__(
        self, theme: Theme, preferences: Preferences, open_libraries: OpenLibraries
    ) -> None:
        super().__init__(
            theme,
            preferences,
            tr("Libraries"),
            tr("folders with cards; what is asked first comes first"),
        )
        self._libraries = open_libraries
        self.new_button = Button(theme, tr("New library …"), icon="folder-plus")
        self.add_button = Button(theme, tr("Add a folder …"), icon="folder-open")
        self.head.addWidget(self.new_button)
        self.head.addWidget(self.add_button)
        self.list: list[LibraryRow] = []
        self.end()
        open_libraries.changed.connect(self._show_again)

    def _show_again(self) -> None:
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        super().refresh()
        for row in self.list:
            self.rows.removeWidget(row)
            row.hide()
            row.deleteLater()
        places = self._libraries.places
        self.list = []
        for number, place in enumerate(places):
            row = LibraryRow(self.theme, place, first=number == 0, last=number == len(places) - 1)
            row.target.setChecked(place is self._libraries.target)
            row.target.clicked.connect(partial(self._take_target, place.folder))
            row.up.clicked.connect(partial(self._move, number, -1))
            row.down.clicked.connect(partial(self._move, number, 1))
            row.forget.clicked.connect(partial(self.forget_asked.emit, place))
            self.list.append(row)
            self.rows.insertWidget(number, row)

    def _take_target(self, folder: Path) -> None:
        self.choose("target", str(folder))
        self.refresh()

    def _move(self, number: int, by: int) -> None:
        order = [str(place.folder) for place in self._libraries.places]
        order.insert(number + by, order.pop(number))
        self.choose("libraries", order)
