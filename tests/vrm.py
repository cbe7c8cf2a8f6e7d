"""Files with expressions and with several animations, made of a figure of the demo by writing into
its description."""

from __future__ import annotations

import json
import struct
from pathlib import Path
from typing import Any

import numpy as np

from fox_hand.core.animation.motion import motion_of
from fox_hand.core.model.state import State
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.motions import motion_bytes
from fox_hand.interchange.readers import read_rig


def document_of(path: Path) -> tuple[dict[str, Any], bytes]:
    """The description of a GLB file, and everything after it."""
    data = path.read_bytes()
    (size,) = struct.unpack_from("<I", data, 12)
    return json.loads(data[20 : 20 + size]), data[20 + size :]


def written(path: Path, document: dict[str, Any], rest: bytes) -> Path:
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    size = 12 + 8 + len(text) + len(rest)
    head = b"glTF" + struct.pack("<II", 2, size) + struct.pack("<I", len(text)) + b"JSON"
    path.write_bytes(head + text + rest)
    return path


def vrm(path: Path, *, old: bool = False, name: str = "quill") -> Path:
    """A figure with expressions: two feelings, two mouth shapes, a blink of one eye, a look, one
    of its own, one of colours only, and some that are damaged."""
    document, rest = document_of(shipped() / "cast" / f"{name}.glb")
    meshes = document["meshes"]
    mesh = next(
        i
        for i, one in enumerate(meshes)
        if "LeftMouthCornerUp" in one.get("extras", {}).get("targetNames", ())
    )
    targets = meshes[mesh]["extras"]["targetNames"]
    node = next(i for i, one in enumerate(document["nodes"]) if one.get("mesh") == mesh)

    def binds(**values: float) -> list[dict[str, Any]]:
        where = {"mesh": mesh} if old else {"node": node}
        whole = 100.0 if old else 1.0
        return [
            {**where, "index": targets.index(k), "weight": v * whole} for k, v in values.items()
        ]

    made: dict[str, list[dict[str, Any]]] = {
        "happy": binds(LeftMouthCornerUp=1.0, RightMouthCornerUp=0.8, LeftCheekUp=0.25),
        "sad": binds(LeftMouthCornerDown=0.5, RightMouthCornerDown=0.5),
        "aa": binds(MouthRound=0.25),
        "ou": binds(MouthPucker=1.0),
        "blinkLeft": binds(LeftBrowDown=0.5),
        "neutral": [],
    }
    odd: list[Any] = [{"node": 999, "mesh": 999, "index": 0, "weight": 1.0}, "x", {"node": node}]
    own = {"Smirk": [*binds(LeftMouthCornerUp=3.0), *odd], "Shine": []}
    document["extensions"] = _old(made, own) if old else _new(made, own)
    document["extensionsUsed"] = sorted(document["extensions"])
    return written(path, document, rest)


def _new(made: dict[str, Any], own: dict[str, Any]) -> dict[str, Any]:
    preset = {name: {"morphTargetBinds": found} for name, found in made.items()}
    custom: dict[str, Any] = {name: {"morphTargetBinds": found} for name, found in own.items()}
    custom["Smirk"]["materialColorBinds"] = [{"material": 0}]
    custom["broken"] = 3
    return {"VRMC_vrm": {"specVersion": "1.0", "expressions": {"preset": preset, "custom": custom}}}


def _old(made: dict[str, Any], own: dict[str, Any]) -> dict[str, Any]:
    former = {"happy": "joy", "sad": "sorrow", "aa": "a", "ou": "u", "blinkLeft": "blink_l"}
    groups: list[Any] = [
        {"name": name.upper(), "presetName": former.get(name, name), "binds": found}
        for name, found in made.items()
    ]
    groups += [{"name": n, "presetName": "unknown", "binds": found} for n, found in own.items()]
    groups[-2]["materialValues"] = [{"materialName": "skin"}]
    return {"VRM": {"blendShapeMaster": {"blendShapeGroups": [*groups, 3, {"binds": 4}]}}}


def moving(path: Path, rig_path: Path) -> Path:
    """A character's file with three animations: a wave, a pose, and one of nothing."""
    rig = read_rig(rig_path)
    row = rig.control_row["forearm_L"]
    frames = 7
    turn = np.repeat(rig.rest.turn[None], frames, 0).copy()
    angles = np.linspace(0, 1, frames)
    turn[:, row] = np.stack([np.sin(angles / 2), 0 * angles, 0 * angles, np.cos(angles / 2)], 1)
    rest = [np.repeat(v[None], frames, 0) for v in rig.rest.arrays()]
    wave = State(rest[0], turn, rest[2], rest[3], rest[4])
    data, _ = motion_bytes(".glb", rig, motion_of("wave", rig, wave, 30.0))
    path.write_bytes(data)
    document, binary = document_of(path)
    first = document["animations"][-1]
    document["animations"] = [first, *({**first, "name": n} for n in ("wave", "again"))]
    del document["animations"][2]["name"]
    return written(path, document, binary)
