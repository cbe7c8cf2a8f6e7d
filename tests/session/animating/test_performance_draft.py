"""A performance on a character, said and unsaid: who follows whom, when, and where feet stand."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from fox_hand.base.errors import FoxHandError
from fox_hand.core.animation.performance import Performance
from fox_hand.core.matching.name_match import MatchSource
from fox_hand.core.maths.rotations import angle_between
from fox_hand.core.model.controls import Region, Side
from fox_hand.core.model.state import State
from fox_hand.core.retarget.feet import GroundHold
from fox_hand.core.retarget.retarget import Landing
from fox_hand.core.retarget.transfer import FollowOptions, Transferred
from fox_hand.core.rig.rig import Rig
from fox_hand.session.animating.motion_import import (
    followed_on,
    held_words,
    lost_words,
    pairs_of,
)
from fox_hand.session.animating.performance_draft import PerformanceDraft
from fox_hand.session.animating.performance_fit import PerformanceFit
from fox_hand.session.app.workspace import Workspace
from tests.bodies import Build, Placed, body_rig, with_affixes
from tests.core.matching.test_faces import faced
from tests.core.naming.test_roles import FAMILIES
from tests.motions import performed


@pytest.fixture(scope="module")
def walk() -> Performance:
    """Somebody else's walk, with a lamp in the hand that turns."""
    names = with_affixes(FAMILIES["by joint"], "cap:", "")
    names["jaw"] = "cap:lamp"
    rig = body_rig(Build(arms_down=0, legs=0.5), names, Placed())
    made = performed(rig, {v: k for k, v in names.items()}, "walk")
    turn = made.states.turn.copy()
    angles = np.linspace(0, 2, len(made))[:, None]
    turn[:, rig.control_row["cap:lamp"]] = Rotation.from_euler("x", angles).as_quat()
    return Performance(made.name, rig, made.states.with_(turn=turn), made.rate)


@pytest.fixture
def draft(workspace: Workspace, walk: Performance) -> PerformanceDraft:
    assert workspace.actor is not None
    return PerformanceDraft(walk, "walk", workspace.actor, {}, FollowOptions(starts=True))


def row_of(draft: PerformanceDraft, source: str) -> tuple[str | None, Landing, str, MatchSource]:
    row = next(r for r in draft.fit.rows if r.source == source)
    return row.target, row.landing, row.detail, row.found


def source_of(draft: PerformanceDraft, role: str) -> str:
    rig = draft.performance.rig
    return next(c.name for c in rig.controls if c.role == role)


def test_everybody_has_a_row_and_what_stays_out_says_how_much(draft: PerformanceDraft) -> None:
    joints = {c.name for c in draft.performance.rig.controls}
    assert {r.source for r in draft.fit.rows} == joints
    assert row_of(draft, "cap:lamp")[1:3] == (Landing.MISSING, "115°, stays out")
    counts = draft.fit.counts()
    assert sum(counts.values()) == len(draft.fit.rows) and counts[Landing.MISSING] == 1
    assert draft.lands == len(draft.fit.rows) - 1
    made = draft.fit.made
    assert made is not None
    assert lost_words(draft.performance, draft.actor.rig, made) == ("Not on Marrow: cap:lamp.",)


def test_rows_say_what_is_corrected(draft: PerformanceDraft) -> None:
    made = draft.fit.made
    assert made is not None and abs(made.legs - 1) > 0.1
    hips = row_of(draft, source_of(draft, "hips"))
    assert hips[1] is Landing.CORRECTED and hips[2] == f"legs {made.legs:.2f}"
    assert row_of(draft, source_of(draft, "leftFoot"))[2] == "holds the ground"
    arm = row_of(draft, source_of(draft, "leftUpperArm"))[2]
    assert arm.startswith("stance, ") and 30 <= int(arm[8:-1]) <= 60
    draft.set_options(feet=False, hands=True, stretch=False, facing=True)
    assert row_of(draft, source_of(draft, "leftFoot"))[2] != "holds the ground"
    assert not row_of(draft, source_of(draft, "hips"))[2].startswith("legs")


def other_names(walk: Performance, **names: str) -> Performance:
    """The same motion on a rig some of whose joints are called otherwise and have no role."""
    controls = tuple(
        replace(c, name=names[c.name.removeprefix("cap:")], role=None)
        if c.name.removeprefix("cap:") in names
        else c
        for c in walk.rig.controls
    )
    return replace(walk, rig=replace(walk.rig, controls=controls))


def test_a_name_that_is_nearly_right_is_asked_about(
    workspace: Workspace, walk: Performance
) -> None:
    assert workspace.actor is not None
    renamed = other_names(walk, lamp="jawx")
    draft = PerformanceDraft(renamed, "walk", workspace.actor, {}, FollowOptions())
    target, landing, _, found = row_of(draft, "jawx")
    assert (target, landing) == ("jaw", Landing.ASK) and found not in (None, MatchSource.MAP)
    draft.say("jawx", "jaw")
    assert row_of(draft, "jawx")[0] == "jaw" and row_of(draft, "jawx")[1] is not Landing.ASK
    draft.say("jawx", None)
    assert row_of(draft, "jawx")[1:3] == (Landing.MISSING, "left out by hand")


def test_what_is_said_of_a_joint_counts_and_is_undone(draft: PerformanceDraft) -> None:
    arm = source_of(draft, "leftUpperArm")
    target, landing, _, found = row_of(draft, arm)
    assert target == "arm_L" and landing in (Landing.LANDS, Landing.CORRECTED)
    heard: list[int] = []
    draft.changed.connect(lambda: heard.append(1))
    draft.say(arm, None)
    assert row_of(draft, arm) == (None, Landing.MISSING, "left out by hand", MatchSource.MAP)
    assert "arm_L" in draft.free_targets(arm) and draft.unsaved == 1
    first = draft.free_targets(arm)[0]
    assert first.endswith("_L")
    draft.say("cap:lamp", "jaw")
    assert row_of(draft, "cap:lamp")[0] == "jaw"
    draft.say("cap:head" if "cap:head" in {r.source for r in draft.fit.rows} else arm, "jaw")
    assert "cap:lamp" not in draft.told.names or row_of(draft, "cap:lamp")[0] != "jaw"
    draft.undo()
    assert draft.told.names == {arm: None, "cap:lamp": "jaw"} and draft.unsaved == 2
    names = draft.saved_as()
    assert (names.source, names.target) == (draft.performance.rig.name, "Marrow")
    assert names.names == draft.told.names
    draft.was_saved()
    assert draft.unsaved == 0
    draft.unsay(arm)
    assert row_of(draft, arm) == (target, landing, row_of(draft, arm)[2], found)
    assert draft.unsaved == 1
    draft.undo()
    draft.redo()
    assert arm not in draft.told.names and len(heard) >= 6


def test_frames_that_go_in_change_nothing_else(draft: PerformanceDraft) -> None:
    fit, last = draft.fit, len(draft) - 1
    assert draft.span == (0, last) and draft.told.span is None
    draft.set_span(20, 60)
    assert draft.fit is fit and draft.span == (20, 60)
    sequence = draft.sequence()
    made = fit.made
    assert sequence is not None and made is not None
    assert len(sequence) == 41 and (sequence.rate, sequence.name) == (
        draft.performance.rate,
        "walk",
    )
    assert np.array_equal(sequence.at(0).turn, made.state.turn[20])
    assert sequence.can_hold
    sequence.hold_feet(False)
    assert fit.loose is not None
    assert np.array_equal(sequence.at(40).turn, fit.loose.state.turn[60])
    draft.set_span(70, 10)
    assert draft.span == (10, 10)
    draft.set_span(-5, 9999)
    assert draft.told.span is None
    draft.undo()  # however it was pulled it is one step
    assert draft.told.span is None and not draft.steps.go(-1)


def test_stretches_where_a_foot_stands_are_set_and_found_again(draft: PerformanceDraft) -> None:
    found = draft.spans("left")
    assert len(found) >= 2 and all(b > a for a, b in found) and draft.spans("nobody") == ()
    draft.set_spans("left", ((-4, 6), (5, 9), (20, 25), (25, 30), (40, 40)))
    assert draft.spans("left") == ((0, 9), (20, 30))
    made = draft.fit.made
    assert made is not None and made.stands is not None
    stands = made.stands.feet("left")
    assert stands[:9].all() and stands[20:30].all() and not stands[9:20].any()
    right = draft.spans("right")
    draft.find_spans()
    assert draft.spans("left") == found and draft.spans("right") == right
    options = draft.told.options
    draft.set_options(feet=False, hands=False, stretch=False, facing=True)
    changed = draft.told.options
    assert (changed.feet, changed.hands, changed.stretch, changed.ahead) == (
        False,
        False,
        False,
        False,
    )
    assert draft.fit.before == draft.fit.ground
    draft.undo()
    assert draft.told.options == options


def test_only_the_last_answer_counts(workspace: Workspace, walk: Performance) -> None:
    waiting: list[tuple[object, object]] = []
    assert workspace.actor is not None
    draft = PerformanceDraft(
        walk,
        "walk",
        workspace.actor,
        {},
        FollowOptions(),
        lambda make, take: waiting.append((make, take)),
    )
    assert not draft.computing
    arm = source_of(draft, "leftUpperArm")
    draft.say(arm, None)
    draft.say("cap:lamp", "jaw")
    assert draft.computing and len(waiting) == 2
    answers = [make() for make, _ in waiting if callable(make)]
    for number in (1, 0):
        take = waiting[number][1]
        assert callable(take)
        take(answers[number])
    assert draft.fit is answers[1] and not draft.computing


def test_where_nothing_fits_names_can_still_be_said(workspace: Workspace) -> None:
    names = {k: f"q{n:02}x" for n, k in enumerate(FAMILIES["by joint"])}
    rig = body_rig(Build(), names, Placed())
    rig = replace(rig, controls=tuple(replace(c, role=None, role_sure=0.0) for c in rig.controls))
    made = performed(rig, {v: k for k, v in names.items()}, "sit")
    blind = Performance("sit", rig, made.states, made.rate)
    assert workspace.actor is not None
    with pytest.raises(FoxHandError) as caught:
        followed_on(blind, workspace.actor.rig)
    assert caught.value.code == "performance.nothing_fits"
    draft = PerformanceDraft(blind, "sit", workspace.actor, {}, FollowOptions())
    assert draft.fit.made is None and draft.sequence() is None and draft.lands == 0
    assert draft.spans("left") == () and draft.fit.ground is None and draft.fit.stick is None
    draft.say(names["leftUpperArm"], "arm_L")
    assert draft.fit.made is not None and draft.lands >= 1


def test_each_joint_is_followed_by_one_and_what_was_told_counts_first(
    marrow: Rig, walk: Performance
) -> None:
    source = walk.rig
    pairs = pairs_of(source, marrow, {})
    assert len(set(pairs.values())) == len(pairs)
    role = {marrow.controls[m].role: source.controls[t].role for m, t in pairs.items()}
    assert all(one == other for one, other in role.items())
    left = next(c.name for c in source.controls if c.role == "leftUpperArm")
    right = next(c.name for c in source.controls if c.role == "rightUpperArm")
    row = marrow.control_row
    swapped = pairs_of(source, marrow, {left: "arm_R", right: "arm_L"})
    assert source.controls[swapped[row["arm_R"]]].name == left
    assert source.controls[swapped[row["arm_L"]]].name == right
    moved = pairs_of(source, marrow, {left: "arm_R"})
    assert source.controls[moved[row["arm_R"]]].name == left and row["arm_L"] not in moved
    out = pairs_of(source, marrow, {left: None})
    assert row["arm_L"] not in out and len(out) == len(pairs) - 1


def test_what_holding_the_ground_changed_is_said_in_centimetres(
    walk: Performance, marrow: Rig
) -> None:
    made = followed_on(walk, marrow, None, FollowOptions(starts=True))
    assert made.held is not None and made.held.feet
    frames = len(walk)

    def held(slid: float, sank: float, hips: float) -> Transferred:
        ground = replace(
            made.held,
            slid={"left": np.full(frames, slid), "right": np.zeros(frames)},
            sank=np.full(frames, sank),
            hips=np.full(frames, hips),
        )
        assert isinstance(ground, GroundHold)
        return replace(made, held=ground)

    assert held_words(held(0.031, 0.012, 0.004)) == (
        "Feet that slid 3.1 cm and sank 1.2 cm hold the ground, and the hips come down by up to"
        " 0.4 cm.",
    )
    assert held_words(held(0.031, 0.001, 0.0)) == ("Feet that slid 3.1 cm hold the ground.",)
    assert held_words(held(0.001, 0.001, 0.2)) == ()
    assert held_words(replace(made, held=None)) == ()


def test_the_lines_beside_it_are_as_large_and_stand_on_the_same_ground(
    draft: PerformanceDraft,
) -> None:
    fit: PerformanceFit = draft.fit
    stick, made, rig = fit.stick, fit.made, draft.actor.rig
    assert stick is not None and made is not None
    source = fit.performance.rig
    assert stick.places.shape[0] == len(draft) and len(stick.above) == stick.places.shape[1]
    assert stick.above.count(-1) == 1 and set(stick.feet) == {"left", "right"}
    assert len(stick.sides) == len(stick.above)
    hips = rig.controls[rig.control_row["hips"]].node
    here = rig.evaluate(made.state).nodes[:, hips, :3, 3]
    first = stick.above.index(-1)
    assert stick.places[0, first, [0, 2]] == pytest.approx(here[0, [0, 2]], abs=1e-3)
    assert abs(float(stick.places[..., 1].min())) < 0.02 * rig.height
    # a thigh of the lines points where the source's points
    names = [c.name for c in source.controls]
    up, low = (names.index(source_of(draft, f"left{n}Leg")) for n in ("Upper", "Lower"))
    nodes = source.evaluate(fit.performance.states).nodes[:, :, :3, 3]
    way = nodes[:, source.controls[low].node] - nodes[:, source.controls[up].node]
    drawn = stick.places[:, low] - stick.places[:, up]
    far = np.linalg.norm(way, axis=1), np.linalg.norm(drawn, axis=1)
    assert (way * drawn).sum(1) / (far[0] * far[1]) == pytest.approx(np.ones(len(way)), abs=1e-3)
    assert far[1] / far[0] == pytest.approx(np.full(len(way), made.legs), rel=1e-3)
    assert angle_between(made.state.turn[0], made.state.turn[0]).max() < 1e-6


def talking(marrow: Rig, names: list[str]) -> Performance:
    """A face of other names that moves all its shapes but the last."""
    body = tuple(replace(c, name="x", role=None) for c in marrow.controls[:1])
    source = replace(faced(marrow, names), controls=body, parts=())
    rest = [np.repeat(v[None], 5, 0) for v in source.rest.arrays()]
    values = np.tile([[0.0], [0.5], [1.0], [0.25], [0.0]], len(names))
    values[:, -1] = 0.0
    return Performance("talk", source, State(*rest[:3], values, rest[4]), 30.0)


def test_shapes_of_a_face_have_rows_as_joints_have(workspace: Workspace) -> None:
    actor = workspace.actor
    assert actor is not None
    names = ["browInnerUp", "eyeBlinkLeft", "jawForward", "mouthPucker"]
    draft = PerformanceDraft(talking(actor.rig, names), "talk", actor, {}, FollowOptions())
    shapes = [r for r in draft.fit.rows if r.source in names]
    assert [r.source for r in shapes] == names[:3]  # what stands still is not told of
    brow, lid, jaw = shapes
    assert (brow.target, brow.landing) == ("brow_inner_up_L", Landing.CORRECTED)
    assert brow.detail == "and brow_inner_up_R" and brow.found is MatchSource.FACE
    assert (lid.target, lid.landing, lid.detail) == ("lid_shut_L", Landing.LANDS, "as it is")
    assert (lid.region, lid.side) == (Region.EYES, Side.LEFT)
    assert (jaw.target, jaw.landing, jaw.detail) == (None, Landing.MISSING, "by 1.00, stays out")
    assert (jaw.region, jaw.side) == (Region.MOUTH, Side.CENTRE)
    free = draft.free_targets("eyeBlinkLeft")
    assert "lid_shut_R" in free and "lid_shut_L" not in free
    assert free.index("lid_squint_L") < free.index("lid_shut_R")  # its own side first
    assert not any(actor.rig.settings[actor.rig.setting_row[n]].helper for n in free)
    draft.say("jawForward", "jaw_open")
    assert row_of(draft, "jawForward")[:3] == ("jaw_open", Landing.LANDS, "as it is")
    draft.say("eyeBlinkLeft", None)
    assert row_of(draft, "eyeBlinkLeft")[:3] == (None, Landing.MISSING, "left out by hand")
    assert draft.unsaved == 2
    draft.unsay("eyeBlinkLeft")
    assert row_of(draft, "eyeBlinkLeft")[0] == "lid_shut_L" and draft.unsaved == 1
    sequence = draft.sequence()
    assert sequence is not None
    moved = sequence.states.settings
    row = actor.rig.setting_row
    for name in ("jaw_open", "lid_shut_L", "brow_inner_up_R"):
        assert moved[:, row[name]] == pytest.approx([0, 0.5, 1, 0.25, 0]), name
