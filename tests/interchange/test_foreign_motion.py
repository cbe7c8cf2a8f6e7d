"""Motion as other programs write it: tangents, scaled rests, drives of a sidecar."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pygltflib as gl
from scipy.interpolate import CubicHermiteSpline
from scipy.spatial.transform import Rotation

from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.motions import read_performance
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
