"""Motion as other programs write it: tangents, scaled rests, drives of a sidecar."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pygltflib as gl
import pytest
from scipy.interpolate import CubicHermiteSpline
from scipy.spatial.transform import Rotation

from fox_hand.base.errors import FoxHandError
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.frame_rates import rate_of
from fox_hand.interchange.motions import animations_of, read_performance
from fox_hand.interchange.readers import read_rig
from fox_hand.interchange.sidecar import sidecar_path
from tests.glb import Maker, at, skin, tube

TIMES = np.array([0.0, 0.5, 1.25], np.float32)
RATE = 24.0


def two_joints(path: Path, *, size: float = 1.0, **animation: np.ndarray) -> Path:
    """A tube on two joints, the upper one scaled at rest and animated: by the name of a glTF path
    its tangents and values, ``(3 K, w)`` where they are thrice as many as times."""
    maker = Maker()
    upper = maker.node(name="upper", translation=[0.0, 1.0, 0.0], scale=[size] * 3)
    lower = maker.node(name="lower", children=[upper])
    bound = at(0, 1, 0)
    bound[:3, :3] *= size
    tied = skin(maker, [lower, upper], [at(0, 0, 0), bound])
    maker.node(name="skinned", mesh=tube(maker, 0.0, (0, 1)), skin=tied)
    when = maker.accessor(TIMES)
    maker.gltf.accessors[when].min, maker.gltf.accessors[when].max = [0.0], [1.25]
    moves = gl.Animation(name="moves")
    for kind, values in animation.items():
        way = "CUBICSPLINE" if len(values) == 3 * len(TIMES) else "LINEAR"
        table = maker.accessor(values.astype(np.float32))
        moves.samplers.append(gl.AnimationSampler(input=when, output=table, interpolation=way))
        target = gl.AnimationChannelTarget(node=upper, path=kind)
        moves.channels.append(gl.AnimationChannel(sampler=len(moves.samplers) - 1, target=target))
    maker.gltf.animations.append(moves)
    return maker.save(path)


def place(states: State, rig: Rig, name: str) -> np.ndarray:
    return rig.evaluate(states).nodes[:, rig.skeleton.names.index(name)]


def test_a_spline_arrives_and_leaves_with_its_own_tangents(tmp_path: Path) -> None:
    """Checked against SciPy's Hermite spline, one piece at a time, since arriving and leaving
    differ at every key (glTF 2.0, appendix C.5: in-tangent, value, out-tangent)."""
    rng = np.random.default_rng(3)
    table = rng.normal(0, 1, (9, 3))
    path = two_joints(tmp_path / "a.glb", translation=table)
    found = read_performance(path, RATE)
    frames = np.arange(len(found))
    seen = place(found.states, found.rig, "upper")[:, :3, 3]
    arrive, values, leave = table[0::3], table[1::3], table[2::3]
    for first, last in ((0, 1), (1, 2)):
        ends = TIMES[[first, last]]
        spline = CubicHermiteSpline(ends, values[[first, last]], [leave[first], arrive[last]])
        inside = (frames / RATE >= ends[0]) & (frames / RATE <= ends[1])
        assert inside.sum() > 5
        assert np.allclose(seen[inside], spline(frames[inside] / RATE), atol=1e-5)


def test_a_joint_scaled_at_rest_is_as_large_as_its_keys_say(tmp_path: Path) -> None:
    sizes = np.array([[2.0, 2.0, 2.0], [3.0, 3.0, 3.0], [1.0, 1.0, 1.0]])
    found = read_performance(two_joints(tmp_path / "a.glb", size=2.0, scale=sizes), RATE)
    at_keys = place(found.states, found.rig, "upper")[[0, 12, 30], :3, :3]
    assert np.allclose(np.linalg.norm(at_keys, axis=1)[:, 0], [2.0, 3.0, 1.0], atol=1e-6)


def test_a_drive_turns_by_as_many_degrees_as_its_file_says(tmp_path: Path) -> None:
    still = np.zeros((3, 3)) + [0.0, 1.0, 0.0]
    path = two_joints(tmp_path / "a.glb", translation=still)
    notes = {
        "format": "fox-hand rig sidecar",
        "version": 2,
        "settings": {"bend": {}},
        "holders": {
            "box": {"label": "Box", "at": "lower", "offset": [0, 0, 0], "settings": ["bend"]}
        },
        "drives": [
            {"source": "bend", "onto": "turn", "target": "upper", "axis": "z"}
            | {"points": [[0, 0], [1, 40]]}
        ],
    }
    sidecar_path(path).write_text(json.dumps(notes))
    rig = read_rig(path)
    assert rig.notes == ()
    half = rig.rest.with_(settings=np.array([0.5]))
    turned = rig.evaluate(half).nodes[rig.skeleton.names.index("upper"), :3, :3]
    assert np.allclose(turned, Rotation.from_euler("z", 20, degrees=True).as_matrix(), atol=1e-9)


@pytest.mark.parametrize("rate", [24.0, 25.0, 30.0, 60.0, 24_000 / 1001, 120.0])
def test_a_file_is_read_at_the_rate_its_keys_stand_at(rate: float) -> None:
    times = np.arange(40) / rate
    assert rate_of([times, times[::7]]) == pytest.approx(rate)
    assert rate_of([np.array([0.0, 1.0])]) == 24.0  # two keys a second apart say nothing else


def test_the_last_key_is_never_cut_off(tmp_path: Path) -> None:
    """It stands at 1.25 s, which is no whole frame at 25 a second."""
    moves = np.array([[0.0, 1.0, 0.0], [0.0, 2.0, 0.0], [0.0, 5.0, 0.0]])
    path = two_joints(tmp_path / "a.glb", translation=moves)
    for rate, frames in ((24.0, 31), (25.0, 33), (10.0, 14)):
        found = read_performance(path, rate)
        assert len(found) == frames
        assert place(found.states, found.rig, "upper")[-1, 1, 3] == pytest.approx(5.0, abs=1e-6)


def test_what_nodes_above_the_joints_do_is_done_by_the_topmost_joint(tmp_path: Path) -> None:
    """Many programs move the figure by the node that its skeleton hangs on."""
    maker = Maker()
    upper = maker.node(name="upper", translation=[0.0, 1.0, 0.0])
    lower = maker.node(name="lower", children=[upper], translation=[0.0, 0.5, 0.0])
    turned = Rotation.from_euler("x", -90, degrees=True)
    above = maker.node(
        name="Armature", children=[lower], rotation=turned.as_quat().tolist(), scale=[0.01] * 3
    )
    bound = np.diag([0.01, 0.01, 0.01, 1.0])
    bound[:3, :3] = turned.as_matrix() * 0.01
    low, high = bound @ at(0, 0.5, 0), bound @ at(0, 1.5, 0)
    tied = skin(maker, [lower, upper], [low, high])
    maker.node(name="skinned", mesh=tube(maker, 0.0, (0, 1), unit=0.01), skin=tied)
    when = maker.accessor(np.array([0.0, 1.0], np.float32))
    maker.gltf.accessors[when].min, maker.gltf.accessors[when].max = [0.0], [1.0]
    spun = turned * Rotation.from_euler("z", [[0.0], [80.0]], degrees=True)
    walks = gl.Animation(name="walks")
    for node, kind, values in (
        (above, "translation", np.array([[0.0, 0.0, 0.0], [2.0, 0.0, 3.0]])),
        (above, "rotation", spun.as_quat()),
        (lower, "translation", np.array([[0.0, 0.5, 0.0], [0.0, 0.9, 0.0]])),
    ):
        table = maker.accessor(values.astype(np.float32))
        walks.samplers.append(gl.AnimationSampler(input=when, output=table))
        target = gl.AnimationChannelTarget(node=node, path=kind)
        walks.channels.append(gl.AnimationChannel(sampler=len(walks.samplers) - 1, target=target))
    maker.gltf.animations += [
        walks,
        gl.Animation(name="walks twice", channels=walks.channels, samplers=walks.samplers),
    ]
    path = maker.save(tmp_path / "a.glb")
    found = read_performance(path)
    assert found.rate == 24.0
    seen = place(found.states, found.rig, "upper")[-1]
    moved = np.eye(4)
    moved[:3, :3], moved[:3, 3] = spun[1].as_matrix() * 0.01, (2.0, 0.0, 3.0)
    wanted = moved @ at(0, 0.9, 0) @ at(0, 1.0, 0)
    assert np.allclose(seen, wanted, atol=1e-6)
    assert animations_of(path) == ["walks", "walks twice"]
    assert read_performance(path, animation="walks twice").name == "walks twice"
    assert read_performance(path, animation="2").name == "walks twice"
    with pytest.raises(FoxHandError, match="no animation run"):
        read_performance(path, animation="run")
