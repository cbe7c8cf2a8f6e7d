"""Turns of controls out of how nodes turn in the world, for many frames at once."""

from __future__ import annotations

import numpy as np

from fox_hand.core.maths.rotations import Array, from_matrix, to_matrix
from fox_hand.core.maths.transforms import directions, undone
from fox_hand.core.rig.rig import Rig


def turned(rig: Rig, row: int, turn: Array, nodes: Array, above: Array, own: Array) -> Array:
    """The turns ``(F, 4)`` with which a control's node turns on in the world.

    Whatever stands between the parent and the control's own axes (rest turns, drives) cancels
    out, because it is known how the node stands with the turns it has.

    Args:
        rig: whose.
        row: a control with a node of its own.
        turn: the turns it has, ``(F, 4)`` or ``(4,)``.
        nodes: world matrices with these turns, ``(F, N, 4, 4)`` or ``(N, 4, 4)``.
        above: by how much its parent turns on in the world, ``(F, 3, 3)``.
        own: by how much it is to turn on, ``(F, 3, 3)``.
    """
    node = rig.controls[row].node
    signs = np.sign(rig.skeleton.scale[node])
    signs = np.where(signs == 0, 1.0, signs)
    basis = directions(nodes[..., node, :3, :3]) * signs
    way = basis.swapaxes(-1, -2) @ (above.swapaxes(-1, -2) @ own @ basis)
    return from_matrix(to_matrix(turn) @ way)


def moved(rig: Rig, row: int, nodes: Array, places: Array) -> Array:
    """The moves ``(F, 3)`` in metres that bring a control's node to some places.

    Args:
        rig: whose.
        row: a control with a node of its own that no drive moves.
        nodes: world matrices ``(F, N, 4, 4)``; only the parent's are used.
        places: where to, world metres ``(F, 3)``.
    """
    node = rig.controls[row].node
    parent, skeleton = rig.skeleton.parents[node], rig.skeleton
    local = places
    if parent >= 0:
        back = undone(nodes[:, parent])
        local = (back[:, :3, :3] @ places[..., None])[..., 0] + back[:, :3, 3]
    units = float(rig.units_of(np.array([node]))[0])
    way = to_matrix(skeleton.rotation[node])
    return np.asarray((local - skeleton.translation[node]) @ way * units)
