"""What pointer and keys do in the sheets: put on, tick, walk, drag and drop."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QEvent, QObject, QPoint, QPointF, QRectF, Qt, Signal, SignalInstance
from PySide6.QtGui import QGuiApplication, QHelpEvent, QKeyEvent, QMouseEvent, QWheelEvent
from PySide6.QtWidgets import QApplication, QToolTip

from fox_hand.base.language import tr
from fox_hand.library.format.entry import Entry
from fox_hand.session.libraries.request import Shown
from fox_hand.ui.browser.card_choice import FAR
from fox_hand.ui.browser.sheet_layout import HEADING, At, fold_name
from fox_hand.ui.browser.sheets_paint import heading_top, index_tabs
from fox_hand.ui.browser.sheets_painter import card_tip
from fox_hand.ui.browser.sheets_view import SheetsView
from fox_hand.ui.cards.card_drag import card_files_in, cards_mime, drag_sheet
from fox_hand.ui.cards.card_metrics import TAB
from fox_hand.ui.cards.card_painter import tick_rect
from fox_hand.ui.theme.plain_text import plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.event_filter import EventFilter
from fox_hand.ui.widgets.key_map import ENTER, KeyMap, LocalKey
from fox_hand.ui.widgets.pinch import follow_pinch

CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
RIGHT, LEFT = Qt.MouseButton.RightButton, Qt.MouseButton.LeftButton


class SheetsInput(QObject):
    """Hears pointer and keys over the sheets and says what they mean.

    A click puts a card on. The box in a card's corner, Shift+click, Space and a frame pulled from
    an empty spot tick cards; what is ticked is dragged, tagged and taken out together.

    Args:
        view: the sheets.
        theme: of what is dragged.
    """

    put_on = Signal(object)  # Entry
    zoomed = Signal(float)  # by how much the cards are to be larger
    add_to_mix = Signal(object)  # Entry
    drag_asked = Signal(tuple)  # At
    typed = Signal(str)
    menu_asked = Signal(object, QPoint)
    sheet_menu_asked = Signal(object, QPoint)  # Shown
    gap_asked = Signal(object)  # EmptyCell
    take_out = Signal()
    rename = Signal()
    duplicate = Signal()
    favourite = Signal()
    files_pasted = Signal(object, object)  # paths, Shown

    def __init__(self, view: SheetsView, theme: Theme) -> None:
        super().__init__(view)
        self._view, self._theme, self._choice = view, theme, view.choice
        self._over_cards = EventFilter(view.viewport(), self._heard_over_cards)
        follow_pinch(view.viewport(), lambda larger, _: self.zoomed.emit(larger))
        self.keys = self._key_map()
        self._over_keys = EventFilter(view, self._heard_keys)
        view.activated.connect(self.put_on)
        self._pressed: tuple[QPointF, At] | None = None
        self._pressed_heading: tuple[QPointF, Shown] | None = None
        self._marquee_from: tuple[QPoint, frozenset[int]] | None = None

    def _heard_over_cards(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            self._tip(event)
            return True
        if isinstance(event, QWheelEvent) and event.modifiers() & CONTROL:
            self.zoomed.emit(1.1 ** (event.angleDelta().y() / 120))
            return True
        if not isinstance(event, QMouseEvent):
            return False
        doers = {
            QEvent.Type.MouseButtonPress: self._press,
            QEvent.Type.MouseButtonDblClick: self._press,
            QEvent.Type.MouseMove: self._move,
            QEvent.Type.MouseButtonRelease: self._release,
        }
        do = doers.get(event.type())
        if do is not None:
            do(event)
        return do is not None

    def _tip(self, event: QHelpEvent) -> None:
        view = self._view
        entry = view.entry_at(view.layout_now().at(event.x(), event.y() + view.offset))
        marks = view.marks
        text = (
            card_tip(view.open_libraries, entry, marks.rig, marks.author)
            if entry is not None
            else ""
        )
        QToolTip.showText(event.globalPos(), plain_tip(text), view)  # no text hides it

    # -- pointer --------------------------------------------------------------------------

    def _press(self, event: QMouseEvent) -> None:
        view, at = self._view, event.position().toPoint()
        if self._jump(at):
            return
        heading = self.heading_at(at)
        if heading is not None:
            if event.button() is RIGHT:
                self.sheet_menu_asked.emit(heading, event.globalPosition().toPoint())
            elif event.button() is LEFT:
                self._pressed_heading = event.position(), heading
            return
        gap = view.layout_now().empty_at(at.x(), at.y() + view.offset)
        if gap is not None and event.button() is LEFT:
            self.gap_asked.emit(gap)
            return
        place = view.layout_now().at(at.x(), at.y() + view.offset)
        entry = view.entry_at(place)
        if place is None or entry is None:
            self._press_empty(event)
        elif event.button() is RIGHT:
            self._ask_menu(place, entry, event.globalPosition().toPoint())
        elif event.button() is LEFT:
            self._press_card(event, place)

    def _jump(self, at: QPoint) -> bool:
        view = self._view
        if not view.index_width:
            return False
        for i, rect in index_tabs(view.layout_now(), view.viewport().size()):
            if rect.contains(at):
                view.verticalScrollBar().setValue(view.layout_now().sections[i].top)
                return True
        return False

    def _press_card(self, event: QMouseEvent, place: At) -> None:
        if event.modifiers() & SHIFT:
            self._choice.tick_to(place)
        elif self._box(place).contains(QPointF(self._view.content_point(event.position()))):
            self._choice.toggle(place)
        else:
            self._pressed = event.position(), place
        self._choice.go(place)

    def _box(self, place: At) -> QRectF:
        x, y, width, _ = self._view.layout_now().card_rect(*place)
        return tick_rect(QRectF(x, y + TAB, width, width))

    def _ask_menu(self, place: At, entry: Entry, at: QPoint) -> None:
        if self._view.layout_now().key(place) not in self._choice.ticked:
            self._choice.set_ticked(())
        self._choice.go(place)
        self.menu_asked.emit(entry, at)

    def _press_empty(self, event: QMouseEvent) -> None:
        view, point = self._view, self._view.content_point(event.position())
        if event.button() is LEFT:
            keeps = event.modifiers() & SHIFT
            kept = frozenset(self._choice.ticked) if keeps else frozenset[int]()
            self._marquee_from = point, kept
            self._choice.set_ticked(kept)
        elif event.button() is RIGHT:
            section = view.layout_now().section_at(point.y())
            if section is not None:
                shown = view.layout_now().sections[section].shown
                self.sheet_menu_asked.emit(shown, event.globalPosition().toPoint())

    def heading_at(self, at: QPoint) -> Shown | None:
        """The section whose heading is at a point of the viewport."""
        layout = self._view.layout_now()
        if at.x() >= layout.width:
            return None
        for section in layout.sections:
            y = heading_top(section, self._view.offset)
            if y <= at.y() < y + HEADING:
                return section.shown
        return None

    def _move(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._marquee_from is not None:
            self._pull_marquee(at)
        elif self._pressed is not None and _far(self._pressed[0], at):
            place, self._pressed = self._pressed[1], None
            self.drag_asked.emit(place)
        elif self._pressed_heading is not None and _far(self._pressed_heading[0], at):
            shown, self._pressed_heading = self._pressed_heading[1], None
            if shown.sheet:
                drag_sheet(self._view, self._theme, shown.place.number, shown.sheet, shown.title)
        elif not event.buttons():
            over = self.heading_at(at.toPoint()) is not None
            content, layout = self._view.content_point(at), self._view.layout_now()
            self._view.point(None if over else layout.at(content.x(), content.y()))

    def _pull_marquee(self, at: QPointF) -> None:
        assert self._marquee_from is not None
        start, kept = self._marquee_from
        frame = QRectF(QPointF(start), QPointF(self._view.content_point(at))).normalized()
        self._view.mark(marquee=frame)
        layout = self._view.layout_now()
        found = layout.within(frame.left(), frame.top(), frame.right(), frame.bottom())
        self._choice.set_ticked(kept | set(found))

    def _release(self, event: QMouseEvent) -> None:
        if self._pressed is not None:
            entry = self._view.entry_at(self._pressed[1])
            adds = bool(event.modifiers() & CONTROL)
            if entry is not None:
                (self.add_to_mix if adds else self.put_on).emit(entry)
        elif self._pressed_heading is not None:
            shown = self._pressed_heading[1]
            self._view.set_fold(shown, fold_name(shown) not in self._view.closed)
        self._pressed = self._pressed_heading = self._marquee_from = None
        self._view.mark()

    # -- keys -----------------------------------------------------------------------------

    def _key_map(self) -> KeyMap:
        choice, has = self._choice, self._with_chosen
        keys = [
            LocalKey(ENTER, partial(self._enter, False)),
            LocalKey(("Ctrl+Return", "Ctrl+Enter"), partial(self._enter, True)),
            LocalKey(("Space",), self._tick_current),
            LocalKey(("Esc",), self._untick, name="untick"),
            LocalKey(
                ("Ctrl+A",),
                choice.tick_all,
                tr("tick all that are shown"),
                tr("Ctrl+A in the sheets"),
            ),
            LocalKey(
                ("F2",),
                partial(has, self.rename),
                tr("rename, duplicate, take out"),
                tr("F2, Ctrl+D, Del"),
            ),
            LocalKey(("Ctrl+D",), partial(has, self.duplicate)),
            LocalKey(("Del",), partial(has, self.take_out), loose=True, name="take_out"),
            LocalKey(
                ("*", "Shift+*"),
                partial(has, self.favourite),
                tr("favourite"),
                "*",
                name="favourite",
            ),
            LocalKey(("Ctrl+C",), self._copy, tr("card files, out and in"), tr("Ctrl+C, Ctrl+V")),
            LocalKey(("Ctrl+V",), self._paste),
            LocalKey(("Menu", "Shift+F10"), partial(self._menu_key, False)),
            LocalKey(("Ctrl+Menu", "Ctrl+Shift+F10"), partial(self._menu_key, True)),
        ]
        ways = {"Left": -1, "Right": 1, "Home": -FAR, "End": FAR}
        for name, step in ways.items():
            keys.append(LocalKey((name,), partial(self._walk, step, False)))
            keys.append(LocalKey((f"Shift+{name}",), partial(self._walk, step, True)))
        for name, sign in (("Up", -1), ("Down", 1)):
            keys.append(LocalKey((name,), partial(self._walk_row, sign, False)))
            keys.append(LocalKey((f"Shift+{name}",), partial(self._walk_row, sign, True)))
        return KeyMap(keys)

    def _heard_keys(self, event: QEvent) -> bool:
        if not isinstance(event, QKeyEvent):
            return False
        if event.type() == QEvent.Type.ShortcutOverride:
            # keys that mean something here are not the window's
            own = bool(event.modifiers() & CONTROL) and self.keys.owner(event) is not None
            if own:
                event.accept()
            return own
        return event.type() == QEvent.Type.KeyPress and (self.keys.do(event) or self._type(event))

    def _type(self, event: QKeyEvent) -> bool:
        """Letters are for the search."""
        if not event.text().isalpha() or event.modifiers() & CONTROL:
            return False
        self.typed.emit(event.text())
        return True

    def _with_chosen(self, asked: SignalInstance) -> bool:
        """Something with the chosen cards; false where none is."""
        if self._choice.chosen():
            asked.emit()
            return True
        return False

    def _tick_current(self) -> bool:
        current = self._choice.current
        if current is not None:
            self._choice.toggle(current)
        return current is not None

    def _untick(self) -> bool:
        there = bool(self._choice.ticked)
        self._choice.set_ticked(())
        return there

    def _walk_row(self, way: int, tick: bool) -> None:
        self._walk(way * self._view.layout_now().columns, tick)

    def _walk(self, step: int, tick: bool) -> None:
        if tick:
            self._choice.walk_and_tick(step)
        else:
            self._choice.walk(step)
        self._view.came_by_keys()

    def _menu_key(self, of_sheet: bool) -> None:
        """What can be done with the current card, or with Ctrl with its sheet."""
        current = self._choice.current
        if current is None:
            return
        at = self._view.viewport().mapToGlobal(self._view.card_rect(current).bottomLeft())
        if of_sheet:
            self.sheet_menu_asked.emit(self._view.layout_now().sections[current[0]].shown, at)
            return
        entry = self._view.entry_at(current)
        if entry is not None:
            self.menu_asked.emit(entry, at)

    def _enter(self, adds: bool) -> bool:
        entry, mix = self._view.current_entry(), self._view.marks.mix
        if entry is None:
            return False
        if adds:
            self.add_to_mix.emit(entry)
        elif mix is not None and mix.weight_of(entry) is not None:
            return False  # a second Enter keeps what is on
        else:
            self.put_on.emit(entry)
        return True

    def _copy(self) -> None:
        entries = self._view.chosen()
        if entries:
            keys = [k for k in map(self._view.open_libraries.key_in, entries) if k is not None]
            mime = cards_mime(keys, [e.path for e in entries])
            QGuiApplication.clipboard().setMimeData(mime)

    def _paste(self) -> None:
        files = card_files_in(QGuiApplication.clipboard().mimeData())
        layout, current = self._view.layout_now(), self._choice.current
        if files and layout.sections:
            section = current[0] if current is not None else 0
            self.files_pasted.emit(files, layout.sections[section].shown)


def _far(start: QPointF, at: QPointF) -> bool:
    return (at - start).manhattanLength() >= QApplication.startDragDistance()
