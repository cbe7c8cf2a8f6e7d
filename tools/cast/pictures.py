"""How the demo's cards are posed and framed for their pictures, and what they hold."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from cast.bodies import adjusted, body
from cast.faces import eyes, face, mouth, neutral
from cast.fingers import hand_shape
from cast.numbers_file import Adjusted, BodyNumbers, FaceNumbers, HandNumbers
from cast.poser import Poser
from fox_hand.core.model.controls import Channel, Region
from fox_hand.core.model.state import State
from fox_hand.core.pose.ik_fk_matching import goal_from_joints
from fox_hand.core.pose.pose import ChannelFilter
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera
from fox_hand.library.format.card import CardDrawing
from fox_hand.library.format.schema import SideName

EYES = ("eye_L", "eye_R", "lid_upper_L", "lid_upper_R", "lid_lower_L", "lid_lower_R")
MOUTHS = ("mouth", "mouth_L", "mouth_R", "jaw", "tongue_1", "tongue_2")
ARM = ("collar_L", "arm_L", "forearm_L", "hand_L")
NOTHING = Adjusted()


@dataclass(frozen=True)
class Posed:
    """A figure posed for a card.

    Args:
        state: how it stands.
        camera: from where its picture is taken.
        choice: what the card holds.
        region, side: where on the body it belongs.
        drawing: what the card brings along, of a drawing.
    """

    state: State
    camera: Camera
    choice: ChannelFilter
    region: Region
    side: SideName = "centre"
    drawing: CardDrawing | None = None


def bones_of(rig: Rig) -> list[str]:
    """Joints that are controls."""
    return [n for n in rig.skeleton.names if n in rig.control_row]


def fingers_of(rig: Rig, side: str = "") -> list[str]:
    return [n for n in bones_of(rig) if n.startswith("finger_") and n.endswith(side)]


def rows_of(rig: Rig, names: Iterable[str]) -> list[int]:
    return [rig.control_row[n] for n in names]


def framed(rig: Rig, state: State, nodes: Iterable[str], camera: Camera, margin: float) -> Camera:
    """A frame around the flesh of some joints, with round numbers."""
    wanted = [i for i, n in enumerate(rig.skeleton.names) if n in set(nodes)]
    camera = camera.framing(rig.flesh(rig.evaluate(state), wanted), 1.0, margin)
    rounded = [round(float(v), 4) for v in camera.target]
    return replace(
        camera, target=(rounded[0], rounded[1], rounded[2]), distance=round(camera.distance, 4)
    )


def posed_hand(rig: Rig, shape: HandNumbers) -> Posed:
    """The left hand upright, its palm towards us."""
    poser = neutral(Poser(rig))
    poser.aim("arm_L", (0.5, -1, 0.1), (0, 0, 1)).aim("forearm_L", (0.5, 0.35, 1), (0, 1, 0))
    poser.aim("hand_L", (0.05, 1, 0.25), (-0.15, -0.2, 1))
    open_hand = hand_shape(poser, "Flat", "L").state
    fingers = fingers_of(rig, "_L")
    camera = framed(rig, open_hand, ["hand_L", *fingers], _view(shape.seen, 4, 0.04), 1.2)
    turns = ChannelFilter.of(rig, rows_of(rig, fingers), (Channel.TURN,))
    # the shape depends on these through the rig's drives, so it holds them at rest
    choice = ChannelFilter(turns.channels, frozenset(rig.settings_of[rig.control_row["hand_L"]]))
    return Posed(hand_shape(poser, shape.name, "L").state, camera, choice, Region.HANDS, "left")


def posed_face(rig: Rig, numbers: FaceNumbers, change: Adjusted = NOTHING) -> Posed:
    """A whole face."""
    state = face(Poser(rig), {**numbers.is_, **change.is_}).state
    camera = framed(rig, rig.rest, ["head", "jaw"], _view(numbers.seen, 14, 0.0), 1.14)
    choice = ChannelFilter.of(rig, rows_of(rig, rig.sets["Face"]), (Channel.TURN,))
    return Posed(state, camera, choice, Region.HEAD)


def posed_mouth(rig: Rig, numbers: FaceNumbers, change: Adjusted = NOTHING) -> Posed:
    """Lips, jaw and tongue; cheeks as far as the shape puffs or lifts them."""
    state = mouth(Poser(rig), {**numbers.is_, **change.is_}).state
    around = ["tongue_1", "tongue_2"]
    camera = framed(rig, rig.rest, around, _view(numbers.seen, 18, 0.0), 3.2)
    choice = ChannelFilter.of(rig, rows_of(rig, MOUTHS))
    cheeks = {rig.setting_row[f"cheek_{word}_{side}"] for word in ("up", "puff") for side in "LR"}
    return Posed(
        state, camera, ChannelFilter(choice.channels, choice.settings | cheeks), Region.MOUTH
    )


def posed_eyes(rig: Rig, numbers: FaceNumbers, change: Adjusted = NOTHING) -> Posed:
    """Lids and where the eyes look."""
    state = eyes(neutral(Poser(rig)), {**numbers.is_, **change.is_}).state
    camera = framed(rig, rig.rest, EYES, _view(numbers.seen, 10, 0.0), 1.5)
    rows = rows_of(rig, ("lids_L", "lids_R", "eye_L", "eye_R"))
    choice = ChannelFilter.of(rig, rows, (Channel.TURN,))
    # eyes that follow something do not look where they are turned
    settings = choice.settings | {rig.setting_row["gaze_follow"]}
    return Posed(state, camera, ChannelFilter(choice.channels, settings), Region.EYES, "both")


def posed_body(rig: Rig, numbers: BodyNumbers, change: Adjusted = NOTHING) -> Posed:
    """The body with its hands, or what the numbers say that is held of it."""
    poser = neutral(Poser(rig))
    if numbers.base:
        body(poser, numbers.base)
    adjusted(poser, numbers, change)
    if numbers.holds:
        return _arm(poser, numbers)
    bones = bones_of(rig)
    camera = framed(rig, poser.state, bones, _view(numbers.seen, 24, 0.07), 1.10)
    held = [n for n in bones if n not in rig.sets["Face"] and not n.startswith("finger")]
    rows = rows_of(rig, [*held, *fingers_of(rig)])
    choice = ChannelFilter.of(rig, rows, (Channel.TURN, Channel.MOVE))
    return Posed(poser.state, camera, choice, Region.TORSO)


def _arm(poser: Poser, numbers: BodyNumbers) -> Posed:
    """The left arm, by its joints or by its goal."""
    rig, state = poser.rig, poser.state
    names: Sequence[str] = ARM
    if numbers.holds.endswith("goal"):
        limb = next(one for one in rig.limbs if one.name == "Left arm")
        state = goal_from_joints(rig, state, limb)
        names = ("collar_L", "hand_goal_L", "elbow_L")
    shown = ("head", "jaw", "chest", "hand_R", *ARM, *fingers_of(rig, "_L"))
    camera = framed(rig, state, shown, _view(numbers.seen, 24, 0.07), 1.10)
    choice = ChannelFilter.of(rig, rows_of(rig, names), (Channel.TURN, Channel.MOVE))
    return Posed(state, camera, choice, Region.ARMS, "left")


def posed(
    rig: Rig, kind: str, numbers: HandNumbers | FaceNumbers | BodyNumbers, change: Adjusted
) -> Posed:
    """A figure posed for a card of a kind."""
    if isinstance(numbers, HandNumbers):
        return posed_hand(rig, numbers)
    if isinstance(numbers, BodyNumbers):
        return posed_body(rig, numbers, change)
    make = {"faces": posed_face, "mouths": posed_mouth, "eyes": posed_eyes}[kind]
    return make(rig, numbers, change)


def _view(yaw: float | None, usual: float, pitch: float) -> Camera:
    return Camera(yaw=float(np.radians(usual if yaw is None else yaw)), pitch=pitch)
