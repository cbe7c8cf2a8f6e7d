"""Themes to choose from, each as a small window that wears it."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QButtonGroup, QHBoxLayout, QSizePolicy, QWidget

from fox_hand.base.language import tr
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.theme.tokens import DUSK, PAPER, Tokens

WIDE, HIGH, NAME = 132, 84, 24
WORN: Mapping[str, tuple[str, tuple[Tokens, Tokens]]] = {
    "dusk": (tr("Dusk"), (DUSK, DUSK)),
    "paper": (tr("Paper"), (PAPER, PAPER)),
    "desktop": (tr("As the desktop"), (PAPER, DUSK)),
}


class ThemeTile(QAbstractButton):
    """One of them."""

    def __init__(self, theme: Theme, name: str) -> None:
        super().__init__()
        self._theme = theme
        word, self._tokens = WORN[name]
        self.setText(word)
        self.setAccessibleName(tr("Theme: {word}", word=word))
        self.setCheckable(True)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)

    def sizeHint(self) -> QSize:
        return QSize(WIDE + 8, HIGH + 8 + NAME)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        theme, painter = self._theme, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        rect = QRectF(4, 4, WIDE, HIGH)
        path = QPainterPath()
        path.addRoundedRect(rect, 6, 6)
        painter.save()
        painter.setClipPath(path)
        left, right = self._tokens
        paint_small(painter, rect, left)
        if right is not left:  # the other one from corner to corner
            half = QPainterPath(rect.topRight())
            half.lineTo(rect.bottomRight())
            half.lineTo(rect.bottomLeft() + QPointF(rect.width() * 0.2, 0))
            half.lineTo(rect.topRight() - QPointF(rect.width() * 0.2, 0))
            painter.setClipPath(half, Qt.ClipOperation.IntersectClip)
            paint_small(painter, rect, right)
        painter.restore()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        chosen = self.isChecked()
        painter.setPen(QPen(theme.colour("text" if chosen else "line"), 2 if chosen else 1))
        painter.drawRoundedRect(rect.adjusted(-2, -2, 2, 2) if chosen else rect, 8, 8)
        if self.hasFocus():
            painter.setPen(QPen(theme.colour("text"), 1, Qt.PenStyle.DotLine))
            painter.drawRoundedRect(rect.adjusted(3, 3, -3, -3), 5, 5)
        painter.setPen(theme.colour("text"))
        painter.setFont(theme.font(12, 600 if chosen else 400))
        below = QRectF(4, HIGH + 8, WIDE, NAME)
        painter.drawText(below, Qt.AlignmentFlag.AlignCenter, self.text())


def paint_small(painter: QPainter, rect: QRectF, tokens: Tokens) -> None:
    """A window with its columns, a figure and some words."""

    def box(x: float, y: float, w: float, h: float, colour: str, round_by: float = 0.0) -> None:
        painter.setBrush(QColor(colour))
        painter.drawRoundedRect(QRectF(rect.left() + x, rect.top() + y, w, h), round_by, round_by)

    painter.setPen(Qt.PenStyle.NoPen)
    wide, high = rect.width(), rect.height()
    box(0, 0, wide, high, tokens.window)
    box(0, 10, 30, high, tokens.panel)
    box(31, 10, wide - 74, high - 30, tokens.stage_middle)
    box(wide - 42, 10, 42, high, tokens.panel)
    box(31, high - 19, wide - 74, 19, tokens.raised)
    box(50, 22, 14, 30, "#1F7F8C", 7)
    box(6, 20, 18, 4, tokens.text, 2)
    box(6, 28, 12, 4, tokens.quiet, 2)
    box(wide - 36, 20, 26, 4, tokens.text, 2)
    for row in range(2):
        for column in range(2):
            box(wide - 36 + column * 15, 30 + row * 17, 12, 14, tokens.high, 2)
    box(36, high - 13, 26, 7, tokens.accent, 3)


class ThemeTiles(QWidget):
    """All of them, one chosen; the arrows go from one to the next."""

    chosen = Signal(str)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.tiles = {name: ThemeTile(theme, name) for name in WORN}
        group = QButtonGroup(self)
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(8)
        for name, tile in self.tiles.items():
            group.addButton(tile)
            line.addWidget(tile)
            tile.clicked.connect(partial(self.chosen.emit, name))

    def show_choice(self, name: str) -> None:
        """Which one is worn."""
        self.tiles[name].setChecked(True)
