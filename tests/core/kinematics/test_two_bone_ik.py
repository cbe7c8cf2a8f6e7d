"""Two-bone inverse kinematics against the law of cosines and against a numerical solver.

The closed form is the law of cosines (Euclid, Elements II.12-13); no ready reference exists for
the rest, so SciPy's least squares is the second opinion.
"""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from scipy.optimize import least_squares
from scipy.spatial.transform import Rotation, Slerp

from fox_hand.core.maths.rotations import Array, angle_between, from_matrix
from fox_hand.core.maths.transforms import decompose
from fox_hand.core.model.state import State
from fox_hand.core.pose.ik_fk_matching import goal_from_joints, joints_from_goal
from tests.limb_rig import REST_PLACES, limb_rig, put_goal, with_values

UPPER, LOWER, END, GOAL = 1, 2, 3, 5
A = REST_PLACES[UPPER]
FIRST = float(np.linalg.norm(REST_PLACES[LOWER] - A))
SECOND = float(np.linalg.norm(REST_PLACES[END] - REST_PLACES[LOWER]))

seeds = st.integers(0, 10_000)
places = st.builds(lambda x, y, z: A + np.array([x, y, z]), *(st.floats(-0.7, 0.7),) * 3)


def at(nodes: Array, node: int) -> Array:
    return np.asarray(nodes[node, :3, 3])


def angle(u: Array, v: Array) -> float:
    return float(np.arccos(np.clip(u @ v / np.linalg.norm(u) / np.linalg.norm(v), -1, 1)))


@settings(max_examples=60, deadline=None)
@given(seeds, places, places)
def test_elbow_angle_is_that_of_the_law_of_cosines(seed: int, goal: Array, pole: Array) -> None:
    rig = limb_rig(seed)
    nodes = rig.evaluate(put_goal(rig, goal, pole)).nodes
    a, b, c = (at(nodes, n) for n in (UPPER, LOWER, END))
    assert np.linalg.norm(b - a) == pytest.approx(FIRST, abs=1e-9)
    assert np.linalg.norm(c - b) == pytest.approx(SECOND, abs=1e-9)
    far = float(np.linalg.norm(goal - A))
    reach = min(max(far, abs(FIRST - SECOND)), FIRST + SECOND)
    if far > 1e-6:
        expected = np.arccos(
            np.clip((FIRST**2 + SECOND**2 - reach**2) / (2 * FIRST * SECOND), -1, 1)
        )
        assert angle(a - b, c - b) == pytest.approx(expected, abs=1e-6)
        assert c == pytest.approx(A + (goal - A) / far * reach, abs=1e-6)
    turn = decompose(nodes[GOAL])[1]
    rest = rig.skeleton.rest_world
    offset = Rotation.from_matrix(rest[GOAL, :3, :3]).inv() * Rotation.from_matrix(
        rest[END, :3, :3]
    )
    wanted = (Rotation.from_quat(turn) * offset).as_quat()
    assert float(angle_between(decompose(nodes[END])[1], wanted)) < 1e-6


@pytest.mark.parametrize("scale", [1.0, 0.01])
def test_rest_is_the_rest_pose_whatever_the_axes_and_units(scale: float) -> None:
    for seed in range(20):
        rig = limb_rig(seed, scale=scale)
        nodes = rig.evaluate(with_values(rig, follow=1.0)).nodes
        assert np.allclose(nodes, rig.skeleton.rest_world, atol=1e-9)


@pytest.mark.parametrize("seed", range(4))
def test_a_numerical_solver_finds_the_same_elbow(seed: int) -> None:
    rng = np.random.default_rng(seed)
    rig = limb_rig(seed)
    goal = A + rng.normal(0, 0.2, 3)
    pole = A + rng.normal(0, 0.6, 3)
    found = at(rig.evaluate(put_goal(rig, goal, pole)).nodes, LOWER)
    line = (goal - A) / np.linalg.norm(goal - A)
    rest_line = REST_PLACES[END] - A
    rest_line /= np.linalg.norm(rest_line)

    def around(v: Array, axis: Array) -> Array:
        flat = v - (v @ axis) * axis
        return flat / np.linalg.norm(flat)

    # the angle between pole and elbow about the line is a constant of the rest pose
    way = around(REST_PLACES[6] - A, rest_line)
    bend = around(REST_PLACES[LOWER] - A, rest_line)
    phase = np.arctan2(np.cross(way, bend) @ rest_line, way @ bend)
    wanted = Rotation.from_rotvec(phase * line).apply(around(pole - A, line))

    def residuals(elbow: Array) -> list[float]:
        flat = elbow - A - ((elbow - A) @ line) * line
        return [
            float(np.linalg.norm(elbow - A)) - FIRST,
            float(np.linalg.norm(goal - elbow)) - SECOND,
            *(flat - (flat @ wanted) * wanted),
        ]

    start = (A + goal) / 2 + wanted * 0.1
    solved = least_squares(residuals, start, xtol=1e-14, ftol=1e-14, gtol=1e-14)
    if solved.cost < 1e-12:  # a goal out of reach has no such elbow
        assert found == pytest.approx(solved.x, abs=1e-6)
    else:
        assert np.linalg.norm(goal - A) > FIRST + SECOND - 1e-6


@pytest.mark.parametrize(
    "goal",
    [A + [3.0, 0, 0], A, A + [1e-7, 0, 0], A + [0, 0.001, 0], A + [FIRST + SECOND, 0, 0]],
    ids=["beyond reach", "on the shoulder", "almost there", "too near", "just straight"],
)
@pytest.mark.parametrize(
    "pole", [A + [0, 0, -1.0], A + [2.0, 0, 0], A], ids=["aside", "on the line", "none"]
)
def test_hard_cases_are_defined_and_steady(goal: Array, pole: Array) -> None:
    rig = limb_rig(5)
    nodes = rig.evaluate(put_goal(rig, np.asarray(goal), np.asarray(pole))).nodes
    for node in (UPPER, LOWER, END):
        basis = nodes[node, :3, :3]
        assert np.allclose(basis.T @ basis, np.eye(3), atol=1e-9)
        assert np.linalg.det(basis) == pytest.approx(1)
    again = rig.evaluate(put_goal(rig, np.asarray(goal), np.asarray(pole) + 1e-9)).nodes
    assert np.allclose(again, nodes, atol=1e-3)


def test_limbs_without_length_do_not_break() -> None:
    places = REST_PLACES.copy()
    places[LOWER] = places[END] = places[UPPER]
    rig = limb_rig(2, places=places)
    nodes = rig.evaluate(put_goal(rig, A + [0.3, 0, 0], A + [0, 0, -1])).nodes
    assert np.isfinite(nodes).all()


def test_half_a_blend_is_half_way_along_the_arc() -> None:
    rig = limb_rig(3)
    turns = {"upper": Rotation.from_euler("XYZ", [0.3, -0.5, 0.8]), "lower": Rotation.identity()}
    goal = put_goal(rig, A + [0.1, 0.3, 0.25], A + [0, 0, -1.0])
    fk = with_values(rig, turns=turns)
    both = goal.with_(turn=fk.turn)

    def local(amount: float, node: int) -> Array:
        nodes = rig.evaluate(_following(both, amount)).nodes
        parent = rig.skeleton.parents[node]
        return np.asarray(decompose(np.linalg.inv(nodes[parent]) @ nodes[node])[1])

    for node in (UPPER, LOWER, END):
        ends = Rotation.from_quat([local(0, node), local(1, node)])
        expected = Slerp([0, 1], ends)(0.4).as_quat()
        assert float(angle_between(local(0.4, node), expected)) < 1e-7


def _following(state: State, amount: float) -> State:
    values = state.settings.copy()
    values[0] = amount
    return state.with_(settings=values)


turns = st.builds(
    lambda x, y, z: Rotation.from_euler("XYZ", [x, y, z]), *(st.floats(-2.5, 2.5),) * 3
)


@settings(max_examples=80, deadline=None)
@given(seeds, turns, turns, turns, st.booleans(), st.floats(0, 1))
def test_switching_leaves_the_figure_where_it_is(
    seed: int, upper: Rotation, lower: Rotation, end: Rotation, straight: bool, start: float
) -> None:
    """Under 0.01 degree and 0.1 mm both ways, also for elbows bent as no hinge can."""
    rig = limb_rig(seed)
    limb = rig.limbs[0]
    lower = Rotation.identity() if straight else lower
    before = _following(with_values(rig, turns={"upper": upper, "lower": lower, "end": end}), start)
    shown = rig.evaluate(before).nodes[:5]
    on_goal = goal_from_joints(rig, before, limb)
    assert on_goal.settings[0] == 1
    _same(rig.evaluate(on_goal).nodes[:5], shown)
    back = joints_from_goal(rig, on_goal, limb)
    assert back.settings[0] == 0
    _same(rig.evaluate(back).nodes[:5], shown)


@given(seeds, turns, turns)
def test_a_pole_is_put_beside_the_elbow(seed: int, upper: Rotation, lower: Rotation) -> None:
    """Not beside the shoulder: pulled to one side there, a limb of other length would twist."""
    rig = limb_rig(seed)
    limb = rig.limbs[0]
    bent = _following(with_values(rig, turns={"upper": upper, "lower": lower}), 0.0)
    shown = rig.evaluate(bent).nodes[:, :3, 3]
    line = shown[limb.end] - shown[limb.upper]
    assume(np.linalg.norm(line) > 0.1)
    line /= np.linalg.norm(line)
    on_goal = goal_from_joints(rig, bent, limb)
    pole = rig.evaluate(on_goal).nodes[limb.pole, :3, 3]
    elbow = shown[limb.lower]
    assert abs((pole - elbow) @ line) < 1e-6


def _same(found: Array, expected: Array) -> None:
    gap = np.linalg.norm(found[:, :3, 3] - expected[:, :3, 3], axis=-1)
    assert gap.max() < 1e-4
    turned = angle_between(from_matrix(found[:, :3, :3]), from_matrix(expected[:, :3, :3]))
    assert float(np.degrees(turned.max())) < 0.01


def test_many_frames_are_the_same_as_one_by_one() -> None:
    rig = limb_rig(9)
    rng = np.random.default_rng(0)
    states = [
        put_goal(rig, A + rng.normal(0, 0.3, 3), A + rng.normal(0, 0.6, 3), roll_upper=v * 40)
        for v in range(7)
    ]
    together = State(*(np.stack(v) for v in zip(*(s.arrays() for s in states), strict=True)))
    nodes = rig.evaluate(together).nodes
    for i, state in enumerate(states):
        assert np.allclose(nodes[i], rig.evaluate(state).nodes, atol=1e-12)
