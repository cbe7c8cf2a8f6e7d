"""What is known of a rig by counting: who hangs on whom, who is idle, how large, what is locked."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from fox_hand.core.maths.rotations import from_vector
from fox_hand.core.model.controls import Channel, ControlKind, SettingKind, Side
from fox_hand.core.model.mesh import MeshPart
from fox_hand.core.model.solvers import Aim
from fox_hand.core.rig.locks_limits import Lock, built_in, within
from fox_hand.core.rig.rebind import merged, values_of, with_values
from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.readers import read_rig
from tests.limb_rig import BLEND, NAMES, REST_PLACES, limb_rig

LIMB = {name: row for row, name in enumerate(NAMES)}


def test_each_control_hangs_on_the_nearest_one_above_it(marrow: Rig) -> None:
    rig, skeleton = marrow, marrow.skeleton
    for row, control in enumerate(rig.controls):
        above = control.node if not control.moves_node else skeleton.parents[control.node]
        while above >= 0 and (above not in rig.row_of_node or rig.row_of_node[above] == row):
            above = skeleton.parents[above]
        assert rig.parents[row] == (rig.row_of_node[above] if above >= 0 else -1)
    assert rig.row_of_node == {c.node: r for r, c in enumerate(rig.controls) if c.moves_node}
    arm = rig.control_row["arm_L"]
    names = {rig.controls[r].name for r in rig.below(arm)}
    assert {"arm_L", "forearm_L", "hand_L", "finger_little_3_L"} <= names
    assert "arm_R" not in names and rig.below(arm) == sorted(rig.below(arm))
    for row in range(len(rig.controls)):
        for setting in rig.settings_of[row]:
            assert rig.settings[setting].control == row
    assert sum(map(len, rig.settings_of)) == len(rig.settings)
    kinds = {rig.controls[r].kind for r in rig.moving_rows}
    assert ControlKind.HOLDER not in kinds and ControlKind.GOAL in kinds
    assert len(rig.joint_nodes) == sum(c.kind is ControlKind.JOINT for c in rig.controls)


def test_how_large_a_figure_is_and_where_it_stands(marrow: Rig) -> None:
    low, high = marrow.rest_bounds
    points = np.concatenate([p.positions for p in marrow.parts])
    assert marrow.height == pytest.approx(float(np.max(high - low)))
    assert (low <= marrow.flesh(marrow.evaluate(marrow.rest)).min(0) + 1e-9).all()
    assert len(marrow.flesh(marrow.evaluate(marrow.rest))) == len(points)
    every = marrow.flesh(marrow.evaluate(marrow.rest), every=7)
    counts = [len(p.positions) for p in marrow.parts]
    assert max(counts) > 1000
    # a box of eight corners would not be one where only two of them counted
    assert len(every) == sum(len(range(0, n, 7 if n > 200 else 1)) for n in counts)
    box = replace(marrow, parts=(_first(marrow, 8),))
    assert len(box.flesh(box.evaluate(box.rest), every=6)) == 8
    bare = replace(marrow, parts=())
    places = bare.skeleton.rest_world[:, :3, 3]
    assert bare.height == pytest.approx(float(np.max(places.max(0) - places.min(0))))
    assert len(bare.flesh(bare.evaluate(bare.rest))) == len(places)
    head = marrow.controls[marrow.control_row["head"]].node
    at = marrow.evaluate(marrow.rest)
    flesh = marrow.flesh(at, [head])
    assert 0 < len(flesh) < len(points) and flesh[:, 1].min() > 0.6 * marrow.height
    assert bare.flesh(bare.evaluate(bare.rest), [head]).tolist() == [at.nodes[head, :3, 3].tolist()]
    handles = marrow.handle_places(at.nodes)
    for row in (0, marrow.control_row["hand_L"], len(marrow.controls) - 1):
        control = marrow.controls[row]
        own = at.nodes[control.node] @ np.array([*control.offset, 1.0])
        assert handles[row] == pytest.approx(own[:3])


def test_who_moves_nothing_as_the_settings_stand() -> None:
    rig = limb_rig()
    bones = {LIMB[n] for n in ("upper", "lower", "end")}
    pulls = {LIMB[n] for n in ("goal", "pole")}

    def idle(amount: float) -> frozenset[int]:
        settings = rig.rest.settings.copy()
        settings[BLEND] = amount
        return rig.idle(rig.rest.with_(settings=settings))

    assert idle(1.0) == bones and idle(0.0) == pulls and idle(0.5) == frozenset()
    limb = rig.limbs[0]
    always = replace(rig, solvers=(replace(limb, blend=None),))
    assert always.idle(always.rest) == bones
    assert rig.pulled(limb.goal) == (limb.end,) and rig.pulled(limb.pole) == (limb.lower,)
    assert rig.pulled(limb.upper) == (limb.upper,)
    brandle = read_rig(shipped() / "cast" / "brandle.glb")
    looks = [s for s in brandle.solvers if isinstance(s, Aim)]
    for look in looks:
        assert look.node in brandle.pulled(look.target)
        if look.blend is not None:
            row = brandle.row_of_node[look.target]
            for amount in (0.0, 0.3):
                settings = brandle.rest.settings.copy()
                settings[look.blend] = amount
                still = brandle.idle(brandle.rest.with_(settings=settings))
                assert (row in still) == (amount == 0.0)


def test_how_the_file_itself_stands_is_a_pose(marrow: Rig) -> None:
    assert marrow.as_filed() is None
    skeleton = marrow.skeleton
    turn = skeleton.rotation.copy()
    node = marrow.controls[marrow.control_row["forearm_L"]].node
    bent = from_vector(np.array([0.0, 0.3, 0.5]))
    from fox_hand.core.maths.rotations import multiply

    turn[node] = multiply(turn[node], bent)
    move = skeleton.translation.copy()
    move[node] += 0.02
    filed = replace(skeleton, rotation=turn, translation=move)
    rig = replace(marrow, filed=filed)
    state = rig.as_filed()
    assert state is not None
    row = marrow.control_row["forearm_L"]
    assert np.abs(np.abs(state.turn[row] @ bent) - 1.0) < 1e-9
    world = rig.evaluate(state).nodes
    assert world[node, :3, 3] == pytest.approx(filed.rest_world[node, :3, 3], abs=1e-6)
    assert world[node, :3, :3] == pytest.approx(filed.rest_world[node, :3, :3], abs=1e-6)
    other = [r for r in range(len(rig.controls)) if r != row]
    assert np.allclose(np.abs(state.turn[other][:, 3]), 1.0) and not state.move[other].any()


def test_values_go_over_to_a_changed_rig_by_name(marrow: Rig) -> None:
    row, setting = marrow.control_row["head"], marrow.setting_row["jaw_open"]
    turn, settings = marrow.rest.turn.copy(), marrow.rest.settings.copy()
    move, scale = marrow.rest.move.copy(), marrow.rest.scale.copy()
    turn[row] = from_vector(np.array([0.0, 0.4, 0.0]))
    settings[setting], move[row], scale[row] = 0.5, (0.1, 0.0, 0.2), (1.0, 2.0, 1.0)
    state = marrow.rest.with_(turn=turn, settings=settings, move=move, scale=scale)
    values = values_of(marrow, state)
    assert values.names == {"head", "jaw_open"} and values.move == {"head": (0.1, 0.0, 0.2)}
    again, spare = with_values(marrow, values)
    assert again.same_bits(state) and not spare.names
    renamed = tuple(replace(c, name=f"x {c.name}") for c in marrow.controls)
    other = replace(marrow, controls=renamed)
    found, spare = with_values(other, values)
    assert spare.names == {"head"} and found.settings[setting] == 0.5
    assert (spare.move, spare.turn, spare.scale) == (values.move, values.turn, values.scale)
    assert np.array_equal(found.turn, other.rest.turn)
    late = merged(spare, values_of(marrow, marrow.rest.with_(settings=settings)))
    assert late.settings == {"jaw_open": 0.5} and late.turn == values.turn
    assert merged(values, replace(values, settings={"jaw_open": 0.9})).settings["jaw_open"] == 0.9
    long = replace(values, turn={"head": (0.0, 2.0, 0.0, 0.0)})
    assert with_values(marrow, long)[0].turn[row].tolist() == [0.0, 1.0, 0.0, 0.0]
    discrete = next(s for s in marrow.settings if s.kind is not SettingKind.FLOAT)
    odd = replace(values, settings={discrete.name: 0.7, "nothing": 2.0})
    state, spare = with_values(marrow, odd)
    assert state.settings[marrow.setting_row[discrete.name]] == 1.0
    assert spare.settings == {"nothing": 2.0}


def test_locked_channels_stay_axis_by_axis() -> None:
    rig = limb_rig()
    before = rig.rest
    turn, move, scale = before.turn.copy(), before.move.copy(), before.scale.copy()
    upper = LIMB["upper"]
    turn[upper] = from_vector(np.array([0.2, 0.3, 0.1]))
    move[upper], scale[upper] = (0.1, 0.2, 0.3), (2.0, 3.0, 4.0)
    settings = before.settings.copy()
    settings[:] = [0.5, 10.0, 20.0]
    after = before.with_(turn=turn, move=move, scale=scale, settings=settings)
    assert within(rig, (), before, before) is before
    free = within(rig, (), before, after)
    assert np.allclose(free.turn, after.turn) and np.array_equal(free.settings, settings)
    locks = [
        Lock("upper", Channel.MOVE, 1),
        Lock("upper", Channel.SCALE, 0),
        Lock("goal", setting="roll_upper"),
        Lock("nobody", Channel.TURN, 0),
    ]
    found = within(rig, locks, before, after)
    assert found.move[upper].tolist() == [0.1, 0.0, 0.3]
    assert found.scale[upper].tolist() == [1.0, 3.0, 4.0]
    assert found.settings.tolist() == [0.5, before.settings[1], 20.0]
    assert np.allclose(found.turn[upper], turn[upper])
    one = within(rig, [Lock("upper", Channel.TURN, 0)], before, after)
    shown, wanted = one.shown(rig.orders)[upper], after.shown(rig.orders)[upper]
    assert shown == pytest.approx([0.0, wanted[1], wanted[2]], abs=1e-9)
    whole = within(rig, [Lock("upper", Channel.TURN, a) for a in range(3)], before, after)
    assert np.array_equal(whole.turn[upper], before.turn[upper])
    control = replace(rig.controls[upper], locked=frozenset({(Channel.TURN, 2)}))
    held = replace(rig, controls=(*rig.controls[:upper], control, *rig.controls[upper + 1 :]))
    assert built_in(held) == {Lock("upper", Channel.TURN, 2)} and built_in(rig) == frozenset()


def test_limits_stop_moves_and_what_stood_outside_may_come_back() -> None:
    rig = limb_rig()
    row = LIMB["goal"]
    control = replace(rig.controls[row], move_limits=((-0.1, 0.2), None, (0.0, 0.0)))
    rig = replace(rig, controls=(*rig.controls[:row], control, *rig.controls[row + 1 :]))

    def moved(start: list[float], end: list[float]) -> list[float]:
        one, other = rig.rest.move.copy(), rig.rest.move.copy()
        one[row], other[row] = start, end
        before, after = rig.rest.with_(move=one), rig.rest.with_(move=other)
        return within(rig, (), before, after).move[row].tolist()  # type: ignore[no-any-return]

    assert moved([0, 0, 0], [0.5, 9.0, 0.1]) == [0.2, 9.0, 0.0]
    assert moved([0, 0, 0], [-0.5, -9.0, 0.0]) == [-0.1, -9.0, 0.0]
    assert moved([0.5, 0, 0], [0.4, 0, 0]) == [0.4, 0, 0]
    assert moved([0.5, 0, 0], [0.6, 0, 0]) == [0.5, 0, 0]


def test_settings_take_the_nearest_allowed_value(marrow: Rig) -> None:
    setting = marrow.settings[marrow.setting_row["jaw_open"]]
    assert [setting.nearest(v) for v in (-1.0, 0.25, 9.0)] == [
        setting.minimum,
        0.25,
        setting.maximum,
    ]
    choice = replace(setting, kind=SettingKind.CHOICE, minimum=0.0, maximum=3.0)
    assert [choice.nearest(v) for v in (0.4, 0.6, 2.6, 7.0)] == [0.0, 1.0, 3.0, 3.0]
    assert choice.discrete and not setting.discrete
    assert [s.other for s in (Side.LEFT, Side.RIGHT, Side.CENTRE)] == [
        Side.RIGHT,
        Side.LEFT,
        Side.CENTRE,
    ]


def test_a_scaled_root_is_metres_all_the_same() -> None:
    for scale in (0.01, 1.0, 30.0):
        rig = limb_rig(3, scale=scale)
        nodes = np.array([LIMB["upper"], LIMB["end"]])
        assert rig.units_of(nodes) == pytest.approx([scale, scale] if scale != 1 else [1.0, 1.0])
        at = rig.evaluate(rig.rest).nodes
        assert at[:, :3, 3] == pytest.approx(REST_PLACES, abs=1e-6)


def _first(rig: Rig, count: int) -> MeshPart:
    """Some vertices of its first part."""
    part = rig.parts[0]
    return replace(
        part,
        positions=part.positions[:count],
        joints=part.joints[:count],
        weights=part.weights[:count],
    )


@pytest.mark.parametrize("axes", [(0,), (0, 1), (0, 1, 2)])
def test_locked_axes_of_a_turn_stay_and_a_wholly_locked_one_stays_bit_for_bit(
    marrow: Rig, axes: tuple[int, ...]
) -> None:
    rig, row = marrow, marrow.control_row["neck"]
    turn = rig.rest.turn.copy()
    turn[row] = from_vector(np.array([0.1, -0.2, 0.15]))
    before = rig.rest.with_(turn=turn)
    further = turn.copy()
    further[row] = from_vector(np.array([0.4, 0.3, -0.35]))
    after = before.with_(turn=further)
    kept = within(rig, [Lock("neck", Channel.TURN, axis) for axis in axes], before, after)
    was, now, wanted = (s.shown(rig.orders)[row] for s in (before, kept, after))
    for axis in range(3):
        expected = was[axis] if axis in axes else wanted[axis]
        assert now[axis] == pytest.approx(expected, abs=1e-9), axis
    assert (kept.turn[row] == before.turn[row]).all() == (len(axes) == 3)
