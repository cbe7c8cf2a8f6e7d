"""The libraries as one scrollable contact sheet. Only what is visible is read and painted."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QEvent, QPoint, QPointF, QRect, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QFocusEvent, QImage, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QAbstractScrollArea

from fox_hand.base.language import tr
from fox_hand.core.rig.rig import Rig
from fox_hand.library.format.entry import Entry
from fox_hand.library.index.picture_cache import PictureCache
from fox_hand.session.applying.mix import Mix
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.session.libraries.request import Shown
from fox_hand.ui.browser.card_choice import CardChoice
from fox_hand.ui.browser.sheet_layout import At, SheetLayout, fold_name, lay_out_sheets
from fox_hand.ui.browser.sheets_paint import INDEX_WIDTH, paint_empty, paint_skeletons
from fox_hand.ui.browser.sheets_painter import Marks, SheetsPainter
from fox_hand.ui.browser.sheets_parts import card_part_key, heard_sheets
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.accessible_parts import AccessiblePart, PartsOwner, tell_current
from fox_hand.ui.widgets.deferred_update import once_after

SOON = 16  # milliseconds; pictures come in crowds, and one paint is enough for several


class SheetsView(QAbstractScrollArea, PartsOwner):
    """Cards in sections with sticky headings and a thumb index at the edge; what the pointer and
    the keys do with them is in :mod:`fox_hand.ui.browser.sheets_input`.

    Args:
        theme, shelf, cache: colours, cards, pictures.
    """

    pointed_at = Signal(object)  # Entry or None
    hovered = Signal(object)  # Entry under the pointer, or None
    walked = Signal(object)  # Entry the keys have gone to, or None when they leave
    folded = Signal()
    activated = Signal(object)  # Entry that somebody presses without pointer and keys

    def __init__(self, theme: Theme, open_libraries: OpenLibraries, cache: PictureCache) -> None:
        super().__init__()
        self._painted = False
        self._theme, self.open_libraries = theme, open_libraries
        self.choice, self.marks = CardChoice(), Marks()
        self._painter = SheetsPainter(
            theme, open_libraries, cache, self.choice, self.marks, self.viewport(), self._paint_soon
        )
        self._shown: Sequence[Shown] = ()
        self._layout: SheetLayout | None = None
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON)
        self._soon.timeout.connect(self.viewport().update)
        self.closed: set[str] = set()
        self.card_size = 68
        self.labels = True
        self.indexed = True  # whether there is to be a thumb index at all
        self.loading = False
        self.empty_text = ""
        self.choice.ticked_changed.connect(self._repaint)
        self.choice.current_changed.connect(self._on_current)
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.viewport().setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Sheets"))
        self.verticalScrollBar().valueChanged.connect(lambda _: self.viewport().update())

    def _repaint(self) -> None:
        self.viewport().update()

    def _on_current(self) -> None:
        self.viewport().update()
        key = self.choice.current_key
        if key is not None and self.hasFocus():
            tell_current(self, card_part_key(key))

    def accessible_parts(self) -> list[AccessiblePart]:
        view = QRect(QPoint(0, self.offset), self.viewport().size())
        self.marks.focus = self.hasFocus()
        return list(
            heard_sheets(
                self.open_libraries,
                self.layout_now(),
                self.choice,
                self.marks,
                view,
                self.activated.emit,
                self.set_fold,
            )
        )

    def _paint_soon(self) -> None:
        if not self._soon.isActive():
            self._soon.start()

    # -- content --------------------------------------------------------------------------

    def show_sections(self, shown: Sequence[Shown]) -> None:
        """Show these; the current card stays current and ticks stay if they are still there."""
        pointed = self.layout_now().key(self.marks.pointed)
        self._shown = shown
        self.relayout()
        self.marks.pointed = self.layout_now().place_of(pointed)
        if pointed is not None and self.marks.pointed is None:
            self.hovered.emit(None)  # the card under the pointer is gone
        self.choice.forget_gone(shown)

    @property
    def shown(self) -> Sequence[Shown]:
        """What is in sight, section by section."""
        return self._shown

    def sections_in_sight(self) -> list[Shown]:
        """Sections of which cards are to be seen."""
        layout, top = self.layout_now(), self.offset
        seen = dict.fromkeys(s for s, _ in layout.visible(top, top + self.viewport().height()))
        return [layout.sections[s].shown for s in seen]

    def set_rig(self, rig: Rig | None) -> None:
        """Whose fit the cards show."""
        self.marks.rig = rig
        self.viewport().update()

    def set_mix(self, mix: Mix | None) -> None:
        """The card that is being put on has a ring and says how much."""
        self.update_mixed()
        self.marks.mix = mix
        self.update_mixed()

    def update_mixed(self) -> None:
        """Paint anew only the cards that are being put on."""
        for one in self.marks.mix.cards if self.marks.mix is not None else ():
            rect = self.rect_of(one.entry)
            if rect is not None:
                self.viewport().update(rect.adjusted(-4, -4, 4, 4))

    def relayout(self) -> None:
        """Lay out anew, after cards, their size or the folds changed."""
        self._layout = None
        layout = self.layout_now()
        bar = self.verticalScrollBar()
        bar.setRange(0, max(layout.height - self.viewport().height(), 0))
        bar.setPageStep(self.viewport().height())
        bar.setSingleStep(layout.pitch[1] // 3)
        self.viewport().update()

    def layout_now(self) -> SheetLayout:
        """Where everything lies."""
        if self._layout is None:
            width = self.viewport().width() - self.index_width
            self._layout = lay_out_sheets(
                self._shown, width, self.card_size, self.labels, self.closed
            )
            self.choice.show(self._layout)
        return self._layout

    @property
    def index_width(self) -> int:
        """Pixels of the thumb index; 0 where there is none."""
        wide = self.width() >= 320 and self.indexed
        return INDEX_WIDTH if wide and len(self._shown) > 1 else 0

    # -- cards ----------------------------------------------------------------------------

    def entry_at(self, at: At | None) -> Entry | None:
        key = self.layout_now().key(at)
        return self.open_libraries.entry(key) if key is not None else None

    def current_entry(self) -> Entry | None:
        """The card with the keyboard."""
        return self.entry_at(self.choice.current)

    def chosen(self) -> list[Entry]:
        """The cards that something is to be done with: those ticked, else the current one."""
        return self.open_libraries.entries_of(self.choice.chosen())

    def rect_of(self, entry: Entry) -> QRect | None:
        """Where a card is in the viewport now (it may be scrolled out of sight)."""
        at = self.layout_now().place_of(self.open_libraries.key_in(entry))
        return self.card_rect(at) if at is not None else None

    def card_rect(self, at: At) -> QRect:
        """The same for a place."""
        return QRect(*self.layout_now().card_rect(*at)).translated(0, -self.offset)

    def stamp_of(self, entry: Entry) -> QImage | None:
        """A card's picture if it is at hand, for the pointer."""
        return self._painter.stamp_of(entry, self.card_size)

    @property
    def offset(self) -> int:
        return self.verticalScrollBar().value()

    # -- going to -------------------------------------------------------------------------

    def go_to_sheet(self, place: OpenLibrary, sheet: str) -> None:
        """Scroll a sheet's heading to the top."""
        for section in self.layout_now().sections:
            if section.shown.place is place and section.shown.sheet == sheet:
                self.verticalScrollBar().setValue(section.top)
                return

    def reveal(self, entry: Entry) -> bool:
        """Scroll to a card and make it current; False if it is not shown."""
        at = self.layout_now().place_of(self.open_libraries.key_in(entry))
        if at is not None:
            self.make_current(at)
        return at is not None

    def set_fold(self, shown: Shown, closed: bool) -> None:
        """Fold a section, or open it."""
        name = fold_name(shown)
        self.closed = self.closed | {name} if closed else self.closed - {name}
        self.relayout()
        self.folded.emit()

    def unfold(self, entry: Entry) -> None:
        """Open the section that a card lies in."""
        key = self.open_libraries.key_in(entry)
        for section in self.layout_now().sections:
            if section.closed and key in section.shown.keys:
                self.set_fold(section.shown, False)
                return

    def start(self) -> bool:
        """The keyboard begins at the first card in sight; False where there is none."""
        for number, section in enumerate(self.layout_now().sections):
            if section.count and not section.closed:
                self.make_current((number, 0))
                return True
        return False

    def make_current(self, at: At) -> None:
        """The keyboard goes on from a card, which comes into sight."""
        self.choice.go(at)
        layout = self.layout_now()
        _, y, _, height = layout.card_rect(*at)
        heading = y - layout.sections[at[0]].top if at[1] < layout.columns else 24
        if y < self.offset + 24:
            self.verticalScrollBar().setValue(y - heading)
        elif y + height > self.offset + self.viewport().height():
            self.verticalScrollBar().setValue(y + height + 8 - self.viewport().height())
        self.pointed_at.emit(self.entry_at(at))

    def came_by_keys(self) -> None:
        """The keys have gone to another card: it comes into sight and is looked at."""
        at = self.choice.current
        if at is not None:
            self.make_current(at)
            self.walked.emit(self.entry_at(at))

    # -- pointing -------------------------------------------------------------------------

    def content_point(self, at: QPointF) -> QPoint:
        return QPoint(round(at.x()), round(at.y()) + self.offset)

    def point(self, at: At | None) -> None:
        """The pointer is over a card, or over none."""
        if at == self.marks.pointed:
            return
        self.marks.pointed = at
        shape = Qt.CursorShape.ArrowCursor if at is None else Qt.CursorShape.PointingHandCursor
        self.viewport().setCursor(shape)
        entry = self.entry_at(at)
        self.pointed_at.emit(entry)
        self.hovered.emit(entry)
        self.viewport().update()

    def mark(self, *, marquee: QRectF | None = None, drop: At | None = None) -> None:
        """Show a frame that is pulled, and where something that is dragged would lie."""
        if (marquee, drop) != (self.marks.marquee, self.marks.drop):
            self.marks.marquee, self.marks.drop = marquee, drop
            self.viewport().update()

    def show_moving(self, image: QImage | None) -> None:
        """A frame of the clip under the pointer; None for its usual picture."""
        if image is not self.marks.moving:
            self.marks.moving = image
            self.viewport().update()

    # -- Qt -------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self.viewport())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.viewport().rect(), self._theme.colour("panel"))
        layout = self.layout_now()
        self.marks.focus = self.hasFocus()
        if self.loading and not layout.sections:
            paint_skeletons(painter, self._theme, layout)
        elif layout.sections and not self._painted:
            self._painted = True  # the first cards come a moment after the rest of the window
            once_after(self, 1, self.viewport().update).start()
        elif not layout.sections:
            paint_empty(painter, self._theme, self.viewport().width(), self.empty_text)
        else:
            self._painter.paint(painter, layout, self.offset, event.rect())
            if self.index_width:
                self._painter.paint_index(painter, layout, self.offset)

    def leaveEvent(self, event: QEvent) -> None:
        self.point(None)
        super().leaveEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        tabbed = event.reason() in (
            Qt.FocusReason.TabFocusReason,
            Qt.FocusReason.BacktabFocusReason,
        )
        if self.choice.current is None and tabbed and self.choice.walk(0):
            self.came_by_keys()
        self.viewport().update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.walked.emit(None)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.relayout()

    def sizeHint(self) -> QSize:
        return QSize(348, 480)
