"""Clips on other characters and other sides; files with motion through a shot and out again."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from fox_hand.base.places import Places
from fox_hand.core.animation.clip import Clip
from fox_hand.core.animation.clip_instances import ClipInstance
from fox_hand.core.animation.curves import ChannelId, ChannelKind, Origin
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.animation.motion import motion_of
from fox_hand.core.animation.sampler import line_of
from fox_hand.core.matching.name_match import Rule, Rules
from fox_hand.core.matching.renaming import renamed_clip
from fox_hand.core.maths.rotations import angle_between
from fox_hand.core.pose.sides import Sides
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.motions import motion_bytes, read_performance
from fox_hand.interchange.readers import read_rig
from fox_hand.interchange.units import UNITS
from fox_hand.library.format.container import read_card
from fox_hand.session.animating.clips import captured_clip, clip_for, mirrored_clip, moving, pose_at
from fox_hand.session.animating.frame_sequence import FrameSequence
from fox_hand.session.animating.motion_import import laid_on, pairs_of
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.exporting.motion_export import shot_motion
from fox_hand.session.figures.animation import Animation
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.rig_files import keep_unit
from tests.bodies import Build, body_rig
from tests.core.naming.test_roles import FAMILIES
from tests.session.conftest import entry

CAST = shipped() / "cast"


def test_a_wave_on_quill_points_the_arm_where_marrow_points_it(workspace: Workspace) -> None:
    made = entry(workspace, "Wave loop")
    card = read_card(made.path)[0]
    marrow = workspace.actor.rig
    quill = workspace.open_rig(workspace.actor.path.with_name("quill.glb"))
    clip = clip_for(made, card, quill, workspace.mix_commands.fits)
    assert not clip.seams()
    take = Animation(quill.rig, quill.rig.rest, clip.keys)
    own = Animation(marrow, marrow.rest, card.clip.keys)

    def forearm(take_: Animation, frame: float, upper: str, lower: str) -> np.ndarray:
        at = take_.rig.evaluate(take_.at(frame))
        names = take_.rig.skeleton.names
        way = at.nodes[names.index(lower), :3, 3] - at.nodes[names.index(upper), :3, 3]
        return way / np.linalg.norm(way)

    for frame in card.clip.frames.tolist():
        here = forearm(take, frame, "LeftLowerArm", "LeftHand")
        there = forearm(own, frame, "forearm_L", "hand_L")
        assert np.degrees(np.arccos(np.clip(here @ there, -1, 1))) < 1.0
    assert len(pose_at(card, 5.0)) == len(card.pose)


def test_a_clip_on_the_other_side_is_the_mirror_image_at_every_key(workspace: Workspace) -> None:
    card, rig = read_card(entry(workspace, "Wave loop").path)[0], workspace.actor.rig
    other = mirrored_clip(rig, card.clip, Sides.OTHER)
    assert {channel_id.name[-1] for channel_id in other.lines} == {"R"}
    again = mirrored_clip(rig, other, Sides.OTHER)
    for channel_id, line in card.clip.lines.items():
        assert np.allclose(again.lines[channel_id].frames, line.frames)
        assert angle_between(again.lines[channel_id].values, line.values).max() < 1e-6
    both = mirrored_clip(rig, card.clip, Sides.BOTH)
    assert len(both.lines) == 2 * len(card.clip.lines)


def test_a_performance_of_marrow_on_quill_points_the_arms_the_same(
    workspace: Workspace, tmp_path: Path
) -> None:
    """Another house's names, axes and T-pose; within 1 degree, as poses are fitted."""
    marrow = workspace.actor.rig
    clip = read_card(entry(workspace, "Wave loop").path)[0].clip
    path = tmp_path / "wave.glb"
    motion = shot_motion(Animation(marrow, marrow.rest, clip.keys), "wave", (0.0, 20.0), 24.0)
    path.write_bytes(motion_bytes(".glb", marrow, motion)[0])
    quill = read_rig(CAST / "quill.glb")
    found = read_performance(path, 24.0)
    one, other = found.rig.evaluate(found.states), quill.evaluate(laid_on(found, quill))
    for here, there in (
        (("LeftUpperArm", "LeftLowerArm"), ("arm_L", "forearm_L")),
        (("LeftLowerArm", "LeftHand"), ("forearm_L", "hand_L")),
        (("RightUpperArm", "RightLowerArm"), ("arm_R", "forearm_R")),
    ):
        ways = []
        for rig, at, names in ((found.rig, one, there), (quill, other, here)):
            a, b = (rig.skeleton.names.index(n) for n in names)
            way = at.nodes[:, b, :3, 3] - at.nodes[:, a, :3, 3]
            ways.append(way / np.linalg.norm(way, axis=-1, keepdims=True))
        cosine = np.clip((ways[0] * ways[1]).sum(-1), -1, 1)
        assert np.degrees(np.arccos(cosine)).max() < 1.0


def test_renaming_controls_renames_what_a_clip_moves(workspace: Workspace) -> None:
    clip = read_card(entry(workspace, "Nod").path)[0].clip
    found = renamed_clip(clip, Rules((Rule("head", "skull"),)))
    assert ChannelId(ChannelKind.TURN, "skull") in found.lines
    assert len(found.lines) == len(clip.lines)


@pytest.mark.parametrize("kind", [".glb", ".usda"])
def test_motion_through_a_shot_and_out_again_is_the_same(
    workspace: Workspace, tmp_path: Path, kind: str
) -> None:
    """glTF -> shot -> glTF within 1e-4; USD keeps scales as half floats."""
    actor = workspace.actor
    clip = read_card(entry(workspace, "Walk loop").path)[0].clip
    first = tmp_path / f"first{kind}"
    walk = Animation(actor.rig, actor.rig.rest, clip.keys)
    motion = shot_motion(walk, "walk", (0.0, 24.0), 24.0)
    first.write_bytes(motion_bytes(kind, actor.rig, motion)[0])
    found = read_performance(first, 24.0)
    sequence = FrameSequence(actor, laid_on(found, actor.rig), found.rate, "walk")
    workspace.review.open(sequence)
    assert workspace.review.lay() == 25
    out = shot_motion(actor.take, "walk", (1.0, 25.0), 24.0)
    second = tmp_path / f"second{kind}"
    second.write_bytes(motion_bytes(kind, actor.rig, out)[0])
    back = read_performance(second, 24.0)
    one = found.rig.evaluate(found.states).nodes
    other = back.rig.evaluate(back.states).nodes
    limit = 1e-4 if kind == ".glb" else 2e-3
    assert np.abs(one - other).max() < limit * actor.rig.height


def test_a_bvh_through_a_shot_and_out_again_is_the_same(places: Places, tmp_path: Path) -> None:
    source = tmp_path / "on_deck.bvh"
    demo = read_performance(shipped() / "performance" / "on_deck.bvh")  # Z up there, Y up here
    upright = motion_of("deck", demo.rig, demo.states, demo.rate)
    source.write_bytes(motion_bytes(".bvh", demo.rig, upright)[0])
    keep_unit(source, UNITS["centimetres"])
    workspace = Workspace(places)
    actor = workspace.place(Figure(read_rig(source), source))
    found = read_performance(source)
    workspace.timing.set_rate(found.rate)
    workspace.review.open(FrameSequence(actor, laid_on(found, actor.rig), found.rate, "deck"))
    count = workspace.review.lay()
    assert count == len(found)
    out = shot_motion(actor.take, "deck", (1.0, float(count)), found.rate)
    path = tmp_path / "again.bvh"
    path.write_bytes(motion_bytes(".bvh", actor.rig, out)[0])
    back = read_performance(path)
    one, other = (p.rig.evaluate(p.states).nodes for p in (found, back))
    assert np.abs(one - other).max() < 1e-4 * actor.rig.height
    assert replace(found).rate == pytest.approx(back.rate, rel=1e-6)


def test_what_only_a_block_moves_is_captured_frame_by_frame(workspace: Workspace) -> None:
    """Also of the first control of the rig, whose row is 0."""
    rig, rate = workspace.actor.rig, 24.0
    root = ChannelId(ChannelKind.MOVE, rig.controls[0].name)
    stays = ChannelId(ChannelKind.TURN, rig.controls[0].name)
    way = np.array([[0.0, 0.0, 0.0], [0.3, 0.0, 0.1], [0.0, 0.0, 0.0]])
    upright = np.tile([0.0, 0.0, 0.0, 1.0], (3, 1))
    frames = np.array([0.0, 6.0, 12.0])
    lines = {
        root: line_of(root, frames, way, Ease.SMOOTH),
        stays: line_of(stays, frames, upright, Ease.SMOOTH),
    }
    hop = ClipInstance(Clip(lines, 12.0, rate), Origin("", "Hop"), start=5.0)
    take = Animation(rig, rig.rest, instances=(hop,))
    far = moving(rig, take, (1.0, 20.0))
    assert list(far) == [root]  # what stands still is none of it
    assert far[root] == pytest.approx(0.3)
    clip = captured_clip(rig, take, far, (5.0, 17.0), rate)
    line = clip.lines[root]
    assert line.frames.tolist() == list(range(13))
    for number, frame in enumerate(range(5, 18)):
        assert np.allclose(line.values[number], take.at(float(frame)).move[0], atol=1e-12)


def test_a_fitted_clip_goes_on_as_most_of_its_keys_do(workspace: Workspace) -> None:
    made = entry(workspace, "Wave loop")
    card = read_card(made.path)[0]
    quill = workspace.open_rig(workspace.actor.path.with_name("quill.glb"))
    frames = card.clip.frames
    straight = {
        channel_id: line.with_ease(np.arange(len(line)), Ease.LINEAR)
        for channel_id, line in card.clip.lines.items()
    }
    held = {
        channel_id: line.with_ease(np.flatnonzero(line.frames == frames[0]), Ease.STEP)
        for channel_id, line in straight.items()
    }
    for lines, first in ((straight, Ease.LINEAR), (held, Ease.STEP)):
        own = replace(card, clip=replace(card.clip, lines=lines))
        fitted = clip_for(made, own, quill, workspace.mix_commands.fits)
        for line in fitted.lines.values():
            assert line.eases[0] == first
            assert set(line.eases[1:].tolist()) <= {Ease.LINEAR}


@pytest.mark.parametrize("there", list(FAMILIES))
def test_joints_go_by_what_they_are_where_two_families_share_names(there: str) -> None:
    """LeftShoulder is the collar in one and the upper arm in the other; so are Leg and Chest."""
    source = body_rig(Build(), FAMILIES[there])
    for here in FAMILIES:
        rig = body_rig(Build(height=1.2), FAMILIES[here])
        found = pairs_of(source, rig, {})
        for mine, theirs in found.items():
            assert rig.controls[mine].role == source.controls[theirs].role, here
        roles = {c.role for c in source.controls} & {c.role for c in rig.controls}
        assert len(found) == len(roles - {None}), here
    # what somebody says counts all the same
    said = {source.controls[1].name: rig.controls[2].name}
    assert pairs_of(source, rig, said)[2] == 1
