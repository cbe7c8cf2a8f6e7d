"""The skeleton: every bone has Y along it, and turning about +X always flexes."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from cast.proportions import (
    FINGERS,
    THUMB_DIRECTIONS,
    THUMB_LENGTHS,
    THUMB_ROOT,
    Build,
)
from cast.sdf import Array, Vector, unit

FORWARD = np.array([0.0, 0.0, 1.0])
UP = np.array([0.0, 1.0, 0.0])
SIDES: tuple[tuple[str, Array], ...] = (
    ("L", np.array([1.0, 1.0, 1.0])),
    ("R", np.array([-1.0, 1.0, 1.0])),
)


def frame(along: Vector, towards: Vector) -> Array:
    """Axes as columns: Y along the bone, Z as near to ``towards`` as it can be."""
    y = unit(along)
    x = unit(np.cross(y, np.asarray(towards, dtype=np.float64)))
    return np.stack([x, y, np.cross(x, y)], 1)


@dataclass
class Bones:
    """Joints as they are laid out: world matrices, tips and flesh radii by name."""

    names: list[str] = field(default_factory=list)
    parents: list[int] = field(default_factory=list)
    world: list[Array] = field(default_factory=list)
    tips: dict[str, Array] = field(default_factory=dict)
    radii: dict[str, float] = field(default_factory=dict)
    hand_axes: Array = field(default_factory=lambda: np.eye(3))
    head_centre: Array = field(default_factory=lambda: np.zeros(3))

    def add(
        self, name: str, parent: str | None, at: Vector, tip: Vector, towards: Vector, radius: float
    ) -> None:
        at, tip = np.asarray(at, dtype=np.float64), np.asarray(tip, dtype=np.float64)
        matrix = np.eye(4)
        matrix[:3, :3] = frame(tip - at, towards)
        matrix[:3, 3] = at
        self.parents.append(-1 if parent is None else self.row(parent))
        self.names.append(name)
        self.world.append(matrix)
        self.tips[name] = tip
        self.radii[name] = radius

    def row(self, name: str) -> int:
        return self.names.index(name)

    def at(self, name: str) -> Array:
        """World position of a joint."""
        return self.world[self.row(name)][:3, 3]

    def locals(self) -> Array:
        """Local matrices in the parents' frames, ``(J, 4, 4)``."""
        return np.array(
            [
                w if p < 0 else np.linalg.inv(self.world[p]) @ w
                for w, p in zip(self.world, self.parents, strict=True)
            ]
        )

    def to_hand(self, p: Array, scale: float) -> Array:
        """World points in the left hand's own units (see :data:`cast.proportions.FINGERS`)."""
        return np.asarray((p - self.at("hand_L")) @ self.hand_axes / scale)


def build_bones(build: Build) -> Bones:
    """All joints at rest; the hat, where there is one, has its own."""
    bones = Bones()
    _spine(bones, build)
    _face(bones, build)
    for side, mirror in SIDES:
        _arm(bones, build, side, mirror)
    for side, mirror in SIDES:
        _leg(bones, build, side, mirror)
    return bones


def _spine(bones: Bones, build: Build) -> None:
    base = build.hip + 0.05

    def at(t: float) -> Array:
        return np.array([0.0, base + t * build.torso, -0.02 + 0.03 * np.sin(t * 3)])

    bones.add("root", None, (0, 0, 0), (0, 0.2, 0), FORWARD, 0.1)
    bones.add("hips", "root", at(0), at(0.18), FORWARD, build.pelvis[0])
    bones.add("spine_1", "hips", at(0.18), at(0.42), FORWARD, build.belly[0] * 0.9)
    bones.add("spine_2", "spine_1", at(0.42), at(0.66), FORWARD, build.belly[0] * 0.9)
    bones.add("chest", "spine_2", at(0.66), at(1), FORWARD, build.chest[0])
    top = at(1) + np.array([0, build.neck, 0.02])
    bones.add("neck", "chest", at(1), top, FORWARD, 0.15)
    bones.add("head", "neck", top, top + 0.9 * UP, FORWARD, 0.45)


def _face(bones: Bones, build: Build) -> None:
    centre = bones.at("head") + np.array([0, 0.40, 0.05])
    bones.head_centre = centre
    jaw, jaw_tip = centre + (0, -0.12, -0.02), centre + (0, -0.36, 0.28)
    bones.add("jaw", "head", jaw, jaw_tip, -UP, 0.2)
    t1, t2, t3 = (centre + v for v in ((0, -0.275, 0.13), (0, -0.265, 0.24), (0, -0.265, 0.33)))
    bones.add("tongue_1", "jaw", t1, t2, UP, 0.05)
    bones.add("tongue_2", "tongue_1", t2, t3, UP, 0.05)
    head = build.head
    if build.hat:
        band = centre + (0, 0.5 - head.cranium[1] + 0.06, -0.06)
        bones.add("hat", "head", band, band + 0.3 * UP, FORWARD, 0.3)
    for side, mirror in SIDES:
        eye = centre + np.array([head.eye_x, head.eye_y, head.eye_z]) * mirror
        front = eye + FORWARD * 0.1
        bones.add(f"eye_{side}", "head", eye, front, UP, 0.1)
        bones.add(f"lid_upper_{side}", "head", eye, front, -UP, 0.1)
        bones.add(f"lid_lower_{side}", "head", eye, front, UP, 0.1)


def _arm(bones: Bones, build: Build, side: str, m: Array) -> None:
    shoulder_y = bones.at("neck")[1] - 0.13 * min(1.0, build.torso)
    angle = np.radians(build.arm_angle)
    out = np.array([np.cos(angle), -np.sin(angle), 0.0])
    palm = np.array([-np.sin(angle), -np.cos(angle), 0.0])
    shoulder = np.array([build.shoulder * 0.86, shoulder_y, -0.02])
    elbow = shoulder + out * build.upper_arm + (0, 0, -0.02)
    along = unit(out + (0, 0, 0.10))
    wrist = elbow + along * build.forearm
    collar = np.array([0.07, shoulder_y + 0.05, 0.0])
    sleeve = build.sleeve[0]
    bones.add(f"collar_{side}", "chest", collar * m, shoulder * m, UP, 0.17)
    bones.add(f"arm_{side}", f"collar_{side}", shoulder * m, elbow * m, FORWARD, sleeve)
    middle = (shoulder + elbow) / 2
    bones.add(f"arm_twist_{side}", f"arm_{side}", middle * m, elbow * m, FORWARD, sleeve)
    bones.add(f"forearm_{side}", f"arm_{side}", elbow * m, wrist * m, FORWARD, sleeve)
    twist = elbow * 0.45 + wrist * 0.55
    bones.add(f"forearm_twist_{side}", f"forearm_{side}", twist * m, wrist * m, FORWARD, sleeve)
    normal = unit(palm - along * (palm @ along))
    across = unit(np.cross(along, normal))
    across = across if across[2] > 0 else -across
    axes = np.stack([across, along, normal], 1)
    if side == "L":
        bones.hand_axes = axes
    _hand(bones, build, side, m, wrist, axes)


def _hand(bones: Bones, build: Build, side: str, m: Array, wrist: Array, axes: Array) -> None:
    size, normal = build.hand, axes[:, 2]

    def world(q: Vector) -> Array:
        return np.asarray((wrist + axes @ (np.asarray(q) * size)) * m)

    hand = f"hand_{side}"
    bones.add(hand, f"forearm_{side}", wrist * m, world((0, 0.45, 0)), normal * m, 0.2 * size)
    across = axes @ unit((-0.75, 0.35, 0.75)) * m  # the thumb flexes across the palm
    chains = {"thumb": _thumb_points(), **{name: _finger_points(name) for name in FINGERS}}
    for name, points in chains.items():
        r0, r1 = (0.088, 0.062) if name == "thumb" else FINGERS[name][3]
        towards = across if name == "thumb" else normal * m
        for i in range(3):
            parent = hand if i == 0 else f"finger_{name}_{i}_{side}"
            radius = (r0 + (r1 - r0) * i / 2) * size
            here, tip = world(points[i]), world(points[i + 1])
            bones.add(f"finger_{name}_{i + 1}_{side}", parent, here, tip, towards, radius)


def _thumb_points() -> list[Array]:
    points = [np.array(THUMB_ROOT)]
    for direction, length in zip(THUMB_DIRECTIONS, THUMB_LENGTHS, strict=True):
        points.append(points[-1] + unit(direction) * length)
    return points


def _finger_points(name: str) -> list[Array]:
    knuckle, splay, lengths, _ = FINGERS[name]
    angle = np.radians(splay)
    direction = np.array([np.sin(angle), np.cos(angle), 0.03])
    points = [np.array(knuckle)]
    for i, length in enumerate(lengths):
        points.append(points[-1] + unit(direction + (0, 0, 0.05 * i)) * length)
    return points


def _leg(bones: Bones, build: Build, side: str, m: Array) -> None:
    hip = np.array([build.hip_width, build.hip, 0.0])
    knee = np.array([build.hip_width * 1.08, build.hip * 0.535, 0.015])
    ankle = np.array([build.hip_width * 1.14, 0.17, -0.03])
    ball = ankle + (0.03, -0.115, build.foot * 0.72)
    toe = ball + (0.01, 0.0, build.foot * 0.42)
    thigh, shin, foot = f"thigh_{side}", f"shin_{side}", f"foot_{side}"
    bones.add(thigh, "hips", hip * m, knee * m, FORWARD, build.leg[0])
    bones.add(f"thigh_twist_{side}", thigh, (hip + knee) / 2 * m, knee * m, FORWARD, build.leg[0])
    bones.add(shin, thigh, knee * m, ankle * m, -FORWARD, build.leg[0])
    bones.add(foot, shin, ankle * m, ball * m, UP, 0.12)
    bones.add(f"toe_{side}", foot, ball * m, toe * m, UP, 0.1)
