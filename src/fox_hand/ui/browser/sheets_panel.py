"""The right column: title, filters, the contact sheet, facts of one card."""

from __future__ import annotations

from dataclasses import replace
from enum import StrEnum
from pathlib import Path
from typing import TypeVar

import numpy as np
from PySide6.QtCore import QPoint, Qt, QTimer, Signal
from PySide6.QtGui import QFontMetrics, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from fox_hand.core.model.controls import Region
from fox_hand.library.format.entry import Entry
from fox_hand.library.index.catalogue import Grouping, Sort
from fox_hand.library.index.picture_cache import PictureCache
from fox_hand.library.index.query import BODY, FACE, FitFilter, Query
from fox_hand.session.app.needs import Shelving
from fox_hand.session.libraries.open_library import BITS, OpenLibrary
from fox_hand.session.libraries.request import Request, Result, Shown
from fox_hand.ui.apply.hotbar import Hotbar
from fox_hand.ui.browser.moving_card import MovingCard
from fox_hand.ui.browser.sheets_bar import Chips, SizeSlider, TickedBar
from fox_hand.ui.browser.sheets_drop import SheetsDrop
from fox_hand.ui.browser.sheets_input import SheetsInput
from fox_hand.ui.browser.sheets_view import SheetsView
from fox_hand.ui.cards.card_facts import Facts
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind

HANDS = frozenset({Region.HANDS})
PARTS = {
    "all": ("All", Query()),
    "body": ("Body", Query(regions=BODY)),
    "face": ("Face", Query(regions=FACE)),
    "left": ("L hand", Query(regions=HANDS, sides=frozenset({"left", "both"}))),
    "right": ("R hand", Query(regions=HANDS, sides=frozenset({"right", "both"}))),
    "clips": ("Clips", Query(kind="clip")),
}
MORE = {
    "fits": ("Fits this character", Query(fits=FitFilter.SOME)),
    "favourites": ("Favourites", Query(favourites=True)),
    "approved": ("Approved", Query(locked=True)),
    "week": ("Changed this week", Query(days=7)),
}
Choice = TypeVar("Choice", bound=StrEnum)
ALIKE = "alike"  # the chip of cards like a pose
AT_ONCE = 5000  # with more cards, searching goes beside the window
TYPING = 40  # milliseconds between a key and the search


class SheetsPanel(QWidget):
    """Everything about the libraries that is always in sight."""

    put_on = Signal(object)
    capture = Signal()
    typed = Signal(str)
    menu_asked = Signal(object, QPoint)
    library_menu_asked = Signal(QPoint)
    order_menu_asked = Signal(QPoint)
    filter_menu_asked = Signal(QPoint)
    failed = Signal(object)  # Exception
    search_taken_off = Signal()

    def __init__(self, theme: Theme, workspace: Shelving) -> None:
        super().__init__()
        self._theme, self._workspace = theme, workspace
        self.request = Request(
            sort=_known(Sort, workspace.settings.card_sort, Sort.NAME),
            group=_known(Grouping, workspace.settings.card_group, Grouping.SHEET),
        )
        self.part, self.more = "all", list[str]()
        self._asked = 0
        self._wanted: Path | None = None  # a card that comes into sight when it is known
        self._alike: tuple[str, list[tuple[int, float]]] | None = None
        self._far: dict[int, str] = {}  # libraries that are being read, and how far
        self.setProperty("panel", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        cache = PictureCache(workspace.places.cache / "pictures")
        self.view = SheetsView(theme, workspace.open_libraries, cache)
        self.input = SheetsInput(self.view, theme)
        self.drop = SheetsDrop(self.view, self.input, theme)
        self.moving = MovingCard(self.view, workspace.open_libraries.jobs)
        self.facts = Facts(theme, workspace.open_libraries, cache)
        self.hand = Hotbar(theme, workspace.open_libraries.jobs, cache)
        self.ticked = TickedBar(theme)
        self._build()
        self._connect()
        self.refresh()

    # -- building -------------------------------------------------------------------------

    def _build(self) -> None:
        self.foot = QStackedWidget()
        self.foot.addWidget(self.facts)
        self.foot.addWidget(self.ticked)
        self.foot.setFixedHeight(self.facts.height())
        self.chips = Chips(self._theme)
        self.said = Words("")
        self.said.setProperty("quiet", True)
        self.said.setWordWrap(True)
        self.said.setContentsMargins(12, 0, 12, 4)
        self.said.hide()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        for part in (self._title_row(), self._filter_row(), self.chips, self.hand, self.said):
            column.addWidget(part)
        column.addWidget(self.view, 1)
        column.addWidget(self.foot)
        settings = self._workspace.settings
        self.view.card_size = settings.card_size
        self.view.labels = settings.card_labels
        self.view.closed = set(settings.closed_sections)
        self.drop.by_hand = self.request.sort is Sort.HAND

    def _title_row(self) -> QWidget:
        row = QWidget()
        row.setFixedHeight(36)
        line = QHBoxLayout(row)
        line.setContentsMargins(4, 0, 8, 0)
        line.setSpacing(4)
        self.library_button = Button(
            self._theme, "", kind=Kind.FLAT, menu=True, height=24, tip="Libraries"
        )
        self.library_button.clicked.connect(
            lambda: self.library_menu_asked.emit(_below(self.library_button))
        )
        self._size = SizeSlider(self._theme, self._workspace.settings.card_size)
        self._size.valueChanged.connect(self._resize_cards)
        self.order_button = Button(
            self._theme,
            icon="arrow-up-down",
            kind=Kind.FLAT,
            height=28,
            tip="Order, groups and names",
        )
        self.order_button.clicked.connect(
            lambda: self.order_menu_asked.emit(_below(self.order_button))
        )
        self.capture_button = Button(
            self._theme, "Capture", icon="camera", tip="Keep what is selected as a card"
        )
        self.capture_button.clicked.connect(self.capture)
        line.addWidget(self.library_button)
        line.addStretch(1)
        line.addWidget(self._size)
        line.addWidget(self.order_button)
        line.addWidget(self.capture_button)
        return row

    def resizeEvent(self, event: QResizeEvent) -> None:
        """A narrow column leaves out what can be found elsewhere."""
        super().resizeEvent(event)
        wide = self.width() >= 320
        self._size.setVisible(wide)
        self.filter_button.setVisible(wide)
        for key in ("left", "right"):  # letters are enough where six words have no room
            word = PARTS[key][0]
            self._pills[key].setText(word if wide else word[0])
            self._pills[key].setAccessibleName(word)
            self._pills[key].updateGeometry()
        self._name_libraries()

    def _filter_row(self) -> QWidget:
        row = QWidget()
        row.setFixedHeight(32)
        line = QHBoxLayout(row)
        line.setContentsMargins(8, 0, 8, 0)
        line.setSpacing(0)
        self._pills: dict[str, Button] = {}
        for key, (word, _) in PARTS.items():
            pill = Button(self._theme, word, kind=Kind.PILL, height=24, tip=f"Show {word}")
            pill.clicked.connect(lambda _=False, k=key: self.filter(k))
            self._pills[key] = pill
            line.addWidget(pill)
        self._pills["all"].setChecked(True)
        line.addStretch(1)
        self.filter_button = Button(
            self._theme, icon="list-filter", kind=Kind.FLAT, height=24, tip="Show only …"
        )
        self.filter_button.clicked.connect(
            lambda: self.filter_menu_asked.emit(_below(self.filter_button))
        )
        line.addWidget(self.filter_button)
        return row

    def _connect(self) -> None:
        view, workspace = self.view, self._workspace
        self._typing = QTimer(self)
        self._typing.setSingleShot(True)
        self._typing.setInterval(TYPING)
        self._typing.timeout.connect(self.refresh)
        self.chips.taken_off.connect(self.switch)
        self.input.put_on.connect(self.put_on)
        self.input.typed.connect(self.typed)
        self.input.menu_asked.connect(self.menu_asked)
        view.pointed_at.connect(self._show_facts)
        view.folded.connect(self._remember_folds)
        view.choice.ticked_changed.connect(self._on_ticked)
        self.facts.menu_asked.connect(self.menu_asked)
        self.facts.favourite.connect(self._star)
        self.ticked.clear.connect(lambda: view.choice.set_ticked(()))
        workspace.open_libraries.changed.connect(self.refresh)
        workspace.open_libraries.reading.connect(self._on_reading)
        workspace.actor_changed.connect(self._on_actor)
        workspace.mix_changed.connect(self._on_mix)

    # -- what is shown --------------------------------------------------------------------

    def filter(self, part: str) -> None:
        """Narrow the cards to a part of the body."""
        self.part, self._alike = part, None
        for key, pill in self._pills.items():
            pill.setChecked(key == part)
        self.refresh()

    def switch(self, key: str) -> None:
        """Put another filter on, or take it off."""
        if key == ALIKE:
            self._alike = None
            self.refresh()
            return
        self.more = [k for k in self.more if k != key] if key in self.more else [*self.more, key]
        self.refresh()

    def search(self, text: str) -> None:
        """Narrow the cards to those that match what is typed."""
        self._alike = None
        self.request = replace(self.request, text=text)
        self._typing.start()

    def bring_into_sight(self, path: Path) -> None:
        """Show the card of a file as soon as its library knows it; filters and a search that hide
        it are taken off."""
        self._wanted = path
        self.refresh()  # what is in sight may be older than the card

    def _reveal_wanted(self) -> None:
        """To be asked when what is shown is as new as what is known."""
        open_libraries = self._workspace.open_libraries
        entry = open_libraries.entry_at(self._wanted) if self._wanted is not None else None
        if entry is None or not open_libraries.place_of(entry).lists(entry):
            return  # what is shown was found before it was there
        if self.view.reveal(entry):
            self._wanted = None
        elif self._narrowed:
            self.search_taken_off.emit()
            self.show_all()
        else:  # its sheet is folded
            self._wanted = None
            self.view.unfold(entry)
            self.view.reveal(entry)

    @property
    def _narrowed(self) -> bool:
        """Whether some cards are not asked for."""
        filters = self.part != "all" or bool(self.more) or self._alike is not None
        return filters or bool(self.request.text) or self.request.only is not None

    def show_all(self) -> None:
        """No filter at all."""
        self.more, self._alike = [], None
        self.request = replace(self.request, text="", only=None)
        self.filter("all")

    def set_order(self, sort: Sort | None = None, group: Grouping | None = None) -> None:
        """Put the cards another way, and remember it."""
        self.request = replace(
            self.request, sort=sort or self.request.sort, group=group or self.request.group
        )
        settings = self._workspace.settings
        settings.card_sort, settings.card_group = self.request.sort, self.request.group
        self.drop.by_hand = self.request.sort is Sort.HAND
        self.refresh()

    def set_library(self, number: int | None) -> None:
        """Show one library, or with None all of them."""
        self.request = replace(self.request, only=number)
        self.refresh()

    def refresh(self) -> None:
        """Show the cards as filtered: at once, or with many cards as soon as they are found."""
        self._typing.stop()
        open_libraries = self._workspace.open_libraries
        self._asked += 1
        if self._alike is not None:
            self._show_alike(*self._alike)
            return
        query = PARTS[self.part][1]
        for key in self.more:
            query = query.together(MORE[key][1])
        request = replace(self.request, query=query)
        rig = self._workspace.actor.rig if self._workspace.actor is not None else None
        self._name_libraries()
        self.chips.show_chips({key: MORE[key][0] for key in self.more})
        self.view.marks.author = self._workspace.settings.author
        if sum(map(len, open_libraries.places)) < AT_ONCE:
            self._show(self._asked, open_libraries.find(request, rig))
            return
        number = self._asked
        open_libraries.jobs.run(
            lambda _: open_libraries.find(request, rig),
            lambda result: self._show(number, result),
            self.failed.emit,
        )

    def show_alike(self, name: str, found: list[tuple[int, float]]) -> None:
        """Only cards like a pose, the nearest first, until that is taken off."""
        self._alike = name, found
        self.refresh()

    def _show_alike(self, name: str, found: list[tuple[int, float]]) -> None:
        open_libraries = self._workspace.open_libraries
        places = {place.number: place for place in open_libraries.places}
        keys = [key for key, _ in found if key >> BITS in places]
        self.chips.show_chips({ALIKE: f"Like {name}"})
        if keys:
            first = places[keys[0] >> BITS]
            section = Shown(first, ALIKE, f"Like {name}", np.array(keys, dtype=np.int64))
            best = round(found[0][1] * 100)
            note = f"The nearest first, {best} % the same at most."
            self._show(self._asked, Result((section,), note))
        else:
            self._show(self._asked, Result(()))

    def _show(self, number: int, result: Result) -> None:
        if number != self._asked:
            return  # more was typed meanwhile
        places = self._workspace.open_libraries.places
        self.view.loading = any(
            p.problem is None and (p.reading is None or (p.partial and not len(p))) for p in places
        )
        self.view.empty_text = self._empty_text()
        note = " ".join(
            part for part in (result.note, self._waiting(), *self._far.values()) if part
        )
        self.said.setText(note)
        self.said.setVisible(bool(note))
        self.view.show_sections(result.sections)
        self._reveal_wanted()
        self.hand.refresh()
        if self.facts.entry is not None and not self._still_there(self.facts.entry):
            self.facts.show_entry(None)

    def _waiting(self) -> str:
        """What has not reached its library yet."""
        said = []
        for place in self._workspace.open_libraries.places:
            if place.waiting == 1:
                said.append(f"1 card for {place.name} waits here until it can be written.")
            elif place.waiting:
                said.append(
                    f"{place.waiting} cards for {place.name} wait here until they can be written."
                )
        return " ".join(said)

    def _on_reading(self, place: OpenLibrary, fraction: float) -> None:
        """Say how far a large library is; small ones are there before anybody could read it."""
        if fraction >= 1.0:
            self._far.pop(place.number, None)
            self.refresh()
        elif fraction > 0.0:
            self._far[place.number] = f"Reading {place.name}, {fraction * 100:.0f} %"
            self.said.setText(self._far[place.number])
            self.said.setVisible(True)

    def _still_there(self, entry: Entry) -> bool:
        return any(
            entry.path.is_relative_to(p.folder) for p in self._workspace.open_libraries.places
        )

    def _empty_text(self) -> str:
        places = self._workspace.open_libraries.places
        if any(map(len, places)):
            return "No card matches. Clear the search, or choose All and take the filters off."
        if not places:
            return "No library is open. Make one, or add one that is there, in the menu above."
        problem = next((p.problem for p in places if p.problem is not None), None)
        if problem is not None:
            return problem.sentence()
        return "This library is still empty. Pose the figure, then press Capture to keep a card."

    def _name_libraries(self) -> None:
        places = self._workspace.open_libraries.places
        one = (
            self._workspace.open_libraries.place(self.request.only)
            if self.request.only is not None
            else None
        )
        if one is None and len(places) == 1:
            one = places[0]
        text = one.name if one is not None else f"{len(places)} libraries" if places else "None"
        metrics = QFontMetrics(self._theme.font(12, 500))
        room = self.width() - (232 if self.width() >= 320 else 176)
        short = metrics.elidedText(text, Qt.TextElideMode.ElideRight, max(room, 48))
        self.library_button.setText(short)
        self.library_button.setAccessibleName(f"Libraries: {text}")
        self.library_button.updateGeometry()

    # -- following ------------------------------------------------------------------------

    def _on_actor(self) -> None:
        self.view.set_rig(self._workspace.actor.rig if self._workspace.actor is not None else None)
        if "fits" in self.more or "fits:" in self.request.text:
            self.refresh()

    def _on_mix(self) -> None:
        mix = self._workspace.mix
        self.view.set_mix(mix)
        if mix is not None:
            mix.changed.connect(self.view.update_mixed)
            self.facts.show_entry(mix.entry)

    def _on_ticked(self) -> None:
        count = len(self.view.choice.ticked)
        self.ticked.show_count(count)
        self.foot.setCurrentWidget(self.ticked if count else self.facts)

    def _show_facts(self, entry: Entry | None) -> None:
        if entry is None and self._workspace.mix is not None:
            entry = self._workspace.mix.entry
        if entry is not None:
            self.facts.show_entry(entry)

    def _star(self, entry: Entry) -> None:
        self._workspace.card_commands.set_favourite([entry], self.facts.star.isChecked())

    def _resize_cards(self, size: int) -> None:
        self.view.card_size = self._workspace.settings.card_size = size
        self.view.relayout()

    def _remember_folds(self) -> None:
        self._workspace.settings.closed_sections = sorted(self.view.closed)


def _known(kind: type[Choice], value: str, otherwise: Choice) -> Choice:
    """What was remembered, unless another version wrote something this one does not know."""
    return next((one for one in kind if one.value == value), otherwise)


def _below(button: Button) -> QPoint:
    return button.mapToGlobal(button.rect().bottomLeft())
