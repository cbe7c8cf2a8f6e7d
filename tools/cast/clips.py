"""The clips of the demo, with keys as an animator sets them: blinks, a wave, a walk and more."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from cast.poses import Poser, hand_shape, stand_easy, wave
from fox_hand.core.animation.clip import Clip
from fox_hand.core.animation.curves import (
    KIND_OF,
    ChannelCurve,
    ChannelId,
    ChannelKind,
    keys_at,
    row_of,
)
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.model.controls import Channel, Region
from fox_hand.core.model.state import State
from fox_hand.core.pose.pose import Held, Pose
from fox_hand.core.rig.rig import Rig
from fox_hand.library.format.schema import SideName

LIDS = ("lid_shut_L", "lid_shut_R")
Moments = Sequence[tuple[float, State]]


@dataclass(frozen=True)
class Made:
    """One clip with what its card says.

    Args:
        name: as shown.
        clip: its keys.
        look: the frame that its picture shows.
        nodes: what is framed.
        yaw: from where it is seen, degrees.
        region, side: where it belongs.
    """

    name: str
    clip: Clip
    look: float
    nodes: tuple[str, ...]
    yaw: float
    region: Region
    side: SideName = "centre"


def channel_ids(rig: Rig, names: Sequence[str], kinds: Sequence[Channel]) -> list[ChannelId]:
    """Transform channels of some controls."""
    return [
        ChannelId(KIND_OF[kind], name)
        for name in names
        for kind in kinds
        if kind in rig.controls[rig.control_row[name]].channels
    ]


def keyed(rig: Rig, moments: Moments, chosen: Sequence[ChannelId], ease: Ease, rate: float) -> Clip:
    """A clip with a key of every channel at each moment."""
    found: dict[ChannelId, ChannelCurve] = {}
    for frame, state in moments:
        for channel_id, line in keys_at(rig, state, chosen, frame, ease).items():
            found[channel_id] = found[channel_id].merged(line) if channel_id in found else line
    return Clip(found, moments[-1][0], rate)


def settings(
    rig: Rig, names: Sequence[str], keys: Sequence[tuple[float, float]], rate: float
) -> Clip:
    """Some settings going through the same values."""
    moments = []
    for frame, value in keys:
        values = rig.rest.settings.copy()
        values[[rig.setting_row[n] for n in names]] = value
        moments.append((frame, rig.rest.with_(settings=values)))
    chosen = [ChannelId(ChannelKind.SETTING, n) for n in names]
    return keyed(rig, moments, chosen, Ease.LINEAR, rate)


def blinks(rig: Rig) -> list[Made]:
    """Closing over 2, shut for 2, opening over 3, at 30 frames a second; and for film."""
    once = ((0, 0.0), (2, 1.0), (4, 1.0), (7, 0.0))
    film = ((0, 0.0), (2, 1.0), (3, 1.0), (6, 0.0))
    twice = (*once, (10, 1.0), (11, 1.0), (14, 0.0))
    found = []
    for name, keys, rate in (
        ("Blink", once, 30.0),
        ("Blink, film", film, 24.0),
        ("Double blink", twice, 30.0),
    ):
        clip = settings(rig, LIDS, keys, rate)
        found.append(Made(name, clip, keys[1][0], ("head", "jaw"), 14, Region.EYES, "both"))
    return found


def nod(rig: Rig) -> Made:
    """Yes: down, up a little past rest, and still."""
    moments = []
    for frame, bend in ((0, 0), (4, 13), (8, -4), (12, 8), (18, 0)):
        poser = Poser(rig).turn("head", bend).turn("neck", bend * 0.35)
        moments.append((float(frame), poser.state))
    clip = keyed(
        rig, moments, channel_ids(rig, ("neck", "head"), (Channel.TURN,)), Ease.SMOOTH, 24.0
    )
    return Made("Nod", clip, 4.0, ("head", "jaw", "chest"), 24, Region.HEAD)


def breathe(rig: Rig) -> Made:
    """In over a second and a half, out over two; to be laid over anything."""
    moments = []
    for frame, depth in ((0, 0.0), (36, 1.0), (42, 1.0), (90, 0.0), (96, 0.0)):
        poser = Poser(rig).turn("chest", -2.6 * depth).turn("spine_2", -0.8 * depth)
        poser.turn("collar_L", 0, 0, 2.2 * depth).turn("collar_R", 0, 0, 2.2 * depth)
        poser.turn("neck", 1.4 * depth)
        moments.append((float(frame), poser.state))
    names = ("spine_2", "chest", "neck", "collar_L", "collar_R")
    clip = keyed(rig, moments, channel_ids(rig, names, (Channel.TURN,)), Ease.SMOOTH, 24.0)
    return Made("Breathe", clip, 40.0, ("chest", "head", "arm_L", "arm_R"), 24, Region.TORSO)


def wave_loop(rig: Rig) -> Made:
    """The left arm up, to and fro; ends as it begins."""
    moments = []
    for frame, lean in ((0, 0.0), (5, 1.0), (10, 0.0), (15, -1.0), (20, 0.0)):
        poser = wave(Poser(rig))
        poser.aim("forearm_L", (0.34 + 0.30 * lean, 1, 0.25), (0, 0.2, 1))
        poser.aim("hand_L", (0.22 + 0.62 * lean, 1, 0.05), (-0.10, 0, 1))
        moments.append((float(frame), poser.state))
    fingers = [n for n in rig.control_row if n.startswith("finger_") and n.endswith("_L")]
    names = ("collar_L", "arm_L", "forearm_L", "hand_L", *fingers)
    clip = keyed(rig, moments, channel_ids(rig, names, (Channel.TURN,)), Ease.SMOOTH, 24.0)
    return Made(
        "Wave loop", clip, 5.0, ("head", "hand_L", "chest", "hand_R"), 24, Region.ARMS, "left"
    )


def walk_loop(rig: Rig) -> Made:
    """On the spot: contact, passing, contact, passing; 24 frames."""
    steps: list[tuple[int, Callable[[Poser], Poser]]] = [
        (0, lambda p: _contact(p, "L", "R")),
        (6, lambda p: _passing(p, "L", "R")),
        (12, lambda p: _contact(p, "R", "L")),
        (18, lambda p: _passing(p, "R", "L")),
        (24, lambda p: _contact(p, "L", "R")),
    ]
    moments = [(float(frame), make(stand_easy(Poser(rig))).state) for frame, make in steps]
    bones = [n for n in rig.skeleton.names if n in rig.control_row]
    names = [n for n in bones if n not in rig.sets["Face"] and n not in ("root", "hat")]
    chosen = channel_ids(rig, names, (Channel.TURN,)) + channel_ids(rig, ("hips",), (Channel.MOVE,))
    clip = keyed(rig, moments, chosen, Ease.SMOOTH, 24.0)
    return Made("Walk loop", clip, 0.0, tuple(bones), 68, Region.TORSO)


def _trunk(p: Poser, twist: float, roll: float, drop: float) -> None:
    p.turn("hips", 3, twist, roll).move("hips", 0, drop, 0)
    p.turn("spine_1", 2, -twist * 0.6, -roll * 0.5).turn("spine_2", 1, -twist * 0.6, -roll * 0.3)
    p.turn("chest", 0, -twist * 0.8, 0).turn("neck", 0).turn("head", -3, twist * 0.8, 0)


def _arm(p: Poser, side: str, swing: float) -> None:
    s = 1 if side == "L" else -1
    p.aim(f"arm_{side}", (0.22 * s, -1, 0.55 * swing), (0.2 * s, 0, 1))
    p.aim(f"forearm_{side}", (0.10 * s, -1, 0.35 + 0.75 * swing), (0.3 * s, 0.2, 1))
    hand_shape(p, "Relaxed", side)


def _contact(p: Poser, front: str, back: str) -> Poser:
    """Heel down in front, the other foot on its toes."""
    twist = 7 if front == "R" else -7
    _trunk(p, twist, 0, -0.035)
    f, b = (1 if front == "L" else -1), (1 if back == "L" else -1)
    p.aim(f"thigh_{front}", (0.05 * f, -1, 0.46), (0.1 * f, 0, 1))
    p.aim(f"shin_{front}", (0.02 * f, -1, 0.30), (0.1 * f, 0, -1))
    p.aim(f"foot_{front}", (0.12 * f, -0.02, 1), (0, 1, 0))
    p.aim(f"thigh_{back}", (0.04 * b, -1, -0.26), (0.1 * b, 0, 1))
    p.aim(f"shin_{back}", (0.02 * b, -1, -0.72), (0.1 * b, 0, -1))
    p.aim(f"foot_{back}", (0.12 * b, -0.95, 0.75), (0, 1, 0.4))
    _arm(p, front, -0.6)
    _arm(p, back, 0.8)
    return p


def _passing(p: Poser, stands: str, lifts: str) -> Poser:
    """One leg straight below, the other bent beside it."""
    s, m = (1 if stands == "L" else -1), (1 if lifts == "L" else -1)
    _trunk(p, 0, 3 * s, 0.006)
    p.aim(f"thigh_{stands}", (0.02 * s, -1, 0.02), (0.1 * s, 0, 1))
    p.aim(f"shin_{stands}", (0.01 * s, -1, -0.06), (0.1 * s, 0, -1))
    p.aim(f"foot_{stands}", (0.12 * s, -0.36, 1), (0, 1, 0))
    p.aim(f"thigh_{lifts}", (0.05 * m, -1, 0.38), (0.1 * m, 0, 1))
    p.aim(f"shin_{lifts}", (0.02 * m, -1, -0.75), (0.1 * m, 0, -1))
    p.aim(f"foot_{lifts}", (0.12 * m, -0.75, 0.8), (0, 1, 0.3))
    _arm(p, stands, -0.05)
    _arm(p, lifts, 0.1)
    return p


def all_clips(rig: Rig) -> list[Made]:
    """In the order of their sheet."""
    made = [*blinks(rig), nod(rig), breathe(rig), wave_loop(rig), walk_loop(rig)]
    for one in made:
        assert not one.clip.seams() or not np.isfinite(one.look), one.name
    return made


def first_pose(clip: Clip, rig: Rig, pose: Pose) -> Pose:
    """The part of a pose that a clip's channels name: what a card of it says of its controls."""
    found: dict[str, Held] = {}
    for channel_id in clip.lines:
        row = row_of(rig, channel_id)
        name = rig.controls[row].name if row is not None else None
        if name is None or name not in pose.controls:
            continue
        whole, kept = pose.controls[name], found.get(name, Held(rest=pose.controls[name].rest))
        if channel_id.kind is ChannelKind.SETTING:
            settings = {**kept.settings, channel_id.name: whole.settings[channel_id.name]}
            options = {k: v for k, v in whole.options.items() if k in settings}
            found[name] = replace(kept, settings=settings, options=options)
        elif channel_id.kind is ChannelKind.MOVE:
            found[name] = replace(kept, move=whole.move)
        elif channel_id.kind is ChannelKind.SCALE:
            found[name] = replace(kept, scale=whole.scale)
        else:
            found[name] = replace(kept, turn=whole.turn, euler=whole.euler, order=whole.order)
    return Pose(found)
