"""The outline as a list: what is pointed at, pressed and typed there."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from functools import partial

from PySide6.QtCore import QPoint, QPointF, QRect, QRectF, Qt, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QFontMetrics,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
)
from PySide6.QtWidgets import QApplication

from fox_hand.base.language import tr
from fox_hand.session.libraries.kept_searches import Kept
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.ui.cards.card_drag import drag_sheet
from fox_hand.ui.cards.stamps import Stamps
from fox_hand.ui.outline.outline_paint import (
    OutlineLook,
    arrow_rect,
    heading_button,
    looks_like,
    paint_outline_row,
)
from fox_hand.ui.outline.outline_rows import (
    LOW,
    TALL,
    OutlineContent,
    OutlineRow,
    RowKind,
    Spot,
    fold_key,
    outline_rows,
    said_of,
)
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.deferred_update import BETWEEN, once_after
from fox_hand.ui.widgets.key_map import ENTER, KeyMap, LocalKey
from fox_hand.ui.widgets.painted_list import PaintedList, PaintedRow

CONTROL = Qt.KeyboardModifier.ControlModifier
LEFT = Qt.MouseButton.LeftButton
# seconds for new rows in one paint: a third of a millisecond each, and pointing at one paints all
BUDGET = 0.006


class OutlineList(PaintedList):
    """A click narrows the cards to a sheet, a second goes back; Ctrl+click adds one.

    Args:
        theme: colours and type.
    """

    narrow_asked = Signal(object, bool)  # Spot, whether it is added to what is chosen
    widen_asked = Signal()
    search_asked = Signal(object)  # Kept
    keep_asked = Signal()
    sheet_asked = Signal()
    menu_asked = Signal(object, QPoint)  # OutlineRow
    rename_asked = Signal(object)  # OutlineRow
    remove_asked = Signal(object)  # OutlineRow
    folded = Signal(str, bool)  # fold key, whether it is folded
    typed = Signal(str)

    def __init__(self, theme: Theme) -> None:
        super().__init__(tr("Outline"))
        self._theme = theme
        self._stamps = Stamps(BUDGET)
        self._more = once_after(self, BETWEEN, self.viewport().update)
        self.content = OutlineContent()
        self.rows: list[OutlineRow] = []
        self.chosen: Collection[Spot] = ()
        self.searching: tuple[int, str] | None = None  # key of the kept search that is shown
        self.counts: Mapping[tuple[int, str], int] = {}
        self.faces: Mapping[Spot, QImage] = {}
        self.target = -1  # row that would take what is dragged
        self.before = self.locked = False
        self.hint = ""
        self.hint_at = QPoint()
        self._pressed: tuple[QPointF, int] | None = None
        self.keys = self._key_map()

    # -- rows -----------------------------------------------------------------------------

    def show_content(
        self,
        content: OutlineContent,
        chosen: Collection[Spot],
        searching: tuple[int, str] | None,
    ) -> None:
        """Show this; the row with the keyboard keeps it where it is still there."""
        current = self._row_now()
        self.content, self.chosen, self.searching = content, chosen, searching
        self.rows = outline_rows(content)
        self.say()
        if current is not None:
            self.go_to(self._place_of(current), quietly=True)

    def show_chosen(self, chosen: Collection[Spot], searching: tuple[int, str] | None) -> None:
        """The same rows, others of them chosen."""
        changed = (set(chosen), searching) != (set(self.chosen), self.searching)
        self.chosen, self.searching = chosen, searching
        if changed:
            self.say()

    def say(self) -> None:
        """Say rows anew, after their numbers changed."""
        self.show_painted(
            [PaintedRow(self._said(row), row.height, usable=not row.heading) for row in self.rows],
            self.row,
        )

    def _said(self, row: OutlineRow) -> str:
        count = self.counts.get(row.kept.key) if row.kept is not None else None
        return said_of(row, self.content, self._is_chosen(row), count)

    def _is_chosen(self, row: OutlineRow) -> bool:
        if row.kept is not None:
            return row.kept.key == self.searching
        return row.spot is not None and row.spot in self.chosen

    def _row_now(self) -> OutlineRow | None:
        return self.rows[self.row] if 0 <= self.row < len(self.rows) else None

    def _place_of(self, wanted: OutlineRow) -> int:
        """Where a row of before is now; -1 where it is gone."""
        for number, row in enumerate(self.rows):
            same = row.spot == wanted.spot if wanted.spot is not None else False
            if same or (row.kept is not None and row.kept == wanted.kept):
                return number
        return -1

    def row_of(self, spot: Spot) -> int:
        """The row of a sheet; -1 where it is not shown."""
        return next((n for n, row in enumerate(self.rows) if row.spot == spot), -1)

    # -- painting -------------------------------------------------------------------------

    def paint_row(self, painter: QPainter, row: int) -> None:
        one = self.rows[row]
        place = one.place
        look = OutlineLook(
            chosen=self._is_chosen(one),
            pointed=row == self.over,
            focus=row == self.row and self.hasFocus(),
            target=row == self.target and not self.before and not self.locked,
            before=row == self.target and self.before,
            locked=row == self.target and self.locked,
            away=place is not None and place.problem is not None,
            count=self.counts.get(one.kept.key) if one.kept is not None else None,
            face=self.faces.get(one.spot) if one.spot is not None else None,
            colour=_colour(place, one),
        )
        self._paint_look(painter, one, look)

    def _paint_look(self, painter: QPainter, row: OutlineRow, look: OutlineLook) -> None:
        theme, size = self._theme, (self.viewport().width(), row.height)

        def draw(on: QPainter) -> None:
            paint_outline_row(on, theme, size[0], row, self.content, look)

        key = looks_like(row, self.content, look), theme.age
        ratio, ground = self.devicePixelRatioF(), theme.colour("panel")
        stamp = self._stamps.get(key, size, ratio, draw, ground)
        if stamp is not None:
            painter.drawPixmap(0, 0, stamp)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Rows that were not drawn before come as far as there is time; the rest comes a moment
        later, and the window answers between the two."""
        port = self.viewport()
        self._stamps.begin()
        self._stamps.make_room(port.height() // LOW, (port.width(), TALL), self.devicePixelRatioF())
        super().paintEvent(event)
        if self._stamps.late:
            self._more.start()
        if self.hint:
            self._paint_hint()

    def _paint_hint(self) -> None:
        painter = QPainter(self.viewport())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        font = self._theme.font(12, 500)
        wide = QFontMetrics(font).horizontalAdvance(self.hint) + 16
        room = self.viewport().width() - 8
        flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
        tall = 24 if wide <= room else 24 + 16 * (wide // room)
        x = max(min(self.hint_at.x() + 16, self.viewport().width() - wide - 4), 4)
        y = self.hint_at.y() + 20
        if y + tall > self.viewport().height():
            y = self.hint_at.y() - tall - 8
        rect = QRectF(x, y, min(wide, room), tall)
        painter.setPen(self._theme.colour("line"))
        painter.setBrush(self._theme.colour("window"))
        painter.drawRoundedRect(rect, 6, 6)
        painter.setFont(font)
        painter.setPen(self._theme.colour("text"))
        painter.drawText(rect.adjusted(6, 0, -6, 0), flags, self.hint)

    def show_target(self, row: int, hint: str, at: QPoint, *, before: bool, locked: bool) -> None:
        """Where what is dragged would go, and in words; row -1 for nowhere."""
        self.target, self.before, self.locked = row, before, locked
        self.hint, self.hint_at = hint, at
        self.viewport().update()

    # -- pointer --------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position().toPoint()
        row = self.row_at(at.y())
        event.accept()
        if event.button() is not LEFT or row < 0:
            return
        one, inside = self.rows[row], at - self.rect_of(row).topLeft()
        if one.heading:
            adds = one.kind is not RowKind.NOTE
            if adds and heading_button(one, self.viewport().width()).contains(inside):
                self._add(one)
        elif one.folded is not None and arrow_rect(one).contains(inside):
            self.fold(row, not one.folded)
        else:
            self._pressed = event.position(), row

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        super().mouseMoveEvent(event)
        if self._pressed is None:
            return
        start, row = self._pressed
        if (event.position() - start).manhattanLength() < QApplication.startDragDistance():
            return
        self._pressed = None
        one = self.rows[row] if row < len(self.rows) else None
        if one is not None and one.node is not None and one.node.path and one.place is not None:
            drag_sheet(self, self._theme, one.place.number, one.node.path, one.words)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        event.accept()
        pressed, self._pressed = self._pressed, None
        if pressed is not None and pressed[1] == self.row_at(event.position().toPoint().y()):
            self.go_to(pressed[1], quietly=True)
            self._choose(pressed[1], bool(event.modifiers() & CONTROL))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.mousePressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        row = self.row_at(event.pos().y())
        event.accept()
        if row >= 0 and not self.rows[row].heading:
            self.go_to(row, quietly=True)
            self.menu_asked.emit(self.rows[row], event.globalPos())

    def _add(self, heading: OutlineRow) -> None:
        (self.keep_asked if heading.kind is RowKind.SEARCHES else self.sheet_asked).emit()

    def _choose(self, row: int, adds: bool) -> bool:
        if not 0 <= row < len(self.rows):
            return False
        one = self.rows[row]
        if one.kept is not None:
            self.search_asked.emit(one.kept)
        elif one.spot is not None:
            self.narrow_asked.emit(one.spot, adds)
        return True

    def fold(self, row: int, folded: bool) -> bool:
        """Fold what lies in a row, or unfold it; false where that is so already."""
        one = self.rows[row] if 0 <= row < len(self.rows) else None
        if one is None or one.node is None or one.place is None:
            return False
        if one.folded is None or one.folded == folded:
            return False
        self.folded.emit(fold_key(one.place, one.node), folded)
        return True

    # -- keys -----------------------------------------------------------------------------

    def _key_map(self) -> KeyMap:
        def choose(adds: bool) -> bool:
            return self._choose(self.row, adds)

        return KeyMap(
            [
                LocalKey(
                    (*ENTER, "Space"), partial(choose, False), tr("narrow to a sheet, and back")
                ),
                LocalKey(
                    ("Ctrl+Return", "Ctrl+Enter"),
                    partial(choose, True),
                    tr("one more"),
                    "Ctrl+Enter",
                ),
                LocalKey(("Right",), self._unfold, tr("unfold, fold"), tr("Right, Left")),
                LocalKey(("Left",), self._fold),
                LocalKey(("F2",), partial(self._with_row, "rename_asked"), tr("rename")),
                LocalKey(("Del",), partial(self._with_row, "remove_asked"), tr("remove")),
                LocalKey(("Menu", "Shift+F10"), self._menu),
            ]
        )

    def _with_row(self, asked: str) -> bool:
        row = self._row_now()
        if row is None or row.heading:
            return False
        getattr(self, asked).emit(row)
        return True

    def _unfold(self) -> None:
        """Unfold; what is unfolded already is gone into."""
        row = self._row_now()
        if not self.fold(self.row, False) and row is not None and row.folded is False:
            self.go_to(self.row + 1)

    def _fold(self) -> None:
        """Fold; from what has nothing to fold one goes to what it lies in."""
        row = self._row_now()
        if row is None or self.fold(self.row, True):
            return
        for number in range(self.row - 1, -1, -1):
            if self.rows[number].indent < row.indent and self.rows[number].node is not None:
                self.go_to(number)
                return

    def _menu(self) -> bool:
        row = self._row_now()
        if row is None or row.heading:
            return False
        corner = self.rect_of(self.row).bottomLeft() + QPoint(24, 0)
        self.menu_asked.emit(row, self.viewport().mapToGlobal(corner))
        return True

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Letters are for the field above."""
        plain = not event.modifiers() & CONTROL
        if plain and event.text().isalnum() and self.keys.owner(event) is None:
            self.typed.emit(event.text())
            event.accept()
            return
        super().keyPressEvent(event)

    def rect_of_button(self, kind: RowKind) -> QRect:
        """Where something is added below a heading, in the viewport."""
        for number, row in enumerate(self.rows):
            if row.kind is kind:
                button = heading_button(row, self.viewport().width())
                return button.translated(self.rect_of(number).topLeft())
        return QRect()


def _colour(place: OpenLibrary | None, row: OutlineRow) -> str:
    if place is None or row.node is None or row.kind is not RowKind.SHEET:
        return ""
    return place.colour(row.node.path)


def same_search(kept: Kept, text: str) -> bool:
    """Whether what is typed is what a kept search looks for."""
    return kept.text.split() == text.split()
