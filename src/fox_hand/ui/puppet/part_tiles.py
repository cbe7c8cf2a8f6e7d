"""Small pictures of a puppet, one beside the other, of which one is chosen."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PySide6.QtCore import QEvent, QPoint, QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QAccessible,
    QContextMenuEvent,
    QFocusEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QWidget

from fox_hand.ui.theme.plain_text import plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.accessible_parts import AccessiblePart, PartsOwner, tell_current
from fox_hand.ui.widgets.buttons import draw_focus
from fox_hand.ui.widgets.key_map import KeyMap, LocalKey

WORD, GAP = 20, 8  # pixels below a picture for its name, and between tiles


class PartTiles(QWidget, PartsOwner):
    """A click or Enter chooses, arrows walk.

    Args:
        theme: colours and type.
        name: for assistive technology.
        side: of a picture, pixels.
        columns: how many stand beside each other.
    """

    chosen = Signal(int)
    menu_asked = Signal(int, QPoint)  # of which one, and where on the screen

    def __init__(self, theme: Theme, name: str, side: int, columns: int) -> None:
        super().__init__()
        self._theme, self._side, self._columns = theme, side, columns
        self.words: tuple[str, ...] = ()
        self.images: dict[int, QImage] = {}
        self.current = 0
        self._walked: int | None = None
        self._pointed = -1
        walk = (("Left", -1, 0), ("Right", 1, 0), ("Up", 0, -1), ("Down", 0, 1))
        keys = [
            LocalKey((name,), partial(self._walk, across, down), loose=True)
            for name, across, down in walk
        ]
        keys.append(LocalKey(("Return", "Enter", "Space"), self._take, loose=True))
        self.keys = KeyMap(keys)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)

    def show_tiles(self, words: Sequence[str], current: int) -> None:
        """Other names; pictures of before go with them."""
        if tuple(words) != self.words:
            self.words, self.images = tuple(words), {}
            self._walked, self._pointed = None, -1
            self.setFixedSize(self.sizeHint())
        if current != self.current:
            self.current, self._walked = current, None
            tell_current(self, ("tile", current))
        self.update()

    def set_columns(self, columns: int) -> None:
        """How many stand beside each other."""
        self._columns = columns
        self.setFixedSize(self.sizeHint())
        self.update()

    def height_in(self, columns: int) -> int:
        """How high it is with so many beside each other."""
        rows = -(-max(len(self.words), 1) // columns)
        return rows * (self._side + WORD + GAP) - GAP + 4

    def show_image(self, number: int, image: QImage) -> None:
        """The picture of one of them has come."""
        self.images[number] = image
        self.update()

    def sizeHint(self) -> QSize:
        count = max(len(self.words), 1)
        columns = min(count, self._columns)
        return QSize(columns * (self._side + GAP) - GAP + 4, self.height_in(self._columns))

    def tile_rect(self, number: int) -> QRect:
        """Where one is, with its name."""
        row, column = divmod(number, self._columns)
        return QRect(
            2 + column * (self._side + GAP),
            2 + row * (self._side + WORD + GAP),
            self._side,
            self._side + WORD,
        )

    def accessible_parts(self) -> list[AccessiblePart]:
        return [
            AccessiblePart(
                ("tile", number),
                word,
                self.tile_rect(number),
                QAccessible.Role.ListItem,
                selected=number == self.current,
                press=partial(self.chosen.emit, number),
            )
            for number, word in enumerate(self.words)
        ]

    # -- pointer and keys -----------------------------------------------------------------

    def _at(self, at: QPointF) -> int:
        rects = (self.tile_rect(number) for number in range(len(self.words)))
        return next((n for n, rect in enumerate(rects) if rect.contains(at.toPoint())), -1)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        found = self._at(event.position())
        if found != self._pointed:
            self._pointed = found
            self.setToolTip(plain_tip(self.words[found]) if found >= 0 else "")
            self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        found = self._at(event.position())
        if event.button() is Qt.MouseButton.LeftButton and found >= 0:
            self._walked = found
            self.chosen.emit(found)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """By the right button, or by its key where the keyboard is."""
        keyboard = event.reason() is QContextMenuEvent.Reason.Keyboard
        walked = self.current if self._walked is None else self._walked
        found = walked if keyboard else self._at(QPointF(event.pos()))
        if found >= 0:
            middle = self.mapToGlobal(self.tile_rect(found).center())
            self.menu_asked.emit(found, middle if keyboard else event.globalPos())

    def leaveEvent(self, event: QEvent) -> None:
        self._pointed = -1
        self.update()
        super().leaveEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            super().keyPressEvent(event)

    def _walk(self, across: int, down: int) -> None:
        step = across + down * self._columns
        at = self.current if self._walked is None else self._walked
        if 0 <= at + step < len(self.words):
            self._walked = at + step
            tell_current(self, ("tile", self._walked))
            self.update()

    def _take(self) -> None:
        self.chosen.emit(self.current if self._walked is None else self._walked)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self._walked = self.current
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self._walked = None
        self.update()

    # -- painting -------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        for number, word in enumerate(self.words):
            self._paint_tile(painter, number, word)

    def _paint_tile(self, painter: QPainter, number: int, word: str) -> None:
        theme, rect, now = self._theme, self.tile_rect(number), number == self.current
        picture = QRectF(rect.x(), rect.y(), self._side, self._side)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("stage_middle"))
        painter.drawRoundedRect(picture, 6, 6)
        image = self.images.get(number)
        if image is not None:
            painter.drawImage(picture.adjusted(1, 1, -1, -1), image)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if now:
            painter.setPen(QPen(theme.colour("accent"), 2))
            painter.drawRoundedRect(picture, 6, 6)
        elif number == self._pointed:
            painter.setPen(QPen(theme.colour("text"), 1))
            painter.drawRoundedRect(picture, 6, 6)
        if self.hasFocus() and number == self._walked:
            draw_focus(painter, theme, picture.adjusted(2, 2, -2, -2), 4)
        painter.setFont(theme.font(11, 600 if now else 400))
        painter.setPen(theme.colour("accent_text" if now else "text"))
        below = QRect(rect.x(), rect.y() + self._side, self._side, WORD)
        shown = painter.fontMetrics().elidedText(word, Qt.TextElideMode.ElideRight, self._side)
        painter.drawText(below, Qt.AlignmentFlag.AlignCenter, shown)
