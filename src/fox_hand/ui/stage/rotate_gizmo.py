"""The dial of a selected joint: one ring with a grip for each of its own axes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from fox_hand.ui.theme.theme import Theme

RADIUS = 26.0
# where the grips sit, degrees anticlockwise from the right: bend, twist, sway
PLACES = (225.0, 45.0, 135.0)


@dataclass(frozen=True)
class RotateGizmo:
    """A dial on the stage.

    Args:
        centre: widget pixels.
        words: names of the turns about x, y, z.
        active: axis being turned, None for none.
        swept: degrees turned in this drag.
        value: degrees of the active channel, shown in the tag.
        axes: those that have a grip.
    """

    centre: QPointF
    words: tuple[str, str, str]
    active: int | None = None
    swept: float = 0.0
    value: float = 0.0
    axes: tuple[int, ...] = (0, 1, 2)

    def grip(self, axis: int) -> QPointF:
        """Middle of a grip; the active one travels with the drag."""
        place = PLACES[axis] + (self.swept if axis == self.active else 0.0)
        angle = np.radians(place)
        return self.centre + QPointF(np.cos(angle) * RADIUS, -np.sin(angle) * RADIUS)

    def hit(self, at: QPointF) -> int | None:
        """The axis whose grip is under the pointer."""
        for axis in self.axes:
            d = self.grip(axis) - at
            if np.hypot(d.x(), d.y()) <= 9.0:
                return axis
        return None

    def angle_at(self, at: QPointF) -> float:
        """Degrees anticlockwise from the right, seen from the centre."""
        d = at - self.centre
        return float(np.degrees(np.arctan2(-d.y(), d.x())))


def draw_dial(painter: QPainter, theme: Theme, dial: RotateGizmo, pointed: int | None) -> None:
    """Ring, grips, and while turning the swept arc and a tag with the value."""
    ink, paper = theme.colour("ink"), theme.colour("paper")
    ring = QRectF(dial.centre.x() - RADIUS, dial.centre.y() - RADIUS, RADIUS * 2, RADIUS * 2)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(paper, 4))
    painter.drawEllipse(ring)
    painter.setPen(QPen(ink, 1.5))
    painter.drawEllipse(ring)
    if dial.active is not None and abs(dial.swept) > 0.01:
        painter.setPen(QPen(theme.colour("accent"), 3))
        painter.drawArc(ring, round(PLACES[dial.active] * 16), round(dial.swept * 16))
    for axis in dial.axes:
        at = dial.grip(axis)
        turned = PLACES[axis] + (dial.swept if axis == dial.active else 0.0)
        painter.save()
        painter.translate(at)
        painter.rotate(90 - turned)
        on = axis in (dial.active, pointed)
        painter.setPen(QPen(ink, 1.5))
        painter.setBrush(theme.colour("accent") if on else paper)
        painter.drawRoundedRect(QRectF(-7, -4, 14, 8), 4, 4)
        painter.restore()
    named = dial.active if dial.active is not None else pointed
    if named is not None:
        text = dial.words[named]
        if dial.active is not None:
            text += f" {dial.value:.0f}°"
        draw_tag(painter, theme, dial.centre + QPointF(RADIUS + 16, 8), text)


def draw_tag(painter: QPainter, theme: Theme, at: QPointF, text: str) -> None:
    """A small dark label whose left edge is at a point."""
    painter.setFont(theme.font(12, 600))
    width = painter.fontMetrics().horizontalAdvance(text) + 16
    rect = QRectF(round(at.x()), round(at.y() - 10), width, 20)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour("ink"))
    painter.drawRoundedRect(rect, 4, 4)
    painter.setPen(theme.colour("paper"))
    painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, text)
