"""Outlines of the figure at the keys before and after, with their frames."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen

from fox_hand.core.maths.rotations import Array
from fox_hand.session.app.needs import PosingInTime
from fox_hand.session.app.stage_composition import KEYED
from fox_hand.ui.stage.stage_paint import outline_path
from fox_hand.ui.theme.theme import Theme


class OnionSkin:
    """Asked for with the fine picture, painted over it.

    Args:
        theme, workspace: the window's.
    """

    def __init__(self, theme: Theme, workspace: PosingInTime) -> None:
        self._theme, self._workspace = theme, workspace
        self._paths: list[tuple[float, QPainterPath]] = []

    @property
    def on(self) -> bool:
        return self._workspace.settings.onion

    def take(self, found: Mapping[str, Sequence[Array]], scale: float) -> None:
        """Outlines have come with a picture."""
        self._paths = [
            (float(name.removeprefix(KEYED)), outline_path(lines, scale))
            for name, lines in found.items()
            if name.startswith(KEYED)
        ]

    def paint(self, painter: QPainter) -> None:
        """Dashed what comes before, solid what comes after; each with its frame."""
        if not self.on:
            return
        theme, here = self._theme, self._workspace.timing.frame
        for frame, path in self._paths:
            later = frame > here
            pen = QPen(theme.colour("ink", 0.62), 1.25)
            if not later:
                pen.setDashPattern([3.0, 3.0])
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPath(path)
        taken: list[QRectF] = []
        painter.setFont(theme.font(11, 600))
        for frame, path in self._paths:
            self._tag(painter, frame, path, taken, later=frame > here)

    def _tag(
        self,
        painter: QPainter,
        frame: float,
        path: QPainterPath,
        taken: list[QRectF],
        *,
        later: bool,
    ) -> None:
        theme, text = self._theme, f"{frame:g}"
        width = painter.fontMetrics().horizontalAdvance(text) + 12
        box = path.boundingRect()
        corner = QPointF(box.right() + 4 if later else box.left() - width - 4, box.top() + 12)
        plate = QRectF(corner.x(), corner.y(), width, 18)
        while any(plate.intersects(other) for other in taken):
            plate.translate(0, 22)
        taken.append(plate)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("ink" if later else "paper"))
        painter.drawRoundedRect(plate, 4, 4)
        painter.setPen(theme.colour("paper" if later else "ink"))
        painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, text)
