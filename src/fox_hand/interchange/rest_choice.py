"""What counts as rest where a file's nodes stand in another stance than its skin was bound in."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fox_hand.base.language import tr, tr_n
from fox_hand.base.words import some_of
from fox_hand.core.model.skeleton import Skeleton
from fox_hand.core.rig.bind_pose import BindPose, SkinBind, bind_pose
from fox_hand.core.rig.rig import RestFrom


@dataclass(frozen=True, eq=False)
class Settled:
    """The rest that was chosen.

    Args:
        skeleton: at rest.
        rest_from, filed: as in :class:`fox_hand.core.rig.rig.Rig`.
        notes: a sentence where there was something to choose.
    """

    skeleton: Skeleton
    rest_from: RestFrom | None = None
    filed: Skeleton | None = None
    notes: tuple[str, ...] = ()


def settled(filed: Skeleton, skins: Sequence[SkinBind], wanted: RestFrom | None) -> Settled:
    """Choose: the skin's stance unless somebody wants the nodes'.

    Args:
        filed: the nodes as the file places them.
        skins: what the skins say.
        wanted: what a person said.
    """
    bound = bind_pose(filed, skins)
    if bound is None:
        return Settled(filed)
    how = _difference(filed, bound)
    if wanted == "nodes":
        note = tr("{how} Its own stance counts as rest, as its sidecar says.", how=how)
        return Settled(filed, "nodes", None, (note,))
    note = tr(
        "{how} The stance of the skin counts as rest; the menu of its tab, or "
        'rest_from: "nodes" in its sidecar, takes the file\'s own.',
        how=how,
    )
    return Settled(bound.skeleton, "skin", filed, (note,))


def _difference(filed: Skeleton, bound: BindPose) -> str:
    turned = [(n, np.degrees(a)) for n, a in bound.changed if a > np.radians(0.5)]
    words = some_of(
        [tr("{names} by {angle:.0f}°", names=filed.names[n], angle=angle) for n, angle in turned]
    )
    count = len(bound.changed)
    joints = tr_n("1 joint stands", "{number} joints stand", count)
    return tr(
        "The file was written in a pose: {joints} otherwise than its skin was bound", joints=joints
    ) + (f" ({words})." if words else ".")
