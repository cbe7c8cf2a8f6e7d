"""The first cards of the demo: hand shapes, expressions and body poses as angles."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from scipy.optimize import least_squares

from cast.bones import frame
from fox_hand.core.maths.euler import from_euler
from fox_hand.core.maths.rotations import Array, from_matrix, inverse, multiply
from fox_hand.core.maths.transforms import decompose
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig

FINGERS = ("index", "middle", "ring", "little")
# per finger: curl of knuckle, middle and end joint, spread of the knuckle; degrees
Curl = tuple[float, float, float, float]
HAND_SHAPES: dict[str, tuple[dict[str, Curl], tuple[float, ...] | str]] = {
    "Relaxed": (
        {
            "index": (18, 22, 12, -4),
            "middle": (24, 28, 16, 0),
            "ring": (29, 32, 18, 4),
            "little": (34, 36, 20, 10),
        },
        (8, 0, 0, 10, 12),
    ),
    "Fist": (
        {
            "index": (82, 98, 55, -7),
            "middle": (86, 100, 58, -1),
            "ring": (88, 100, 58, 5),
            "little": (88, 96, 55, 12),
        },
        "middle",
    ),
    "Tense": (
        {
            "index": (-14, 62, 48, 7),
            "middle": (-16, 64, 50, 1),
            "ring": (-14, 64, 50, -6),
            "little": (-12, 60, 48, -12),
        },
        (-10, 14, 0, 30, 44),
    ),
    "Open wide": (
        {
            "index": (-8, 0, 0, 10),
            "middle": (-8, 0, 0, 2),
            "ring": (-8, 0, 0, -8),
            "little": (-8, 0, 0, -14),
        },
        (-14, 10, 0, -6, -4),
    ),
    "Point": (
        {
            "index": (-4, 2, 2, -4),
            "middle": (86, 100, 58, -1),
            "ring": (88, 100, 58, 5),
            "little": (88, 96, 55, 12),
        },
        "middle",
    ),
    "Flat": (
        {
            "index": (0, 0, 0, -7),
            "middle": (0, 0, 0, -1),
            "ring": (0, 0, 0, 5),
            "little": (0, 0, 0, 13),
        },
        (0, -4, 0, 0, 0),
    ),
    "Two-finger": (
        {
            "index": (-4, 3, 2, 7),
            "middle": (-2, 3, 2, -11),
            "ring": (86, 98, 55, 5),
            "little": (88, 96, 55, 12),
        },
        "ring",
    ),
    "Fox": (
        {
            "index": (-8, 4, 3, 4),
            "middle": (72, 44, 20, -5),
            "ring": (76, 44, 20, 7),
            "little": (-8, 4, 3, -4),
        },
        "tips",
    ),
}

# settings without a side go to both sides; jaw, lids and look are joints
EXPRESSIONS: dict[str, dict[str, float]] = {
    "Neutral": {"mouth_corner_up": 0.10},
    "Glad": {
        "mouth_corner_up": 0.85,
        "mouth_wide": 0.75,
        "cheek_up": 1.0,
        "brow_up": 0.55,
        "lip_upper_up": 0.65,
        "lip_lower_down": 0.1,
        "jaw": 13,
        "squint": 0.75,
    },
    "Sad": {
        "mouth_corner_down": 0.95,
        "mouth_wide": -0.15,
        "brow_inner_up": 1.0,
        "brow_down": 0.2,
        "mouth_press": 0.2,
        "slant": -20,
        "drop": 0.9,
        "look_up": -8,
    },
    "Angry": {
        "brow_in": 1.0,
        "brow_down": 1.0,
        "nose_sneer": 0.8,
        "mouth_corner_down": 0.55,
        "mouth_wide": 0.25,
        "lip_upper_up": 0.5,
        "lip_lower_down": 0.55,
        "jaw": 5,
        "slant": 22,
        "drop": 0.75,
        "squint": 0.45,
    },
    "Afraid": {
        "brow_inner_up": 1.0,
        "brow_up": 0.35,
        "mouth_corner_down": 0.75,
        "mouth_wide": 0.55,
        "lip_lower_down": 0.65,
        "lip_upper_up": 0.1,
        "jaw": 9,
        "wide": 1.0,
        "slant": -5,
    },
    "Surprised": {
        "brow_up": 1.25,
        "mouth_round": 0.85,
        "mouth_pucker": 0.15,
        "jaw": 16,
        "wide": 1.1,
    },
    "Disgusted": {
        "nose_sneer_L": 1.3,
        "nose_sneer_R": 0.7,
        "lip_upper_up_L": 1.1,
        "lip_upper_up_R": 0.25,
        "mouth_corner_down_R": 0.8,
        "mouth_corner_down_L": 0.35,
        "brow_down": 0.7,
        "brow_in": 0.7,
        "mouth_wide": -0.1,
        "jaw": 1.5,
        "squint": 0.7,
        "drop": 0.8,
        "look_up": -4,
        "look_left": -8,
    },
}

# Shapes for speech (common practice, no source for the amounts); "tongue" is in degrees.
MOUTHS: dict[str, dict[str, float]] = {
    "Rest": {"mouth_corner_up": 0.10},
    "M B P": {"mouth_press": 1.0, "mouth_wide": 0.1, "cheek_puff": 0.15},
    "Ee": {"mouth_wide": 0.75, "lip_upper_up": 0.45, "lip_lower_down": 0.5, "jaw_open": 0.08},
    "Eh": {"jaw_open": 0.45, "mouth_wide": 0.4, "lip_upper_up": 0.15, "lip_lower_down": 0.2},
    "Ah": {"jaw_open": 1.05, "lip_upper_up": 0.2},
    "Oh": {"jaw_open": 0.6, "mouth_round": 0.75, "mouth_pucker": 0.3},
    "Oo": {"mouth_pucker": 0.85, "mouth_round": 0.35, "jaw_open": 0.15},
    "F V": {"lip_lower_in": 1.0, "lip_upper_up": 0.4, "jaw_open": 0.12},
    "L": {"jaw_open": 0.5, "mouth_wide": 0.15, "lip_upper_up": 0.2, "tongue": -24},
    "W": {"mouth_pucker": 1.15, "jaw_open": 0.04},
}

Aim = tuple[tuple[float, float, float], tuple[float, float, float]]


class Poser:
    """Collects turns of one rig and gives the state. Angles are (bend, twist, sway) degrees,
    written for the left; on the right twist and sway change sign by themselves."""

    def __init__(self, rig: Rig) -> None:
        self.rig = rig
        self._state = rig.rest

    @classmethod
    def of(cls, rig: Rig, state: State) -> Poser:
        """Go on from a state."""
        poser = cls(rig)
        poser._state = state
        return poser

    @property
    def state(self) -> State:
        return self._state

    def turn(self, name: str, bend: float = 0, twist: float = 0, sway: float = 0) -> Poser:
        row = self.rig.control_row[name]
        sign = -1 if name.endswith("_R") else 1
        euler = np.radians([bend, twist * sign, sway * sign])
        return self._set(row, from_euler(euler, self.rig.controls[row].order), euler)

    def aim(self, name: str, along: tuple[float, ...], towards: tuple[float, ...]) -> Poser:
        """Turn a joint so that its bone points along a world direction."""
        row = self.rig.control_row[name]
        node = self.rig.controls[row].node
        parent = self.rig.skeleton.parents[node]
        at = self.rig.evaluate(self._state).nodes
        above = decompose(at[parent])[1]
        frame_now = multiply(above, self.rig.skeleton.rotation[node])
        return self._set(
            row, multiply(inverse(frame_now), from_matrix(frame(along, towards))), None
        )

    def move(self, name: str, x: float, y: float, z: float) -> Poser:
        """Move a joint by metres along its own rest axes."""
        move = self._state.move.copy()
        move[self.rig.control_row[name]] = (x, y, z)
        self._state = self._state.with_(move=move)
        return self

    def setting(self, name: str, value: float) -> Poser:
        settings = self._state.settings.copy()
        for full in (name, f"{name}_L", f"{name}_R"):
            if full in self.rig.setting_row:
                settings[self.rig.setting_row[full]] = value
        self._state = self._state.with_(settings=settings)
        return self

    def _set(self, row: int, rotation: Array, euler: Array | None) -> Poser:
        turn, hints = self._state.turn.copy(), self._state.euler.copy()
        turn[row] = rotation
        if euler is not None:
            hints[row] = euler
        self._state = self._state.with_(turn=turn, euler=hints)
        return self


def hand_shape(poser: Poser, name: str, side: str) -> Poser:
    """Curl the fingers of one hand."""
    curls, thumb = HAND_SHAPES[name]
    for finger, (a, b, c, spread) in curls.items():
        poser.turn(f"finger_{finger}_1_{side}", a, 0, spread)
        poser.turn(f"finger_{finger}_2_{side}", b)
        poser.turn(f"finger_{finger}_3_{side}", c)
    angles = _solved_thumb(poser.rig, name, thumb) if isinstance(thumb, str) else thumb
    return _thumb(poser, side, angles)


def _thumb(poser: Poser, side: str, angles: tuple[float, ...] | Array) -> Poser:
    a = [float(v) for v in angles]
    poser.turn(f"finger_thumb_1_{side}", a[0], a[2], a[1])
    poser.turn(f"finger_thumb_2_{side}", a[3])
    return poser.turn(f"finger_thumb_3_{side}", a[4])


def _solved_thumb(rig: Rig, name: str, aim: str) -> Array:
    """Thumb angles by least squares against a target on the curled fingers."""
    base = Poser(rig)
    curls, _ = HAND_SHAPES[name]
    for finger, (a, b, c, spread) in curls.items():
        base.turn(f"finger_{finger}_1_L", a, 0, spread)
        base.turn(f"finger_{finger}_2_L", b).turn(f"finger_{finger}_3_L", c)
    node = {n: i for i, n in enumerate(rig.skeleton.names)}
    size = 0.60 * 0.48  # metres of a hand
    rest = rig.skeleton.rest_world
    hand = rest[node["hand_L"]]
    palm = hand[:3, :3]

    def at(world: Array, joint: str, along: float = 0.0) -> Array:
        m = world[node[joint]]
        return np.asarray(m[:3, 3] + m[:3, 1] * along)

    def residuals(angles: Array) -> list[float]:
        poser = Poser(rig)
        poser._state = base.state
        world = rig.evaluate(_thumb(poser, "L", angles).state).nodes
        tip = at(world, "finger_thumb_3_L", 0.135 * size)
        middle = at(world, "finger_thumb_3_L")
        effort = list(np.asarray(angles) / np.array([90, 80, 90, 80, 80]) * 0.10)
        if aim == "tips":
            ends = [at(world, f"finger_{f}_3_L", 0.115 * size) for f in ("middle", "ring")]
            # pads touch: the thumb's tip stands just in front of the two finger tips
            target = (ends[0] + ends[1]) / 2 + palm[:, 2] * 0.055 * size + palm[:, 1] * 0.03 * size
            return [*((tip - target) / size * 9), *effort]
        knuckle = at(world, f"finger_{aim}_2_L") * 0.4 + at(world, f"finger_{aim}_3_L") * 0.6
        target = knuckle + palm[:, 2] * 0.135 * size
        lean = palm.T @ (middle - target) / size
        return [*((tip - target) / size * 6), (lean[2] - 0.01) * 4, (lean[1] + 0.02) * 4, *effort]

    solved = least_squares(
        residuals,
        np.array([20.0, 0, 0, 20, 20]),
        bounds=([-30, -75, -70, -15, -15], [85, 75, 70, 75, 85]),
    )
    return np.round(solved.x, 1)


def expression(poser: Poser, name: str) -> Poser:
    """Face settings, jaw, lids and look."""
    values = dict(EXPRESSIONS[name])
    jaw, squint, wide = (values.pop(k, 0.0) for k in ("jaw", "squint", "wide"))
    drop, slant = values.pop("drop", 0.0), values.pop("slant", 0.0)
    up, left = values.pop("look_up", 0.0), values.pop("look_left", 0.0)
    poser.setting("jaw_open", round(jaw / 22, 3))
    poser.setting("lid_wide", wide).setting("lid_squint", squint)
    poser.setting("lid_slant", round(slant / 24, 3))
    poser.setting("lid_shut", round((17 * drop - 2 - 0.6 * up) / 52, 3))
    for side in "LR":
        poser.turn(f"eye_{side}", up, 0, left * (1 if side == "L" else -1))
    for key, value in values.items():
        poser.setting(key, value)
    return poser


def mouth(poser: Poser, name: str) -> Poser:
    """A mouth of the speech chart."""
    values = dict(MOUTHS[name])
    tongue = values.pop("tongue", 0.0)
    if tongue:
        poser.turn("tongue_1", tongue).turn("tongue_2", tongue)
    for key, value in values.items():
        poser.setting(key, value)
    return poser


def stand_easy(p: Poser) -> Poser:
    p.turn("hips", 0, 4, 4).turn("spine_1", 1, -2, -3).turn("spine_2", 0, -2, -3)
    p.turn("chest", -2, -2, -1).turn("head", -2, 6, 3).move("hips", -0.03, -0.008, 0)
    p.aim("thigh_L", (0.16, -1, 0.06), (0.3, 0, 1)).aim("shin_L", (0.06, -1, -0.08), (-0.3, 0, -1))
    p.aim("foot_L", (0.4, -0.36, 0.9), (0, 1, 0))
    p.aim("thigh_R", (-0.03, -1, 0.0), (-0.1, 0, 1)).aim("shin_R", (0.02, -1, -0.04), (0.1, 0, -1))
    p.aim("foot_R", (-0.2, -0.38, 0.9), (0, 1, 0))
    for side, s in (("L", 1), ("R", -1)):
        p.aim(f"arm_{side}", (0.30 * s, -1, -0.06), (0.2 * s, 0, 1))
        p.aim(f"forearm_{side}", (0.16 * s, -1, 0.24), (0.3 * s, 0.2, 1))
        hand_shape(p, "Relaxed", side)
    return p


def wave(p: Poser) -> Poser:
    stand_easy(p)
    p.turn("collar_L", 0, 0, 10).turn("head", -4, 10, 6).turn("chest", -3, 6, 3)
    p.aim("arm_L", (0.85, 0.06, 0.34), (0, 1, 0.6)).aim("forearm_L", (0.34, 1, 0.25), (0, 0.2, 1))
    p.aim("hand_L", (0.22, 1, 0.05), (-0.10, 0, 1))
    return hand_shape(p, "Open wide", "L")


def point_across(p: Poser) -> Poser:
    p.move("hips", 0, -0.055, 0.01).turn("hips", 5, -14, 0)
    p.turn("spine_1", 4, -4, 0).turn("spine_2", 3, -4, 0).turn("chest", 0, -6, 0)
    p.turn("head", -6, 16, -4)
    p.aim("thigh_L", (0.10, -1, 0.60), (0, 0.4, 1)).aim("shin_L", (0.05, -1, -0.18), (0, 0, -1))
    p.aim("foot_L", (0.2, -0.36, 1), (0, 1, 0))
    p.aim("thigh_R", (-0.12, -1, -0.30), (-0.1, 0, 1)).aim("shin_R", (-0.03, -1, -0.5), (0, 0, -1))
    p.aim("foot_R", (-0.3, -0.55, 0.9), (0, 1, 0))
    p.turn("collar_L", 0, 0, 8).aim("arm_L", (0.65, 0.05, 0.9), (0, 1, 0.2))
    p.aim("forearm_L", (0.40, 0.16, 1), (0, 1, 0)).aim("hand_L", (0.36, 0.16, 1), (-0.3, -1, 0.1))
    p.aim("arm_R", (-0.60, -1, -0.34), (-0.3, 0, 1))
    p.aim("forearm_R", (0.25, -0.75, 0.25), (0.2, 0.3, 1))
    return hand_shape(hand_shape(p, "Point", "L"), "Fist", "R")


def sit_on_bollard(p: Poser) -> Poser:
    p.turn("hips", -4).move("hips", 0, -0.315, -0.03)
    p.turn("spine_1", 5).turn("spine_2", 6).turn("chest", 4, 4).turn("head", -6, -10, -4)
    for side, s in (("L", 1), ("R", -1)):
        p.aim(f"thigh_{side}", (0.18 * s, -0.04, 1), (0, 1, 0))
        p.aim(f"shin_{side}", (0.05 * s, -1, 0.04), (0, 0, -1))
        p.aim(f"foot_{side}", (0.2 * s, -0.36, 1), (0, 1, 0))
        p.aim(f"arm_{side}", (0.40 * s, -1, 0.20), (0.1 * s, 0, 1))
        p.aim(f"forearm_{side}", (-0.08 * s, -0.42, 1), (-0.1 * s, 1, 0.3))
        p.aim(f"hand_{side}", (-0.05 * s, -0.25, 1), (-0.1 * s, -1, -0.2))
        hand_shape(p, "Relaxed", side)
    return p


def crouch(p: Poser) -> Poser:
    p.turn("hips", 24).move("hips", 0, -0.335, -0.06)
    p.turn("spine_1", 6).turn("spine_2", 6).turn("chest", 4).turn("neck", -12).turn("head", -16)
    for side, s in (("L", 1), ("R", -1)):
        p.aim(f"thigh_{side}", (0.42 * s, 0.02, 1), (0.2 * s, 1, 0))
        p.aim(f"shin_{side}", (-0.12 * s, -1, -0.62), (-0.2 * s, 0.3, -1))
        p.aim(f"foot_{side}", (0.35 * s, -0.36, 1), (0, 1, 0))
        p.aim(f"arm_{side}", (0.45 * s, -0.7, 0.75), (0.1 * s, 0.5, 1))
        p.aim(f"forearm_{side}", (-0.45 * s, -0.05, 1), (-0.1 * s, 1, 0.3))
        p.aim(f"hand_{side}", (-0.4 * s, -0.35, 1), (-0.2 * s, -1, -0.3))
        hand_shape(p, "Relaxed", side)
    return p


def arms_up(p: Poser) -> Poser:
    p.turn("chest", -6).turn("head", -14)
    for side, s in (("L", 1), ("R", -1)):
        p.turn(f"collar_{side}", 0, 0, 14)
        p.aim(f"arm_{side}", (0.62 * s, 1, 0.1), (0.3 * s, 0.1, 1))
        p.aim(f"forearm_{side}", (0.12 * s, 1, 0.42), (-0.1 * s, 0.1, 1))
        p.aim(f"hand_{side}", (0.1 * s, 1, 0.1), (-0.2 * s, 0, 1))
        hand_shape(p, "Open wide", side)
    return p


BODY_POSES: dict[str, Callable[[Poser], Poser]] = {
    "Stand easy": stand_easy,
    "Wave": wave,
    "Point across": point_across,
    "Sit on bollard": sit_on_bollard,
    "Crouch": crouch,
    "Arms up": arms_up,
}
