"""What a card carries of how its figure stood, so that it fits others without its own rig.

Limbs that follow goals say nothing by their joints; so how these stood is carried along, and where
hands lay on the body and feet on the ground.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from fox_hand.core.kinematics.evaluation import Evaluation
from fox_hand.core.maths.rotations import Array, from_matrix, to_matrix
from fox_hand.core.maths.transforms import directions
from fox_hand.core.model.body_frame import USUAL, BodyFrame, Vector, vector
from fox_hand.core.model.controls import Channel, ControlKind
from fox_hand.core.model.solvers import Limb
from fox_hand.core.model.state import State
from fox_hand.core.pose.pose import Pose
from fox_hand.core.retarget.arm_places import ArmPlace, arm_places
from fox_hand.core.retarget.figure_motion import leg_length, role_nodes, sole_level
from fox_hand.core.retarget.reach import ARM, LEG, Reach, unit
from fox_hand.core.rig.rig import Rig

Turn = tuple[float, float, float, float]
SIDES = ("left", "right")


@dataclass(frozen=True)
class Carried:
    """How a figure stood that wears a pose and nothing else.

    Args:
        body: which way its rig stands.
        shown: by role how joints of limbs that follow goals were turned away from rest in the
            figure's own directions, unit quaternions ``(x, y, z, w)``.
        arms: where arms were that the pose moves, by side.
        ankles: by side where ankles were that the pose moves by goals: to the left of the middle,
            over the ground, ahead, in lengths of the leg.
        rests: by role where bones of these limbs point at rest, unit vectors.
        pulled: by role of the end of a limb that follows its goal the names of goal and pole.
    """

    body: BodyFrame = USUAL
    shown: Mapping[str, Turn] = field(default_factory=dict)
    arms: Mapping[str, ArmPlace] = field(default_factory=dict)
    ankles: Mapping[str, Vector] = field(default_factory=dict)
    rests: Mapping[str, Vector] = field(default_factory=dict)
    pulled: Mapping[str, tuple[str, ...]] = field(default_factory=dict)

    def __bool__(self) -> bool:
        return bool(self.shown or self.arms or self.ankles or not self.body.usual)


def carried_of(rig: Rig, state: State, pose: Pose) -> Carried:
    """What to carry of a pose.

    Args:
        rig: the pose's own.
        state: at rest, wearing the pose.
        pose: which controls it holds.
    """
    at, held = rig.evaluate(state), set(pose.controls)
    known = role_nodes(rig)
    shown, moved = dict[str, Turn](), dict[str, tuple[str, ...]]()
    rests = dict[str, Vector]()
    places = rig.body.axes.T @ (rig.skeleton.rest_world[:, :3, 3, None])
    for side in SIDES:
        for parts in (ARM, LEG):
            nodes = [known.get(side + part) for part in parts]
            limb = next((x for x in rig.limbs if x.upper == nodes[0]), None)
            if limb is not None and _follows(rig, state, limb, held):
                moved[side + parts[2]] = tuple(sorted(_pulls(rig, limb)))
                for part, (node, end) in zip(parts, pairwise(nodes), strict=False):
                    if node is not None and end is not None:
                        rests[side + part] = vector(unit((places[end] - places[node])[:, 0]))
                for part, node in zip(parts, nodes, strict=True):
                    if node is not None:
                        shown[side + part] = _change(rig, at, node)
    sides = {s for s in SIDES if f"{s}Hand" in moved or _holds_arm(rig, pose, s)}
    places_of_arms = arm_places(rig, at) if sides else {}
    arms = {side: place for side, place in places_of_arms.items() if side in sides}
    ankles = {side: _ankle(rig, at, side) for side in SIDES if f"{side}Foot" in moved}
    known_ankles = {side: ankle for side, ankle in ankles.items() if ankle is not None}
    return Carried(rig.body, shown, arms, known_ankles, rests, moved)


def _follows(rig: Rig, state: State, limb: Limb, held: set[str]) -> bool:
    """Whether a pose moves a limb by its goal."""
    amount = 1.0 if limb.blend is None else float(state.settings[limb.blend])
    return bool(_pulls(rig, limb) & held) and amount > 0.5


def _pulls(rig: Rig, limb: Limb) -> set[str]:
    """Names of the controls that pull a limb."""
    nodes = (limb.goal, limb.pole)
    return {rig.controls[rig.row_of_node[n]].name for n in nodes if n in rig.row_of_node}


def _holds_arm(rig: Rig, pose: Pose, side: str) -> bool:
    wanted = {f"{side}UpperArm", f"{side}LowerArm"}
    return any(
        c.role in wanted and c.kind is ControlKind.JOINT and Channel.TURN in c.channels
        for c in rig.controls
        if c.name in pose.controls and pose.controls[c.name].turn is not None
    )


def _change(rig: Rig, at: Evaluation, node: int) -> Turn:
    axes = rig.body.axes
    rest = directions(rig.skeleton.rest_world[node, :3, :3])
    x, y, z, w = from_matrix(axes.T @ directions(at.nodes[node, :3, :3]) @ rest.T @ axes).tolist()
    return (x, y, z, w)


def _ankle(rig: Rig, at: Evaluation, side: str) -> Vector | None:
    leg = leg_length(rig)
    if leg is None:
        return None
    place = rig.body.seen(at.nodes[role_nodes(rig)[f"{side}Foot"], :3, 3])
    place[1] -= min(sole_level(rig, s) for s in SIDES if f"{s}Foot" in role_nodes(rig))
    return vector(place / leg)


def shown_on(rig: Rig, carried: Carried, roles: set[str]) -> dict[int, Array]:
    """By row of a rig's joints how they turn in its world ``(3, 3)`` to stand as carried.

    Args:
        rig: the target.
        carried: of the pose.
        roles: those that are wanted.
    """
    known, axes = role_nodes(rig), rig.body.axes
    return {
        rig.row_of_node[known[role]]: axes @ to_matrix(np.array(turn)) @ axes.T
        for role, turn in carried.shown.items()
        if role in roles and role in known
    }


def reached(
    rig: Rig,
    state: State,
    carried: Carried,
    wrists: Mapping[str, Array],
    turned: set[int],
    joined: Collection[tuple[str, tuple[str, str, str]]],
) -> State:
    """The figure with hands of joints where they lie on the body, and feet of joints where they
    stand.

    Args:
        rig, state: the target, its joints turned as carried.
        carried: what it follows.
        wrists: by side where hands go, in its own directions ``(3,)``.
        turned: rows of controls that the pose turns.
        joined: limbs that follow goals there and joints here, by side and parts.
    """
    goals: list[tuple[Reach, Array]] = []
    for side, place in carried.arms.items():
        limb = Reach.of(rig, side, ARM)
        near = place.touch is not None or place.other is not None
        if limb is not None and near and side in wrists and set(limb.rows[:2]) <= turned:
            goals.append((limb, wrists[side]))
    leg = leg_length(rig)
    for side, ankle in carried.ankles.items():
        limb = Reach.of(rig, side, LEG)
        if limb is None or leg is None or (side, LEG) not in joined:
            continue
        stands = np.array(ankle) * leg
        stands[1] += min(sole_level(rig, s) for s in SIDES if f"{s}Foot" in role_nodes(rig))
        goals.append((limb, stands))
    if not goals:
        return state
    batch = _batch(state)
    off = [x.blend for x in rig.limbs if x.blend is not None]
    asked = batch.settings.copy()
    batch.settings[:, off] = 0.0
    for limb, goal in goals:
        nodes = rig.evaluate(batch).nodes
        batch = limb.reaching(rig, batch, nodes, goal[None])
    return state.with_(turn=batch.turn[0].copy(), settings=asked[0].copy())


def _batch(state: State) -> State:
    return State(*(values[None].copy() for values in state.arrays()))
