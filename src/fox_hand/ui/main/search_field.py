"""Where cards are found by typing; values of filters that are there already are offered."""

from __future__ import annotations

import re
from collections.abc import Sequence

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QStringListModel, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QCompleter, QLineEdit

from fox_hand.library.index.query import (
    KINDS,
    REGION_WORDS,
    SIDE_WORDS,
    YES,
    YES_NO,
    FitFilter,
)
from fox_hand.session.libraries.known_names import known_authors, known_characters, known_tags
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.ui.widgets.fields.completing import offer_below

# the last filter of a text and what of its last value stands there
LAST = re.compile(r'(?:^|\s)(?P<key>\w+):(?P<before>(?:"[^"]*",|[^\s",]+,)*)(?P<value>"?[^",\s]*)$')
FIXED: dict[str, Sequence[str]] = {
    "region": tuple(word for word in REGION_WORDS if f"{word}s" not in REGION_WORDS),
    "side": tuple(word for word in SIDE_WORDS if len(word) > 1),
    "kind": tuple(KINDS),
    "fits": tuple(FitFilter),
    "approved": tuple(YES_NO),
    "favourite": tuple(YES),
    "new": ("today", "week", "month"),
}
OFFERED = 8


class SearchField(QLineEdit):
    """Enter and Down go on to what was found, or into what is offered."""

    left = Signal()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        completer = self.completer()
        offered = completer.popup() if completer is not None else None
        if Qt.Key(event.key()) not in (Qt.Key.Key_Down, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            super().keyPressEvent(event)
        elif offered is not None and offered.isVisible() and offered.currentIndex().isValid():
            event.ignore()  # what is offered is taken
        else:
            self.left.emit()
            event.accept()


class FilterValues(QCompleter):
    """After ``tag:``, ``by:`` and the other filters: the values that cards have.

    Args:
        field: where it is typed.
        open_libraries: whose cards.
    """

    def __init__(self, field: QLineEdit, open_libraries: OpenLibraries) -> None:
        super().__init__(field)
        self._field, self._open_libraries = field, open_libraries
        self._list = QStringListModel(self)
        self._key = ""
        self.setModel(self._list)
        self.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.setFilterMode(Qt.MatchFlag.MatchContains)
        self.setMaxVisibleItems(OFFERED)
        offer_below(field, self)

    def splitPath(self, path: str) -> list[str]:
        """The part of a text that is completed; the toolkit asks at every letter."""
        found = LAST.search(path)
        key = found["key"].casefold() if found is not None else ""
        if key != self._key:
            self._key = key
            self._list.setStringList(list(self.values_of(key)))
        # a word that no value holds: nothing is offered outside of filters
        return [found["value"].lstrip('"') if found is not None and key else "\n"]

    def pathFromIndex(self, index: QModelIndex | QPersistentModelIndex) -> str:
        """What stands in the field when a value is taken."""
        text, value = self._field.text(), str(index.data())
        found = LAST.search(text)
        if found is None:
            return text
        written = f'"{value}"' if re.search(r"[\s,]", value) else value
        return text[: found.start("value")] + written

    def values_of(self, key: str) -> Sequence[str]:
        """What a filter knows, or what cards of the open libraries have."""
        places = self._open_libraries.places
        if key == "tag":
            return known_tags(places)
        if key == "by":
            return known_authors(places)
        if key == "character":
            return known_characters(places)
        if key == "sheet":
            return sorted({sheet for place in places for sheet in place.sheets}, key=str.casefold)
        return FIXED.get(key, ())
