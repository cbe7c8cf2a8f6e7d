"""The sheets as a picture: cards, headings, the thumb index, and what is marked among them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QRect, QRectF, QSize, Qt
from PySide6.QtGui import QImage, QPainter, QPen, QPixmap
from PySide6.QtWidgets import QWidget

from fox_hand.base.language import tr
from fox_hand.core.model.controls import Region
from fox_hand.core.rig.rig import Rig
from fox_hand.library.format.entry import Entry
from fox_hand.library.index.picture_cache import PictureCache
from fox_hand.session.applying.mix import Mix
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.ui.browser.card_choice import CardChoice
from fox_hand.ui.browser.sheet_layout import At, SheetLayout
from fox_hand.ui.browser.sheets_paint import (
    INDEX_WIDTH,
    index_tabs,
    paint_drop,
    paint_empty_cell,
    paint_headings,
    paint_index,
    tab_in_view,
)
from fox_hand.ui.cards.card_metrics import TAB
from fox_hand.ui.cards.card_painter import CardState, draw_card
from fox_hand.ui.cards.card_pictures import CardPictures
from fox_hand.ui.cards.card_stamps import MARGIN, CardStamps
from fox_hand.ui.theme.theme import Theme

AT_ONCE = 5000  # cards; with more, what is listed of them is asked for beside the window
AWAY = 0.42  # how strongly cards are painted whose library cannot be reached


@dataclass(eq=False)
class Marks:
    """What is marked for the moment.

    Args:
        pointed: the card under the pointer.
        mix: what is being put on.
        rig: whose fit the cards show.
        author: who is here; cards of others are new.
        marquee: a frame that is pulled, content pixels.
        drop: section and gap something dragged would lie in; gap -1 for the section as a whole.
        moving: frame of the clip under the pointer.
        focus: whether the keyboard is here.
    """

    pointed: At | None = None
    mix: Mix | None = None
    rig: Rig | None = None
    author: str = ""
    marquee: QRectF | None = None
    drop: At | None = None
    moving: QImage | None = None
    focus: bool = False


class SheetsPainter:
    """Paints what is visible of the sheets, and only that is read.

    Args:
        theme, shelf, cache: colours, cards, pictures.
        choice, marks: what is ticked, current and marked.
        canvas: what is painted on.
        come: asked for when something that was missing is there.
    """

    def __init__(
        self,
        theme: Theme,
        open_libraries: OpenLibraries,
        cache: PictureCache,
        choice: CardChoice,
        marks: Marks,
        canvas: QWidget,
        come: Callable[[], None],
    ) -> None:
        self._theme, self._open_libraries, self._choice, self._marks = (
            theme,
            open_libraries,
            choice,
            marks,
        )
        self._canvas, self._come = canvas, come
        self._pictures = CardPictures(open_libraries.jobs, cache, come)
        self._stamps = CardStamps(theme)
        self._index: tuple[object, QPixmap] | None = None
        self._fetching = False

    @property
    def _ratio(self) -> float:
        return self._canvas.devicePixelRatioF()

    def stamp_of(self, entry: Entry, size: int) -> QImage | None:
        """A card's picture if it is at hand, for the pointer."""
        return self._pictures.get(entry, round(size * self._ratio))

    def paint(self, painter: QPainter, layout: SheetLayout, offset: int, dirty: QRect) -> None:
        """Everything in sight.

        Args:
            painter: on the canvas.
            layout: where cards lie.
            offset: how far it is scrolled.
            dirty: what must be painted anew.
        """
        self._paint_cards(painter, layout, offset, dirty)
        self._paint_marks(painter, layout, offset)
        height = self._canvas.height()
        paint_headings(painter, self._theme, layout, offset, height)

    def paint_index(self, painter: QPainter, layout: SheetLayout, offset: int) -> None:
        """The thumb index from its own picture, which is drawn anew when it changes."""
        size, ratio = self._canvas.size(), self._ratio
        regions = self._regions(layout, size)
        there = tab_in_view(layout, offset, size)
        key = (layout, there, size, ratio, len(regions), self._theme.age)
        if self._index is None or self._index[0] != key:
            drawn = QPixmap(round(INDEX_WIDTH * ratio), round(size.height() * ratio))
            drawn.setDevicePixelRatio(ratio)
            drawn.fill(self._theme.colour("panel"))
            inside = QPainter(drawn)
            inside.setRenderHint(QPainter.RenderHint.Antialiasing)
            inside.translate(INDEX_WIDTH - size.width(), 0)
            paint_index(inside, self._theme, layout, offset, size, regions)
            inside.end()
            self._index = key, drawn
        painter.drawPixmap(size.width() - INDEX_WIDTH, 0, self._index[1])

    def _regions(self, layout: SheetLayout, size: QSize) -> dict[int, Region]:
        """Of the sections that have a tab, where their first card belongs."""
        first = {
            i: int(layout.sections[i].shown.keys[0])
            for i, _ in index_tabs(layout, size)
            if layout.sections[i].count
        }
        self._have_at_hand(list(first.values()))
        entries = {i: self._open_libraries.at_hand(key) for i, key in first.items()}
        return {i: entry.region for i, entry in entries.items() if entry is not None}

    # -- cards ----------------------------------------------------------------------------

    def _paint_cards(
        self, painter: QPainter, layout: SheetLayout, offset: int, dirty: QRect
    ) -> None:
        self._stamps.begin()
        seen = list(layout.visible(offset + dirty.top(), offset + dirty.bottom()))
        if dirty.height() >= self._canvas.height():
            self._pictures.forget_wanted()
            self._pictures.make_room(len(seen), round(layout.card * self._ratio))
            self._stamps.make_room(len(seen), (layout.card, layout.card_height), self._ratio)
        self._have_at_hand([k for k in map(layout.key, seen) if k is not None])
        for at in seen:
            rect = QRectF(QRect(*layout.card_rect(*at)).translated(0, -offset))
            key = layout.key(at)
            entry = self._open_libraries.at_hand(key) if key is not None else None
            if entry is None:
                self._paint_blank(painter, rect)
                continue
            away = layout.sections[at[0]].shown.place.problem is not None
            painter.setOpacity(AWAY if away else 1.0)
            self._paint_card(painter, layout, at, rect, entry)
        painter.setOpacity(1.0)
        self._paint_gaps(painter, layout, offset)

    def _paint_gaps(self, painter: QPainter, layout: SheetLayout, offset: int) -> None:
        """Places where cards are missing."""
        for number, section in enumerate(layout.sections):
            for one in section.shown.empty if not section.closed else ():
                rect = QRectF(QRect(*layout.cell_rect(number, one.cell)).translated(0, -offset))
                if rect.bottom() > 0 and rect.top() < self._canvas.height():
                    paint_empty_cell(
                        painter, self._theme, rect, one.name, self._ratio, labels=layout.labels
                    )

    def _have_at_hand(self, keys: list[int]) -> None:
        """Ask for what is listed of cards in sight: at once in small libraries; in large ones a
        disk may have to be waited for, and what is in sight then is blank for a moment."""
        missing = [k for k in keys if self._open_libraries.at_hand(k) is None]
        if not missing or self._fetching:
            return
        if sum(map(len, self._open_libraries.places)) < AT_ONCE:
            self._open_libraries.fetch(missing)
            return
        self._fetching = True
        self._open_libraries.fetch_later(missing, self._fetched)

    def _fetched(self) -> None:
        self._fetching = False
        self._come()

    def _paint_blank(self, painter: QPainter, rect: QRectF) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._theme.colour("raised"))
        painter.drawRoundedRect(rect.adjusted(0, TAB, 0, 0), 6, 6)

    def _paint_card(
        self, painter: QPainter, layout: SheetLayout, at: At, rect: QRectF, entry: Entry
    ) -> None:
        state, ratio = self._state(layout, at, entry), self._ratio
        image = self._pictures.get(entry, round(layout.card * ratio))
        moves = self._marks.moving is not None and at == self._marks.pointed
        if state.amount is not None or state.focus or moves:  # these change all the time
            shown = self._marks.moving if moves else image
            draw_card(painter, self._theme, rect, entry, shown, state, layout.labels)
            return
        size = layout.card, layout.card_height
        stamp = self._stamps.card(entry, image, state, size, layout.labels, ratio)
        if stamp is not None:
            painter.drawPixmap(rect.topLeft() - MARGIN, stamp)
        else:
            self._paint_blank(painter, rect)
            self._come()  # the others follow at once

    def _state(self, layout: SheetLayout, at: At, entry: Entry) -> CardState:
        marks, choice = self._marks, self._choice
        place = layout.sections[at[0]].shown.place
        lands, asked = (0, 0)
        if marks.rig and entry.shape:
            lands, asked = place.lands(entry.shape, marks.rig, entry.character)
        return CardState(
            pointed=at == marks.pointed,
            focus=at == choice.current and marks.focus,
            amount=marks.mix.weight_of(entry) if marks.mix is not None else None,
            lands=lands,
            asked=asked,
            new=self._open_libraries.is_new(entry, place, marks.author),
            favourite=self._open_libraries.personal.favourite(entry.identity),
            ticked=layout.key(at) in choice.ticked,
            ticking=bool(choice.ticked),
        )

    def _paint_marks(self, painter: QPainter, layout: SheetLayout, offset: int) -> None:
        """The marquee, and where something that is dragged would lie."""
        marks = self._marks
        painter.save()
        painter.translate(0, -offset)
        if marks.drop is not None and marks.drop[0] < len(layout.sections):
            paint_drop(painter, self._theme, layout, marks.drop)
        if marks.marquee is not None:
            painter.setPen(QPen(self._theme.colour("text"), 1))
            painter.setBrush(self._theme.colour("text", 0.08))
            painter.drawRect(marks.marquee.normalized())
        painter.restore()


def card_tip(open_libraries: OpenLibraries, entry: Entry, rig: Rig | None, author: str) -> str:
    """What is said of a card under a pointer that rests there.

    Args:
        shelf: where it lies.
        entry: the card.
        rig: of who acts.
        author: who is here.
    """
    if entry.error is not None:
        return entry.error.sentence()
    place = open_libraries.place_of(entry)
    said = []
    if place.problem is not None:
        said.append(place.problem.sentence())
    if rig is not None and entry.shape:
        missing = place.missing(entry.shape, rig, entry.character)
        if missing:
            said.append(tr("Not on this character: {names}", names=", ".join(missing[:6])))
    if open_libraries.is_new(entry, place, author):
        said.append(
            tr(
                "New since you were last here, by {changed_by}",
                changed_by=entry.changed_by or tr("nobody named"),
            )
        )
    if entry.locked:
        said.append(
            tr("Approved by {approved_by}", approved_by=entry.approved_by or tr("somebody"))
        )
    return "\n".join(said)
