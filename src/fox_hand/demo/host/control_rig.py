"""The control rig that somebody else would build for a figure of ours: other names, other axes and
rotation orders, centimetres, Z up, attributes of its own."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np

from fox_hand.core.maths.rotations import Array, from_vector
from fox_hand.core.maths.transforms import compose, decompose, undone
from fox_hand.core.model.controls import Control, Side
from fox_hand.core.rig.rig import Rig

UNIT = 0.01
LETTERS = {Side.LEFT: "L", Side.RIGHT: "R", Side.CENTRE: "M"}
ORDERS = {"arms": "YZX", "hands": "ZXY", "legs": "ZYX"}
AXES = np.array([[0.0, 0, 1, 0], [1, 0, 0, 0], [0, 1, 0, 0], [0, 0, 0, 1]])  # x is our y
MOVED = ("root", "hips")
LIMIT = [-180.0, 180.0]


def control_rig(rig: Rig, prefix: str, model: Path) -> dict[str, Any]:
    """Its description, as a ``.foxrig.json`` has it.

    Args:
        rig: whose joints it moves.
        prefix: before all names, such as ``crew:``.
        model: the file of its mesh.
    """
    skeleton, by_node = rig.skeleton, {c.node: c for c in rig.controls if c.kind == "joint"}
    upright = compose(np.zeros(3), from_vector(np.array([np.pi / 2, 0, 0])), np.ones(3))
    world = _in_host(upright @ skeleton.rest_world)
    names = [_named(by_node.get(i), n, prefix) for i, n in enumerate(skeleton.names)]
    nodes = []
    for i, name in enumerate(names):
        above = skeleton.parents[i]
        local = world[i] if above < 0 else undone(world[above]) @ world[i]
        place, turn, _ = decompose(local)
        node: dict[str, Any] = {
            "name": name,
            "translation": np.round(place, 9).tolist(),
            "rotation": turn.tolist(),
        }
        if above >= 0:
            node["parent"] = names[above]
        if i not in by_node:
            node["control"] = False
        nodes.append(node)
    own = {_named(c, c.name, prefix): c for c in by_node.values()}
    controls = {name: _said(control, prefix, rig) for name, control in own.items()}
    attributes = [s for s in rig.settings if not s.discrete and not s.helper]
    for setting in attributes:
        holder = controls[_holder(setting.name, list(own))]
        holder.setdefault("settings", []).append(_attribute(setting.name))
    return {
        "format": "fox-hand rig sidecar",
        "version": 3,
        "name": rig.name,
        "metres_per_unit": UNIT,
        "up": "z",
        "nodes": nodes,
        "mesh": {
            "file": str(model),
            "joints": dict(zip(skeleton.names, names, strict=True)),
            "shapes": {s.name: _attribute(s.name) for s in rig.settings},
        },
        "controls": controls,
        "settings": {
            _attribute(s.name): {
                "label": s.label,
                "minimum": s.minimum,
                "maximum": s.maximum,
                "default": s.default,
            }
            for s in attributes
        },
    }


def _in_host(world: Array) -> Array:
    """Without scale, in centimetres, with the axes of somebody else."""
    place, turn, _ = decompose(world)
    return np.asarray(compose(place / UNIT, turn, np.ones_like(place)) @ AXES)


def _named(control: Control | None, name: str, prefix: str) -> str:
    if control is None:
        return f"{prefix}{name}_grp"
    stem = name.removesuffix("_L").removesuffix("_R")
    return f"{prefix}{LETTERS[control.side]}_{stem}_ctl"


HOLDERS = {  # beginnings of attributes -> the control that has them
    "brow": "_eye_",
    "lid": "_eye_",
    "hand": "_hand_",
    "arm": "_arm_",
    "forearm": "_arm_",
    "leg": "_thigh_",
    "thigh": "_thigh_",
    "shin": "_thigh_",
    "gaze": "_head_",
}


def _holder(setting: str, names: list[str]) -> str:
    """The control that an attribute is on: of its side, or of the left; of the mouth the jaw."""
    word = next((w for b, w in HOLDERS.items() if setting.startswith(b)), "_jaw_")
    found = [name for name in names if word in name]
    side = "R_" if setting.endswith(("_R", "R")) else "L_"
    return next((name for name in found if side in name), (found or names)[0])


def _attribute(name: str) -> str:
    first, *others = name.split("_")
    return first + "".join(word.capitalize() for word in others)


def _said(control: Control, prefix: str, rig: Rig) -> dict[str, Any]:
    row = rig.control_row.get(control.partner or "")
    partner = "" if row is None else _named(rig.controls[row], rig.controls[row].name, prefix)
    return {
        "label": control.label,
        "order": ORDERS.get(control.region.value, "XYZ"),
        "channels": ["move", "turn"] if control.name in MOVED else ["turn"],
        "limits": [LIMIT, LIMIT, LIMIT],
        "side": control.side.value,
        "region": control.region.value,
        "role": control.role or "",
        "partner": partner,
        "helper": control.helper,
    }
