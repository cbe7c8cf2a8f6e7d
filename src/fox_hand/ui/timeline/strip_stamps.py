"""Keys as they are drawn on the strip: every look once, stamped after that."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPixmap, QPolygonF

from fox_hand.ui.theme.theme import Theme

HALF = 12  # logical pixels from the middle to the edge of a stamp


@dataclass(frozen=True)
class KeyLook:
    """How a key is drawn.

    Args:
        size: pixels from the middle to a corner of a diamond.
        ring: colour around it; empty where it is not selected.
        edge: colour of the part of the body, for keys from a card, which are squares; empty for
            diamonds, keys by hand.
    """

    size: int = 4
    ring: str = ""
    edge: str = ""


class KeyStamps:
    """Thousands of keys may be in sight; to build each of them anew takes ten times as long."""

    def __init__(self, theme: Theme) -> None:
        self._theme = theme
        self._stamps: dict[tuple[KeyLook, float, int], QPixmap] = {}

    def draw(self, painter: QPainter, x: float, y: float, key: KeyLook) -> None:
        """Stamp a key with its middle at a point."""
        ratio = painter.device().devicePixelRatioF()
        kept = key, ratio, self._theme.age
        stamp = self._stamps.get(kept)
        if stamp is None:
            stamp = self._stamps[kept] = self._made(key, ratio)
        painter.drawPixmap(QPointF(x - HALF, y - HALF), stamp)

    def _made(self, key: KeyLook, ratio: float) -> QPixmap:
        size = round(2 * HALF * ratio)
        stamp = QPixmap(size, size)
        stamp.setDevicePixelRatio(ratio)
        stamp.fill(Qt.GlobalColor.transparent)
        painter = QPainter(stamp)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if key.edge:
            self._square(painter, key)
        else:
            self._diamond(painter, key)
        painter.end()
        return stamp

    def _square(self, painter: QPainter, key: KeyLook) -> None:
        theme, box = self._theme, QRectF(HALF - 3.5, HALF - 3.5, 7, 7)
        painter.fillRect(box, theme.colour("text"))
        painter.fillRect(QRectF(box.left(), box.top(), 2, 7), theme.colour(key.edge))
        if key.ring:
            painter.setPen(QPen(theme.colour(key.ring), 1.5))
            painter.drawRect(box.adjusted(-2, -2, 2, 2))

    def _diamond(self, painter: QPainter, key: KeyLook) -> None:
        theme = self._theme
        if key.ring:
            painter.setPen(QPen(theme.colour(key.ring), 1.5))
            painter.drawPolygon(_corners(key.size + 3))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("text"))
        painter.drawPolygon(_corners(key.size))


def _corners(size: float) -> QPolygonF:
    at = ((0, -size), (size, 0), (0, size), (-size, 0))
    return QPolygonF([QPointF(HALF + x, HALF + y) for x, y in at])
