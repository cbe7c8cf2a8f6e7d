"""Limbs of the acting figure: which are meant, and switching them between joints and goal."""

from __future__ import annotations

from collections.abc import Iterable

from fox_hand.base.language import tr
from fox_hand.core.model.solvers import Limb
from fox_hand.core.pose.ik_fk_matching import goal_from_joints, joints_from_goal
from fox_hand.core.rig.rig import Rig
from fox_hand.session.app.needs import Posing


def limbs_of(rig: Rig, rows: Iterable[int]) -> list[Limb]:
    """Limbs that can be switched, of which a bone, the goal or the pole is among some controls."""
    nodes = {rig.controls[r].node for r in rows if rig.controls[r].moves_node}
    return [
        limb
        for limb in rig.limbs
        if limb.blend is not None
        and nodes & {limb.upper, limb.lower, limb.end, limb.goal, limb.pole}
    ]


def on_goal(workspace: Posing, limb: Limb) -> bool:
    """Whether a limb follows its goal, by half or more."""
    assert workspace.actor is not None and limb.blend is not None
    return float(workspace.actor.at.settings[limb.blend]) >= 0.5


def switch(workspace: Posing, limbs: list[Limb], goal: bool) -> None:
    """Hand limbs over to their goals or to their joints; the figure stays where it is.

    One undo step. What was selected of a limb goes over to what moves it now.
    """
    actor = workspace.actor
    if actor is None or not limbs:
        return
    names = limbs[0].name if len(limbs) == 1 else tr("{count} limbs", count=len(limbs))
    edit = workspace.edit(
        tr("{names} to {rest}", names=names, rest=tr("goal") if goal else tr("joints")), free=True
    )
    state = actor.state
    for limb in limbs:
        change = goal_from_joints if goal else joints_from_goal
        state = change(actor.rig, state, limb)
    edit.preview(state)
    edit.commit()
    workspace.selection.set(_handed_over(actor.rig, workspace.selection.rows, limbs, goal))


def _handed_over(rig: Rig, rows: Iterable[int], limbs: list[Limb], goal: bool) -> list[int]:
    row = rig.row_of_node
    other: dict[int, int] = {}
    for limb in limbs:
        pairs = ((limb.end, limb.goal), (limb.upper, limb.goal), (limb.lower, limb.pole))
        if not goal:
            pairs = ((limb.goal, limb.end), (limb.pole, limb.lower), (limb.goal, limb.end))
        other |= {row[a]: row[b] for a, b in pairs if a in row and b in row}
    return [other.get(r, r) for r in rows]
