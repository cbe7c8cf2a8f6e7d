"""Controls for the joints of a file that says nothing about controls: everything inferred."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from fox_hand.core.maths.euler import EulerOrder
from fox_hand.core.model.controls import ALL_CHANNELS, Channel, Control, ControlKind, Side
from fox_hand.core.model.skeleton import Skeleton
from fox_hand.core.naming.mirror_partners import infer_partners
from fox_hand.core.naming.roles import infer_roles
from fox_hand.core.naming.side_region import infer_regions, infer_sides, label_of

HUGE, TINY = 12.0, 0.08  # metres: taller or smaller figures are probably in another unit


def joint_controls(
    skeleton: Skeleton,
    nodes: Sequence[int],
    *,
    roles: Mapping[int, str] | None = None,
    orders: Mapping[int, EulerOrder] | None = None,
    channels: Mapping[int, frozenset[Channel]] | None = None,
) -> tuple[list[Control], list[str]]:
    """A control for each joint, with label, side, region, role and partner.

    Args:
        skeleton: the nodes.
        nodes: those that are joints, in topological order.
        roles: humanoid roles the file gives, by node; the others are inferred where it gives
            none at all.
        orders, channels: what the file says about turns and channels, by node.

    Returns:
        the controls, and sentences about what disagrees.
    """
    names = [skeleton.names[n] for n in nodes]
    places = skeleton.rest_world[list(nodes), :3, 3].reshape(-1, 3)
    height = max(float(np.ptp(places[:, 1])), 1e-6) if len(places) else 1.0
    sides, notes = infer_sides(names, places, height)
    at = {n: i for i, n in enumerate(nodes)}
    parents = [_nearest(skeleton.parents, n, at) for n in nodes]
    regions = infer_regions(names, parents, places)
    partners = infer_partners(names, sides, places, height)
    inferred = [None] * len(nodes) if roles else infer_roles(names, sides, parents)
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
            partner=partners[i] if sides[i] is not Side.CENTRE else name,
        )
        for i, (name, node) in enumerate(zip(names, nodes, strict=True))
    ]
    return controls, notes


def size_note(height: float) -> list[str]:
    """A sentence where a figure's height says that the file's unit is probably not the one that
    its format promises."""
    if TINY <= height <= HUGE:
        return []
    return [
        f"The figure is {height:.3g} m tall, so the file is probably in another unit than it "
        "says. Put metres_per_unit into its sidecar to correct that."
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
