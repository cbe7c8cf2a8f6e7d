"""A performance on other figures: limbs point as they did, feet stand where they stood.

The motions are made by :mod:`tests.motions`, which shares no calculation with what is checked.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from fox_hand.core.animation.performance import Performance
from fox_hand.core.maths.rotations import Array, angle_between, inverse, multiply
from fox_hand.core.model.state import State
from fox_hand.core.retarget.arm_places import hand_length
from fox_hand.core.retarget.figure_motion import FigureMotion, leg_length, role_nodes, sole_level
from fox_hand.core.retarget.reach import ARM, Reach
from fox_hand.core.retarget.soles import soles_of, stands_of
from fox_hand.core.retarget.standing import rests_standing, standing
from fox_hand.core.retarget.transfer import FollowOptions, Transferred, follow
from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.readers import read_rig
from tests.bodies import Build, Placed, body_rig
from tests.core.naming.test_roles import FAMILIES
from tests.motions import MOTIONS, performed

NAMES = FAMILIES["up leg"]
MORE = NAMES | {"extra spine 1": "Extra", "extra neck 1": "Neck1"}
LIMBS = [
    (side + a, side + b)
    for side in ("left", "right")
    for a, b in (
        *(("UpperArm", "LowerArm"), ("LowerArm", "Hand")),
        *(("UpperLeg", "LowerLeg"), ("LowerLeg", "Foot")),
    )
]
SOURCES = {
    "plain": (Build(), NAMES, Placed()),
    "far off": (Build(spine=4, necks=2, arms_down=0), MORE, Placed(140, (2, 0.4, 1), 0.01, axes=3)),
    "flipped": (Build(arms_down=10), NAMES, Placed(30, axes=5, flips=True)),
    "huge": (Build(height=30.0, spine=1, legs=0.5), NAMES, Placed(-90, (0, 0, 0), 100.0, axes=8)),
}


def source(name: str) -> tuple[Rig, dict[str, str]]:
    build, names, placed = SOURCES[name]
    given = {k: v for k, v in names.items() if build.spine > 2 or k not in ("chest", "upperChest")}
    return body_rig(build, given, placed), {v: k for k, v in given.items()}


@pytest.fixture(scope="module")
def targets() -> dict[str, Rig]:
    names = ("marrow", "pim", "quill", "brandle")
    found = {n: read_rig(shipped() / "cast" / f"{n}.glb") for n in names}
    short = Build(height=1.2, legs=0.38, arms_down=0, spine=2)
    names = FAMILIES["by joint"] | {"chest": "Chest2"}
    names = {k: v for k, v in names.items() if k != "upperChest"}
    return found | {
        "short": body_rig(short, names, Placed(-60, (1, 0, 1), 5.0, axes=9, flips=True))
    }


def pairs(there: Rig, here: Rig) -> dict[int, int]:
    rows = {c.role: r for r, c in enumerate(there.controls) if c.role}
    return {r: rows[c.role] for r, c in enumerate(here.controls) if c.role in rows}


def ways(rig: Rig, nodes: Array, limb: tuple[str, str]) -> Array:
    known = role_nodes(rig)
    a, b = (nodes[:, known[role], :3, 3] for role in limb)
    way = (b - a) @ rig.body.axes
    return way / np.linalg.norm(way, axis=1, keepdims=True)


def worst_angle(one: Array, other: Array) -> float:
    return float(np.degrees(np.arccos(np.clip((one * other).sum(1), -1, 1))).max())


@pytest.mark.parametrize("name", list(SOURCES))
@pytest.mark.parametrize("motion", ["turn", "jump"])
def test_limbs_point_as_they_did_and_nothing_between_is_lost(
    targets: Mapping[str, Rig], name: str, motion: str
) -> None:
    rig, keys = source(name)
    performance = performed(rig, keys, motion)
    there = rig.evaluate(performance.states).nodes
    for target in targets.values():
        found = follow(performance, target, pairs(rig, target), FollowOptions(feet=False))
        here = target.evaluate(found.state).nodes
        for limb in LIMBS:
            if {limb[0], limb[1]} <= set(role_nodes(target)):
                assert worst_angle(ways(rig, there, limb), ways(target, here, limb)) < 0.5
        # the head has turned by as much in the world, whatever joints lie below it
        heads = FigureMotion(rig, there, 1.0).changes([role_nodes(rig)["head"]])
        seen = FigureMotion(target, here, 1.0).changes([role_nodes(target)["head"]])
        assert np.abs(heads - seen).max() < 1e-6


@pytest.mark.parametrize("motion", list(MOTIONS))
def test_feet_stand_where_and_when_the_others_stand(
    targets: Mapping[str, Rig], motion: str
) -> None:
    rig, keys = source("far off")
    performance = performed(rig, keys, motion, lift=0.3)
    for name, target in targets.items():
        found = follow(performance, target, pairs(rig, target))
        check_feet(performance, target, found, name)


def check_feet(performance: Performance, target: Rig, found: Transferred, name: str) -> None:
    assert found.stands is not None
    here = target.evaluate(found.state).nodes
    there = performance.rig.evaluate(performance.states).nodes
    ground = min(sole_level(target, side) for side in ("left", "right"))
    assert sum(m.sum() for m in found.stands.heels.values()) > 10, name
    for side, sole in soles_of(target).items():
        mine = target.body.seen(sole.points(here))
        theirs = performance.rig.body.seen(soles_of(performance.rig)[side].points(there))
        assert mine[:, :, 1].min() > ground - 0.006 * target.height
        for number, marks in enumerate((found.stands.heels[side], found.stands.balls[side])):
            off = np.abs(mine[marks, number, 1] - ground)
            assert off.max(initial=0.0) < 0.005 * target.height, name
            both = marks[1:] & marks[:-1]
            slides = [np.linalg.norm(np.diff(p[:, number], axis=0), axis=1) for p in (mine, theirs)]
            # as far as the source's own point rolls, by the size of the foot, and no further
            allowed = 1.5 * slides[1][both].max(initial=0.0) * found.legs + 0.006 * target.height
            assert slides[0][both].max(initial=0.0) < allowed, name


def test_the_ground_is_where_feet_stand_not_where_the_file_begins() -> None:
    rig, keys = source("plain")
    for lift in (-0.4, 0.0, 1.3):
        performance = performed(rig, keys, "walk", lift=lift)
        motion = FigureMotion.of(rig, performance.states, performance.rate)
        found = stands_of(motion, leg_length(rig))
        rest = sole_level(rig, "left")
        assert found.floor == pytest.approx(rest + lift, abs=0.01)


def test_one_recorded_anywhere_begins_where_the_character_stands(
    targets: Mapping[str, Rig],
) -> None:
    rig, keys = source("plain")
    performance = performed(rig, keys, "walk")
    moved = performance.states.move.copy()
    hips = next(r for r, c in enumerate(rig.controls) if c.role == "hips")
    moved[:, hips] += (40.0, 0.0, -25.0)
    performance = replace(performance, states=performance.states.with_(move=moved))
    target = targets["marrow"]
    options = FollowOptions(starts=True)
    found = follow(performance, target, pairs(rig, target), options)
    place = target.evaluate(found.state).nodes[0, role_nodes(target)["hips"], :3, 3]
    rest = target.skeleton.rest_world[role_nodes(target)["hips"], :3, 3]
    assert np.abs((place - rest)[[0, 2]]).max() < 0.05


def test_hands_that_meet_meet_on_every_build(targets: Mapping[str, Rig]) -> None:
    """A clap in front of the chest; hands elsewhere stay where their arms point."""
    rig, keys = source("plain")
    performance = performed(rig, keys, "sit")
    states, chest = performance.states, role_nodes(rig)["chest"]
    for side, sign in (("left", 1.0), ("right", -1.0)):
        nodes = rig.evaluate(states).nodes
        aside = np.linspace(0.3, 0.015, len(performance)) * sign
        goals = rig.body.seen(nodes[:, chest, :3, 3]) + np.stack(
            [aside, 0 * aside, 0 * aside + 0.35], 1
        )
        limb = Reach.of(rig, side, ARM)
        assert limb is not None
        states = limb.reaching(rig, states, nodes, goals)
    performance = replace(performance, states=states)
    theirs = role_nodes(rig)
    there = rig.evaluate(performance.states).nodes
    gap = (
        np.linalg.norm(
            there[:, theirs["leftHand"], :3, 3] - there[:, theirs["rightHand"], :3, 3], axis=1
        )
        / rig.height
    )
    together = gap < 0.08
    assert together.any()
    assert (gap > 0.2).any()
    for name, target in targets.items():
        found = follow(performance, target, pairs(rig, target))
        plain = follow(performance, target, pairs(rig, target), FollowOptions(hands=False))
        here = target.evaluate(found.state).nodes
        mine = role_nodes(target)
        apart = here[:, mine["leftHand"], :3, 3] - here[:, mine["rightHand"], :3, 3]
        wanted = gap * rig.height * hand_length(target) / hand_length(rig)
        off = np.abs(np.linalg.norm(apart, axis=1) - wanted)[together]
        assert off.max() < 0.01 * target.height, name
        rows = [r for r, c in enumerate(target.controls) if c.role in ("leftUpperArm", "leftHand")]
        away = gap > 0.17
        same = angle_between(found.state.turn[:, rows], plain.state.turn[:, rows])[away]
        assert same.max() < 1e-9


def test_a_skeleton_that_rests_folded_follows_its_most_upright_frame(
    targets: Mapping[str, Rig],
) -> None:
    """As some files have it: at rest every bone lies along one axis, each in its own."""
    rig, keys = source("plain")
    performance = performed(rig, keys, "turn")
    folded = fold(performance)
    assert not rests_standing(folded.rig)
    assert standing(performance) is performance
    there = folded.rig.evaluate(folded.states).nodes
    assert np.abs(there - rig.evaluate(performance.states).nodes)[..., :3, 3].max() < 1e-9
    target = targets["quill"]
    options = FollowOptions(feet=False, starts=True)
    found = follow(folded, target, pairs(folded.rig, target), options)
    here = target.evaluate(found.state).nodes
    upright = standing(folded).rig
    for limb in LIMBS:
        # seen in the directions of the frame that counts as rest
        wanted = ways(upright, there, limb)
        assert worst_angle(wanted, ways(target, here, limb)) < 12.0
    floor = min(sole_level(target, side) for side in ("left", "right"))
    lowest = min(
        float(target.body.seen(sole.points(here))[:, :, 1].min())
        for sole in soles_of(target).values()
    )
    assert abs(lowest - floor) < 0.06


def fold(performance: Performance) -> Performance:
    """The same motion on a rig whose rest lays every joint straight along +X of the one above."""
    rig, states = performance.rig, performance.states
    skeleton = rig.skeleton
    places, turns = skeleton.translation.copy(), skeleton.rotation.copy()
    turn, move = states.turn.copy(), states.move.copy()
    own = np.tile([0.0, 0.0, 0.0, 1.0], (len(skeleton), 1))  # from old axes to new ones
    for node in range(len(skeleton)):
        children = [c for c, p in enumerate(skeleton.parents) if p == node]
        if children:
            way = skeleton.translation[children[0]]
            own[node] = Rotation.align_vectors([way], [[np.linalg.norm(way), 0, 0]])[0].as_quat()
    for node, parent in enumerate(skeleton.parents):
        above = own[parent] if parent >= 0 else np.array([0.0, 0.0, 0.0, 1.0])
        places[node] = Rotation.from_quat(above).inv().apply(skeleton.translation[node])
        row = rig.row_of_node[node]
        local = multiply(skeleton.rotation[node], states.turn[:, row])
        turn[:, row] = multiply(multiply(inverse(above), local), own[node])
        gone = Rotation.from_quat(skeleton.rotation[node]).apply(states.move[:, row])
        move[:, row] = Rotation.from_quat(above).inv().apply(gone)
        turns[node] = (0.0, 0.0, 0.0, 1.0)
    made = replace(skeleton, translation=places, rotation=turns)
    arrays = State(move, turn, states.scale, states.settings, states.euler)
    return Performance("folded", replace(rig, skeleton=made), arrays, performance.rate)


def test_limbs_that_would_have_to_be_longer_let_the_hips_come_down(
    targets: Mapping[str, Rig],
) -> None:
    rig, keys = source("plain")
    performance = performed(rig, keys, "fast")
    found = follow(performance, targets["pim"], pairs(rig, targets["pim"]))
    assert found.held is not None
    assert 0.0 < found.held.hips.max() < 0.05
    steps = np.abs(np.diff(found.held.hips))
    assert steps.max() < 0.01  # smoothly
    still = follow(
        performance, targets["pim"], pairs(rig, targets["pim"]), FollowOptions(feet=False)
    )
    assert still.held is None
    assert angle_between(still.state.turn, found.state.turn).max() > 0.01
