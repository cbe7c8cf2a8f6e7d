"""glTF files made by others: many shapes, and every kind of damage."""

from __future__ import annotations

import json
import shutil
import struct
import subprocess
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pygltflib
import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.core.animation.motion import motion_of
from fox_hand.core.kinematics.skinning import skinned
from fox_hand.core.model.controls import Channel, ControlKind, MirrorRule, Region, Side
from fox_hand.core.model.state import State
from fox_hand.core.pose.mirror import mirror
from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.motions import motion_bytes, read_performance
from fox_hand.interchange.readers import read_rig
from fox_hand.interchange.sidecar import sidecar_path
from fox_hand.session.exporting.motion_export import write_motion
from tests.conftest import MARROW
from tests.glb import Maker, morphing, moving, no_skin, rigid, tube, two_skins

NODE = Path(__file__).parents[1] / "node"


def test_two_skins_under_a_scaled_nameless_root_stand_where_they_were_drawn(
    tmp_path: Path,
) -> None:
    """The node of a skinned mesh does not move it (glTF 2.0, 3.7.3.1), the joints do."""
    rig = read_rig(two_skins(tmp_path / "two.glb"))
    assert [c.name for c in rig.controls] == ["LeftArm", "LeftElbow", "RightArm", "RightElbow"]
    assert {c.side for c in rig.controls[:2]} == {Side.LEFT}
    assert {c.side for c in rig.controls[2:]} == {Side.RIGHT}
    assert rig.controls[0].partner == "RightArm"
    at = rig.evaluate(rig.rest)
    for part in rig.parts:
        assert np.allclose(skinned(part, at.palette, at.settings), part.positions / 100, atol=1e-6)
    bent = rig.rest.turn.copy()
    bent[1] = [0, 0, np.sin(np.pi / 4), np.cos(np.pi / 4)]
    at = rig.evaluate(rig.rest.with_(turn=bent))
    left, right = (skinned(p, at.palette, at.settings) for p in rig.parts)
    move = rig.rest.move.copy()
    move[2] = (0, 0.25, 0)  # metres, although the file is in centimetres
    lifted = rig.evaluate(rig.rest.with_(move=move))
    up = skinned(rig.parts[1], lifted.palette, lifted.settings) - rig.parts[1].positions / 100
    assert np.allclose(up, [0, 0.25, 0], atol=1e-6)
    assert np.allclose(right, rig.parts[1].positions / 100, atol=1e-6)
    assert left[:, 0].min() < rig.parts[0].positions[:, 0].min() / 100 - 0.5


def test_morphs_become_settings_and_a_rigid_hat_follows_its_joint(tmp_path: Path) -> None:
    rig = read_rig(morphing(tmp_path / "m.glb"))
    assert [s.name for s in rig.settings] == ["blink_L", "blink_R"]
    assert rig.settings[0].partner == "blink_R"
    assert rig.settings[0].mirror is MirrorRule.SWAP
    holder = rig.controls[rig.settings[0].control]
    assert holder.kind is ControlKind.HOLDER
    hat = next(p for p in rig.parts if p.name == "hat")
    rest = rig.evaluate(rig.rest)
    low = skinned(hat, rest.palette, rest.settings)
    move = rig.rest.move.copy()
    move[rig.control_row["head"]] = (0, 0.5, 0)
    at = rig.evaluate(rig.rest.with_(move=move))
    assert np.allclose(skinned(hat, at.palette, at.settings) - low, [0, 0.5, 0], atol=1e-6)
    settings = rig.rest.settings.copy()
    settings[0] = 1
    at = rig.evaluate(rig.rest.with_(settings=settings))
    face = next(p for p in rig.parts if p.targets is not None)
    assert skinned(face, at.palette, at.settings)[:, 2].max() == pytest.approx(0.15, abs=1e-5)


@pytest.mark.parametrize("embedded", [True, False])
def test_a_gltf_with_its_buffer_inside_or_beside_it_is_the_same_rig(
    tmp_path: Path, embedded: bool
) -> None:
    whole = two_skins(tmp_path / "two.glb")
    gltf = pygltflib.GLTF2().load(str(whole))
    path = tmp_path / "two.gltf"
    if embedded:
        gltf.convert_buffers(pygltflib.BufferFormat.DATAURI)
    else:
        gltf.buffers[0].uri = "two%20p%C3%A4rts.bin"
        (tmp_path / "two pärts.bin").write_bytes(gltf.binary_blob())
    gltf.save_json(str(path))
    same, other = read_rig(whole), read_rig(path)
    assert [c.name for c in other.controls] == [c.name for c in same.controls]
    for mine, theirs in zip(same.parts, other.parts, strict=True):
        assert np.array_equal(mine.positions, theirs.positions)
    if not embedded:
        (tmp_path / "two pärts.bin").unlink()
        with pytest.raises(FoxHandError) as caught:
            read_rig(path)
        assert caught.value.code == "gltf.part_missing"


def test_nameless_nodes_get_names_that_stay_apart(tmp_path: Path) -> None:
    maker = Maker()
    tip = maker.node(translation=[0, 1, 0], name="bone")
    root = maker.node(children=[tip], name="bone")
    mesh = tube(maker, 0, (0, 1))
    maker.gltf.skins.append(pygltflib.Skin(joints=[root, tip]))
    maker.node(mesh=mesh, skin=0)
    rig = read_rig(maker.save(tmp_path / "n.glb"))
    assert [c.name for c in rig.controls] == ["bone", "bone_2"]
    assert len(set(rig.skeleton.names)) == len(rig.skeleton.names)


def test_what_is_read_is_what_pygltflib_reads(marrow: Rig) -> None:
    """Positions, byte by byte, against an independent reader."""
    gltf = pygltflib.GLTF2().load(str(MARROW))
    blob = gltf.binary_blob()
    for mesh in gltf.meshes:
        for primitive in mesh.primitives:
            accessor = gltf.accessors[primitive.attributes.POSITION]
            view = gltf.bufferViews[accessor.bufferView]
            start = view.byteOffset + (accessor.byteOffset or 0)
            raw = np.frombuffer(blob, np.float32, accessor.count * 3, start).reshape(-1, 3)
            material = gltf.materials[primitive.material].name
            part = next(
                p for p in marrow.parts if p.name == mesh.name and p.material.name == material
            )
            assert np.array_equal(part.positions, raw)


def test_marrow_is_built_as_promised(marrow: Rig) -> None:
    triangles = sum(len(p.triangles) for p in marrow.parts)
    assert 15_000 <= triangles <= 20_000
    assert len(marrow.joint_nodes) == 69
    assert MARROW.stat().st_size < 4_000_000
    assert 1.5 < marrow.height < 2.0
    assert marrow.notes == ()
    low, high = marrow.rest_bounds
    assert low[1] == pytest.approx(0, abs=0.02)
    assert high[0] == pytest.approx(-low[0], abs=0.01)  # symmetric
    hand = marrow.controls[marrow.control_row["finger_index_1_L"]]
    assert (hand.side, hand.region, hand.order) == (Side.LEFT, Region.HANDS, "ZXY")
    assert hand.channels == {Channel.TURN}


def test_bending_about_x_always_flexes(marrow: Rig) -> None:
    """One table of angles serves both sides and every finger."""
    for name, direction in (("forearm", 2), ("finger_middle_1", 2), ("finger_ring_2", 2)):
        for side in "LR":
            row = marrow.control_row[f"{name}_{side}"]
            node = marrow.controls[row].node
            tip = marrow.skeleton.parents.index(node)
            turn = marrow.rest.turn.copy()
            turn[row] = [np.sin(0.3), 0, 0, np.cos(0.3)]
            rest = marrow.skeleton.rest_world
            bent = marrow.evaluate(marrow.rest.with_(turn=turn)).nodes
            local = np.linalg.inv(rest[node]) @ bent[tip]
            assert local[direction, 3] > 0.01, (name, side)


@pytest.mark.skipif(shutil.which("node") is None, reason="Node.js is not installed here")
def test_gltf_validator_has_nothing_to_say_about_what_ships() -> None:
    """Khronos' glTF Validator: no errors, no warnings on every GLB of the package."""
    assert (NODE / "node_modules").is_dir(), "run: npm --prefix tests/node ci"
    files = [str(p) for p in shipped().rglob("*.glb")]
    assert files
    command = ["node", str(NODE / "validate.mjs"), *files]
    said = subprocess.run(command, capture_output=True, text=True, check=True)
    for report in map(json.loads, said.stdout.splitlines()):
        assert (report["numErrors"], report["numWarnings"]) == (0, 0), report


def damage(kind: str, path: Path) -> Path:
    whole = bytearray(MARROW.read_bytes())
    if kind == "empty":
        path.write_bytes(b"")
    elif kind == "text":
        path.write_bytes(b"once upon a time")
    elif kind == "json of something else":
        path.write_bytes(b'{"name": "not a scene"}')
    elif kind == "no skin":
        no_skin(path)
    elif kind == "cut in the buffer":
        path.write_bytes(whole[: len(whole) // 2])
    elif kind == "cut in the head":
        path.write_bytes(whole[:15])
    elif kind == "glb 1":
        whole[4:8] = struct.pack("<I", 1)
        path.write_bytes(whole)
    elif kind == "missing":
        return path
    else:
        _damage_json(kind, whole, path)
    return path


def _damage_json(kind: str, whole: bytearray, path: Path) -> None:
    (length,) = struct.unpack_from("<I", whole, 12)
    document = json.loads(whole[20 : 20 + length])
    binary = bytes(whole[20 + length :])
    if kind == "loop":
        document["nodes"][5].setdefault("children", []).append(0)
    elif kind == "joint out of range":
        document["skins"][0]["joints"][0] = 9999
    elif kind == "accessor past the end":
        document["accessors"][0]["count"] = 10_000_000
    elif kind == "view out of range":
        document["accessors"][0]["bufferView"] = 500
    elif kind == "needs draco":
        document["extensionsRequired"] = ["KHR_draco_mesh_compression"]
    elif kind == "glTF 3":
        document["asset"]["version"] = "3.0"
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    head = struct.pack("<4sIII4s", b"glTF", 2, 20 + len(text) + len(binary), len(text), b"JSON")
    path.write_bytes(head + text + binary)


KINDS = {
    "missing": "gltf.unreadable",
    "empty": "gltf.empty",
    "text": "gltf.other_kind",
    "json of something else": "gltf.other_kind",
    "no skin": "gltf.no_skin",
    "cut in the buffer": "gltf.truncated",
    "cut in the head": "gltf.truncated",
    "glb 1": "gltf.version",
    "glTF 3": "gltf.version",
    "loop": "gltf.damaged",
    "joint out of range": "gltf.damaged",
    "accessor past the end": "gltf.damaged",
    "view out of range": "gltf.damaged",
    "needs draco": "gltf.extension",
}


@pytest.mark.parametrize("kind", KINDS)
def test_damaged_and_foreign_files_are_refused_with_a_sentence(tmp_path: Path, kind: str) -> None:
    path = damage(kind, tmp_path / "hero.glb")
    with pytest.raises(FoxHandError) as caught:
        read_rig(path)
    assert caught.value.code == KINDS[kind]
    sentence = caught.value.sentence()
    assert "hero.glb" in sentence
    assert "Nothing that was open has changed." in sentence


@pytest.mark.parametrize("tenth", range(1, 10))
def test_a_rig_cut_off_anywhere_is_a_sentence_not_a_crash(tmp_path: Path, tenth: int) -> None:
    whole = MARROW.read_bytes()
    path = tmp_path / "cut.glb"
    path.write_bytes(whole[: len(whole) * tenth // 10])
    with pytest.raises(FoxHandError, match="ends in the middle"):
        read_rig(path)


def redescribed(path: Path, change: Callable[[dict[str, Any]], None]) -> Path:
    """A moving figure whose description was changed."""
    whole = moving(path).read_bytes()
    (length,) = struct.unpack_from("<I", whole, 12)
    document = json.loads(whole[20 : 20 + length])
    change(document)
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    size = 20 + len(text) + len(whole) - 20 - length
    head = struct.pack("<4sIII4s", b"glTF", 2, size, len(text), b"JSON")
    path.write_bytes(head + text + whole[20 + length :])
    return path


def backwards(document: dict[str, Any]) -> None:
    channels, samplers = (document["animations"][0][k] for k in ("channels", "samplers"))
    samplers[channels[0]["sampler"]]["input"] = document["skins"][0]["inverseBindMatrices"]
    matrices = document["accessors"][document["skins"][0]["inverseBindMatrices"]]
    document["accessors"].append({**matrices, "type": "SCALAR", "count": 32})
    samplers[channels[0]["sampler"]]["input"] = len(document["accessors"]) - 1


CHANGES: dict[str, Callable[[dict[str, Any]], None]] = {
    "times that fall": backwards,
    "a view past the last": lambda d: d["bufferViews"][0].update(buffer=7),
    "an animation that is none": lambda d: d.update(animations={"a": 1}),
    "a sampler that is not there": lambda d: d["animations"][0]["channels"][0].update(sampler=9),
    "turns of three numbers": lambda d: d["animations"][0]["samplers"][0].update(output=1),
    "overlapping rows": lambda d: d["bufferViews"][0].update(byteStride=4),
    "a place beyond all measure": lambda d: d["nodes"][0].update(translation=[1e300, 0, 0]),
    "a count without end": lambda d: d["accessors"][0].update(count=10**18, bufferView=None),
}


@pytest.mark.parametrize("kind", CHANGES)
def test_motion_that_does_not_hold_together_is_refused(tmp_path: Path, kind: str) -> None:
    path = redescribed(tmp_path / "nod.glb", CHANGES[kind])
    with pytest.raises(FoxHandError) as caught:
        read_performance(path)
    assert caught.value.code == "gltf.damaged"
    assert "Error" not in caught.value.sentence()


def test_a_description_that_is_no_utf8_is_refused(tmp_path: Path) -> None:
    whole = bytearray(moving(tmp_path / "nod.glb").read_bytes())
    whole[whole.index(b"head")] = 0xFF
    (tmp_path / "nod.glb").write_bytes(whole)
    for read in (read_rig, read_performance):
        with pytest.raises(FoxHandError, match="cannot be read to its end"):
            read(tmp_path / "nod.glb")


def test_names_of_shapes_that_are_no_list_are_made_up(tmp_path: Path) -> None:
    def change(document: dict[str, Any]) -> None:
        document["meshes"][0]["extras"] = {"targetNames": {"blink": 0}}

    rig = read_rig(redescribed(tmp_path / "nod.glb", change))
    assert [s.name for s in rig.settings] == ["target_0"]
    assert read_performance(tmp_path / "nod.glb").states.settings.max() == pytest.approx(1)


def test_shapes_rest_as_the_file_has_them_on_and_nameless_ones_of_two_meshes_stay_apart(
    tmp_path: Path,
) -> None:
    """glTF 2.0, 3.7.2.2: a node's weights come before its mesh's."""

    def change(document: dict[str, Any]) -> None:
        document["meshes"][0]["weights"] = [0.25]

    path = redescribed(tmp_path / "nod.glb", change)
    rig = read_rig(path)
    assert [(s.default, s.maximum) for s in rig.settings] == [(0.25, 1.0)]
    assert rig.rest.settings.tolist() == [0.25]

    def more(document: dict[str, Any]) -> None:
        change(document)
        mesh = document["meshes"][0]
        mesh.pop("extras", None)
        mesh["name"] = "face"
        document["meshes"].append({**mesh, "name": "teeth"})
        number = next(i for i, n in enumerate(document["nodes"]) if n.get("mesh") == 0)
        document["nodes"].append({**document["nodes"][number], "name": "teeth", "mesh": 1})
        document["nodes"][-1]["weights"] = [-0.5]
        document["nodes"][-1].pop("children", None)
        document["scenes"][0]["nodes"].append(len(document["nodes"]) - 1)

    rig = read_rig(redescribed(tmp_path / "nod.glb", more))
    assert {s.name: s.default for s in rig.settings} == {
        "face_target_0": 0.25,
        "teeth_target_0": -0.5,
    }
    assert rig.settings[1].minimum == -0.5


@pytest.mark.parametrize("animated", [True, False])
def test_rigid_parts_without_a_skin_are_posed_by_their_nodes(
    tmp_path: Path, animated: bool
) -> None:
    path = rigid(tmp_path / "crane.glb", animated=animated)
    rig = read_rig(path)
    assert {"arm", "box"} >= {c.name for c in rig.controls} >= {"arm"}
    assert {p.name for p in rig.parts} == {"arm", "box"}
    turn = rig.rest.turn.copy()
    turn[rig.control_row["arm"]] = (np.sqrt(0.5), 0, 0, np.sqrt(0.5))
    at = rig.evaluate(rig.rest.with_(turn=turn))
    box = next(p for p in rig.parts if p.name == "box")
    assert skinned(box, at.palette, at.settings)[:, 2].max() == pytest.approx(4.0, abs=1e-5)
    if animated:
        found = read_performance(path)
        assert (len(found), found.rate) == (13, 24.0)
        nodes = found.rig.evaluate(found.states).nodes
        assert nodes[-1, found.rig.skeleton.names.index("box"), 2, 3] == pytest.approx(2.0)


def test_motion_without_a_character_can_be_opened_as_a_rig_again(
    tmp_path: Path, marrow: Rig
) -> None:
    """As a BVH becomes when it is converted: nodes and an animation."""
    states = State(*(np.stack([v, v]) for v in marrow.rest.arrays()))
    states.turn[1, marrow.control_row["arm_L"]] = (np.sqrt(0.5), 0, 0, np.sqrt(0.5))
    motion = motion_of("wave", marrow, states, 24.0)
    path = tmp_path / "alone.glb"
    path.write_bytes(motion_bytes(".glb", marrow, motion, alone=True)[0])
    rig = read_rig(path)
    assert {"arm_L", "forearm_L", "hand_L"} <= set(rig.control_row)
    place = rig.skeleton.rest_world[rig.skeleton.names.index("hand_L"), :3, 3]
    there = marrow.skeleton.rest_world[marrow.skeleton.names.index("hand_L"), :3, 3]
    assert np.allclose(place, there, atol=1e-5)


def test_joints_without_size_are_mirrored_and_written_with_the_others(tmp_path: Path) -> None:
    """A scale of zero hides what hangs on a joint; files use that on purpose."""

    def change(document: dict[str, Any]) -> None:
        head = next(n for n in document["nodes"] if n["name"] == "head")
        head["scale"] = [0, 0, 0]

    path = redescribed(tmp_path / "nod.glb", change)
    rig = read_rig(path)
    turn = rig.rest.turn.copy()
    neck = rig.control_row["neck"]
    turn[neck] = [0, 0, np.sin(0.2), np.cos(0.2)]
    mirrored = mirror(rig, rig.rest.with_(turn=turn))
    assert np.allclose(mirrored.turn[neck], [0, 0, -np.sin(0.2), np.cos(0.2)], atol=1e-9)
    found = read_performance(path)
    out = tmp_path / "out.glb"
    write_motion(out, found.rig, motion_of("nod", found.rig, found.states, found.rate))
    again = read_performance(out)
    row = again.rig.control_row["neck"]
    assert np.allclose(again.states.scale[:, row], found.states.scale[:, row], atol=1e-6)


@pytest.mark.parametrize(
    "uri",
    ["/etc/passwd", "../outside.bin", "sub/../../outside.bin", "file:///etc/passwd", "link.bin"],
)
def test_a_file_reads_nothing_that_does_not_lie_beside_it(tmp_path: Path, uri: str) -> None:
    folder = tmp_path / "received"
    folder.mkdir()
    (tmp_path / "outside.bin").write_bytes(bytes(100_000))
    (folder / "link.bin").symlink_to(tmp_path / "outside.bin")
    gltf = pygltflib.GLTF2().load(str(moving(folder / "nod.glb")))
    gltf.convert_buffers(pygltflib.BufferFormat.DATAURI)
    gltf.save(str(folder / "nod.gltf"))
    document = json.loads((folder / "nod.gltf").read_text())
    document["buffers"][0]["uri"] = uri
    (folder / "nod.gltf").write_text(json.dumps(document))
    for read in (read_rig, read_performance):
        with pytest.raises(FoxHandError, match="does not lie beside it"):
            read(folder / "nod.gltf")


def test_a_damaged_sidecar_leaves_the_rig_usable(tmp_path: Path) -> None:
    path = tmp_path / "marrow.glb"
    shutil.copyfile(MARROW, path)
    sidecar_path(path).write_text('{"format": "fox-hand rig sidecar", "version": 1, "controls": 3}')
    rig = read_rig(path)
    assert len(rig.moving_rows) == 69
    assert "was opened without it" in rig.notes[-1]
    sidecar_path(path).write_text('{"format": "fox-hand rig sidecar", "version": 9}')
    assert "newer Fox Hand" in read_rig(path).notes[-1]


def test_a_sidecar_that_names_what_is_not_there_says_so(tmp_path: Path) -> None:
    path = tmp_path / "marrow.glb"
    shutil.copyfile(MARROW, path)
    sidecar_path(path).write_text(
        json.dumps(
            {
                "format": "fox-hand rig sidecar",
                "version": 1,
                "controls": {"tail": {"label": "Tail"}, "jaw": {"label": "Chin"}},
                "sets": {"Odd": ["jaw", "wing"]},
            }
        )
    )
    rig = read_rig(path)
    assert rig.controls[rig.control_row["jaw"]].label == "Chin"
    assert any("tail" in note for note in rig.notes)
    assert rig.sets["Odd"] == ("jaw",)
