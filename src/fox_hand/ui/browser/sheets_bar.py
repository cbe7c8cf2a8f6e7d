"""Small parts around the sheets: size slider, chips of what narrows them, what to do with ticks."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QPoint, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QSlider, QVBoxLayout, QWidget

from fox_hand.base.language import tr, tr_n
from fox_hand.ui.cards.card_facts import HEIGHT
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind

USUAL = 68  # pixels of a card as they are shipped


class SizeSlider(QSlider):
    """A small slider for the size of the cards."""

    def __init__(self, theme: Theme, value: int) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self._theme = theme
        self.setRange(48, 144)
        self.setSingleStep(4)
        self.setValue(value)
        self.setFixedSize(52, 20)
        self.setToolTip(tr("Size of the cards"))
        self.setAccessibleName(tr("Size of the cards"))

    def zoom(self, larger: float) -> None:
        """By wheel or fingers, a pixel at least."""
        size = self.value()
        wanted = round(size * larger)
        self.setValue(max(wanted, size + 1) if larger > 1 else min(wanted, size - 1))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Back to the size that is shipped."""
        self.setValue(USUAL)
        event.accept()

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        share = (self.value() - self.minimum()) / (self.maximum() - self.minimum())
        x = 6 + share * (self.width() - 12)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._theme.colour("line"))
        painter.drawRoundedRect(QRectF(2, 9, self.width() - 4, 2), 1, 1)
        painter.setBrush(self._theme.colour("text"))
        painter.drawEllipse(QRectF(x - 5, 5, 10, 10))
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(self._theme.colour("text"))
            painter.drawEllipse(QRectF(x - 8, 2, 16, 16))


class Chips(QWidget):
    """Filters that are on, each with a way to take it off; hidden while there are none."""

    taken_off = Signal(str)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._line = QHBoxLayout(self)
        self._line.setContentsMargins(12, 0, 12, 4)
        self._line.setSpacing(4)
        self._line.addStretch(1)
        self.buttons: dict[str, Button] = {}
        self.hide()

    def show_chips(self, words: Mapping[str, str]) -> None:
        """Show these, by what they stand for."""
        if list(words) == list(self.buttons):
            return
        for button in self.buttons.values():
            self._line.removeWidget(button)
            button.deleteLater()
        self.buttons = {}
        for place, (key, word) in enumerate(words.items()):
            chip = Button(self._theme, word, icon="x", kind=Kind.CHIP, height=24, icon_size=12)
            chip.setToolTip(tr("Show others than “{word}” again", word=word))
            chip.clicked.connect(lambda _=False, k=key: self.taken_off.emit(k))
            self._line.insertWidget(place, chip)
            self.buttons[key] = chip
        self.setVisible(bool(words))


class TickedBar(QWidget):
    """What can be done with several cards; stands where the facts of one are."""

    menu_asked = Signal(QPoint)
    tag = Signal()
    favourite = Signal()
    approve = Signal()
    take_out = Signal()
    clear = Signal()

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.setFixedHeight(HEIGHT)
        self.setProperty("plate", "below")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._title = Words()
        self._title.setProperty("role", "title")
        hint = Words(tr("Drag them onto a sheet, or:"))
        hint.setProperty("quiet", True)
        self.clear_button = clear = Button(
            theme, icon="x", kind=Kind.FLAT, tip=tr("Untick"), height=24, icon_size=14
        )
        clear.clicked.connect(self.clear)
        self.tag_button = Button(theme, tr("Tag …"))
        self.tag_button.clicked.connect(self.tag)
        self.star_button = Button(theme, icon="star", tip=tr("Favourites"))
        self.star_button.clicked.connect(self.favourite)
        self.lock_button = Button(theme, icon="lock", tip=tr("Approve: lock them"))
        self.lock_button.clicked.connect(self.approve)
        self.out_button = Button(theme, icon="archive", tip=tr("Take out of the library"))
        self.out_button.clicked.connect(self.take_out)
        self.more_button = Button(theme, tr("More"), menu=True)
        self.more_button.clicked.connect(
            lambda: self.menu_asked.emit(
                self.more_button.mapToGlobal(self.more_button.rect().bottomLeft())
            )
        )
        self._build(clear, hint)

    def _build(self, clear: Button, hint: QLabel) -> None:
        top, doing = QHBoxLayout(), QHBoxLayout()
        top.addWidget(self._title, 1)
        top.addWidget(clear)
        doing.setSpacing(4)
        for button in (
            self.tag_button,
            self.star_button,
            self.lock_button,
            self.out_button,
            self.more_button,
        ):
            doing.addWidget(button)
        doing.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 8, 12)
        column.setSpacing(4)
        column.addLayout(top)
        column.addWidget(hint)
        column.addStretch(1)
        column.addLayout(doing)

    def show_count(self, count: int) -> None:
        self._title.setText(
            tr("{counted} ticked", counted=tr_n("{number:,} card", "{number:,} cards", count))
        )
