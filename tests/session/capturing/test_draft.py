"""Where a card belongs by what it holds, and what a moving picture shows of a clip."""

from __future__ import annotations

import numpy as np
import pytest

from fox_hand.core.animation.clip import Clip
from fox_hand.core.animation.curves import ChannelId, ChannelKind
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.animation.sampler import line_of
from fox_hand.core.model.controls import Channel, ControlKind, Region
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.capturing.capture_pictures import MOST, motion_frames
from fox_hand.session.capturing.draft import CaptureDraft


@pytest.mark.parametrize(
    ("names", "region", "side"),
    [
        (("finger_index_1_L", "finger_thumb_1_L"), Region.HANDS, "left"),
        (("finger_index_1_L", "finger_index_1_R"), Region.HANDS, "both"),
        (("arm_L", "forearm_L", "finger_index_1_L"), Region.ARMS, "left"),
        (("arm_L", "thigh_L"), Region.ARMS, "left"),
        (("arm_L", "thigh_L", "head"), Region.TORSO, "left"),
        (("arm_L", "thigh_R", "head"), Region.TORSO, "centre"),
        (("spine_1", "chest"), Region.TORSO, "centre"),
        (("hand_L", "finger_index_1_L", "eye_L", "jaw"), Region.HANDS, "left"),  # no body in it
        (("eye_L", "jaw"), Region.HEAD, "left"),
    ],
)
def test_a_card_belongs_where_most_of_it_is(
    workspace: Workspace, names: tuple[str, ...], region: Region, side: str
) -> None:
    actor = workspace.actor
    assert actor is not None
    draft = CaptureDraft(actor, tuple(actor.rig.control_row[n] for n in names))
    assert (draft.region, draft.side) == (region, side)


def clip(length: float, *, loops: bool) -> Clip:
    move = ChannelId(ChannelKind.MOVE, "arm")
    end = 0.0 if loops else 1.0
    values = np.array([[0.0, 0, 0], [0.5, 0, 0], [end, 0, 0]])
    line = line_of(move, np.array([0.0, length / 2, length]), values, Ease.LINEAR)
    return Clip({move: line}, length, 24.0)


def test_the_last_frame_of_a_loop_is_its_first_and_not_shown_twice() -> None:
    frames, rate = motion_frames(clip(10.0, loops=True))
    assert (frames, rate) == ([float(f) for f in range(10)], 24.0)
    frames, rate = motion_frames(clip(10.0, loops=False))
    assert frames[-1] == 10.0
    long, slower = motion_frames(clip(10.0 * MOST, loops=False))
    assert len(long) <= MOST
    assert slower == pytest.approx(24.0 * (long[0] + 1) / (long[1] - long[0]))


def test_where_a_joint_was_moved_only_its_place_goes_in(workspace: Workspace) -> None:
    actor = workspace.actor
    assert actor is not None
    rig = actor.rig
    joints = (r for r, c in enumerate(rig.controls) if c.kind is ControlKind.JOINT)
    rows = [r for r in joints if Channel.MOVE in rig.controls[r].channels][:3]
    assert len(rows) == 3
    plain = CaptureDraft(actor, tuple(rows)).choice.channels
    assert all(Channel.MOVE not in plain.get(r, ()) for r in rows)
    move = actor.state.move.copy()
    move[rows[2], 1] = -0.02
    workspace.apply("Pull", actor.state.with_(move=move))
    held = CaptureDraft(actor, tuple(rows)).choice.channels
    moved = [r for r in rows if Channel.MOVE in held.get(r, ())]
    assert moved == rows[2:]
