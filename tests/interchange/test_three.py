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
import pytest

from fox_hand.core.kinematics.skinning import skinned
from fox_hand.core.maths.rotations import from_vector, multiply
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.gltf import read_rig

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
