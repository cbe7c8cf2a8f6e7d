"""Bringing a rig into the rest stance of another: arms and legs that point the same way.

Only what a pose holds is known of the other rig: for each control its rest turn in the world, and
how it hangs on its parent. Limbs are turned the shortest way from where they point at rest to
where the other rig's do; what hangs on them is carried along. Where a pose holds only what hangs
on a limb, such as fingers, the hand's own rest is found from how the fingers lie around it.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from fox_hand.core.maths.rotations import Array, from_matrix, inverse, multiply, rotate, to_vector
from fox_hand.core.pose.pose import Held, Pose, RestFrame
from fox_hand.core.rig.rig import Rig

NEXT = {"UpperArm": "LowerArm", "LowerArm": "Hand", "UpperLeg": "LowerLeg", "LowerLeg": "Foot"}
POINTED = np.radians(35.0)  # less between two feet is how they are built
TURNED = np.radians(12.0)  # less between two hands is how they are built, not how they are held
PLAIN = np.eye(3)
PLAIN.flags.writeable = False
IDENTITY = np.array([0.0, 0.0, 0.0, 1.0])


@dataclass(frozen=True, eq=False)
class Stance:
    """How a rig's nodes turn to stand as another rig rests.

    Args:
        turns: of each node in the world, quaternions ``(N, 4)``.
        before: the same of the node it hangs on.
        angles: by limb (``left UpperArm``) how far it was turned, degrees.
    """

    turns: Array
    before: Array
    angles: Mapping[str, float]

    def own(self, rig: Rig) -> Array:
        """The turns relative to rest that bring controls into the stance, ``(C, 4)``; those of
        controls without a node of their own say nothing."""
        nodes = [c.node for c in rig.controls]
        rest = rig.skeleton.rest_turns[nodes]
        way = multiply(inverse(self.before[nodes]), self.turns[nodes])
        return multiply(inverse(rest), multiply(way, rest))


def still(rig: Rig) -> Stance:
    """The rig's own rest."""
    turns = np.tile(IDENTITY, (len(rig.skeleton), 1))
    return Stance(turns, turns, {})


def stance_of(
    rig: Rig,
    pose: Pose,
    matches: Mapping[str, str],
    facing: Array = PLAIN,
    more: Mapping[str, Array] | None = None,
) -> Stance:
    """The stance of the rig the pose was taken from.

    Args:
        rig: the rig that is to stand so.
        pose: whose rest data is used.
        matches: by name in the pose the name on the rig.
        facing: what turns the world of the pose's rig so that it looks where this rig looks,
            ``(3, 3)``.
        more: by role where bones point at rest there, in this rig's world, ``(3,)``, where that
            is known better than from what the pose holds, or not held at all.
    """
    held = {matches[n]: h for n, h in pose.controls.items() if n in matches and h.rest is not None}
    limbs = {
        control.node: limb
        for row, control in enumerate(rig.controls)
        if (limb := _limb(rig, row, held, facing, more or {})) is not None
    }
    groups = _groups(rig, pose, matches, facing) | _feet(rig, held, facing, more or {})
    turns = np.tile(IDENTITY, (len(rig.skeleton), 1))
    before, angles = turns.copy(), dict[str, float]()
    for node, parent in enumerate(rig.skeleton.parents):
        if parent >= 0:
            turns[node] = before[node] = turns[parent]
        if node in groups:
            turns[node] = groups[node]
        elif node in limbs:
            role, mine, wanted = limbs[node]
            extra = _shortest(rotate(turns[node], mine), wanted)
            turns[node] = multiply(extra, turns[node])
            angles[role] = float(np.degrees(np.linalg.norm(to_vector(extra))))
    return Stance(turns, before, angles)


def _limb(
    rig: Rig, row: int, held: Mapping[str, Held], facing: Array, more: Mapping[str, Array]
) -> tuple[str, Array, Array] | None:
    """A limb's role, and where it points at rest here and there; None for what is no limb."""
    control = rig.controls[row]
    role = control.role or ""
    side = "left" if role.startswith("left") else "right" if role.startswith("right") else ""
    following = NEXT.get(role.removeprefix(side)) if side else None
    child = next((c for c in rig.controls if c.role == f"{side}{following}"), None)
    if following is None or child is None:
        return None
    both = control.name in held and child.name in held
    frame = held[child.name].rest if both else None
    if frame is None and role not in more:
        return None
    places = rig.skeleton.rest_world[:, :3, 3]
    mine = places[child.node] - places[control.node]
    wanted = more[role] if role in more else _hung(frame, facing)
    if min(np.linalg.norm(mine), np.linalg.norm(wanted)) < 1e-6:
        return None
    return f"{side} {role.removeprefix(side)}", mine, wanted


def _hung(frame: RestFrame | None, facing: Array) -> Array:
    assert frame is not None
    return np.asarray(facing @ hung(frame))


def bone_ways(rig: Rig) -> dict[str, Array]:
    """By role where bones of limbs and feet point at rest, ``(3,)``, in the rig's world."""
    by_role = {c.role: c.node for c in rig.controls if c.role is not None}
    places, found = rig.skeleton.rest_world[:, :3, 3], dict[str, Array]()
    for side in ("left", "right"):
        for part, following in (*NEXT.items(), ("Foot", "Toes")):
            if side + part in by_role and side + following in by_role:
                way = places[by_role[side + following]] - places[by_role[side + part]]
                if np.linalg.norm(way) > 1e-9:
                    found[side + part] = way
    return found


def _feet(
    rig: Rig, held: Mapping[str, Held], facing: Array, more: Mapping[str, Array]
) -> dict[int, Array]:
    """Feet do not go along with the leg: both rigs stand on them, so that flat is flat. Only where
    one rests pointing down and the other does not, they are laid on each other."""
    by_role = {c.role: c for c in rig.controls if c.role is not None}
    places, found = rig.skeleton.rest_world[:, :3, 3], dict[int, Array]()
    for side in ("left", "right"):
        foot, toes = by_role.get(f"{side}Foot"), by_role.get(f"{side}Toes")
        if foot is None or foot.name not in held:
            continue
        found[foot.node] = IDENTITY
        frame = held[toes.name].rest if toes is not None and toes.name in held else None
        if toes is None or (frame is None and f"{side}Foot" not in more):
            continue
        mine = places[toes.node] - places[foot.node]
        wanted = more.get(f"{side}Foot")
        wanted = _hung(frame, facing) if wanted is None else wanted
        if min(np.linalg.norm(mine), np.linalg.norm(wanted)) < 1e-6:
            continue
        way = _shortest(mine, wanted)
        if np.linalg.norm(to_vector(way)) > POINTED:
            found[foot.node] = way
    return found


def hung(frame: RestFrame) -> Array:
    """Where a control hangs from its parent node at rest, in world axes, ``(3,)``."""
    parent = multiply(np.array(frame.world_rotation), inverse(np.array(frame.rotation)))
    return rotate(parent, np.array(frame.translation))


def _groups(rig: Rig, pose: Pose, matches: Mapping[str, str], facing: Array) -> dict[int, Array]:
    """For nodes that a pose does not hold, but several controls hanging on them: how the other
    rig's is turned."""
    hanging: dict[str, list[tuple[int, RestFrame]]] = {}
    for name, held in pose.controls.items():
        if held.rest is None or held.rest.parent in pose.controls or name not in matches:
            continue
        row = rig.control_row.get(matches[name])
        if row is not None and held.rest.parent is not None and rig.controls[row].moves_node:
            hanging.setdefault(held.rest.parent, []).append((rig.controls[row].node, held.rest))
    found: dict[int, Array] = {}
    for members in hanging.values():
        parents = {rig.skeleton.parents[node] for node, _ in members}
        if len(members) < 3 or len(parents) != 1 or -1 in parents:
            continue
        parent = parents.pop()
        own = rig.row_of_node.get(parent)
        if own is not None and rig.controls[own].name in matches.values():
            continue  # it has a partner of its own that says how it turns
        places = rig.skeleton.rest_world[:, :3, 3]
        mine = np.array([places[node] - places[parent] for node, _ in members])
        theirs = np.array([facing @ hung(frame) for _, frame in members])
        turn = _aligned(mine, theirs)
        if turn is not None and np.linalg.norm(to_vector(turn)) > TURNED:
            found[parent] = turn
    return found


def _aligned(mine: Array, theirs: Array) -> Array | None:
    """The rotation that lays some directions on others best (Kabsch 1976, Acta Cryst. A32);
    None where they all lie on one line."""
    lengths = np.linalg.norm(mine, axis=1), np.linalg.norm(theirs, axis=1)
    if min(lengths[0].min(), lengths[1].min()) < 1e-6:
        return None
    a, b = mine / lengths[0][:, None], theirs / lengths[1][:, None]
    u, size, vt = np.linalg.svd(b.T @ a)
    if size[1] < 1e-3 * size[0]:
        return None
    flip = np.diag([1.0, 1.0, np.sign(np.linalg.det(u @ vt))])
    return from_matrix(u @ flip @ vt)


def _shortest(a: Array, b: Array) -> Array:
    """The shortest rotation from one direction to another, ``(4,)``."""
    a, b = a / np.linalg.norm(a), b / np.linalg.norm(b)
    axis, cosine = np.cross(a, b), float(a @ b)
    if cosine < -1 + 1e-9:
        axis = np.cross(a, np.eye(3)[int(np.argmin(np.abs(a)))])
        return np.asarray([*(axis / np.linalg.norm(axis)), 0.0])
    found = np.array([*axis, 1.0 + cosine])
    return np.asarray(found / np.linalg.norm(found))
