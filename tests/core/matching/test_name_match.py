"""Names that stand for others: in which order ways are tried, and what is only proposed."""

from __future__ import annotations

from dataclasses import replace

import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.core.animation.clip import Clip
from fox_hand.core.animation.curves import ChannelId, ChannelKind
from fox_hand.core.matching.name_match import (
    FREE_KINDS,
    Match,
    MatchSource,
    Rule,
    Rules,
    match_by_kind,
    match_names,
)
from fox_hand.core.matching.renaming import renamed, renamed_clip
from fox_hand.core.model.controls import ControlKind
from fox_hand.core.naming.known_roles import KnownRoles
from fox_hand.core.pose.pose import Held, Pose, take
from fox_hand.core.retarget.pose_changes import roles_of, world_changes
from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import shipped
from fox_hand.library.format.container import read_card


def told(sources: list[str], targets: list[str], **more: object) -> dict[str, tuple[object, str]]:
    found = match_names(sources, targets, **more)
    assert [m.source for m in found] == sources
    return {m.source: (m.target, m.found.value) for m in found}


@pytest.mark.parametrize(
    ("source", "targets", "target", "how"),
    [
        ("arm_L", ["arm_L", "arm_R"], "arm_L", "same name"),
        ("hero:arm_L", ["arm_L", "arm_R"], "arm_L", "other prefix"),
        ("arm.l", ["L_Arm", "R_Arm"], "L_Arm", "same words"),
        ("LeftArm", ["arm_left", "arm_right"], "arm_left", "same words"),
        ("finger_index_1_L", ["index_1_L", "index_2_L"], "index_1_L", "same words"),
        ("forarm_L", ["forearm_L", "forearm_R"], "forearm_L", "spelled alike"),
        ("forarm_L", ["forearm_R"], None, "not there"),
        ("tail", ["arm_L"], None, "not there"),
    ],
)
def test_the_first_way_that_finds_something_counts(
    source: str, targets: list[str], target: str | None, how: str
) -> None:
    assert told([source], targets)[source] == (target, how)


def test_what_was_said_comes_first_and_each_target_is_given_once() -> None:
    names = ["arm_L", "arm_R", "hand_L"]
    saved = {"arm_L": "hand_L", "arm_R": None, "hand_L": "nobody"}
    assert told(names, ["arm_L", "arm_R", "hand_L"], saved=saved) == {
        "arm_L": ("hand_L", "said before"),
        "arm_R": (None, "said before"),
        "hand_L": (None, "not there"),  # what it was said to be is not there, and it is taken
    }
    both = told(["a:arm", "b:arm"], ["arm"])
    assert [target for target, _ in both.values()] == ["arm", None]
    rules = Rules((Rule("upper", "arm"),))
    assert told(["UPPER_L"], ["arm_L"], rules=rules)["UPPER_L"] == ("arm_L", "by the rules")
    strict = replace(rules, any_case=False)
    assert told(["UPPER_L"], ["arm_L"], rules=strict)["UPPER_L"] == (None, "not there")
    theirs = KnownRoles({"z": "head", "y": "neck"})
    roles = told(["x"], ["y", "z"], roles=KnownRoles({"x": "head"}), target_roles=theirs)
    assert roles == {"x": ("z", "same role")}
    likely = told(["x"], ["y", "z"], roles=KnownRoles({}, {"x": "head"}), target_roles=theirs)
    assert likely == {"x": ("z", "perhaps the same role")}
    prefix = told(["rig_arm", "rig_leg", "rig_head"], ["b.arm", "b.leg", "b.head"])
    assert {how for _, how in prefix.values()} == {"other prefix"}
    two = told(["rig_arm", "rig_leg"], ["arm", "leg"])
    assert two["rig_arm"][1] != "other prefix"  # of two names nothing is a prefix of all


def test_what_is_only_alike_is_not_sure() -> None:
    sure = {source: Match("a", "b", source).sure for source in MatchSource}
    assert {s for s, counts in sure.items() if not counts} == {
        MatchSource.LIKELY,
        MatchSource.SPELLING,
    }
    assert not Match("a", None, MatchSource.MAP).sure


def test_rules_are_counted_in_their_order_and_patterns_name_groups() -> None:
    rules = Rules((Rule("arm", "leg"), Rule("leg", "foot"), Rule(r"(\w)_(\w)$", r"\2_\1", True)))
    assert rules.applied("ARM_L") == "foo_L" or rules.applied("ARM_L") == "fooL_t"
    assert rules.hits(["arm", "leg", "x"]) == [1, 2, 0]
    assert Rules((Rule("", "x"),)).applied("arm") == "arm"
    assert Rules((Rule(".", "-"),)).applied("a.b") == "a-b"
    assert Rules((Rule("a", r"\1"),)).applied("a") == r"\1"
    assert Rules((Rule("A", "b"),), any_case=False).applied("a") == "a"
    for wrong in (Rule("(", "x", True), Rule("a", r"\2", True)):
        with pytest.raises(FoxHandError) as caught:
            Rules((wrong,)).applied("a")
        assert caught.value.code == "names.pattern"


def test_bones_go_with_bones_and_goals_with_goals(marrow: Rig) -> None:
    goals = {c.name for c in marrow.controls if c.kind in FREE_KINDS}
    names = [c.name for c in marrow.controls if c.moves_node]
    known = [f"x:{n}" for n in goals]
    found = match_by_kind([f"x:{n}" for n in names], marrow, None, None, KnownRoles(), free=known)
    for match in found:
        assert match.target == match.source[2:]
        assert (match.target in goals) == (match.source[2:] in goals)
    goal = sorted(goals)[0]
    (loose,) = match_by_kind(["hand_zz_L"], marrow, None, None, KnownRoles(), free=["hand_zz_L"])
    assert loose.target is None or loose.target in goals
    (said,) = match_by_kind(["hand_zz_L"], marrow, {"hand_zz_L": goal}, None, KnownRoles())
    assert (said.target, said.found) == (goal, MatchSource.MAP)


def test_renaming_goes_through_everything_that_bears_a_name(marrow: Rig) -> None:
    rules = Rules((Rule("head", "skull"), Rule("jaw", "chin")))
    pose = take(marrow, marrow.rest, marrow_choice(marrow))
    found = renamed(pose, rules)
    assert len(found.controls) == len(pose.controls)
    assert set(found.controls) == {rules.applied(n) for n in pose.controls}
    for name, held in pose.controls.items():
        other = found.controls[rules.applied(name)]
        assert set(other.settings) == {rules.applied(s) for s in held.settings}
        if held.rest is not None and other.rest is not None:
            assert other.rest.parent == (rules.applied(held.rest.parent or "") or None)
    with pytest.raises(FoxHandError):
        renamed(Pose({"head": Held(), "skull": Held()}), rules)
    card = read_card(shipped() / "library" / "Marrow" / "Clips" / "Walk loop.foxcard")[0]
    assert card.clip is not None
    clip: Clip = renamed_clip(card.clip, rules)
    wanted = {ChannelId(c.kind, rules.applied(c.name)) for c in card.clip.lines}
    assert set(clip.lines) == wanted and len(wanted) == len(card.clip.lines)
    head = ChannelId(ChannelKind.TURN, "head")
    if head in card.clip.lines:
        assert clip.lines[ChannelId(ChannelKind.TURN, "skull")] is not None
    assert {c.kind for c in clip.lines} == {c.kind for c in card.clip.lines}


def marrow_choice(rig: Rig) -> object:
    from fox_hand.core.pose.pose import ChannelFilter

    return ChannelFilter.of(rig, range(len(rig.controls)))


def test_what_a_limb_does_in_the_world_is_found_without_its_rig(marrow: Rig) -> None:
    """The same as with the rig at hand, for every card of the demo."""
    import numpy as np

    for name in ("Body/Wave", "Body/Crouch", "Hands/Fist"):
        card = read_card(shipped() / "library" / "Marrow" / f"{name}.foxcard")[0]
        with_rig = world_changes(card.pose, marrow)
        alone = world_changes(card.pose, None)
        assert (
            set(with_rig)
            == set(alone)
            == {
                n
                for n, h in card.pose.controls.items()
                if h.turn is not None and h.rest is not None
            }
        )
        for control, change in with_rig.items():
            assert np.allclose(change @ change.T, np.eye(3), atol=1e-9)
            if marrow.controls[marrow.control_row[control]].kind is ControlKind.JOINT:
                assert np.allclose(change, alone[control], atol=1e-6), control
        roles = roles_of(card.pose)
        for control, role in roles.all.items():
            own = marrow.controls[marrow.control_row[control]].role
            assert own in (role, None) or control.startswith("finger")


def test_what_is_spelled_alike_is_looked_for_on_its_own_side_among_all() -> None:
    targets = ["forearm_R", "thigh_L", "forearm_L", "shin_R"]
    (found,) = match_names(["forearn_L"], targets)
    assert (found.target, found.found) == ("forearm_L", MatchSource.SPELLING)
    (none,) = match_names(["forearn_L"], ["forearm_R", "thigh_L"])
    assert none.target is None
