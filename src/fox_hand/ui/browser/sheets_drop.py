"""Cards and sheets dragged out of the sheets, and dropped into them."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QPointF, Qt, Signal
from PySide6.QtGui import (
    QDragEnterEvent,
    QDragLeaveEvent,
    QDragMoveEvent,
    QDropEvent,
    QPixmap,
)

from fox_hand.library.format.entry import Entry
from fox_hand.ui.browser.sheet_layout import At
from fox_hand.ui.browser.sheets_input import SheetsInput
from fox_hand.ui.browser.sheets_view import SheetsView
from fox_hand.ui.cards.card_drag import (
    SHEET,
    card_files_in,
    cards_mime,
    drag_cards,
    keys_in,
    picture_in,
    sheet_in,
)
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.event_filter import EventFilter


class SheetsDrop(QObject):
    """Takes part in dragging.

    Args:
        view, hand: the sheets, and what is pressed there.
        theme: of what is dragged.
    """

    cards_dropped = Signal(object, object, int, bool)  # keys, Shown, gap or -1, whether to copy
    files_dropped = Signal(object, object)  # paths, Shown
    picture_dropped = Signal(object, object)  # path, the card's entry
    sheet_dropped = Signal(object, object)  # the dragged one, Shown before which it goes

    def __init__(self, view: SheetsView, hand: SheetsInput, theme: Theme) -> None:
        super().__init__(view)
        self._view, self._hand, self._theme = view, hand, theme
        self.by_hand = False  # whether a card's place among others can be chosen
        self._heard_there = EventFilter(view.viewport(), self._heard)
        hand.drag_asked.connect(self.drag)
        hand.files_pasted.connect(self.files_dropped)
        view.setAcceptDrops(True)
        view.viewport().setAcceptDrops(True)

    def drag(self, place: At) -> None:
        """Begin to drag a card, with all that are ticked if it is one of them."""
        view = self._view
        keys, first = view.choice.together_with(place), view.entry_at(place)
        entries = view.open_libraries.entries_of(keys)
        if first is None or not entries:
            return
        image = view.stamp_of(first)
        stamp = QPixmap.fromImage(image) if image is not None else QPixmap()
        if stamp.isNull():
            stamp = QPixmap(view.card_size, view.card_size)
            stamp.fill(self._theme.colour("raised"))
        stamp.setDevicePixelRatio(view.devicePixelRatioF())
        drag_cards(view, self._theme, cards_mime(keys, [e.path for e in entries]), stamp, len(keys))
        view.mark()

    def _heard(self, event: QEvent) -> bool:
        if isinstance(event, QDragEnterEvent):
            mime = event.mimeData()
            known = keys_in(mime) or card_files_in(mime) or mime.hasFormat(SHEET)
            if known or picture_in(mime) is not None:
                event.acceptProposedAction()
        elif isinstance(event, QDragMoveEvent):
            self._moved(event)
        elif isinstance(event, QDragLeaveEvent):
            self._view.mark()
        elif isinstance(event, QDropEvent):
            self._dropped(event)
        else:
            return False
        return True

    def _moved(self, event: QDragMoveEvent) -> None:
        target = self._target(event.position())
        if picture_in(event.mimeData()) is not None:
            self._view.mark()
            event.setAccepted(self._card(event.position()) is not None)
            return
        if target is None:
            self._view.mark()
            event.ignore()
            return
        chooses = self.by_hand and bool(keys_in(event.mimeData()))
        self._view.mark(drop=target if chooses else (target[0], -1))
        event.acceptProposedAction()

    def _dropped(self, event: QDropEvent) -> None:
        target, mime = self._target(event.position()), event.mimeData()
        self._view.mark()
        picture, card = picture_in(mime), self._card(event.position())
        if picture is not None:
            if card is not None:
                self.picture_dropped.emit(picture, card)
                event.acceptProposedAction()
            return
        if target is None:
            return
        shown = self._view.layout_now().sections[target[0]].shown
        sheet, keys, files = sheet_in(mime), keys_in(mime), card_files_in(mime)
        if sheet is not None:
            self.sheet_dropped.emit(sheet, shown)
        elif keys:
            copies = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
            self.cards_dropped.emit(keys, shown, target[1] if self.by_hand else -1, copies)
        elif files:
            self.files_dropped.emit(files, shown)
        event.acceptProposedAction()

    def _card(self, position: QPointF) -> Entry | None:
        """The card under the pointer, if it can have another picture."""
        view = self._view
        content = view.content_point(position)
        entry = view.entry_at(view.layout_now().at(content.x(), content.y()))
        writable = entry is not None and view.open_libraries.place_of(entry).writable
        return entry if entry is not None and entry.readable and writable else None

    def _target(self, position: QPointF) -> At | None:
        """The section and gap under the pointer, where something can be put there."""
        found = self._gap(position)
        if found is None:
            return None
        shown = self._view.layout_now().sections[found[0]].shown
        return found if shown.place.writable and shown.sheet is not None else None

    def _gap(self, position: QPointF) -> At | None:
        heading = self._hand.heading_at(position.toPoint())
        layout = self._view.layout_now()
        for s, section in enumerate(layout.sections):
            if section.shown is heading:
                return s, 0
        content = self._view.content_point(position)
        return layout.gap_at(content.x(), content.y())
