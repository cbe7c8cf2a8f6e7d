"""Invented bodies of many builds, in any stance, with names of any family."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from scipy.spatial.transform import Rotation

from fox_hand.core.maths.rotations import Array
from fox_hand.core.maths.transforms import decompose
from fox_hand.core.model.skeleton import Skeleton
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.joint_controls import joint_controls, unique_names

FINGERS = ("Thumb", "Index", "Middle", "Ring", "Little")
BONES = ("Proximal", "Intermediate", "Distal")
THUMB = ("Metacarpal", "Proximal", "Distal")


@dataclass(frozen=True)
class Build:
    """A figure, in shares of its height unless said.

    Args:
        height: metres.
        legs, arms: lengths of thigh with shin, of upper with lower arm.
        arms_down: degrees by which the arms hang below the horizontal at rest.
        spine, necks: how many joints.
        wide: half the distance of the shoulders.
        palms: whether fingers begin with a metacarpal.
        fingers: how many of them.
    """

    height: float = 1.7
    legs: float = 0.46
    arms: float = 0.32
    arms_down: float = 45.0
    spine: int = 3
    necks: int = 1
    wide: float = 0.11
    palms: bool = False
    fingers: int = 5


@dataclass
class _Body:
    joints: list[tuple[str, str, np.ndarray]] = field(default_factory=list)

    def add(self, key: str, above: str, place: Sequence[float] | Array) -> None:
        self.joints.append((key, above, np.array(place, dtype=float)))


def joints_of(build: Build) -> list[tuple[str, str, np.ndarray]]:
    """Joints as key, key of the one above, and place in metres: own left is +X, up +Y, ahead +Z.
    A key is a role, or something that has none such as ``extra neck 1``."""
    body, hips = _Body(), build.legs + 0.05
    body.add("hips", "", (0, hips, 0))
    above, top = "hips", 0.82
    for i in range(build.spine):
        key = _spine_key(i, build.spine)
        body.add(key, above, (0, hips + (top - hips) * (i + 1) / (build.spine + 1), -0.01 * i))
        above = key
    chest = above
    for i in range(build.necks):
        key = "neck" if i == 0 else f"extra neck {i}"
        body.add(key, above, (0, top + 0.02 + 0.05 * i / build.necks, 0.0))
        above = key
    body.add("head", above, (0, top + 0.08, 0.01))
    body.add("jaw", "head", (0, top + 0.09, 0.03))
    for side, sign in (("left", 1), ("right", -1)):
        body.add(f"{side}Eye", "head", (sign * 0.02, top + 0.12, 0.05))
        _arm(body, build, side, sign, chest, top)
        _leg(body, build, side, sign, hips)
    return [(key, above, place * build.height) for key, above, place in body.joints]


def _spine_key(number: int, count: int) -> str:
    if number == 0:
        return "spine"
    if count == 2:
        return "chest"
    return {count - 2: "chest", count - 1: "upperChest"}.get(number, f"extra spine {number}")


def _arm(body: _Body, build: Build, side: str, sign: int, chest: str, top: float) -> None:
    down = np.radians(build.arms_down)
    way = np.array([sign * np.cos(down), -np.sin(down), 0.0])
    shoulder = np.array([sign * build.wide, top - 0.01, 0.0])
    body.add(f"{side}Shoulder", chest, (sign * 0.02, top - 0.02, 0.0))
    body.add(f"{side}UpperArm", f"{side}Shoulder", shoulder)
    elbow = shoulder + way * build.arms * 0.52 + [0, 0, -0.004]
    wrist = shoulder + way * build.arms
    body.add(f"{side}LowerArm", f"{side}UpperArm", elbow)
    body.add(f"{side}Hand", f"{side}LowerArm", wrist)
    for number, finger in enumerate(FINGERS[: build.fingers]):
        across = np.array([0.0, 0.0, 0.012 * (2 - number)])
        above, start = f"{side}Hand", 0.02 if finger == "Thumb" else 0.055
        if build.palms and finger != "Thumb":
            key = f"{side} palm {finger}"
            body.add(key, above, wrist + way * 0.015 + across * 0.5)
            above = key
        for bone, name in enumerate(THUMB if finger == "Thumb" else BONES):
            key = f"{side}{finger}{name}"
            body.add(key, above, wrist + way * (start + 0.02 * bone) + across)
            above = key


def _leg(body: _Body, build: Build, side: str, sign: int, hips: float) -> None:
    x = sign * 0.05
    body.add(f"{side}UpperLeg", "hips", (x, hips - 0.03, 0.0))
    body.add(f"{side}LowerLeg", f"{side}UpperLeg", (x, 0.04 + build.legs * 0.48, 0.006))
    body.add(f"{side}Foot", f"{side}LowerLeg", (x, 0.04, -0.01))
    body.add(f"{side}Toes", f"{side}Foot", (x, 0.01, 0.07))


@dataclass(frozen=True)
class Placed:
    """How a body's file differs from ours.

    Args:
        yaw: degrees by which it looks aside of +Z.
        at: where it stands, metres.
        scale: what its root is scaled by; places stay the same in the world.
        axes: seed of the joints' axes; None for those of the world.
        flips: whether axes of some joints point the other way by a negative rest scale.
    """

    yaw: float = 0.0
    at: tuple[float, float, float] = (0.0, 0.0, 0.0)
    scale: float = 1.0
    axes: int | None = None
    flips: bool = False


def body_rig(
    build: Build, names: Mapping[str, str] | None = None, placed: Placed | None = None
) -> Rig:
    """A rig of joints alone, everything about it inferred.

    Args:
        names: by key; joints without a name are left out and what hangs on them hangs higher up.
            None names them by their keys.
    """
    placed = placed or Placed()
    joints = joints_of(build)
    if names is not None:
        joints = _without(joints, set(names))
    keys = [key for key, _, _ in joints]
    parents = [keys.index(above) if above else -1 for _, above, _ in joints]
    turn = Rotation.from_euler("y", placed.yaw, degrees=True)
    places = turn.apply([place for _, _, place in joints]) + placed.at
    axes = Rotation.identity(len(joints))
    if placed.axes is not None:
        axes = Rotation.random(len(joints), rng=np.random.default_rng(placed.axes))
    given = unique_names([names[key] if names is not None else key for key in keys])
    bases = axes.as_matrix() * placed.scale
    if placed.flips:
        signs = np.random.default_rng(1).choice([-1.0, 1.0], (len(joints), 1, 3))
        bases = bases * signs
    skeleton = _skeleton(given, tuple(parents), places, bases)
    found = joint_controls(skeleton, range(len(joints)))
    return Rig(
        name="body",
        skeleton=skeleton,
        controls=tuple(found.controls),
        settings=(),
        parts=(),
        palette_nodes=np.zeros(0, dtype=np.intp),
        inverse_binds=np.zeros((0, 4, 4)),
        body=found.body,
        notes=tuple(found.notes),
    )


def _skeleton(
    names: tuple[str, ...], parents: tuple[int, ...], places: np.ndarray, bases: np.ndarray
) -> Skeleton:
    """Joints at places in the world ``(J, 3)``, with bases ``(J, 3, 3)``."""
    world = np.tile(np.eye(4), (len(names), 1, 1))
    world[:, :3, :3], world[:, :3, 3] = bases, places
    local = np.array(
        [w if p < 0 else np.linalg.inv(world[p]) @ w for w, p in zip(world, parents, strict=True)]
    )
    return Skeleton(names, parents, *decompose(local))


def skeleton_of(skeleton: Skeleton, places: np.ndarray) -> Skeleton:
    """The same joints at other places ``(J, 3)``, with the world's axes."""
    bases = np.tile(np.eye(3), (len(places), 1, 1))
    return _skeleton(skeleton.names, skeleton.parents, places, bases)


def _without(
    joints: Sequence[tuple[str, str, np.ndarray]], kept: set[str]
) -> list[tuple[str, str, np.ndarray]]:
    above_of = {key: above for key, above, _ in joints}

    def held(key: str) -> str:
        while key and key not in kept:
            key = above_of[key]
        return key

    return [(key, held(above), place) for key, above, place in joints if key in kept]


def sided(middle: Mapping[str, str], pattern: str, parts: Mapping[str, str]) -> dict[str, str]:
    """Names by role: those of the middle, and those of both sides by a pattern with ``{Side}``,
    ``{side}``, ``{S}`` or ``{s}`` and ``{part}``."""
    found = dict(middle)
    for side in ("left", "right"):
        for part, word in parts.items():
            found[side + part] = pattern.format(
                Side=side.capitalize(), side=side, S=side[0].upper(), s=side[0], part=word
            )
    return found


def fingers(pattern: str, words: Sequence[str], bones: Sequence[str]) -> dict[str, str]:
    """Words for the joints of five fingers: ``{finger}`` and ``{bone}``."""
    return {
        finger + name: pattern.format(finger=word, bone=bone)
        for finger, word in zip(FINGERS, words, strict=True)
        for name, bone in zip(THUMB if finger == "Thumb" else BONES, bones, strict=True)
    }


def with_affixes(names: Mapping[str, str], front: str, back: str) -> dict[str, str]:
    return {key: f"{front}{name}{back}" for key, name in names.items()}
