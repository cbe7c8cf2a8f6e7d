"""Where hands are on a figure, said so that another figure can do the same.

An arm in the open points as it does. A hand on the body lies on the same part of it, seen from the
bone in the same direction, as near to the flesh. Two hands near each other are as near.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import pairwise

import numpy as np

from fox_hand.core.kinematics.evaluation import Evaluation
from fox_hand.core.maths.rotations import Array
from fox_hand.core.maths.transforms import directions
from fox_hand.core.model.body_frame import Vector, vector
from fox_hand.core.model.controls import ControlKind, Region
from fox_hand.core.retarget.figure_motion import below, role_nodes
from fox_hand.core.retarget.reach import FULL, unit
from fox_hand.core.rig.rig import Rig

TOUCHES, APART = 0.05, 0.09  # of the height: nearer than the first it touches, beyond it does not
# in motion arms only pass by the body most of the time, and point as they do
LIES, PASSES = 0.03, 0.05  # of the height
TOGETHER = 0.12  # of the height: two hands nearer than this belong together
TUBE = 0.03  # of the height: what lies this near to a ray counts as hit by it
TRUNK = ("hips", "spine", "chest", "upperChest", "neck")
FACES = (Region.HEAD, Region.MOUTH, Region.EYES)
SIDES = (("left", "right"), ("right", "left"))


@dataclass(frozen=True)
class Touch:
    """A hand on the body.

    Args:
        bone: role of the joint whose flesh it lies on.
        along: how far from it to the next joint, 0 to 1.
        way: the direction from the bone's axis to the wrist, in the figure's own directions as
            the bone rests; a unit vector.
        over: how far the wrist lies beyond the flesh along that way, in heights of the figure.
        gap: its distance from the nearest flesh, in heights.
        share: how much it counts, 0 to 1.
    """

    bone: str
    along: float
    way: Vector
    over: float
    gap: float
    share: float


@dataclass(frozen=True)
class ArmPlace:
    """Where an arm is.

    Args:
        upper, lower: where its bones point, in the figure's own directions; unit vectors.
        touch: what the hand lies on; None in the open.
        other: from this wrist to the other one, in lengths of the hand, where they are together.
    """

    upper: Vector
    lower: Vector
    touch: Touch | None = None
    other: Vector | None = None


def arm_places(rig: Rig, at: Evaluation) -> dict[str, ArmPlace]:
    """Where both arms of a figure are, of those that are known.

    Args:
        rig: the figure's.
        at: how it stands, one frame.
    """
    known, body = role_nodes(rig), _Body(rig, at)
    found = {}
    for side, other in SIDES:
        line = [known.get(f"{side}{part}") for part in ("UpperArm", "LowerArm", "Hand")]
        if any(node is None for node in line):
            continue
        a, b, c = (body.places[node] for node in line if node is not None)
        upper, lower = unit(b - a), unit(c - b)
        away = None
        wrist = known.get(f"{other}Hand")
        if wrist is not None:
            gap = body.places[wrist] - c
            if np.linalg.norm(gap) < TOGETHER * rig.height:
                away = vector(gap / hand_length(rig))
        found[side] = ArmPlace(vector(upper), vector(lower), body.touched(c), away)
    return found


def hand_length(rig: Rig) -> float:
    """From the wrist to the knuckle of the middle finger, the mean of both hands; a twentieth of
    the height where fingers are not known."""
    known, places, found = role_nodes(rig), rig.skeleton.rest_world[:, :3, 3], []
    for side in ("left", "right"):
        ends = known.get(f"{side}Hand"), known.get(f"{side}MiddleProximal")
        if ends[0] is not None and ends[1] is not None:
            found.append(float(np.linalg.norm(places[ends[1]] - places[ends[0]])))
    return float(np.mean(found)) if found and min(found) > 1e-9 else 0.05 * rig.height


class _Body:
    """A figure's bones and flesh in one pose, in its own directions."""

    def __init__(self, rig: Rig, at: Evaluation, every: int = 1) -> None:
        self._rig, self._at, self._every = rig, at, every
        self._known = role_nodes(rig)
        self.places = rig.body.seen(at.nodes[:, :3, 3])
        self._flesh: dict[str, Array] = {}

    def bones(self) -> list[tuple[str, Array, Array]]:
        """Role, beginning and end of every bone that a hand may lie on."""
        found = []
        trunk = [r for r in TRUNK if r in self._known]
        for role, following in pairwise(trunk):
            found.append((role, self._place(role), self._place(following)))
        for side in ("left", "right"):
            for part, following in (("UpperLeg", "LowerLeg"), ("LowerLeg", "Foot")):
                if f"{side}{part}" in self._known and f"{side}{following}" in self._known:
                    ends = self._place(f"{side}{part}"), self._place(f"{side}{following}")
                    found.append((f"{side}{part}", *ends))
        if "head" in self._known:
            middle = self.flesh("head").mean(0) if len(self.flesh("head")) else None
            if middle is not None:
                found.append(("head", middle, middle))
        return found

    def _place(self, role: str) -> Array:
        return np.asarray(self.places[self._known[role]])

    def flesh(self, role: str) -> Array:
        """What a hand on a bone may touch, ``(V, 3)``; empty without a mesh."""
        kind = "trunk" if role in TRUNK else role
        if kind not in self._flesh:
            nodes = self._nodes(role)
            points = np.zeros((0, 3))
            if self._rig.parts and nodes:
                points = self._rig.body.seen(self._rig.flesh(self._at, nodes, self._every))
            self._flesh[kind] = points
        return self._flesh[kind]

    def _nodes(self, role: str) -> set[int]:
        joints = [c for c in self._rig.controls if c.kind is ControlKind.JOINT]
        if role in TRUNK:
            return {c.node for c in joints if c.region is Region.TORSO}
        if role == "head":
            return {c.node for c in joints if c.region in FACES}
        node = self._known[role]
        lower = self._known.get(role.replace("Upper", "Lower"), -1)
        foot = self._known.get(role.replace("UpperLeg", "Foot").replace("LowerLeg", "Foot"), -1)
        apart = set(below(self._rig, lower)) if "Upper" in role and lower >= 0 else set()
        if foot >= 0:
            apart |= set(below(self._rig, foot))
        return set(below(self._rig, node)) - apart

    @cached_property
    def all_flesh(self) -> Array:
        """What hands may touch of the whole body, ``(V, 3)``."""
        parts = [self.flesh(role) for role, _, _ in self.bones()]
        return np.unique(np.concatenate(parts), axis=0) if parts else np.zeros((0, 3))

    def gap(self, place: Array) -> float:
        """How far a place is from the nearest flesh; infinite without any."""
        if not len(self.all_flesh):
            return float("inf")
        return float(np.linalg.norm(self.nearest(place) - place))

    def nearest(self, place: Array) -> Array:
        """The flesh nearest to a place, ``(3,)``."""
        return np.asarray(
            self.all_flesh[int(np.argmin(np.linalg.norm(self.all_flesh - place, axis=1)))]
        )

    def change(self, role: str) -> Array:
        """How a bone is turned away from rest, in the figure's own directions, ``(3, 3)``."""
        node, axes = self._known[role], self._rig.body.axes
        rest = directions(self._rig.skeleton.rest_world[node, :3, :3])
        return np.asarray(axes.T @ directions(self._at.nodes[node, :3, :3]) @ rest.T @ axes)

    def touched(self, wrist: Array) -> Touch | None:
        """What a hand touches; None where nothing is near."""
        height, best = self._rig.height, None
        for role, start, end in self.bones():
            points = self.flesh(role)
            if not len(points):
                continue
            gap = float(np.linalg.norm(points - wrist, axis=1).min())
            if gap > APART * height:
                continue
            along, foot = _foot(start, end, wrist)
            far = float(np.linalg.norm(wrist - foot))
            if far < 1e-6 or (best is not None and (gap, far) >= best[0]):
                continue
            best = (gap, far), role, along, foot
        if best is None:
            return None
        (_, far), role, along, foot = best
        gap = self.gap(wrist)
        way = (wrist - foot) / far
        over = far - self.reach(role, foot, way)
        share = float(np.clip((APART - gap / height) / (APART - TOUCHES), 0.0, 1.0))
        own = self.change(role).T @ way
        return Touch(role, along, vector(own), over / height, gap / height, share)

    def reach(self, role: str, foot: Array, way: Array) -> float:
        """How far the flesh of a bone reaches from its axis in a direction."""
        points = self.flesh(role) - foot
        along = points @ way
        aside = np.linalg.norm(points - along[:, None] * way, axis=1)
        hit = (along > 0) & (aside < TUBE * self._rig.height)
        return float(along[hit].max()) if hit.any() else 0.0


def _foot(start: Array, end: Array, point: Array) -> tuple[float, Array]:
    """The nearest point of a bone's axis, and how far along it lies, 0 to 1."""
    way = end - start
    size = float(way @ way)
    along = float(np.clip((point - start) @ way / size, 0.0, 1.0)) if size > 1e-12 else 0.0
    return along, start + along * way


def wrists_for(rig: Rig, at: Evaluation, arms: Mapping[str, ArmPlace]) -> dict[str, Array]:
    """Where the wrists of a figure go, in its own directions, ``(3,)`` each.

    Args:
        rig: the figure's, whose arms are known.
        at: how it stands, its body as it is to be.
        arms: where the other's arms are.
    """
    known, body = role_nodes(rig), _Body(rig, at)
    found: dict[str, Array] = {}
    within: dict[str, tuple[Array, float]] = {}  # by side the shoulder, and how far an arm reaches
    for side, place in arms.items():
        line = [known.get(f"{side}{part}") for part in ("UpperArm", "LowerArm", "Hand")]
        if any(node is None for node in line):
            continue
        a, b, c = (rig.skeleton.rest_world[node, :3, 3] for node in line if node is not None)
        start = body.places[known[f"{side}UpperArm"]]
        open_place = start + np.array(place.upper) * float(np.linalg.norm(b - a))
        open_place = open_place + np.array(place.lower) * float(np.linalg.norm(c - b))
        found[side] = open_place
        reach = float(np.linalg.norm(b - a) + np.linalg.norm(c - b)) * FULL
        within[side] = start, reach
        if place.touch is not None:
            on = _on_body(body, place.touch, rig.height)
            if on is not None:
                on = _within(body, on, start, reach, place.touch.gap * rig.height)
                found[side] = open_place + place.touch.share * (on - open_place)
    return _together(found, arms, hand_length(rig), within)


def touches_of(rig: Rig, at: Evaluation, every: int = 1) -> dict[str, Touch]:
    """What the hands of a figure lie on, by side; of those that only pass by nothing.

    Args:
        rig: the figure's.
        at: how it stands, one frame.
        every: of its flesh only every n-th vertex counts, where many frames are looked at.
    """
    known, body, found = role_nodes(rig), _Body(rig, at, every), dict[str, Touch]()
    for side, _other in SIDES:
        if f"{side}Hand" in known:
            touch = body.touched(body.places[known[f"{side}Hand"]])
            share = (PASSES - touch.gap) / (PASSES - LIES) if touch is not None else 0.0
            if touch is not None and share > 0:
                found[side] = replace(touch, share=min(share, 1.0))
    return found


def laid_wrists(
    rig: Rig, at: Evaluation, touches: Mapping[str, Touch], every: int = 1
) -> dict[str, Array]:
    """Where the wrists of a figure go that touch what another's touch, in its own directions,
    ``(3,)`` each; in between of where they are and there, as far as these count.

    Args:
        rig: the figure's.
        at: how it stands, one frame, its arms as the other's.
        touches: what the other's hands lie on, by side.
        every: as of :func:`touches_of`.
    """
    known, body, found = role_nodes(rig), _Body(rig, at, every), dict[str, Array]()
    rest = rig.skeleton.rest_world[:, :3, 3]
    for side, touch in touches.items():
        line = [known.get(f"{side}{part}") for part in ("UpperArm", "LowerArm", "Hand")]
        on = _on_body(body, touch, rig.height)
        if on is None or any(node is None for node in line):
            continue
        a, b, c = (rest[node] for node in line if node is not None)
        reach = float(np.linalg.norm(b - a) + np.linalg.norm(c - b)) * FULL
        start, own = (body.places[known[f"{side}{part}"]] for part in ("UpperArm", "Hand"))
        on = _within(body, on, start, reach, touch.gap * rig.height)
        found[side] = own + touch.share * (on - own)
    return found


def _on_body(body: _Body, touch: Touch, height: float) -> Array | None:
    """The same place on this figure's body; None where it has no such bone or no flesh."""
    bone = next((b for b in body.bones() if b[0] == touch.bone), None)
    if bone is None or not len(body.flesh(touch.bone)):
        return None
    role, start, end = bone
    foot = start + touch.along * (end - start)
    way = body.change(role) @ np.array(touch.way)
    far = body.reach(role, foot, way) + touch.over * height
    place = foot + max(far, 0.0) * way
    for _ in range(4):  # the nearest flesh need not lie along the way
        place = place + (touch.gap * height - body.gap(place)) * way
    return np.asarray(place)


def _within(body: _Body, place: Array, start: Array, reach: float, gap: float) -> Array:
    """The nearest place to one that the arm can reach, as far from the flesh."""
    for _ in range(24):
        way = place - start
        far = float(np.linalg.norm(way))
        if far > reach:
            place = start + way * (reach / far)
        away = place - body.nearest(place)
        near = float(np.linalg.norm(away))
        if far <= reach and abs(near - gap) < 1e-4 * reach:
            break
        place = place + away * ((gap - near) / max(near, 1e-6))
    way = place - start
    far = float(np.linalg.norm(way))
    return place if far <= reach else np.asarray(start + way * (reach / far))


def _together(
    wrists: dict[str, Array],
    arms: Mapping[str, ArmPlace],
    hand: float,
    within: Mapping[str, tuple[Array, float]],
) -> dict[str, Array]:
    """Hands that are near each other there are as near here; who touches the body leads. Where one
    arm would be too short for that, both come nearer, as far apart as they are."""
    left, right = arms.get("left"), arms.get("right")
    if left is None or right is None or left.other is None or len(wrists) < 2:
        return wrists
    gap = np.array(left.other) * hand
    shares = [a.touch.share if a.touch is not None else 0.0 for a in (left, right)]
    weight = 0.5 if shares[0] == shares[1] else shares[0] / sum(shares)
    middle = weight * wrists["left"] + (1 - weight) * (wrists["right"] - gap)
    for _ in range(8):
        for away, (start, reach) in ((0.0 * gap, within["left"]), (gap, within["right"])):
            way = middle + away - start
            far = float(np.linalg.norm(way))
            if far > reach:
                middle = middle - way * (1 - reach / far)
    return {"left": middle, "right": middle + gap}
