"""Joint transforms and skinning of our files as three.js sees them, 1e-4 of the height.

Skipped with a word where Node or the packages of tests/node are missing.
"""

from __future__ import annotations

import json
import shutil
import struct
import subprocess
from pathlib import Path

import numpy as np
import pygltflib as gl
import pytest
from scipy.spatial.transform import Rotation

from fox_hand.core.kinematics.skinning import skinned
from fox_hand.core.maths.rotations import from_vector, multiply
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.gltf import read_performance, read_rig
from tests.glb import Maker, at, skin, tube

NODE = Path(__file__).parents[1] / "node"


def plain(source: Path, target: Path) -> Path:
    """The file without pictures, which Node cannot decode."""
    data = source.read_bytes()
    size = struct.unpack("<I", data[12:16])[0]
    document = json.loads(data[20 : 20 + size])
    for material in document["materials"]:
        material["pbrMetallicRoughness"].pop("baseColorTexture", None)
    for key in ("textures", "images", "samplers"):
        document.pop(key, None)
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    rest = data[20 + size :]
    head = struct.pack("<4sII", b"glTF", 2, 20 + len(text) + len(rest))
    target.write_bytes(head + struct.pack("<I4s", len(text), b"JSON") + text + rest)
    return target


@pytest.mark.parametrize("name", ["marrow", "quill"])
def test_three_places_joints_and_skin_where_we_do(tmp_path: Path, name: str) -> None:
    if shutil.which("node") is None:
        pytest.skip("Node is not installed: three.js could not be asked")
    assert (NODE / "node_modules" / "three").is_dir(), "run: npm --prefix tests/node ci"
    path = plain(shipped() / "cast" / f"{name}.glb", tmp_path / f"{name}.glb")
    rig = read_rig(path)
    rng = np.random.default_rng(6)
    turn = rig.rest.turn.copy()
    rows = rig.moving_rows
    turn[rows] = from_vector(rng.normal(0, 0.4, (len(rows), 3)))
    at = rig.evaluate(rig.rest.with_(turn=turn))
    names, nodes = rig.skeleton.names, rig.moving_nodes
    local = multiply(rig.skeleton.rotation[nodes], turn[rows])
    pose = {names[n]: q.tolist() for n, q in zip(nodes, local, strict=True)}
    (tmp_path / "pose.json").write_text(json.dumps(pose))
    command = ["node", str(NODE / "pose.mjs"), str(path), str(tmp_path / "pose.json")]
    done = subprocess.run(command, capture_output=True, text=True, timeout=120, check=False)
    assert done.returncode == 0, done.stderr
    seen = json.loads(done.stdout)
    tolerance = 1e-4 * rig.height
    assert len(seen["joints"]) == len(nodes)
    for joint, elements in seen["joints"].items():
        matrix = np.array(elements).reshape(4, 4).T
        assert np.allclose(matrix, at.nodes[names.index(joint)], atol=tolerance)
    ours = [skinned(p, at.palette, at.settings)[::7] for p in rig.parts]
    counts = [len(p.positions) for p in rig.parts]
    assert sorted(v["count"] for v in seen["vertices"]) == sorted(counts)
    for mesh in seen["vertices"]:
        theirs = np.array(mesh["found"])
        gaps = [
            np.abs(mine - theirs).max()
            for mine, count in zip(ours, counts, strict=True)
            if count == mesh["count"]
        ]
        assert min(gaps) < tolerance


def foreign(path: Path, rate: float) -> Path:
    """Two animations of a skinned tube that hangs on a moving node, with shapes that do not rest at
    zero: the first straight and stepped, the second made of splines; keys at odd frames."""
    rng = np.random.default_rng(11)
    maker = Maker()
    head = maker.node(name="head", translation=[0, 1, 0])
    neck = maker.node(name="neck", children=[head], rotation=[0.0, 0.3826834, 0.0, 0.9238795])
    above = maker.node(name="Armature", children=[neck], scale=[0.5] * 3, translation=[0.2, 0, 0])
    mesh = tube(maker, 0, (0, 1))
    targets = [np.zeros((20, 3), np.float32) for _ in range(2)]
    targets[0][16:, 2] = targets[1][:8, 0] = 0.05
    maker.gltf.meshes[mesh].primitives[0].targets = [
        gl.Attributes(POSITION=maker.accessor(t)) for t in targets
    ]
    maker.gltf.meshes[mesh].extras = {"targetNames": ["blink", "smile"]}
    maker.gltf.meshes[mesh].weights = [0.25, 0.5]
    face = maker.node(name="face", mesh=mesh, skin=skin(maker, [neck, head], [at(0, 0, 0)] * 2))
    frames = np.array([0, 5, 7, 30])

    def turns(count: int) -> np.ndarray:
        return Rotation.from_rotvec(rng.normal(0, 0.7, (count, 3))).as_quat()

    for splines in (False, True):
        made = gl.Animation(name="splines" if splines else "straight")
        for node, kind, width, straight in (
            (head, "rotation", 4, "LINEAR"),
            (above, "translation", 3, "LINEAR"),
            (neck, "translation", 3, "STEP"),
            (face, "weights", 2, "LINEAR"),
        ):
            rows = len(frames) * (3 if splines else 1)
            values = rng.normal(0, 0.5, (rows, width))
            if kind == "rotation":
                at_keys = turns(len(frames))
                values[slice(1, None, 3) if splines else slice(None)] = at_keys
            data = values.astype(np.float32)
            times = maker.accessor((frames / rate).astype(np.float32))
            lows = maker.gltf.accessors[times]
            lows.min, lows.max = [0.0], [float(np.float32(30 / rate))]
            way = "CUBICSPLINE" if splines else straight
            output = maker.accessor(data.ravel() if kind == "weights" else data)
            made.samplers.append(gl.AnimationSampler(input=times, output=output, interpolation=way))
            target = gl.AnimationChannelTarget(node=node, path=kind)
            made.channels.append(gl.AnimationChannel(sampler=len(made.samplers) - 1, target=target))
        maker.gltf.animations.append(made)
    return maker.save(path)


@pytest.mark.parametrize("rate", [24_000 / 1001, 30.0, 120.0])
@pytest.mark.parametrize("number", [0, 1])
def test_three_plays_every_animation_as_we_read_it(
    tmp_path: Path, rate: float, number: int
) -> None:
    """Several animations, splines of turns, moves and weights, weights at rest, nodes above the
    skin, several rates."""
    if shutil.which("node") is None:
        pytest.skip("Node is not installed: three.js could not be asked")
    path = foreign(tmp_path / "foreign.glb", rate)
    found = read_performance(path, number=number)
    assert found.rate == pytest.approx(rate, rel=1e-6) and len(found) == 31
    if not number:
        assert found.rig.rest.settings.tolist() == [0.25, 0.5]
    # a little late, as keys in single precision may be: steps come at their frames
    seconds = [n / rate + 3e-7 for n in range(len(found))]
    (tmp_path / "times.json").write_text(json.dumps(seconds))
    command = ["node", str(NODE / "sample.mjs"), str(path), str(tmp_path / "times.json")]
    done = subprocess.run(
        [*command, str(number)], capture_output=True, text=True, timeout=120, check=False
    )
    assert done.returncode == 0, done.stderr
    rig = found.rig
    nodes = rig.evaluate(found.states).nodes
    for frame, seen in enumerate(json.loads(done.stdout)["frames"]):
        for joint in ("neck", "head"):
            matrix = np.array(seen["matrices"][joint]).reshape(4, 4).T
            mine = nodes[frame, rig.skeleton.names.index(joint)]
            assert mine == pytest.approx(matrix, abs=2e-4), (joint, frame)
        for name, weight in seen["weights"].items():
            value = found.states.settings[frame, rig.setting_row[name]]
            assert value == pytest.approx(weight, abs=1e-4), (name, frame)
