"""A page of the preferences: rows of a word and what is chosen, each with its way back to ours."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import shown_number, tr
from fox_hand.session.preferences.preferences import Preferences, shipped
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind, Segments, Tick
from fox_hand.ui.widgets.fields.completing import clearable
from fox_hand.ui.widgets.fields.number_field import NumberField
from fox_hand.ui.widgets.screen_parts import scrolled

WORD = 232  # pixels of the column of words
WIDEST = 760  # of what is chosen from, however wide the window is


class PreferencePage(QWidget):
    """One page.

    Args:
        theme: colours and type.
        preferences: what is chosen.
        title, hint: its heading.
    """

    failed = Signal(object)
    told = Signal(str)

    def __init__(self, theme: Theme, preferences: Preferences, title: str, hint: str) -> None:
        super().__init__()
        self.theme, self.preferences = theme, preferences
        self._shown: dict[str, tuple[Callable[[], None], Button | None]] = {}
        self._meant: dict[tuple[str, str], str] = {}  # setting, value: the word for it
        self.words: dict[str, list[QWidget]] = {}  # what a row says, in small letters, and the row
        heading, more = Words(title), Words(hint)
        heading.setProperty("role", "title")
        more.setProperty("quiet", True)
        self.head = QHBoxLayout()
        self.head.setContentsMargins(12, 8, 12, 8)
        self.head.setSpacing(8)
        self.head.addWidget(heading)
        self.head.addWidget(more, 1)
        self.rows = QVBoxLayout()
        self.rows.setContentsMargins(12, 12, 12, 12)
        self.rows.setSpacing(8)
        inside = QWidget()
        inside.setLayout(self.rows)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(self.head)
        column.addWidget(thin_line())
        column.addWidget(scrolled(inside), 1)
        preferences.changed.connect(self._on_changed)

    # -- rows -----------------------------------------------------------------------------

    def add_title(self, text: str) -> None:
        """A heading between rows."""
        label = Words(text)
        label.setProperty("role", "heading")
        self.rows.addSpacing(8)
        self.rows.addWidget(label)

    def add_row(self, word: str, widget: QWidget, hint: str = "", name: str = "") -> None:
        """A word, what is chosen, and a few quiet words; with a name also the way back to ours."""
        row = QWidget()
        row.setMaximumWidth(WIDEST)
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(12)
        label = Words(word)
        label.setFixedWidth(WORD)
        line.addWidget(label)
        line.addWidget(widget)
        quiet = Words(hint)
        quiet.setProperty("quiet", True)
        quiet.setWordWrap(True)
        line.addWidget(quiet, 1)
        if name:
            tip = tr("{word}: back to {said}", word=word, said=self._said(name))
            back = Button(
                self.theme, icon="rotate-ccw", kind=Kind.FLAT, tip=tip, height=24, icon_size=14
            )
            policy = back.sizePolicy()
            policy.setRetainSizeWhenHidden(True)
            back.setSizePolicy(policy)
            back.clicked.connect(lambda: self.choose(name, shipped(name)))
            line.addWidget(back)
            show, _ = self._shown[name]
            self._shown[name] = show, back
        self.words.setdefault(f"{word} {hint}".lower(), []).append(row)
        self.rows.addWidget(row)
        if name:
            self._show(name)

    def _said(self, name: str) -> str:
        ours = shipped(name)
        if isinstance(ours, bool):
            return tr("on") if ours else tr("off")
        if isinstance(ours, float):
            return shown_number(ours, 3)
        return self._meant.get((name, str(ours)), str(ours)) or tr("nothing")

    def add_choice(
        self, name: str, word: str, values: Sequence[tuple[str, str]], hint: str = ""
    ) -> Segments:
        """One of a few words."""
        field = Segments(self.theme, values, word, room=12)
        self._meant.update(((name, value), said) for value, said in values)
        field.chosen.connect(lambda value: self.choose(name, value))
        self._shown[name] = (lambda: field.set_value(str(self.preferences[name]))), None
        self.add_row(word, field, hint, name)
        return field

    def add_tick(self, name: str, word: str, text: str, hint: str = "") -> Tick:
        """On or off."""
        tick = Tick(self.theme, text)
        tick.setAccessibleName(f"{word}: {text}")
        tick.toggled.connect(lambda on: self.choose(name, on))

        def show() -> None:
            tick.blockSignals(True)
            tick.setChecked(self.preferences[name])
            tick.blockSignals(False)

        self._shown[name] = show, None
        self.add_row(word, tick, hint, name)
        return tick

    def add_number(
        self, name: str, word: str, span: tuple[float, float, float], unit: str, hint: str = ""
    ) -> NumberField:
        """A number between two ends, in steps."""
        low, high, step = span
        field = NumberField("", low, high, step, unit)
        field.field.setFixedWidth(84)
        field.field.setAccessibleName(word)
        whole = isinstance(shipped(name), int)
        field.changed.connect(lambda v: self.choose(name, round(v) if whole else v))
        field.told.connect(
            lambda _: self.told.emit(
                tr(
                    "{word}: from {low:g} to {high:g}{unit}.",
                    word=word,
                    low=low,
                    high=high,
                    unit=unit,
                )
            )
        )
        self._shown[name] = (lambda: field.show_value(self.preferences[name])), None
        self.add_row(word, field, hint, name)
        return field

    def add_text(self, name: str, word: str, hint: str = "") -> QLineEdit:
        """A few words; taken when they are finished."""
        field = QLineEdit()
        field.setFixedSize(260, 28)
        field.setAccessibleName(word)
        clearable(field)
        field.editingFinished.connect(lambda: self.choose(name, field.text().strip()))

        def show() -> None:
            if field.text().strip() != self.preferences[name]:
                field.setText(self.preferences[name])

        self._shown[name] = show, None
        self.add_row(word, field, hint, name)
        return field

    def end(self) -> None:
        """What is below moves up."""
        self.rows.addStretch(1)

    # -- choosing -------------------------------------------------------------------------

    def choose(self, name: str, value: object) -> None:
        """Take it; what cannot be is said, and stays as it was."""
        try:
            self.preferences.set(name, value)
        except FoxHandError as error:
            self.failed.emit(error)
            self._show(name)

    def _on_changed(self, name: str) -> None:
        if name in self._shown:
            self._show(name)

    def _show(self, name: str) -> None:
        show, back = self._shown[name]
        show()
        if back is not None:
            back.setVisible(not self.preferences.is_ours(name))

    def refresh(self) -> None:
        """Everything as it is now."""
        for name in self._shown:
            self._show(name)

    def row_of(self, text: str) -> QWidget | None:
        """The first row whose words hold a text."""
        for words, rows in self.words.items():
            if text in words:
                return rows[0]
        return None


def thin_line() -> QWidget:
    """Between two parts of a panel."""
    line = QWidget()
    line.setProperty("plate", "line")
    line.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
    line.setFixedHeight(1)
    return line
