"""Another house's way of building a rig: other names, other joint axes, other Euler orders.

Turns a finished figure and its sidecar into the same character as that house would hand it over:
``LeftHand`` instead of ``hand_L``, bones along -X instead of Y, Euler orders that differ from
region to region.
"""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import msgspec
import numpy as np

from cast.bones import Bones
from cast.figure import Figure
from fox_hand.core.model.solvers import DrivenKind
from fox_hand.interchange.sidecar import (
    ControlNotes,
    DriveNotes,
    LimbNotes,
    LookNotes,
    Order,
    Sidecar,
    Span,
    TwistNotes,
)

# New axes as columns of the old ones: X against the bone, Y where turning flexes.
AXES = np.array([[0.0, 1.0, 0.0], [-1.0, 0.0, 0.0], [0.0, 0.0, 1.0]])
WORDS = {"spine_1": "SpineLow", "spine_2": "SpineMid", "arm": "UpperArm", "forearm": "LowerArm"}
ORDERS: dict[str, Order] = {
    "torso": "XYZ",
    "head": "XZY",
    "arms": "YZX",
    "hands": "YXZ",
    "legs": "YZX",
    "mouth": "ZYX",
    "eyes": "quaternion",
}
Letter = Literal["x", "y", "z"]
TURNED: dict[Letter, tuple[Letter, float]] = {"x": ("y", 1.0), "y": ("x", -1.0), "z": ("z", 1.0)}


def house_name(name: str) -> str:
    """``finger_index_1_L`` becomes ``LeftIndex1``."""
    side = {"_L": "Left", "_R": "Right"}.get(name[-2:], "")
    bare = name[:-2] if side else name
    words = bare.removeprefix("finger_").split("_")
    return side + (WORDS.get(bare) or "".join(w.capitalize() for w in words))


def restyled(figure: Figure) -> Figure:
    """The same figure with the house's names and axes; the mesh stays as it is."""
    bones = figure.bones
    turn = np.eye(4)
    turn[:3, :3] = AXES
    other = Bones(
        [house_name(n) for n in bones.names],
        bones.parents,
        [w @ turn for w in bones.world],
        {house_name(n): tip for n, tip in bones.tips.items()},
        {house_name(n): r for n, r in bones.radii.items()},
        bones.hand_axes,
        bones.head_centre,
    )
    pieces = [
        replace(p, morphs={house_name(k): v for k, v in p.morphs.items()}) for p in figure.pieces
    ]
    return Figure(figure.build, other, pieces)


def restyled_sidecar(sidecar: Sidecar) -> Sidecar:
    """The sidecar of the restyled figure."""
    raw = msgspec.to_builtins(sidecar)
    for group in ("controls", "targets", "settings", "holders", "picker"):
        raw[group] = {house_name(k): _renamed(v) for k, v in raw.get(group, {}).items()}
    raw["sets"] = {k: [house_name(n) for n in v] for k, v in raw.get("sets", {}).items()}
    house = msgspec.convert(raw, Sidecar)
    house.controls = {k: _control(v) for k, v in house.controls.items()}
    house.drives = [_drive(d) for d in sidecar.drives]
    house.solvers = [_solver(s) for s in sidecar.solvers]
    for holder in house.holders.values():
        x, y, z = (float(v) for v in AXES.T @ np.array(holder.offset))
        holder.offset = (round(x, 6), round(y, 6), round(z, 6))
    return house


def _renamed(notes: dict[str, object]) -> dict[str, object]:
    found = dict(notes)
    for key in ("partner", "at", "like", "under"):
        if isinstance(found.get(key), str):
            found[key] = house_name(str(found[key]))
    held = found.get("settings")
    if isinstance(held, list):
        found["settings"] = [house_name(str(n)) for n in held]
    return found


def _control(notes: ControlNotes) -> ControlNotes:
    labels, limits = notes.axis_labels, notes.limits
    if labels is not None:
        notes.axis_labels = (labels[1], labels[0], labels[2])
    if limits is not None:
        notes.limits = [_backwards(limits[1]), limits[0], limits[2]]
    if notes.region is not None:
        notes.order = ORDERS[notes.region.value]
    return notes


def _backwards(span: Span) -> Span:
    return None if span is None else (-span[1], -span[0])


def _drive(notes: DriveNotes) -> DriveNotes:
    axis, sign = notes.axis, 1.0
    if notes.onto is not DrivenKind.SETTING:
        axis, sign = TURNED[notes.axis]
    return DriveNotes(
        house_name(notes.source),
        notes.onto,
        house_name(notes.target),
        [(x, y * sign) for x, y in notes.points],
        axis,
        None if notes.times is None else house_name(notes.times),
    )


def _solver(notes: LimbNotes | LookNotes | TwistNotes) -> LimbNotes | LookNotes | TwistNotes:
    if isinstance(notes, TwistNotes):
        axis = TURNED[notes.axis][0]
        return TwistNotes(house_name(notes.joint), house_name(notes.source), axis, notes.share)
    raw = {
        k: house_name(v) if isinstance(v, str) and k not in ("type", "name") else v
        for k, v in msgspec.to_builtins(notes).items()
    }
    if isinstance(notes, LimbNotes):
        return msgspec.convert(raw, LimbNotes)
    return msgspec.convert(raw, LookNotes)
