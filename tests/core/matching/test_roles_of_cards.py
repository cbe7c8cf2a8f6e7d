"""Cards of rigs whose joints are called after another family of names land by their roles."""

from __future__ import annotations

from dataclasses import replace

import pytest

from fox_hand.core.matching.name_match import Match, match_by_kind
from fox_hand.core.matching.unmatched import not_landing
from fox_hand.core.naming.known_roles import JointSaid, known_roles
from fox_hand.core.pose.pose import ChannelFilter, Pose, take
from fox_hand.core.retarget.pose_changes import roles_of
from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.readers import read_rig
from tests.bodies import Build, body_rig
from tests.core.naming.test_roles import FAMILIES


def card_of(rig: Rig, *roles: str) -> Pose:
    """What is captured of a rig: some joints, or all that have a role."""
    rows = [r for r, c in enumerate(rig.controls) if c.role and (c.role in roles or not roles)]
    return take(rig, rig.rest, ChannelFilter.of(rig, rows))


def said_of(pose: Pose) -> dict[str, JointSaid]:
    rests = {n: h.rest for n, h in pose.controls.items() if h.rest is not None}
    return {n: JointSaid(r.parent, r.role, r.role_sure) for n, r in rests.items()}


def without_roles(pose: Pose) -> Pose:
    """As earlier versions wrote cards."""
    held = pose.controls.items()
    return Pose({n: replace(h, rest=h.rest and replace(h.rest, role=None)) for n, h in held})


def landing(pose: Pose, rig: Rig) -> dict[str, Match]:
    found = match_by_kind(list(pose.controls), rig, None, None, roles_of(pose))
    lost = not_landing(dict.fromkeys(pose.controls, ()), rig, joints=said_of(pose))
    assert {m.source for m in found if not m.sure} == set(lost)  # the list says what the fit does
    return {m.source: m for m in found}


def same_roles(found: dict[str, Match], source: Rig, target: Rig) -> bool:
    theirs = {c.name: c.role for c in target.controls}
    mine = {c.name: c.role for c in source.controls}
    wanted = [n for n in found if mine[n] in theirs.values()]
    return all(found[n].sure and theirs[found[n].target or ""] == mine[n] for n in wanted)


@pytest.mark.parametrize("family", list(FAMILIES))
def test_a_body_lands_whole_on_every_other_family(family: str, marrow: Rig) -> None:
    rig = body_rig(Build(), FAMILIES[family])
    others = [body_rig(Build(), FAMILIES[other]) for other in FAMILIES]
    quill = read_rig(shipped() / "cast" / "quill.glb")
    for target in (marrow, quill, *others):
        for pose in (card_of(rig), without_roles(card_of(rig))):
            assert same_roles(landing(pose, target), rig, target), target.name
        # one joint alone needs what the card says of it
        lone = card_of(rig, "leftUpperLeg")
        assert same_roles(landing(lone, target), rig, target), target.name


def test_a_name_that_means_something_else_there_is_not_believed() -> None:
    up_leg, by_joint = (body_rig(Build(), FAMILIES[f]) for f in ("up leg", "by joint"))
    found = landing(card_of(by_joint, "leftUpperArm", "leftShoulder"), up_leg)
    assert {n: m.target for n, m in found.items()} == {
        "LeftShoulder": "LeftArm",
        "LeftCollar": "LeftShoulder",
    }
    collarless = body_rig(
        Build(), {k: v for k, v in FAMILIES["by joint"].items() if not k.endswith("Shoulder")}
    )
    (lost,) = landing(card_of(up_leg, "leftShoulder"), collarless).values()
    assert lost.source == "LeftShoulder" and not lost.sure
    # where everything is called alike, a joint more in the spine changes no name
    more = {"extra spine 1": "Spine1", "chest": "Spine2", "upperChest": "Spine3"}
    taller = body_rig(Build(spine=4), FAMILIES["up leg"] | more)
    found = landing(card_of(up_leg), taller)
    assert all(m.target == n for n, m in found.items())


def test_a_role_that_only_a_shape_says_is_proposed(marrow: Rig) -> None:
    rig = body_rig(Build(), FAMILIES["up leg"])
    guessed = replace(rig, controls=tuple(replace(c, role_sure=0.7) for c in rig.controls))
    (there,) = landing(card_of(marrow, "leftUpperLeg"), guessed).values()
    (back,) = landing(card_of(guessed, "leftUpperLeg"), marrow).values()
    assert (there.target, there.sure, back.target, back.sure) == (
        *("LeftUpLeg", False),
        *("thigh_L", False),
    )


def test_a_card_without_roles_is_sure_only_of_what_its_names_leave_no_doubt_of() -> None:
    assert known_roles({"LeftLeg": JointSaid("LeftUpLeg")}).sure == {"LeftLeg": "leftLowerLeg"}
    alone = known_roles({"LeftLeg": JointSaid("Hips")})
    assert not alone.sure and alone.likely == {"LeftLeg": "leftUpperLeg"}
    unsaid = known_roles({"Hips": JointSaid(), "Head": JointSaid()})
    assert not unsaid.sure and set(unsaid.likely.values()) == {"hips", "head"}
    assert known_roles({"Head": JointSaid("Neck")}).sure == {"Head": "head"}
    # a damaged file: every joint hangs on the other
    circle = {"LeftArm": JointSaid("LeftForeArm"), "LeftForeArm": JointSaid("LeftArm")}
    assert known_roles(circle).all["LeftForeArm"] == "leftLowerArm"
    told = {"n1": JointSaid(None, "hips"), "n2": JointSaid("n1", "spine", 0.7), "Head": JointSaid()}
    assert known_roles(told).sure == {"n1": "hips"} and known_roles(told).likely == {"n2": "spine"}
