"""Parts of a figure that one looks at closely: face and hands, each from its own direction."""

from __future__ import annotations

import numpy as np

from fox_hand.base.language import tr
from fox_hand.core.model.controls import ControlKind, Region, Side
from fox_hand.core.naming.part_words import limb_title
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.selection import region_rows
from fox_hand.ui.picker.figure_drawing import ZONES, zone_rows

Part = tuple[float, float, list[int]]


def parts_of(actor: Figure) -> dict[str, Part]:
    """Name -> yaw and pitch in degrees, and the controls that belong to it."""
    rig = actor.rig
    front = float(np.degrees(rig.body.heading))
    found: dict[str, Part] = {}
    on_body = (ControlKind.JOINT, ControlKind.HOLDER)
    face = [
        r
        for z in ZONES
        if z.key == "head"
        for r in zone_rows(rig, z, actor.state)
        if rig.controls[r].kind in on_body
    ]
    if face:
        found[tr("Face")] = (front + 14, 0, face)
    for side, yaw in ((Side.LEFT, 30.0), (Side.RIGHT, -30.0)):
        hand = region_rows(actor, Region.HANDS, side)
        if hand:
            found[limb_title(Region.HANDS, side) or ""] = (front + yaw, 8, hand)
    legs = [r for r in region_rows(actor, Region.LEGS) if rig.controls[r].kind in on_body]
    if legs:
        found[tr("Legs")] = (front + 20, 3, legs)
    return found
