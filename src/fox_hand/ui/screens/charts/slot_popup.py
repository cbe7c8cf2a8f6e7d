"""What a slot says: its name, how it looks, other names, how many are wanted."""

from __future__ import annotations

from typing import get_args

import msgspec
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.library.charts.chart import RegionWord, Slot, alike_name
from fox_hand.library.index.query import REGION_WORDS
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.fields.completing import clearable
from fox_hand.ui.widgets.fields.number_field import NumberField
from fox_hand.ui.widgets.popup import Popup

WIDTH = 396
NEW = "\N{HORIZONTAL ELLIPSIS}"  # name of a slot that has none yet


class SlotPopup(Popup):
    """Asks for all of it at once.

    Args:
        theme, parent: how it looks, and over what.
        slot: as it is; a new one has no key.
    """

    field: QLineEdit
    done = Signal(object)  # Slot

    def __init__(self, theme: Theme, parent: QWidget, slot: Slot) -> None:
        super().__init__(parent, WIDTH)
        self._slot = slot
        title = Words(tr("Slot {name}", name=slot.name) if slot.name != NEW else tr("New slot"))
        title.setProperty("role", "title")
        self.field = QLineEdit("" if slot.name == NEW else slot.name)
        self.looks = QLineEdit(slot.looks)
        self.words = QLineEdit(", ".join(slot.words))
        clearable(self.field, self.looks, self.words)
        self.wanted = NumberField(tr("cards"), 1, 99)
        self.wanted.show_value(slot.wanted)
        self.region = QComboBox()
        self._regions = region_words()
        self.region.addItems([word or "anywhere" for word in self._regions])
        self.region.setCurrentIndex(self._regions.index(slot.region))
        self.save = Button(theme, tr("Done"), kind=Kind.MAIN, key="Enter")
        self.save.clicked.connect(self._finish)
        grid = QGridLayout()
        grid.setHorizontalSpacing(12)
        rows: list[tuple[str, QWidget]] = [
            (tr("Name"), self.field),
            (tr("Looks"), self.looks),
            (tr("Also called"), self.words),
            (tr("Where"), self.region),
            (tr("Wanted"), self.wanted),
        ]
        for number, (words, widget) in enumerate(rows):
            label = Words(words)
            label.setProperty("quiet", True)
            grid.addWidget(label, number, 0)
            grid.addWidget(widget, number, 1)
            widget.setAccessibleName(words)
            if isinstance(widget, QLineEdit):
                widget.setFixedHeight(28)
                widget.returnPressed.connect(self._finish)
        self.words.setPlaceholderText(tr("other names, with commas"))
        foot = QHBoxLayout()
        foot.addStretch(1)
        foot.addWidget(self.save)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 12)
        column.setSpacing(8)
        column.addWidget(title)
        column.addLayout(grid)
        column.addLayout(foot)
        self.field.textChanged.connect(self._on_name)
        self._on_name()

    def _on_name(self) -> None:
        self.save.setEnabled(bool(alike_name(self.field.text())))

    def _finish(self) -> None:
        name = self.field.text().strip()[:80]
        if not alike_name(name):
            return
        words = tuple(w.strip() for w in self.words.text().split(",") if w.strip())
        self.done.emit(
            msgspec.structs.replace(
                self._slot,
                name=name,
                looks=self.looks.text().strip(),
                words=words,
                region=self._regions[self.region.currentIndex()],
                wanted=int(self.wanted.value),
            )
        )
        self.close()


def region_words() -> list[RegionWord]:
    """The words a slot can say of where it belongs."""
    singular = {word for word in REGION_WORDS if f"{word}s" in REGION_WORDS}
    return [word for word in get_args(RegionWord) if word not in singular]
