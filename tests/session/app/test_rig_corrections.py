"""Correcting what was inferred: tried out at once, undone, saved in the sidecar."""

from __future__ import annotations

import json
import shutil
from pathlib import Path

import numpy as np
import pytest

from fox_hand.core.model.controls import MirrorRule, Region, Side
from fox_hand.core.model.skeleton import Skeleton
from fox_hand.core.naming.mirror_partners import FoundBy, doubts_of, pairs_of
from fox_hand.core.naming.roles import infer_roles
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.joint_controls import joint_controls
from fox_hand.interchange.readers import read_rig
from fox_hand.interchange.sidecar import sidecar_path
from fox_hand.session.app.rig_corrections import PairsDraft, lively

# ways in which rigs name the same four joints (common practice, no source)
STYLES = (
    ("upperarm_L", "upperarm_R", "thumb_01_L", "thumb_01_R"),
    ("UpperArm.l", "UpperArm.r", "Thumb1.l", "Thumb1.r"),
    ("LeftUpperArm", "RightUpperArm", "LeftHandThumb1", "RightHandThumb1"),
    ("l_upperarm", "r_upperarm", "l_thumb1", "r_thumb1"),
    ("mix:Left Arm", "mix:Right Arm", "mix:Left Thumb1", "mix:Right Thumb1"),
    ("armLft_upper", "armRgt_upper", "thumbLft_1", "thumbRgt_1"),
)


def four(names: tuple[str, ...], places: np.ndarray | None = None) -> Skeleton:
    if places is None:
        places = np.array([[0.2, 1.4, 0], [-0.2, 1.4, 0], [0.7, 1.2, 0.1], [-0.7, 1.2, 0.1]])
    world = np.vstack([[0, 1.0, 0], places])
    parents = (-1, 0, 0, 1, 2)
    local = world - np.vstack([[0, 0, 0], world[[0, 0, 1, 2]]])
    turn = np.tile([0.0, 0, 0, 1], (5, 1))
    return Skeleton(("root", *names), parents, local, turn, np.ones((5, 3)))


@pytest.mark.parametrize("names", STYLES)
def test_sides_and_partners_are_found_in_many_styles(names: tuple[str, ...]) -> None:
    found = joint_controls(four(names), range(5))
    controls = found.controls
    assert not found.notes
    sides = [c.side for c in controls]
    assert sides == [Side.CENTRE, Side.LEFT, Side.RIGHT, Side.LEFT, Side.RIGHT]
    partners = [c.partner for c in controls]
    assert partners == ["root", names[1], names[0], names[3], names[2]]


def test_names_that_say_nothing_are_paired_by_place() -> None:
    controls = joint_controls(four(("a", "b", "c", "d")), range(5)).controls
    assert [c.partner for c in controls] == ["root", "b", "a", "d", "c"]


def test_roles_are_vrms() -> None:
    """VRM 1.0, VRMC_vrm humanoid bones; each is given once."""
    names = ("Hips", "Spine", "Chest", "Neck", "Head", "LeftCollar", "LeftUpperArm", "LeftLowerArm")
    names += ("LeftHand", "LeftIndex1", "LeftIndex2", "LeftThumb1", "LeftArmTwist")
    parents = (-1, 0, 1, 2, 3, 2, 5, 6, 7, 8, 9, 8, 6)
    sides = [Side.CENTRE] * 5 + [Side.LEFT] * 8
    assert infer_roles(names, sides, parents) == [
        *("hips", "spine", "chest", "neck", "head", "leftShoulder", "leftUpperArm", "leftLowerArm"),
        *("leftHand", "leftIndexProximal", "leftIndexIntermediate", "leftThumbMetacarpal", None),
    ]


@pytest.fixture
def copied(tmp_path: Path) -> Path:
    path = tmp_path / "quill.glb"
    path.write_bytes((shipped() / "cast" / "quill.glb").read_bytes())
    return path


def test_corrections_are_tried_undone_and_saved(copied: Path) -> None:
    rig = read_rig(copied)
    draft = PairsDraft(rig, copied)
    assert draft.trial(rig.rest).gap < 1e-6
    assert not draft.trial(rig.rest).posed.same_bits(rig.rest)  # something to see at rest
    draft.pair("LeftIndex1", "RightMiddle1")
    assert draft.trial(lively(rig)).gap > 0.005
    by_name = {draft.rig.controls[p.row].name: p for p in pairs_of(draft.rig)}
    assert by_name["LeftIndex1"].found is FoundBy.HAND
    assert by_name["LeftMiddle1"].found is FoundBy.ALONE  # its partner was taken
    draft.undo()
    assert draft.trial(lively(rig)).gap < 1e-6
    draft.redo()
    draft.pair("LeftIndex1", "")
    draft.set_side("LeftEye", Side.CENTRE)
    draft.set_region("LeftShin", Region.TORSO)
    draft.set_role("LeftHand", "")
    draft.set_rule("LeftMouthWide", MirrorRule.KEEP)
    draft.find_again()  # what was made by hand stays
    path = draft.save()
    assert path == sidecar_path(copied)
    again = read_rig(copied)
    control = {c.name: c for c in again.controls}
    assert control["LeftIndex1"].partner is None
    assert control["LeftIndex1"].paired_by_hand
    assert control["RightShin"].region is Region.TORSO
    assert control["LeftHand"].role is None
    assert again.settings[again.setting_row["RightMouthWide"]].mirror is MirrorRule.KEEP


def test_saving_leaves_the_rest_of_a_sidecar_alone(copied: Path) -> None:
    source = sidecar_path(shipped() / "cast" / "quill.glb").read_bytes()
    sidecar_path(copied).write_bytes(source)
    draft = PairsDraft(read_rig(copied), copied)
    draft.pair("LeftHandGoal", "")
    draft.save()
    before, after = json.loads(source), json.loads(sidecar_path(copied).read_bytes())
    assert after["targets"].pop("LeftHandGoal")["partner"] == ""
    assert after["targets"].pop("RightHandGoal")["partner"] == ""
    for name in ("LeftHandGoal", "RightHandGoal"):
        del before["targets"][name]
    assert after == before


def test_disagreement_of_name_and_place_is_a_doubt_with_a_default() -> None:
    places = np.array([[0.2, 1.4, 0], [-0.2, 1.4, 0], [0.7, 1.2, 0.1], [-0.5, 1.1, 0.1]])
    skeleton = four(("arm_L", "arm_R", "hand_L", "hand_R"), places)
    controls = joint_controls(skeleton, range(5)).controls
    from fox_hand.core.rig.rig import Rig

    rig = Rig("Odd", skeleton, tuple(controls), (), (), np.arange(5), np.tile(np.eye(4), (5, 1, 1)))
    (doubt,) = doubts_of(rig)
    assert rig.controls[doubt.row].name == "hand_L"
    assert "out of place" in doubt.text
    assert doubt.choices[0] == ("Right so", "hand_R")


def test_a_figure_that_looks_the_other_way_has_its_sides_there(tmp_path: Path) -> None:
    """Sides that names say stay; those found by place follow; it is kept in the sidecar."""
    copied = tmp_path / "marrow.glb"
    shutil.copy(shipped() / "cast" / "marrow.glb", copied)
    draft = PairsDraft(read_rig(copied), copied)
    assert draft.rig.body.facing == "+Z"
    draft.look_along("-Z")
    assert (draft.rig.body.facing, draft.rig.body.said) == ("-Z", True)
    assert draft.rig.controls[draft.rig.control_row["arm_L"]].side is Side.LEFT
    assert len(draft.corrections) == 1
    draft.undo()
    assert draft.rig.body.facing == "+Z"
    draft.redo()
    draft.save()
    again = read_rig(copied)
    assert (again.body.facing, again.body.said) == ("-Z", True)
    assert again.body.axes[0, 0] == pytest.approx(-1.0)  # own left is -X now
    nameless = four(("a", "b", "c", "d"))
    found = joint_controls(nameless, range(5), body=again.body).controls
    plain = joint_controls(nameless, range(5)).controls
    assert [c.side for c in found[1:]] == [c.side.other for c in plain[1:]]


def test_pairing_two_leaves_both_their_former_partners_alone(copied: Path) -> None:
    draft = PairsDraft(read_rig(copied), copied)
    draft.pair("LeftIndex1", "RightMiddle1")
    partner = {c.name: c.partner for c in draft.rig.controls}
    assert (partner["LeftIndex1"], partner["RightMiddle1"]) == ("RightMiddle1", "LeftIndex1")
    assert (partner["RightIndex1"], partner["LeftMiddle1"]) == (None, None)
    draft.pair("RightMiddle1", "LeftIndex1")  # the other way round says nothing new
    assert len(draft.corrections) == len(draft.corrections.partners)
    draft.pair("nowhere", "RightMiddle1")
    assert {c.name: c.partner for c in draft.rig.controls}["RightMiddle1"] != "LeftIndex1"
