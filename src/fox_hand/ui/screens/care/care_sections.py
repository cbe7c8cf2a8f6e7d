"""The subjects of the Care screen, one function for each panel."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fox_hand.base.language import number_text, tr, tr_n
from fox_hand.core.pose.difference import Difference
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.head import read_head
from fox_hand.session.libraries.care_commands import old_ones
from fox_hand.session.libraries.care_report import (
    Clash,
    Lost,
    NearTwins,
    Report,
    Strange,
    TakenOut,
    Version,
)
from fox_hand.ui.cards.card_words import short_date, signed
from fox_hand.ui.cards.tiles import CarePanel, Measure, fill, row, words
from fox_hand.ui.screens.care.care_hands import CareHands
from fox_hand.ui.services.desktop import show_file
from fox_hand.ui.widgets.buttons import Button, Kind

ROWS = 6  # of a panel; what is beyond is counted
SHOWN = 8  # pictures beside each other


def clash_panel(hands: CareHands, report: Report) -> CarePanel:
    """Two people, one card."""
    if not report.clashes:
        panel = CarePanel(tr("Two people, one card"), tr("none"))
        panel.nothing(tr("Nobody has changed a card that somebody else was changing too."))
        return panel
    clash, more = report.clashes[0], len(report.clashes) - 1
    detail = tr("both changed it") + (tr("; {more} more after this one", more=more) if more else "")
    panel = CarePanel(clash.conflict.card.name, detail)
    line = QHBoxLayout()
    line.setSpacing(12)
    late = read_head(clash.conflict.path, "").entry
    if clash.entry is not None:
        line.addLayout(_version(hands, clash, clash.entry, late=False))
    line.addLayout(_version(hands, clash, late, late=True))
    line.addLayout(_difference(hands, clash), 1)
    panel.rows.addLayout(line)
    panel.rows.addStretch(1)
    return panel


def _version(hands: CareHands, clash: Clash, entry: Entry, *, late: bool) -> QVBoxLayout:
    who = entry.author or (tr("the other") if late else tr("in the sheet"))
    captions = (signed(entry) or who, entry.note or tr("no note"))
    tile = hands.tile(entry, (160, 160), captions, badge=who, listed=not late)
    take = Button(
        hands.theme, tr("Take {who}'s", who=who), tip=tr("The other becomes an earlier version")
    )
    act = hands.care_commands.take_late if late else hands.care_commands.take_early
    fill(take)
    take.setEnabled(clash.entry is not None)
    take.clicked.connect(lambda: act(hands.place, clash, hands.then))
    column = QVBoxLayout()
    column.setSpacing(8)
    column.addWidget(tile)
    column.addWidget(take)
    column.addStretch(1)
    return column


def _difference(hands: CareHands, clash: Clash) -> QVBoxLayout:
    column = QVBoxLayout()
    column.setSpacing(0)
    shown = clash.differences[:4]
    gone = clash.entry is None
    text = tr("The card in the sheet is gone.") if gone else ""
    if not gone:
        text = tr_n(
            "{number} of {held} controls differs",
            "{number} of {held} controls differ",
            len(clash.differences),
            held=clash.held,
        )
    column.addWidget(words(text, strong=True))
    most = max((d.size for d in shown), default=1.0) or 1.0
    for one in shown:
        column.addWidget(
            Measure(hands.theme, hands.label(one.control), one.size / most, amount(one))
        )
    column.addStretch(1)
    both = Button(
        hands.theme, tr("Keep both"), kind=Kind.MAIN, tip=tr("The late one gets its own name")
    )
    fill(both)
    both.clicked.connect(lambda: hands.care_commands.keep_both(hands.place, clash, hands.then))
    column.addWidget(both)
    return column


def amount(one: Difference) -> str:
    """The largest part of a difference, such as ``21°``."""
    if one.angle >= 0.05:
        return number_text(one.angle, ".0f" if one.angle >= 1 else ".1f") + "°"
    if one.distance >= 1e-4:
        return tr("{distance:.1f} cm", distance=one.distance * 100)
    if one.settings:
        before, after = next(iter(one.settings.values()))
        return number_text(after - before, "+.2f")
    return tr("scale")


def strange_panel(hands: CareHands, report: Report) -> CarePanel:
    """Files to look at."""
    count = len(report.strange)
    others = [*_trouble_rows(hands, report), *_orphan_rows(hands, report)]
    kept = tr("{count}, left exactly as they are", count=count) if count else ""
    detail = kept or (str(len(others)) if others else tr("none"))
    panel = CarePanel(tr("Files to look at"), detail)
    if not count and not others:
        panel.nothing(tr("Every file can be read."))
        return panel
    for strange in report.strange[:ROWS]:
        panel.rows.addLayout(_strange_row(hands, strange))
    _and_more(panel, count - ROWS)
    for other in others:
        panel.rows.addLayout(other)
    panel.rows.addStretch(1)
    if count:
        panel.rows.addWidget(words(tr("Nothing is ever written over them."), quiet=True))
    return panel


def _trouble_rows(hands: CareHands, report: Report) -> list[QHBoxLayout]:
    """Folders that cannot be listed, and rights that keep colleagues out."""
    found = []
    for trouble in report.troubles[:ROWS]:
        line = row(words(trouble.what), stretch=0)
        if trouble.mend:
            copy = Button(hands.theme, tr("Copy the command"), tip=trouble.mend)
            copy.clicked.connect(partial(QGuiApplication.clipboard().setText, trouble.mend))
            line.addWidget(copy)
        show = Button(hands.theme, tr("Show the folder"))
        show.clicked.connect(partial(show_file, trouble.path))
        line.addWidget(show)
        found.append(line)
    return found


def _orphan_rows(hands: CareHands, report: Report) -> list[QHBoxLayout]:
    """What belongs to no card: leftovers of writes, and versions of cards that are gone."""
    found = []
    if report.leftovers:
        said = tr(
            "{counted} of writes that were cut off",
            counted=tr_n("{number:,} leftover", "{number:,} leftovers", len(report.leftovers)),
        )
        button = Button(
            hands.theme, tr("Remove"), tip=tr("They never were cards; what is there is whole")
        )
        button.clicked.connect(
            lambda: hands.care_commands.remove_leftovers(hands.place, report.leftovers, hands.then)
        )
        found.append(row(words(said), button, stretch=0))
    for version in report.gone[:ROWS]:
        tile = hands.tile(version.entry, (44, 44), listed=False)
        said = tr(
            "{name} is gone from all sheets; an earlier version is here.", name=version.entry.name
        )
        button = Button(hands.theme, tr("Bring back"), tip=tr("As a loose card"))
        button.clicked.connect(partial(_revive, hands, version))
        found.append(row(tile, words(said), button, stretch=1))
    return found


def _revive(hands: CareHands, version: Version) -> None:
    hands.care_commands.bring_back_version(hands.place, version, hands.then)


def _strange_row(hands: CareHands, strange: Strange) -> QHBoxLayout:
    entry, error = strange.entry, strange.entry.error
    tile = hands.tile(entry, (48, 48))
    text = QVBoxLayout()
    text.setSpacing(0)
    text.addWidget(words(entry.path.name, strong=True))
    text.addWidget(words(error.happened if error is not None else ""))
    if error is not None and error.todo:
        text.addWidget(words(error.todo, quiet=True))
    text.addStretch(1)
    doing = QVBoxLayout()
    doing.setSpacing(4)
    if strange.version is not None:
        day = short_date(read_head(strange.version, "").entry.changed)
        use = Button(
            hands.theme,
            tr("Use {day} copy", day=day),
            tip=tr("The damaged file goes into the keep"),
        )
        use.clicked.connect(lambda: hands.care_commands.use_copy(hands.place, strange, hands.then))
        fill(use)
        doing.addWidget(use)
    show = Button(hands.theme, tr("Show the file"))
    show.clicked.connect(partial(show_file, entry.path))
    aside = Button(hands.theme, tr("Put it aside"), tip=tr("Into the library's keep, as it is"))
    aside.clicked.connect(lambda: hands.care_commands.set_aside(hands.place, strange, hands.then))
    doing.addWidget(show)
    doing.addWidget(aside)
    doing.addStretch(1)
    for button in (show, aside):
        fill(button)
        button.setMinimumWidth(128)
    line = QHBoxLayout()
    line.setSpacing(12)
    line.addWidget(tile, 0, Qt.AlignmentFlag.AlignTop)
    line.addLayout(text, 1)
    line.addLayout(doing)
    return line


def pairs_panel(hands: CareHands, report: Report) -> CarePanel:
    """Near twins."""
    open_ones = [p for p in report.pairs if not p.kept]
    detail = tr_n("{number:,} pair", "{number:,} pairs", len(open_ones)) + tr(
        ", the same within 3 %"
    )
    panel = CarePanel(tr("Near twins"), detail if report.pairs else tr("none"))
    if not report.pairs:
        panel.nothing(tr("No two cards are nearly the same."))
        return panel
    for pair in report.pairs[:ROWS]:
        panel.rows.addLayout(_pair_row(hands, pair))
    _and_more(panel, len(report.pairs) - ROWS)
    panel.rows.addStretch(1)
    return panel


def _pair_row(hands: CareHands, pair: NearTwins) -> QHBoxLayout:
    tiles = [hands.tile(e, (44, 44)) for e in (pair.first, pair.second)]
    text = QVBoxLayout()
    text.setSpacing(0)
    text.addWidget(words(f"{pair.first.name}, {pair.second.name}", strong=True))
    notes = [e.note for e in (pair.first, pair.second) if e.note]
    said = (
        tr("kept on purpose")
        if pair.kept
        else notes[0]
        if notes
        else tr("no note tells them apart")
    )
    if pair.double:
        said = tr(
            "one card in two files, also in {sheet}", sheet=pair.second.sheet or tr("no sheet")
        )
    text.addWidget(words(said, quiet=True))
    share = words(f"{pair.share * 100:.0f} %", strong=True)
    share.setFixedWidth(40)
    keep = Button(
        hands.theme,
        tr("Ask again") if pair.kept else tr("On purpose"),
        tip=tr("Both are meant to be there") if not pair.kept else tr("Call them twins again"),
    )
    if pair.double:
        keep.setText(tr("Two cards"))
        keep.setToolTip(tr("The second file becomes a card of its own"))
        keep.clicked.connect(
            lambda: hands.care_commands.make_own(hands.place, pair.second, hands.then)
        )
    else:
        keep.clicked.connect(lambda: hands.care_commands.keep_twins(hands.place, pair, hands.then))
    compare = Button(hands.theme, tr("Compare"), tip=tr("Side by side, with what differs"))
    compare.clicked.connect(lambda: hands.compare(pair.first, pair.second))
    show = Button(hands.theme, tr("Show"), tip=tr("Tick both in the sheets"))
    show.clicked.connect(lambda: hands.show((pair.first, pair.second)))
    line = row(*tiles)
    line.insertLayout(2, text, 1)
    line.takeAt(line.count() - 1)
    for widget in (share, compare, show, keep):
        line.addWidget(widget)
    line.setSpacing(8)
    return line


def lost_panel(hands: CareHands, report: Report) -> CarePanel:
    """Cards no known rig can wear."""
    total = sum(len(one.entries) for one in report.lost)
    detail = tr_n("{number:,} card", "{number:,} cards", total) if total else tr("none")
    panel = CarePanel(tr("No rig for these"), detail)
    if not total:
        panel.nothing(tr("All cards fit the characters on the stage."))
        return panel
    for one in report.lost[:ROWS]:
        panel.rows.addLayout(_lost_row(hands, one))
    _and_more(panel, len(report.lost) - ROWS)
    panel.rows.addStretch(1)
    return panel


def _lost_row(hands: CareHands, lost: Lost) -> QHBoxLayout:
    tile = hands.tile(lost.entries[0], (44, 44))
    text = QVBoxLayout()
    text.setSpacing(0)
    name = lost.character or tr("no character named")
    text.addWidget(
        words(
            ", ".join((name, tr_n("{number:,} card", "{number:,} cards", len(lost.entries)))),
            strong=True,
        )
    )
    text.addWidget(
        words(tr("nobody here has {names}", names=", ".join(lost.missing[:2])), quiet=True)
    )
    show = Button(hands.theme, tr("Show"), tip=tr("Tick them in the sheets"))
    show.clicked.connect(lambda: hands.show(lost.entries))
    find = Button(hands.theme, tr("Bring in …"), tip=tr("Open the character they were made for"))
    find.clicked.connect(lambda _=False: hands.find_rig())
    line = QHBoxLayout()
    line.setSpacing(8)
    line.addWidget(tile)
    line.addLayout(text, 1)
    line.addWidget(show)
    line.addWidget(find)
    return line


def taken_panel(hands: CareHands, report: Report) -> CarePanel:
    """What was taken out."""
    library = hands.place.library
    days = library.file.keep_days if library is not None else 60
    count = len(report.taken_out)
    kept = tr_n("kept {number} day", "kept {number} days", days)
    taken = tr_n("{number:,} card", "{number:,} cards", count)
    detail = (
        tr(
            "{counted}, {kept}",
            counted=taken,
            kept=kept,
        )
        if count
        else kept
    )
    panel = CarePanel(tr("Taken out"), detail)
    if not count:
        panel.nothing(tr("Nothing was taken out."))
        return panel
    choice = _Choice(hands, report.taken_out)
    panel.rows.addWidget(choice)
    panel.rows.addStretch(1)
    return panel


class _Choice(QWidget):
    """Cards of the keep, one chosen, and the button that brings it back."""

    def __init__(self, hands: CareHands, taken: tuple[TakenOut, ...]) -> None:
        super().__init__()
        self._hands, self._taken = hands, taken
        self._at = 0
        self._tiles = []
        pictures = QHBoxLayout()
        pictures.setSpacing(8)
        for i, one in enumerate(taken[:4]):
            captions = (one.entry.name, short_date(one.day))
            tile = hands.tile(one.entry, (68, 68), captions, choosable=True, listed=False)
            tile.clicked.connect(partial(self.choose, i))
            self._tiles.append(tile)
            pictures.addWidget(tile)
        pictures.addStretch(1)
        more = len(taken) - len(self._tiles)
        self._old = old_ones(hands.place, taken)
        days = tr_n(
            "{number:,} day",
            "{number:,} days",
            hands.place.library.file.keep_days if hands.place.library else 0,
        )
        there = tr(
            "For good: {counted} taken out more than {days} ago",
            counted=tr_n("{number:,} card", "{number:,} cards", len(self._old)),
            days=days,
        )
        self.old = Button(
            hands.theme,
            tr("Delete the old ones"),
            tip=there if self._old else tr("None was taken out more than {days} ago", days=days),
        )
        self.old.setEnabled(bool(self._old))
        self.old.clicked.connect(self._forget_old)
        self.back = Button(hands.theme, "")
        self.back.clicked.connect(self._bring_back)
        line = QHBoxLayout()
        line.setSpacing(8)
        line.addWidget(words(tr("and {more} more", more=more) if more > 0 else "", quiet=True), 1)
        line.addWidget(self.old)
        line.addWidget(self.back)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addLayout(pictures)
        column.addLayout(line)
        self.choose(0)

    def choose(self, at: int) -> None:
        self._at = at
        for i, tile in enumerate(self._tiles):
            tile.set_chosen(i == at)
        self.back.setText(tr("Bring back {name}", name=self._taken[at].entry.name))
        self.back.setAccessibleName(self.back.text())
        self.back.updateGeometry()

    def _bring_back(self) -> None:
        hands = self._hands
        hands.care_commands.bring_back(hands.place, self._taken[self._at], hands.then)

    def _forget_old(self) -> None:
        """There is no way back, so it is asked once more, in the same place."""
        hands, word = self._hands, tr("Delete {count} for good?", count=len(self._old))
        if self.old.text() == word:
            hands.care_commands.forget(hands.place, self._old, hands.then)
            return
        self.old.tint = ("warning", "warning_ground")
        self.old.setText(word)
        self.old.updateGeometry()


def _and_more(panel: CarePanel, more: int) -> None:
    if more > 0:
        panel.rows.addWidget(words(tr("and {more} more", more=more), quiet=True))
