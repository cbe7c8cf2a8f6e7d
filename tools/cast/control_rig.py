"""Goals, poles, looks, drives and limits of the cast: the part of a rig that pulls and follows."""

from __future__ import annotations

from cast.bones import Bones
from cast.figure import JAW_OPEN, SEAL
from cast.proportions import Build
from fox_hand.core.model.controls import MirrorRule, Region, SettingKind, Side
from fox_hand.core.model.solvers import DrivenKind
from fox_hand.interchange.sidecar import (
    DriveNotes,
    LimbNotes,
    LookNotes,
    SettingNotes,
    Span,
    TargetNotes,
    TwistNotes,
)

SIDES = (("L", Side.LEFT, "Left"), ("R", Side.RIGHT, "Right"))
FINGERS = ("index", "middle", "ring", "little")

# Degrees about bend, twist and sway. Normal ranges of motion after the American Academy of
# Orthopaedic Surgeons, "Joint Motion: Method of Measuring and Recording" (1965); see
# tests/core/animation/test_motion_ranges.py.
LIMITS: dict[str, tuple[Span, Span, Span]] = {
    "neck": ((-25, 25), (-40, 40), (-25, 25)),
    "head": ((-20, 20), (-40, 40), (-20, 20)),
    "jaw": ((-3, 30), (-8, 8), (-10, 10)),
    "forearm": ((-8, 144), None, None),
    "hand": ((-70, 80), None, (-30, 30)),
    "finger_1": ((-45, 90), None, (-25, 25)),
    "finger_2": ((-5, 100), (-5, 5), (-5, 5)),
    "finger_3": ((-10, 90), (-5, 5), (-5, 5)),
    "shin": ((-6, 135), None, None),
    "foot": ((-50, 50), None, (-35, 35)),
    "toe": ((-45, 70), (-5, 5), (-10, 10)),
}


# settings of both sides: name, label, lowest, highest. A roll turns about the bone, so its mirror
# image turns the other way.
PAIRED: dict[tuple[str, str, float, float], MirrorRule] = {
    ("arm_follow", "To the goal", 0, 1): MirrorRule.SWAP,
    ("arm_roll", "Upper roll", -180, 180): MirrorRule.SWAP_SIGN,
    ("forearm_roll", "Lower roll", -180, 180): MirrorRule.SWAP_SIGN,
    ("leg_follow", "To the goal", 0, 1): MirrorRule.SWAP,
    ("thigh_roll", "Upper roll", -180, 180): MirrorRule.SWAP_SIGN,
    ("shin_roll", "Lower roll", -180, 180): MirrorRule.SWAP_SIGN,
    ("hand_curl", "Curl", -0.4, 1.15): MirrorRule.SWAP,
    ("hand_spread", "Spread", -1, 1): MirrorRule.SWAP,
    ("lid_shut", "Shut", -0.3, 1.1): MirrorRule.SWAP,
    ("lid_wide", "Wide", 0, 1.2): MirrorRule.SWAP,
    ("lid_squint", "Squint", 0, 1.2): MirrorRule.SWAP,
    ("lid_slant", "Slant", -1, 1): MirrorRule.SWAP,
}


def limits_of(name: str) -> list[Span] | None:
    """The limits of a joint by its name, None for free ones."""
    parts = name.removesuffix("_L").removesuffix("_R").split("_")
    key = parts[0]
    if key == "finger":
        if parts[1] == "thumb":
            return None
        key = f"finger_{parts[2]}"
    if parts[-1] == "twist" or key not in LIMITS:
        return None
    return list(LIMITS[key])


def targets(bones: Bones, metres: float) -> dict[str, TargetNotes]:
    """Goals and poles of arms and legs, and what the eyes look at."""
    found: dict[str, TargetNotes] = {}
    for letter, side, word in SIDES:
        other = "R" if letter == "L" else "L"
        found[f"hand_goal_{letter}"] = TargetNotes(
            "goal",
            f"hand_{letter}",
            f"{word} hand",
            under="root",
            side=side,
            region=Region.ARMS,
            partner=f"hand_goal_{other}",
            settings=[f"arm_follow_{letter}", f"arm_roll_{letter}", f"forearm_roll_{letter}"],
        )
        found[f"elbow_{letter}"] = TargetNotes(
            "pole",
            f"forearm_{letter}",
            f"{word} elbow",
            (0.0, -0.03, -0.32),
            under="chest",
            side=side,
            region=Region.ARMS,
            partner=f"elbow_{other}",
        )
        found[f"foot_goal_{letter}"] = TargetNotes(
            "goal",
            f"foot_{letter}",
            f"{word} foot",
            under="root",
            side=side,
            region=Region.LEGS,
            partner=f"foot_goal_{other}",
            settings=[f"leg_follow_{letter}", f"thigh_roll_{letter}", f"shin_roll_{letter}"],
        )
        found[f"knee_{letter}"] = TargetNotes(
            "pole",
            f"shin_{letter}",
            f"{word} knee",
            (0.0, 0.0, 0.42),
            under="root",
            side=side,
            region=Region.LEGS,
            partner=f"knee_{other}",
        )
    eyes = (bones.at("eye_L") + bones.at("eye_R")) / 2
    ahead = (eyes - bones.at("eye_L")) * metres
    found["gaze"] = TargetNotes(
        "look",
        "eye_L",
        "Gaze",
        (round(float(ahead[0]), 6), 0.0, 1.1),
        under="root",
        region=Region.EYES,
        settings=["gaze_follow"],
    )
    return found


def settings(build: Build) -> dict[str, SettingNotes]:
    """Settings that are not morph targets."""
    found = {
        "gaze_follow": SettingNotes("Eyes follow"),
        "jaw_open": SettingNotes("Open", -0.1, 1.3),
    }
    if build.hat:
        options = ["Straight", "Pushed back", "Over the eyes"]
        found["hat"] = SettingNotes("Hat", kind=SettingKind.CHOICE, options=options)
    if build.sealed:
        found["lips_sealed"] = SettingNotes("Lips sealed", default=1.0, kind=SettingKind.BOOL)
        found[SEAL] = SettingNotes("Seal", -0.5, 1.5, helper=True)
    for letter, other in (("L", "R"), ("R", "L")):
        for (name, label, low, high), rule in PAIRED.items():
            found[f"{name}_{letter}"] = SettingNotes(label, low, high, 0.0, rule, f"{name}_{other}")
    return found


def solvers() -> list[LimbNotes | LookNotes | TwistNotes]:
    """Four limbs, two eyes, two forearms that share the hands' twist."""
    found: list[LimbNotes | LookNotes | TwistNotes] = []
    for letter, _, word in SIDES:
        chains = (
            ("arm", "arm", "forearm", "hand", "elbow"),
            ("leg", "thigh", "shin", "foot", "knee"),
        )
        for limb, upper, lower, end, pole in chains:
            found.append(
                LimbNotes(
                    f"{word} {limb}",
                    f"{upper}_{letter}",
                    f"{lower}_{letter}",
                    f"{end}_{letter}",
                    f"{end}_goal_{letter}",
                    f"{pole}_{letter}",
                    f"{limb}_follow_{letter}",
                    f"{upper}_roll_{letter}",
                    f"{lower}_roll_{letter}",
                )
            )
    found.sort(key=lambda notes: "leg" in getattr(notes, "name", ""))
    for letter, _, word in SIDES:
        # each eye turns further outwards than inwards
        out, inner = (40.0, 32.0) if letter == "L" else (32.0, 40.0)
        found.append(
            LookNotes(f"{word} eye", f"eye_{letter}", "gaze", "gaze_follow", out, inner, 26.0, 30.0)
        )
    for letter, _, _ in SIDES:
        found.append(TwistNotes(f"forearm_twist_{letter}", f"hand_{letter}", "y", 0.5))
    return found


def _turn(source: str, target: str, axis: str, *points: tuple[float, float]) -> DriveNotes:
    return DriveNotes(source, DrivenKind.TURN, target, list(points), axis)  # type: ignore[arg-type]


def drives(build: Build) -> list[DriveNotes]:
    """Jaw, lids, hat and hands that settings move."""
    found = [_turn("jaw_open", "jaw", "x", (-0.1, -0.1 * JAW_OPEN), (1.3, 1.3 * JAW_OPEN))]
    if build.hat:
        found.append(_turn("hat", "hat", "x", (0, 0), (1, -17), (2, 15)))
        found.append(DriveNotes("hat", DrivenKind.MOVE, "hat", [(0, 0), (1, 0.0), (2, -0.02)], "y"))
    if build.sealed:
        found.append(
            DriveNotes(
                "jaw_open",
                DrivenKind.SETTING,
                SEAL,
                [(-0.1, -0.1), (0, 0), (1.3, 1.3)],
                times="lips_sealed",
            )
        )
    for letter, _, _ in SIDES:
        found += _lids(letter)
        found += _hand(letter, 1.0 if letter == "L" else -1.0)
    return found


def _lids(letter: str) -> list[DriveNotes]:
    upper, lower = f"lid_upper_{letter}", f"lid_lower_{letter}"
    sign = 1.0 if letter == "L" else -1.0
    return [
        _turn(f"lid_shut_{letter}", upper, "x", (-0.3, -12), (0, 0), (1, 52), (1.1, 56)),
        _turn(f"lid_shut_{letter}", lower, "x", (0.4, 0), (1, 15), (1.1, 17)),
        _turn(f"lid_wide_{letter}", upper, "x", (0, 0), (1.2, -24)),
        _turn(f"lid_wide_{letter}", lower, "x", (0, 0), (1.2, -14)),
        _turn(f"lid_squint_{letter}", lower, "x", (0, 0), (1.2, 24)),
        _turn(f"lid_slant_{letter}", upper, "y", (-1, -24 * sign), (1, 24 * sign)),
        _turn(f"lid_slant_{letter}", lower, "y", (-1, -7 * sign), (1, 7 * sign)),
    ]


def _hand(letter: str, sign: float) -> list[DriveNotes]:
    found = []
    curls = {"1": 80.0, "2": 95.0, "3": 55.0}
    for finger, spread in zip(FINGERS, (10.0, 2.0, -8.0, -14.0), strict=True):
        for joint, most in curls.items():
            points = ((-0.4, -0.22 * most), (0, 0), (1.15, 1.15 * most))
            found.append(
                _turn(f"hand_curl_{letter}", f"finger_{finger}_{joint}_{letter}", "x", *points)
            )
        found.append(
            _turn(
                f"hand_spread_{letter}",
                f"finger_{finger}_1_{letter}",
                "z",
                (-1, -spread * sign),
                (1, spread * sign),
            )
        )
    return found
