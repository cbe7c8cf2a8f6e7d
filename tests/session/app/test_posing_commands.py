"""Limbs handed over, figures mirrored, sets kept: one step each, and told what did not land."""

from __future__ import annotations

import numpy as np
import pytest

from fox_hand.core.maths.rotations import angle_between, from_vector, multiply
from fox_hand.core.model.controls import Channel, Side
from fox_hand.core.pose.sides import partner_row
from fox_hand.core.rig.locks_limits import Lock
from fox_hand.interchange.sidecar import read_sidecar, sidecar_path
from fox_hand.session.app import limbs, sets
from fox_hand.session.app.mirroring import Mirroring, mirror_figure, rows_onto
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.figures.figure import Figure


def actor_of(workspace: Workspace) -> Figure:
    assert workspace.actor is not None
    return workspace.actor


def bend(workspace: Workspace, **angles: float) -> None:
    """Turn some controls about their own z."""
    actor = actor_of(workspace)
    turn = actor.state.turn.copy()
    for name, angle in angles.items():
        row = actor.rig.control_row[name]
        turn[row] = multiply(turn[row], from_vector(np.array([0.0, 0.2 * angle, angle])))
    workspace.apply("Pose", actor.state.with_(turn=turn))


def test_limbs_are_those_of_which_something_is_chosen(workspace: Workspace) -> None:
    rig = actor_of(workspace).rig
    row = rig.control_row

    def names(*chosen: str) -> list[str]:
        return [limb.name for limb in limbs.limbs_of(rig, [row[c] for c in chosen])]

    every = [limb.name for limb in rig.limbs]
    assert len(every) == 4
    for limb in rig.limbs:
        for node in (limb.upper, limb.lower, limb.end, limb.goal, limb.pole):
            assert limbs.limbs_of(rig, [rig.row_of_node[node]]) == [limb]
    assert names("head", "finger_index_1_L") == []
    assert names("arm_L", "hand_L") == names("arm_L")
    assert set(names(*(rig.controls[r].name for r in range(len(rig.controls))))) == set(every)


@pytest.mark.parametrize("count", [1, 2])
def test_a_limb_is_handed_over_where_it_stands(workspace: Workspace, count: int) -> None:
    actor = actor_of(workspace)
    rig, row = actor.rig, actor.rig.control_row
    bend(workspace, arm_L=0.5, forearm_L=0.4, arm_R=0.3)
    chosen = limbs.limbs_of(rig, [row["arm_L"], row["arm_R"]][:count])
    before = rig.evaluate(actor.state).nodes.copy()
    workspace.selection.set([row["hand_L"], row["forearm_L"], row["head"]])
    was = [limbs.on_goal(workspace, limb) for limb in chosen]
    assert was == [False] * count
    limbs.switch(workspace, chosen, True)
    names = chosen[0].name if count == 1 else "2 limbs"
    assert workspace.history.undo_label == f"{names} to goal"
    assert all(limbs.on_goal(workspace, limb) for limb in chosen)
    nodes = [limb.end for limb in chosen]
    assert np.allclose(rig.evaluate(actor.state).nodes[nodes], before[nodes], atol=1e-6)
    limb = chosen[0]
    goal, pole = rig.row_of_node[limb.goal], rig.row_of_node[limb.pole]
    assert sorted(workspace.selection.rows) == sorted([goal, pole, row["head"]])
    limbs.switch(workspace, chosen, False)
    assert workspace.history.undo_label == f"{names} to joints"
    assert sorted(workspace.selection.rows) == sorted(
        [row["hand_L"], row["forearm_L"], row["head"]]
    )
    assert np.allclose(rig.evaluate(actor.state).nodes[nodes], before[nodes], atol=1e-6)
    workspace.undo()
    assert all(limbs.on_goal(workspace, limb) for limb in chosen)
    steps = workspace.history.undo_step
    limbs.switch(workspace, [], True)
    assert workspace.history.undo_step is steps


def test_which_controls_a_mirroring_changes(workspace: Workspace) -> None:
    rig = actor_of(workspace).rig
    row, every = rig.control_row, set(range(len(rig.controls)))
    sides = {side: {r for r in every if rig.controls[r].side is side} for side in Side}
    assert rows_onto(rig, Mirroring.WHOLE, ()) == every
    assert rows_onto(rig, Mirroring.LEFT_ONTO_RIGHT, ()) == sides[Side.RIGHT]
    assert rows_onto(rig, Mirroring.RIGHT_ONTO_LEFT, ()) == sides[Side.LEFT]
    assert rows_onto(rig, Mirroring.SWAP, ()) == sides[Side.LEFT] | sides[Side.RIGHT]
    chosen = [row["hand_L"], row["head"]]
    both = {row["hand_L"], row["hand_R"], row["head"]}
    assert rows_onto(rig, Mirroring.SELECTED, chosen) == both
    assert rows_onto(rig, Mirroring.SELECTED_OVER, chosen) == {row["hand_R"], row["head"]}


def test_one_side_goes_onto_the_other_and_back_with_undo(workspace: Workspace) -> None:
    actor = actor_of(workspace)
    rig, row = actor.rig, actor.rig.control_row
    bend(workspace, arm_L=0.5, forearm_L=0.4, hand_R=0.3)
    before = actor.state
    assert mirror_figure(workspace, Mirroring.LEFT_ONTO_RIGHT) == ""
    assert workspace.history.undo_label == "Left onto right"
    for name in ("arm", "forearm", "hand"):
        left, right = row[f"{name}_L"], row[f"{name}_R"]
        assert partner_row(rig, left) == right
        away = [float(angle_between(actor.state.turn[r], rig.rest.turn[r])) for r in (left, right)]
        assert away[0] == pytest.approx(away[1], abs=1e-9)
        assert np.array_equal(actor.state.turn[left], before.turn[left])
    workspace.undo()
    assert actor.state.same_bits(before)
    steps = workspace.history.undo_step
    workspace.selection.set([])
    said = mirror_figure(workspace, Mirroring.SELECTED)
    assert said == "Nothing is selected. Select controls first, or mirror the figure."
    assert workspace.history.undo_step is steps


def test_what_cannot_follow_is_named(workspace: Workspace) -> None:
    actor = actor_of(workspace)
    row = actor.rig.control_row
    bend(workspace, forearm_L=0.4)
    workspace.set_locks(frozenset(Lock("forearm_R", Channel.TURN, a) for a in range(3)), "Lock")
    said = mirror_figure(workspace, Mirroring.LEFT_ONTO_RIGHT)
    label = actor.rig.controls[row["forearm_R"]].label
    assert said == f"{label} could not go all the way: a lock or a limit holds."
    rest = actor.rig.rest.turn[row["forearm_R"]]
    assert np.array_equal(actor.state.turn[row["forearm_R"]], rest)


def test_sets_are_changed_in_place_and_a_set_of_the_rig_lies_beside_it(
    workspace: Workspace,
) -> None:
    actor = actor_of(workspace)
    row = actor.rig.control_row
    before = dict(actor.sets)
    sets.make_set(workspace, "Arm", [row["arm_L"], row["forearm_L"]])
    sets.make_set(workspace, "Head", [row["head"]])
    names = list(actor.sets)
    assert names == [*before, "Arm", "Head"]
    assert sets.set_rows(actor, "Arm") == [row["arm_L"], row["forearm_L"]]
    assert sets.set_rows(actor, "None such") == []
    steps = workspace.history.undo_step
    sets.make_set(workspace, "Head", [row["head"]])  # as it was
    sets.rename_set(workspace, "Arm", "Head")  # taken
    sets.move_set(workspace, "Head", 1)  # the last already
    sets.move_set(workspace, "None such", 1)
    assert workspace.history.undo_step is steps and list(actor.sets) == names
    sets.move_set(workspace, "Head", -1)
    assert list(actor.sets) == [*before, "Head", "Arm"]
    sets.rename_set(workspace, "Head", "Skull")
    assert list(actor.sets) == [*before, "Skull", "Arm"]
    assert workspace.history.undo_label == "Rename set Head"
    sets.delete_set(workspace, "Skull")
    assert list(actor.sets) == [*before, "Arm"]
    path = sets.keep_in_rig(actor, "Arm")
    assert path == sidecar_path(actor.path)
    kept = read_sidecar(path)
    assert kept.sets["Arm"] == ["arm_L", "forearm_L"]
    sets.keep_in_rig(actor, "Arm")
    assert read_sidecar(path) == kept
