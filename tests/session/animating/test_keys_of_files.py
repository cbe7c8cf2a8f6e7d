"""Keys of a file stand in the shot where they stand in the file, as long as they say it all."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from fox_hand.core.animation.curves import ChannelCurve, ChannelId, ChannelKind, Keys
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.animation.sampler import line_of
from fox_hand.core.retarget.transfer import FollowOptions
from fox_hand.interchange.motions import motion_bytes, read_performance
from fox_hand.interchange.readers import read_rig
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


def test_slopes_that_are_not_ours_are_kept_frame_by_frame(
    workspace: Workspace, tmp_path: Path
) -> None:
    table = np.random.default_rng(3).normal(0, 1, (9, 3))  # arriving, value, leaving
    path = two_joints(tmp_path / "a.glb", translation=table)
    workspace.place(Figure(read_rig(path), path))
    workspace.timing.set_rate(24.0)
    keys = brought_in(workspace, path)
    line = keys.lines[ChannelId(ChannelKind.MOVE, "upper")]
    found = read_performance(path, 24.0)
    assert len(line) == len(found) == 31
    assert line.values == pytest.approx(found.states.move[:, found.rig.control_row["upper"]])
