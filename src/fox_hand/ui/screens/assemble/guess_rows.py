"""What was guessed and nobody has looked at yet."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.core.puppet.puppet import Guess
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.screen_parts import scrolled
from fox_hand.ui.widgets.sign import Sign


class GuessRow(QWidget):
    """On the ground of what a person must decide."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._theme.colour("warning_ground"))
        painter.drawRoundedRect(QRectF(self.rect()), 4, 4)


class GuessRows(QWidget):
    """One row for each, with Yes and Show."""

    yes = Signal(object)  # Guess
    yes_to_all = Signal()
    shown = Signal(object)  # Guess

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._guesses: tuple[Guess, ...] = ()
        self.buttons: list[tuple[Guess, Button, Button]] = []
        self.title, self.count = Words(tr("Guessed, look at these")), Words("")
        self.title.setProperty("role", "title")
        self.count.setProperty("quiet", True)
        self.all = Button(theme, tr("Yes to all"), height=24)
        self.all.clicked.connect(self.yes_to_all)
        head = QHBoxLayout()
        head.setSpacing(8)
        head.addWidget(self.title)
        head.addWidget(self.count, 1)
        head.addWidget(self.all)
        inner = QWidget()
        self._rows = QVBoxLayout(inner)
        self._rows.setContentsMargins(0, 0, 0, 0)
        self._rows.setSpacing(4)
        self._rows.setAlignment(Qt.AlignmentFlag.AlignTop)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 8)
        column.setSpacing(8)
        column.addLayout(head)
        column.addWidget(scrolled(inner), 1)

    def show_guesses(self, guesses: tuple[Guess, ...], parts: int) -> None:
        """Show what is still only guessed.

        Args:
            guesses: of the view that is shown.
            parts: how many parts it has.
        """
        there = bool(guesses)
        self.title.setText(tr("Guessed, look at these") if there else tr("Nothing is only guessed"))
        asked = len({guess.part for guess in guesses})
        self.count.setText(
            tr("{asked} of {parts} parts", asked=asked, parts=parts)
            if there
            else tr("names say it all")
        )
        self.all.setVisible(there)
        if guesses == self._guesses:
            return
        self._guesses, self.buttons = guesses, []
        while (item := self._rows.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        for guess in guesses:
            self._rows.addWidget(self._row(guess))

    def _row(self, guess: Guess) -> QWidget:
        row = GuessRow(self._theme)
        line = QHBoxLayout(row)
        line.setContentsMargins(8, 4, 8, 4)
        line.setSpacing(8)
        sign = Sign(self._theme, "circle-alert", 16, "warning")
        words, why = Words(guess.words), Words(guess.why)
        why.setProperty("quiet", True)
        for label in (words, why):  # the buttons stay in sight, however narrow it is
            label.setWordWrap(True)
            label.setMinimumWidth(40)
        yes = Button(self._theme, tr("Yes"), height=24, tip=tr("{words}: yes", words=guess.words))
        show = Button(
            self._theme,
            tr("Show"),
            kind=Kind.FLAT,
            height=24,
            tip=tr("Show {part}", part=guess.part),
        )
        yes.clicked.connect(partial(self.yes.emit, guess))
        show.clicked.connect(partial(self.shown.emit, guess))
        line.addWidget(sign)
        told = QVBoxLayout()
        told.setSpacing(0)
        told.addWidget(words)
        told.addWidget(why)
        line.addLayout(told, 1)
        line.addWidget(yes)
        line.addWidget(show)
        self.buttons.append((guess, yes, show))
        return row
