"""The rig sidecar of a cast member: labels, regions, holders of settings, sets."""

from __future__ import annotations

from cast import control_rig
from cast.figure import SEAL, Figure
from cast.proportions import METRES_PER_HEAD
from fox_hand.core.model.controls import Channel, MirrorRule, Region, Side
from fox_hand.core.naming.side_region import label_of, partner_name, region_from_name
from fox_hand.interchange.sidecar import (
    FORMAT,
    VERSION,
    ControlNotes,
    HolderNotes,
    SettingNotes,
    Sidecar,
    SpotNotes,
    TargetNotes,
)

MOVING = {"root", "hips", "jaw", "tongue_1", "tongue_2"}
# VRM 1.0 humanoid bones
ROLES = {
    "hips": "hips",
    "spine_1": "spine",
    "spine_2": "chest",
    "chest": "upperChest",
    "neck": "neck",
    "head": "head",
    "jaw": "jaw",
}
SIDE_ROLES = {
    "collar": "Shoulder",
    "arm": "UpperArm",
    "forearm": "LowerArm",
    "hand": "Hand",
    "thigh": "UpperLeg",
    "shin": "LowerLeg",
    "foot": "Foot",
    "toe": "Toes",
    "eye": "Eye",
    "finger_thumb_1": "ThumbMetacarpal",
    "finger_thumb_2": "ThumbProximal",
    "finger_thumb_3": "ThumbDistal",
} | {
    f"finger_{finger}_{i}": f"{finger.capitalize()}{bone}"
    for finger in ("index", "middle", "ring", "little")
    for i, bone in enumerate(("Proximal", "Intermediate", "Distal"), 1)
}
FINGER_AXES = ("curl", "roll", "spread")
AXES = {
    "finger": FINGER_AXES,
    "eye": ("up", "roll", "left"),
    "lid": ("close", "slant", "shift"),
    "jaw": ("open", "roll", "side"),
    "head": ("nod", "turn", "tilt"),
    "neck": ("nod", "turn", "tilt"),
}
# holder: settings it holds, region, place in heads from the middle of the head
HOLDERS: dict[str, tuple[str, tuple[str, ...], Region, tuple[float, float, float]]] = {
    "mouth": (
        "Mouth",
        ("jaw_open", "mouth_pucker", "mouth_round", "mouth_press", "lip_lower_in"),
        Region.MOUTH,
        (0.0, -0.33, 0.44),
    ),
    "mouth_{s}": (
        "Mouth",
        (
            "mouth_corner_up_{s}",
            "mouth_corner_down_{s}",
            "mouth_wide_{s}",
            "lip_upper_up_{s}",
            "lip_lower_down_{s}",
        ),
        Region.MOUTH,
        (0.155, -0.245, 0.42),
    ),
    "cheek_{s}": (
        "Cheek",
        ("cheek_up_{s}", "cheek_puff_{s}", "nose_sneer_{s}"),
        Region.HEAD,
        (0.25, -0.11, 0.37),
    ),
    "lids_{s}": (
        "Lids",
        ("lid_shut_{s}", "lid_wide_{s}", "lid_squint_{s}", "lid_slant_{s}"),
        Region.EYES,
        (0.30, 0.06, 0.36),
    ),
    "brow_{s}": (
        "Brow",
        ("brow_up_{s}", "brow_down_{s}", "brow_in_{s}", "brow_inner_up_{s}"),
        Region.EYES,
        (0.16, 0.215, 0.42),
    ),
}
SETTING_LABELS = {
    "mouth_corner_up": "Corner up",
    "mouth_corner_down": "Corner down",
    "mouth_wide": "Wide",
    "lip_upper_up": "Upper lip up",
    "lip_lower_down": "Lower lip down",
    "mouth_pucker": "Pucker",
    "mouth_round": "Round",
    "mouth_press": "Press",
    "lip_lower_in": "Lower lip in",
    "cheek_up": "Cheek up",
    "cheek_puff": "Puff",
    "nose_sneer": "Sneer",
    "brow_up": "Up",
    "brow_down": "Down",
    "brow_in": "Together",
    "brow_inner_up": "Inner end up",
}


def sidecar_of(figure: Figure, title: str) -> Sidecar:
    """Everything glTF cannot say about the figure."""
    names = figure.bones.names
    controls = {name: _control(name) for name in names}
    known = frozenset(figure.morphs)
    settings = {name: _setting(name, known) for name in figure.morphs if name != SEAL}
    settings |= control_rig.settings(figure.build)
    targets = control_rig.targets(figure.bones, METRES_PER_HEAD)
    holders = {}
    for pattern in HOLDERS:
        sides = (Side.LEFT, Side.RIGHT) if "{s}" in pattern else (Side.CENTRE,)
        for side in sides:
            letter = "R" if side is Side.RIGHT else "L"
            holders[pattern.format(s=letter)] = _holder(figure, pattern, side, letter)
    if figure.build.sealed:
        holders["mouth"].settings += ["lips_sealed", SEAL]
    return Sidecar(
        FORMAT,
        VERSION,
        title,
        controls=controls,
        targets=targets,
        settings=settings,
        holders=holders,
        drives=control_rig.drives(figure.build),
        solvers=control_rig.solvers(),
        sets=_sets(names, holders, targets),
        # beside the head, where nothing else is; all other places come from the figure itself
        picker={"gaze": SpotNotes(0.16, 0.08)},
    )


def _control(name: str) -> ControlNotes:
    first = name.split("_", maxsplit=1)[0]
    moves = name in MOVING
    hinge = first in ("forearm", "shin") or name[-3:-1] in ("2_", "3_")
    held = []
    if first == "hand":
        held = [f"hand_curl{name[-2:]}", f"hand_spread{name[-2:]}"]
    elif name == "hat":
        held = ["hat"]
    return ControlNotes(
        label=label_of(name),
        region=region_from_name(name),
        # a hinge that bends past a quarter turn needs its bend outermost
        order="XZY" if hinge else "ZXY",
        channels=[Channel.MOVE, Channel.TURN] if moves else [Channel.TURN],
        limits=control_rig.limits_of(name),
        axis_labels=AXES.get(first, ("bend", "twist", "sway")),
        role=ROLES.get(name) or _side_role(name),
        helper="_twist_" in name,
        settings=held,
    )


def _side_role(name: str) -> str | None:
    side = {"_L": "left", "_R": "right"}.get(name[-2:])
    bone = SIDE_ROLES.get(name[:-2])
    return f"{side}{bone}" if side and bone else None


def _setting(name: str, known: frozenset[str]) -> SettingNotes:
    bare = name.removesuffix("_L").removesuffix("_R")
    partner = partner_name(name, known)
    rule = MirrorRule.SWAP if partner else MirrorRule.KEEP
    # a little past the ends on purpose: cartoon faces are pushed
    return SettingNotes(SETTING_LABELS[bare], -0.5, 1.5, 0.0, rule, partner)


def _holder(figure: Figure, pattern: str, side: Side, letter: str) -> HolderNotes:
    label, settings, region, place = HOLDERS[pattern]
    bones = figure.bones
    sign = -1.0 if side is Side.RIGHT else 1.0
    at = bones.head_centre + (place[0] * sign, place[1], place[2])
    offset = bones.world[bones.row("head")][:3, :3].T @ (at - bones.at("head")) * METRES_PER_HEAD
    partner = None
    if side is not Side.CENTRE:
        partner = pattern.format(s="L" if letter == "R" else "R")
    return HolderNotes(
        label=label,
        at="head",
        offset=(round(float(offset[0]), 5), round(float(offset[1]), 5), round(float(offset[2]), 5)),
        settings=[s.format(s=letter) for s in settings],
        side=side,
        region=region,
        partner=partner,
    )


def _sets(
    names: list[str], holders: dict[str, HolderNotes], targets: dict[str, TargetNotes]
) -> dict[str, list[str]]:
    def starting(*words: str) -> list[str]:
        return [n for n in names if n.startswith(words)]

    left = [n for n in starting("hand_L", "finger_") if n.endswith("_L")]
    right = [n for n in starting("hand_R", "finger_") if n.endswith("_R")]
    return {
        "Face": [*holders, *starting("jaw", "tongue", "eye", "lid"), "gaze"],
        "Spine": ["hips", *starting("spine"), "chest", "neck", "head"],
        "L hand": left,
        "R hand": right,
        "Both hands": left + right,
        "Goals": [n for n in targets if n != "gaze"],
    }
