"""Body poses on a rig."""

from __future__ import annotations

from collections.abc import Iterator

from cast.fingers import hand_shape
from cast.numbers_file import Adjusted, BodyNumbers, bodies
from cast.poser import Poser
from cast.steps import contact, passing
from fox_hand.core.rig.rig import Rig

SIDES = {"left": ("L",), "right": ("R",), "both": ("L", "R")}


def body(poser: Poser, name: str) -> Poser:
    """One of ``numbers/bodies.toml``."""
    pose = bodies()[name]
    if pose.base:
        body(poser, pose.base)
    return adjusted(poser, pose)


def adjusted(poser: Poser, pose: BodyNumbers, change: Adjusted | None = None) -> Poser:
    """What a pose says, without what it starts from, and what is changed of it."""
    for side in pose.walk.values():
        body(poser, "Stand easy")
        other = "R" if side == "L" else "L"
        (contact if "contact" in pose.walk else passing)(poser, side, other)
    for numbers in (pose, change or Adjusted()):
        _turned(poser, numbers)
    for where, shape in pose.hands.items():
        for side in SIDES[where]:
            hand_shape(poser, shape, side)
    if pose.ground or pose.lift is not None:
        grounded(poser, pose.lift or 0.0)
    return poser


def _turned(poser: Poser, numbers: BodyNumbers | Adjusted) -> None:
    for joint, (x, y, z) in numbers.move.items():
        poser.move(joint, x, y, z)
    for joint, (bend, twist, sway) in numbers.turn.items():
        for name, _ in _sides(poser.rig, joint):
            poser.turn(name, bend, twist, sway)
    for joint, (along, towards) in numbers.aim.items():
        for name, sign in _sides(poser.rig, joint):
            poser.aim(name, (along[0] * sign, *along[1:]), (towards[0] * sign, *towards[1:]))


def grounded(poser: Poser, lift: float = 0.0) -> Poser:
    """Put the lowest sole that far above the deck."""
    rig = poser.rig
    feet = [i for i, n in enumerate(rig.skeleton.names) if n.startswith(("foot_", "toe_", "shin_"))]
    rest = rig.flesh(rig.evaluate(rig.rest), feet)[:, 1].min()
    now = rig.flesh(rig.evaluate(poser.state), feet)[:, 1].min()
    return poser.raised("hips", float(rest - now) + lift)


def _sides(rig: Rig, joint: str) -> Iterator[tuple[str, float]]:
    if joint in rig.control_row:
        yield joint, 1.0
        return
    yield f"{joint}_L", 1.0
    yield f"{joint}_R", -1.0
