"""Panels, pictures and rows of the Care screen."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QContextMenuEvent, QKeyEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QAbstractButton,
    QHBoxLayout,
    QLabel,
    QMenu,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from fox_hand.library.format.entry import Entry
from fox_hand.ui.cards.card_pictures import CardPictures
from fox_hand.ui.theme.plain_text import Words, plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.key_map import ENTER, KeyMap, LocalKey
from fox_hand.ui.widgets.passing_menu import passing_menu


class Tile(QAbstractButton):
    """A card's picture with a line or two below it; a button where it can be chosen."""

    def __init__(
        self,
        theme: Theme,
        pictures: CardPictures,
        entry: Entry,
        size: tuple[int, int],
        captions: tuple[str, ...] = (),
        *,
        choosable: bool = False,
        badge: str = "",
    ) -> None:
        super().__init__()
        self._theme, self._pictures, self._entry = theme, pictures, entry
        self._size, self._captions, self._badge = size, captions, badge
        self.chosen = False
        self.fill_menu: Callable[[QMenu], None] | None = None  # what the right button offers
        self.setFixedSize(size[0] + 4, size[1] + 4 + 18 * len(captions))
        name = ", ".join((entry.name, *captions))
        self.setAccessibleName(name)
        self.setToolTip(plain_tip(name))
        self.keys = KeyMap([LocalKey(ENTER, self.click)])
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        if choosable:
            self.setCheckable(True)
            self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        return self.minimumSize()

    def set_chosen(self, chosen: bool) -> None:
        self.chosen = chosen
        self.setChecked(chosen)
        self.update()

    def nextCheckState(self) -> None:
        """What a click means, who owns it says."""

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        if self.fill_menu is not None:
            menu = passing_menu(self)
            self.fill_menu(menu)
            menu.popup(event.globalPos())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        theme, painter = self._theme, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        width, height = self._size
        frame = QRectF(2, 2, width, height)
        path = QPainterPath()
        path.addRoundedRect(frame, 4, 4)
        painter.setClipPath(path)
        painter.fillRect(frame, theme.colour("raised"))
        side = max(width, height)
        image = self._pictures.get(self._entry, round(side * self.devicePixelRatioF()))
        if image is not None and not image.isNull():
            # the middle of the picture fills the frame
            shown = QRectF(2 + (width - side) / 2, 2 + (height - side) / 2, side, side)
            painter.drawImage(shown, image)
        elif not self._entry.has_picture:
            pixmap = theme.pixmap("file-question-mark", 20, "quiet", self.devicePixelRatioF())
            painter.drawPixmap(
                round(frame.center().x()) - 10, round(frame.center().y()) - 10, pixmap
            )
        painter.setClipping(False)
        self._paint_badge(painter, frame)
        self._paint_captions(painter, width, height)
        if self.chosen or self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(theme.colour("text"), 2))
            painter.drawRoundedRect(frame.adjusted(-1, -1, 1, 1), 5, 5)

    def _paint_badge(self, painter: QPainter, frame: QRectF) -> None:
        if not self._badge:
            return
        painter.setFont(self._theme.font(11, 600))
        wide = painter.fontMetrics().horizontalAdvance(self._badge) + 12
        plate = QRectF(frame.left() + 4, frame.top() + 4, wide, 18)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._theme.colour("ink", 0.88))
        painter.drawRoundedRect(plate, 4, 4)
        painter.setPen(self._theme.colour("paper"))
        painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, self._badge)

    def _paint_captions(self, painter: QPainter, width: int, height: int) -> None:
        for i, text in enumerate(self._captions):
            painter.setFont(self._theme.font(11, 500 if i == 0 else 400))
            painter.setPen(self._theme.colour("text" if i == 0 else "quiet"))
            short = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, width)
            line = QRectF(2, height + 4 + 18 * i, width, 18)
            painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, short)


class CarePanel(QWidget):
    """One subject of the screen: a heading, how many, and rows below a line."""

    def __init__(self, title: str, detail: str) -> None:
        super().__init__()
        self.setProperty("plate", "panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        heading, more = Words(title), Words(detail)
        heading.setProperty("role", "title")
        more.setProperty("quiet", True)
        top = QHBoxLayout()
        top.setContentsMargins(12, 8, 12, 8)
        top.setSpacing(8)
        top.addWidget(heading)
        top.addWidget(more, 1)
        line = QWidget()
        line.setFixedHeight(1)
        line.setProperty("plate", "line")
        line.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.rows = QVBoxLayout()
        self.rows.setContentsMargins(12, 12, 12, 12)
        self.rows.setSpacing(8)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(top)
        column.addWidget(line)
        column.addLayout(self.rows, 1)

    def nothing(self, text: str) -> None:
        """Say that there is nothing to do."""
        label = words(text, quiet=True)
        self.rows.addWidget(label)
        self.rows.addStretch(1)


def words(text: str, *, quiet: bool = False, strong: bool = False) -> QLabel:
    """A line or two of text."""
    label = Words(text)
    label.setWordWrap(True)
    label.setTextInteractionFlags(Qt.TextInteractionFlag.NoTextInteraction)
    if quiet:
        label.setProperty("quiet", True)
    if strong:
        label.setProperty("role", "heading")
    return label


def fill(button: QWidget) -> None:
    """Let a button be as wide as its column, so that those below each other line up."""
    button.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)


def row(*parts: QWidget, stretch: int = -1) -> QHBoxLayout:
    """Widgets beside each other; the one at ``stretch`` takes what is left."""
    line = QHBoxLayout()
    line.setSpacing(12)
    for i, part in enumerate(parts):
        line.addWidget(part, 1 if i == stretch else 0)
    if stretch < 0:
        line.addStretch(1)
    return line


class Measure(QWidget):
    """How far one control differs: its name, a bar and the amount."""

    def __init__(self, theme: Theme, name: str, share: float, amount: str) -> None:
        super().__init__()
        self._theme, self._name, self._share, self._amount = theme, name, share, amount
        self.setFixedHeight(22)
        self.setMinimumWidth(150)
        self.setAccessibleName(f"{name}: {amount}")

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        theme, painter = self._theme, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(theme.font(12))
        painter.setPen(theme.colour("text"))
        name = painter.fontMetrics().elidedText(self._name, Qt.TextElideMode.ElideRight, 76)
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(0, 0, 78, 22), middle, name)
        right = QRectF(self.width() - 44, 0, 44, 22)
        painter.drawText(right, middle | Qt.AlignmentFlag.AlignRight, self._amount)
        room = self.width() - 80 - 52
        if room > 8:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour("line"))
            painter.drawRoundedRect(QRectF(80, 9, room, 4), 2, 2)
            painter.setBrush(theme.colour("text"))
            painter.drawRoundedRect(QRectF(80, 9, max(room * self._share, 2), 4), 2, 2)
