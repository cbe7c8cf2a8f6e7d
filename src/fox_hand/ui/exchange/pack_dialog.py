"""What of a pack is new, the same or different, and what is to be done with it."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QDialog, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from fox_hand.base.language import tr, tr_n
from fox_hand.library.store.pack import News, Offer, TakeIn
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.choice import Choice

FOR_NEW = ((TakeIn.ADD.value, tr("Take in")), (TakeIn.LEAVE.value, tr("Leave")))
FOR_OTHER = (
    (TakeIn.BOTH.value, tr("Both")),
    (TakeIn.THEIRS.value, tr("Theirs")),
    (TakeIn.LEAVE.value, tr("Mine")),
)
WORDS = {News.NEW: tr("new"), News.SAME: tr("the same"), News.DIFFERENT: tr("different")}


class PackDialog(QDialog):
    """A row for every card; those that are the same are only counted."""

    chosen = Signal(object)  # list of (Offer, Take)

    def __init__(self, theme: Theme, parent: QWidget, pack: Path, offers: Sequence[Offer]) -> None:
        super().__init__(parent)
        self._theme, self._offers = theme, list(offers)
        self.setWindowTitle(tr("Take in {stem}", stem=pack.stem))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(560, 480)
        self.choices: dict[int, Choice] = {}
        counts = {news: sum(o.news is news for o in offers) for news in News}
        title = Words(
            ": ".join((pack.stem, tr_n("{number:,} card", "{number:,} cards", len(offers))))
        )
        title.setProperty("role", "title")
        said = [f"{n} {WORDS[news]}" for news, n in counts.items() if n]
        reworded = sum(offer.reworded for offer in offers)
        if reworded:
            said.append(
                tr(
                    "{counted} changed that could not be used as written",
                    counted=tr_n("{number:,} name", "{number:,} names", reworded),
                )
            )
        words = Words(", ".join(said))
        words.setProperty("quiet", True)
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 20, 24, 16)
        column.setSpacing(12)
        column.addWidget(title)
        column.addWidget(words)
        column.addWidget(self._list(), 1)
        column.addLayout(self._foot())

    def _list(self) -> QWidget:
        inside = QWidget()
        rows = QVBoxLayout(inside)
        rows.setContentsMargins(0, 0, 8, 0)
        rows.setSpacing(4)
        for number, offer in enumerate(self._offers):
            if offer.news is not News.SAME:
                rows.addWidget(self._row(number, offer))
        if not self.choices:
            rows.addWidget(Words(tr("Everything in it is in the library already.")))
        rows.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(inside)
        return scroll

    def _row(self, number: int, offer: Offer) -> QWidget:
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(8)
        name = Words(offer.card.name)
        name.setMinimumWidth(140)
        said = [offer.card.sheet] if offer.card.sheet else []
        if offer.news is News.DIFFERENT:
            said.append(
                tr(
                    "revision {revision}, mine {own_revision}",
                    revision=offer.card.revision,
                    own_revision=offer.own_revision,
                )
            )
        if offer.card.author:
            said.append(offer.card.author)
        where = Words(", ".join(said))
        where.setProperty("quiet", True)
        choice = Choice(
            self._theme, FOR_NEW if offer.news is News.NEW else FOR_OTHER, offer.card.name
        )
        choice.set_value(offer.usual.value)
        self.choices[number] = choice
        line.addWidget(name)
        line.addWidget(where, 1)
        line.addWidget(choice)
        return row

    def _foot(self) -> QHBoxLayout:
        foot = QHBoxLayout()
        cancel = Button(self._theme, tr("Cancel"), key="Esc")
        cancel.clicked.connect(self.reject)
        self.take = Button(self._theme, tr("Take in"), kind=Kind.MAIN, key="Enter")
        self.take.clicked.connect(self._take)
        self.take.setEnabled(bool(self.choices))
        foot.addStretch(1)
        foot.addWidget(cancel)
        foot.addWidget(self.take)
        return foot

    def _take(self) -> None:
        wanted = [
            (self._offers[number], TakeIn(choice.value)) for number, choice in self.choices.items()
        ]
        self.accept()
        self.chosen.emit(wanted)
