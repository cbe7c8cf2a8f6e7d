"""Selecting and turning from the keyboard while the stage has the focus."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent

from fox_hand.session.app.needs import Posing
from fox_hand.session.figures.channels import turned_about_own_axis

STEP, FINE_STEP = np.radians(5.0), np.radians(1.0)
# key: axis of the joint (bend, twist, sway) and direction
TURNS = {
    Qt.Key.Key_Up: (0, 1),
    Qt.Key.Key_Down: (0, -1),
    Qt.Key.Key_PageUp: (1, 1),
    Qt.Key.Key_PageDown: (1, -1),
    Qt.Key.Key_Left: (2, 1),
    Qt.Key.Key_Right: (2, -1),
}
NEXT = {Qt.Key.Key_BracketRight: 1, Qt.Key.Key_BracketLeft: -1}


def stage_key(workspace: Posing, event: QKeyEvent) -> bool:
    """Do what a key means on the stage; False if it means nothing there."""
    key, actor = Qt.Key(event.key()), workspace.actor
    if actor is None:
        return False
    if key in NEXT:
        _select_next(workspace, NEXT[key])
        return True
    if key not in TURNS or not len(workspace.selection):
        return False
    axis, sign = TURNS[key]
    fine = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
    rows = workspace.selection.rows
    edit = workspace.edit(f"Turn {actor.rig.controls[rows[-1]].label}")
    step = float(sign * (FINE_STEP if fine else STEP))
    edit.preview(turned_about_own_axis(actor.rig, actor.state, rows, axis, step))
    edit.commit()
    return True


def _select_next(workspace: Posing, step: int) -> None:
    assert workspace.actor is not None
    rows = [r for r, c in enumerate(workspace.actor.rig.controls) if not c.helper]
    last = workspace.selection.rows[-1] if len(workspace.selection) else None
    at = rows.index(last) + step if last in rows else (0 if step > 0 else -1)
    workspace.selection.set([rows[at % len(rows)]])
