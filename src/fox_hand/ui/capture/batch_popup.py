"""All marked frames as cards: the pattern of their names, and how many there are."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from fox_hand.base.errors import FoxHandError
from fox_hand.session.capturing.batch import FIELDS, marked_drafts
from fox_hand.session.capturing.draft import CaptureDraft
from fox_hand.session.capturing.marked import Marked
from fox_hand.ui.cards.card_words import counted
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.popup import Popup

WIDTH = 324


class BatchPopup(Popup):
    """Shows the names as they would be while the pattern is typed."""

    taken = Signal(object)  # drafts

    def __init__(
        self, theme: Theme, parent: QWidget, draft: CaptureDraft, sequence: Marked
    ) -> None:
        super().__init__(parent, WIDTH)
        self._draft, self._sequence = draft, sequence
        self._drafts: list[CaptureDraft] = []
        title = Words(f"{counted(len(sequence.marks), 'marked frame')} as cards")
        title.setProperty("role", "title")
        self.field = self.pattern = QLineEdit("{sheet} {n:02}")
        self.pattern.setAccessibleName("Pattern of the names")
        self.pattern.setToolTip("Knows " + ", ".join("{" + f + "}" for f in FIELDS))
        self.pattern.setFixedHeight(28)
        self.pattern.textChanged.connect(self._show)
        self.pattern.returnPressed.connect(self._take)
        self._names = Words()
        self._names.setWordWrap(True)
        self._names.setProperty("quiet", True)
        self.take = Button(theme, "Take them", kind=Kind.MAIN, key="Enter")
        self.take.clicked.connect(self._take)
        line = QHBoxLayout()
        line.addWidget(self.pattern, 1)
        line.addWidget(self.take)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 12)
        column.setSpacing(8)
        column.addWidget(title)
        column.addLayout(line)
        column.addWidget(self._names)
        self._show()

    def _show(self) -> None:
        try:
            self._drafts = marked_drafts(self._draft, self._sequence, self.pattern.text())
        except FoxHandError as error:
            self._drafts = []
            self._names.setText(f"{error.happened} {error.todo}")
        else:
            names = [d.name for d in self._drafts]
            last = f" … {names[-1]}" if len(names) > 2 else ""
            self._names.setText(", ".join(names[:2]) + last)
        self.take.setEnabled(bool(self._drafts))
        self.take.setText(f"Take {len(self._drafts)}" if self._drafts else "Take them")

    def _take(self) -> None:
        if self._drafts:
            self.taken.emit(self._drafts)
            self.close()
