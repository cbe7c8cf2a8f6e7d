"""The right column: title, filters, the contact sheet, facts of one card."""

from __future__ import annotations

from dataclasses import replace
from enum import StrEnum
from pathlib import Path
from typing import TypeVar

import numpy as np
from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QSplitter, QStackedWidget, QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.library.format.entry import Entry
from fox_hand.library.index.catalogue import Grouping, Sort, lies_in
from fox_hand.library.index.facets import Facet
from fox_hand.library.index.picture_cache import PictureCache
from fox_hand.library.index.query import pieces_of, with_filter
from fox_hand.session.app.needs import Charting
from fox_hand.session.charts.chart_order import in_order_of_charts
from fox_hand.session.libraries.kept_searches import Kept
from fox_hand.session.libraries.open_library import BITS, OpenLibrary
from fox_hand.session.libraries.request import Request, Result, Shown
from fox_hand.ui.apply.hotbar import Hotbar
from fox_hand.ui.browser.moving_card import MovingCard
from fox_hand.ui.browser.outline_side import OutlineSide
from fox_hand.ui.browser.sheets_bar import Chips, TickedBar
from fox_hand.ui.browser.sheets_drop import SheetsDrop
from fox_hand.ui.browser.sheets_head import PARTS, PartsRow, SheetsHead
from fox_hand.ui.browser.sheets_input import SheetsInput
from fox_hand.ui.browser.sheets_view import SheetsView
from fox_hand.ui.browser.sheets_words import libraries_word, said_waiting, why_empty
from fox_hand.ui.cards.card_facts import Facts
from fox_hand.ui.outline.facets_view import FacetsView
from fox_hand.ui.outline.outline_list import same_search
from fox_hand.ui.outline.outline_panel import OutlinePanel
from fox_hand.ui.outline.outline_rows import Spot
from fox_hand.ui.outline.path_row import PathRow
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.deferred_update import once_after

Choice = TypeVar("Choice", bound=StrEnum)
ALIKE = "alike"  # the chip of cards like a pose
AT_ONCE = 5000  # with more cards, searching goes beside the window
TYPING = 40  # milliseconds between a key and the search
LOOKED = 2000  # milliseconds a sheet is in sight until what is new in it has been seen


class SheetsPanel(QWidget):
    """Everything about the libraries that is always in sight."""

    put_on = Signal(object)
    capture = Signal()
    typed = Signal(str)
    menu_asked = Signal(object, QPoint)
    failed = Signal(object)  # Exception
    search_written = Signal(str)  # what the search field should say

    def __init__(self, theme: Theme, workspace: Charting) -> None:
        super().__init__()
        self._theme, self._workspace = theme, workspace
        self.request = Request(
            sort=_known(Sort, workspace.settings.card_sort, Sort.NAME),
            group=_known(Grouping, workspace.settings.card_group, Grouping.SHEET),
        )
        self.part = "all"
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
        self.outline = OutlinePanel(theme, workspace, cache)
        self._build()
        self._connect()
        self.refresh()

    # -- building -------------------------------------------------------------------------

    def _build(self) -> None:
        theme, settings = self._theme, self._workspace.settings
        self.head = SheetsHead(theme, settings.card_size)
        self.path = PathRow(theme)
        self.parts = PartsRow(theme)
        self.facets = FacetsView(theme)
        self.facets.set_folded(not settings.facets)
        self.chips = Chips(theme)
        self.said = Words("")
        self.said.setProperty("quiet", True)
        self.said.setWordWrap(True)
        self.said.setContentsMargins(12, 0, 12, 4)
        self.said.hide()
        self.foot = QStackedWidget()
        self.foot.addWidget(self.facts)
        self.foot.addWidget(self.ticked)
        self.foot.setFixedHeight(self.facts.height())
        self._beside = QSplitter(Qt.Orientation.Horizontal)
        self._beside.setHandleWidth(1)
        self._beside.setChildrenCollapsible(False)
        self._beside.addWidget(self._cards())
        self.side = OutlineSide(self.outline, self._beside, settings)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.head)
        column.addWidget(self._beside, 1)
        self._show_facets_open()
        self.view.card_size = settings.card_size
        self.view.labels = settings.card_labels
        self.view.closed = set(settings.closed_sections)
        self.drop.by_hand = self.request.sort is Sort.HAND

    def _cards(self) -> QWidget:
        cards = QWidget()
        column = QVBoxLayout(cards)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self._where = QStackedWidget()
        self._where.addWidget(self.parts)
        self._where.addWidget(self.path)
        self._where.setFixedHeight(self.parts.height())
        over = (self._where, self.facets, self.chips, self.hand, self.said)
        for part in over:
            column.addWidget(part)
        column.addWidget(self.view, 1)
        column.addWidget(self.foot)
        return cards

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.side.arrange()

    def _connect(self) -> None:
        view, workspace = self.view, self._workspace
        self._typing = once_after(self, TYPING, self.refresh)
        self._looking = once_after(self, LOOKED, self._looked)
        view.verticalScrollBar().valueChanged.connect(self._looking.start)
        self.head.capture.connect(self.capture)
        self.head.resized.connect(self._resize_cards)
        self.head.outline_asked.connect(self.side.set_shown)
        self.side.changed.connect(self._on_side)
        self.parts.chosen.connect(self.filter)
        for button in (self.parts.facets_button, self.path.facets_button):
            button.clicked.connect(self.open_facets)
        self.facets.switched.connect(self._switch_facet)
        self.chips.taken_off.connect(self.show_alike_no_more)
        for asking in (self.path, self.outline.list):
            asking.narrow_asked.connect(self.narrow)
        for asking_all in (self.path, self.outline):
            asking_all.widen_asked.connect(self.widen)
        self.outline.list.search_asked.connect(self._show_search)
        self.input.put_on.connect(self.put_on)
        self.input.zoomed.connect(self.head.slider.zoom)
        self.input.typed.connect(self.typed)
        self.input.menu_asked.connect(self.menu_asked)
        view.pointed_at.connect(self._show_facts)
        view.folded.connect(self._remember_folds)
        view.choice.ticked_changed.connect(self._on_ticked)
        self.facts.menu_asked.connect(self.menu_asked)
        self.facts.favourite.connect(self._star)
        self.ticked.clear.connect(lambda: view.choice.set_ticked(()))
        workspace.open_libraries.changed.connect(self.refresh)
        workspace.charts.changed.connect(self._on_charts)
        workspace.open_libraries.reading.connect(self._on_reading)
        workspace.actor_changed.connect(self._on_actor)
        workspace.mix_changed.connect(self._on_mix)

    # -- what is shown --------------------------------------------------------------------

    def filter(self, part: str) -> None:
        """Narrow the cards to a part of the body."""
        self.part, self._alike = part, None
        self.parts.show_part(part)
        self.refresh()

    def search(self, text: str) -> None:
        """Narrow the cards to those that match what is typed."""
        self._alike = None
        self.request = replace(self.request, text=text)
        self._typing.start()

    def narrow(self, spot: Spot, adds: bool) -> None:
        """Only a sheet and what lies in it; the second time all again.

        Args:
            spot: the sheet.
            adds: whether it comes to those that are shown, or goes from them.
        """
        within = self.request.within
        if adds:
            wanted = tuple(s for s in within if s != spot) if spot in within else (*within, spot)
        else:
            wanted = () if within == (spot,) else (spot,)
        self.request = replace(self.request, within=wanted)
        self._alike = None
        self.refresh()
        self.view.verticalScrollBar().setValue(0)

    def widen(self) -> None:
        """All sheets again."""
        self.request = replace(self.request, within=())
        self.refresh()

    def open_facets(self, on: bool) -> None:
        """Show the facets, or only what is chosen there."""
        self._workspace.settings.facets = on
        self._show_facets_open()
        self.refresh()

    def _show_facets_open(self) -> None:
        on = self._workspace.settings.facets
        self.facets.set_folded(not on)
        for button in (self.parts.facets_button, self.path.facets_button):
            button.setChecked(on)

    def _switch_facet(self, key: str, values: tuple[str, ...]) -> None:
        self.search_written.emit(with_filter(self.request.text, key, values))

    def _show_search(self, kept: Kept) -> None:
        """What a kept search finds, everywhere; the second time all again."""
        shown = same_search(kept, self.request.text)
        self.request = replace(self.request, within=(), only=None)
        self.search_written.emit("" if shown else kept.text)
        self.filter("all")

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
            self.search_written.emit("")
            self.show_all()
        else:  # its sheet is folded
            self._wanted = None
            self.view.unfold(entry)
            self.view.reveal(entry)

    @property
    def _narrowed(self) -> bool:
        """Whether some cards are not asked for."""
        filters = self.part != "all" or self._alike is not None or bool(self.request.within)
        return filters or bool(self.request.text) or self.request.only is not None

    def show_all(self) -> None:
        """No filter at all."""
        self._alike = None
        self.request = replace(self.request, text="", only=None, within=())
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
        self._leave_what_is_gone()
        self._show_where()
        if self._alike is not None:
            self._show_alike(*self._alike)
            return
        number, settings = self._asked, self._workspace.settings
        request = replace(self.request, query=PARTS[self.part][1])
        rig = self._workspace.actor.rig if self._workspace.actor is not None else None
        faceted = settings.facets or any(piece.key for piece in pieces_of(request.text))
        self.chips.show_chips({})
        self.view.marks.author = settings.author

        def find() -> tuple[Result, tuple[Facet, ...]]:
            result = open_libraries.find(request, rig)
            looking = open_libraries.search_in()
            return result, looking.facets(request, rig) if faceted else ()

        if sum(map(len, open_libraries.places)) < AT_ONCE:
            self._show_found(number, find())
            return
        open_libraries.jobs.run(
            lambda _: find(), lambda found: self._show_found(number, found), self.failed.emit
        )

    def _show_found(self, number: int, found: tuple[Result, tuple[Facet, ...]]) -> None:
        if number == self._asked:
            self.facets.show_facets(found[1])
        self._show(number, found[0])

    def _leave_what_is_gone(self) -> None:
        """A sheet that is not there any more cannot be what the cards are narrowed to."""
        open_libraries = self._workspace.open_libraries
        kept = []
        for number, sheet in self.request.within:
            place = open_libraries.place(number)
            if place is None:
                continue
            still_read = place.reading is None or place.partial or not place.reading.scanned
            if still_read or not sheet or any(lies_in(one, sheet) for one in place.sheets):
                kept.append((number, sheet))
        self.request = replace(self.request, within=tuple(kept))

    def _show_where(self) -> None:
        """What the cards are narrowed to, in the outline and over the cards."""
        open_libraries, request = self._workspace.open_libraries, self.request
        places = [
            (place, sheet)
            for number, sheet in request.within
            if (place := open_libraries.place(number)) is not None
        ]
        several = len(open_libraries.places) > 1
        self._name_libraries()
        self.path.show_path(places, several=several)
        self._where.setCurrentWidget(self.path if places else self.parts)
        self.outline.show_state(request.within, request.text)
        self.side.show_count(sum(len(place.sheets) for place in open_libraries.places))

    def _on_side(self) -> None:
        self.head.show_outline(self.side.shown)
        self.view.indexed = self.side.indexed
        self.view.relayout()

    def _looked(self) -> None:
        """What is new in the sheets in sight has been seen."""
        if not self.isVisible():
            return
        open_libraries, author = self._workspace.open_libraries, self._workspace.settings.author
        trees = [open_libraries.tree_of(place, author) for place in open_libraries.places]
        if not any(root.new for root in trees):
            return
        for shown in self.view.sections_in_sight():
            if shown.sheet is not None:
                shown.place.see([shown.sheet])
        self.outline.show_state(self.request.within, self.request.text)

    def show_alike(self, name: str, found: list[tuple[int, float]]) -> None:
        """Only cards like a pose, the nearest first, until that is taken off."""
        self._alike = name, found
        self.refresh()

    def show_alike_no_more(self) -> None:
        """All cards again."""
        self._alike = None
        self.refresh()

    def _show_alike(self, name: str, found: list[tuple[int, float]]) -> None:
        open_libraries = self._workspace.open_libraries
        places = {place.number: place for place in open_libraries.places}
        keys = [key for key, _ in found if key >> BITS in places]
        self.chips.show_chips({ALIKE: tr("Like {name}", name=name)})
        if keys:
            first = places[keys[0] >> BITS]
            section = Shown(
                first, ALIKE, tr("Like {name}", name=name), np.array(keys, dtype=np.int64)
            )
            best = round(found[0][1] * 100)
            note = tr("The nearest first, {best} % the same at most.", best=best)
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
        looked_in = [p for p in places if self.request.only in (None, p.number)]
        self.view.empty_text = why_empty(looked_in, self.request, part=self.part != "all")
        note = " ".join(
            part for part in (result.note, said_waiting(places), *self._far.values()) if part
        )
        self.said.setText(note)
        self.said.setVisible(bool(note))
        sections = result.sections
        if self.request.sort is Sort.NAME:
            whole = not self.request.text and self.part == "all"
            sections = in_order_of_charts(sections, self._workspace.charts, gaps=whole)
        self.view.show_sections(sections)
        self._show_count(result)
        self._looking.start()
        self._reveal_wanted()
        self.hand.refresh()
        if self.facts.entry is not None and not self._still_there(self.facts.entry):
            self.facts.show_entry(None)

    def _show_count(self, result: Result) -> None:
        open_libraries = self._workspace.open_libraries
        whole = 0
        for number, sheet in self.request.within:
            place = open_libraries.place(number)
            if place is not None:
                whole += place.count_in(sheet)
        self.path.show_count(result.count, max(whole, result.count))

    def _on_reading(self, place: OpenLibrary, fraction: float) -> None:
        """Say how far a large library is; small ones are there before anybody could read it."""
        if fraction >= 1.0:
            self._far.pop(place.number, None)
            self.refresh()
        elif fraction > 0.0:
            self._far[place.number] = tr(
                "Reading {name}, {fraction:.0f} %", name=place.name, fraction=fraction * 100
            )
            self.said.setText(self._far[place.number])
            self.said.setVisible(True)

    def _still_there(self, entry: Entry) -> bool:
        return any(
            entry.path.is_relative_to(p.folder) for p in self._workspace.open_libraries.places
        )

    def _name_libraries(self) -> None:
        open_libraries, only = self._workspace.open_libraries, self.request.only
        one = open_libraries.place(only) if only is not None else None
        self.head.name_libraries(libraries_word(open_libraries.places, one))

    # -- following ------------------------------------------------------------------------

    def _on_charts(self) -> None:
        if any(s.sheet is not None and s.place.chart(s.sheet) for s in self.view.shown):
            self.refresh()

    def _on_actor(self) -> None:
        self.view.set_rig(self._workspace.actor.rig if self._workspace.actor is not None else None)
        if self._workspace.settings.facets or "fits:" in self.request.text:
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
