"""The square on the stage that is the picture of the card."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPolygonF,
    QTransform,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from fox_hand.base.language import tr
from fox_hand.core.view.camera import Camera
from fox_hand.session.figures.figure import Figure
from fox_hand.ui.stage.stage_view import Stage
from fox_hand.ui.theme.theme import Theme

SMALLEST = 64.0
GRIP = 10.0
BAR = 56  # pixels at the stage's lower edge, where the bar of the picture is
SNAP = 0.05  # radians
CURSORS = {
    "": Qt.CursorShape.ArrowCursor,
    "corner": Qt.CursorShape.SizeFDiagCursor,
    "turner": Qt.CursorShape.OpenHandCursor,
    "inside": Qt.CursorShape.SizeAllCursor,
}


class CaptureFrame(QWidget):
    """Drag it to move, a corner or the wheel to size, the round grip to turn; right drag still
    turns the stage."""

    changed = Signal()

    def __init__(self, theme: Theme, stage: Stage) -> None:
        super().__init__(stage)
        self._theme, self._stage = theme, stage
        self.square = QRectF(0, 0, 200, 200)
        self.turn = 0.0  # radians, counterclockwise
        self._drag: tuple[QPointF, QRectF, str] | None = None
        self.setMouseTracking(True)
        self.setAccessibleName(tr("Frame of the picture"))
        self.hide()
        stage.camera_changed.connect(self.changed)

    def camera(self) -> Camera:
        """The camera whose picture is exactly what the square shows."""
        centre = self.square.center()
        stage = self._stage
        straight = stage.camera.cut_out(
            centre.x(), centre.y(), self.square.width(), stage.width(), stage.height()
        )
        return straight.turned(self.turn) if self.turn else straight

    def show_camera(self, camera: Camera) -> None:
        """Move the stage and the square so that the square shows what a camera saw."""
        stage = self._stage
        self.turn = camera.roll
        flat = camera.turned(-camera.roll)
        wide = replace(flat, fov=Camera.fov, shift=(0.0, 0.0))
        stage.set_camera(wide)
        half = float(np.tan(camera.fov / 2) / np.tan(wide.fov / 2))
        across, upwards = flat.shift[0] * half, flat.shift[1] * half
        x = stage.width() / 2 + across * stage.height() / 2
        y = stage.height() / 2 - upwards * stage.height() / 2
        side = half * stage.height()
        self.set_square(QRectF(x - side / 2, y - side / 2, side, side))

    def frame(self, actor: Figure, rows: list[int]) -> None:
        """Put the square around some controls; if they are too small or out of sight on the
        stage, the stage moves nearer first."""
        self.turn = 0.0
        stage = self._stage
        nodes = actor.flesh_nodes(rows) if rows else None
        # of most of a figure some vertices are enough: the margin is wider than what they miss
        most = nodes is None or 2 * len(nodes) > len(actor.rig.skeleton)
        points = actor.rig.flesh(actor.at, nodes, every=6 if most else 1)
        square = self._around(points)
        seen = QRectF(stage.rect()).adjusted(8, 8, -8, -BAR)
        if square.width() < 150 or not seen.contains(square):
            aspect = stage.width() / max(stage.height(), 1)
            stage.set_camera(stage.camera.framing(points, aspect, 2.1))
            square = self._around(points)
        self.set_square(square)

    def _around(self, points: np.ndarray) -> QRectF:
        stage = self._stage
        flat = stage.camera.project(points, stage.width(), stage.height())[:, :2]
        low, high = flat.min(0), flat.max(0)
        centre = (low + high) / 2
        side = max(float((high - low).max()) * 1.14, SMALLEST)
        return QRectF(centre[0] - side / 2, centre[1] - side / 2, side, side)

    def set_square(self, square: QRectF) -> None:
        """Keep the square on the stage."""
        side = min(max(square.width(), SMALLEST), self._stage.width(), self._stage.height())
        centre = square.center()
        x = min(max(centre.x() - side / 2, 0), self._stage.width() - side)
        y = min(max(centre.y() - side / 2, 0), self._stage.height() - side)
        self.square = QRectF(round(x), round(y), round(side), round(side))
        self.update()
        self.changed.emit()

    def set_turn(self, turn: float) -> None:
        """Turn the picture; near upright it snaps."""
        self.turn = 0.0 if abs(turn) < SNAP else turn
        self.update()
        self.changed.emit()

    def _own(self, at: QPointF) -> QPointF:
        """A point as the square would see it if it stood upright."""
        d = at - self.square.center()
        c, s = float(np.cos(self.turn)), float(np.sin(self.turn))
        return self.square.center() + QPointF(c * d.x() - s * d.y(), s * d.x() + c * d.y())

    def _turner(self) -> QPointF:
        """Where the grip that turns is, of the upright square: above it, or where there is no
        room, below its upper edge."""
        s = self.square
        return QPointF(s.center().x(), s.top() - 22 if s.top() >= 32 else s.top() + 22)

    def _part_at(self, at: QPointF) -> str:
        """What a point is on: ``corner``, ``turner``, ``inside``, or nothing."""
        s, own = self.square, self._own(at)
        corners = (s.topLeft(), s.topRight(), s.bottomLeft(), s.bottomRight())
        if any(_near(c, own) for c in corners):
            return "corner"
        if _near(self._turner(), own):
            return "turner"
        return "inside" if s.contains(own) else ""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if event.button() is not Qt.MouseButton.LeftButton:
            event.ignore()  # the stage turns
            return
        part = self._part_at(at)
        if part:
            self._drag = (at, self.square, part)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._drag is None:
            self.setCursor(CURSORS[self._part_at(at)])
            event.ignore()
            return
        start, square, part = self._drag
        if part == "turner":
            d = at - square.center()
            self.set_turn(float(np.arctan2(-d.x(), -d.y())))
        elif part == "corner":
            centre = square.center()
            d = self._own(at) - centre
            half = max(abs(d.x()), abs(d.y()))
            self.set_square(QRectF(centre.x() - half, centre.y() - half, half * 2, half * 2))
        else:
            self.set_square(square.translated(at - start))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._drag is None:
            event.ignore()
        self._drag = None

    def wheelEvent(self, event: QWheelEvent) -> None:
        if not self.square.contains(event.position()):
            event.ignore()
            return
        side = self.square.width() * (0.94 if event.angleDelta().y() > 0 else 1 / 0.94)
        centre = self.square.center()
        self.set_square(QRectF(centre.x() - side / 2, centre.y() - side / 2, side, side))

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        around = QPainterPath()
        around.addRect(QRectF(self.rect()))
        turning = QTransform()
        middle = self.square.center()
        turning.translate(middle.x(), middle.y()).rotate(-float(np.degrees(self.turn)))
        turning.translate(-middle.x(), -middle.y())
        around.addPolygon(turning.map(QPolygonF(self.square)))
        around.setFillRule(Qt.FillRule.OddEvenFill)
        painter.fillPath(around, self._theme.colour("ink", 0.42))
        painter.setTransform(turning)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(self._theme.colour("accent"), 2))
        painter.drawRect(self.square)
        s = self.square
        for third in (1 / 3, 2 / 3):
            x, y = s.left() + s.width() * third, s.top() + s.height() * third
            for a, b in (
                (QPointF(x, s.top()), QPointF(x, s.top() + 6)),
                (QPointF(x, s.bottom() - 6), QPointF(x, s.bottom())),
                (QPointF(s.left(), y), QPointF(s.left() + 6, y)),
                (QPointF(s.right() - 6, y), QPointF(s.right(), y)),
            ):
                painter.drawLine(a, b)
        painter.setPen(QPen(self._theme.colour("ink"), 1.5))
        painter.setBrush(self._theme.colour("paper"))
        for corner in (s.topLeft(), s.topRight(), s.bottomLeft(), s.bottomRight()):
            painter.drawRoundedRect(QRectF(corner.x() - 5, corner.y() - 5, 10, 10), 2, 2)
        painter.drawEllipse(self._turner(), 5.5, 5.5)


def _near(a: QPointF, b: QPointF) -> bool:
    return bool(np.hypot(a.x() - b.x(), a.y() - b.y()) <= GRIP)
