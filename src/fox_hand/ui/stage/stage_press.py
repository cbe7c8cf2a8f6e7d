"""What a press of the left button on the stage begins."""

from __future__ import annotations

from typing import Protocol

import numpy as np
from PySide6.QtCore import QPointF

from fox_hand.base.language import tr
from fox_hand.core.model.controls import ControlKind
from fox_hand.core.view.camera import Camera
from fox_hand.session.app.needs import Posing
from fox_hand.session.figures.figure import Figure
from fox_hand.ui.stage.gestures import DialTurn, FreeTurn, Gesture, Marquee, Shift, StageView
from fox_hand.ui.stage.handles import HandleLayout
from fox_hand.ui.stage.move_gizmo import MoveGizmo
from fox_hand.ui.stage.rotate_gizmo import RotateGizmo

BODY_REACH = 16.0  # how near to a joint of another figure a click has to be to let it act
FREE_STANDING = (ControlKind.GOAL, ControlKind.POLE, ControlKind.LOOK)


class Handled(StageView, Protocol):
    """A stage with handles on it."""

    @property
    def handles_on(self) -> bool: ...

    def layout_now(self) -> HandleLayout | None: ...

    def dial(self) -> RotateGizmo | None: ...

    def arrows(self) -> MoveGizmo | None: ...


def pressed(stage: Handled, workspace: Posing, at: QPointF, add: bool, through: bool) -> Gesture:
    """A grip of the dial, an arrow, a handle, or the ground.

    Args:
        stage, workspace: where, and what is edited.
        at: widget pixels.
        add: Shift: add to the selection or take away.
        through: Alt: the handle behind the one that is selected.
    """
    layout = stage.layout_now()
    if stage.handles_on:
        dial, arrows = stage.dial(), stage.arrows()
        axis = dial.hit(at) if dial is not None else None
        if dial is not None and axis is not None:
            return DialTurn(stage, workspace, dial, axis, at)
        arrow = arrows.hit(at) if arrows is not None else None
        if arrows is not None and arrow is not None:
            return Shift(stage, workspace, at, arrow, arrows.ways[arrow])
    row = _row_at(workspace, layout if stage.handles_on else None, at, through)
    if row is None:
        return Marquee(stage, at, add)
    if add:
        workspace.selection.toggle([row])
    elif row not in workspace.selection:
        workspace.selection.set([row])
    else:  # pressed again: it becomes the one with the dial
        workspace.selection.set([*(r for r in workspace.selection.rows if r != row), row])
    assert workspace.actor is not None
    control = workspace.actor.rig.controls[row]
    if control.kind in FREE_STANDING and len(workspace.selection):
        return Shift(stage, workspace, at, None, None)
    return FreeTurn(stage, workspace, at, tr("Turn {word}", word=workspace.actor.rig.word(row)))


def _row_at(
    workspace: Posing, layout: HandleLayout | None, at: QPointF, through: bool
) -> int | None:
    if layout is None:
        return None
    if through:
        rows = workspace.selection.rows
        return layout.through(at, rows[-1] if rows else None)
    return layout.nearest(at)


def figure_at(
    workspace: Posing, camera: Camera, size: tuple[int, int], at: QPointF
) -> Figure | None:
    """A member of the cast that does not act, where the pointer is on its figure."""
    for actor in workspace.cast.actors:
        if actor is not workspace.actor:
            points = camera.project(actor.handles(), *size)
            far = np.hypot(points[:, 0] - at.x(), points[:, 1] - at.y())
            if far[points[:, 2] > 0].min(initial=np.inf) < BODY_REACH:
                return actor
    return None
