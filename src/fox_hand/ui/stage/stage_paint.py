"""What the stage paints on top of its picture."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from PySide6.QtCore import QPointF, QRect, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen, QPixmap, QPolygonF

from fox_hand.core.maths.rotations import Array
from fox_hand.session.app.needs import Posing
from fox_hand.ui.stage.handles import HandleLayout, HandleStamps, HandleState
from fox_hand.ui.theme.theme import Theme

CHECK = 12  # pixels of a square where the ground is transparent
LEAD = 20  # pixels from the ends of a shelf where a line may arrive
MANY = 6  # selected controls from which on their rings are drawn small


def outline_path(lines: Iterable[Array], scale: float) -> QPainterPath:
    """Closed lines in picture pixels as a path."""
    path = QPainterPath()
    for line in lines:
        path.addPolygon(QPolygonF([QPointF(x, y) for x, y in (line * scale).tolist()]))
        path.closeSubpath()
    return path


def paint_checks(painter: QPainter, theme: Theme, rect: QRect) -> None:
    """What is seen through where nothing is drawn."""
    painter.fillRect(rect, theme.colour("stage_middle"))
    tile = QPixmap(2 * CHECK, 2 * CHECK)
    tile.fill(Qt.GlobalColor.transparent)
    square = QPainter(tile)
    for at in (0, CHECK):
        square.fillRect(at, at, CHECK, CHECK, theme.colour("ink", 0.07))
    square.end()
    painter.drawTiledPixmap(rect, tile)


def paint_lead(painter: QPainter, theme: Theme, handle: QPointF, shelf: QRect) -> None:
    """A line from a part's handle to the nearer edge of the shelf of its drawings, level where
    that is high enough."""
    across = shelf.left() if handle.x() < shelf.center().x() else shelf.right()
    down = min(max(handle.y(), shelf.top() + LEAD), shelf.bottom() - LEAD)
    for width, token in ((3, "paper"), (1, "ink")):
        painter.setPen(QPen(theme.colour(token, 0.5 if width > 1 else 1.0), width))
        painter.drawLine(handle, QPointF(across, down))


def paint_outlines(
    painter: QPainter,
    theme: Theme,
    outline: QPainterPath | None,
    ghost: QPainterPath | None,
    peek: QPainterPath | None,
) -> None:
    """Solid around what is selected, dashed where the figure stood before a card, tinted where a
    card that is only looked at would bring it."""
    if peek is not None:
        painter.setPen(QPen(theme.colour("accent"), 1.5))
        painter.setBrush(theme.colour("accent", 0.22))
        painter.drawPath(peek)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if outline is not None:
        for width, token in ((4.0, "paper"), (1.75, "ink")):
            painter.setPen(QPen(theme.colour(token), width))
            painter.drawPath(outline)
    if ghost is not None:
        pen = QPen(theme.colour("ink", 0.62), 1.25)
        pen.setDashPattern([3.0, 3.0])
        painter.setPen(pen)
        painter.drawPath(ghost)


def paint_handles(
    painter: QPainter,
    stamps: HandleStamps,
    workspace: Posing,
    layout: HandleLayout,
    pointed: int | None,
) -> None:
    """The handles of the acting figure, the farthest first."""
    actor, mix = workspace.actor, workspace.mix_commands.touching
    if actor is None:
        return
    differs, locked = actor.differs(), actor.locked_rows()
    reach = mix.reach() if mix is not None else np.zeros(len(differs))
    many = len(workspace.selection) > MANY
    for row in np.argsort(-layout.points[:, 2], kind="stable").tolist():
        if layout.shown[row]:
            state = HandleState(
                kind=actor.rig.controls[row].kind,
                selected=row in workspace.selection,
                moved=bool(differs[row]),
                pointed=row == pointed,
                touched=max(float(reach[row]), 1 / 12) if reach[row] > 0.004 else 0.0,
                small=many,
                locked=row in locked,
                swaps=row in actor.rig.swaps,
            )
            x, y = layout.points[row, :2].tolist()
            stamps.draw(painter, x, y, state)
