"""What mirroring needs to know of a skeleton, from its rest pose alone."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from fox_hand.core.maths.rotations import Array
from fox_hand.core.maths.transforms import undone
from fox_hand.core.model.body_frame import BodyFrame
from fox_hand.core.model.skeleton import Index, Skeleton


@dataclass(frozen=True, eq=False)
class MirrorTable:
    """What mirroring needs to know of a rig.

    Args:
        partners: for each node the node on the other side, ``(N,)``.
        constants: ``C`` of each node, ``(N, 4, 4)``.
        parent_inverses: ``C^-1`` of each node's parent; ``M`` itself for roots.
    """

    partners: Index
    constants: Array
    parent_inverses: Array

    @staticmethod
    def of(skeleton: Skeleton, known: Mapping[int, int], body: BodyFrame) -> MirrorTable:
        """Measure a skeleton at rest.

        Args:
            skeleton: the nodes.
            known: nodes whose partners are known.
            body: which way the figure stands.
        """
        partners = _node_partners(skeleton, known, body)
        rest = skeleton.rest_world
        constants = undone(rest) @ body.reflection @ rest[partners]
        parents = np.asarray(skeleton.parents, dtype=np.intp)
        inverses = undone(constants[parents])
        inverses[parents < 0] = body.reflection
        return MirrorTable(partners, constants, inverses)


def _node_partners(skeleton: Skeleton, known: Mapping[int, int], body: BodyFrame) -> Index:
    """Partner nodes; those that are not known follow where they stand."""
    found = dict(known)
    places = body.seen(skeleton.rest_world[:, :3, 3])
    for node, parent in enumerate(skeleton.parents):
        if node not in found:
            above = found[parent] if parent >= 0 else -1
            found[node] = _reflected_child(skeleton, places, node, above)
    return np.array([found[n] for n in range(len(skeleton))], dtype=np.intp)


def _reflected_child(skeleton: Skeleton, places: Array, node: int, above: int) -> int:
    children = [node, *(n for n, p in enumerate(skeleton.parents) if p == above and n != node)]
    wanted = places[node] * (-1.0, 1.0, 1.0)
    far = np.linalg.norm(places[children] - wanted, axis=-1)
    size = max(float(np.ptp(places[:, 1])), 1e-9)
    best = children[int(np.argmin(far))]
    return best if far.min() < 0.01 * size else node
