"""Controls for nodes that are no joints: props that an animation moves, and what calls itself a
control."""

from __future__ import annotations

from collections.abc import Sequence

from fox_hand.core.model.controls import Control, ControlKind, Region, Side
from fox_hand.core.model.skeleton import Skeleton
from fox_hand.core.naming.side_region import (
    label_of,
    partner_name,
    region_from_name,
    side_from_name,
    tokens,
)

# common practice, no source
WORDS = frozenset(("ctrl", "ctl", "cntrl", "cntl", "control", "controller"))


def says_control(name: str | None) -> bool:
    """Whether a node's name says that somebody is meant to pose with it."""
    return name is not None and not WORDS.isdisjoint(tokens(name))


def with_plain_controls(
    controls: Sequence[Control], skeleton: Skeleton, nodes: Sequence[int]
) -> list[Control]:
    """Controls of joints with those of plain nodes between them, in the order of their nodes.

    A plain node has no role, whatever it is called: what moves a hand from outside is not the
    hand. It is where its name says, else where what it hangs on is.

    Args:
        controls: of joints.
        skeleton: the nodes.
        nodes: those that are no joints and become controls.
    """
    known = frozenset(skeleton.names[n] for n in nodes)
    by_node = {c.node: c for c in controls}
    for node in sorted(nodes):
        name, above = skeleton.names[node], skeleton.parents[node]
        while above >= 0 and above not in by_node:
            above = skeleton.parents[above]
        region = region_from_name(name)
        if region is None:
            region = by_node[above].region if above >= 0 else Region.TORSO
        side = side_from_name(name)
        other = partner_name(name, known) if side is not None else None
        by_node[node] = Control(
            name=name,
            label=label_of(name),
            kind=ControlKind.JOINT,
            node=node,
            side=side or Side.CENTRE,
            region=region,
            partner=other if side is not None else name,
        )
    return [by_node[node] for node in sorted(by_node)]
