"""Keys of a file stand in the shot where they stand in the file, as long as they say it all."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pygltflib as gl
import pytest
from scipy.interpolate import CubicHermiteSpline
from scipy.spatial.transform import Rotation

from fox_hand.core.animation.clip import Clip, Player, mapped
from fox_hand.core.animation.curves import ChannelCurve, ChannelId, ChannelKind, Keys, one_key
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.animation.sampler import line_of
from fox_hand.core.pose.sides import Sides, sided
from fox_hand.core.retarget.transfer import FollowOptions
from fox_hand.interchange.motions import motion_bytes, read_performance
from fox_hand.interchange.readers import read_rig
from fox_hand.library.format.lines_file import kept_lines, lines_from
from fox_hand.session.animating.key_edits import held, stretched
from fox_hand.session.animating.key_groups import key_groups_of
from fox_hand.session.animating.performance_draft import PerformanceDraft
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.exporting.motion_export import shot_motion
from fox_hand.session.figures.animation import Animation
from fox_hand.session.figures.figure import Figure
from tests.interchange.test_foreign_motion import two_joints

HEAD = ChannelId(ChannelKind.TURN, "head")
NECK = ChannelId(ChannelKind.TURN, "neck")
JAW = ChannelId(ChannelKind.TURN, "jaw")
LAST = 24


def turns(*degrees: float) -> np.ndarray:
    return Rotation.from_euler("x", np.array(degrees)[:, None], degrees=True).as_quat()


def keyed() -> dict[ChannelId, ChannelCurve]:
    """Three ways to go on, with keys far apart."""
    return {
        HEAD: line_of(HEAD, np.array([0.0, 9, LAST]), turns(0, 30, -20), Ease.SMOOTH),
        NECK: line_of(NECK, np.array([0.0, LAST]), turns(5, 25), Ease.LINEAR),
        JAW: line_of(JAW, np.array([0.0, 12, LAST]), turns(0, 20, 10), Ease.STEP),
    }


def brought_in(workspace: Workspace, path: Path, span: tuple[int, int] | None = None) -> Keys:
    """Laid in from the shot's frame in sight, through the fit."""
    draft = PerformanceDraft(
        read_performance(path), "file", workspace.actor, {}, FollowOptions(feet=False)
    )
    if span is not None:
        draft.set_span(*span)
    sequence = draft.sequence()
    assert sequence is not None
    workspace.review.open(sequence)
    assert workspace.review.lay() > 0
    return workspace.actor.keys


@pytest.fixture
def file(workspace: Workspace, tmp_path: Path) -> Path:
    lines = keyed()
    rig = workspace.actor.rig
    motion = shot_motion(Animation(rig, rig.rest, Keys(lines)), "acts", (0.0, LAST), 24.0)
    path = tmp_path / "acts.glb"
    path.write_bytes(motion_bytes(".glb", rig, motion)[0])
    return path


def test_what_left_with_keys_comes_back_with_the_same(workspace: Workspace, file: Path) -> None:
    workspace.timing.set_rate(24.0)
    start = workspace.timing.frame
    keys = brought_in(workspace, file)
    for channel, line in keyed().items():
        found = keys.lines[channel]
        assert found.frames.tolist() == (line.frames + start).tolist(), channel
        assert found.eases.tolist() == line.eases.tolist()
        off = np.abs(np.abs(found.values) - np.abs(line.values)).max()
        assert off < 1e-6


def test_a_part_begins_and_ends_with_keys_of_its_own(workspace: Workspace, file: Path) -> None:
    workspace.timing.set_rate(24.0)
    start = workspace.timing.frame
    keys = brought_in(workspace, file, (6, 20))
    neck = keys.lines[NECK]  # straight: its ends say all of it
    assert (neck.frames - start).tolist() == [0, 14]
    # a spline that was cut has other slopes than its keys alone would give: one key a frame
    head = keys.lines[HEAD]
    assert (head.frames - start).tolist() == list(range(15))
    whole = read_performance(file)
    row = whole.rig.control_row["head"]
    assert np.abs(np.abs(head.values) - np.abs(whole.states.turn[6:21, row])).max() < 1e-9


def test_at_another_rate_each_frame_is_a_key(workspace: Workspace, file: Path) -> None:
    workspace.timing.set_rate(30.0)
    keys = brought_in(workspace, file)
    assert len(keys.lines[HEAD]) == 31
    workspace.undo()
    workspace.timing.set_rate(48.0)  # twice as many: all keys stand on whole frames again
    start = workspace.timing.frame
    assert (brought_in(workspace, file).lines[HEAD].frames - start).tolist() == [0, 18, 48]


SPLINE = np.random.default_rng(3).normal(0, 1, (9, 3))  # arriving, value, leaving
UPPER = ChannelId(ChannelKind.MOVE, "upper")
BENT = ChannelId(ChannelKind.TURN, "upper")


def splines(path: Path) -> Path:
    """Moves, sizes and turns as splines whose slopes nobody would guess."""
    rng = np.random.default_rng(4)
    turned = rng.normal(0, 1, (9, 4))
    turned[1::3] = Rotation.from_rotvec(rng.normal(0, 0.7, (3, 3))).as_quat()
    return two_joints(path, translation=SPLINE, scale=1.5 + 0.1 * SPLINE, rotation=turned)


def outputs(path: Path) -> dict[str, tuple[str, np.ndarray]]:
    """Of every channel of the first animation how it goes on, and its numbers, read by others."""
    found = gl.GLTF2().load(str(path))
    data, made = found.binary_blob(), found.animations[0]
    numbers = {}
    for channel in made.channels:
        sampler = made.samplers[channel.sampler]
        accessor = found.accessors[sampler.output]
        start = found.bufferViews[accessor.bufferView].byteOffset + (accessor.byteOffset or 0)
        width = {"SCALAR": 1, "VEC3": 3, "VEC4": 4}[accessor.type]
        flat = np.frombuffer(data, "<f4", accessor.count * width, start)
        numbers[channel.target.path] = (sampler.interpolation, flat.reshape(-1, width))
    return numbers


def test_splines_keep_their_slopes_through_the_shot_its_file_and_out_again(
    workspace: Workspace, tmp_path: Path
) -> None:
    path = splines(tmp_path / "a.glb")
    actor = Figure(read_rig(path), path)
    workspace.place(actor)
    workspace.timing.set_rate(48.0)  # twice the file's: slopes are half as steep a frame
    keys = brought_in(workspace, path)
    assert {len(line) for line in keys.lines.values()} == {3}
    start = workspace.timing.frame
    times = np.array([0.05, 0.3, 0.77, 1.0])  # between frames of the file, too
    found = actor.take.many(start + times * 48.0)
    row = actor.rig.control_row["upper"]
    keyed_at = (keys.lines[UPPER].frames - start) / 48.0
    away = SPLINE[1::3] - actor.rig.skeleton.translation[actor.rig.controls[row].node]
    for at, seen in zip(times, found.move[:, row], strict=True):
        one = int(np.searchsorted(keyed_at, at)) - 1
        ends = [SPLINE[2::3][one], SPLINE[0::3][one + 1]]
        own = CubicHermiteSpline(keyed_at[one : one + 2], away[one : one + 2], ends)
        assert seen == pytest.approx(own(at), abs=1e-5)
    (written,) = lines_from(kept_lines({BENT: keys.lines[BENT]})).values()
    assert np.array_equal(written.slopes, keys.lines[BENT].slopes)
    span = (start, start + keyed_at[-1] * 48.0)
    data, _ = motion_bytes(".glb", actor.rig, shot_motion(actor.take, "out", span, 48.0))
    (tmp_path / "out.glb").write_bytes(data)
    before, after = outputs(path), outputs(tmp_path / "out.glb")
    for kind, (way, numbers) in before.items():
        assert (way, after[kind][0]) == ("CUBICSPLINE", "CUBICSPLINE"), kind
        same = np.minimum(np.abs(after[kind][1] - numbers), np.abs(after[kind][1] + numbers))
        assert same.max() < 2e-5, kind


def test_slopes_follow_what_is_done_to_their_keys(workspace: Workspace, tmp_path: Path) -> None:
    """Stretched, run backwards, held, gone on from otherwise, keyed anew."""
    path = splines(tmp_path / "a.glb")
    actor = Figure(read_rig(path), path)
    workspace.place(actor)
    workspace.timing.set_rate(24.0)
    start = workspace.timing.frame
    line = brought_in(workspace, path).lines[UPPER]
    line = replace(line, frames=line.frames - start)
    keys, last = Keys({UPPER: line}), float(line.frames[-1])
    at = np.linspace(0, last, 41)
    wide = stretched(keys, {UPPER: line.frames}, 0.0, 2.0).lines[UPPER]
    assert wide.track.sample(2 * at) == pytest.approx(line.track.sample(at))
    back = Clip({UPPER: line}, last).reversed().lines[UPPER]
    assert back.track.sample(last - at) == pytest.approx(line.track.sample(at))
    middle = float(line.frames[1])
    (group, *_) = [g for g in key_groups_of(keys, [UPPER]) if g.frame == middle]
    still = held(keys, group, middle + 6).lines[UPPER]
    rest = still.track.sample(np.linspace(middle, middle + 6, 9))
    assert rest == pytest.approx(np.tile(line.values[1], (9, 1)))
    assert still.track.sample(at[at < middle]) == pytest.approx(line.track.sample(at[at < middle]))
    plain = keys.eased({UPPER: line.frames[:1]}, Ease.SMOOTH).lines[UPPER]
    assert not np.allclose(plain.track.sample([3.0]), line.track.sample([3.0]), atol=1e-3)
    later = np.linspace(middle, last, 9)  # the way on from the next key is as it was
    assert plain.track.sample(later) == pytest.approx(line.track.sample(later))
    anew = keys.with_lines({UPPER: one_key(middle, np.ones(3), Ease.SMOOTH)}).lines[UPPER]
    assert np.isnan(anew.slopes[1]).all() and not np.isnan(anew.slopes[[0, 2]]).any()


def test_a_clip_of_splines_is_mirrored_and_closed_between_its_keys_too(
    workspace: Workspace, tmp_path: Path
) -> None:
    rng = np.random.default_rng(8)
    rig = workspace.actor.rig
    turn = line_of(NECK, np.array([0.0, 8, LAST]), turns(0, 30, -20), Ease.SMOOTH)
    slopes = rng.normal(0, 0.004, (3, 2, 4))
    along = turn.values[:, None]  # what makes a quaternion longer turns nothing
    slopes -= (slopes * along).sum(-1, keepdims=True) * along
    turn = replace(turn, slopes=slopes)
    clip = Clip({NECK: turn}, LAST)
    other = mapped(clip, rig, lambda pose: sided(rig, pose, Sides.OTHER))
    row = rig.control_row["neck"]
    for at in (0.0, 3.5, 8.0, 17.2):
        wanted = sided(rig, Player(rig, clip).at(at), Sides.OTHER)
        assert wanted.turn_rows.tolist() == [row]
        seen = other.lines[NECK].track.sample([at])[0]
        assert np.abs(np.abs(seen @ wanted.turn[0]) - 1) < 1e-8, at
    closed = clip.seamless().lines[NECK]
    drift = Rotation.from_quat(turn.values[-1]).inv() * Rotation.from_quat(turn.values[0])
    for at in (3.5, 17.2):
        way = Rotation.from_rotvec(drift.as_rotvec() * at / LAST)
        wanted_turn = Rotation.from_quat(turn.track.sample([at])[0]) * way
        off = Rotation.from_quat(closed.track.sample([at])[0]).inv() * wanted_turn
        assert np.degrees(off.magnitude()) < 0.2, at
