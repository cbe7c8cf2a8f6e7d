"""Mixing several poses, laying one on top, the other side, limbs that follow the other thing.

References: SciPy's Slerp between two rotations; brute-force minimisation of the weighted sum of
squared geodesic distances for more; the matrix logarithm and exponential outside 0...1.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy.linalg import expm, logm
from scipy.optimize import minimize
from scipy.spatial.transform import Rotation, Slerp

from fox_hand.core.maths.rotation_mean import weighted_mean
from fox_hand.core.maths.rotations import angle_between, from_vector, multiply, to_matrix
from fox_hand.core.model.controls import Channel
from fox_hand.core.model.state import State
from fox_hand.core.pose.additive import layer
from fox_hand.core.pose.blend import blend
from fox_hand.core.pose.ik_fk_blend import IkFkBlend
from fox_hand.core.pose.ik_fk_matching import goal_from_joints
from fox_hand.core.pose.placing import with_setting
from fox_hand.core.pose.pose import BoundPose, ChannelFilter, bind, take
from fox_hand.core.pose.sides import Sides, sided
from fox_hand.core.pose.weighted_blend import mix
from fox_hand.core.rig.rig import Rig
from tests.core.pose.test_blend import everything, random_state
from tests.random_rig import random_rig

seeds = st.integers(0, 10_000)
amounts = st.floats(-0.5, 1.5)


def of(rig: Rig, state: State, names: list[str], *kinds: Channel) -> BoundPose:
    rows = [rig.control_row[n] for n in names]
    return bind(take(rig, state, ChannelFilter.of(rig, rows, kinds or tuple(Channel))), rig)


def holders(rig: Rig) -> np.ndarray:
    return np.array([s.control for s in rig.settings], dtype=np.intp)


def even(rig: Rig, *weights: float) -> np.ndarray:
    return np.array(weights)[:, None] * np.ones(len(rig.controls))


@given(a=seeds, share=st.floats(0, 1))
def test_the_mean_of_two_lies_on_scipys_geodesic(a: int, share: float) -> None:
    rng = np.random.default_rng(a)
    pair = Rotation.from_rotvec(rng.normal(0, 0.9, (2, 3)))
    assume(angle_between(*pair.as_quat()) < 3.0)
    found = weighted_mean(pair.as_quat()[:, None], np.array([[1 - share], [share]]))[0]
    wanted = Slerp([0, 1], pair)(share)
    assert angle_between(found, wanted.as_quat()) < 1e-9


@given(a=seeds, count=st.integers(3, 5))
def test_the_mean_of_more_is_the_least_sum_of_squared_distances(a: int, count: int) -> None:
    """The least of all where every rotation is within a quarter turn of it (Karcher 1977): further
    apart there may be several such places, and any of them fulfils the first-order condition."""
    rng = np.random.default_rng(a)
    turns = Rotation.from_rotvec(rng.normal(0, 0.6, (count, 3)))
    weights = rng.dirichlet(np.ones(count))

    def cost(vector: np.ndarray) -> float:
        way = Rotation.from_rotvec(vector).inv() * turns
        return float((weights * way.magnitude() ** 2).sum())

    found = weighted_mean(turns.as_quat()[:, None], weights[:, None])[0]
    logs = (Rotation.from_quat(found).inv() * turns).as_rotvec()
    assert np.abs(weights @ logs).max() < 1e-9  # the first-order condition
    if np.linalg.norm(logs, axis=1).max() < np.pi / 2:
        best = minimize(cost, turns.mean(weights).as_rotvec(), options={"gtol": 1e-10})
        assert cost(Rotation.from_quat(found).as_rotvec()) <= best.fun + 1e-9


@given(a=seeds, b=seeds, amount=amounts)
def test_one_card_is_blended_and_none_changes_no_bit(
    marrow: Rig, a: int, b: int, amount: float
) -> None:
    before, pose = random_state(marrow, a), everything(marrow, random_state(marrow, b))
    rules, held = marrow.setting_rules, holders(marrow)
    found = mix(before, [pose], even(marrow, amount), rules, held)
    assert found.same_bits(blend(before, pose, amount, rules))
    assert mix(before, [pose, pose], even(marrow, 0, 0), rules, held) is before


@given(a=seeds, b=seeds, c=seeds, share=st.floats(0.01, 0.99))
def test_cards_share_what_they_both_hold_and_leave_the_rest_to_the_figure(
    marrow: Rig, a: int, b: int, c: int, share: float
) -> None:
    before, one, other = (random_state(marrow, seed) for seed in (a, b, c))
    rules, held = marrow.setting_rules, holders(marrow)
    poses = [everything(marrow, one), everything(marrow, other)]
    rows, moved = poses[0].turn_rows, poses[0].move_rows
    # together all of it: the same as going from one to the other
    found = mix(before, poses, even(marrow, 1 - share, share), rules, held)
    wanted = blend(one, poses[1], share, rules)
    assert angle_between(found.turn[rows], wanted.turn[rows]).max() < 1e-6
    assert np.abs(found.move[moved] - wanted.move[moved]).max() < 1e-12
    smooth = ~rules.discrete
    assert np.abs(found.settings - wanted.settings)[smooth].max() < 1e-12
    # a card with nothing left to share leaves the figure its part
    found = mix(before, poses, even(marrow, share, 0), rules, held)
    wanted = blend(before, poses[0], share, rules)
    assert angle_between(found.turn[rows], wanted.turn[rows]).max() < 1e-6
    assert np.array_equal(found.settings[rules.discrete], wanted.settings[rules.discrete])
    # with all the weight a card is there bit for bit
    found = mix(before, poses, even(marrow, 0, 1), rules, held)
    assert np.array_equal(found.turn[poses[1].turn_rows], poses[1].turn)
    assert np.array_equal(found.settings[poses[1].setting_rows], poses[1].settings)


def test_cards_of_different_controls_both_go_on_whole(marrow: Rig) -> None:
    state = random_state(marrow, 5)
    hand, head = of(marrow, state, ["hand_L"]), of(marrow, state, ["head", "neck"])
    found = mix(
        marrow.rest, [hand, head], even(marrow, 1, 1), marrow.setting_rules, holders(marrow)
    )
    for name in ("hand_L", "head", "neck"):
        row = marrow.control_row[name]
        assert np.array_equal(found.turn[row], state.turn[row])
    still = marrow.control_row["arm_L"]
    assert np.array_equal(found.turn[still], marrow.rest.turn[still])


@given(a=seeds, b=seeds, c=seeds, amount=amounts)
def test_on_top_adds_the_way_from_the_ground_by_the_matrix_logarithm(
    marrow: Rig, a: int, b: int, c: int, amount: float
) -> None:
    state, ground = random_state(marrow, a), random_state(marrow, c)
    pose = everything(marrow, random_state(marrow, b))
    found = layer(state, pose, ground, amount, marrow.setting_rules)
    row = int(pose.turn_rows[a % len(pose.turn_rows)])
    base, there = to_matrix(ground.turn[row]), to_matrix(pose.turn[a % len(pose.turn_rows)])
    way = base.T @ there
    assume(np.trace(way) > -0.98)  # at a half turn the logarithm has two answers
    wanted = to_matrix(state.turn[row]) @ expm(amount * logm(way).real)
    assert np.abs(to_matrix(found.turn[row]) - wanted).max() < 1e-6
    moved = pose.move_rows
    gap = found.move[moved] - state.move[moved] - amount * (pose.move - ground.move[moved])
    assert np.abs(gap).max() < 1e-12
    assert layer(state, pose, ground, 0.0, marrow.setting_rules) is state
    low = np.minimum(marrow.setting_rules.low, state.settings)
    high = np.maximum(marrow.setting_rules.high, state.settings)
    assert ((found.settings >= low) & (found.settings <= high)).all()


@pytest.mark.parametrize("amount", [0.25, 0.49, 0.5, 1.0, 1.5])
def test_on_top_scales_and_switches_by_the_amount(amount: float) -> None:
    """Scales multiply by a power, so that two halves are one whole; a switch goes over at 50."""
    rig = random_rig(11)
    held = ChannelFilter.of(rig, range(len(rig.controls)))
    twice = rig.rest.with_(scale=np.full_like(rig.rest.scale, 2.0), settings=np.array([0.5, 1.0]))
    before = rig.rest.with_(scale=np.full_like(rig.rest.scale, 3.0), settings=np.array([0.25, 0.0]))
    pose = bind(take(rig, twice, held), rig)
    found = layer(before, pose, rig.rest, amount, rig.setting_rules)
    assert np.allclose(found.scale, 3.0 * 2.0**amount, rtol=1e-12)
    assert found.settings[0] == pytest.approx(0.25 + 0.5 * amount)
    assert found.settings[1] == (1.0 if amount >= 0.5 else 0.0)


@given(a=seeds, amount=amounts)
def test_blending_agrees_with_the_matrix_logarithm_outside_the_ends(
    marrow: Rig, a: int, amount: float
) -> None:
    before, after = random_state(marrow, a), random_state(marrow, a + 1)
    pose = everything(marrow, after)
    found = blend(before, pose, amount, marrow.setting_rules)
    row = int(pose.turn_rows[a % len(pose.turn_rows)])
    way = to_matrix(before.turn[row]).T @ to_matrix(after.turn[row])
    assume(np.trace(way) > -0.98)
    wanted = to_matrix(before.turn[row]) @ expm(amount * logm(way).real)
    assert np.abs(to_matrix(found.turn[row]) - wanted).max() < 1e-6


def test_settings_add_what_differs_from_the_ground_not_from_nothing(marrow: Rig) -> None:
    row = marrow.setting_row["jaw_open"]

    def opened(value: float) -> State:
        settings = marrow.rest.settings.copy()
        settings[row] = value
        return marrow.rest.with_(settings=settings)

    pose = bind(take(marrow, opened(0.7), ChannelFilter({}, frozenset({row}))), marrow)
    found = layer(opened(0.2), pose, opened(0.4), 0.5, marrow.setting_rules)
    assert found.settings[row] == pytest.approx(0.2 + 0.5 * (0.7 - 0.4))


def test_a_hand_goes_on_the_other_side_and_on_both(marrow: Rig) -> None:
    rng = np.random.default_rng(3)
    fingers = [n for n in marrow.control_row if n.startswith("finger") and n.endswith("_L")]
    turn = marrow.rest.turn.copy()
    rows = [marrow.control_row[n] for n in fingers]
    turn[rows] = from_vector(rng.normal(0, 0.5, (len(rows), 3)))
    pose = of(marrow, marrow.rest.with_(turn=turn), fingers, Channel.TURN)
    other = sided(marrow, pose, Sides.OTHER)
    names = {marrow.controls[r].name for r in other.turn_rows}
    assert names == {n.replace("_L", "_R") for n in fingers}
    back = sided(marrow, other, Sides.OTHER)
    assert np.array_equal(back.turn_rows, pose.turn_rows)
    assert angle_between(back.turn, pose.turn).max() < 1e-6
    both = sided(marrow, pose, Sides.BOTH)
    assert len(both.turn_rows) == 2 * len(fingers)
    assert len(both.move_rows) == 0  # nothing goes in that the card does not hold


@pytest.mark.parametrize("amount", [0.3, 1.0])
def test_a_pose_of_joints_lands_on_an_arm_that_follows_its_goal(marrow: Rig, amount: float) -> None:
    limb = next(x for x in marrow.limbs if marrow.skeleton.names[x.upper] == "arm_L")
    bones = ["arm_L", "forearm_L", "hand_L"]
    rng = np.random.default_rng(7)
    rows = [marrow.control_row[n] for n in bones]
    start, aim = marrow.rest.turn.copy(), marrow.rest.turn.copy()
    start[rows] = from_vector(rng.normal(0, 0.3, (3, 3)))
    aim[rows] = from_vector(rng.normal(0, 0.4, (3, 3)))
    free = marrow.rest.with_(turn=start)
    pose = of(marrow, marrow.rest.with_(turn=aim), bones, Channel.TURN)
    pose = replace(pose, setting_rows=pose.setting_rows[:0], settings=pose.settings[:0])
    wanted = marrow.evaluate(blend(free, pose, amount, marrow.setting_rules)).nodes
    goaled = goal_from_joints(marrow, free, limb)
    twins = IkFkBlend.of(marrow, goaled, [pose])
    assert twins.to_joints == (limb,)
    found = twins.around(
        lambda s: blend(s, pose, amount, marrow.setting_rules), twins.handed_over(goaled)
    )
    assert found.settings[limb.blend] == 1.0
    at = marrow.evaluate(found).nodes
    nodes = [limb.upper, limb.lower, limb.end]
    assert np.abs(at[nodes, :3, 3] - wanted[nodes, :3, 3]).max() < 1e-6
    assert np.abs(at[nodes, :3, :3] - wanted[nodes, :3, :3]).max() < 1e-5


@pytest.mark.parametrize("sizes", [(0.5, 2.0), (0.1, 8.0), (3.0, 3.0)])
@pytest.mark.parametrize("share", [0.1, 0.5, 0.8])
def test_sizes_meet_in_the_middle_of_their_logarithms(
    marrow: Rig, sizes: tuple[float, float], share: float
) -> None:
    """Twice and half as large meet at as it is: the weighted geometric mean. Where one is
    mirrored there is no logarithm, and they meet on the straight line."""
    row = marrow.control_row["head"]

    def sized(value: float) -> BoundPose:
        scale = marrow.rest.scale.copy()
        scale[row] = value
        sizes_of = ChannelFilter({row: frozenset({Channel.SCALE})}, frozenset())
        return bind(take(marrow, marrow.rest.with_(scale=scale), sizes_of), marrow)

    def met(a: float, b: float) -> np.ndarray:
        weights = even(marrow, 1 - share, share)
        poses = [sized(a), sized(b)]
        return mix(marrow.rest, poses, weights, marrow.setting_rules, holders(marrow)).scale[row]

    a, b = sizes
    assert met(a, b) == pytest.approx(np.full(3, a ** (1 - share) * b**share))
    assert met(-a, b) == pytest.approx(np.full(3, -a * (1 - share) + b * share))


def test_a_limb_goes_over_to_its_goal_alike_wherever_the_figure_stands(marrow: Rig) -> None:
    """An arm that is hardly bent, a kilometre off: its elbow still points where it did."""
    limb = next(x for x in marrow.limbs if x.blend is not None)
    row = marrow.row_of_node[limb.lower]
    turn = marrow.rest.turn.copy()
    turn[row] = multiply(turn[row], from_vector(np.array([0.0, 0.0, 0.004])))
    move = marrow.rest.move.copy()
    near = with_setting(marrow.rest.with_(turn=turn), limb.blend, 0.0)
    root = marrow.control_row["root"]
    move[root] = (800.0, 0.0, 600.0)
    far = near.with_(move=move)
    places = []
    for state, away in ((near, np.zeros(3)), (far, np.array([800.0, 0, 600]))):
        found = goal_from_joints(marrow, state, limb)
        places.append(marrow.evaluate(found).nodes[limb.lower, :3, 3] - away)
    assert np.abs(places[0] - places[1]).max() < 1e-6
