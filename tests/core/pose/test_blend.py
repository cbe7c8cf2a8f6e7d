"""Blending by amount: the properties an animator relies on."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from fox_hand.core.maths.euler import from_euler
from fox_hand.core.maths.rotations import angle_between, from_vector
from fox_hand.core.model.controls import Channel
from fox_hand.core.model.state import State
from fox_hand.core.pose.blend import blend, blend_scale
from fox_hand.core.pose.pose import ChannelFilter, Held, Pose, bind, take
from fox_hand.core.rig.rig import Rig

seeds = st.integers(0, 10_000)
amounts = st.floats(-0.5, 1.5)


def random_state(rig: Rig, seed: int) -> State:
    rng = np.random.default_rng(seed)
    count = len(rig.controls)
    turn = from_vector(rng.normal(0, 0.7, (count, 3)))
    turn[rng.random(count) < 0.5] *= -1  # the same rotations, written the other way
    return rig.rest.with_(
        move=rng.normal(0, 0.1, (count, 3)),
        turn=turn,
        scale=np.exp(rng.normal(0, 0.3, (count, 3))),
        settings=np.where(rig.setting_rules.discrete, 1.0, rng.uniform(0, 1, len(rig.settings))),
    )


def everything(rig: Rig, state: State):
    return bind(take(rig, state, ChannelFilter.of(rig, range(len(rig.controls)))), rig)


@given(a=seeds, b=seeds)
def test_0_leaves_every_bit_and_1_gives_the_pose_exactly(marrow: Rig, a: int, b: int) -> None:
    before, pose = random_state(marrow, a), random_state(marrow, b)
    bound = everything(marrow, pose)
    assert blend(before, bound, 0.0, marrow.setting_rules) is before
    after = blend(before, bound, 1.0, marrow.setting_rules)
    for mine, theirs in zip(after.arrays()[:2], pose.arrays()[:2], strict=True):
        rows = marrow.moving_rows
        held = [r for r in rows if marrow.controls[r].channels >= {Channel.TURN, Channel.MOVE}]
        assert np.array_equal(mine[held], theirs[held])
    assert np.array_equal(after.settings, pose.settings)


@given(a=seeds, b=seeds, amount=amounts)
def test_turns_go_along_the_shortest_arc_at_an_even_pace(
    marrow: Rig, a: int, b: int, amount: float
) -> None:
    """Also below 0 and past 1: the angle from the start is |amount| times the whole."""
    before, pose = random_state(marrow, a), random_state(marrow, b)
    bound = everything(marrow, pose)
    after = blend(before, bound, amount, marrow.setting_rules)
    rows = bound.turn_rows
    whole = angle_between(before.turn[rows], pose.turn[rows])
    there = angle_between(before.turn[rows], after.turn[rows])
    short = whole * abs(amount) < np.pi - 0.05
    assert np.allclose(there[short], (whole * abs(amount))[short], atol=1e-6)
    short &= whole * abs(1 - amount) < np.pi - 0.05
    to_pose = angle_between(after.turn[rows], pose.turn[rows])
    assert np.allclose(to_pose[short], (whole * abs(1 - amount))[short], atol=1e-6)


@given(a=seeds, b=seeds, amount=amounts)
def test_only_what_the_pose_holds_moves(marrow: Rig, a: int, b: int, amount: float) -> None:
    before, pose = random_state(marrow, a), random_state(marrow, b)
    fingers = [marrow.control_row[n] for n in marrow.sets["L hand"]]
    bound = bind(take(marrow, pose, ChannelFilter.of(marrow, fingers, (Channel.TURN,))), marrow)
    after = blend(before, bound, amount, marrow.setting_rules)
    others = [r for r in range(len(marrow.controls)) if r not in fingers]
    assert after.turn[others].tobytes() == before.turn[others].tobytes()
    held = marrow.settings_of[marrow.control_row["hand_L"]]
    free = [r for r in range(len(marrow.settings)) if r not in held]
    assert after.settings[free].tobytes() == before.settings[free].tobytes()
    for name in ("move", "scale"):
        assert getattr(after, name).tobytes() == getattr(before, name).tobytes()


@given(
    s0=st.floats(0.01, 100), s1=st.floats(0.01, 100), first=st.floats(0, 1), second=st.floats(0, 1)
)
def test_scale_is_geometric_so_halves_compose(
    s0: float, s1: float, first: float, second: float
) -> None:
    a, b = np.array([s0]), np.array([s1])
    step = blend_scale(a, b, first)
    assert np.allclose(step, s0 * (s1 / s0) ** first)
    assert np.allclose(
        blend_scale(step, b, second), blend_scale(a, b, first + second - first * second)
    )


def test_mirrored_and_zero_scale_fall_back_to_plain_lines() -> None:
    got = blend_scale(np.array([-1.0, 0.0, 2.0]), np.array([1.0, 3.0, 8.0]), 0.5)
    assert np.allclose(got, [0.0, 1.5, 4.0])


def test_switches_and_choices_jump_at_the_half(marrow: Rig) -> None:
    row = marrow.setting_row["hat"]
    settings = marrow.rest.settings.copy()
    settings[row] = 2
    pose = take(marrow, marrow.rest.with_(settings=settings), ChannelFilter({}, frozenset({row})))
    bound = bind(pose, marrow)
    got = [
        blend(marrow.rest, bound, amount, marrow.setting_rules).settings[row]
        for amount in (-0.5, 0.49, 0.5, 1.0, 1.5)
    ]
    assert got == [0, 0, 2, 2, 2]


def test_a_choice_is_found_by_its_option_s_name(marrow: Rig) -> None:
    row = marrow.setting_row["hat"]
    settings = marrow.rest.settings.copy()
    settings[row] = 1
    pose = take(marrow, marrow.rest.with_(settings=settings), ChannelFilter({}, frozenset({row})))
    turned = replace(marrow.settings[row], options=marrow.settings[row].options[::-1])
    others = tuple(turned if i == row else s for i, s in enumerate(marrow.settings))
    assert bind(pose, replace(marrow, settings=others)).settings.tolist() == [1]
    gone = replace(marrow.settings[row], options=("Pushed back", "Straight"))
    others = tuple(gone if i == row else s for i, s in enumerate(marrow.settings))
    assert bind(pose, replace(marrow, settings=others)).settings.tolist() == [0]


def test_settings_stop_at_the_rigs_limits_past_100_percent(marrow: Rig) -> None:
    row = marrow.setting_row["mouth_round"]
    settings = marrow.rest.settings.copy()
    settings[row] = 1.2
    pose = take(marrow, marrow.rest.with_(settings=settings), ChannelFilter({}, frozenset({row})))
    after = blend(marrow.rest, bind(pose, marrow), 1.5, marrow.setting_rules)
    assert after.settings[row] == marrow.settings[row].maximum == 1.5
    below = blend(marrow.rest, bind(pose, marrow), -0.5, marrow.setting_rules)
    assert below.settings[row] == marrow.settings[row].minimum == -0.5


def test_a_pose_names_what_another_rig_does_not_have(marrow: Rig) -> None:
    pose = take(marrow, marrow.rest, ChannelFilter.of(marrow, range(len(marrow.controls))))
    known = {n: h for n, h in pose.controls.items() if n != "jaw"}
    renamed = type(pose)({**known, "unterkiefer": pose.controls["jaw"]})
    bound = bind(renamed, marrow)
    assert bound.missing == ("unterkiefer",)
    assert marrow.control_row["jaw"] not in bound.rows(marrow)


def test_turns_keep_the_angles_they_were_authored_with(marrow: Rig) -> None:
    """Three turns and a bit are another way than the bit alone, though they look the same."""
    row = marrow.control_row["head"]
    control = marrow.controls[row]
    wound = np.zeros((len(marrow.controls), 3))
    wound[row, 0] = 6 * np.pi + 0.3
    turn = marrow.rest.turn.copy()
    turn[row] = from_euler(wound[row], control.order)
    held = Held(turn=tuple(turn[row]), euler=tuple(wound[row]), order=control.order)
    other = replace(held, euler=tuple(wound[row] + 0.2))  # these do not give the turn
    for one, expected in ((held, wound[row]), (other, (0.3, 0.0, 0.0))):
        found = bind(Pose({"head": one}), marrow)
        assert np.allclose(found.euler[0], expected, atol=1e-9)
