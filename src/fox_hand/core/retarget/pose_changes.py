"""How the joints of a pose turn in the world, and what turns another rig's joints as far.

A pose holds turns in each control's own axes. What counts on another rig is the whole change of a
limb: its own turn and those of everything above it that the pose holds, also of what has no
partner there.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping

import numpy as np

from fox_hand.core.maths.rotations import Array, angle_between, to_matrix
from fox_hand.core.model.controls import Channel
from fox_hand.core.naming.known_roles import JointSaid, KnownRoles, known_roles
from fox_hand.core.pose.pose import Pose
from fox_hand.core.retarget.rest_alignment import Stance
from fox_hand.core.retarget.turning import turned
from fox_hand.core.rig.rig import Rig

EXACT = 1e-7  # radians: a turn that comes out no further from how it was held is taken as held
ABOVE = {
    **{"spine": "hips", "chest": "spine", "upperChest": "chest", "neck": "upperChest"},
    **{"head": "neck", "jaw": "head", "Shoulder": "upperChest", "UpperArm": "Shoulder"},
    **{"LowerArm": "UpperArm", "Hand": "LowerArm", "UpperLeg": "hips", "LowerLeg": "UpperLeg"},
    **{"Foot": "LowerLeg", "Toes": "Foot", "Eye": "head"},
}


def roles_of(pose: Pose) -> KnownRoles:
    """Humanoid roles of a pose's controls, as far as it says or its names say them."""
    rests = {name: held.rest for name, held in pose.controls.items() if held.rest is not None}
    return known_roles({n: JointSaid(r.parent, r.role, r.role_sure) for n, r in rests.items()})


def _parent(pose: Pose, name: str) -> str | None:
    rest = pose.controls[name].rest
    return rest.parent if rest is not None else None


def world_changes(pose: Pose, source: Rig | None) -> dict[str, Array]:
    """By name how each joint that a pose turns is turned away from rest in its rig's world,
    ``(3, 3)``, whatever is not held being at rest.

    Args:
        pose: with the rest data of its controls.
        source: its own rig, if it is at hand; else what lies above what is found by the names.
    """
    known: dict[str, Array] = {}
    above = _above_on(source) if source is not None else _above_by_names(pose)

    def change(name: str) -> Array:
        if name not in known:
            known[name] = np.eye(3)  # a circle in a damaged file ends here
            held, upper = pose.controls[name], above(name, pose.controls)
            found = change(upper) if upper is not None else np.eye(3)
            if held.turn is not None and held.rest is not None:
                rest = to_matrix(np.array(held.rest.world_rotation))
                found = found @ rest @ to_matrix(np.array(held.turn)) @ rest.T
            known[name] = found
        return known[name]

    return {n: change(n) for n, h in pose.controls.items() if h.turn is not None and h.rest}


Above = Callable[[str, Collection[str]], str | None]


def _above_on(rig: Rig) -> Above:
    def above(name: str, held: Collection[str]) -> str | None:
        row = rig.control_row.get(name, -1)
        while row >= 0 and rig.parents[row] >= 0:
            row = rig.parents[row]
            if rig.controls[row].name in held:
                return rig.controls[row].name
        return None

    return above


def _above_by_names(pose: Pose) -> Above:
    roles = roles_of(pose).all
    by_role = {role: name for name, role in roles.items()}

    def above(name: str, held: Collection[str]) -> str | None:
        parent = _parent(pose, name)
        if parent is None or parent in held:
            return parent
        role = roles.get(name, "")
        side = next((s for s in ("left", "right") if role.startswith(s)), "")
        bare = role.removeprefix(side)
        while bare in ABOVE:
            bare = ABOVE[bare]
            found = by_role.get(side + bare) or by_role.get(bare)
            if found is not None:
                return found
        return None

    return above


def carried_turns(
    pose: Pose,
    rig: Rig,
    controls: Mapping[str, str],
    stance: Stance,
    source: Rig | None,
    facing: Array,
    shown: Mapping[int, Array] | None = None,
) -> dict[int, Array]:
    """By row of the target the turn ``(4,)`` with which its joints do what a pose does.

    Args:
        pose: with the rest data of its controls.
        rig: the target.
        controls: by name in the pose the name on the rig.
        stance: how the target turns to stand as the pose's rig rests.
        source: the pose's own rig, if it is at hand.
        facing: what turns the world of that rig so that it looks where this one looks, ``(3, 3)``.
        shown: by row of more joints how they are to turn in the target's world ``(3, 3)``.
    """
    changes = world_changes(pose, source)
    wanted: dict[int, Array] = {}
    held: dict[int, Array] = {}
    for name, change in changes.items():
        row = rig.control_row.get(controls.get(name, ""))
        if row is not None and _turns(rig, row):
            wanted[row] = facing @ change @ facing.T
            held[row] = np.array(pose.controls[name].turn)
    wanted |= shown or {}
    before, into = to_matrix(stance.before), to_matrix(stance.turns)
    rows = {rig.controls[row].node: row for row in wanted}
    ways: list[Array] = []
    found: dict[int, Array] = {}
    for node, parent in enumerate(rig.skeleton.parents):
        above = ways[parent] if parent >= 0 else np.eye(3)
        way = above @ (before[node].T @ into[node])
        row = rows.get(node)
        if row is not None:
            way = wanted[row] @ into[node]
            turn = turned(
                rig, row, rig.rest.turn[row], rig.skeleton.rest_world, above[None], way[None]
            )[0]
            exact = row in held and float(angle_between(turn, held[row])) < EXACT
            found[row] = held[row] if exact else turn
        ways.append(way)
    return found


def _turns(rig: Rig, row: int) -> bool:
    control = rig.controls[row]
    return control.moves_node and Channel.TURN in control.channels
