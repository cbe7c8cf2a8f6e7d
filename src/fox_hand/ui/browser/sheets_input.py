"""What pointer and keys do in the sheets: put on, tick, walk, drag and drop."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QEvent, QPoint, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QDragEnterEvent,
    QDragLeaveEvent,
    QDragMoveEvent,
    QDropEvent,
    QGuiApplication,
    QKeyEvent,
    QMouseEvent,
    QPixmap,
)
from PySide6.QtWidgets import QApplication

from fox_hand.library.format.entry import Entry
from fox_hand.library.index.picture_cache import PictureCache
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.request import Shown
from fox_hand.ui.browser.sheet_layout import HEADING, At, fold_name
from fox_hand.ui.browser.sheets_paint import heading_top, index_tabs
from fox_hand.ui.browser.sheets_view import SheetsView
from fox_hand.ui.cards.card_drag import (
    SHEET,
    card_files_in,
    cards_mime,
    drag_cards,
    drag_sheet,
    keys_in,
    sheet_in,
)
from fox_hand.ui.cards.card_metrics import TAB
from fox_hand.ui.cards.card_painter import tick_rect
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.event_filter import EventFilter

CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
OWN_KEYS = (Qt.Key.Key_A, Qt.Key.Key_C, Qt.Key.Key_V, Qt.Key.Key_D)  # with Ctrl


class SheetsInput(SheetsView):
    """The sheets, in hand.

    A click puts a card on. The box in a card's corner, Shift+click, Space and a frame pulled from
    an empty spot tick cards; what is ticked is dragged, tagged and taken out together.
    """

    put_on = Signal(object)  # Entry
    add_to_mix = Signal(object)  # Entry
    folded = Signal()
    typed = Signal(str)
    menu_asked = Signal(object, QPoint)
    sheet_menu_asked = Signal(object, QPoint)  # Shown
    take_out = Signal()
    rename = Signal()
    duplicate = Signal()
    favourite = Signal()
    cards_dropped = Signal(object, object, int, bool)  # keys, Shown, gap or -1, whether to copy
    files_dropped = Signal(object, object)  # paths, Shown
    sheet_dropped = Signal(str, object)  # name of the dragged one, Shown before which it goes

    def __init__(self, theme: Theme, shelf: OpenLibraries, cache: PictureCache) -> None:
        super().__init__(theme, shelf, cache)
        self._key_ear = EventFilter(self, self._heard)
        self._pressed: tuple[QPointF, At] | None = None
        self._pressed_heading: tuple[QPointF, Shown] | None = None
        self._marquee_from: tuple[QPoint, frozenset[int]] | None = None
        self._anchor: int | None = None  # the card that a range begins with, wherever it is now
        self.by_hand = False  # whether a card's place among others can be chosen
        self.setAcceptDrops(True)
        self.viewport().setAcceptDrops(True)

    def unfold(self, entry: Entry) -> None:
        """Open the section that a card lies in."""
        key = self.key_of(entry)
        for section in self.layout_now().sections:
            if section.closed and key in section.shown.keys:
                self.closed.discard(fold_name(section.shown))
                self.relayout()
                self.folded.emit()
                return

    # -- pointer --------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position().toPoint()
        if self._jump(at):
            return
        heading = self._heading_at(at)
        if heading is not None:
            if event.button() is Qt.MouseButton.RightButton:
                self.sheet_menu_asked.emit(heading, event.globalPosition().toPoint())
            elif event.button() is Qt.MouseButton.LeftButton:
                self._pressed_heading = event.position(), heading
            return
        place = self.layout_now().at(at.x(), at.y() + self.offset)
        entry = self.entry_at(place)
        if place is None or entry is None:
            self._press_empty(event)
            return
        if event.button() is Qt.MouseButton.RightButton:
            self._ask_menu(place, entry, event.globalPosition().toPoint())
        elif event.button() is Qt.MouseButton.LeftButton:
            self._press_card(event, place)

    def _jump(self, at: QPoint) -> bool:
        if not self.index_width():
            return False
        for i, rect in index_tabs(self.layout_now(), self.viewport().size()):
            if rect.contains(at):
                self.verticalScrollBar().setValue(self.layout_now().sections[i].top)
                return True
        return False

    def _press_card(self, event: QMouseEvent, place: At) -> None:
        if event.modifiers() & SHIFT:
            self.tick_to(place)
        elif self._box(place).contains(QPointF(self.content_point(event.position()))):
            self.toggle(place)
        else:
            self._pressed = event.position(), place
            self.set_current(place)
            return
        self.set_current(place)

    def _box(self, place: At) -> QRectF:
        x, y, width, _ = self.layout_now().card_rect(*place)
        return tick_rect(QRectF(x, y + TAB, width, width))

    def _ask_menu(self, place: At, entry: Entry, at: QPoint) -> None:
        if self.layout_now().key(place) not in self.ticked:
            self.set_ticked(())
        self.set_current(place)
        self.menu_asked.emit(entry, at)

    def _press_empty(self, event: QMouseEvent) -> None:
        if event.button() is Qt.MouseButton.LeftButton:
            kept = frozenset(self.ticked) if event.modifiers() & SHIFT else frozenset()
            self._marquee_from = self.content_point(event.position()), kept
            self.set_ticked(kept)
        elif event.button() is Qt.MouseButton.RightButton:
            section = self.layout_now().section_at(self.content_point(event.position()).y())
            if section is not None:
                shown = self.layout_now().sections[section].shown
                self.sheet_menu_asked.emit(shown, event.globalPosition().toPoint())

    def _heading_at(self, at: QPoint) -> Shown | None:
        layout = self.layout_now()
        if at.x() >= layout.width:
            return None
        for section in layout.sections:
            y = heading_top(section, self.offset)
            if y <= at.y() < y + HEADING:
                return section.shown
        return None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._marquee_from is not None:
            start, kept = self._marquee_from
            frame = QRectF(QPointF(start), QPointF(self.content_point(at))).normalized()
            self.set_marquee(frame)
            found = self.layout_now().within(
                frame.left(), frame.top(), frame.right(), frame.bottom()
            )
            self.set_ticked(kept | set(found))
        elif self._pressed is not None and self._far(self._pressed[0], at):
            place = self._pressed[1]
            self._pressed = None
            self._drag(place)
        elif self._pressed_heading is not None and self._far(self._pressed_heading[0], at):
            shown = self._pressed_heading[1]
            self._pressed_heading = None
            if shown.sheet:
                drag_sheet(self, self._theme, fold_name(shown), shown.title)
        elif not event.buttons():
            over = self._heading_at(at.toPoint()) is not None
            content = self.content_point(at)
            self.point(None if over else self.layout_now().at(content.x(), content.y()))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._pressed is not None:
            entry = self.entry_at(self._pressed[1])
            self._pressed = None
            adds = bool(event.modifiers() & CONTROL)
            if entry is not None:
                (self.add_to_mix if adds else self.put_on).emit(entry)
        elif self._pressed_heading is not None:
            self.closed ^= {fold_name(self._pressed_heading[1])}
            self._pressed_heading = None
            self.relayout()
            self.folded.emit()
        self._marquee_from = None
        self.set_marquee(None)
        super().mouseReleaseEvent(event)

    @staticmethod
    def _far(start: QPointF, at: QPointF) -> bool:
        return (at - start).manhattanLength() >= QApplication.startDragDistance()

    # -- ticking --------------------------------------------------------------------------

    def toggle(self, place: At) -> None:
        """Tick a card, or untick it."""
        key = self.layout_now().key(place)
        if key is not None:
            self._anchor = key
            self.set_ticked(self.ticked ^ {key})

    def tick_to(self, place: At) -> None:
        """Tick everything from the last ticked or current card to this one."""
        layout = self.layout_now()
        start = layout.place_of(self._anchor) or self.current or place
        self._anchor = layout.key(start)
        self.set_ticked(self.ticked | set(layout.between(start, place)))

    def tick_all(self) -> None:
        """Tick everything that is shown."""
        keys = [one.keys for one in self._shown]
        self.set_ticked(set(np.concatenate(keys).tolist()) if keys else set())

    # -- drag and drop --------------------------------------------------------------------

    def _dragged(self, place: At) -> list[int]:
        key = self.layout_now().key(place)
        if key is None:
            return []
        return sorted(self.ticked) if key in self.ticked else [key]

    def _drag(self, place: At) -> None:
        keys, first = self._dragged(place), self.entry_at(place)
        self.shelf.fetch(keys)
        entries = [e for e in map(self.shelf.entry, keys) if e is not None]
        if first is None or not entries:
            return
        image = self.stamp_of(first)
        stamp = QPixmap.fromImage(image) if image is not None else QPixmap()
        if stamp.isNull():
            stamp = QPixmap(self.card_size, self.card_size)
            stamp.fill(self._theme.colour("raised"))
        stamp.setDevicePixelRatio(self.devicePixelRatioF())
        drag_cards(self, self._theme, cards_mime(keys, [e.path for e in entries]), stamp, len(keys))
        self.set_drop(None)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        mime = event.mimeData()
        if keys_in(mime) or card_files_in(mime) or mime.hasFormat(SHEET):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        target = self._target(event.position())
        if target is None:
            self.set_drop(None)
            event.ignore()
            return
        chooses = self.by_hand and bool(keys_in(event.mimeData()))
        self.set_drop(target if chooses else (target[0], -1))
        event.acceptProposedAction()

    def dragLeaveEvent(self, event: QDragLeaveEvent) -> None:
        self.set_drop(None)
        super().dragLeaveEvent(event)

    def dropEvent(self, event: QDropEvent) -> None:
        target, mime = self._target(event.position()), event.mimeData()
        self.set_drop(None)
        if target is None:
            return
        shown = self.layout_now().sections[target[0]].shown
        sheet, keys, files = sheet_in(mime), keys_in(mime), card_files_in(mime)
        if sheet is not None:
            self.sheet_dropped.emit(sheet, shown)
        elif keys:
            copies = bool(event.modifiers() & CONTROL)
            self.cards_dropped.emit(keys, shown, target[1] if self.by_hand else -1, copies)
        elif files:
            self.files_dropped.emit(files, shown)
        event.acceptProposedAction()

    def _target(self, position: QPointF) -> At | None:
        """The section and gap under the pointer, where something can be put there."""
        found = self._gap(position)
        if found is None:
            return None
        shown = self.layout_now().sections[found[0]].shown
        return found if shown.place.writable and shown.sheet is not None else None

    def _gap(self, position: QPointF) -> At | None:
        at = position.toPoint()
        heading = self._heading_at(at)
        for s, section in enumerate(self.layout_now().sections):
            if section.shown is heading:
                return s, 0
        content = self.content_point(position)
        return self.layout_now().gap_at(content.x(), content.y())

    # -- keys -----------------------------------------------------------------------------

    def _heard(self, event: QEvent) -> bool:
        """Keys that mean something here are not the window's."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride:
            own = event.key() in OWN_KEYS and event.modifiers() == CONTROL
            if own:
                event.accept()
                return True
        return False

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, control = Qt.Key(event.key()), bool(event.modifiers() & CONTROL)
        columns = self.layout_now().columns
        steps = {
            Qt.Key.Key_Left: -1,
            Qt.Key.Key_Right: 1,
            Qt.Key.Key_Up: -columns,
            Qt.Key.Key_Down: columns,
            Qt.Key.Key_Home: -(1 << 40),
            Qt.Key.Key_End: 1 << 40,
        }
        if key in steps:
            self._walk_or_tick(steps[key], bool(event.modifiers() & SHIFT))
        elif control and key in OWN_KEYS:
            self._control_key(key)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.current_entry() is not None:
            self._enter(event)
        elif key == Qt.Key.Key_Space and self.current is not None:
            self.toggle(self.current)
        elif key == Qt.Key.Key_Escape and self.ticked:
            self.set_ticked(())
        elif key == Qt.Key.Key_Delete and self.chosen():
            self.take_out.emit()
        elif key == Qt.Key.Key_F2 and self.current_entry() is not None:
            self.rename.emit()
        elif key == Qt.Key.Key_Menu or (key == Qt.Key.Key_F10 and event.modifiers() & SHIFT):
            self._menu_key(control)
        elif event.text() == "*" and self.chosen():
            self.favourite.emit()
        elif event.text().isalpha() and not control:
            self.typed.emit(event.text())
        else:
            super().keyPressEvent(event)

    def _menu_key(self, of_sheet: bool) -> None:
        """What can be done with the current card, or with Ctrl with its sheet."""
        if self.current is None:
            return
        x, y, _, height = self.layout_now().card_rect(*self.current)
        at = self.viewport().mapToGlobal(QPoint(x, y + height - self.offset))
        if of_sheet:
            self.sheet_menu_asked.emit(self.layout_now().sections[self.current[0]].shown, at)
        else:
            entry = self.entry_at(self.current)
            if entry is not None:
                self.menu_asked.emit(entry, at)

    def _walk_or_tick(self, step: int, tick: bool) -> None:
        start = self.current
        self.walk(step)
        if tick and start is not None and self.current is not None:
            layout = self.layout_now()
            began = layout.place_of(self._anchor) if self.ticked else None
            if began is None:
                began, self._anchor = start, layout.key(start)
            self.set_ticked(layout.between(began, self.current))

    def _enter(self, event: QKeyEvent) -> None:
        entry = self.current_entry()
        assert entry is not None
        if event.modifiers() & CONTROL:
            self.add_to_mix.emit(entry)
        elif self.is_mixed(entry):
            super().keyPressEvent(event)  # a second Enter keeps what is on
        else:
            self.put_on.emit(entry)

    def _control_key(self, key: Qt.Key) -> None:
        clipboard = QGuiApplication.clipboard()
        if key == Qt.Key.Key_A:
            self.tick_all()
        elif key == Qt.Key.Key_D and self.chosen():
            self.duplicate.emit()
        elif key == Qt.Key.Key_C and self.chosen():
            entries = self.chosen()
            keys = [k for k in map(self.key_of, entries) if k is not None]
            clipboard.setMimeData(cards_mime(keys, [e.path for e in entries]))
        elif key == Qt.Key.Key_V:
            files, layout = card_files_in(clipboard.mimeData()), self.layout_now()
            if files and layout.sections:
                section = self.current[0] if self.current is not None else 0
                self.files_dropped.emit(files, layout.sections[section].shown)
