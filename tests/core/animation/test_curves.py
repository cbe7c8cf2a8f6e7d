"""Keys by name: sampled all at once as one by one, moved, held, put between."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation, Slerp

from fox_hand.core.animation.curves import (
    NO_KEYS,
    ChannelCurve,
    ChannelId,
    ChannelKind,
    Keys,
    Origin,
    changed_lanes,
    channel_ids_of,
    keys_at,
    one_key,
)
from fox_hand.core.animation.inbetween import in_between, spanning
from fox_hand.core.animation.interpolation import Ease, Track
from fox_hand.core.animation.sampler import Sampler
from fox_hand.core.maths.rotations import angle_between, normalise
from tests.core.pose.test_blend import random_state
from tests.random_rig import random_rig

seeds = st.integers(0, 3000)


def random_line(channel_id: ChannelId, rng: np.random.Generator) -> ChannelCurve:
    count = int(rng.integers(1, 7))
    frames = np.sort(rng.choice(np.arange(1, 60), count, replace=False)).astype(float)
    values = rng.normal(0, 0.5, (count, channel_id.kind.width))
    if channel_id.kind is ChannelKind.TURN:
        values = normalise(values + [0, 0, 0, 0.2])
    eases = rng.integers(0, 3, count).astype(np.uint8)
    euler = rng.normal(0, 1, (count, 3)) if channel_id.kind is ChannelKind.TURN else None
    return ChannelCurve(frames, values, eases, np.zeros(count, np.intp), euler)


@given(seed=seeds)
@settings(max_examples=25)
def test_all_lines_at_once_are_what_each_track_gives(seed: int) -> None:
    rng, rig = np.random.default_rng(seed), random_rig(seed)
    channel_ids = channel_ids_of(rig, range(len(rig.controls)))
    keys = Keys(
        {
            channel_id: random_line(channel_id, rng)
            for channel_id in channel_ids
            if rng.random() < 0.7
        }
    )
    base, timeline = random_state(rig, seed), Sampler(rig, keys)
    frames = np.concatenate([rng.uniform(-5, 70, 20), np.arange(1, 60, 7)])
    batch = timeline.many(base, frames)
    for number, frame in enumerate(frames):
        one = timeline.at(base, float(frame))
        for mine, theirs in zip(one.arrays(), batch.arrays(), strict=True):
            assert np.array_equal(mine, theirs[number])
    for channel_id in channel_ids:
        column = list(ChannelKind).index(channel_id.kind)
        names = rig.setting_row if channel_id.kind is ChannelKind.SETTING else rig.control_row
        row = names[channel_id.name]
        found = batch.arrays()[column][:, row].reshape(len(frames), -1)
        line = keys.lines.get(channel_id)
        if line is None:
            assert (found == base.arrays()[column][row]).all()
            continue
        jumps = channel_id.kind is ChannelKind.SETTING and rig.settings[row].discrete
        eases = np.zeros(len(line), np.uint8) if jumps else line.eases
        track = Track(line.frames, line.values, eases, channel_id.kind is ChannelKind.TURN)
        assert np.abs(found - track.sample(frames)).max() < 1e-12
        here = timeline.many(base, line.frames).arrays()[column][:, row].reshape(len(line), -1)
        assert np.array_equal(here, line.values)  # bit for bit at the keys


@given(seed=seeds)
@settings(max_examples=25)
def test_a_keyed_state_is_shown_bit_for_bit_and_only_there(seed: int) -> None:
    rig = random_rig(seed)
    before, after = random_state(rig, seed), random_state(rig, seed + 1)
    channel_ids = changed_lanes(rig, before, after)
    keys = NO_KEYS.with_lines(keys_at(rig, before, channel_ids, 1.0, Ease.SMOOTH))
    keys = keys.with_lines(keys_at(rig, after, channel_ids, 9.0, Ease.SMOOTH))
    timeline = Sampler(rig, keys)
    for frame, wanted in ((1.0, before), (9.0, after), (20.0, after), (-3.0, before)):
        found = timeline.at(before, frame)
        for mine, theirs in zip(found.arrays()[:4], wanted.arrays()[:4], strict=True):
            assert np.array_equal(mine, theirs)


def channel_id(name: str = "arm") -> ChannelId:
    return ChannelId(ChannelKind.MOVE, name)


def line(*frames: float, ease: Ease = Ease.SMOOTH) -> ChannelCurve:
    found = one_key(frames[0], np.full(3, frames[0]), ease)
    for frame in frames[1:]:
        found = found.merged(one_key(frame, np.full(3, frame), ease))
    return found


def test_keys_that_move_onto_others_take_their_place() -> None:
    keys = NO_KEYS.with_lines({channel_id(): line(1, 5, 9)})
    moved = keys.carried({channel_id(): np.array([5.0])}, lambda f: f + 4)
    assert moved.lines[channel_id()].frames.tolist() == [1, 9]
    assert moved.lines[channel_id()].values[1].tolist() == [5, 5, 5]
    assert keys.lines[channel_id()].frames.tolist() == [1, 5, 9]  # what was is untouched
    both = keys.carried({channel_id(): np.array([1.0, 5.0])}, lambda f: f + 4)
    assert both.lines[channel_id()].frames.tolist() == [5, 9]
    assert both.lines[channel_id()].values[:, 0].tolist() == [1, 5]
    squeezed = keys.carried({channel_id(): np.array([1.0, 5.0, 9.0])}, lambda f: np.round(f / 100))
    assert squeezed.lines[channel_id()].values.tolist() == [[9, 9, 9]]  # the last stays


def test_taking_the_last_key_away_forgets_the_lane_and_its_card() -> None:
    keys, number = NO_KEYS.with_origin(Origin("a" * 12, "Wave"))
    marked = replace(line(3), origins=np.array([number], dtype=np.intp))
    keys = keys.with_lines({channel_id(): marked, channel_id("leg"): line(4)})
    assert keys.origins[number].name == "Wave"
    keys = keys.without({channel_id(): np.array([3.0])})
    assert list(keys) == [channel_id("leg")]
    assert not keys.origins


@given(seed=seeds, part=st.floats(-0.25, 1.25))
@settings(max_examples=25)
def test_a_pose_between_two_keys_lies_on_the_way(seed: int, part: float) -> None:
    rig = random_rig(seed)
    first, last = random_state(rig, seed), random_state(rig, seed + 7)
    channel_ids = changed_lanes(rig, first, last)
    keys = NO_KEYS.with_lines(keys_at(rig, first, channel_ids, 1.0, Ease.SMOOTH))
    keys = keys.with_lines(keys_at(rig, last, channel_ids, 11.0, Ease.SMOOTH))
    assert spanning(keys, channel_ids, 11.0) == []
    held = spanning(keys, channel_ids, 4.0)
    assert held == [x for x in channel_ids if x in keys.lines]
    found = in_between(rig, keys, first, held, 4.0, part)
    assert np.allclose(found.move, first.move + part * (last.move - first.move), atol=1e-12)
    for row in range(len(rig.controls)):
        ends = Rotation.from_quat([first.turn[row], last.turn[row]])
        if 0 <= part <= 1 and angle_between(first.turn[row], last.turn[row]) < 3.1:
            wanted = Slerp([0, 1], ends)(part).as_quat()
        else:
            step = (ends[0].inv() * ends[1]) ** part
            wanted = (ends[0] * step).as_quat()
        assert angle_between(found.turn[row], wanted) < 1e-7
    assert in_between(rig, keys, last, held, 4.0, 0.0).move.tolist() == first.move.tolist()
    turned = [x for x in held if x.kind is ChannelKind.TURN]
    assert turned
    for channel_id in turned:  # angles are shown as at the nearer key
        row, shown = rig.control_row[channel_id.name], keys.lines[channel_id].euler
        assert shown is not None
        assert found.euler[row].tolist() == shown[0 if part < 0.5 else 1].tolist()


def test_in_between_passes_over_a_key_that_stands_just_there() -> None:
    rig = random_rig(2)
    name = rig.controls[0].name
    move = ChannelId(ChannelKind.MOVE, name)
    keys = NO_KEYS.with_lines({move: line(2, 6, 10)})
    found = in_between(rig, keys, rig.rest, spanning(keys, [move], 6.0), 6.0, 0.25)
    assert found.move[0].tolist() == [4.0, 4.0, 4.0]  # a quarter from 2 to 10, whatever 6 says
    assert in_between(rig, keys, rig.rest, [move], 6.0, 0.0).move[0].tolist() == [2.0, 2.0, 2.0]


def test_line_values_have_to_fit() -> None:
    with pytest.raises(ValueError, match="one after the other"):
        Track(np.array([2.0, 1.0]), np.zeros((2, 3)), np.zeros(2, np.uint8))
