"""How a control looks on the figure drawing."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from fox_hand.core.model.controls import ControlKind
from fox_hand.ui.theme.theme import Theme


@dataclass(frozen=True)
class Dot:
    """The state of one control.

    Args:
        kind: joints and holders are dots, goals squares, poles diamonds, targets rings.
        selected: a ring around it.
        differs: filled: away from rest.
        reach: how far a card moves it, 0...1; orange, and larger for more.
        pointed, current: under the pointer; where the keyboard is.
        idle: moves nothing as the settings stand; paler.
        locked: a bar across it.
    """

    kind: ControlKind
    selected: bool
    differs: bool
    reach: float
    pointed: bool
    current: bool
    idle: bool
    locked: bool


def paint_dot(painter: QPainter, theme: Theme, at: QPointF, dot: Dot) -> None:
    """Paint one control of the drawing."""
    grow = 1.0 if dot.pointed else 0.0
    painter.setOpacity(0.45 if dot.idle and not dot.selected and not dot.pointed else 1.0)
    if dot.current:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.colour("accent"), 1.5))
        painter.drawEllipse(at, 7.0, 7.0)
    if dot.selected:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.colour("text"), 1.25))
        _shape(painter, at, 4.75, dot.kind)
    if dot.reach > 0.004:
        painter.setPen(QPen(theme.colour("ink"), 0.75))
        painter.setBrush(theme.colour("accent"))
        _shape(painter, at, 1.5 + 2.75 * dot.reach + grow, dot.kind)
    elif dot.differs:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("text"))
        _shape(painter, at, 2.5 + grow, dot.kind)
    else:
        painter.setBrush(theme.colour("panel"))
        painter.setPen(QPen(theme.colour("figure_line"), 1.0))
        _shape(painter, at, 2.0 + grow, dot.kind)
    if dot.locked:
        painter.setPen(QPen(theme.colour("text"), 1.25))
        painter.drawLine(at + QPointF(-3.5, 3.5), at + QPointF(3.5, -3.5))
    painter.setOpacity(1.0)


def _shape(painter: QPainter, at: QPointF, radius: float, kind: ControlKind) -> None:
    if kind is ControlKind.GOAL:
        side = radius * 1.05
        painter.drawRect(QRectF(at.x() - side, at.y() - side, side * 2, side * 2))
    elif kind is ControlKind.POLE:
        r = radius * 1.4
        corners = (QPointF(0, -r), QPointF(r, 0), QPointF(0, r), QPointF(-r, 0))
        painter.drawPolygon(QPolygonF([at + c for c in corners]))
    else:
        painter.drawEllipse(at, radius, radius)
        if kind is ControlKind.LOOK:
            painter.drawPoint(at)
