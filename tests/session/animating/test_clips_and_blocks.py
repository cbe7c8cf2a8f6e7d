"""Clips cut from the shot and blocks in numbers: what moves, where they lie, what they become."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.core.animation.curves import ChannelId, ChannelKind, Origin
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.maths.rotations import angle_between, from_vector
from fox_hand.core.model.controls import Side
from fox_hand.library.format.container import read_card
from fox_hand.session.animating.clip_placement import ClipPlacement
from fox_hand.session.animating.clips import captured_clip, clip_on, moving, pose_at
from fox_hand.session.app.workspace import Workspace
from tests.session.conftest import entry

JAW = "jaw_open"


def key_at(workspace: Workspace, frame: float, *, head: float = 0.0, jaw: float = 0.0) -> None:
    actor = workspace.actor
    assert actor is not None
    workspace.go(frame)
    turn, settings = actor.state.turn.copy(), actor.state.settings.copy()
    turn[actor.rig.control_row["head"]] = from_vector(np.array([0.0, head, 0.0]))
    settings[actor.rig.setting_row[JAW]] = jaw
    workspace.apply("Pose", actor.state.with_(turn=turn, settings=settings))
    workspace.keying.key(everything=True)


def laid(workspace: Workspace, name: str, frame: float = 5.0) -> ClipPlacement:
    workspace.go(frame)
    card = read_card(entry(workspace, name).path)[0]
    assert card.clip is not None
    placement = workspace.placements.begin(card.clip, Origin(card.identity, card.name))
    assert placement is not None
    return placement


def test_what_moves_within_a_span_is_known_with_how_far(workspace: Workspace) -> None:
    key_at(workspace, 1.0)
    key_at(workspace, 11.0, head=0.4, jaw=0.5)
    key_at(workspace, 21.0, head=0.4, jaw=0.9)
    actor = workspace.actor
    assert actor is not None
    whole = moving(actor.rig, actor.take, (1.0, 21.0))
    assert {c.name: c.kind for c in whole} == {
        "head": ChannelKind.TURN,
        JAW: ChannelKind.SETTING,
    }
    far = {c.name: value for c, value in whole.items()}
    assert far["head"] == pytest.approx(0.4, abs=0.05) and far[JAW] == pytest.approx(0.9)
    assert {c.name for c in moving(actor.rig, actor.take, (11.0, 21.0))} >= {JAW}
    assert moving(actor.rig, actor.take, (21.0, 22.0)) == {}
    assert moving(actor.rig, actor.take, (40.0, 40.0)) == {}
    laid(workspace, "Blink", 30.0)
    workspace.placements.keep()
    lids = {c.name for c in moving(actor.rig, actor.take, (30.0, 40.0))}
    assert lids == {"lid_shut_L", "lid_shut_R"}


def test_keys_stay_keys_and_what_only_blocks_move_has_one_a_frame(workspace: Workspace) -> None:
    key_at(workspace, 1.0)
    key_at(workspace, 11.0, head=0.4)
    key_at(workspace, 21.0, head=0.1)
    laid(workspace, "Blink", 5.0)
    workspace.placements.keep()
    actor = workspace.actor
    assert actor is not None
    wanted = [ChannelId(ChannelKind.TURN, "head"), ChannelId(ChannelKind.SETTING, "lid_shut_L")]
    clip = captured_clip(actor.rig, actor.take, wanted, (5.0, 15.0), 24.0)
    assert (clip.length, clip.rate) == (10.0, 24.0)
    head, lid = clip.lines[wanted[0]], clip.lines[wanted[1]]
    assert head.frames.tolist() == [0.0, 6.0, 10.0]
    assert lid.frames.tolist() == [float(f) for f in range(11)]
    assert set(lid.eases.tolist()) == {int(Ease.LINEAR)}
    row, setting = actor.rig.control_row["head"], actor.rig.setting_row["lid_shut_L"]
    for inside in range(11):
        shown = actor.take.at(5.0 + inside)
        assert lid.values[inside, 0] == pytest.approx(shown.settings[setting])
    for inside, value in zip((0.0, 6.0, 10.0), head.values, strict=True):
        assert angle_between(actor.take.at(5.0 + inside).turn[row], value) < 1e-9


def test_a_clip_s_pose_at_a_frame_is_what_is_played_there(workspace: Workspace) -> None:
    card = read_card(entry(workspace, "Walk loop").path)[0]
    actor, clip = workspace.actor, card.clip
    assert actor is not None and clip is not None
    block = laid(workspace, "Walk loop", 1.0)
    block.change(fade_in=0.0, fade_out=0.0)
    for inside in (0.0, 7.0, clip.length):
        pose = pose_at(card, inside)
        shown = actor.take.at(1.0 + inside)
        for name, held in pose.controls.items():
            row = actor.rig.control_row[name]
            if held.turn is not None:
                assert angle_between(np.array(held.turn), shown.turn[row]) < 1e-6
            if held.move is not None:
                assert np.allclose(held.move, shown.move[row], atol=1e-9)
            for setting, value in held.settings.items():
                assert shown.settings[actor.rig.setting_row[setting]] == pytest.approx(value)


def test_a_clip_of_nothing_that_is_there_is_refused(workspace: Workspace) -> None:
    card, actor = read_card(entry(workspace, "Nod").path)[0], workspace.actor
    assert actor is not None and card.clip is not None
    lines = {ChannelId(c.kind, f"no {c.name}"): x for c, x in card.clip.lines.items()}
    with pytest.raises(FoxHandError) as caught:
        clip_on(replace(card, clip=replace(card.clip, lines=lines)), actor)
    assert caught.value.code == "clip.nothing_lands"
    one = next(iter(card.clip.lines))
    some = replace(card.clip, lines={**lines, one: card.clip.lines[one]})
    assert list(clip_on(replace(card, clip=some), actor).lines) == [one]


def test_what_begins_at_rest_lies_on_top_and_the_rest_fades(workspace: Workspace) -> None:
    blink = laid(workspace, "Blink").instance
    assert (blink.on_top, blink.fade_in, blink.fade_out, blink.start) == (True, 0.0, 0.0, 5.0)
    walk = laid(workspace, "Walk loop").instance
    assert (walk.on_top, walk.fade_in, walk.fade_out) == (False, 4.0, 4.0)
    assert workspace.history.undo_label == "Lay in Blink"  # the one before was kept
    short = replace(walk.clip, length=10.0)
    placement = workspace.placements.begin(short, walk.origin)
    assert placement is not None and placement.instance.fade_in == 2.0
    # of another rate it takes as long in seconds
    workspace.shot_settings.set_rate(48.0)
    twice = workspace.placements.begin(replace(walk.clip, rate=24.0), walk.origin)
    assert twice is not None and twice.instance.clip.length == 2 * walk.clip.length
    workspace.placements.put_back()


def test_a_block_takes_only_numbers_that_make_sense(workspace: Workspace) -> None:
    placement = laid(workspace, "Nod")
    for wrong in ({"repeats": 0.0}, {"speed": 0.01}, {"speed": 21.0}, {"start": -1.0}):
        before = placement.instance
        placement.change(**wrong)
        assert placement.instance is before
    for right in ({"repeats": 0.5}, {"speed": 0.05}, {"speed": 20.0}, {"start": 0.0}):
        placement.change(**right)
        assert {k: getattr(placement.instance, k) for k in right} == right


def test_one_block_is_under_the_hand_and_each_change_is_one_step(workspace: Workspace) -> None:
    laid(workspace, "Nod")
    laid(workspace, "Blink", 20.0)
    placements = workspace.placements
    first = placements.take_up(0)
    assert first is not None and not first.fresh and placements.take_up(0) is first
    first.change(speed=2.0)
    second = placements.take_up(1)
    assert second is not None and workspace.history.undo_label == "Change Nod"
    steps = workspace.history.undo_step
    assert placements.take_up(2) is None and placements.take_up(-1) is None
    assert placements.now is second
    placements.keep()  # nothing was changed: no step
    assert workspace.history.undo_step is steps and placements.now is None
    workspace.undo()
    actor = workspace.actor
    assert actor is not None and [i.speed for i in actor.take.instances] == [1.0, 1.0]


@pytest.mark.parametrize(
    "fields",
    [
        {},
        {"speed": 2.0},
        {"speed": 0.5, "repeats": 2.0, "gap": 3.0},
        {"backwards": True},
        {"lead": 2.0, "lead_side": Side.LEFT},
        {"lead": -3.0, "lead_side": Side.RIGHT, "strength": 0.5},
        {"fade_in": 3.0, "fade_out": 5.0, "on_top": False},
    ],
)
def test_as_keys_it_shows_at_its_keys_what_it_showed_as_a_block(
    workspace: Workspace, fields: dict[str, object]
) -> None:
    key_at(workspace, 1.0, head=0.2)
    key_at(workspace, 60.0, head=0.2)
    placement = laid(workspace, "Blink", 10.0)
    placement.change(**fields)
    block, actor = placement.instance, workspace.actor
    assert actor is not None
    shown = {float(f): actor.take.at(float(f)) for f in range(1, 60)}
    workspace.placements.keep()
    assert workspace.placements.take_up(0) is not None
    workspace.placements.as_keys()
    assert workspace.history.undo_label == "Blink as keys" and not actor.take.instances
    lids = {c.name: line for c, line in actor.keys.lines.items() if c.name.startswith("lid_shut")}
    assert set(lids) == {"lid_shut_L", "lid_shut_R"}
    for name, line in lids.items():
        row = actor.rig.setting_row[name]
        inside = [f for f in line.frames.tolist() if 1.0 < f < 60.0]
        # the side that is ahead has its first key that much earlier
        assert min(inside) == pytest.approx(block.start - max(block.lead, 0.0), abs=1)
        assert max(inside) <= block.end + 0.5
        wanted = {float(round(block.start)), float(round(block.end))}
        if block.fade_in:
            wanted |= {block.start + block.fade_in, round(block.end - block.fade_out)}
        assert wanted <= set(inside)
        for frame in inside:
            now = actor.take.at(frame).settings[row]
            assert now == pytest.approx(shown[frame].settings[row], abs=1e-9)
        # where the lid is most shut there is a key
        most = max(shown, key=lambda f: shown[f].settings[row])
        value = max(actor.take.at(f).settings[row] for f in inside)
        assert value == pytest.approx(shown[most].settings[row], abs=0.35)
    workspace.undo()
    assert actor.take.instances == (block,)


def test_as_keys_it_takes_the_place_of_the_keys_it_lay_over(workspace: Workspace) -> None:
    before = [1.0, 10.0, 11.0, 12.0, 13.0, 60.0]
    for frame in before:
        key_at(workspace, frame, head=0.2)
    actor = workspace.actor
    assert actor is not None
    block = laid(workspace, "Blink", 10.0).instance
    first, last = round(block.start), round(block.end)
    own = {first + f for f in block.clip.frames.tolist()} | {first, last}
    assert first == 10 and last >= 13 and not {11.0, 12.0, 13.0} <= own
    workspace.placements.as_keys()
    lid = actor.keys.lines[ChannelId(ChannelKind.SETTING, "lid_shut_L")].frames.tolist()
    assert set(lid) == {1.0, 60.0} | own
    head = actor.keys.lines[ChannelId(ChannelKind.TURN, "head")].frames.tolist()
    assert head == before  # which the clip does not hold
