"""Mirroring the figure: whole, one side onto the other, sides exchanged, or what is selected."""

from __future__ import annotations

from collections.abc import Collection
from enum import StrEnum

import numpy as np

from fox_hand.base.language import tr
from fox_hand.base.words import some_of
from fox_hand.core.model.controls import Side
from fox_hand.core.pose.mirror import mirror
from fox_hand.core.pose.sides import partner_row
from fox_hand.core.rig.rig import Rig
from fox_hand.session.app.needs import Posing
from fox_hand.session.figures.figure import Edit


class Mirroring(StrEnum):
    """What is mirrored; the words are those of the menu and the history."""

    WHOLE = "Mirror the figure"
    SWAP = "Exchange left and right"
    LEFT_ONTO_RIGHT = "Left onto right"
    RIGHT_ONTO_LEFT = "Right onto left"
    SELECTED = "Mirror the selected"
    SELECTED_OVER = "Selected onto the other side"

    @property
    def word(self) -> str:
        """What people read."""
        return _MIRRORING_WORDS[self]


_MIRRORING_WORDS = {
    Mirroring.WHOLE: tr("Mirror the figure"),
    Mirroring.SWAP: tr("Exchange left and right"),
    Mirroring.LEFT_ONTO_RIGHT: tr("Left onto right"),
    Mirroring.RIGHT_ONTO_LEFT: tr("Right onto left"),
    Mirroring.SELECTED: tr("Mirror the selected"),
    Mirroring.SELECTED_OVER: tr("Selected onto the other side"),
}


def rows_onto(rig: Rig, what: Mirroring, selected: Collection[int]) -> set[int]:
    """The controls that change: each takes the mirror image of its partner."""
    sides = {Mirroring.LEFT_ONTO_RIGHT: Side.RIGHT, Mirroring.RIGHT_ONTO_LEFT: Side.LEFT}
    rows = range(len(rig.controls))
    if what in sides:
        return {r for r in rows if rig.controls[r].side is sides[what]}
    if what is Mirroring.SWAP:
        return {r for r in rows if rig.controls[r].side is not Side.CENTRE}
    partners = {partner_row(rig, r) for r in selected}
    if what is Mirroring.SELECTED:
        return set(selected) | partners
    if what is Mirroring.SELECTED_OVER:
        return partners - set(selected) | {r for r in selected if partner_row(rig, r) == r}
    return set(rows)


def mirror_figure(workspace: Posing, what: Mirroring) -> str:
    """Mirror the acting figure as one undo step; what is being put on is kept first.

    Returns:
        a sentence about controls that could not land symmetrically; empty if all did.
    """
    workspace.keep_mix()
    actor = workspace.actor
    if actor is None:
        return ""
    rig = actor.rig
    if what in (Mirroring.SELECTED, Mirroring.SELECTED_OVER) and not len(workspace.selection):
        return tr("Nothing is selected. Select controls first, or mirror the figure.")
    onto = rows_onto(rig, what, workspace.selection.rows)
    wanted = mirror(rig, actor.state, onto)
    alone = [
        rig.word(r)
        for r, c in enumerate(rig.controls)
        if r in onto and c.partner not in rig.control_row and actor.differs()[r]
    ]
    edit = Edit(actor, workspace.history, what.word)
    edit.preview(wanted)
    held = np.flatnonzero(actor.state.differs_from(wanted, rig.settings_of)).tolist()
    edit.commit()
    return _told(alone, [rig.word(r) for r in held])


def _told(alone: list[str], held: list[str]) -> str:
    said = []
    if alone:
        said.append(
            tr(
                "{names} stayed: no partner is known. The character's Pairs show why.",
                names=some_of(alone),
            )
        )
    if held:
        said.append(
            tr("{names} could not go all the way: a lock or a limit holds.", names=some_of(held))
        )
    return " ".join(said)
