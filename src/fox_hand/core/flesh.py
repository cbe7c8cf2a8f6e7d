"""The skin around some joints: points for framing, measuring and picking."""

from __future__ import annotations

from collections.abc import Collection

import numpy as np

from fox_hand.core.rig import Evaluation, Rig
from fox_hand.core.rotations import Array


def flesh(rig: Rig, at: Evaluation, nodes: Collection[int] | None = None) -> Array:
    """World positions ``(V, 3)`` of the vertices that mainly follow some skeleton nodes.

    Morph targets are left out: they move the surface by less than a frame's margin. Where no
    vertex follows the nodes, the nodes' own places are returned.

    Args:
        rig, at: whose skin, in which pose.
        nodes: skeleton nodes; None for the whole figure.
    """
    found = []
    marked = None
    if nodes is not None:
        marked = np.isin(rig.palette_nodes, list(nodes)).astype(np.float32)
    for part in rig.parts:
        rows = np.arange(len(part.positions))
        if marked is not None:
            rows = np.flatnonzero((marked[part.joints] * part.weights).sum(1) > 0.5)
        if len(rows):
            matrices = at.palette[part.joints[rows], :3]
            blended = np.einsum("vk,vkij->vij", part.weights[rows], matrices)
            points = part.positions[rows]
            found.append(np.einsum("vij,vj->vi", blended[:, :, :3], points) + blended[:, :, 3])
    if found:
        return np.concatenate(found)
    chosen = list(range(len(at.nodes))) if nodes is None else sorted(nodes)
    return np.asarray(at.nodes[chosen][:, :3, 3]).reshape(-1, 3)
