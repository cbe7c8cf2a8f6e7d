"""Arrows along the own axes of a control that can be moved."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from fox_hand.core.maths.rotations import Array
from fox_hand.core.maths.transforms import directions
from fox_hand.core.view.camera import Camera
from fox_hand.ui.theme.theme import Theme

NEAR, FAR = 38.0, 62.0  # pixels from the handle to where an arrow begins and ends
REACH = 9.0
FACING = 0.12  # an arrow that points at the eye is not shown
LETTERS = "xyz"


@dataclass(frozen=True, eq=False)
class MoveGizmo:
    """Three arrows on the stage.

    Args:
        centre: widget pixels.
        ways: how each axis is seen, in pixels per unit length of one lying across the picture;
            shorter than :data:`FACING` where it points at the eye.
    """

    centre: QPointF
    ways: tuple[QPointF, QPointF, QPointF]

    @staticmethod
    def of(centre: QPointF, matrix: Array, camera: Camera) -> MoveGizmo:
        """The arrows of a node with world matrix ``(4, 4)``."""
        seen = camera.view()[:3, :3] @ directions(matrix[:3, :3])
        ways = [QPointF(float(seen[0, i]), float(-seen[1, i])) for i in range(3)]
        return MoveGizmo(centre, (ways[0], ways[1], ways[2]))

    def shown(self, axis: int) -> bool:
        return _length(self.ways[axis]) > FACING

    def tip(self, axis: int) -> QPointF:
        """The end of an arrow."""
        return self.centre + self.ways[axis] / max(_length(self.ways[axis]), 1e-6) * FAR

    def hit(self, at: QPointF) -> int | None:
        """The axis whose arrow head is under the pointer."""
        for axis in range(3):
            d = self.tip(axis) - at
            if self.shown(axis) and np.hypot(d.x(), d.y()) <= REACH:
                return axis
        return None


def draw_arrows(painter: QPainter, theme: Theme, arrows: MoveGizmo, pointed: int | None) -> None:
    """Lines with heads, each with its letter."""
    ink, paper = theme.colour("ink"), theme.colour("paper")
    for axis in range(3):
        if not arrows.shown(axis):
            continue
        way = arrows.ways[axis] / _length(arrows.ways[axis])
        start, end = arrows.centre + way * NEAR, arrows.tip(axis)
        for colour, width in ((paper, 4.0), (ink, 2.0 if axis == pointed else 1.25)):
            painter.setPen(QPen(colour, width))
            painter.drawLine(start, end - way * 6)
        side = QPointF(-way.y(), way.x()) * (6.5 if axis == pointed else 5.0)
        head = QPolygonF([end + way * 4, end - way * 7 + side, end - way * 7 - side])
        painter.setPen(QPen(ink, 1.25))
        painter.setBrush(ink if axis == pointed else paper)
        painter.drawPolygon(head)
        painter.setFont(theme.font(11, 600))
        painter.setPen(ink)
        at = end + way * 13
        painter.drawText(
            round(at.x() - 4), round(at.y() - 8), 8, 16, Qt.AlignmentFlag.AlignCenter, LETTERS[axis]
        )


def _length(v: QPointF) -> float:
    return float(np.hypot(v.x(), v.y()))
