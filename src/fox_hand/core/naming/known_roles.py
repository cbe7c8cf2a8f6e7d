"""Humanoid roles of the controls that a pose holds, from what it says itself of the rig it was
taken from: what the rig had for roles then, or else the names, also of the joints above."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import NamedTuple

from fox_hand.core.model.controls import Side
from fox_hand.core.naming.roles import infer_roles
from fox_hand.core.naming.side_region import side_from_name

LIMBS = (
    frozenset({"Shoulder", "UpperArm", "LowerArm", "Hand"}),
    frozenset({"UpperLeg", "LowerLeg", "Foot", "Toes"}),
)


class JointSaid(NamedTuple):
    """What is known of a joint besides its name.

    Args:
        parent: name of the control above; None for a root.
        role: its humanoid role on its rig; None for none, or where nobody wrote that down.
        role_sure: from 0 to 1 how sure that is; less than 1 where only the shape says it.
        free: whether it is a goal or a pole, or moved and never turned, as no joint is.
    """

    parent: str | None = None
    role: str | None = None
    role_sure: float = 1.0
    free: bool = False


@dataclass(frozen=True)
class KnownRoles:
    """Roles by name.

    Args:
        sure: those that count without asking.
        likely: those that are only proposed.
        names: of all joints that were spoken of, those above included.
    """

    sure: Mapping[str, str] = field(default_factory=dict)
    likely: Mapping[str, str] = field(default_factory=dict)
    names: frozenset[str] = frozenset()

    @cached_property
    def all(self) -> dict[str, str]:
        return {**self.likely, **self.sure}


def known_roles(joints: Mapping[str, JointSaid]) -> KnownRoles:
    """Roles of joints of which a pose speaks.

    Args:
        joints: by name what is said of each. If any says its role, all that have one do.
    """
    names = names_said(joints)
    if any(joint.role is not None for joint in joints.values()):
        told = {name: j for name, j in joints.items() if j.role is not None}
        sure = {n: j.role for n, j in told.items() if j.role is not None and j.role_sure >= 1.0}
        likely = {n: j.role for n, j in told.items() if j.role is not None and n not in sure}
        return KnownRoles(sure, likely, names)
    found = _from_names(joints)
    sure = {n: role for n, role in found.items() if n in joints and _certain(n, found, joints)}
    likely = {n: role for n, role in found.items() if n in joints and n not in sure}
    return KnownRoles(sure, likely, names)


def names_said(joints: Mapping[str, JointSaid]) -> frozenset[str]:
    """Names of joints and of those above them."""
    return frozenset(joints) | {j.parent for j in joints.values() if j.parent is not None}


def _from_names(joints: Mapping[str, JointSaid]) -> dict[str, str]:
    """Roles by what names mean in their chain, of the joints above, too."""
    ordered: dict[str, None] = {}
    for name in joints:
        way: dict[str, None] = {}  # a circle in a damaged file ends where it began
        above: str | None = name
        while above is not None and above not in ordered and above not in way:
            way[above] = None
            above = joints[above].parent if above in joints else None
        ordered.update(dict.fromkeys(reversed(way)))
    number = {name: row for row, name in enumerate(ordered)}
    parents = [number.get(_parent(n, joints) or "", -1) for n in ordered]
    parents = [above if above < row else -1 for row, above in enumerate(parents)]
    sides = [side_from_name(n) or Side.CENTRE for n in ordered]
    roles = infer_roles(list(ordered), sides, parents)
    return {name: role for name, role in zip(ordered, roles, strict=True) if role is not None}


def _parent(name: str, joints: Mapping[str, JointSaid]) -> str | None:
    return joints[name].parent if name in joints else None


def _certain(name: str, roles: Mapping[str, str], joints: Mapping[str, JointSaid]) -> bool:
    """Whether names leave no doubt: *leg* is the thigh on one rig and the shin on another, so a
    joint of a limb needs another one of the same limb, above it or below."""
    limb = _limb(roles[name])
    if limb is None:
        # nothing is known of what hangs on what where nobody says anything of the joints above
        return any(joint.parent is not None for joint in joints.values())
    above = _parent(name, joints)
    near = [n for n in roles if n == above or _parent(n, joints) == name]
    return any(_limb(roles[n]) == limb for n in near)


def _limb(role: str) -> tuple[str, frozenset[str]] | None:
    for side in ("left", "right"):
        part = role.removeprefix(side)
        for limb in LIMBS:
            if part in limb and part != role:
                return side, limb
    return None
