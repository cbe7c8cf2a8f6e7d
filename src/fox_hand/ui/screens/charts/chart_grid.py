"""Charts against characters as one scrollable view; only what is visible is painted."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path

from PySide6.QtCore import QEvent, QPoint, QRect, QRectF, Qt, Signal
from PySide6.QtGui import (
    QAccessible,
    QContextMenuEvent,
    QFocusEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
)
from PySide6.QtWidgets import QAbstractScrollArea

from fox_hand.base.files.inputs import CARD, read_file
from fox_hand.base.language import tr
from fox_hand.library.charts.chart import Slot
from fox_hand.library.charts.filling import Filling
from fox_hand.library.format.entry import Entry
from fox_hand.session.charts.chart_board import ChartBoard
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.ui.cards.card_pictures import CardPictures
from fox_hand.ui.screens.charts.chart_layout import (
    SLOT,
    At,
    ChartLayout,
    ChartLine,
    lay_out_charts,
)
from fox_hand.ui.screens.charts.chart_paint import (
    SlotLook,
    paint_character,
    paint_head,
    paint_slot,
)
from fox_hand.ui.services.picture_files import decoded
from fox_hand.ui.theme.plain_text import plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.accessible_parts import AccessiblePart, PartsOwner, tell_current
from fox_hand.ui.widgets.key_map import ENTER, KeyMap, LocalKey

FACE = 36


class ChartGrid(QAbstractScrollArea, PartsOwner):
    """Click chooses a slot; a second click, or Enter, poses what is missing and puts on what is
    there.

    Args:
        theme: colours and type.
        pictures: of cards.
        open_libraries: where faces are looked up.
    """

    chosen = Signal()
    entered = Signal()
    refused = Signal()
    menu_asked = Signal(object, QPoint)  # ChartBoard or At

    def __init__(
        self, theme: Theme, open_libraries: OpenLibraries, pictures: Callable[[], CardPictures]
    ) -> None:
        super().__init__()
        self._theme, self._open_libraries, self._pictures = theme, open_libraries, pictures
        self._boards: tuple[ChartBoard, ...] = ()
        self._layout: ChartLayout | None = None
        self._over: At | None = None
        self._samples: dict[Path, QImage] = {}  # pictures that charts have
        self.at: At | None = None
        self.below = 0
        self.empty_text = ""
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Slots"))
        self.viewport().setMouseTracking(True)
        self.verticalScrollBar().valueChanged.connect(lambda _: self.viewport().update())
        ways = {"Left": (-1, 0), "Right": (1, 0), "Up": (0, -1), "Down": (0, 1)}
        self.keys = KeyMap(
            [LocalKey((name,), partial(self._walk, *way)) for name, way in ways.items()]
            + [
                LocalKey(ENTER, self._enter, tr("pose what is missing, put on what is there")),
                LocalKey(("Del",), self._refuse, tr("take a card out of its slot")),
                LocalKey(("Menu", "Shift+F10"), self._menu),
            ]
        )

    # -- content --------------------------------------------------------------------------

    def show_boards(self, boards: Sequence[ChartBoard]) -> None:
        """Show these; the chosen slot stays chosen where it is still there."""
        self._boards = tuple(boards)
        self._samples.clear()
        self.relayout()
        if self.layout_now().place_of(self.at) is None:
            self.at = None
        self.viewport().update()

    def relayout(self) -> None:
        """Lay out anew, after charts or the width changed."""
        self._layout = None
        layout, bar = self.layout_now(), self.verticalScrollBar()
        bar.setRange(0, max(layout.height - self.viewport().height(), 0))
        bar.setPageStep(self.viewport().height())
        bar.setSingleStep(24)
        self.viewport().update()

    def layout_now(self) -> ChartLayout:
        """Where everything lies."""
        if self._layout is None:
            self._layout = lay_out_charts(self._boards, self.viewport().width(), self.below)
        return self._layout

    def go_to(self, at: At | None) -> None:
        """Choose a slot, and bring it into sight."""
        self.at = at
        found = self.layout_now().place_of(at)
        if found is not None:
            top, bar = found[0].y, self.verticalScrollBar()
            if top < bar.value() + 24:
                bar.setValue(top - 64)
            elif top + SLOT > bar.value() + self.viewport().height() - 8:
                bar.setValue(top + SLOT + 16 - self.viewport().height())
            if self.hasFocus():
                tell_current(self, at)
        self.viewport().update()
        self.chosen.emit()

    def filling(self, at: At | None) -> tuple[ChartBoard, Filling] | None:
        """The chart and what is in a slot."""
        found = self.layout_now().place_of(at)
        return (found[0].board, found[0].filling(found[1])) if found is not None else None

    def rect_of(self, at: At) -> QRect:
        """Where a slot is in the viewport."""
        found = self.layout_now().place_of(at)
        if found is None:
            return QRect()
        rect = QRect(*self.layout_now().rect(*found))
        return rect.translated(0, -self.verticalScrollBar().value())

    def picture(self, entry: Entry | None, pixels: int) -> QImage | None:
        """A card's picture at a size in logical pixels; None while it is not there."""
        if entry is None:
            return None
        return self._pictures().get(entry, round(pixels * self.devicePixelRatioF()))

    def sample_of(
        self, board: ChartBoard, slot: Slot, character: str, pixels: int
    ) -> QImage | None:
        """How a slot is to look: the picture that the chart has, else a card's."""
        if slot.picture:
            path = board.file.path.parent / slot.picture
            if path not in self._samples:
                self._samples[path] = _read(path)
            if not self._samples[path].isNull():
                return self._samples[path]
        return self.picture(board.sample(slot, character), pixels)

    def face_of(self, board: ChartBoard, character: str) -> QImage | None:
        """A picture of a character, from a card that shows its face."""
        top = next((n for n in board.place.tree().inner if n.name == character), None)
        if top is None or not top.face:
            cards = (f.card for one in board.of(character) for f in one.cards if not f.lent)
            return self.picture(next(cards, None), FACE)
        key = self._open_libraries.key_of(board.place, top.face)
        return self.picture(self._open_libraries.entry(key), FACE)

    # -- painting -------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self.viewport())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.viewport().rect(), self._theme.colour("window"))
        layout, offset = self.layout_now(), self.verticalScrollBar().value()
        bottom = offset + self.viewport().height()
        if not self._boards:
            painter.setFont(self._theme.font(13))
            painter.setPen(self._theme.colour("quiet"))
            flags = Qt.AlignmentFlag.AlignHCenter | Qt.TextFlag.TextWordWrap
            room = QRectF(48, 64, self.viewport().width() - 96, 200)
            painter.drawText(room, flags, self.empty_text)
            return
        for head in layout.heads:
            if offset - 80 < head.y < bottom + 80:
                paint_head(painter, self._theme, head, offset)
        for line in layout.lines:
            if offset - SLOT < line.y < bottom:
                self._paint_line(painter, layout, line, offset)

    def _paint_line(
        self, painter: QPainter, layout: ChartLayout, line: ChartLine, offset: int
    ) -> None:
        face = self.face_of(line.board, line.character)
        known = face if face is not None and not face.isNull() else None
        paint_character(painter, self._theme, line, offset, known)
        for number, slot in enumerate(line.slots):
            one, at = line.filling(number), (line.board.key, slot.key, line.character)
            look = SlotLook(
                self.picture(one.cards[0].card, SLOT)
                if one.cards
                else self.sample_of(line.board, slot, line.character, SLOT),
                chosen=at == self.at,
                pointed=at == self._over,
                focus=at == self.at and self.hasFocus(),
            )
            rect = QRectF(QRect(*layout.rect(line, number)).translated(0, -offset))
            paint_slot(painter, self._theme, rect, one, look, self.devicePixelRatioF())

    # -- pointer and keys -----------------------------------------------------------------

    def _slot_at(self, at: QPoint) -> At | None:
        return self.layout_now().at(at.x(), at.y() + self.verticalScrollBar().value())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        over = self._slot_at(event.position().toPoint())
        if over != self._over:
            self._over = over
            found = self.filling(over)
            self.viewport().setToolTip(plain_tip(said_of(found[1]) if found is not None else ""))
            shape = Qt.CursorShape.PointingHandCursor if over else Qt.CursorShape.ArrowCursor
            self.viewport().setCursor(shape)
            self.viewport().update()

    def leaveEvent(self, event: QEvent) -> None:
        self._over = None
        self.viewport().update()
        super().leaveEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = self._slot_at(event.position().toPoint())
        event.accept()
        if at is None or event.button() is not Qt.MouseButton.LeftButton:
            return
        if at == self.at:
            self.entered.emit()
        else:
            self.go_to(at)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        event.accept()  # its first press chose the slot, or entered it already

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        at = self._slot_at(event.pos())
        event.accept()
        if at is not None:
            self.go_to(at)
            self.menu_asked.emit(at, event.globalPos())

    def _walk(self, along: int, down: int) -> bool:
        at = self.layout_now().walk(self.at, along, down)
        if at is not None:
            self.go_to(at)
        return at is not None

    def _enter(self) -> bool:
        if self.at is not None:
            self.entered.emit()
        return self.at is not None

    def _refuse(self) -> bool:
        if self.at is not None:
            self.refused.emit()
        return self.at is not None

    def _menu(self) -> bool:
        if self.at is None:
            return False
        corner = self.viewport().mapToGlobal(self.rect_of(self.at).bottomLeft())
        self.menu_asked.emit(self.at, corner)
        return True

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            event.ignore()

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        if self.at is None:
            self._walk(0, 0)
        self.viewport().update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.viewport().update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.relayout()

    def accessible_parts(self) -> list[AccessiblePart]:
        layout, offset = self.layout_now(), self.verticalScrollBar().value()
        found = []
        for line in layout.lines:
            if not offset - SLOT < line.y < offset + self.viewport().height():
                continue
            for number, slot in enumerate(line.slots):
                one, at = line.filling(number), (line.board.key, slot.key, line.character)
                found.append(
                    AccessiblePart(
                        at,
                        f"{line.character}, {slot.name}",
                        QRect(*layout.rect(line, number)).translated(0, -offset),
                        QAccessible.Role.ListItem,
                        said_of(one),
                        selected=at == self.at,
                        current=at == self.at and self.hasFocus(),
                        press=partial(self.go_to, at),
                    )
                )
        return found


def _read(path: Path) -> QImage:
    """A chart's picture; a null image where it is not there or cannot be read."""
    try:
        return decoded(read_file(path, CARD))
    except OSError:
        return QImage()


def said_of(one: Filling) -> str:
    """What is in a slot, in words."""
    if one.missing:
        likely = tr("; {name} looks like it", name=one.proposed[0][0].name) if one.proposed else ""
        return tr("missing") + likely
    best = one.cards[0]
    words = best.card.name
    if best.lent:
        words += tr(", lent by {character}", character=best.card.character)
    if len(one.cards) > 1:
        words += tr(" and {count} more", count=len(one.cards) - 1)
    return tr("{words}; {short} more wanted", words=words, short=one.short) if one.short else words
