"""Rigs written down without their meshes, as another program has them: centimetres, Z up."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import msgspec
import numpy as np

from fox_hand.core.maths.rotations import from_vector, multiply, rotate
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.described import rig_of
from fox_hand.interchange.sidecar import Sidecar

ARM: dict[str, Any] = {
    "format": "fox-hand rig sidecar",
    "version": 3,
    "name": "Arm",
    "metres_per_unit": 0.01,
    "up": "z",
    "nodes": [
        {
            "name": "hand_ctl_L",
            "parent": "arm_ctl_L",
            "translation": [30, 0, 0],
        },  # before its parent
        {"name": "offset", "translation": [0, 0, 100], "control": False},
        {"name": "arm_ctl_L", "parent": "offset", "translation": [20, 0, 0]},
        {"name": "hand_ctl_R", "parent": "offset", "translation": [-50, 0, 0]},
    ],
    "controls": {
        "arm_ctl_L": {"order": "ZXY", "channels": ["turn"], "locked": ["turn.y"], "side": "left"},
        "hand_ctl_L": {"settings": ["curl", "space"], "side": "left", "partner": "hand_ctl_R"},
    },
    "settings": {
        "curl": {"minimum": -10, "maximum": 10, "default": 2, "mirror": "sign"},
        "space": {"kind": "choice", "options": ["world", "chest"]},
    },
}

CENTIMETRES = 0.01
ONTO_Z = from_vector(np.array([np.pi / 2, 0.0, 0.0]))  # +Y up becomes +Z up


def description_of(rig: Rig, prefix: str = "") -> dict[str, Any]:
    """All nodes of a rig in centimetres with Z up, those of its joints as controls; names get a
    prefix."""
    skeleton, joints = rig.skeleton, set(rig.joint_nodes.tolist())
    nodes = []
    for i, name in enumerate(skeleton.names):
        place, turn = skeleton.translation[i] / CENTIMETRES, skeleton.rotation[i]
        if skeleton.parents[i] < 0:
            place, turn = rotate(ONTO_Z, place), multiply(ONTO_Z, turn)
        node: dict[str, Any] = {
            "name": prefix + name,
            "translation": place.tolist(),
            "rotation": turn.tolist(),
            "scale": skeleton.scale[i].tolist(),
        }
        if skeleton.parents[i] >= 0:
            node["parent"] = prefix + skeleton.names[skeleton.parents[i]]
        if i not in joints:
            node["control"] = False
        nodes.append(node)
    return {
        "format": "fox-hand rig sidecar",
        "version": 3,
        "name": rig.name,
        "metres_per_unit": CENTIMETRES,
        "up": "z",
        "nodes": nodes,
    }


def write_description(path: Path, document: dict[str, Any]) -> Path:
    path.write_text(json.dumps(document), "utf-8")
    return path


def described_rig(document: dict[str, Any]) -> Rig:
    """The rig that a description makes."""
    return rig_of(msgspec.convert(document, Sidecar), "described", Path("described.foxrig.json"))
