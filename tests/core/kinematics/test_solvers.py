"""Looks, twists, drives, locks and limits: against SciPy and against their own definitions."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from fox_hand.core.maths.euler import from_euler
from fox_hand.core.maths.rotations import Array
from fox_hand.core.maths.transforms import directions
from fox_hand.core.model.controls import Channel
from fox_hand.core.model.solvers import Aim, Drive, DrivenKind, Twist
from fox_hand.core.pose.placing import frame_of, put
from fox_hand.core.pose.pose import shown_euler
from fox_hand.core.rig.locks_limits import Lock, built_in, within
from fox_hand.core.rig.rig import Rig
from tests.limb_rig import REST_PLACES, limb_rig, rest_axes, with_values

UPPER, END, TIP, GOAL = 1, 3, 4, 5
seeds = st.integers(0, 5000)


def looking(seed: int, **limits: float) -> Rig:
    """The limb's end looks at the goal, which stands a metre ahead of it at rest."""
    places = REST_PLACES.copy()
    places[GOAL] = places[END] + (0, 0, 1.0)
    look = Aim(
        "Look", END, GOAL, 0, **(dict.fromkeys(("left", "right", "up", "down"), 3.0) | limits)
    )
    return limb_rig(seed, places=places, solvers=(look,))


def with_goal(rig: Rig, place: Array, amount: float = 1.0) -> tuple[Rotation, Array]:
    """How the looking node has turned in the world, and where it stands."""
    rest = rig.skeleton.rest_world
    step = rest_axes(rig, "goal").T @ (place - rest[GOAL, :3, 3])
    nodes = rig.evaluate(with_values(rig, {"goal": step}, follow=amount)).nodes
    turned = directions(nodes[END, :3, :3]) @ directions(rest[END, :3, :3]).T
    return Rotation.from_matrix(turned), nodes[END, :3, 3]


@given(seed=seeds, x=st.floats(-3, 3), y=st.floats(-0.8, 0.8), z=st.floats(0.2, 3))
def test_a_look_turns_the_rest_direction_onto_the_target(
    seed: int, x: float, y: float, z: float
) -> None:
    rig = looking(seed)
    eye = rig.skeleton.rest_world[END, :3, 3]
    turn, place = with_goal(rig, eye + (x, y, z))
    wanted = np.array([x, y, z]) / np.linalg.norm([x, y, z])
    assert np.allclose(turn.apply([0, 0, 1]), wanted, atol=1e-9)
    assert np.allclose(place, eye)
    # no roll: what was level stays level (yaw about up, then pitch)
    assert abs(turn.apply([1, 0, 0])[1]) < 1e-9


def test_looks_stop_at_their_limits_and_follow_their_amount() -> None:
    rig = looking(4, left=0.5, up=0.25)
    eye = rig.skeleton.rest_world[END, :3, 3]
    turn, _ = with_goal(rig, eye + (5.0, 0, 0.1))
    assert turn.magnitude() == pytest.approx(0.5)
    turn, _ = with_goal(rig, eye + (0, 5.0, 0.1))
    assert turn.magnitude() == pytest.approx(0.25)
    turn, _ = with_goal(rig, eye + (1.0, 0, 1.0), 0.5)
    assert turn.magnitude() == pytest.approx(0.25)  # half of the half radian it may turn
    turn, _ = with_goal(rig, eye + (1.0, 0, 1.0), 0.0)
    assert turn.magnitude() == pytest.approx(0.0)
    turn, _ = with_goal(rig, eye)  # the target in the eye: defined
    assert np.isfinite(turn.as_quat()).all()


@given(seed=seeds, twist=st.floats(-2.5, 2.5), swing=st.floats(0, 1.2), way=st.floats(0, 6.28))
def test_a_twist_helper_takes_its_share_of_the_twist_only(
    seed: int, twist: float, swing: float, way: float
) -> None:
    """Swing-twist split: q = swing * twist, the swing's axis lies across the bone."""
    rig = limb_rig(seed, solvers=(Twist(TIP, END, 1, 0.5),))
    bend = Rotation.from_rotvec(swing * np.array([np.cos(way), 0, np.sin(way)]))
    turn = bend * Rotation.from_rotvec([0, twist, 0])
    nodes = rig.evaluate(with_values(rig, turns={"end": turn})).nodes
    local = directions(nodes[END, :3, :3]).T @ directions(nodes[TIP, :3, :3])
    rest = rig.skeleton.rest_world
    at_rest = directions(rest[END, :3, :3]).T @ directions(rest[TIP, :3, :3])
    got = Rotation.from_matrix(at_rest.T @ local).as_rotvec()
    assert np.allclose(got, [0, twist / 2, 0], atol=1e-7)


def test_drives_are_piecewise_linear_add_up_and_multiply() -> None:
    curve = ((0.0, 0.0), (0.5, 0.2), (1.0, 1.0))
    drives = (
        Drive(0, DrivenKind.SETTING, 1, 0, ((0.0, 0.0), (1.0, 40.0))),
        Drive(0, DrivenKind.SETTING, 1, 0, ((0.0, 0.0), (1.0, 10.0)), times=2),
        Drive(0, DrivenKind.TURN, UPPER, 0, curve),
        Drive(0, DrivenKind.MOVE, UPPER, 1, curve, times=2),
        Drive(0, DrivenKind.SCALE, UPPER, 2, ((0.0, 1.0), (1.0, 3.0))),
    )
    rig = limb_rig(7, solvers=(), drives=drives)
    rest = rig.skeleton.rest_world
    for amount, value in ((-1.0, 0.0), (0.25, 0.1), (0.75, 0.6), (2.0, 1.0)):
        at = rig.evaluate(with_values(rig, follow=amount, roll_upper=5.0, roll_lower=2.0))
        assert at.settings[1] == pytest.approx(5 + (40 + 10 * 2) * min(max(amount, 0), 1))
        local = np.linalg.solve(rest[UPPER], at.nodes[UPPER])
        turn = Rotation.from_matrix(directions(local[:3, :3]))
        assert np.allclose(turn.as_rotvec(), [value, 0, 0], atol=1e-9)
        assert np.linalg.norm(local[:3, :3], axis=0) == pytest.approx(
            [1, 1, 1 + 2 * min(max(amount, 0), 1)]
        )
        assert local[:3, 3] == pytest.approx([0, value * 2.0, 0], abs=1e-9)


def test_a_drive_that_starts_away_from_rest_counts_while_all_settings_are_zero() -> None:
    drives = (Drive(0, DrivenKind.SCALE, UPPER, 0, ((0.0, 0.25), (1.0, 1.0))),)
    rig = limb_rig(7, solvers=(), drives=drives)
    for amount, value in ((0.0, 0.25), (0.5, 0.625), (1.0, 1.0)):
        at = rig.evaluate(with_values(rig, follow=amount))
        local = np.linalg.solve(rig.skeleton.rest_world[UPPER], at.nodes[UPPER])
        assert np.linalg.norm(local[:3, :3], axis=0) == pytest.approx([value, 1, 1])


@given(seed=seeds)
def test_put_places_any_control_exactly(seed: int) -> None:
    """Moved, turned, scaled parents, driven joints: the node lands where it is put."""
    rng = np.random.default_rng(seed)
    drive = Drive(0, DrivenKind.TURN, END, 1, ((0.0, 0.0), (1.0, 0.7)))
    rig = limb_rig(seed, scale=float(np.exp(rng.normal(0, 2))), solvers=(), drives=(drive,))
    turns = {n: Rotation.random(rng=rng) for n in ("root", "upper", "lower", "end")}
    state = with_values(rig, {"upper": rng.normal(0, 0.2, 3)}, turns, follow=0.6)
    nodes = rig.evaluate(state).nodes
    place, turn = rng.normal(0, 1, 3), Rotation.random(rng=rng).as_matrix()
    moved = put(rig, state, END, nodes, place, turn)
    after = rig.evaluate(moved).nodes[END]
    assert np.allclose(after[:3, 3], place, atol=1e-8)
    assert np.allclose(directions(after[:3, :3]), turn, atol=1e-8)
    frame = frame_of(rig, moved, END, nodes)
    own = Rotation.from_quat(moved.turn[END]).as_matrix()
    assert np.allclose(frame @ own, turn, atol=1e-8)


def bounded() -> Rig:
    rig = limb_rig(3, solvers=())
    limits = ((-0.3, 0.8), None, (-0.1, 0.1))
    controls = list(rig.controls)
    controls[UPPER] = replace(
        controls[UPPER], limits=limits, locked=frozenset({(Channel.TURN, 1), (Channel.MOVE, 0)})
    )
    controls[END] = replace(controls[END], move_limits=(None, (-0.05, 0.1), None))
    return replace(rig, controls=tuple(controls))


@given(angles=st.tuples(*(st.floats(-1.4, 1.4),) * 3), move=st.floats(-1, 1))
def test_locked_channels_stay_and_others_stop_at_their_limits(
    angles: tuple[float, float, float], move: float
) -> None:
    rig = bounded()
    locks = built_in(rig) | {Lock("goal", setting="follow")}
    before = rig.rest
    turn, moves = before.turn.copy(), before.move.copy()
    turn[UPPER] = from_euler(np.array(angles), rig.controls[UPPER].order)
    moves[UPPER] = moves[END] = move
    wild = before.with_(turn=turn, move=moves, settings=np.array([0.7, 20.0, 0.0]))
    after = within(rig, locks, before, wild)
    shown = shown_euler(rig.controls[UPPER], after, UPPER)
    asked = shown_euler(rig.controls[UPPER], wild, UPPER)
    assert shown[0] == pytest.approx(np.clip(asked[0], -0.3, 0.8), abs=1e-9)
    assert shown[1] == pytest.approx(0, abs=1e-12)
    assert shown[2] == pytest.approx(np.clip(asked[2], -0.1, 0.1), abs=1e-9)
    assert after.move[UPPER].tolist() == [0, move, move]
    assert after.move[END, 1] == np.clip(move, -0.05, 0.1)
    assert after.settings.tolist() == [0, 20, 0]


def test_a_value_outside_its_limits_may_come_back_but_not_go_further() -> None:
    rig = bounded()
    order = rig.controls[UPPER].order

    def at(angle: float) -> Array:
        turn = rig.rest.turn.copy()
        turn[UPPER] = from_euler(np.array([angle, 0, 0]), order)
        return turn

    outside = rig.rest.with_(turn=at(1.2))
    for asked, expected in ((1.4, 1.2), (1.0, 1.0), (0.5, 0.5)):
        after = within(rig, (), outside, rig.rest.with_(turn=at(asked)))
        assert shown_euler(rig.controls[UPPER], after, UPPER)[0] == pytest.approx(expected)
