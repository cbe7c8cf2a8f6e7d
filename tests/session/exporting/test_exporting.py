"""Motion, poses and pictures that leave: which frames, which files, what is refused."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from fox_hand.base.errors import FoxHandError
from fox_hand.base.work import Cancelled, Progress
from fox_hand.core.animation.clip import Clip
from fox_hand.core.animation.motion import motion_of
from fox_hand.core.maths.rotations import angle_between
from fox_hand.core.model.state import State
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Pixels, Standing, View
from fox_hand.interchange.motions import read_performance
from fox_hand.interchange.readers import read_rig
from fox_hand.library.format.container import read_card
from fox_hand.session.animating.clip_placement import keyed
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.exporting.motion_export import (
    clip_motion,
    keep_what_is_open,
    pose_bytes,
    sampled,
    shot_motion,
    write_motion,
    write_pose,
)
from fox_hand.session.exporting.picture_export import PictureSequence, views, write_drawn
from fox_hand.session.figures.figure import Figure
from tests.drawn import FlatPictures
from tests.session.conftest import entry


def actor_of(workspace: Workspace) -> Figure:
    assert workspace.actor is not None
    return workspace.actor


def laid(workspace: Workspace) -> Clip:
    workspace.go(3.0)
    workspace.applying.lay_in(entry(workspace, "Walk loop"))
    placement = workspace.placements.now
    assert placement is not None
    placement.change(fade_in=0.0, fade_out=0.0, repeats=4.0)
    workspace.keep_mix()
    clip = read_card(entry(workspace, "Walk loop").path)[0].clip
    assert clip is not None
    return clip


def test_frames_are_sampled_one_by_one_and_can_be_stopped(workspace: Workspace) -> None:
    laid(workspace)
    take = actor_of(workspace).take
    frames = np.arange(1.0, 100.0)
    seen: list[float] = []

    def report(fraction: float, text: str) -> None:
        assert text == "sampling"
        seen.append(fraction)

    progress = Progress()
    progress.report_to(report)
    states = sampled(take, frames, progress)
    assert seen == [0.0, 64 / 99] and states.turn.shape[0] == 99
    for number in (0, 63, 64, 98):
        assert np.allclose(states.turn[number], take.at(frames[number]).turn, atol=1e-9)
    progress.cancel()
    with pytest.raises(Cancelled):
        sampled(take, frames, progress)


@pytest.mark.parametrize(("rate", "count"), [(None, 41), (48.0, 81), (12.0, 21), (30.0, 51)])
def test_a_span_is_given_at_any_rate_with_both_ends(
    workspace: Workspace, rate: float | None, count: int
) -> None:
    clip = laid(workspace)
    actor = actor_of(workspace)
    motion = shot_motion(actor.take, "walk", (3.0, 43.0), 24.0, rate)
    assert (motion.name, motion.rate, len(motion)) == ("walk", rate or 24.0, count)
    assert not motion.kept  # blocks have no keys of their own to be kept
    steps = 24.0 / (rate or 24.0)
    assert motion.times == pytest.approx(np.arange(count) / (rate or 24.0))
    own = motion_of("one", actor.rig, one_frame(actor.take.at(3.0 + 7 * steps)), 24.0)
    assert angle_between(motion.turn[7], own.turn[0]).max() < 1e-6
    take = keyed(actor.take, 0)
    whole = shot_motion(take, "walk", (3.0, 43.0), 24.0, rate)
    assert whole.kept
    assert {curve.times[0] for curve in whole.kept.values()} == {0.0}
    alone = clip_motion(clip, "loop", actor.rig, rate)
    assert len(alone) == int(clip.length / steps + 1e-6) + 1
    assert alone.kept


def test_nothing_is_written_over_what_is_open(workspace: Workspace, tmp_path: Path) -> None:
    rig = actor_of(workspace).rig
    path, shot = actor_of(workspace).path, tmp_path / "a.foxshot"
    shot.write_text("")
    for wrong in (path, shot):
        before = wrong.read_bytes()
        with pytest.raises(FoxHandError) as caught:
            keep_what_is_open(wrong, [path], shot)
        assert caught.value.code == "output.is_input" and wrong.read_bytes() == before
    keep_what_is_open(tmp_path / "b.glb", [path], shot)
    keep_what_is_open(shot, [path])
    clip = read_card(entry(workspace, "Nod").path)[0].clip
    assert clip is not None
    motion = clip_motion(clip, "Nod", rig)
    before = path.read_bytes()
    with pytest.raises(FoxHandError) as caught:
        write_motion(path, rig, motion)
    assert caught.value.code == "output.is_input" and path.read_bytes() == before
    with pytest.raises(FoxHandError):
        write_pose(path, rig, rig.rest)
    write_motion(path, rig, motion, in_place=True)
    again = read_rig(path)
    assert again.fingerprint == rig.fingerprint and path.read_bytes() != before
    for kind in (".glb", ".bvh"):
        out = tmp_path / f"nod{kind}"
        write_motion(out, rig, motion, alone=True)
        back = read_performance(out, metres_per_unit=1.0 if kind == ".bvh" else None)
        assert len(back) == len(motion) and back.rate == pytest.approx(motion.rate)


def test_a_pose_is_written_into_a_copy_of_its_file(workspace: Workspace, tmp_path: Path) -> None:
    rig = actor_of(workspace).rig
    workspace.applying.put_on(entry(workspace, "Crouch"))
    workspace.keep_mix()
    state = actor_of(workspace).state
    out = tmp_path / "crouch.glb"
    write_pose(out, rig, state)
    data = out.read_bytes()
    size = int.from_bytes(data[12:16], "little")
    nodes = {n["name"]: n for n in json.loads(data[20 : 20 + size])["nodes"] if "name" in n}
    wanted = motion_of("pose", rig, one_frame(state), 24.0)
    for name in ("forearm_L", "thigh_R", "hips", "head"):
        at = wanted.nodes.index(name)
        turn = np.array(nodes[name]["rotation"])
        assert angle_between(turn, wanted.turn[0, at]) < 1e-5
        assert nodes[name]["translation"] == pytest.approx(wanted.move[0, at], abs=1e-6)
    arm = rig.control_row["forearm_L"]
    for kind in (".bvh", ".usda"):
        with pytest.raises(FoxHandError) as caught:
            pose_bytes(rig, state, "crouch", kind)
        assert caught.value.code == "pose.not_gltf"
    assert angle_between(state.turn[arm], rig.rest.turn[arm]) > 0.05


def one_frame(state: State) -> State:
    return State(*(values[None] for values in state.arrays()))


def sequence(workspace: Workspace, **fields: object) -> PictureSequence:
    actor = actor_of(workspace)

    def standing(frame: float) -> tuple[Standing, ...]:
        return (actor.standing_in(actor.take.at(frame)),)

    plain = PictureSequence(standing, range(3, 9), 24.0, width=20, height=10)
    values = {**{k: getattr(plain, k) for k in plain.__dataclass_fields__}, **fields}
    return PictureSequence(**values)


def test_views_hold_everybody_and_turn_around(workspace: Workspace) -> None:
    laid(workspace)
    made = [make() for make in views(sequence(workspace))]
    assert len(made) == 6 and {(v.width, v.height, v.background) for v in made} == {(20, 10, True)}
    assert len({v.camera for v in made}) == 1
    for view in made:
        figure = view.figures[0]
        seen = view.camera.project(figure.rig.flesh(figure.at, every=7), 20.0, 10.0)
        assert (seen[:, 0] > 0).all() and (seen[:, 0] < 20).all() and (seen[:, 1] < 10).all()
    around = [make() for make in views(sequence(workspace, turntable=4, clear=True))]
    yaws = [v.camera.yaw - around[0].camera.yaw for v in around]
    assert yaws == pytest.approx([0.0, np.pi / 2, np.pi, 3 * np.pi / 2])
    assert not around[0].background and len({id(v.figures) for v in around}) == 1
    own = Camera(yaw=1.0)
    assert [m().camera for m in views(sequence(workspace, camera=own))] == [own] * 6
    for wrong, code in (
        ({"frames": range(20_001)}, "render.too_many"),
        ({"standing": lambda _: ()}, "render.nobody"),
    ):
        with pytest.raises(FoxHandError) as caught:
            views(sequence(workspace, **wrong))
        assert caught.value.code == code


def test_pictures_become_the_files_that_were_asked_for(
    workspace: Workspace, tmp_path: Path
) -> None:
    drawing = FlatPictures()

    def draw(view: View) -> Pixels:
        return drawing.picture(view).pixels

    seen: list[tuple[float, str]] = []
    progress = Progress()
    progress.report_to(lambda fraction, text: seen.append((fraction, text)))
    frames = sequence(workspace)
    assert write_drawn(tmp_path / "walk", frames, draw, progress) == 6
    names = sorted(p.name for p in (tmp_path / "walk").iterdir())
    assert names == [f"walk_{n:04}.png" for n in range(3, 9)]
    assert seen[0] == (0.0, "picture 1 of 6") and seen[-1] == (5 / 6, "picture 6 of 6")
    assert write_drawn(tmp_path / "turn", sequence(workspace, turntable=3), draw) == 3
    assert sorted(p.name for p in (tmp_path / "turn").iterdir()) == [
        "turn_0001.png",
        "turn_0002.png",
        "turn_0003.png",
    ]
    asked = len(drawing.asked)
    assert write_drawn(tmp_path / "one.png", frames, draw) == 1
    assert len(drawing.asked) == asked + 1 and Image.open(tmp_path / "one.png").size == (20, 10)
    for kind in (".webp", ".gif"):
        assert write_drawn(tmp_path / f"all{kind}", frames, draw) == 6
        picture = Image.open(tmp_path / f"all{kind}")
        assert getattr(picture, "n_frames", 1) == 6
    still = sequence(workspace, frames=range(3, 4))
    assert write_drawn(tmp_path / "still.webp", still, draw) == 1
    assert getattr(Image.open(tmp_path / "still.webp"), "n_frames", 1) == 1
    with pytest.raises(FoxHandError) as caught:
        write_drawn(tmp_path / "a.tiff", frames, draw)
    assert caught.value.code == "render.kind" and not (tmp_path / "a.tiff").exists()


def test_the_frame_of_pictures_holds_everybody_all_the_way_from_their_own_front(
    workspace: Workspace,
) -> None:
    actor = actor_of(workspace)
    rig = replace(actor.rig, body=replace(actor.rig.body, ahead=(1.0, 0.0, 0.0)))

    def standing(frame: float) -> tuple[Standing, ...]:
        move = rig.rest.move.copy()
        move[rig.control_row["hips"], 2] = 0.4 * (frame - 1)
        return (Standing(rig, rig.evaluate(rig.rest.with_(move=move))),)

    frames = [1, 2, 3, 4, 5]
    made = [v() for v in views(PictureSequence(standing, frames, width=200, height=100))]
    cameras = {view.camera for view in made}
    (camera,) = cameras
    assert camera.yaw == pytest.approx(rig.body.heading + 0.35)
    assert camera.pitch == pytest.approx(0.06)
    for view in made:
        seen = camera.project(np.concatenate([rig.flesh(s.at) for s in view.figures]), 200, 100)
        assert (seen[:, :2] > 0).all() and (seen[:, 0] < 200).all() and (seen[:, 1] < 100).all()
