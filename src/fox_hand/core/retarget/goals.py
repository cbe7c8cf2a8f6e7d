"""Goals, poles and look-at targets carried over to another rig.

Where only the pose is known, they keep the way they went from rest, scaled by the limb. Where the
pose's own rig is at hand, a hand keeps its relation to what it is near: seen from every landmark
of the body (hips, chest, head, shoulders, thighs) it lies in the same direction at a distance
scaled with that part of the body, and near landmarks count far more than distant ones. A hand that
touches the body touches it again. Feet keep their height over the ground.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from fox_hand.core.kinematics.evaluation import Evaluation
from fox_hand.core.maths.rotations import Array, inverse, multiply, rotate, to_matrix
from fox_hand.core.maths.transforms import directions
from fox_hand.core.model.controls import ControlKind, Region
from fox_hand.core.model.solvers import Limb
from fox_hand.core.model.state import State
from fox_hand.core.pose.placing import put
from fox_hand.core.pose.pose import Held, Pose
from fox_hand.core.retarget.rest_alignment import Stance
from fox_hand.core.rig.rig import Rig

LANDMARKS = (
    "hips",
    "upperChest",
    "head",
    "leftUpperArm",
    "rightUpperArm",
    "leftUpperLeg",
    "rightUpperLeg",
)
NEAR = 4.0  # power of the distance by which landmarks lose weight
TOUCHES = 0.06  # of the height: a hand nearer to the flesh than this touches it
BODY = (Region.TORSO, Region.LEGS, Region.HEAD)


@dataclass(frozen=True, eq=False)
class Relation:
    """What goals are placed by.

    Args:
        source: the pose's own rig and its state wearing the pose; None if it is not at hand.
        controls: by name in the pose the name on the target.
        stance: of the target.
        arms, legs: how many times longer the target's are.
        stretch: whether distances are scaled at all.
        wrists: by side where hands go, in the target's own directions ``(3,)``; of arms that are
            not there the landmarks decide.
        facing: what turns the source's world so that it looks where the target looks, ``(3, 3)``.
    """

    source: tuple[Rig, State] | None
    controls: Mapping[str, str]
    stance: Stance
    arms: float
    legs: float
    stretch: bool
    wrists: Mapping[str, Array] = field(default_factory=dict)
    facing: Array = field(default_factory=lambda: np.eye(3))


def place_goals(
    pose: Pose, rig: Rig, state: State, relation: Relation
) -> tuple[State, tuple[str, ...]]:
    """The target with its goals, poles and look-at targets placed.

    Args:
        pose: of the source.
        rig, state: the target and how it stands.
        relation: which controls mean the same.

    Returns:
        the state, and names in the pose of what was placed by the body's landmarks.
    """
    kinds = (ControlKind.GOAL, ControlKind.POLE, ControlKind.LOOK)
    wanted = [
        (name, held, rig.control_row[relation.controls[name]])
        for name, held in pose.controls.items()
        if relation.controls.get(name) in rig.control_row
        and held.rest is not None
        and (held.move is not None or held.turn is not None)
    ]
    wanted = [w for w in wanted if rig.controls[w[2]].kind in kinds]
    if not wanted:
        return state, ()
    bodies = _Bodies(rig, state, relation) if relation.source is not None else None
    at = rig.evaluate(state).nodes
    stood = _stood(rig, relation.stance)
    placed = []
    for name, held, row in wanted:
        source_row = bodies.source.control_row.get(name) if bodies is not None else None
        wrist = _wrist(rig, row, relation.wrists)
        if wrist is not None:
            place = wrist
            placed.append(name)
        elif bodies is not None and source_row is not None:
            place = bodies.place(source_row, row)
            placed.append(name)
        else:
            place = _from_rest(rig, row, held, stood, relation)
        turn = _orientation(rig, row, held, relation)
        move_held, turn_held = held.move is not None, held.turn is not None
        state = put(rig, state, row, at, place if move_held else None, turn if turn_held else None)
    return state, tuple(placed)


def _wrist(rig: Rig, row: int, wrists: Mapping[str, Array]) -> Array | None:
    """Where the goal of an arm goes in the world, if that is known."""
    node = rig.controls[row].node
    limb = next((x for x in rig.limbs if x.goal == node), None)
    end = rig.row_of_node.get(limb.end) if limb is not None else None
    role = rig.controls[end].role if end is not None else None
    if role not in ("leftHand", "rightHand"):
        return None
    place = wrists.get(role.removesuffix("Hand"))
    return None if place is None else rig.body.axes @ place + np.array(rig.body.middle)


def limb_of(rig: Rig, node: int) -> Limb | None:
    """The limb that a goal or pole pulls."""
    return next((x for x in rig.limbs if node in (x.goal, x.pole)), None)


def _stood(rig: Rig, stance: Stance) -> Array:
    """World matrices ``(N, 4, 4)`` of a rig in its stance, limbs following their joints."""
    turn, own = rig.rest.turn.copy(), stance.own(rig)
    joints = [r for r, c in enumerate(rig.controls) if c.kind is ControlKind.JOINT]
    turn[joints] = own[joints]
    settings = rig.rest.settings.copy()
    for limb in rig.limbs:
        if limb.blend is not None:
            settings[limb.blend] = 0.0
    return rig.evaluate(rig.rest.with_(turn=turn, settings=settings)).nodes


def _from_rest(rig: Rig, row: int, held: Held, stood: Array, relation: Relation) -> Array:
    """As far from where it stands in the stance as on the source from rest, scaled."""
    node = rig.controls[row].node
    assert held.rest is not None
    rest = rig.skeleton.rest_world[:, :3, 3]
    limb = limb_of(rig, node)
    base, ratio = rest[node], relation.legs
    if limb is not None:
        leg = rig.controls[row].region is Region.LEGS
        ratio = relation.legs if leg else relation.arms
        if node == limb.goal:
            base = stood[limb.end, :3, 3]
        else:
            way = relation.stance.turns[limb.upper]
            base = stood[limb.lower, :3, 3] + rotate(way, rest[node] - rest[limb.lower])
    gone = rotate(np.array(held.rest.world_rotation), np.array(held.move or (0.0, 0.0, 0.0)))
    gone = relation.facing @ gone
    return np.asarray(base + gone * (ratio if relation.stretch else 1.0))


def _orientation(rig: Rig, row: int, held: Held, relation: Relation) -> Array:
    """World orientation ``(3, 3)`` of a goal that has turned by as much as on the source."""
    node, stance = rig.controls[row].node, relation.stance
    limb = limb_of(rig, node)
    assert held.rest is not None
    there = np.array(held.rest.world_rotation)
    turned = multiply(there, multiply(np.array(held.turn or (0, 0, 0, 1.0)), inverse(there)))
    way = stance.turns[limb.end] if limb is not None else stance.turns[node]
    change = relation.facing @ to_matrix(turned) @ relation.facing.T
    return change @ to_matrix(multiply(way, rig.skeleton.rest_turns[node]))


class _Bodies:
    """The source wearing the pose beside the target wearing what is carried over so far."""

    def __init__(self, rig: Rig, state: State, relation: Relation) -> None:
        assert relation.source is not None
        self.source, worn = relation.source
        self.rig, self._relation = rig, relation
        self._there: Evaluation = self.source.evaluate(worn)
        self._here: Evaluation = rig.evaluate(state)

    @cached_property
    def _landmarks(self) -> list[tuple[int, int, float]]:
        """Nodes of the source and of the target, and how many times larger that part is."""
        there, here = _by_role(self.source), _by_role(self.rig)
        return [
            (there[role], here[role], self._size(role, there, here))
            for role in LANDMARKS
            if role in there and role in here
        ]

    def _size(self, role: str, there: Mapping[str, int], here: Mapping[str, int]) -> float:
        if not self._relation.stretch:
            return 1.0
        pairs = {
            "hips": ("leftUpperLeg", "rightUpperLeg"),
            "leftUpperLeg": ("leftUpperLeg", "rightUpperLeg"),
            "rightUpperLeg": ("leftUpperLeg", "rightUpperLeg"),
            "upperChest": ("leftUpperArm", "rightUpperArm"),
        }
        if role in ("leftUpperArm", "rightUpperArm"):
            return self._relation.arms
        ends = pairs.get(role, ())
        if len(ends) == 2 and all(e in there and e in here for e in ends):
            far = _gap(self.source, there[ends[0]], there[ends[1]])
            if far > 1e-6:
                return _gap(self.rig, here[ends[0]], here[ends[1]]) / far
        return self.rig.height / self.source.height

    def place(self, source_row: int, row: int) -> Array:
        """Where a goal, pole or target goes, ``(3,)``."""
        node, there = self.rig.controls[row].node, self.source.controls[source_row].node
        goal = self._there.nodes[there, :3, 3]
        limb, other = limb_of(self.rig, node), limb_of(self.source, there)
        if limb is None or other is None:
            return self._seen_from_head(goal)
        if self.rig.controls[row].region is Region.LEGS:
            rest = self.source.skeleton.rest_world[there, :3, 3]
            ratio = self._relation.legs if self._relation.stretch else 1.0
            gone = self._relation.facing @ (goal - rest) * ratio
            return np.asarray(self.rig.skeleton.rest_world[node, :3, 3] + gone)
        if node == limb.pole:
            return self._seen_from(other.upper, limb.upper, self._relation.arms, goal)
        found = self._by_landmarks(goal)
        return self._touching(goal, found)

    def _seen_from_head(self, goal: Array) -> Array:
        heads = [m for m in self._landmarks if m[0] == _by_role(self.source).get("head")]
        return self._seen_from(*heads[0], goal) if heads else self._scaled(goal)

    def _scaled(self, goal: Array) -> Array:
        """The same place of a figure of another size."""
        seen = self.source.body.seen(goal) * self.rig.height / self.source.height
        return np.asarray(self.rig.body.axes @ seen + np.array(self.rig.body.middle))

    def _seen_from(self, there: int, here: int, size: float, goal: Array) -> Array:
        way = goal - self._there.nodes[there, :3, 3]
        turned = self._difference(there, here) @ way
        return np.asarray(self._here.nodes[here, :3, 3] + turned * size)

    def _difference(self, there: int, here: int) -> Array:
        """What turns a way from the source's part into one from the target's, ``(3, 3)``: how that
        has turned from rest beyond this one, and where either looks."""
        mine = directions(self._here.nodes[here, :3, :3])
        own = mine @ directions(self.rig.skeleton.rest_world[here, :3, :3]).T
        theirs = directions(self._there.nodes[there, :3, :3])
        return np.asarray(
            own
            @ self._relation.facing
            @ (theirs @ directions(self.source.skeleton.rest_world[there, :3, :3]).T).T
        )

    def _by_landmarks(self, goal: Array) -> Array:
        if not self._landmarks:
            return self._scaled(goal)
        places = self._there.nodes[[there for there, _, _ in self._landmarks], :3, 3]
        far = np.linalg.norm(places - goal, axis=1)
        weights = (self.source.height / np.maximum(far, 1e-3)) ** NEAR
        seen = np.array([self._seen_from(t, h, size, goal) for t, h, size in self._landmarks])
        return np.asarray((weights[:, None] * seen).sum(0) / weights.sum())

    def _touching(self, goal: Array, found: Array) -> Array:
        """The same place, as near to the flesh as on the source if it touches there."""
        theirs, mine = _flesh(self.source, self._there), _flesh(self.rig, self._here)
        if not len(theirs) or not len(mine):
            return found
        gaps = np.linalg.norm(theirs - goal, axis=1)
        nearest = int(np.argmin(gaps))
        if gaps[nearest] > TOUCHES * self.source.height:
            return found
        touched = mine[int(np.argmin(np.linalg.norm(mine - found, axis=1)))]
        size = self._relation.arms if self._relation.stretch else 1.0
        return np.asarray(touched + self._relation.facing @ (goal - theirs[nearest]) * size)


def _by_role(rig: Rig) -> dict[str, int]:
    found: dict[str, int] = {}
    for control in rig.controls:
        if control.role is not None and control.kind is ControlKind.JOINT:
            found[control.role] = control.node  # of several chests the highest one
    return found


def _gap(rig: Rig, a: int, b: int) -> float:
    places = rig.skeleton.rest_world[:, :3, 3]
    return float(np.linalg.norm(places[a] - places[b]))


def _flesh(rig: Rig, at: Evaluation) -> Array:
    """Points of the body without its arms, ``(V, 3)``; empty where there is no mesh."""
    if not rig.parts:
        return np.zeros((0, 3))
    nodes = {c.node for c in rig.controls if c.region in BODY and c.kind is ControlKind.JOINT}
    return rig.flesh(at, nodes, every=2)
