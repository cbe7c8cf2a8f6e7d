"""The libraries as one scrollable contact sheet. Only what is visible is read and painted."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from PySide6.QtCore import QEvent, QPoint, QPointF, QRect, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import (
    QFocusEvent,
    QHelpEvent,
    QImage,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QResizeEvent,
)
from PySide6.QtWidgets import QAbstractScrollArea, QToolTip

from fox_hand.core.model.controls import Region
from fox_hand.core.rig.rig import Rig
from fox_hand.library.format.entry import Entry
from fox_hand.library.index.picture_cache import PictureCache
from fox_hand.session.applying.mix import Mix
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.session.libraries.request import Shown
from fox_hand.ui.browser.sheet_layout import At, SheetLayout, lay_out_sheets
from fox_hand.ui.browser.sheets_paint import (
    INDEX_WIDTH,
    index_tabs,
    paint_drop,
    paint_empty,
    paint_headings,
    paint_index,
    paint_skeletons,
    tab_in_view,
)
from fox_hand.ui.cards.card_metrics import TAB
from fox_hand.ui.cards.card_painter import CardState, draw_card
from fox_hand.ui.cards.card_pictures import CardPictures
from fox_hand.ui.cards.card_stamps import MARGIN, CardStamps
from fox_hand.ui.theme.plain_text import plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.event_filter import EventFilter

AT_ONCE = 5000  # cards; with more, what is listed of them is asked for beside the window
AWAY = 0.42  # how strongly cards are painted whose library cannot be reached


class SheetsView(QAbstractScrollArea):
    """Cards in sections with sticky headings and a thumb index at the edge; what the pointer and
    the keys do with them is in :mod:`fox_hand.ui.browser.sheets_input`."""

    pointed_at = Signal(object)  # Entry or None
    hovered = Signal(object)  # Entry under the pointer, or None
    walked = Signal(object)  # Entry the keys have gone to, or None when they leave
    ticked_changed = Signal()

    def __init__(self, theme: Theme, shelf: OpenLibraries, cache: PictureCache) -> None:
        super().__init__()
        self._ear = EventFilter(self.viewport(), self._heard_over_cards)
        self._theme, self.shelf = theme, shelf
        self._pictures = CardPictures(shelf.jobs, cache, self._picture_came)
        self._stamps = CardStamps(theme)
        self._shown: Sequence[Shown] = ()
        self._layout: SheetLayout | None = None
        self._fetching = False
        self._index: tuple[object, QPixmap] | None = None
        self._pointed: At | None = None
        self._current: At | None = None
        self._mix: Mix | None = None
        self._rig: Rig | None = None
        self._came = QTimer(self)  # pictures come in crowds; one paint is enough for several
        self._came.setSingleShot(True)
        self._came.setInterval(16)
        self._came.timeout.connect(self.viewport().update)
        self._marquee: QRectF | None = None  # content pixels
        self._drop: At | None = None  # section and gap; gap -1 for the section as a whole
        self.ticked: set[int] = set()
        self.closed: set[str] = set()
        self.card_size = 68
        self.labels = True
        self.loading = False
        self.empty_text = ""
        self.author = ""
        self._moving: QImage | None = None  # frame of the clip under the pointer
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.viewport().setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Sheets")
        self.verticalScrollBar().valueChanged.connect(lambda _: self.viewport().update())

    # -- content --------------------------------------------------------------------------

    def show_sections(self, shown: Sequence[Shown]) -> None:
        """Show these; the current card stays current and ticks stay if they are still there."""
        current, pointed = self.current_key(), self.layout_now().key(self._pointed)
        self._shown = shown
        self.relayout()
        self._current = self.layout_now().place_of(current)
        self._pointed = self.layout_now().place_of(pointed)
        if pointed is not None and self._pointed is None:
            self.hovered.emit(None)  # the card under the pointer is gone
        if self.ticked:
            there = {int(k) for one in shown for k in one.keys.tolist()}
            self.set_ticked(self.ticked & there)
        self.viewport().update()

    @property
    def shown(self) -> Sequence[Shown]:
        """What is in sight, section by section."""
        return self._shown

    def set_rig(self, rig: Rig | None) -> None:
        """Whose fit the cards show."""
        self._rig = rig
        self.viewport().update()

    def set_mix(self, mix: Mix | None) -> None:
        """The card that is being put on has a ring and says how much."""
        self.update_mixed()
        self._mix = mix
        self.update_mixed()

    def update_mixed(self) -> None:
        """Paint anew only the cards that are being put on."""
        for one in self._mix.cards if self._mix is not None else ():
            rect = self.rect_of(one.entry)
            if rect is not None:
                self.viewport().update(rect.adjusted(-4, -4, 4, 4))

    def is_mixed(self, entry: Entry) -> bool:
        return self._mix is not None and self._mix.weight_of(entry) is not None

    def set_ticked(self, keys: Collection[int]) -> None:
        """Tick exactly these cards."""
        wanted = keys if isinstance(keys, set) else set(keys)
        if wanted != self.ticked:
            self.ticked = wanted
            self.viewport().update()
            self.ticked_changed.emit()

    def relayout(self) -> None:
        self._layout = None
        layout = self.layout_now()
        bar = self.verticalScrollBar()
        bar.setRange(0, max(layout.height - self.viewport().height(), 0))
        bar.setPageStep(self.viewport().height())
        bar.setSingleStep(layout.pitch[1] // 3)
        self.viewport().update()

    def layout_now(self) -> SheetLayout:
        if self._layout is None:
            width = self.viewport().width() - self.index_width()
            self._layout = lay_out_sheets(
                self._shown, width, self.card_size, self.labels, self.closed
            )
        return self._layout

    def index_width(self) -> int:
        return INDEX_WIDTH if self.width() >= 320 and len(self._shown) > 1 else 0

    def entry_at(self, at: At | None) -> Entry | None:
        key = self.layout_now().key(at)
        return self.shelf.entry(key) if key is not None else None

    def current_key(self) -> int | None:
        return self.layout_now().key(self._current)

    def current_entry(self) -> Entry | None:
        """The card with the keyboard."""
        return self.entry_at(self._current)

    def chosen(self) -> list[Entry]:
        """The cards that something is to be done with: those ticked, else the current one."""
        keys = sorted(self.ticked) if self.ticked else [self.current_key()]
        self.shelf.fetch([k for k in keys if k is not None])
        found = (self.shelf.entry(k) for k in keys if k is not None)
        return [entry for entry in found if entry is not None]

    def key_of(self, entry: Entry) -> int | None:
        """The key of a card in some open library."""
        for place in self.shelf.places:
            if entry.item and entry.path.is_relative_to(place.folder):
                return self.shelf.key_of(place, entry.item)
        return None

    def rect_of(self, entry: Entry) -> QRect | None:
        """Where a card is in the viewport now (it may be scrolled out of sight)."""
        at = self.layout_now().place_of(self.key_of(entry))
        if at is None:
            return None
        return QRect(*self.layout_now().card_rect(*at)).translated(0, -self.offset)

    def go_to_sheet(self, place: OpenLibrary, sheet: str) -> None:
        """Scroll a sheet's heading to the top."""
        for section in self.layout_now().sections:
            if section.shown.place is place and section.shown.sheet == sheet:
                self.verticalScrollBar().setValue(section.top)
                return

    def reveal(self, entry: Entry) -> bool:
        """Scroll to a card and make it current; False if it is not shown."""
        at = self.layout_now().place_of(self.key_of(entry))
        if at is not None:
            self.make_current(at)
        return at is not None

    @property
    def offset(self) -> int:
        return self.verticalScrollBar().value()

    def _picture_came(self) -> None:
        if not self._came.isActive():
            self._came.start()

    def lands(self, entry: Entry) -> tuple[int, int]:
        """Controls of a card that the acting figure has, and all of them; 0, 0 if unknown."""
        if self._rig is None or not entry.shape:
            return 0, 0
        return self.shelf.place_of(entry).lands(entry.shape, self._rig)

    # -- painting -------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self.viewport())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.viewport().rect(), self._theme.colour("panel"))
        layout = self.layout_now()
        if self.loading and not layout.sections:
            paint_skeletons(painter, self._theme, layout)
            return
        if not layout.sections:
            paint_empty(painter, self._theme, self.viewport().width(), self.empty_text)
            return
        self._paint_cards(painter, layout, event.rect())
        self._paint_marks(painter, layout)
        paint_headings(painter, self._theme, layout, self.offset, self.viewport().height())
        if self.index_width():
            self._paint_index(painter, layout)

    def _paint_index(self, painter: QPainter, layout: SheetLayout) -> None:
        """The thumb index from its own picture, which is drawn anew when it changes."""
        size, ratio = self.viewport().size(), self.devicePixelRatioF()
        regions = self._regions(layout)
        key = (layout, tab_in_view(layout, self.offset, size), size, ratio, len(regions))
        if self._index is None or self._index[0] != key:
            drawn = QPixmap(round(INDEX_WIDTH * ratio), round(size.height() * ratio))
            drawn.setDevicePixelRatio(ratio)
            drawn.fill(self._theme.colour("panel"))
            inside = QPainter(drawn)
            inside.setRenderHint(QPainter.RenderHint.Antialiasing)
            inside.translate(INDEX_WIDTH - size.width(), 0)
            paint_index(inside, self._theme, layout, self.offset, size, regions)
            inside.end()
            self._index = key, drawn
        painter.drawPixmap(size.width() - INDEX_WIDTH, 0, self._index[1])

    def _regions(self, layout: SheetLayout) -> dict[int, Region]:
        """Of the sections that have a tab, where their first card belongs."""
        first = {
            i: int(layout.sections[i].shown.keys[0])
            for i, _ in index_tabs(layout, self.viewport().size())
            if layout.sections[i].count
        }
        self._have_at_hand(list(first.values()))
        entries = {i: self.shelf.at_hand(key) for i, key in first.items()}
        return {i: entry.region for i, entry in entries.items() if entry is not None}

    def _paint_cards(self, painter: QPainter, layout: SheetLayout, dirty: QRect) -> None:
        self._stamps.begin()
        whole = dirty.height() >= self.viewport().height()
        if whole:
            self._pictures.forget_wanted()
        seen = list(layout.visible(self.offset + dirty.top(), self.offset + dirty.bottom()))
        self._have_at_hand([k for k in map(layout.key, seen) if k is not None])
        for at in seen:
            key = layout.key(at)
            entry = self.shelf.at_hand(key) if key is not None else None
            if entry is None:
                self._paint_blank(painter, layout, at)
                continue
            away = layout.sections[at[0]].shown.place.problem is not None
            painter.setOpacity(AWAY if away else 1.0)
            self._paint_card(painter, layout, at, entry)
        painter.setOpacity(1.0)

    def _have_at_hand(self, keys: list[int]) -> None:
        """Ask for what is listed of cards in sight: at once in small libraries; in large ones a
        disk may have to be waited for, and what is in sight then is blank for a moment."""
        missing = [k for k in keys if self.shelf.at_hand(k) is None]
        if not missing or self._fetching:
            return
        if sum(map(len, self.shelf.places)) < AT_ONCE:
            self.shelf.fetch(missing)
            return
        self._fetching = True
        self.shelf.fetch_later(missing, self._fetched)

    def _fetched(self) -> None:
        self._fetching = False
        self._picture_came()

    def _paint_blank(self, painter: QPainter, layout: SheetLayout, at: At) -> None:
        rect = QRectF(QRect(*layout.card_rect(*at)).translated(0, -self.offset))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._theme.colour("raised"))
        painter.drawRoundedRect(rect.adjusted(0, TAB, 0, 0), 6, 6)

    def _paint_card(self, painter: QPainter, layout: SheetLayout, at: At, entry: Entry) -> None:
        rect = QRectF(QRect(*layout.card_rect(*at)).translated(0, -self.offset))
        state = self._state(layout, at, entry)
        ratio = self.devicePixelRatioF()
        image = self._pictures.get(entry, round(self.card_size * ratio))
        moves = self._moving is not None and at == self._pointed
        if state.amount is not None or state.focus or moves:  # these change all the time
            shown = self._moving if moves else image
            draw_card(painter, self._theme, rect, entry, shown, state, self.labels)
            return
        size = self.card_size, layout.card_height
        stamp = self._stamps.get(entry, image, state, size, self.labels, ratio)
        if stamp is not None:
            painter.drawPixmap(rect.topLeft() - MARGIN, stamp)
        else:
            self._paint_blank(painter, layout, at)
            self._picture_came()  # the others follow at once

    def show_moving(self, image: QImage | None) -> None:
        """A frame of the clip under the pointer; None for its usual picture."""
        if image is not self._moving:
            self._moving = image
            self.viewport().update()

    def stamp_of(self, entry: Entry) -> QImage | None:
        """A card's picture if it is at hand, for the pointer."""
        return self._pictures.get(entry, round(self.card_size * self.devicePixelRatioF()))

    def _state(self, layout: SheetLayout, at: At, entry: Entry) -> CardState:
        lands, asked = self.lands(entry)
        place = layout.sections[at[0]].shown.place
        return CardState(
            pointed=at == self._pointed,
            focus=at == self._current and self.hasFocus(),
            amount=self._mix.weight_of(entry) if self._mix is not None else None,
            lands=lands,
            asked=asked,
            new=self.shelf.is_new(entry, place, self.author),
            favourite=self.shelf.personal.favourite(entry.identity),
            ticked=layout.key(at) in self.ticked,
            ticking=bool(self.ticked),
        )

    def _paint_marks(self, painter: QPainter, layout: SheetLayout) -> None:
        """The marquee, and where something that is dragged would lie."""
        painter.save()
        painter.translate(0, -self.offset)
        if self._drop is not None and self._drop[0] < len(layout.sections):
            paint_drop(painter, self._theme, layout, self._drop)
        if self._marquee is not None:
            painter.setPen(QPen(self._theme.colour("text"), 1))
            painter.setBrush(self._theme.colour("text", 0.08))
            painter.drawRect(self._marquee.normalized())
        painter.restore()

    # -- pointing -------------------------------------------------------------------------

    def set_marquee(self, marquee: QRectF | None) -> None:
        self._marquee = marquee
        self.viewport().update()

    def set_drop(self, drop: At | None) -> None:
        """Show where what is dragged would lie."""
        if drop != self._drop:
            self._drop = drop
            self.viewport().update()

    def content_point(self, at: QPointF) -> QPoint:
        return QPoint(round(at.x()), round(at.y()) + self.offset)

    def point(self, at: At | None) -> None:
        """The pointer is over a card, or over none."""
        if at == self._pointed:
            return
        self._pointed = at
        shape = Qt.CursorShape.ArrowCursor if at is None else Qt.CursorShape.PointingHandCursor
        self.viewport().setCursor(shape)
        entry = self.entry_at(at)
        self.pointed_at.emit(entry)
        self.hovered.emit(entry)
        self.viewport().update()

    def leaveEvent(self, event: QEvent) -> None:
        self.point(None)
        super().leaveEvent(event)

    def _heard_over_cards(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            entry = self.entry_at(self.layout_now().at(event.x(), event.y() + self.offset))
            text = self._tip(entry) if entry is not None else ""
            QToolTip.showText(event.globalPos(), plain_tip(text), self)  # no text hides it
            return True
        return False

    def _tip(self, entry: Entry) -> str:
        if entry.error is not None:
            return entry.error.sentence()
        place = self.shelf.place_of(entry)
        said = []
        if place.problem is not None:
            said.append(place.problem.sentence())
        if self._rig is not None and entry.shape:
            missing = place.missing(entry.shape, self._rig)
            if missing:
                said.append(f"Not on this character: {', '.join(missing[:6])}")
        if self.shelf.is_new(entry, place, self.author):
            said.append(f"New since you were last here, by {entry.author or 'nobody named'}")
        if entry.locked:
            said.append(f"Approved by {entry.approved_by or 'somebody'}")
        return "\n".join(said)

    def walk(self, step: int) -> None:
        """Go to another card with the keys."""
        at = self.layout_now().walk(self._current, step)
        if at is not None:
            self.make_current(at)
            self.walked.emit(self.entry_at(at))

    @property
    def current(self) -> At | None:
        """Where the keyboard is; None where there is no card any more."""
        return self._current if self.layout_now().key(self._current) is not None else None

    def set_current(self, at: At) -> None:
        """The keyboard goes on from here; nothing scrolls."""
        self._current = at
        self.viewport().update()

    def start(self) -> bool:
        """The keyboard begins at the first card in sight; False where there is none."""
        for number, section in enumerate(self.layout_now().sections):
            if section.count and not section.closed:
                self.make_current((number, 0))
                return True
        return False

    def make_current(self, at: At) -> None:
        """The same, and the card comes into sight."""
        self._current = at
        layout = self.layout_now()
        _, y, _, height = layout.card_rect(*at)
        heading = y - layout.sections[at[0]].top if at[1] < layout.columns else 24
        if y < self.offset + 24:
            self.verticalScrollBar().setValue(y - heading)
        elif y + height > self.offset + self.viewport().height():
            self.verticalScrollBar().setValue(y + height + 8 - self.viewport().height())
        self.pointed_at.emit(self.entry_at(at))
        self.viewport().update()

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        tabbed = event.reason() in (
            Qt.FocusReason.TabFocusReason,
            Qt.FocusReason.BacktabFocusReason,
        )
        if self._current is None and tabbed:
            self.walk(0)
        self.viewport().update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.walked.emit(None)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.relayout()

    def sizeHint(self) -> QSize:
        return QSize(348, 480)
