"""Controls for the joints of a file that says nothing about controls: everything inferred."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from fox_hand.base.language import tr
from fox_hand.core.maths.euler import EulerOrder
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.body_frame import BodyFrame
from fox_hand.core.model.controls import ALL_CHANNELS, Channel, Control, ControlKind, Side
from fox_hand.core.model.skeleton import Skeleton
from fox_hand.core.naming.body_finding import find_body
from fox_hand.core.naming.joint_names import read_all
from fox_hand.core.naming.mirror_partners import infer_partners
from fox_hand.core.naming.roles import infer_roles
from fox_hand.core.naming.shape_roles import NOTHING, ShapeRoles, shape_roles
from fox_hand.core.naming.side_region import (
    infer_regions,
    infer_sides,
    label_of,
    region_from_name,
    side_from_name,
)


@dataclass(frozen=True)
class JointControls:
    """What was found out about joints.

    Args:
        controls: one for each.
        notes: sentences about what disagrees.
        body: which way the figure stands.
    """

    controls: list[Control]
    notes: list[str]
    body: BodyFrame


# a rig of which at least so many of these are named is one whose names are to be believed
ENOUGH = 5
UNKNOWN = 0.3  # less sure than this is no knowledge of which way a figure looks
MAIN = {"hips", "spine", "chest", "head", "neck"} | {
    side + part
    for side in ("left", "right")
    for part in ("UpperArm", "LowerArm", "Hand", "UpperLeg", "LowerLeg", "Foot")
}
HUGE, TINY = 12.0, 0.08  # metres: taller or smaller figures are probably in another unit


def joint_controls(
    skeleton: Skeleton,
    nodes: Sequence[int],
    *,
    roles: Mapping[int, str] | None = None,
    orders: Mapping[int, EulerOrder] | None = None,
    channels: Mapping[int, frozenset[Channel]] | None = None,
    body: BodyFrame | None = None,
) -> JointControls:
    """A control for each joint, with label, side, region, role and partner.

    Args:
        skeleton: the nodes.
        nodes: those that are joints, in topological order.
        roles: humanoid roles the file gives, by node; the others are inferred where it gives
            none at all.
        orders, channels: what the file says about turns and channels, by node.
        body: which way the figure stands, where somebody said so; found where it is None.
    """
    names = [skeleton.names[n] for n in nodes]
    world = skeleton.rest_world[list(nodes), :3, 3].reshape(-1, 3)
    at = {n: i for i, n in enumerate(nodes)}
    parents = [_nearest(skeleton.parents, n, at) for n in nodes]
    given = {r: at[n] for n, r in (roles or {}).items() if n in at}
    shape = NOTHING if given or _named(names, parents, world) else shape_roles(parents, world)
    if body is None:
        body = _body_of(names, parents, world, given, shape)
    places = body.seen(world)
    height = max(float(np.ptp(places[:, 1])), 1e-6) if len(places) else 1.0
    sides, notes = infer_sides(names, places, height)
    if body.sure < UNKNOWN:
        sides = _without_images(names, sides, places, height)
    regions = infer_regions(names, parents, places)
    for row, region in shape.parts.items():
        regions[row] = region_from_name(names[row]) or region
    partners = infer_partners(names, sides, places, height)
    inferred = [None] * len(nodes) if roles else infer_roles(names, sides, parents, places)
    sure = 1.0
    if shape.roles:
        guessed = {row: role for role, row in shape.roles.items()}
        inferred, sure = [guessed.get(row) for row in range(len(nodes))], shape.sure
    controls = [
        Control(
            name=name,
            label=label_of(name),
            kind=ControlKind.JOINT,
            node=node,
            order=(orders or {}).get(node, "XYZ"),
            side=sides[i],
            region=regions[i],
            role=(roles or {}).get(node, inferred[i]),
            channels=(channels or {}).get(node, ALL_CHANNELS),
            role_sure=sure if inferred[i] is not None else 1.0,
            partner=partners[i] if sides[i] is not Side.CENTRE else name,
        )
        for i, (name, node) in enumerate(zip(names, nodes, strict=True))
    ]
    return JointControls(controls, notes, body)


def _without_images(
    names: Sequence[str], sides: Sequence[Side], places: Array, height: float
) -> list[Side]:
    """Sides of a figure of which nobody knows where its left is, such as a puppet drawn from the
    side: only what has its mirror image on the other side of the middle lies on a side."""
    partners = infer_partners(names, sides, places, height)
    return [
        side if side_from_name(name) is not None or partner not in (None, name) else Side.CENTRE
        for name, side, partner in zip(names, sides, partners, strict=True)
    ]


def _named(names: Sequence[str], parents: Sequence[int], places: Array) -> bool:
    """Whether names follow a family: most main bones have a role by them."""
    sides = [s.side or Side.CENTRE for s in read_all(names)]
    return len(set(infer_roles(names, sides, parents, places)) & MAIN) >= ENOUGH


def _body_of(
    names: Sequence[str],
    parents: Sequence[int],
    places: Array,
    given: Mapping[str, int],
    shape: ShapeRoles,
) -> BodyFrame:
    """Which way the figure stands, by what its joints' names, its shape and the file say."""
    if shape.roles:
        found = find_body(places, shape.roles, _topmost(shape.pairs, parents) or shape.pairs)
        return replace(found, sure=min(found.sure, shape.sure))
    sides = [s.side or Side.CENTRE for s in read_all(names)]
    roles = dict(given)
    if not roles:
        inferred = infer_roles(names, sides, parents, places)
        roles = {role: i for i, role in enumerate(inferred) if role is not None}
    partners = infer_partners(names, sides, places, 0.0)
    row = {name: i for i, name in enumerate(names)}
    pairs = [
        (i, row[partner])
        for i, (side, partner) in enumerate(zip(sides, partners, strict=True))
        if side is Side.LEFT and partner in row
    ]
    known = set(pairs)
    for role, i in roles.items():
        other = roles.get("right" + role[4:]) if role.startswith("left") else None
        if other is not None and (i, other) not in known:
            pairs.append((i, other))
    return find_body(places, roles, _topmost(pairs, parents) or pairs)


def _topmost(pairs: Sequence[tuple[int, int]], parents: Sequence[int]) -> list[tuple[int, int]]:
    """Pairs that hang on no other pair: hips, shoulders, eyes. A figure may rest with one arm
    bent; these hardly ever differ."""
    sided = {row for pair in pairs for row in pair}

    def hangs(row: int) -> bool:
        above = parents[row]
        while above >= 0 and above not in sided:
            above = parents[above]
        return above >= 0

    return [pair for pair in pairs if not any(hangs(row) for row in pair)]


def size_note(height: float) -> list[str]:
    """A sentence where a figure's height says that the file's unit is probably not the one that
    its format promises."""
    if TINY <= height <= HUGE:
        return []
    return [
        tr(
            "The figure is {height:.3g} m tall, so the file is probably in another "
            "unit than it says. Put metres_per_unit into its sidecar to correct "
            "that.",
            height=height,
        )
    ]


def _nearest(parents: Sequence[int], node: int, at: Mapping[int, int]) -> int:
    above = parents[node]
    while above >= 0 and above not in at:
        above = parents[above]
    return at[above] if above >= 0 else -1


def unique_names(wanted: Sequence[str]) -> tuple[str, ...]:
    """Names made unique with numbers; empty ones become ``node_1`` and so on."""
    found: list[str] = []
    used: set[str] = set()
    for index, given in enumerate(wanted):
        base = given.strip() or f"node_{index}"
        name, n = base, 2
        while name in used:
            name, n = f"{base}_{n}", n + 1
        used.add(name)
        found.append(name)
    return tuple(found)
