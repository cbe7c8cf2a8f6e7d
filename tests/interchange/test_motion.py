"""Motion out of the program and back in, as other programs see it: three.js, gltf-validator,
usd-core, and a BVH reader that shares nothing with ours."""

from __future__ import annotations

import json
import shutil
import subprocess
from dataclasses import replace
from pathlib import Path

import numpy as np
import pybvh
import pytest

from fox_hand.core.animation.curves import ChannelKind, Keys, changed_lanes, keys_at
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.animation.motion import Motion, Source, motion_of
from fox_hand.core.animation.sampler import Sampler
from fox_hand.core.kinematics.skinning import skinned
from fox_hand.core.maths.rotations import from_vector
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.motions import motion_bytes, read_performance
from fox_hand.interchange.readers import read_rig
from fox_hand.session.figures.animation import Animation
from fox_hand.session.figures.snapshot_keys import blocks_from, keys_from
from fox_hand.session.shots.shot_file import read_shot
from tests.core.pose.test_blend import random_state
from tests.interchange.test_three import NODE, plain
from tests.random_rig import random_rig

RATE = 24.0


def shot_take(name: str, prefix: str) -> Animation:
    """What somebody does in a shot of the demo."""
    kept = read_shot(shipped() / "shots" / f"{name}.foxshot")
    member = next(m for m in kept.members if m.prefix == prefix)
    rig = read_rig(Path(member.path))
    keys = keys_from(member.keys, member.origins)
    return Animation(rig, rig.rest, keys, blocks_from(member.clips, member.blocks))


def shot_states(take: Animation, frames: np.ndarray) -> State:
    states = [take.at(float(f)) for f in frames]
    return State(*(np.stack(v) for v in zip(*(s.arrays() for s in states), strict=True)))


def shot_motion(take: Animation, last: int) -> Motion:
    frames = np.arange(1, last + 1, dtype=float)
    source = None if take.instances else Source(take.keys, 1.0, RATE)
    return motion_of("shot", take.rig, shot_states(take, frames), RATE, source)


def played_by_three(path: Path, times: list[float], tmp_path: Path) -> dict:
    if shutil.which("node") is None:
        pytest.skip("Node is not installed: three.js could not be asked")
    assert (NODE / "node_modules" / "three").is_dir(), "run: npm --prefix tests/node ci"
    (tmp_path / "times.json").write_text(json.dumps(times))
    command = ["node", str(NODE / "sample.mjs"), str(path), str(tmp_path / "times.json")]
    done = subprocess.run(command, capture_output=True, text=True, timeout=120, check=False)
    assert done.returncode == 0, done.stderr
    return json.loads(done.stdout)


def compare_three(rig: Rig, path: Path, states: State, times: list[float], tmp_path: Path) -> None:
    seen = played_by_three(plain(path, tmp_path / "plain.glb"), times, tmp_path)
    at = rig.evaluate(states)
    names = list(rig.skeleton.names)
    worst = 0.0
    for number, frame in enumerate(seen["frames"]):
        for name, elements in frame["matrices"].items():
            if name in names:
                matrix = np.array(elements).reshape(4, 4).T
                off = np.abs(matrix - at.nodes[number, names.index(name)]).max()
                worst = max(worst, off)
        for name, weight in frame["weights"].items():
            value = at.settings[number, rig.setting_row[name]]
            assert weight == pytest.approx(value, abs=1e-4)
    assert worst < 1e-4 * rig.height


def test_three_plays_a_shot_as_we_do_and_the_file_is_valid(tmp_path: Path) -> None:
    take = shot_take("nf_010", "marrow")
    motion = shot_motion(take, 96)
    data, notes = motion_bytes(".glb", take.rig, motion)
    assert not notes
    path = tmp_path / "nf_010.glb"
    path.write_bytes(data)
    frames = np.array([1, 7, 22, 30, 47, 70, 96], dtype=float)
    times = ((frames - 1) / RATE).tolist()
    compare_three(take.rig, path, shot_states(take, frames), times, tmp_path)
    command = ["node", str(NODE / "validate.mjs"), str(path)]
    done = subprocess.run(command, capture_output=True, text=True, timeout=120, check=True)
    report = json.loads(done.stdout)
    assert (report["numErrors"], report["numWarnings"]) == (0, 0), report["messages"][:5]


@pytest.mark.parametrize("ease", list(Ease))
def test_keys_are_kept_and_mean_the_same_between_frames(ease: Ease, tmp_path: Path) -> None:
    """Step, linear and cubic keys of the rig without solvers in the way, at odd times too."""
    rig = read_rig(shipped() / "cast" / "quill.glb")
    first, middle, last = (random_state(rig, seed) for seed in (3, 4, 5))
    rest = rig.rest
    mild = [
        rest.with_(turn=np.where(np.abs(s.turn[:, 3:]) > 0.9, s.turn, rest.turn).copy())
        for s in (first, middle, last)
    ]
    channel_ids = [
        channel_id
        for channel_id in {
            *changed_lanes(rig, mild[0], mild[1]),
            *changed_lanes(rig, mild[1], mild[2]),
        }
        if channel_id.kind is ChannelKind.TURN
        and rig.controls[rig.control_row[channel_id.name]].role
    ]
    keys = Keys()
    for frame, state in zip((1.0, 9.0, 21.0), mild, strict=True):
        keys = keys.with_lines(keys_at(rig, state, channel_ids, frame, ease))
    timeline = Sampler(rig, keys)
    motion = motion_of(
        "kept", rig, timeline.many(rest, range(1, 22)), RATE, Source(keys, 1.0, RATE)
    )
    kept = {name for kind, name in motion.kept if kind is ChannelKind.TURN}
    assert len(kept) > 10  # the spine, the neck, legs; not what solvers turn
    assert all(len(curve.times) == 3 for curve in motion.kept.values())
    path = tmp_path / "kept.glb"
    path.write_bytes(motion_bytes(".glb", rig, motion)[0])
    frames = (
        np.array([1, 3.3, 6.5, 9, 13.7, 20.2, 21])
        if ease is not Ease.STEP
        else np.array([1, 3, 8, 9.4, 13, 20, 21.4])
    )
    states = timeline.many(rest, frames)
    seen = played_by_three(
        plain(path, tmp_path / "plain.glb"), ((frames - 1) / RATE).tolist(), tmp_path
    )
    at = rig.evaluate(states)
    parents, names = rig.skeleton.parents, list(rig.skeleton.names)
    for name in kept:
        node = names.index(name)
        for number, frame in enumerate(seen["frames"]):
            above = names[parents[node]]
            ours = np.linalg.solve(at.nodes[number, parents[node]], at.nodes[number, node])
            theirs = np.linalg.solve(
                np.array(frame["matrices"][above]).reshape(4, 4).T,
                np.array(frame["matrices"][name]).reshape(4, 4).T,
            )
            # three turns by a cheaper formula where two keys are nearly alike
            assert np.abs(ours[:3, :3] - theirs[:3, :3]).max() < 2e-4


@pytest.mark.parametrize(
    ("kind", "alone"), [(".glb", False), (".glb", True), (".usda", False), (".bvh", True)]
)
def test_what_was_taken_out_comes_back_the_same(kind: str, alone: bool, tmp_path: Path) -> None:
    take = shot_take("nf_010", "marrow")
    rig, motion = take.rig, shot_motion(take, 40)
    path = tmp_path / f"back{kind}"
    data, notes = motion_bytes(kind, rig, motion, alone=alone)
    path.write_bytes(data)
    assert bool(notes) == alone  # of the face, which the character or its file holds
    back = read_performance(path, RATE)
    assert len(back) == 40
    assert back.rate == pytest.approx(RATE, 1e-4)
    ours = rig.evaluate(shot_states(take, np.arange(1, 41, dtype=float)))
    theirs = back.rig.evaluate(back.states)
    size = rig.height
    bones = [c.node for c in rig.controls if c.kind.value == "joint"]
    for node in bones:
        name = rig.skeleton.names[node]
        other = back.rig.skeleton.names.index(name)
        off = np.abs(ours.nodes[:, node, :3, 3] - theirs.nodes[:, other, :3, 3]).max()
        assert off < 1e-4 * size, name
        if kind != ".bvh":
            off = np.abs(ours.nodes[:, node, :3, :3] - theirs.nodes[:, other, :3, :3]).max()
            assert off < 2e-3 if kind == ".usda" else off < 1e-4, name  # USD's scales are halves


def test_bvh_of_a_bvh_is_the_same_file_in_numbers(tmp_path: Path) -> None:
    made = read_performance(shipped() / "performance" / "on_deck.bvh")  # Z up there, Y up here
    source = tmp_path / "once.bvh"
    upright = motion_of("once", made.rig, made.states, made.rate)
    source.write_bytes(motion_bytes(".bvh", made.rig, upright)[0])
    first = read_performance(source)
    places = [p.rig.evaluate(p.states).nodes[..., :3, 3] for p in (made, first)]
    assert np.abs(places[0] - places[1]).max() < 1e-5
    motion = motion_of("again", first.rig, first.states, first.rate)
    path = tmp_path / "again.bvh"
    path.write_bytes(motion_bytes(".bvh", first.rig, motion)[0])
    second = read_performance(path)
    assert [c.name for c in second.rig.controls] == [c.name for c in first.rig.controls]
    assert np.abs(second.rig.skeleton.translation - first.rig.skeleton.translation).max() < 1e-6
    assert np.abs(second.states.move - first.states.move).max() < 1e-6
    dots = np.abs((second.states.turn * first.states.turn).sum(-1))
    assert dots.min() > 1 - 1e-9


def test_an_independent_reader_sees_the_bvh_as_we_do(tmp_path: Path) -> None:
    take = shot_take("nf_010", "marrow")
    states = shot_states(take, np.arange(1, 25, dtype=float))
    states = states.with_(move=np.zeros_like(states.move))  # it knows no moves but the root's
    motion = motion_of("shot", take.rig, states, RATE)
    path = tmp_path / "shot.bvh"
    path.write_bytes(motion_bytes(".bvh", take.rig, motion)[0])
    other = pybvh.read_bvh_file(str(path))
    ours = take.rig.evaluate(states)
    names = [n.name for n in other.nodes]
    for frame in (0, 11, 23):
        places = np.asarray(other.node_positions())[frame] / 100.0
        for name, place in zip(names, places, strict=True):
            if name in take.rig.skeleton.names:
                node = take.rig.skeleton.names.index(name)
                assert np.abs(place - ours.nodes[frame, node, :3, 3]).max() < 1e-5, name


@pytest.mark.parametrize(("seed", "mirrored"), [(2, False), (5, False), (11, False), (5, True)])
def test_bvh_of_any_rig_has_single_words_and_turns_that_go_on(
    seed: int, mirrored: bool, tmp_path: Path
) -> None:
    """Names with spaces, joint axes by chance, a joint that spins three times around, and a rig
    that hangs on a mirrored joint."""
    plain_rig, frames = random_rig(seed), 72
    spaced = [name.replace("_", " side ") for name in plain_rig.skeleton.names]
    scale = plain_rig.skeleton.scale.copy()
    scale[0, 0] *= -1.0 if mirrored else 1.0
    rig = replace(
        plain_rig,
        skeleton=replace(plain_rig.skeleton, names=tuple(spaced), scale=scale),
        controls=tuple(replace(c, name=spaced[c.node]) for c in plain_rig.controls),
    )
    turn = np.tile([0.0, 0.0, 0.0, 1.0], (frames, len(rig.controls), 1))
    spin = np.linspace(0, 6 * np.pi, frames)
    turn[:, 1] = from_vector(np.outer(spin, [0.0, 1.0, 0.0]))
    rest = rig.rest
    many = [np.tile(v, (frames, *[1] * v.ndim)) for v in rest.arrays()]
    states = State(many[0], turn, many[2], many[3], many[4])
    data, notes = motion_bytes(".bvh", rig, motion_of("spin", rig, states, RATE))
    assert any("spaces" in note for note in notes) == any(" " in name for name in spaced)
    path = tmp_path / "spin.bvh"
    path.write_bytes(data)
    other, ours = pybvh.read_bvh_file(str(path)), rig.evaluate(states)
    assert {n.name for n in other.nodes} >= {"_".join(name.split()) for name in spaced}
    places = np.asarray(other.node_positions()) / 100.0
    for column, node in enumerate(other.nodes):
        own = [n for n, name in enumerate(spaced) if "_".join(name.split()) == node.name]
        if own:
            assert np.abs(places[:, column] - ours.nodes[:, own[0], :3, 3]).max() < 1e-5
    rows = data.decode().split("Frame Time:")[1].splitlines()[1:]
    table = np.array([[float(v) for v in row.split()] for row in rows if row])
    assert np.abs(np.diff(table, axis=0)).max() < 180  # no angle jumps by a whole turn


def test_usd_core_puts_joints_and_skin_where_we_do(tmp_path: Path) -> None:
    pytest.importorskip("pxr", reason="usd-core is not installed")
    from pxr import Gf, Usd, UsdSkel, Vt

    take = shot_take("nf_010", "marrow")
    motion = shot_motion(take, 30)
    path = tmp_path / "shot.usda"
    path.write_bytes(motion_bytes(".usda", take.rig, motion)[0])
    stage = Usd.Stage.Open(str(path))
    cache = UsdSkel.Cache()
    root = UsdSkel.Root(stage.GetDefaultPrim())
    cache.Populate(root, Usd.PrimDefaultPredicate)
    skeleton = UsdSkel.Skeleton(stage.GetPrimAtPath("/figure/skeleton"))
    query = cache.GetSkelQuery(skeleton)
    for frame in (0, 15, 29):
        at = take.rig.evaluate(take.at(frame + 1.0))
        worlds = query.ComputeJointSkelTransforms(frame)
        found = np.array([np.array(m).T for m in worlds])
        assert np.abs(found - at.nodes).max() < 2e-3 * take.rig.height
        matrices = query.ComputeSkinningTransforms(frame)
        for number, part in enumerate(take.rig.parts):
            if part.targets is not None:
                continue
            prims = [p for p in stage.Traverse() if p.GetName().endswith(f"_{number}")]
            skin = cache.GetSkinningQuery(prims[0])
            points = Vt.Vec3fArray.FromNumpy(part.positions.astype(np.float32))
            assert skin.ComputeSkinnedPoints(matrices, points, frame)
            theirs = np.array(points)
            mine = skinned(part, at.palette, at.settings)
            assert np.abs(theirs - mine).max() < 2e-3 * take.rig.height
    assert Gf is not None
