"""How far a part turns, as an arc about its pivot whose ends can be pulled."""

from __future__ import annotations

import math
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from fox_hand.ui.theme.theme import Theme

RADIUS, REACH, TICK = 64.0, 10.0, 7.0


@dataclass(frozen=True)
class LimitArc:
    """The arc of one part.

    Args:
        middle: the pivot, widget pixels.
        rest: where the part points at rest, radians, counterclockwise from the right.
        low, high: how far it turns, radians.
    """

    middle: QPointF
    rest: float
    low: float
    high: float

    def end(self, which: int) -> QPointF:
        """Where the lower (0) or the upper end (1) is."""
        angle = self.rest + (self.high if which else self.low)
        return self.middle + QPointF(math.cos(angle), -math.sin(angle)) * RADIUS

    def hit(self, at: QPointF) -> int | None:
        """Which end is under the pointer."""
        for which in (0, 1):
            away = self.end(which) - at
            if math.hypot(away.x(), away.y()) <= REACH:
                return which
        return None

    def paint(self, painter: QPainter, theme: Theme, held: int | None) -> None:
        """The arc, its ends, and how many degrees they are."""
        box = QRectF(self.middle.x() - RADIUS, self.middle.y() - RADIUS, 2 * RADIUS, 2 * RADIUS)
        painter.setPen(QPen(theme.colour("ink"), 1.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        begin, span = math.degrees(self.rest + self.low), math.degrees(self.high - self.low)
        painter.drawArc(box, round(begin * 16), round(min(span, 360.0) * 16))
        for which, angle in ((0, self.low), (1, self.high)):
            at = self.end(which)
            out = (at - self.middle) / RADIUS
            colour = "accent" if held == which else "ink"
            painter.setPen(QPen(theme.colour(colour), 2.5))
            painter.drawLine(at - out * TICK, at + out * TICK)
            self._label(painter, theme, at + out * 22, f"{math.degrees(angle):.0f}°")

    @staticmethod
    def _label(painter: QPainter, theme: Theme, at: QPointF, text: str) -> None:
        painter.setFont(theme.font(11, 600))
        width = painter.fontMetrics().horizontalAdvance(text) + 12
        rect = QRectF(at.x() - width / 2, at.y() - 9, width, 18)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("panel"))
        painter.drawRoundedRect(rect, 4, 4)
        painter.setPen(theme.colour("text"))
        painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, text)
