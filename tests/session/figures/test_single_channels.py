"""One channel at a time: its word, its unit, its value, and setting it for one or for many."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from fox_hand.core.model.controls import Channel
from fox_hand.core.rig.locks_limits import Lock
from fox_hand.core.rig.rig import Rig
from fox_hand.session.figures.channel_rows import at_rest_row, lock_of, rows_of, with_row
from fox_hand.session.figures.channels import (
    ChannelRef,
    at_rest,
    channels_of,
    moved_in_world,
    turned_about_own_axis,
    turned_in_world,
    with_value,
)

KINDS = (Channel.TURN, Channel.MOVE, Channel.SCALE)


def test_values_are_shown_in_degrees_centimetres_and_factors(marrow: Rig) -> None:
    row = marrow.control_row["head"]
    jaw = marrow.setting_row["jaw_open"]
    head = marrow.controls[row]
    refs = [ChannelRef(row, Channel.TURN, 1), ChannelRef(row, Channel.MOVE, 2)]
    refs += [ChannelRef(row, Channel.SCALE, 0), ChannelRef(marrow.settings[jaw].control, None, jaw)]
    assert [ref.unit for ref in refs] == ["°", " cm", "", ""]
    assert [ref.label(marrow) for ref in refs] == [
        (head.label, head.axis_labels[1]),
        (head.label, "move z"),
        (head.label, "scale x"),
        (marrow.settings[jaw].label, ""),
    ]
    assert [ref.rest_value(marrow) for ref in refs] == [0.0, 0.0, 1.0, 0.0]
    state = marrow.rest
    for ref, value in zip(refs, (25.0, 3.0, 1.5, 0.4), strict=True):
        state = with_value(marrow, state, ref, value)
        assert ref.value(marrow, state) == pytest.approx(value)
    assert state.move[row, 2] == pytest.approx(0.03) and state.scale[row, 0] == 1.5
    assert [r for r, _ in np.argwhere(state.move != marrow.rest.move)] == [row]
    low, high = refs[3].span(marrow)
    setting = marrow.settings[jaw]
    assert (low, high) == (setting.minimum, setting.maximum)
    assert with_value(marrow, state, refs[3], 99.0).settings[jaw] == setting.maximum
    assert refs[2].span(marrow) == (0.0, 2.0)
    for ref, free in (
        (refs[0], (-120.0, 120.0)),
        (refs[1], (-marrow.height * 50, marrow.height * 50)),
    ):
        limit = ref.limit(marrow)
        assert ref.span(marrow) == (pytest.approx(limit) if limit is not None else free)
    elbow = ChannelRef(marrow.control_row["forearm_L"], Channel.TURN, 0)
    limits = marrow.controls[elbow.row].limits
    for axis in range(3):
        turn = ChannelRef(elbow.row, Channel.TURN, axis)
        wanted = limits[axis]
        found = turn.limit(marrow)
        assert (found is None) == (wanted is None)
        if wanted is not None:
            assert found == pytest.approx(np.degrees(wanted)) == turn.span(marrow)


def test_channels_come_settings_first_then_kind_by_kind(marrow: Rig) -> None:
    row = marrow.control_row
    holder = marrow.settings[marrow.setting_row["jaw_open"]].control
    refs = channels_of(marrow, [holder, row["jaw"]], [Channel.TURN])
    settings = [r for r in refs if r.kind is None]
    assert refs[: len(settings)] == settings and len(settings) == len(marrow.settings_of[holder])
    turns = [(r.row, r.axis) for r in refs if r.kind is Channel.TURN]
    assert turns[-3:] == [(row["jaw"], a) for a in range(3)]
    assert all(r.kind in (None, Channel.TURN) for r in refs)


def test_of_many_what_they_have_in_common_comes_first(marrow: Rig) -> None:
    row = marrow.control_row
    fingers = [row[f"finger_index_{n}_L"] for n in (1, 2, 3)]
    rows = rows_of(marrow, fingers)
    together = [r for r in rows if len(r.refs) > 1]
    assert rows[: len(together)] == together and {r.name for r in together} == {"All 3"}
    assert len(rows) == len(together) + sum(1 for r in rows if len(r.refs) == 1)
    first = together[0]
    assert first.kind(marrow) == rows[-1].kind(marrow)
    state = with_row(marrow, marrow.rest, first, 10.0)
    assert first.value(marrow, state) == pytest.approx(10.0)
    assert first.away(marrow, state) and not first.away(marrow, marrow.rest)
    apart = with_row(marrow, state, rows_of(marrow, fingers[:1])[0], 30.0)
    assert first.value(marrow, apart) is None
    more = with_row(marrow, apart, first, 5.0, add=True)
    values = [ref.value(marrow, more) for ref in first.refs]
    assert values == pytest.approx([35.0, 15.0, 15.0])
    assert at_rest_row(marrow, more, first).turn == pytest.approx(marrow.rest.turn)
    assert first.label(marrow) == f"All 3 {first.word}"
    assert first.locks(marrow) == {lock_of(marrow, ref) for ref in first.refs}
    names = {marrow.controls[r].name for r in fingers}
    assert {lock.control for lock in first.locks(marrow)} == names
    (alone, *_) = rows_of(marrow, fingers[:1])
    assert alone.name == "" and alone.word[:1].isupper() and alone.decimals == 1
    jaw = marrow.setting_row["jaw_open"]
    ref = ChannelRef(marrow.settings[jaw].control, None, jaw)
    assert lock_of(marrow, ref) == Lock(
        marrow.controls[ref.row].name, setting=marrow.settings[jaw].name
    )
    (setting,) = [r for r in rows_of(marrow, [ref.row]) if r.refs == (ref,)]
    assert setting.decimals == 2 and setting.grain == pytest.approx(0.01)
    barely = with_value(marrow, marrow.rest, ref, 0.004)
    assert not setting.away(marrow, barely)
    assert setting.away(marrow, with_value(marrow, marrow.rest, ref, 0.006))


def test_turns_add_up_about_own_axes_and_in_the_world(marrow: Rig) -> None:
    row = marrow.control_row
    arm, forearm, hand = (row[f"{n}_L"] for n in ("arm", "forearm", "hand"))
    state = turned_about_own_axis(marrow, marrow.rest, [arm, hand], 1, 0.3)
    twice = turned_about_own_axis(marrow, state, [arm], 1, 0.2)
    for r, wanted in ((arm, 0.5), (hand, 0.3)):
        turn = Rotation.from_quat(twice.turn[r]) * Rotation.from_quat(marrow.rest.turn[r]).inv()
        assert turn.magnitude() == pytest.approx(wanted)
    nodes = marrow.evaluate(state).nodes
    spin = Rotation.from_rotvec([0.0, 0.4, 0.0]).as_quat()
    spun = turned_in_world(marrow, state, [arm, forearm, hand], nodes, spin)
    assert np.array_equal(spun.turn[forearm], state.turn[forearm])  # carried along
    assert np.array_equal(spun.turn[hand], state.turn[hand])
    after = marrow.evaluate(spun).nodes
    for r in (arm, forearm, hand):
        node = marrow.controls[r].node
        both = [Rotation.from_matrix(m[node, :3, :3]) for m in (after, nodes)]
        assert (both[0] * both[1].inv()).as_rotvec() == pytest.approx([0.0, 0.4, 0.0], abs=1e-9)
    shown = [ChannelRef(arm, Channel.TURN, a).value(marrow, spun) for a in range(3)]
    order = marrow.controls[arm].order
    again = Rotation.from_euler(
        order,
        np.degrees(np.radians(shown))[
            [  # intrinsic, as typed
                "XYZ".index(c) for c in order
            ]
        ],
        degrees=True,
    )
    assert (again * Rotation.from_quat(spun.turn[arm]).inv()).magnitude() < 1e-6


def test_goals_move_in_the_world_and_joints_below_come_along(marrow: Rig) -> None:
    goals = [r for r, c in enumerate(marrow.controls) if c.kind.value in ("goal", "pole")]
    movable = [r for r in goals if Channel.MOVE in marrow.controls[r].channels]
    nodes = marrow.evaluate(marrow.rest).nodes
    step = np.array([0.05, -0.02, 0.1])
    moved = moved_in_world(marrow, marrow.rest, movable, nodes, step, np.eye(4))
    after = marrow.evaluate(moved).nodes
    for r in movable:
        node = marrow.controls[r].node
        assert after[node, :3, 3] - nodes[node, :3, 3] == pytest.approx(step, abs=1e-9)
    hips = marrow.control_row["hips"]
    both = moved_in_world(
        marrow, marrow.rest, [hips, marrow.control_row["head"]], nodes, step, np.eye(4)
    )
    assert np.array_equal(both.move[marrow.control_row["head"]], [0.0, 0.0, 0.0])
    assert marrow.evaluate(both).nodes[marrow.controls[hips].node, :3, 3] == pytest.approx(
        nodes[marrow.controls[hips].node, :3, 3] + step, abs=1e-9
    )


def test_only_some_controls_go_back_to_rest(marrow: Rig) -> None:
    row = marrow.control_row
    holder = marrow.settings[marrow.setting_row["jaw_open"]].control
    state = turned_about_own_axis(marrow, marrow.rest, [row["head"], row["arm_L"]], 0, 0.4)
    settings = state.settings.copy()
    settings[:] = [s.maximum for s in marrow.settings]
    move = state.move.copy()
    move[row["head"]] = 0.1
    state = state.with_(settings=settings, move=move)
    back = at_rest(marrow, state, [row["head"], holder])
    assert np.array_equal(back.turn[row["head"]], marrow.rest.turn[row["head"]])
    assert not back.move.any() and np.array_equal(back.turn[row["arm_L"]], state.turn[row["arm_L"]])
    held = set(marrow.settings_of[holder]) | set(marrow.settings_of[row["head"]])
    for s in range(len(marrow.settings)):
        source = marrow.rest if s in held else state
        assert back.settings[s] == source.settings[s]


def test_a_bar_goes_as_far_as_its_channel_may(marrow: Rig) -> None:
    row = marrow.control_row["head"]
    free = replace(marrow.controls[row], limits=(None, (-0.5, 1.0), None))
    moved = replace(free, move_limits=((-0.02, 0.05), None, None))
    rig = replace(marrow, controls=(*marrow.controls[:row], moved, *marrow.controls[row + 1 :]))
    assert ChannelRef(row, Channel.TURN, 0).span(rig) == (-120.0, 120.0)
    assert ChannelRef(row, Channel.TURN, 1).span(rig) == pytest.approx(np.degrees([-0.5, 1.0]))
    assert ChannelRef(row, Channel.MOVE, 0).span(rig) == pytest.approx((-2.0, 5.0))
    half = rig.height * 50  # centimetres
    assert ChannelRef(row, Channel.MOVE, 1).span(rig) == pytest.approx((-half, half))
    assert ChannelRef(row, Channel.SCALE, 2).span(rig) == (0.0, 2.0)
    jaw = rig.setting_row["jaw_open"]
    setting = rig.settings[jaw]
    assert ChannelRef(0, None, jaw).span(rig) == (setting.minimum, setting.maximum)
