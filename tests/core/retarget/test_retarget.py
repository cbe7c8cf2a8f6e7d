"""Poses on other rigs: only other axes, other proportions, other names and another rest stance.

There is no ready reference. What has to hold is checked: rigs that differ only in joint axes give
the same mesh; limbs point the same way within a degree; hands on the hip stay there.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fox_hand.core.matching.name_match import MatchSource, Rule, Rules, match_names
from fox_hand.core.maths.rotations import from_vector, inverse, multiply, rotate, to_matrix
from fox_hand.core.model.controls import Channel
from fox_hand.core.model.skeleton import Skeleton
from fox_hand.core.model.state import State
from fox_hand.core.naming.known_roles import KnownRoles
from fox_hand.core.naming.roles import infer_roles
from fox_hand.core.pose.blend import blend
from fox_hand.core.pose.ik_fk_matching import goal_from_joints
from fox_hand.core.pose.placing import put
from fox_hand.core.pose.pose import ChannelFilter, Pose, bind, take
from fox_hand.core.retarget.retarget import FitOptions, fit
from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.readers import read_rig

LIMBS = (
    ("UpperArm", "LowerArm"),
    ("LowerArm", "Hand"),
    ("UpperLeg", "LowerLeg"),
    ("LowerLeg", "Foot"),
)


@pytest.fixture(scope="module")
def cast() -> dict[str, Rig]:
    names = ("marrow", "pim", "quill", "brandle")
    return {name: read_rig(shipped() / "cast" / f"{name}.glb") for name in names}


def posed(rig: Rig, seed: int, size: float = 0.35) -> State:
    """Every joint with a role turned by chance, the hips moved; limbs follow their joints."""
    rng = np.random.default_rng(seed)
    turn, move = rig.rest.turn.copy(), rig.rest.move.copy()
    rows = [r for r, c in enumerate(rig.controls) if c.role is not None]
    turn[rows] = from_vector(rng.normal(0, size, (len(rows), 3)))
    move[rig.control_row["hips"]] = (0.05, -0.1, 0.08)
    return rig.rest.with_(turn=turn, move=move)


def whole(rig: Rig, state: State) -> Pose:
    rows = [r for r, c in enumerate(rig.controls) if c.moves_node]
    return take(rig, state, ChannelFilter.of(rig, rows))


def matched(pose: Pose, rig: Rig, source: Rig) -> dict[str, str]:
    roles = KnownRoles({c.name: c.role for c in source.controls if c.role})
    targets = KnownRoles({c.name: c.role for c in rig.controls if c.role})
    names = list(pose.controls)
    found = match_names(names, [c.name for c in rig.controls], roles=roles, target_roles=targets)
    return {m.source: m.target for m in found if m.sure and m.target is not None}


def directions_of(rig: Rig, state: State) -> dict[str, np.ndarray]:
    """Where arms and legs point in the world."""
    at = rig.evaluate(state).nodes[:, :3, 3]
    node = {c.role: c.node for c in rig.controls if c.role}
    found = {}
    for side in ("left", "right"):
        for upper, lower in LIMBS:
            way = at[node[side + lower]] - at[node[side + upper]]
            found[side + upper] = way / np.linalg.norm(way)
    return found


def turned_axes(rig: Rig, seed: int) -> tuple[Rig, dict[str, np.ndarray]]:
    """The same rig with other joint axes: every node's own frame turned by chance."""
    rng = np.random.default_rng(seed)
    skeleton = rig.skeleton
    extra = from_vector(rng.normal(0, 1.0, (len(skeleton), 3)))
    for control in rig.controls:  # free controls are measured from the world
        if control.role is None:
            extra[control.node] = (0, 0, 0, 1)
    translation, rotation = skeleton.translation.copy(), skeleton.rotation.copy()
    for node, parent in enumerate(skeleton.parents):
        before = extra[parent] if parent >= 0 else np.array([0.0, 0.0, 0.0, 1.0])
        translation[node] = rotate(inverse(before), skeleton.translation[node])
        rotation[node] = multiply(inverse(before), multiply(skeleton.rotation[node], extra[node]))
    other = Skeleton(skeleton.names, skeleton.parents, translation, rotation, skeleton.scale)
    binds = rig.inverse_binds.copy()
    for i, node in enumerate(rig.palette_nodes.tolist()):
        turn = np.eye(4)
        turn[:3, :3] = to_matrix(extra[node]).T
        binds[i] = turn @ rig.inverse_binds[i]
    return replace(rig, skeleton=other, inverse_binds=binds, solvers=(), drives=()), {}


@given(pose_seed=st.integers(0, 1000), axes=st.integers(0, 1000))
def test_rigs_that_differ_only_in_joint_axes_give_the_same_mesh(
    cast: dict[str, Rig], pose_seed: int, axes: int
) -> None:
    plain = replace(cast["marrow"], solvers=(), drives=())
    other, _ = turned_axes(plain, axes)
    state = posed(plain, pose_seed)
    pose = whole(plain, state)
    names = {n: n for n in pose.controls}
    found = fit(pose, other, names, {}, FitOptions())
    bones = [c.node for c in plain.controls if c.role]
    mine = plain.flesh(plain.evaluate(state), bones, every=7)
    theirs = other.flesh(other.evaluate(found.state), bones, every=7)
    assert np.abs(mine - theirs).max() < 1e-6 * plain.height
    assert found.arms == pytest.approx(1, abs=1e-9)


@pytest.mark.parametrize("name", ["pim", "quill", "brandle"])
@pytest.mark.parametrize("seed", [1, 2, 3, 4])
def test_limbs_point_the_same_way_on_every_build(
    cast: dict[str, Rig], name: str, seed: int
) -> None:
    """Quill has other names, other axes, other Euler orders and stands in a T."""
    marrow, rig = cast["marrow"], cast[name]
    state = posed(marrow, seed)
    pose = whole(marrow, state)
    found = fit(pose, rig, matched(pose, rig, marrow), {}, FitOptions())
    mine, theirs = directions_of(marrow, state), directions_of(rig, found.state)
    worst = max(np.degrees(np.arccos(np.clip(mine[k] @ theirs[k], -1, 1))) for k in mine)
    assert worst < 1.0
    legs = found.legs
    hips = {c.role: r for r, c in enumerate(rig.controls) if c.role}["hips"]
    world = to_matrix(rig.skeleton.rest_turns[rig.controls[hips].node]) @ found.state.move[hips]
    there = marrow.control_row["hips"]
    turn = to_matrix(marrow.skeleton.rest_turns[marrow.controls[there].node])
    assert np.allclose(world, legs * (turn @ state.move[there]), atol=1e-6)


def test_names_only_would_not_do(cast: dict[str, Rig]) -> None:
    """What the correction is for: without it Quill's arms go elsewhere."""
    marrow, quill = cast["marrow"], cast["quill"]
    state = posed(marrow, 1)
    pose = whole(marrow, state)
    plain = FitOptions(stance=False, correct=False, stretch=False)
    found = fit(pose, quill, matched(pose, quill, marrow), {}, plain)
    mine, theirs = directions_of(marrow, state), directions_of(quill, found.state)
    assert min(mine[k] @ theirs[k] for k in mine) < 0.9


@pytest.mark.parametrize("name", ["pim", "quill"])
def test_a_hand_shape_alone_bends_the_fingers_as_it_does_there(
    cast: dict[str, Rig], name: str
) -> None:
    """Only the fingers are held: how Quill's hand lies in its T is found from them."""
    marrow, rig = cast["marrow"], cast[name]
    fingers = [
        c.name for c in marrow.controls if c.role and c.side == "left" and "finger" in c.name
    ]
    rng = np.random.default_rng(5)
    turn = marrow.rest.turn.copy()
    rows = [marrow.control_row[n] for n in fingers]
    turn[rows] = from_vector(rng.normal(0, 0.4, (len(rows), 3)))
    state = marrow.rest.with_(turn=turn)
    pose = take(marrow, state, ChannelFilter.of(marrow, rows, (Channel.TURN,)))
    found = fit(pose, rig, matched(pose, rig, marrow), {}, FitOptions())
    assert len(found.choice.channels) == len(fingers)

    def bends(which: Rig, worn: State) -> np.ndarray:
        """Angle at each finger's second joint between rest and now."""
        node = {c.role: c.node for c in which.controls if c.role}
        places, rest = which.evaluate(worn).nodes, which.skeleton.rest_world
        angles = []
        for finger in ("Index", "Middle", "Ring", "Little"):
            a, b, c = (
                node[f"left{finger}{part}"] for part in ("Proximal", "Intermediate", "Distal")
            )
            way = places[c, :3, 3] - places[b, :3, 3], places[b, :3, 3] - places[a, :3, 3]
            was = rest[c, :3, 3] - rest[b, :3, 3], rest[b, :3, 3] - rest[a, :3, 3]
            now, before = (
                np.arccos(u @ v / np.linalg.norm(u) / np.linalg.norm(v)) for u, v in (way, was)
            )
            angles.append(now - before)
        return np.degrees(angles)

    assert np.abs(bends(marrow, state) - bends(rig, found.state)).max() < 6.0


@pytest.mark.parametrize("name", ["pim", "brandle", "quill"])
def test_an_ik_hand_on_the_hip_stays_on_the_hip(cast: dict[str, Rig], name: str) -> None:
    marrow, rig = cast["marrow"], cast[name]
    limb = next(x for x in marrow.limbs if marrow.skeleton.names[x.upper] == "arm_L")
    state = goal_from_joints(marrow, marrow.rest, limb)
    at = marrow.evaluate(state).nodes
    thigh = {c.role: c.node for c in marrow.controls if c.role}["leftUpperLeg"]
    flesh = marrow.flesh(marrow.evaluate(state), _body(marrow))
    beside = flesh[np.abs(flesh[:, 1] - at[thigh, 1, 3] - 0.06) < 0.02]
    hip = beside[int(np.argmax(beside[:, 0]))]
    goal = marrow.control_row["hand_goal_L"]
    place = hip + np.array([0.02 * marrow.height, 0, 0])
    state = put(marrow, state, goal, at, place)
    pose = whole(marrow, state)
    settings = {s.name: (s.name,) for s in marrow.settings if s.name in rig.setting_row}
    names = matched(pose, rig, marrow)
    assert names["hand_goal_L"] in rig.control_row
    found = fit(pose, rig, names, settings, FitOptions(), (marrow, state))
    here = rig.evaluate(found.state)
    target = rig.control_row[names["hand_goal_L"]]
    reached = here.nodes[rig.controls[target].node, :3, 3]
    gaps = np.linalg.norm(rig.flesh(here, _body(rig)) - reached, axis=1)
    wanted = 0.02 * marrow.height * found.arms
    assert abs(gaps.min() - wanted) < 0.01 * rig.height
    hips = {c.role: c.node for c in rig.controls if c.role}
    touched = rig.flesh(here, _body(rig))[int(np.argmin(gaps))]
    thigh_here = here.nodes[hips["leftUpperLeg"], :3, 3]
    assert abs(touched[1] - thigh_here[1]) < 0.1 * rig.height  # at the height of the hip
    assert touched[0] > 0.5 * thigh_here[0]  # on its outer side


def _body(rig: Rig) -> set[int]:
    return {c.node for c in rig.controls if c.role and c.region in ("torso", "legs", "head")}


def test_feet_on_the_ground_stay_on_the_ground(cast: dict[str, Rig]) -> None:
    marrow, pim = cast["marrow"], cast["pim"]
    state = marrow.rest
    for limb in marrow.limbs:
        if marrow.skeleton.names[limb.upper].startswith("thigh"):
            state = goal_from_joints(marrow, state, limb)
    move = state.move.copy()
    move[marrow.control_row["hips"]] = (0.0, -0.2, 0.05)
    step = marrow.control_row["foot_goal_L"]
    move[step] = move[step] + (0.0, 0.0, 0.25)
    state = state.with_(move=move)
    pose = whole(marrow, state)
    names = {n: n for n in pose.controls}
    settings = {s.name: (s.name,) for s in marrow.settings}
    found = fit(pose, pim, names, settings, FitOptions(), (marrow, state))
    node = pim.controls[pim.control_row["foot_goal_L"]].node
    at, rest = pim.evaluate(found.state).nodes[node, :3, 3], pim.skeleton.rest_world[node, :3, 3]
    assert abs(at[1] - rest[1]) < 0.01 * pim.height
    assert at[2] - rest[2] == pytest.approx(0.25 * found.legs, abs=0.01 * pim.height)


def test_the_same_rig_gets_every_bit(cast: dict[str, Rig]) -> None:
    marrow = cast["marrow"]
    state = posed(marrow, 9)
    rows = [r for r, c in enumerate(marrow.controls) if c.role]
    pose = take(marrow, state, ChannelFilter.of(marrow, rows))
    found = fit(pose, marrow, {n: n for n in pose.controls}, {}, FitOptions())
    wanted = blend(marrow.rest, bind(pose, marrow), 1.0, marrow.setting_rules)
    assert np.array_equal(found.state.turn, wanted.turn)
    assert np.allclose(found.state.move, wanted.move, atol=1e-12)
    assert all(not landed.corrected for landed in found.landed.values())


def test_names_are_matched_in_order_and_guesses_are_only_proposed() -> None:
    targets = ["hero:arm_L", "hero:hand_L", "Left_Elbow", "LeftLegUp", "cuff_end_L", "tail"]
    found = {
        m.source: m
        for m in match_names(
            ["arm_L", "hand_L", "elbow_left", "thigh_L", "cuff_L", "fin"],
            targets,
            saved={"hand_L": None},
            roles=KnownRoles({"thigh_L": "leftUpperLeg"}),
            target_roles=KnownRoles({"LeftLegUp": "leftUpperLeg"}),
        )
    }
    assert (found["arm_L"].target, found["arm_L"].found) == ("hero:arm_L", MatchSource.PREFIX)
    assert (found["hand_L"].target, found["hand_L"].found) == (None, MatchSource.MAP)
    assert (found["elbow_left"].target, found["elbow_left"].found) == (
        "Left_Elbow",
        MatchSource.WORDS,
    )
    assert (found["thigh_L"].target, found["thigh_L"].found) == ("LeftLegUp", MatchSource.ROLE)
    assert (found["cuff_L"].target, found["cuff_L"].sure) == ("cuff_end_L", False)
    assert (found["fin"].target, found["fin"].found) == (None, MatchSource.NONE)
    rules = Rules((Rule(r"finger_(\w+)_(\d)_L", r"Left\1\2", pattern=True), Rule("index", "Index")))
    assert rules.applied("finger_index_1_L") == "LeftIndex1"
    assert rules.hits(["finger_index_1_L", "arm_L"]) == [1, 1]
    assert infer_roles(["arm_L"], ["left"], [-1]) == ["leftUpperArm"]


def test_a_left_name_is_never_proposed_for_a_right_one() -> None:
    found = match_names(["sleeve_cuff_L", "cuff_strap_R"], ["sleeve_cuffs_R", "cuff_straps_L"])
    assert [m.target for m in found] == [None, None]
    same = match_names(["sleeve_cuff_L"], ["sleeve_cuffs_L"])
    assert [(m.target, m.sure) for m in same] == [("sleeve_cuffs_L", False)]
