"""The clips of the demo, with keys as an animator sets them: blinks, a wave, a walk and more."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from cast.bodies import body
from cast.poser import Poser
from cast.steps import contact, passing
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
        flat: whether it is seen straight on, as drawings are.
    """

    name: str
    clip: Clip
    look: float
    nodes: tuple[str, ...]
    yaw: float
    region: Region
    side: SideName = "centre"
    flat: bool = False


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
        poser = body(Poser(rig), "Wave")
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
        (0, lambda p: contact(p, "L", "R")),
        (6, lambda p: passing(p, "L", "R")),
        (12, lambda p: contact(p, "R", "L")),
        (18, lambda p: passing(p, "R", "L")),
        (24, lambda p: contact(p, "L", "R")),
    ]
    moments = [(float(frame), make(body(Poser(rig), "Stand easy")).state) for frame, make in steps]
    bones = [n for n in rig.skeleton.names if n in rig.control_row]
    names = [n for n in bones if n not in rig.sets["Face"] and n not in ("root", "hat")]
    chosen = channel_ids(rig, names, (Channel.TURN,)) + channel_ids(rig, ("hips",), (Channel.MOVE,))
    clip = keyed(rig, moments, chosen, Ease.SMOOTH, 24.0)
    return Made("Walk loop", clip, 0.0, tuple(bones), 68, Region.TORSO)


def no(rig: Rig) -> Made:
    """No: to the left and the right, smaller each time, and still."""
    moments = []
    for frame, twist in ((0, 0), (5, 24), (11, -20), (16, 10), (20, -5), (25, 0)):
        poser = Poser(rig).turn("head", 2, twist).turn("neck", 0, twist * 0.35)
        moments.append((float(frame), poser.state))
    names = ("neck", "head")
    clip = keyed(rig, moments, channel_ids(rig, names, (Channel.TURN,)), Ease.SMOOTH, 24.0)
    return Made("No", clip, 5.0, ("head", "jaw", "chest"), 24, Region.HEAD)


def look_round(rig: Rig) -> Made:
    """Left shore, right shore, back; the eyes are there before the head."""
    moments = []
    for frame, eyes, head in (
        (0, 0, 0),
        (4, 24, 2),
        (14, 10, 34),
        (26, 6, 36),
        (31, -26, 30),
        (46, -12, -34),
        (60, -6, -36),
        (66, 8, -30),
        (78, 0, 0),
    ):
        poser = Poser(rig).turn("head", -2, head * 0.7).turn("neck", 0, head * 0.3)
        poser.turn("eye_L", 0, 0, eyes).turn("eye_R", 0, 0, -eyes)
        moments.append((float(frame), poser.state))
    names = ("neck", "head", "eye_L", "eye_R")
    clip = keyed(rig, moments, channel_ids(rig, names, (Channel.TURN,)), Ease.SMOOTH, 24.0)
    return Made("Look round", clip, 26.0, ("head", "jaw", "chest"), 14, Region.HEAD)


def shift_weight(rig: Rig) -> Made:
    """From one hip onto the other and back, as people do who wait."""
    moments = []
    for frame, over in ((0, 0.0), (14, 1.0), (54, 1.0), (70, 0.0)):
        poser = body(Poser(rig), "Stand easy")
        poser.move("hips", -0.03 + 0.06 * over, -0.008, 0).turn(
            "hips", 0, 4 - 8 * over, 4 - 8 * over
        )
        poser.turn("spine_1", 1, -2 + 4 * over, -3 + 6 * over)
        poser.turn("spine_2", 0, -2 + 4 * over, -3 + 6 * over).turn("chest", -2, 2 * over, over)
        poser.turn("head", -2, 6 - 12 * over, 3 - 6 * over)
        for side, sign in (("L", 1), ("R", -1)):
            lean = (0.06 if over else 0.10) * sign
            out = (0.10 - 0.06 * over) if side == "L" else (-0.03 - 0.07 * over)
            poser.aim(f"thigh_{side}", (out, -1, 0.03), (0.2 * sign, 0, 1))
            poser.aim(f"shin_{side}", (lean * 0.4, -1, -0.05), (-0.2 * sign, 0, -1))
            poser.aim(f"foot_{side}", (0.3 * sign, -0.37, 0.9), (0, 1, 0))
        moments.append((float(frame), poser.state))
    bones = [n for n in rig.skeleton.names if n in rig.control_row]
    ends = ("thigh_", "shin_", "foot_")
    names = ["hips", "spine_1", "spine_2", "chest", "head"]
    names += [n for n in bones if n.startswith(ends) and "twist" not in n]
    chosen = channel_ids(rig, names, (Channel.TURN,)) + channel_ids(rig, ("hips",), (Channel.MOVE,))
    clip = keyed(rig, moments, chosen, Ease.SMOOTH, 24.0)
    return Made("Shift weight", clip, 30.0, tuple(bones), 24, Region.TORSO)


def all_clips(rig: Rig) -> list[Made]:
    """In the order of their sheet."""
    made = [*blinks(rig), nod(rig), no(rig), breathe(rig), shift_weight(rig), look_round(rig)]
    made += [wave_loop(rig), walk_loop(rig)]
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
