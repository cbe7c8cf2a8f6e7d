"""Earlier versions of one card as a row of pictures in time."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from fox_hand.base.language import tr, tr_n
from fox_hand.core.pose.difference import difference
from fox_hand.library.format.container import read_card
from fox_hand.library.format.entry import Entry
from fox_hand.session.libraries.care_report import Version
from fox_hand.ui.cards.card_words import short_date, signed
from fox_hand.ui.cards.tiles import CarePanel, Tile, words
from fox_hand.ui.screens.care.care_hands import CareHands
from fox_hand.ui.widgets.buttons import Button

WIDE, HIGH = 128, 96


class VersionsPanel(CarePanel):
    """Pictures from the first to the one in use; what differs, and what can be done."""

    peek = Signal(object, object)  # Entry of the card, Entry of the version

    def __init__(
        self, hands: CareHands, entry: Entry | None, versions: tuple[Version, ...]
    ) -> None:
        title = (
            tr("Earlier versions of {name}", name=entry.name)
            if entry is not None
            else tr("Earlier versions")
        )
        detail = (
            tr_n("{number:,} picture", "{number:,} pictures", len(versions) + 1) if versions else ""
        )
        super().__init__(title, detail)
        self._hands, self._entry, self.versions = hands, entry, versions
        self.tiles: list[Tile] = []
        if entry is None:
            self.nothing(tr("Choose Earlier versions on a card to see how it changed."))
            return
        if not versions:
            self.nothing(tr("{name} has not been replaced yet.", name=entry.name))
            return
        self._build(entry)
        self.choose(len(versions) - 1)

    def _build(self, entry: Entry) -> None:
        inside = QWidget()
        line = QHBoxLayout(inside)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(12)
        for i, one in enumerate((*(v.entry for v in self.versions), entry)):
            last = i == len(self.versions)
            captions = (signed(one), tr("in use") if last else one.note or tr("no note"))
            tile = self._hands.tile(one, (WIDE, HIGH), captions, choosable=not last, listed=last)
            if not last:
                tile.clicked.connect(partial(self.choose, i))
            self.tiles.append(tile)
            line.addWidget(tile)
        line.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(inside)
        scroll.setFixedHeight(HIGH + 56)
        self._said = words("", quiet=False)
        self._compare = Button(
            self._hands.theme, tr("Compare"), tip=tr("With the card as it is in use")
        )
        self._compare.clicked.connect(self._on_compare)
        self._peek = Button(
            self._hands.theme, tr("Peek"), tip=tr("Put it on the figure; Esc takes it off")
        )
        self._variant = Button(
            self._hands.theme, tr("As a variant"), tip=tr("As a card of its own")
        )
        self.use = Button(
            self._hands.theme, tr("Use this again"), tip=tr("What is in use is kept as well")
        )
        self._peek.clicked.connect(self._on_peek)
        self._variant.clicked.connect(self._on_variant)
        self.use.clicked.connect(self._on_use)
        foot = QHBoxLayout()
        foot.setSpacing(8)
        foot.addWidget(self._said, 1)
        for button in (self._compare, self._peek, self._variant, self.use):
            foot.addWidget(button)
        column = QVBoxLayout()
        column.addWidget(scroll)
        column.addLayout(foot)
        self.rows.addLayout(column)

    @property
    def chosen(self) -> Version:
        return self.versions[self._at]

    def choose(self, at: int) -> None:
        """Say what of a version differs from the card in use."""
        self._at = at
        for i, tile in enumerate(self.tiles):
            tile.set_chosen(i == at)
        assert self._entry is not None
        one = self.versions[at].entry
        before, now = read_card(one.path)[0], read_card(self._entry.path)[0]
        differs = difference(before.pose, now.pose)
        held = len({*before.pose.controls, *now.pose.controls})
        text = f"{short_date(one.changed)}, {one.author or tr('nobody named')}: "
        if differs:
            most = self._hands.label(differs[0].control)
            text += tr_n(
                "{number} of {held} controls differs, {most}.",
                "{number} of {held} controls differ, most {most}.",
                len(differs),
                held=held,
                most=most,
            )
        else:
            text += tr("the same pose.")
        self._said.setText(text)

    def _on_compare(self) -> None:
        if self._entry is not None:
            self._hands.compare(self.chosen.entry, self._entry)

    def _on_peek(self) -> None:
        self.peek.emit(self._entry, self.chosen.entry)

    def _on_variant(self) -> None:
        hands, entry = self._hands, self._entry
        assert entry is not None
        name = tr(
            "{name} of {short_date}",
            name=entry.name,
            short_date=short_date(self.chosen.entry.changed),
        )
        hands.care_commands.variant(hands.place, entry, self.chosen.path, name, hands.then)

    def _on_use(self) -> None:
        hands, entry = self._hands, self._entry
        assert entry is not None
        hands.care_commands.use_version(hands.place, entry, self.chosen.path, hands.then)
