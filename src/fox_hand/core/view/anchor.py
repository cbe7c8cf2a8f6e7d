"""Pictures that go with the part of the body they are of, wherever the rest of the body is."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace

import numpy as np

from fox_hand.core.maths.rotations import Array, inverse, multiply, to_matrix
from fox_hand.core.maths.transforms import decompose
from fox_hand.core.model.body_frame import USUAL, BodyFrame
from fox_hand.core.model.skeleton import Skeleton
from fox_hand.core.rig.rig import Rig


@dataclass(frozen=True)
class Anchor:
    """Where the part of the body that a picture is of was when the picture was taken.

    Args:
        control: whose node it is, such as a hand or the head.
        at: where the node was, metres from where the figure stands.
        turn: how it was turned away from its rest, in the world; a unit quaternion
            ``(x, y, z, w)``. Being measured from rest, it does not depend on the axes of a rig.
    """

    control: str
    at: tuple[float, float, float]
    turn: tuple[float, float, float, float]

    @staticmethod
    def of(rig: Rig, nodes: Array, row: int) -> Anchor:
        """As a control is now.

        Args:
            rig: whose.
            nodes: world matrices ``(N, 4, 4)``, the figure in the middle of the stage.
            row: the control's.
        """
        control = rig.controls[row]
        at, turn = _stands(rig, nodes, control.node)
        x, y, z = at.tolist()
        i, j, k, w = turn.tolist()
        return Anchor(control.name, (x, y, z), (i, j, k, w))

    def way_back(self, rig: Rig, nodes: Array) -> Array:
        """The move and turn ``(4, 4)``, without scale, that brings the control back to where it
        was then.

        Args:
            rig: one with the control.
            nodes: world matrices ``(N, 4, 4)`` now, the figure in the middle of the stage.

        Raises:
            KeyError: for a rig without it.
        """
        at, turn = _stands(rig, nodes, rig.controls[rig.control_row[self.control]].node)
        found = np.eye(4)
        found[:3, :3] = to_matrix(multiply(np.array(self.turn), inverse(turn)))
        found[:3, 3] = np.array(self.at) - found[:3, :3] @ at
        return found

    def mirrored(self, partner: str, body: BodyFrame = USUAL) -> Anchor:
        """As the control of the other side is on a mirrored figure."""
        image = body.reflection
        x, y, z = (image[:3, :3] @ np.array(self.at) + image[:3, 3]).tolist()
        # the axis of a turn is reflected as a place is, and its sense changes
        i, j, k = (-image[:3, :3] @ np.array(self.turn[:3])).tolist()
        return replace(self, control=partner, at=(x, y, z), turn=(i, j, k, self.turn[3]))


def _stands(rig: Rig, nodes: Array, node: int) -> tuple[Array, Array]:
    """Where a node is ``(3,)``, and how it is turned away from its rest ``(4,)``."""
    at, turn, _ = decompose(nodes[node])
    return at, multiply(turn, inverse(rig.skeleton.rest_turns[node]))


def anchor_row(rig: Rig, nodes: Collection[int]) -> int | None:
    """The control that carries all of some nodes: the nearest one on their common way to the
    root; None where none is on it."""
    common: list[int] | None = None
    for node in sorted(nodes):
        way = _to_root(rig.skeleton, node)
        common = way if common is None else [n for n in common if n in set(way)]
    for node in common or ():
        row = rig.row_of_node.get(node)
        if row is not None and rig.controls[row].moves_node:
            return row
    return None


def _to_root(skeleton: Skeleton, node: int) -> list[int]:
    found = []
    while node >= 0:
        found.append(node)
        node = int(skeleton.parents[node])
    return found
