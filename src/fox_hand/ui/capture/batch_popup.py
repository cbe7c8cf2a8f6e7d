"""All marked frames as cards: what goes into each, the pattern of their names, how many."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr, tr_n
from fox_hand.session.capturing.batch import FIELDS, HeldBy, MarkedFrames, held_words
from fox_hand.session.capturing.draft import CaptureDraft
from fox_hand.ui.capture.batch_list import ROW, BatchList, BatchRow
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind, Segments
from fox_hand.ui.widgets.fields.completing import clearable
from fox_hand.ui.widgets.popup import Popup

WIDTH = 396
MOST_ROWS = 7
CHOICES = [
    (HeldBy.EACH.value, tr("What moved on each")),
    (HeldBy.ALL.value, tr("The same in all")),
    (HeldBy.TICKED.value, tr("As ticked")),
]
TIPS = {
    HeldBy.EACH: tr("Each card holds what is away from rest on its own frame"),
    HeldBy.ALL: tr("All cards hold what is away from rest on any of the frames"),
    HeldBy.TICKED: tr("All cards hold what is ticked in the panel"),
}


class BatchPopup(Popup):
    """Shows the cards as they would be while the pattern is typed; those that would hold nothing
    are not taken."""

    taken = Signal(object)  # drafts

    def __init__(self, theme: Theme, parent: QWidget, frames: MarkedFrames) -> None:
        super().__init__(parent, WIDTH)
        self._frames = frames
        self._drafts: list[CaptureDraft] = []
        title = Words(
            tr(
                "{counted} as cards",
                counted=tr_n(
                    "{number:,} marked frame", "{number:,} marked frames", len(frames.frames)
                ),
            )
        )
        title.setProperty("role", "title")
        self.field = self.pattern = QLineEdit("{slot}" if frames.named else "{sheet} {n:02}")
        clearable(self.field)
        self.pattern.setAccessibleName(tr("Pattern of the names"))
        self.pattern.setToolTip(tr("Knows ") + ", ".join("{" + f + "}" for f in FIELDS))
        self.pattern.setFixedHeight(28)
        self.pattern.textChanged.connect(self._show_cards)
        self.pattern.returnPressed.connect(self._take)
        self.held = Segments(theme, CHOICES, tr("What goes into the cards"), room=10)
        self.held.chosen.connect(self._show_cards)
        if frames.named:  # all of them hold the same, so that they go into one another
            self.held.set_value(HeldBy.TICKED.value)
        self.list = BatchList(theme)
        self.list.setFixedHeight(min(len(frames.frames), MOST_ROWS) * ROW)
        self._said = Words()
        self._said.setWordWrap(True)
        self._said.setProperty("quiet", True)
        self.take = Button(theme, tr("Take them"), kind=Kind.MAIN, key="Enter")
        self.take.clicked.connect(self._take)
        line = QHBoxLayout()
        line.addWidget(self.pattern, 1)
        line.addWidget(self.take)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 12)
        column.setSpacing(8)
        for part in (title, self.held, self.list, self._said):
            column.addWidget(part)
        column.addLayout(line)
        self._show_cards()

    def _show_cards(self) -> None:
        held = HeldBy(self.held.value)
        self.held.setToolTip(TIPS[held])
        try:
            found = self._frames.drafts(held, self.pattern.text())
        except FoxHandError as error:
            self._drafts = []
            self._said.setText(f"{error.happened} {error.todo}")
        else:
            self._show_found(found)
        self.take.setEnabled(bool(self._drafts))
        self.take.setText(
            tr("Take {count}", count=len(self._drafts)) if self._drafts else tr("Take them")
        )

    def _show_found(self, found: list[CaptureDraft]) -> None:
        frames = self._frames
        rows = []
        for number, one in enumerate(found):
            lost = frames.left_out(number, one)
            rows.append(
                BatchRow(
                    one.name,
                    tr("frame {taken_frame:g}", taken_frame=one.taken_frame),
                    held_words(one),
                    lost,
                )
            )
        self.list.show_rows(rows)
        self._drafts = [one for one in found if one.channel_ids]
        empty = len(found) - len(self._drafts)
        self._said.setText(
            tr(
                "On {counted} nothing moved: no card is made of them.",
                counted=tr_n("{number:,} frame", "{number:,} frames", empty),
            )
            if empty
            else tr("The pictures are framed one by one, around what each card holds.")
        )

    def _take(self) -> None:
        if self._drafts:
            self.taken.emit(self._drafts)
            self.close()
