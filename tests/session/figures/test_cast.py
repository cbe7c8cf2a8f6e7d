"""The cast: by reference, with prefixes; changed and missing rig files lose nothing."""

from __future__ import annotations

import json
import shutil
from pathlib import Path

import numpy as np
import pytest

from fox_hand.base.places import Places
from fox_hand.core.maths.rotations import from_vector
from fox_hand.core.model.controls import Channel
from fox_hand.core.rig.locks_limits import Lock
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.readers import read_rig
from fox_hand.interchange.sidecar import sidecar_path
from fox_hand.session.app.limbs import limbs_of, on_goal, switch
from fox_hand.session.app.sets import delete_set, keep_in_rig, make_set, move_set, rename_set
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.figures.cast import Absent, Cast, file_mark
from fox_hand.session.figures.channel_rows import rows_of, with_row
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.snapshot import read_cast
from tests.glb import two_skins
from tests.session.arrivals import bring

CAST = shipped() / "cast"


@pytest.fixture
def workspace(places: Places) -> Workspace:
    return Workspace(places)


def bend(actor: Figure, name: str, angle: float) -> None:
    turn = actor.state.turn.copy()
    turn[actor.rig.control_row[name]] = from_vector([angle, 0, 0])
    actor.stand(actor.state.with_(turn=turn))


def woken(workspace: Workspace) -> Workspace:
    """Another session of the same user, everybody put back."""
    workspace.shots.end()
    again = Workspace(workspace.places)
    kept = read_cast(workspace.places, workspace.shots.key)
    assert kept is not None
    bring(again, kept.members)
    return again


def test_two_copies_of_one_rig_stand_side_by_side_and_do_not_share(workspace: Workspace) -> None:
    one = workspace.open_rig(CAST / "pim.glb")
    two = workspace.open_rig(CAST / "pim.glb")
    assert (one.prefix, two.prefix) == ("pim", "pim_2")
    assert (one.name, two.name) == ("Pim", "Pim pim_2")
    assert workspace.actor is two
    gap = two.at.nodes[:, 0, 3].min() - one.at.nodes[:, 0, 3].max()
    assert gap > -0.05
    bend(two, "shin_L", 0.5)
    assert not one.differs().any()
    workspace.selection.set([3])
    workspace.act(one)
    assert workspace.selection.rows == ()
    workspace.act(two)
    assert workspace.selection.rows == (3,)
    workspace.take_off(two)
    workspace.act(two)  # a click that was on its way
    assert workspace.actor is one
    workspace.undo()
    assert workspace.cast.actors == (one, two) and two.ground[1] == one.ground[1] == 0.0
    assert workspace.cast.changed_on_disk() == ()


def test_everything_about_a_member_comes_back(workspace: Workspace) -> None:
    actor = workspace.open_rig(CAST / "quill.glb")
    workspace.open_rig(CAST / "pim.glb")
    workspace.act(actor)
    bend(actor, "LeftShin", 0.7)
    workspace.selection.set([5, 6])
    workspace.set_locks(actor.locks | {Lock("LeftShin", Channel.TURN, 1)}, "Lock")
    make_set(workspace, "Knees", [actor.rig.control_row["LeftShin"]])
    workspace.keep_view("Close", Camera(yaw=1.0))
    workspace.rename_member(actor, "inspector")
    workspace.save_figure()
    again = woken(workspace)
    found = next(a for a in again.cast.actors if a.prefix == "inspector")
    assert found.state.same_bits(actor.state)
    assert found.locks == actor.locks
    assert found.sets == {"Knees": ("LeftShin",)}
    assert found.views == {"Close": Camera(yaw=1.0)}
    assert again.cast.selected(found) == (5, 6)
    assert np.array_equal(found.ground, actor.ground)


def test_a_missing_file_keeps_its_place_and_everything_of_it(
    workspace: Workspace, tmp_path: Path
) -> None:
    path = two_skins(tmp_path / "crane.glb")
    actor = workspace.open_rig(path)
    bend(actor, "LeftElbow", 0.4)
    workspace.save_figure()
    path.rename(tmp_path / "moved.glb")
    again = woken(workspace)
    (absent,) = again.cast
    assert isinstance(absent, Absent)
    assert str(path) in absent.why
    assert again.actor is None
    again.save_figure()  # nothing of the missing one may get lost by saving
    back = Figure(read_rig(tmp_path / "moved.glb"), tmp_path / "moved.glb", absent.prefix)
    once_more = woken(again)
    (absent,) = once_more.cast
    once_more.bring_back(absent, back)
    assert once_more.actor is back
    assert np.allclose(back.state.turn, actor.state.turn)


def test_a_changed_file_is_read_again_and_lost_controls_come_back(
    workspace: Workspace, tmp_path: Path
) -> None:
    path = tmp_path / "marrow.glb"
    shutil.copy(CAST / "marrow.glb", path)
    shutil.copy(sidecar_path(CAST / "marrow.glb"), sidecar_path(path))
    actor = workspace.open_rig(path)
    edit = workspace.edit("Pose")
    row = actor.rig.control_row
    state = actor.state
    for name in ("hand_goal_L", "forearm_L"):
        turn = state.turn.copy()
        turn[row[name]] = from_vector([0.3, 0, 0])
        state = state.with_(turn=turn)
    edit.preview(state)
    edit.commit()
    before, nodes = actor.state, actor.at.nodes
    assert workspace.cast.changed_on_disk() == ()
    whole = sidecar_path(path).read_bytes()
    sidecar = json.loads(whole)
    del sidecar["targets"]["hand_goal_L"]
    sidecar["solvers"] = []
    sidecar_path(path).write_text(json.dumps(sidecar))
    assert workspace.cast.changed_on_disk() == (actor,)
    gone = workspace.exchange_rig(actor, read_rig(path), file_mark(path))
    assert "hand_goal_L" in gone
    assert workspace.cast.changed_on_disk() == ()
    assert np.allclose(actor.at.nodes[: len(nodes) - 9], nodes[: len(nodes) - 9])
    workspace.undo()  # a step from before the change still works
    assert not actor.differs()[actor.rig.control_row["forearm_L"]]
    workspace.redo()
    sidecar_path(path).write_bytes(whole)
    assert workspace.exchange_rig(actor, read_rig(path), file_mark(path)) == frozenset()
    assert actor.state.same_bits(before)


def test_taking_somebody_off_the_stage_is_undone(workspace: Workspace) -> None:
    one, two = workspace.open_rig(CAST / "marrow.glb"), workspace.open_rig(CAST / "pim.glb")
    workspace.take_off(two)
    assert list(workspace.cast) == [one]
    assert workspace.actor is one
    workspace.undo()
    assert list(workspace.cast) == [one, two]
    assert workspace.actor is two
    workspace.redo()
    assert list(workspace.cast) == [one]


def test_partners_follow_mirrored_when_wished(workspace: Workspace) -> None:
    actor = workspace.open_rig(CAST / "quill.glb")
    workspace.settings.symmetric = True
    row = actor.rig.control_row
    turn = actor.state.turn.copy()
    turn[row["LeftUpperArm"]] = from_vector([0.2, -0.6, 0.4])
    workspace.apply("Turn arm", actor.state.with_(turn=turn))
    at = {n: actor.at.nodes[actor.rig.controls[row[n]].node, :3, 3] for n in row}
    assert np.allclose(at["RightHand"], at["LeftHand"] * (-1, 1, 1), atol=1e-6)
    workspace.undo()
    assert not actor.differs().any()


def test_limbs_change_hands_without_moving_and_the_selection_follows(workspace: Workspace) -> None:
    actor = workspace.open_rig(CAST / "marrow.glb")
    bend(actor, "arm_L", 0.5)
    bend(actor, "forearm_L", 0.9)
    workspace.selection.set([actor.rig.control_row["hand_L"]])
    limbs = limbs_of(actor.rig, workspace.selection.rows)
    assert [limb.name for limb in limbs] == ["Left arm"]
    before, bones = actor.at.nodes.copy(), actor.rig.joint_nodes
    switch(workspace, limbs, True)
    assert on_goal(workspace, limbs[0])
    assert np.abs(actor.at.nodes[bones] - before[bones]).max() < 1e-4
    assert [actor.rig.controls[r].name for r in workspace.selection.rows] == ["hand_goal_L"]
    assert actor.rig.control_row["forearm_L"] in actor.rig.idle(actor.state)
    switch(workspace, limbs, False)
    assert np.abs(actor.at.nodes[bones] - before[bones]).max() < 1e-4
    workspace.undo()
    workspace.undo()
    assert not on_goal(workspace, limbs[0])


def test_rows_of_many_controls_are_mixed_and_set_together(workspace: Workspace) -> None:
    rig = workspace.open_rig(CAST / "marrow.glb").rig
    fingers = [rig.control_row[f"finger_index_{i}_L"] for i in (1, 2, 3)]
    curl = rows_of(rig, fingers)[0]
    assert (curl.name, curl.word, len(curl.refs)) == ("All 3", "curl", 3)
    state = with_row(rig, rig.rest, curl, 20.0)
    assert curl.value(rig, state) == pytest.approx(20)
    one = rows_of(rig, fingers[:1])[0]
    mixed = with_row(rig, state, one, 30.0)
    assert curl.value(rig, mixed) is None
    added = with_row(rig, mixed, curl, 10.0, add=True)
    values = [rows_of(rig, [f])[0].value(rig, added) for f in fingers]
    assert values == pytest.approx([40, 30, 30])
    hat = rows_of(rig, [rig.control_row["hat"]])[0]
    assert with_row(rig, rig.rest, hat, 7.2).settings[hat.first.axis] == 2


def test_a_set_kept_with_the_rig_is_in_its_sidecar(workspace: Workspace, tmp_path: Path) -> None:
    path = two_skins(tmp_path / "crane.glb")
    actor = workspace.open_rig(path)
    make_set(workspace, "Elbows", [1, 3])
    keep_in_rig(actor, "Elbows")
    assert read_rig(path).sets == {"Elbows": ("LeftElbow", "RightElbow")}


def test_sets_are_made_renamed_moved_updated_deleted_and_undone(workspace: Workspace) -> None:
    actor = workspace.open_rig(CAST / "pim.glb")
    make_set(workspace, "A", [1, 2])
    make_set(workspace, "B", [3])
    move_set(workspace, "B", -1)
    rename_set(workspace, "A", "C")
    make_set(workspace, "B", [4])
    assert list(actor.sets) == ["B", "C"]
    assert actor.sets["B"] == (actor.rig.controls[4].name,)
    delete_set(workspace, "C")
    for _ in range(6):
        workspace.undo()
    assert actor.sets == {}
    for _ in range(6):
        workspace.redo()
    assert list(actor.sets) == ["B"]


def test_who_acts_goes_on_acting_whoever_comes_and_goes(workspace: Workspace) -> None:
    marrow, pim, quill = (workspace.open_rig(CAST / f"{n}.glb") for n in ("marrow", "pim", "quill"))
    cast = workspace.cast
    workspace.act(quill)
    index = cast.remove(marrow)
    assert (index, cast.acting) == (0, quill)
    cast.insert(0, marrow)
    assert [a.prefix for a in cast.actors] == ["marrow", "pim", "quill"]
    assert cast.acting is quill
    workspace.act(marrow)
    cast.remove(pim)
    cast.insert(1, pim)
    assert cast.acting is marrow
    cast.remove(marrow)  # somebody has to
    assert cast.acting is pim
    cast.insert(0, marrow)
    assert cast.acting is pim
    cast.clear()
    assert cast.acting is None


def test_after_the_stage_was_cleared_the_next_figure_acts(marrow: Rig) -> None:
    cast = Cast()
    cast.add(Figure(marrow, Path("one.glb")))
    cast.add(Figure(marrow, Path("two.glb")))
    cast.clear()
    assert cast.acting is None and len(cast) == 0
    third = Figure(marrow, Path("three.glb"))
    cast.add(third)
    assert cast.acting is third
