"""What a card carries of how its figure stood, as a document."""

from __future__ import annotations

import msgspec
import numpy as np

from fox_hand.base.files.documents import Number
from fox_hand.core.model.body_frame import USUAL, BodyFrame, vector
from fox_hand.core.retarget.arm_places import ArmPlace, Touch
from fox_hand.core.retarget.carried import Carried

Vector = tuple[Number, Number, Number]
Quaternion = tuple[Number, Number, Number, Number]


class TouchFile(msgspec.Struct):
    """What a hand lies on: the role of the joint whose flesh it is, how far along the bone
    (0 to 1), the direction from the bone to the wrist as the bone rests, how far the wrist lies
    beyond the flesh that way and from the nearest flesh, both in heights of the figure, and how
    much it counts (0 to 1)."""

    bone: str
    along: Number
    way: Vector
    over: Number
    gap: Number
    share: Number


class ArmFile(msgspec.Struct, omit_defaults=True):
    """Where the bones of an arm pointed, what the hand lay on, and the way to the other wrist in
    lengths of the hand where both were together."""

    upper: Vector
    lower: Vector
    touch: TouchFile | None = None
    other: Vector | None = None


class CarriedFile(msgspec.Struct, omit_defaults=True):
    """How the figure stood, for characters whose own rig is not at hand. All directions are the
    figure's own: to its left, up, ahead. ``up`` and ``ahead`` are those of its rig's world.
    ``shown`` are changes from rest by humanoid role, of limbs that followed goals, ``rests`` where
    their bones point at rest; ``ankles`` are in lengths of the leg over the ground; ``pulled``
    names goals and poles by the limb's end."""

    up: Vector = (0.0, 1.0, 0.0)
    ahead: Vector = (0.0, 0.0, 1.0)
    middle: Vector = (0.0, 0.0, 0.0)
    shown: dict[str, Quaternion] = {}
    arms: dict[str, ArmFile] = {}
    ankles: dict[str, Vector] = {}
    rests: dict[str, Vector] = {}
    pulled: dict[str, tuple[str, ...]] = {}


def carried_file(carried: Carried) -> CarriedFile | None:
    """The document of what is carried; None where there is nothing."""
    if not carried:
        return None
    body = carried.body
    return CarriedFile(
        body.up,
        body.ahead,
        body.middle,
        dict(carried.shown),
        {side: _arm_file(place) for side, place in carried.arms.items()},
        dict(carried.ankles),
        dict(carried.rests),
        dict(carried.pulled),
    )


def _arm_file(place: ArmPlace) -> ArmFile:
    touch = place.touch
    return ArmFile(
        place.upper,
        place.lower,
        None
        if touch is None
        else TouchFile(touch.bone, touch.along, touch.way, touch.over, touch.gap, touch.share),
        place.other,
    )


def carried_from(file: CarriedFile | None) -> Carried:
    """What a document says is carried; what makes no directions and no turns is left out."""
    if file is None:
        return Carried()
    up, ahead = np.array(file.up), np.array(file.ahead)
    body = USUAL
    if abs(up @ up - 1) < 1e-6 and abs(ahead @ ahead - 1) < 1e-6 and abs(up @ ahead) < 1e-6:
        body = BodyFrame(vector(up), vector(ahead), file.middle)
    return Carried(
        body,
        {role: turn for role, turn in file.shown.items() if _is_unit(turn)},
        {side: _arm(arm) for side, arm in file.arms.items() if side in ("left", "right")},
        {side: place for side, place in file.ankles.items() if side in ("left", "right")},
        {role: way for role, way in file.rests.items() if _is_unit(way)},
        dict(file.pulled),
    )


def _is_unit(values: Vector | Quaternion) -> bool:
    return abs(float(np.linalg.norm(values)) - 1.0) < 1e-6


def _arm(file: ArmFile) -> ArmPlace:
    touch = file.touch
    on = None
    if touch is not None:
        on = Touch(touch.bone, touch.along, touch.way, touch.over, touch.gap, touch.share)
    return ArmPlace(file.upper, file.lower, on, file.other)
