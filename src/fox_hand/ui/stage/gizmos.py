"""Which gizmo the control selected last has on the stage."""

from __future__ import annotations

from PySide6.QtCore import QPointF

from fox_hand.core.model.controls import Channel, Control, ControlKind
from fox_hand.core.view.camera import Camera
from fox_hand.session.app.needs import Posing
from fox_hand.session.figures.figure import Figure
from fox_hand.ui.stage.handles import HandleLayout
from fox_hand.ui.stage.move_gizmo import MoveGizmo
from fox_hand.ui.stage.rotate_gizmo import RotateGizmo


def dial_of(work: Posing, layout: HandleLayout) -> RotateGizmo | None:
    """The dial of the control selected last, if it can turn."""
    found = _selected_last(work, layout)
    if found is None or Channel.TURN not in found[2].channels:
        return None
    axes = (2,) if found[0].rig.flat else (0, 1, 2)  # drawings turn in their plane
    return RotateGizmo(centre_of(layout, found[1]), found[2].axis_words, axes=axes)


def arrows_of(work: Posing, layout: HandleLayout, camera: Camera) -> MoveGizmo | None:
    """Arrows of the control selected last, if it can be moved."""
    found = _selected_last(work, layout)
    if found is None or Channel.MOVE not in found[2].channels:
        return None
    actor, row, control = found
    every = len(control.channels) == len(Channel) and control.kind is ControlKind.JOINT
    if every and not actor.rig.flat:
        return None  # a file that says nothing lets every joint move, which nobody wants
    return MoveGizmo.of(centre_of(layout, row), actor.at.nodes[control.node], camera)


def centre_of(layout: HandleLayout, row: int) -> QPointF:
    """Where a handle is, pixels."""
    return QPointF(float(layout.points[row, 0]), float(layout.points[row, 1]))


def _selected_last(work: Posing, layout: HandleLayout) -> tuple[Figure, int, Control] | None:
    actor = work.actor
    if actor is None or not len(work.selection):
        return None
    row = work.selection.rows[-1]
    in_front = layout.points[row, 2] > 0
    return (actor, row, actor.rig.controls[row]) if in_front else None
