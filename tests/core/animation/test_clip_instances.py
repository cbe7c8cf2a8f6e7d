"""Clips and blocks: timing, repeating, seams, sides, what lies over what."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from fox_hand.core.animation.clip import Clip, cut_out
from fox_hand.core.animation.clip_instances import FINE, ClipInstance, ClipInstancePlayer
from fox_hand.core.animation.curves import (
    ChannelCurve,
    ChannelId,
    ChannelKind,
    Keys,
    Origin,
    channel_ids_of,
)
from fox_hand.core.animation.interpolation import Ease, Track
from fox_hand.core.animation.sampler import Sampler, line_of
from fox_hand.core.maths.rotations import angle_between
from fox_hand.core.model.controls import Side
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import shipped
from fox_hand.library.format.container import read_card
from tests.core.animation.test_curves import random_line
from tests.core.pose.test_blend import random_state
from tests.random_rig import random_rig

CLIPS = shipped() / "library" / "Marrow" / "Clips"
LIDS = ("lid_shut_L", "lid_shut_R")
seeds = st.integers(0, 2000)


def demo_clip(name: str) -> Clip:
    clip = read_card(CLIPS / f"{name}.foxcard")[0].clip
    assert clip is not None
    return clip


def instance(clip: Clip, start: float = 10.0, **fields: object) -> ClipInstance:
    return replace(ClipInstance(clip, Origin("", "some"), start), **fields)


def lids(rig: Rig, state: State) -> tuple[float, float]:
    left, right = (float(state.settings[rig.setting_row[n]]) for n in LIDS)
    return left, right


def played(rig: Rig, made: ClipInstance, frame: float, under: State | None = None) -> State:
    return ClipInstancePlayer(rig, (made,)).over(under or rig.rest, frame)


def test_a_blink_is_timed_as_animators_and_eyes_do_it() -> None:
    """Closing over 2 frames, shut for 2, opening over 2 or 3 (common practice, no source); 0.1 to
    0.4 s in all (Schiffman, Sensation and Perception, 2001; from memory)."""
    for name, rate in (("Blink", 30.0), ("Blink, film", 24.0)):
        clip = demo_clip(name)
        assert clip.rate == rate
        assert 0.1 <= clip.length / rate <= 0.4
        assert {channel_id.name for channel_id in clip.lines} == set(
            LIDS
        )  # the lids and nothing else
        for line in clip.lines.values():
            assert line.values[:, 0].tolist() == [0, 1, 1, 0]  # a pair of equal keys holds it shut
            close, shut, opening = np.diff(line.frames)
            assert close == 2
            assert opening in (2, 3)
            assert shut / rate == pytest.approx(2 / 30, abs=1 / 30)


def test_at_another_rate_it_takes_as_long_and_stays_shut(marrow: Rig) -> None:
    clip = demo_clip("Blink")
    film = clip.retimed(24.0)
    assert film.length / 24 == pytest.approx(clip.length / 30, abs=1 / 24)
    for line in film.lines.values():
        assert (np.diff(line.frames) >= 1).all()
        assert (line.frames == np.round(line.frames)).all()
        assert line.values[:, 0].tolist() == [0, 1, 1, 0]


def test_repeats_gaps_speed_and_backwards(marrow: Rig) -> None:
    clip = demo_clip("Blink")
    twice = instance(clip, repeats=2.0, gap=5.0)
    assert twice.end == 10 + 7 + 5 + 7
    shut = [f for f in range(40) if lids(marrow, played(marrow, twice, f))[0] == 1.0]
    assert shut == [12, 13, 14, 24, 25, 26]
    fast = instance(clip, speed=2.0, repeats=3.0)
    assert fast.length == pytest.approx(3 * 3.5)
    back = instance(clip, backwards=True)
    shut = [f for f in range(40) if lids(marrow, played(marrow, back, f))[0] == 1.0]
    assert shut == [13, 14, 15]
    outside = played(marrow, twice, 9.0)
    assert outside is marrow.rest


def test_one_eye_ahead_and_blinks_on_top_of_a_squint(marrow: Rig) -> None:
    clip = demo_clip("Blink")
    led = instance(clip, lead=2.0, lead_side=Side.LEFT)
    shut = {f: lids(marrow, played(marrow, led, f)) for f in range(30)}
    assert [f for f, (left, _) in shut.items() if left == 1.0] == [10, 11, 12]
    assert [f for f, (_, right) in shut.items() if right == 1.0] == [12, 13, 14]
    squint = marrow.rest.settings.copy()
    squint[[marrow.setting_row[n] for n in LIDS]] = 0.3
    under = marrow.rest.with_(settings=squint)
    on_top = instance(clip, on_top=True)
    assert lids(marrow, played(marrow, on_top, 10, under)) == (0.3, 0.3)  # nothing jumps to open
    most = marrow.settings[marrow.setting_row[LIDS[0]]].maximum
    assert lids(marrow, played(marrow, on_top, 13, under)) == (most, most)  # never past its limit
    instead = instance(clip)
    assert lids(marrow, played(marrow, instead, 10, under)) == (0.0, 0.0)


@given(seed=seeds)
@settings(max_examples=20)
def test_blending_in_and_out_goes_from_the_keys_to_the_clip_and_back(seed: int) -> None:
    rig, rng = random_rig(seed), np.random.default_rng(seed)
    channel_ids = channel_ids_of(rig, range(len(rig.controls)))
    chosen = [channel_id for channel_id in channel_ids if channel_id.kind is ChannelKind.TURN]
    lines = {}
    for channel_id in chosen:
        line = random_line(channel_id, rng)
        lines[channel_id] = replace(line, frames=line.frames - line.frames[0])
    clip = Clip(lines, 60.0)
    under = random_state(rig, seed)
    made = instance(clip, fade_in=8.0, fade_out=8.0)
    rows = [rig.control_row[channel_id.name] for channel_id in chosen]
    timeline = Sampler(rig, clip.keys)
    for frame, share in ((10, 0.0), (14, 0.5), (18, 1.0), (40, 1.0), (66, 0.5), (70, 0.0)):
        found = played(rig, made, frame, under)
        whole = timeline.at(under, frame - 10.0)
        for row in rows:
            far = angle_between(under.turn[row], whole.turn[row])
            if far < np.pi - 0.01:
                gone = angle_between(under.turn[row], found.turn[row])
                assert gone == pytest.approx(share * far, abs=1e-6)
        others = [r for r in range(len(rig.controls)) if r not in rows]
        assert (found.turn[others] == under.turn[others]).all()


def test_blocks_work_in_the_order_in_which_they_begin(marrow: Rig) -> None:
    shut = demo_clip("Blink")
    early, late = instance(shut, 4.0), instance(shut, 6.0, strength=0.5)
    one = ClipInstancePlayer(marrow, (early, late)).over(marrow.rest, 8.0)
    other = ClipInstancePlayer(marrow, (late, early)).over(marrow.rest, 8.0)
    assert one.same_bits(other)
    assert lids(marrow, one)[0] == pytest.approx(1.0)  # early: shut; late: half of the way to shut
    at_ten = ClipInstancePlayer(marrow, (late, early)).over(marrow.rest, 10.0)
    early_alone = lids(marrow, ClipInstancePlayer(marrow, (early,)).over(marrow.rest, 10.0))[0]
    assert lids(marrow, at_ten)[0] == pytest.approx(early_alone + 0.5 * (1.0 - early_alone))


def test_fading_out_is_its_own_number(marrow: Rig) -> None:
    """At the middle of a fade the smooth step is a half; the other end is not faded at all."""
    clip = demo_clip("Wave loop")
    out = instance(clip, fade_out=8.0)
    assert out.weight(0.0) == 1.0
    assert out.weight(out.length - 4.0) == pytest.approx(0.5)
    assert out.weight(out.length) == 0.0
    into = instance(clip, fade_in=6.0)
    assert into.weight(0.0) == 0.0
    assert into.weight(3.0) == pytest.approx(0.5)
    assert into.weight(into.length) == 1.0


def test_times_that_wander_are_the_same_ever_after_and_never_overlap() -> None:
    clip = demo_clip("Blink")
    made = instance(clip, repeats=40.0, gap=49.0, jitter=14.0, doubles=1 / 6, seed=3)
    assert (made.starts == replace(made).starts).all()
    assert made.starts.tolist() != replace(made, seed=4).starts.tolist()
    gaps = np.diff(made.starts)
    assert gaps.min() >= clip.length
    doubled = gaps < clip.length + 2
    assert 2 <= doubled.sum() <= 14
    assert np.ptp(gaps[~doubled]) > 10


@pytest.mark.parametrize("name", ["Wave loop", "Walk loop", "Breathe", "Nod", "Blink"])
def test_the_loops_of_the_demo_have_no_seam(marrow: Rig, name: str) -> None:
    clip = demo_clip(name)
    assert not clip.seams()
    made = instance(clip, 0.0, repeats=3.0)
    around = [played(marrow, made, clip.length + d) for d in (-0.2, -0.1, 0.0, 0.1, 0.2)]
    steps = [angle_between(a.turn, b.turn) for a, b in pairwise(around)]
    assert np.abs(np.diff(steps, axis=0)).max() < 0.006  # it goes on as fast as it came
    assert np.abs(around[1].settings - around[3].settings).max() < 0.2


@given(seed=seeds, spread=st.booleans())
@settings(max_examples=20)
def test_making_it_seamless_moves_the_end_to_the_beginning(seed: int, spread: bool) -> None:
    rig, rng = random_rig(seed), np.random.default_rng(seed)
    channel_ids = channel_ids_of(rig, range(len(rig.controls)))
    clip = Clip({channel_id: random_line(channel_id, rng) for channel_id in channel_ids}, 60.0)
    made = clip.seamless(spread=spread)
    assert not made.seams()
    for channel_id, line in made.lines.items():
        assert np.array_equal(line.values[0], clip.lines[channel_id].values[0])
        was = clip.lines[channel_id].values
        if spread and len(line) > 2 and line.values.shape[1] == 4:
            # SciPy's logarithm: each key is turned by its share of the way from end to beginning
            drift = (Rotation.from_quat(was[-1]).inv() * Rotation.from_quat(was[0])).as_rotvec()
            share = (line.frames - line.frames[0]) / (line.frames[-1] - line.frames[0])
            by = Rotation.from_rotvec(share[1:-1, None] * drift)
            wanted = Rotation.from_quat(was[1:-1]) * by
            assert angle_between(line.values[1:-1], wanted.as_quat()).max() < 1e-7
        if not spread and len(line) > 2:
            assert np.allclose(line.values[1:-1], clip.lines[channel_id].values[1:-1], atol=1e-12)


def test_what_a_clip_draws_of_itself_is_how_far_it_is_from_its_beginning() -> None:
    """Turns count by their angle and moves by their length, squared together, as shares."""
    turn = ChannelId(ChannelKind.TURN, "arm")
    move = ChannelId(ChannelKind.MOVE, "arm")
    half = np.sin(0.4), np.cos(0.4)
    lines = {
        turn: line_of(
            turn,
            np.array([0.0, 10.0]),
            np.array([[0, 0, 0, 1.0], [half[0], 0, 0, half[1]]]),
            Ease.LINEAR,
        ),
        move: line_of(
            move,
            np.array([0.0, 5.0, 10.0]),
            np.array([[0, 0, 0], [0, 0.6, 0], [0, 0.6, 0]]),
            Ease.LINEAR,
        ),
    }
    profile = Clip(lines, 10.0).profile
    middle = profile[len(profile) // 2]
    assert (profile[0], profile[-1]) == (0.0, pytest.approx(1.0))
    assert middle == pytest.approx(np.hypot(0.4, 0.6) / np.hypot(0.8, 0.6), abs=0.02)


@given(seed=seeds)
@settings(max_examples=20)
def test_a_span_cut_out_plays_as_it_did(seed: int) -> None:
    rig, rng = random_rig(seed), np.random.default_rng(seed)
    channel_ids = channel_ids_of(rig, range(len(rig.controls)))
    lines = {channel_id: random_line(channel_id, rng) for channel_id in channel_ids}
    lines = {
        channel_id: replace(line, eases=np.full(len(line), Ease.LINEAR, np.uint8))
        for channel_id, line in lines.items()
        if channel_id.kind is not ChannelKind.SETTING
        or not rig.settings[rig.setting_row[channel_id.name]].discrete
    }
    keys = Keys(lines)

    def value(channel_id: ChannelId, frame: float) -> np.ndarray:
        line = lines[channel_id]
        turn = channel_id.kind is ChannelKind.TURN
        return Track(line.frames, line.values, line.eases, turn).sample([frame])[0]

    clip = cut_out(keys, value, lines, (7.0, 29.0), 24.0)
    whole, part = Sampler(rig, keys), Sampler(rig, clip.keys)
    for frame in rng.uniform(7, 29, 8):
        one, other = whole.at(rig.rest, frame), part.at(rig.rest, frame - 7.0)
        assert np.abs(one.move - other.move).max() < 1e-9
        assert angle_between(one.turn, other.turn).max() < 1e-6


def line(*values: float, frames: tuple[float, ...] = (0, 10, 20), ease: Ease) -> ChannelCurve:
    rows = np.array(values)[:, None]
    eases = np.full(len(rows), int(ease), np.uint8)
    return ChannelCurve(np.array(frames, float), rows, eases, np.zeros(len(rows), np.int64))


def test_how_far_a_clip_is_from_its_beginning_adds_up_as_distances_do() -> None:
    """Three up, then four across: five away (Pythagoras)."""
    up = line(0.0, 0.3, 0.3, ease=Ease.LINEAR)
    across = line(0.0, 0.0, 0.4, ease=Ease.LINEAR)
    names = (ChannelId(ChannelKind.SETTING, name) for name in ("up", "across"))
    clip = Clip(dict(zip(names, (up, across), strict=True)), 20.0)
    profile = clip.profile
    assert (profile[0], profile[16], profile[32]) == (0.0, pytest.approx(0.6), 1.0)
    turned = Rotation.from_euler("x", [[0.0], [0.3], [0.3]]).as_quat()
    turning = ChannelCurve(up.frames, turned, up.eases, up.origins)
    both = Clip(
        {ChannelId(ChannelKind.TURN, "up"): turning, ChannelId(ChannelKind.SETTING, "x"): across},
        20.0,
    )
    assert both.profile == pytest.approx(profile, abs=1e-3)


def test_a_clip_backwards_goes_each_way_as_it_came() -> None:
    """Ease of a key says how it goes on from there; backwards, how it came there."""
    there = line(0.0, 1.0, 0.5, frames=(0, 4, 20), ease=Ease.LINEAR)
    there = replace(there, eases=np.array([Ease.STEP, Ease.LINEAR, Ease.SMOOTH], np.uint8))
    name = ChannelId(ChannelKind.SETTING, "x")
    back = Clip({name: there}, 20.0).reversed().lines[name]
    assert back.frames.tolist() == [0, 16, 20]
    assert back.values[:, 0].tolist() == [0.5, 1.0, 0.0]
    assert back.eases.tolist() == [Ease.LINEAR, Ease.STEP, Ease.SMOOTH]


def test_only_what_a_clip_has_is_taken_of_it() -> None:
    names = [ChannelId(ChannelKind.SETTING, name) for name in "abc"]
    clip = Clip({n: line(0.0, 1.0, 0.0, ease=Ease.LINEAR) for n in names[:2]}, 20.0)
    assert list(clip.only(names[1:]).lines) == [names[1]]


@pytest.mark.parametrize(
    ("repeats", "gap", "speed", "times", "length"),
    [
        (1.0, 0.0, 1.0, 1, 6),
        (2.0, 0.0, 1.0, 2, 12),
        (3.0, 4.0, 1.0, 3, 26),
        (2.5, 0.0, 1.0, 3, 15),
        (2.5, 4.0, 2.0, 3, 15.5),
        (0.25, 0.0, 1.0, 1, 1.5),
    ],
)
def test_a_block_is_as_long_as_its_times_and_the_gaps_between_them(
    marrow: Rig, repeats: float, gap: float, speed: float, times: int, length: float
) -> None:
    clip = replace(demo_clip("Blink"), length=6.0)
    made = instance(clip, repeats=repeats, gap=gap, speed=speed)
    assert made.once == 6.0 / speed
    assert made.starts.tolist() == [n * (made.once + gap) for n in range(times)]
    assert made.length == pytest.approx(length)
    assert made.end == pytest.approx(made.start + length)


def test_what_counts_along_a_block_is_what_moves_by_how_strongly_it_counts() -> None:
    clip = demo_clip("Walk loop")
    made = instance(clip, repeats=2.0, fade_in=4.0, fade_out=6.0, strength=0.5)
    assert made.envelope[0] == 0.0 and made.envelope.shape == (FINE + 1,)
    at = made.length * np.arange(FINE + 1) / FINE
    profile = np.array(clip.profile)
    along = np.array([made.clip_frame(float(a)) for a in at]) / clip.length
    moved = profile[np.round(along * (len(profile) - 1)).astype(int)]
    weights = np.array([made.weight(float(a)) for a in at])
    assert made.envelope == pytest.approx(moved * weights)
    strong = replace(made, strength=2.0)  # drawn no higher than a block at full strength
    assert strong.envelope == pytest.approx(2 * made.envelope)
    assert strong.envelope.max() <= 1.0 + 1e-9
    assert (replace(made, strength=-1.0).envelope == 0).all()
