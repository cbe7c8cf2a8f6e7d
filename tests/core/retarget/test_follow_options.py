"""What can be asked of following, each alone, and figures of which less is known."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from fox_hand.core.animation.performance import Performance
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.state import State
from fox_hand.core.retarget.figure_motion import FigureMotion, leg_length, role_nodes, sole_level
from fox_hand.core.retarget.soles import soles_of
from fox_hand.core.retarget.transfer import FollowOptions, Transferred, follow
from fox_hand.core.rig.rig import Rig
from tests.bodies import Build, Placed, body_rig
from tests.core.naming.test_roles import FAMILIES
from tests.core.retarget.test_transfer import pairs
from tests.motions import performed

NAMES = FAMILIES["up leg"]
KEYS = {v: k for k, v in NAMES.items()}


@pytest.fixture(scope="module")
def walker() -> Rig:
    return body_rig(Build(height=1.8, arms_down=0), NAMES, Placed())


@pytest.fixture(scope="module")
def target() -> Rig:
    names = FAMILIES["by joint"]
    return body_rig(Build(height=1.2, legs=0.4), names, Placed(35, (0.4, 0.1, -0.7), axes=4))


def places(rig: Rig, found: Transferred, *roles: str) -> Array:
    """Where joints are, in the figure's own directions, ``(F, K, 3)``."""
    known = role_nodes(rig)
    at = rig.evaluate(found.state).nodes[:, :, :3, 3]
    return rig.body.seen(at[:, [known[r] for r in roles]])


@pytest.mark.parametrize("degrees", [70.0, -120.0, 180.0])
def test_one_that_begins_looking_aside_can_be_turned_ahead(
    walker: Rig, target: Rig, degrees: float
) -> None:
    walk = performed(walker, KEYS, "walk")
    hips = next(r for r, c in enumerate(walker.controls) if c.role == "hips")
    node = walker.controls[hips].node
    spin = Rotation.from_euler("y", degrees, degrees=True)
    rest = Rotation.from_quat(walker.skeleton.rest_turns[node])
    turn, move = walk.states.turn.copy(), walk.states.move.copy()
    turn[:, hips] = (rest.inv() * spin * rest * Rotation.from_quat(turn[:, hips])).as_quat()
    at = walker.skeleton.rest_world[node, :3, 3]
    move[:, hips] = rest.inv().apply(spin.apply(rest.apply(move[:, hips]) + at) - at)
    turned = Performance("aside", walker, walk.states.with_(turn=turn, move=move), walk.rate)
    row = pairs(walker, target)
    plain = follow(walk, target, row, FollowOptions(starts=True, ahead=True, feet=False))
    found = follow(turned, target, row, FollowOptions(starts=True, ahead=True, feet=False))
    roles = ("hips", "head", "leftHand", "rightFoot")
    assert places(target, found, *roles) == pytest.approx(places(target, plain, *roles), abs=1e-6)
    wanted = (np.radians(degrees) + plain.facing + np.pi) % (2 * np.pi) - np.pi
    assert (found.facing - wanted + np.pi) % (2 * np.pi) - np.pi == pytest.approx(0.0, abs=1e-6)
    # without it, it goes where the other went
    as_it_is = follow(turned, target, row, FollowOptions(starts=True, feet=False))
    assert np.abs(places(target, as_it_is, "head") - places(target, plain, "head")).max() > 0.1


def test_ways_are_scaled_by_the_legs_unless_somebody_says_not_to(walker: Rig, target: Rig) -> None:
    walk = performed(walker, KEYS, "walk")
    there = walker.body.seen(
        walker.evaluate(walk.states).nodes[:, role_nodes(walker)["hips"], :3, 3]
    )
    gone = np.linalg.norm((there[-1] - there[0])[[0, 2]])
    for stretch in (True, False):
        options = FollowOptions(stretch=stretch, feet=False, starts=True)
        found = follow(walk, target, pairs(walker, target), options)
        here = places(target, found, "hips")[:, 0]
        far = np.linalg.norm((here[-1] - here[0])[[0, 2]])
        assert far == pytest.approx(gone * found.legs, rel=0.02)
        assert found.legs == pytest.approx(
            1.0 if not stretch else (1.2 * 0.4) / (1.8 * 0.46), rel=0.1
        )


def test_it_begins_where_it_stands_or_as_far_off_as_the_other(walker: Rig, target: Rig) -> None:
    walk = performed(walker, KEYS, "walk")
    move = walk.states.move.copy()
    row = next(r for r, c in enumerate(walker.controls) if c.role == "hips")
    move[:, row] += (1.5, 0.0, -2.0)
    off = Performance("off", walker, walk.states.with_(move=move), walk.rate)
    legs = ("leftUpperLeg", "rightUpperLeg")
    rest = target.body.seen(target.skeleton.rest_world[:, :3, 3])
    own = rest[[role_nodes(target)[r] for r in legs]].mean(0)
    found = follow(off, target, pairs(walker, target), FollowOptions(starts=True, feet=False))
    first = places(target, found, *legs)[0].mean(0)
    assert first[[0, 2]] == pytest.approx(own[[0, 2]], abs=1e-9)
    found = follow(off, target, pairs(walker, target), FollowOptions(feet=False))
    first = places(target, found, *legs)[0].mean(0)
    there = walker.body.seen(walker.evaluate(off.states).nodes[:, :, :3, 3])
    begins = there[0, [role_nodes(walker)[r] for r in legs]].mean(0)
    assert first[[0, 2]] == pytest.approx(begins[[0, 2]] * found.legs, abs=1e-9)


def without_legs(rig: Rig) -> Rig:
    """The same figure of whose legs nothing is known."""
    controls = tuple(
        replace(c, role=None) if c.role and ("Leg" in c.role or "Foot" in c.role) else c
        for c in rig.controls
    )
    return replace(rig, controls=controls)


@pytest.mark.parametrize("whose", ["source", "target", "both"])
def test_where_legs_are_not_known_ways_go_by_height(walker: Rig, target: Rig, whose: str) -> None:
    there = walker if whose == "target" else without_legs(walker)
    here = target if whose == "source" else without_legs(target)
    assert (leg_length(there) is None) or (leg_length(here) is None)
    walk = replace(performed(walker, KEYS, "walk"), rig=there)
    for starts in (False, True):
        found = follow(walk, here, pairs(there, here), FollowOptions(starts=starts))
        assert found.stands is None and found.held is None and found.heights == {}
        scale = here.height / there.height
        assert found.legs == pytest.approx(scale)
        motion = FigureMotion.of(there, walk.states, walk.rate)
        hips = role_nodes(there)["hips"]
        gone = motion.places[:, hips] - motion.rest_places[hips]
        if starts:
            gone = gone - gone[0] * [1, 0, 1]
        rest = here.body.seen(here.skeleton.rest_world[role_nodes(here)["hips"], :3, 3])
        assert places(here, found, "hips")[:, 0] == pytest.approx(rest + gone * scale, abs=1e-9)


def test_said_spans_hold_a_foot_where_it_was_in_the_air(walker: Rig, target: Rig) -> None:
    walk = performed(walker, KEYS, "walk")
    plain = follow(walk, target, pairs(walker, target))
    assert plain.stands is not None
    air = np.flatnonzero(~plain.stands.feet("left"))
    first, last = int(air[len(air) // 2]), int(air[len(air) // 2]) + 4
    spans = {"left": ((first, last),)}
    found = follow(walk, target, pairs(walker, target), FollowOptions(spans=spans))
    assert found.stands is not None
    assert np.flatnonzero(found.stands.feet("left")).tolist() == list(range(first, last))
    assert np.array_equal(found.stands.feet("right"), plain.stands.feet("right"))
    at = target.evaluate(found.state).nodes[first:last]
    points = target.body.seen(soles_of(target)["left"].points(at))[:, 1]  # it rolls on the ball
    ground = min(sole_level(target, side) for side in ("left", "right"))
    assert points[..., 1] == pytest.approx(ground, abs=0.005 * target.height)
    assert np.ptp(points[..., [0, 2]], axis=0).max() < 0.02 * target.height


def test_hands_meet_unless_somebody_says_not_to(walker: Rig, target: Rig) -> None:
    sit = performed(walker, KEYS, "sit")
    found = [
        follow(sit, target, pairs(walker, target), FollowOptions(feet=False, hands=hands))
        for hands in (True, False)
    ]
    gaps = [
        np.linalg.norm(np.diff(places(target, f, "leftHand", "rightHand"), axis=1), axis=-1)
        for f in found
    ]
    there = walker.evaluate(sit.states).nodes[:, :, :3, 3]
    known = role_nodes(walker)
    gap = np.linalg.norm(there[:, known["leftHand"]] - there[:, known["rightHand"]], axis=-1)
    near = gap < 0.16 * walker.height
    changed = np.abs(gaps[0] - gaps[1])[:, 0] > 1e-6
    assert not changed[~near].any()


def test_only_some_limbs_can_follow(walker: Rig, target: Rig) -> None:
    walk = performed(walker, KEYS, "walk")
    row = {
        r: s for r, s in pairs(walker, target).items() if "Arm" in (target.controls[r].role or "")
    }
    found = follow(walk, target, row, FollowOptions(feet=False))
    assert found.rows == row
    others = [r for r in range(len(target.controls)) if r not in row]
    assert np.array_equal(
        found.state.turn[:, others],
        np.tile(target.rest.turn[others], (len(found.state.turn), 1, 1)),
    )
    rest = target.skeleton.rest_world[role_nodes(target)["hips"], :3, 3]
    at = target.evaluate(found.state).nodes[:, role_nodes(target)["hips"], :3, 3]
    # nothing that carries the figure along follows, but the topmost that does may move
    assert at == pytest.approx(np.tile(rest, (len(at), 1)), abs=1e-9)


@pytest.mark.parametrize(
    ("turn", "facing"),
    [
        (Rotation.from_euler("y", 40, degrees=True), 40.0),
        (Rotation.from_euler("y", -130, degrees=True), -130.0),
        (Rotation.from_euler("YX", [25, 70], degrees=True), 25.0),  # bent far forward
        (Rotation.from_euler("YX", [25, 88], degrees=True), 0.0),  # looks at the ground
        (Rotation.from_euler("YX", [25, -85], degrees=True), 0.0),  # lies on its back
        (Rotation.from_euler("YZ", [25, 90], degrees=True), 25.0),  # lies on its side
    ],
)
def test_where_a_figure_looks_is_known_unless_it_looks_up_or_down(
    walker: Rig, turn: Rotation, facing: float
) -> None:
    rest = walker.rest
    row = next(r for r, c in enumerate(walker.controls) if c.role == "hips")
    base = Rotation.from_quat(walker.skeleton.rest_turns[walker.controls[row].node])
    turns = rest.turn.copy()
    turns[row] = (base.inv() * turn * base).as_quat()
    pairs_of = zip(rest.arrays(), rest.with_(turn=turns).arrays(), strict=True)
    batch = State(*(np.stack(both) for both in pairs_of))
    motion = FigureMotion.of(walker, batch, 24.0)
    assert np.degrees(motion.facing(1)) == pytest.approx(facing, abs=1e-6)
    assert motion.facing(0) == pytest.approx(0.0, abs=1e-9)
    turned = motion.turned(np.radians(-30.0))
    if facing:
        off = (np.degrees(turned.facing(1)) - (facing - 30.0)) % 360.0
        assert min(off, 360 - off) == pytest.approx(0.0, abs=1e-6)
