"""The other side of what is captured, and a card of both hands from one."""

from __future__ import annotations

from dataclasses import replace

from fox_hand.core.model.body_frame import USUAL, BodyFrame
from fox_hand.core.model.controls import Channel
from fox_hand.core.model.state import State
from fox_hand.core.pose.blend import blend
from fox_hand.core.pose.pose import ChannelFilter, Pose, bind, take
from fox_hand.core.pose.sides import mirrored
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera
from fox_hand.library.format.schema import SideName

OTHER: dict[SideName, SideName] = {"left": "right", "right": "left"}


def state_of(rig: Rig, pose: Pose) -> State:
    """A figure at rest that wears a pose."""
    return blend(rig.rest, bind(pose, rig), 1.0, rig.setting_rules)


def choice_of(rig: Rig, pose: Pose) -> ChannelFilter:
    """The channels a pose holds that a rig has."""
    channels: dict[int, frozenset[Channel]] = {}
    settings = set[int]()
    for name, held in pose.controls.items():
        row = rig.control_row.get(name)
        if row is not None:
            kinds = {
                Channel.MOVE: held.move,
                Channel.TURN: held.turn,
                Channel.SCALE: held.scale,
            }
            channels[row] = frozenset(k for k, value in kinds.items() if value is not None)
        settings.update(rig.setting_row[s] for s in held.settings if s in rig.setting_row)
    return ChannelFilter(channels, frozenset(settings))


def mirrored_pose(rig: Rig, pose: Pose, *, both: bool) -> Pose:
    """The pose of a card for the other side, or for both."""
    state, choice = mirrored(rig, state_of(rig, pose), choice_of(rig, pose), both=both)
    return take(rig, state, choice)


def mirrored_camera(camera: Camera, body: BodyFrame = USUAL) -> Camera:
    """The camera that sees the mirrored figure as this one sees the figure, side for side.

    Args:
        camera: of a figure in the middle of the stage.
        body: which way that figure stands.
    """
    image = body.reflection
    turn, eye = image[:3, :3], image[:3, :3] @ camera.eye + image[:3, 3]
    right, _, back = camera.view()[:3, :3]
    x, y, z = (eye - turn @ back * camera.distance).tolist()
    found = camera.looking(turn @ back, -turn @ right)
    return replace(found, target=(x, y, z), shift=(-camera.shift[0], camera.shift[1]))


def side_after(side: SideName, *, both: bool) -> SideName:
    """Which side a card is of whose pose was mirrored, or with ``both`` completed."""
    if both:
        return "both" if side in OTHER else side
    return OTHER.get(side, side)
