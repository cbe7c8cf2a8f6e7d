"""Where hands are, said without the rig they are of, and found again on another."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.state import State
from fox_hand.core.retarget.arm_places import ArmPlace, Touch, arm_places, hand_length, wrists_for
from fox_hand.core.retarget.figure_motion import role_nodes
from fox_hand.core.retarget.reach import FULL
from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.readers import read_rig
from tests.bodies import Build, Placed, body_rig
from tests.core.naming.test_roles import FAMILIES
from tests.core.retarget.test_hands_on_body import flesh, held, poses


@pytest.fixture(scope="module")
def pim() -> Rig:
    return read_rig(shipped() / "cast" / "pim.glb")


@pytest.fixture(scope="module")
def bare() -> Rig:
    """Joints alone, looking aside and standing beside the origin."""
    return body_rig(Build(arms_down=20), FAMILIES["up leg"], Placed(70, (0.5, 0.1, 2.0), axes=3))


def place(rig: Rig, state: State, role: str) -> Array:
    return rig.body.seen(rig.evaluate(state).nodes[role_nodes(rig)[role], :3, 3])


def joints(rig: Rig, name: str) -> State:
    """A pose with its arms on their joints."""
    return held(rig, poses(rig)[name], joints=True)[0]


@pytest.mark.parametrize("name", ["belly", "head", "thigh", "together"])
def test_on_the_same_body_hands_are_where_they_were(marrow: Rig, name: str) -> None:
    state = joints(marrow, name)
    at = marrow.evaluate(state)
    arms = arm_places(marrow, at)
    assert set(arms) == {"left", "right"}
    found = wrists_for(marrow, at, arms)
    for side in ("left", "right"):
        off = np.linalg.norm(found[side] - place(marrow, state, f"{side}Hand"))
        assert off < 0.003 * marrow.height, side


def test_what_a_hand_touches_is_named_and_measured(marrow: Rig) -> None:
    wanted = {"belly": {"hips", "spine", "chest"}, "head": {"head"}, "thigh": {"leftUpperLeg"}}
    for name, bones in wanted.items():
        state = joints(marrow, name)
        arms = arm_places(marrow, marrow.evaluate(state))
        touch = arms["left"].touch
        assert touch is not None and touch.bone in bones and touch.share == 1.0
        wrist = marrow.evaluate(state).nodes[role_nodes(marrow)["leftHand"], :3, 3]
        gap = np.linalg.norm(flesh(marrow, state) - wrist, axis=1).min()
        assert touch.gap * marrow.height == pytest.approx(gap, abs=0.01 * marrow.height)
        assert 0.0 <= touch.along <= 1.0 and np.linalg.norm(touch.way) == pytest.approx(1.0)
        assert arms["left"].other is None
    apart = arm_places(marrow, marrow.evaluate(marrow.rest))
    assert apart["right"].touch is None and apart["right"].other is None


def test_hands_together_say_how_far_apart_in_hands(marrow: Rig) -> None:
    state = joints(marrow, "together")
    arms = arm_places(marrow, marrow.evaluate(state))
    gap = place(marrow, state, "rightHand") - place(marrow, state, "leftHand")
    assert np.array(arms["left"].other) == pytest.approx(gap / hand_length(marrow))
    assert np.array(arms["right"].other) == pytest.approx(-gap / hand_length(marrow))


def test_in_the_open_bones_point_as_they_did(bare: Rig) -> None:
    up, ahead = (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)
    arms = {"left": ArmPlace(up, ahead), "right": ArmPlace(ahead, up)}
    found = wrists_for(bare, bare.evaluate(bare.rest), arms)
    known, rest = role_nodes(bare), bare.skeleton.rest_world[:, :3, 3]
    for side, first, second in (("left", 1, 2), ("right", 2, 1)):
        a, b, c = (rest[known[f"{side}{x}"]] for x in ("UpperArm", "LowerArm", "Hand"))
        wanted = bare.body.seen(a)
        wanted[first] += np.linalg.norm(b - a)
        wanted[second] += np.linalg.norm(c - b)
        assert found[side] == pytest.approx(wanted)
    # of a body without flesh a hand is where its arm points, whatever it touched there
    touch = Touch("chest", 0.5, (0.0, 0.0, 1.0), 0.0, 0.0, 1.0)
    other = {side: replace(arm, touch=touch) for side, arm in arms.items()}
    assert wrists_for(bare, bare.evaluate(bare.rest), other)["left"] == pytest.approx(found["left"])


def test_a_hand_in_part_near_goes_part_of_the_way(marrow: Rig, pim: Rig) -> None:
    arms = arm_places(marrow, marrow.evaluate(joints(marrow, "belly")))
    at = pim.evaluate(pim.rest)
    touch = arms["left"].touch
    assert touch is not None
    wrists = {}
    for share in (0.0, 0.25, 1.0):
        left = replace(arms["left"], touch=replace(touch, share=share))
        wrists[share] = wrists_for(pim, at, {"left": left})["left"]
    apart = wrists[1.0] - wrists[0.0]
    assert np.linalg.norm(apart) > 0.01
    assert wrists[0.25] == pytest.approx(wrists[0.0] + 0.25 * apart)


@pytest.mark.parametrize("bone", ["head", "leftLowerLeg", "hips"])
def test_what_is_too_far_for_the_arm_is_reached_for(pim: Rig, bone: str) -> None:
    """No wrist is further from its shoulder than the arm is long."""
    at = pim.evaluate(pim.rest)
    touch = Touch(bone, 0.9, (0.6, 0.0, 0.8), 0.35, 0.3, 1.0)
    found = wrists_for(pim, at, {"left": ArmPlace((1.0, 0, 0), (1.0, 0, 0), touch)})["left"]
    places = pim.body.seen(pim.skeleton.rest_world[:, :3, 3])
    known = role_nodes(pim)
    a, b, c = (places[known[f"left{x}"]] for x in ("UpperArm", "LowerArm", "Hand"))
    length = float(np.linalg.norm(b - a) + np.linalg.norm(c - b))
    assert np.linalg.norm(found - a) <= length * FULL + 1e-9


def test_of_hands_together_the_one_on_the_body_leads(bare: Rig, pim: Rig) -> None:
    at, hand = pim.evaluate(pim.rest), hand_length(pim)
    out = {"left": (1.0, 0.0, 0.0), "right": (-1.0, 0.0, 0.0)}
    touch = Touch("chest", 0.5, (0.0, 0.0, 1.0), 0.05, 0.05, 1.0)
    gap = (-2.0, 0.5, 0.0)
    left = ArmPlace(out["left"], out["left"], touch, gap)
    right = ArmPlace(out["right"], out["right"], None, tuple(-v for v in gap))
    alone = wrists_for(pim, at, {"left": replace(left, other=None)})["left"]
    both = wrists_for(pim, at, {"left": left, "right": right})
    assert both["left"] == pytest.approx(alone)
    assert both["right"] == pytest.approx(alone + np.array(gap) * hand)
    # with neither on the body they meet in the middle
    free = replace(left, touch=None)
    apart = wrists_for(pim, at, {"left": replace(free, other=None), "right": right})
    met = wrists_for(pim, at, {"left": free, "right": right})
    assert met["right"] - met["left"] == pytest.approx(np.array(gap) * hand)
    assert met["left"] + met["right"] == pytest.approx(apart["left"] + apart["right"])


def test_hands_are_measured_to_the_knuckle(bare: Rig) -> None:
    known, rest = role_nodes(bare), bare.skeleton.rest_world[:, :3, 3]
    far = [
        np.linalg.norm(rest[known[f"{s}MiddleProximal"]] - rest[known[f"{s}Hand"]])
        for s in ("left", "right")
    ]
    assert hand_length(bare) == pytest.approx(np.mean(far))
    controls = tuple(
        replace(c, role=None) if "Middle" in (c.role or "") else c for c in bare.controls
    )
    assert hand_length(replace(bare, controls=controls)) == pytest.approx(0.05 * bare.height)
