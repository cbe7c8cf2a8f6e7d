"""One of a few words: side by side where there is room, else in a menu."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QWidget

from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind, Segments
from fox_hand.ui.widgets.passing_menu import passing_menu


class Choice(QWidget):
    """Segments, or a button with a menu when it is made compact.

    Args:
        theme: colours and type.
        words: value and word of each choice.
        name: what is chosen, for tooltips and assistive technology.
    """

    chosen = Signal(str)

    def __init__(self, theme: Theme, words: Sequence[tuple[str, str]], name: str) -> None:
        super().__init__()
        self._words, self._name = dict(words), name
        self._off: set[str] = set()
        self.segments = Segments(theme, words, name, room=12)
        self.segments.setToolTip(name)
        self.button = Button(theme, "", kind=Kind.FLAT, height=24, menu=True, tip=name, padding=6)
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.addWidget(self.segments)
        line.addWidget(self.button)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self.segments.chosen.connect(self.chosen.emit)
        self.button.clicked.connect(self._ask)
        self.set_compact(False)

    @property
    def value(self) -> str:
        return self.segments.value

    def set_value(self, value: str) -> None:
        """Show a choice without announcing it."""
        if value == self.segments.value and self.button.text() == self._words[value]:
            return
        self.segments.set_value(value)
        self.button.setText(self._words[value])
        self.button.setAccessibleName(f"{self._name}: {self._words[value]}")
        self.button.updateGeometry()

    def set_off(self, values: set[str]) -> None:
        """Which choices cannot be made now."""
        self._off = values
        self.segments.set_off(values)

    def set_compact(self, compact: bool) -> None:
        self.segments.setVisible(not compact)
        self.button.setVisible(compact)

    def _ask(self) -> None:
        menu = passing_menu(self)
        for value, word in self._words.items():
            action = menu.addAction(word, partial(self._choose, value))
            action.setCheckable(True)
            action.setChecked(value == self.value)
            action.setEnabled(value not in self._off)
        menu.popup(self.button.mapToGlobal(self.button.rect().bottomLeft()))

    def _choose(self, value: str) -> None:
        self.set_value(value)
        self.chosen.emit(value)
