"""Clips cut, mirrored and played in part; key poses; handing limbs over; how alike poses are."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from fox_hand.core.animation.clip import Clip, Player, cut_out, mapped, of_moments
from fox_hand.core.animation.clip_instances import ClipInstance
from fox_hand.core.animation.curves import ChannelCurve, ChannelId, ChannelKind, Keys, Origin
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.animation.key_poses import held_frames, joint_speeds, key_poses
from fox_hand.core.animation.sampler import line_of
from fox_hand.core.maths.rotations import angle_between, from_vector
from fox_hand.core.model.controls import Channel, Side
from fox_hand.core.model.solvers import Limb
from fox_hand.core.model.state import State
from fox_hand.core.pose.blend import blend
from fox_hand.core.pose.difference import difference
from fox_hand.core.pose.ik_fk_blend import IkFkBlend
from fox_hand.core.pose.ik_fk_matching import goal_from_joints, joints_from_goal
from fox_hand.core.pose.pose import ChannelFilter, Held, Pose, bind, take
from fox_hand.core.pose.similarity import Numbers, likeness
from fox_hand.core.rig.rig import Rig

HEAD = ChannelId(ChannelKind.TURN, "head")
LID_L, LID_R = (ChannelId(ChannelKind.SETTING, f"lid_shut_{s}") for s in "LR")
HIPS = ChannelId(ChannelKind.MOVE, "hips")


def spun(*angles: float) -> np.ndarray:
    return from_vector(np.array([[0.0, a, 0.0] for a in angles]))


@pytest.fixture
def nod() -> Clip:
    frames = np.array([0.0, 5.0, 12.0])
    return Clip(
        {
            HEAD: line_of(HEAD, frames, spun(0.0, 0.4, 0.1), Ease.SMOOTH),
            LID_L: line_of(LID_L, frames[:2], np.array([[0.0], [1.0]]), Ease.LINEAR),
            HIPS: line_of(HIPS, frames, np.array([[0, 0, 0], [0, 0.2, 0], [0, 0, 0.0]]), Ease.STEP),
        },
        12.0,
        24.0,
    )


def test_a_part_of_the_keys_is_the_same_by_itself(nod: Clip) -> None:
    def shown(channel_id: ChannelId, frame: float) -> np.ndarray:
        return np.full(channel_id.kind.width, frame)

    cut = cut_out(nod.keys, shown, [HEAD, LID_L, LID_R], (2.0, 9.0), 30.0)
    assert (cut.length, cut.rate) == (7.0, 30.0) and set(cut.lines) == {HEAD, LID_L}
    head = cut.lines[HEAD]
    assert head.frames.tolist() == [0.0, 3.0, 7.0]
    assert head.values[0].tolist() == [2.0] * 4 and head.values[2].tolist() == [9.0] * 4
    assert np.array_equal(head.values[1], nod.lines[HEAD].values[1])
    lid = cut.lines[LID_L]
    assert lid.frames.tolist() == [0.0, 3.0, 7.0] and set(lid.eases.tolist()) == {int(Ease.LINEAR)}
    whole = cut_out(nod.keys, shown, [HEAD], (0.0, 12.0), 24.0)
    assert np.array_equal(whole.lines[HEAD].values, nod.lines[HEAD].values)


def test_at_another_rate_keys_fall_on_whole_frames_and_never_together(nod: Clip) -> None:
    slow = nod.retimed(6.0)
    assert slow.lines[HEAD].frames.tolist() == [0.0, 1.0, 3.0] and slow.length == 3
    fast = nod.retimed(60.0)
    assert fast.lines[HEAD].frames.tolist() == [0.0, 12.0, 30.0] and fast.rate == 60.0
    close = Clip({HEAD: line_of(HEAD, np.array([0.0, 1, 2, 3]), spun(0, 1, 2, 3), Ease.STEP)}, 3.0)
    kept = close.retimed(8.0)
    assert kept.lines[HEAD].frames.tolist() == [0.0, 1.0, 2.0, 3.0] and kept.length == 3.0


def test_a_clip_is_played_by_side_and_names_what_is_missing(nod: Clip, marrow: Rig) -> None:
    lines = {**nod.lines, ChannelId(ChannelKind.TURN, "nobody"): nod.lines[HEAD]}
    player = Player(marrow, Clip(lines, 12.0))
    assert player.missing == ["nobody"]
    pose = player.at(5.0)
    head, hips = marrow.control_row["head"], marrow.control_row["hips"]
    assert pose.turn_rows.tolist() == [head] and pose.move_rows.tolist() == [hips]
    assert angle_between(pose.turn[0], spun(0.4)[0]) < 1e-9
    assert pose.move[0].tolist() == [0.0, 0.2, 0.0] and pose.settings.tolist() == [1.0]
    left, rest = player.at(5.0, Side.LEFT), player.but(5.0, Side.LEFT)
    assert left.setting_rows.tolist() == [marrow.setting_row["lid_shut_L"]]
    assert not len(left.turn_rows) and rest.turn_rows.tolist() == [head]
    assert not len(rest.setting_rows)
    twice = mapped(nod, marrow, lambda p: p)
    for channel_id, line in nod.lines.items():
        for frame, value in zip(line.frames, line.values, strict=True):
            at = twice.lines[channel_id].at(float(frame))
            assert at is not None
            assert twice.lines[channel_id].values[at] == pytest.approx(value, abs=1e-9)
    moments = of_moments(nod, marrow, [(0.0, pose), (5.0, pose)])
    assert moments.lines[HEAD].frames.tolist() == [0.0, 5.0]


def test_a_loop_goes_through_its_ends_as_through_its_middle(marrow: Rig) -> None:
    frames = np.array([0.0, 6.0, 12.0])
    line = line_of(HEAD, frames, spun(0.0, 0.4, 0.0), Ease.SMOOTH)
    loop, row = Player(marrow, Clip({HEAD: line}, 12.0)), 0
    early = [angle_between(loop.at(f).turn[row], spun(0.0)[0]) for f in (0.5, 11.5)]
    assert early[0] == pytest.approx(early[1], abs=1e-9)
    shifted = Clip({HEAD: line_of(HEAD, frames, spun(0.4, 0.0, 0.4), Ease.SMOOTH)}, 12.0)
    other = Player(marrow, shifted)
    for frame in (1.0, 3.0, 5.0):
        assert angle_between(loop.at(frame).turn[0], other.at(frame + 6.0).turn[0]) < 1e-9
    drift = Clip({HEAD: line_of(HEAD, frames, spun(0.0, 0.4, 0.2), Ease.LINEAR)}, 12.0)
    assert drift.seams() == {HEAD: pytest.approx(0.2)}
    spread, last = drift.seamless(), drift.seamless(spread=False)
    angles = [angle_between(spread.lines[HEAD].values[n], spun(0.0)[0]) for n in range(3)]
    assert angles == pytest.approx([0.0, 0.3, 0.0], abs=1e-9)
    assert [float(angle_between(last.lines[HEAD].values[n], spun(0.0)[0])) for n in range(3)] == (
        pytest.approx([0.0, 0.4, 0.0], abs=1e-9)
    )
    one = Clip({HEAD: line_of(HEAD, np.array([0.0]), spun(0.3), Ease.STEP)}, 1.0)
    assert one.seamless().lines[HEAD] is one.lines[HEAD]


def test_poses_that_come_to_rest_are_found_and_are_apart() -> None:
    speed = np.concatenate([np.full(5, 0.0), np.linspace(0, 1, 10), np.linspace(1, 0.1, 9)])
    speed = np.concatenate([speed, np.linspace(0.1, 1, 9), np.full(7, 0.0)])
    assert key_poses(speed) == (2, 23, 36)
    assert key_poses(speed, apart=15) == (2, 36) and key_poses(speed, slow=0.05) == (2, 36)
    assert key_poses(np.zeros(0)) == () and key_poses(np.zeros(4)) == (1,)


def test_speed_says_more_of_what_carries_much(marrow: Rig) -> None:
    frames = 4

    def turning(name: str) -> np.ndarray:
        turn = np.repeat(marrow.rest.turn[None], frames, 0).copy()
        turn[1:, marrow.control_row[name]] = spun(0.2)[0]
        rest = [np.repeat(v[None], frames, 0) for v in marrow.rest.arrays()]
        return joint_speeds(marrow, State(rest[0], turn, rest[2], rest[3], rest[4]))

    spine, finger = turning("spine_1"), turning("finger_little_3_L")
    assert spine.shape == (frames,) and spine[0] > 10 * finger[0] > 0
    assert spine[1] == pytest.approx(spine[0] / 2) and spine[3] == 0.0
    stepped = State(
        *(np.repeat(v[None], 6, 0).copy() for v in marrow.rest.arrays()),
    )
    stepped.turn[2:, 3] = spun(0.1)[0]
    stepped.settings[4:, 0] = 0.5
    assert held_frames(stepped) == (0, 2, 4)


def test_a_pose_of_goals_lands_on_an_arm_that_follows_its_joints(marrow: Rig) -> None:
    """And the arm follows its joints afterwards."""
    limb = next(x for x in marrow.limbs if marrow.skeleton.names[x.upper] == "arm_L")
    rng = np.random.default_rng(5)
    rows = [marrow.row_of_node[n] for n in (limb.upper, limb.lower, limb.end)]
    turn = marrow.rest.turn.copy()
    turn[rows] = from_vector(rng.normal(0, 0.3, (3, 3)))
    free = marrow.rest.with_(turn=turn)
    goaled = goal_from_joints(marrow, marrow.rest, limb)
    goal = marrow.row_of_node[limb.goal]
    move = goaled.move.copy()
    move[goal] += (0.05, 0.1, 0.08)
    channels = {goal: frozenset({Channel.MOVE, Channel.TURN})}
    held = take(marrow, goaled.with_(move=move), ChannelFilter(channels, frozenset()))
    pose = bind(held, marrow)
    blending = IkFkBlend.of(marrow, free, [pose])
    assert blending.to_goals == (limb,) and blending.limbs == (limb,)
    wanted = blend(goal_from_joints(marrow, free, limb), pose, 1.0, marrow.setting_rules)
    found = blending.around(
        lambda s: blend(s, pose, 1.0, marrow.setting_rules), blending.handed_over(free)
    )
    assert limb.blend is not None and found.settings[limb.blend] == 0.0
    one, two = marrow.evaluate(wanted).nodes, marrow.evaluate(found).nodes
    nodes = [limb.upper, limb.lower, limb.end]
    assert two[nodes, :3, 3] == pytest.approx(one[nodes, :3, 3], abs=1e-6)
    # one whose blend the pose holds, or that is half of both, is left alone
    for amount in (0.5, 1.0):  # in part, or on its goal already
        half = free.settings.copy()
        half[limb.blend] = amount
        assert not IkFkBlend.of(marrow, free.with_(settings=half), [pose]).limbs
    unblended = [replace(x, blend=None) if isinstance(x, Limb) else x for x in marrow.solvers]
    always = replace(marrow, solvers=tuple(unblended))
    assert not IkFkBlend.of(always, free, [pose]).limbs
    chosen = ChannelFilter(channels, frozenset({limb.blend}))
    said = bind(take(marrow, goaled, chosen), marrow)
    assert not IkFkBlend.of(marrow, free, [said]).limbs
    back = joints_from_goal(marrow, goal_from_joints(marrow, free, limb), limb)
    assert angle_between(back.turn[rows], free.turn[rows]).max() < 1e-6


def test_what_differs_is_told_by_kind_and_the_largest_first() -> None:
    quarter = (0.0, 0.0, float(np.sin(np.pi / 4)), float(np.cos(np.pi / 4)))
    one = Pose(
        {
            "a": Held(turn=quarter, settings={"x": 0.25}),
            "b": Held(move=(0.0, 0.1, 0.0)),
            "c": Held(scale=(1.0, 3.0, 1.0)),
            "d": Held(turn=(0.0, 0.0, 0.0, 1.0)),
        }
    )
    found = difference(one, Pose({"b": Held(move=(0.0, 0.0, 0.0))}))
    assert [d.control for d in found] == ["c", "a", "b"]
    assert [d.size for d in found] == pytest.approx([2.0, 1.25, 0.5])
    assert found[1].angle == pytest.approx(90.0) and found[1].settings == {"x": (0.25, 0.0)}
    assert found[2].distance == pytest.approx(0.1) and found[0].scale == pytest.approx(2.0)
    assert difference(one, one) == ()


def test_likeness_is_the_share_of_the_way_in_common() -> None:
    def turned(**angles: float) -> Numbers:
        return Numbers({n: spun(a)[0].tolist() for n, a in angles.items()}, {})

    half = turned(a=0.4)
    assert likeness(turned(a=0.4), half) == pytest.approx(1.0)
    assert likeness(turned(a=0.2), half) == pytest.approx(1 - 0.2 / 0.6, abs=1e-5)
    assert likeness(turned(b=0.4), half) == pytest.approx(0.0, abs=1e-5)
    both = Numbers(half.turns, {"x": 0.5})
    way = 0.4 + 0.5 * np.pi / 2
    assert both.way() == pytest.approx(way, abs=1e-6)
    assert likeness(both, half) == pytest.approx(1 - (way - 0.4) / (way + 0.4), abs=1e-5)
    assert likeness(half, both) == pytest.approx(likeness(both, half), abs=1e-5)
    only = both.within(lambda n: n == "x")
    assert not only.turns and only.settings == {"x": 0.5}
    negative = Numbers({"a": (-np.array(half.turns["a"])).tolist()}, {})
    assert likeness(negative, half) == pytest.approx(1.0)
    assert likeness(Numbers({}, {}), Numbers({"a": (0.0, 0.0, 0.0, 1.0)}, {})) == 1.0


def test_keys_of_a_line_are_found_by_frame() -> None:
    line: ChannelCurve = line_of(HEAD, np.array([1.0, 4.0, 9.0]), spun(0, 1, 2), Ease.LINEAR)
    assert [line.at(f) for f in (1.0, 4.0, 9.0, 5.0)] == [0, 1, 2, None]
    assert line.near(np.array([4.0, 9.0])).tolist() == [False, True, True]
    assert Keys({HEAD: line}).frames().tolist() == [1.0, 4.0, 9.0]


def test_times_that_wander_come_about_where_they_would_and_never_into_each_other(
    nod: Clip,
) -> None:
    plain = ClipInstance(nod, Origin("card", "Nod"), 10.0, repeats=8, gap=6.0)
    each = nod.length + 6.0
    assert plain.starts == pytest.approx(np.arange(8) * each)
    assert plain.length == pytest.approx(7 * each + nod.length)
    for seed in range(6):
        block = replace(plain, jitter=4.0, seed=seed)
        assert len(block.starts) == 8 and block.starts[0] == 0.0
        assert np.abs(block.starts - np.arange(8) * each).max() <= 4.0
        assert np.diff(block.starts).min() >= nod.length
        assert np.array_equal(block.starts, replace(plain, jitter=4.0, seed=seed).starts)
    assert len({tuple(replace(plain, jitter=4.0, seed=s).starts) for s in range(6)}) > 3
    twice = replace(plain, doubles=1.0)
    assert len(twice.starts) == 16
    assert twice.starts[1::2] - twice.starts[::2] == pytest.approx(nod.length + 1.0)
    half = replace(plain, repeats=2.5, speed=2.0)
    assert half.length == pytest.approx(2 * (nod.length / 2 + 6.0) + nod.length / 4)
    assert half.end == 10.0 + half.length
