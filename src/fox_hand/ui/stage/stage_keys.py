"""Selecting and turning from the keyboard while the stage has the focus."""

from __future__ import annotations

from functools import partial

import numpy as np

from fox_hand.base.language import tr
from fox_hand.session.app.needs import Posing
from fox_hand.session.app.swapping import next_drawing, next_view
from fox_hand.session.figures.channels import turned_about_own_axis
from fox_hand.ui.widgets.key_map import KeyMap, LocalKey

STEP, FINE_STEP = np.radians(5.0), np.radians(1.0)
# keys that turn one way and the other, the axis of the joint, and what is said of it
TURNS = (
    (("Up", "Down"), 0, tr("bend by 5°; Shift by 1°")),
    (("Left", "Right"), 2, tr("sway")),
    (("PgUp", "PgDown"), 1, tr("twist")),
)


def stage_keys(workspace: Posing) -> KeyMap:
    """What keys mean on the stage."""
    step = partial(_select_next, workspace)
    keys = [
        LocalKey(("[",), partial(step, -1), tr("control before, after"), tr("[ and ]"), loose=True),
        LocalKey(("]",), partial(step, 1), loose=True),
    ]
    for name, act, words in (
        ("D", next_drawing, tr("drawing after, before of a part")),
        ("U", next_view, tr("view after, before of a puppet")),
    ):
        keys += [
            LocalKey(
                (name,), partial(act, workspace, 1), words, tr("{name}, Shift+{name}", name=name)
            ),
            LocalKey((f"Shift+{name}",), partial(act, workspace, -1)),
        ]
    for names, axis, words in TURNS:
        for name, sign in zip(names, (1, -1), strict=True):
            said = (words, ", ".join(names)) if sign > 0 else ("", "")
            turn, fine = (
                partial(_turn, workspace, axis, sign * size) for size in (STEP, FINE_STEP)
            )
            keys += [
                LocalKey((name,), turn, *said),
                LocalKey((f"Shift+{name}",), fine),
            ]
    return KeyMap(keys)


def _turn(workspace: Posing, axis: int, step: float) -> bool:
    actor, rows = workspace.actor, workspace.selection.rows
    if actor is None or not rows:
        return False
    edit = workspace.edit(tr("Turn {word}", word=actor.rig.word(rows[-1])))
    edit.preview(turned_about_own_axis(actor.rig, actor.state, rows, axis, float(step)))
    edit.commit()
    return True


def _select_next(workspace: Posing, step: int) -> bool:
    if workspace.actor is None:
        return False
    rows = sorted(workspace.actor.listed)
    last = workspace.selection.rows[-1] if len(workspace.selection) else None
    at = rows.index(last) + step if last in rows else (0 if step > 0 else -1)
    workspace.selection.set([rows[at % len(rows)]])
    return True
