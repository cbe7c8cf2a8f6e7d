"""Which settings the shape of some controls depends on."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from fox_hand.core.model.solvers import Aim, DrivenKind
from fox_hand.core.model.state import State
from fox_hand.core.pose.pose import ChannelFilter
from fox_hand.core.rig.rig import Rig

MOVED = 1e-6


def settings_behind(rig: Rig, chosen: ChannelFilter) -> frozenset[int]:
    """Settings that have a say in the shape of what was chosen and are not chosen themselves: the
    blend of a limb or a look that moves the chosen nodes, what drives those nodes or the chosen
    settings, what is multiplied with that, and what drives it in turn.

    Args:
        rig: whose.
        chosen: channels and settings; other settings of the same holders count as not chosen.
    """
    nodes = {rig.controls[r].node for r in chosen.rows if rig.controls[r].moves_node}
    found = set(_blends(rig, nodes)) | chosen.settings
    size = -1
    while len(found) > size:
        size = len(found)
        for drive in rig.drives:
            one_of = found if drive.kind is DrivenKind.SETTING else nodes
            both = {drive.source} if drive.times is None else {drive.source, drive.times}
            if drive.target in one_of or (drive.times is not None and both & found):
                found |= both
    return frozenset(found - chosen.settings)


def _blends(rig: Rig, nodes: set[int]) -> Iterator[int]:
    for limb in rig.limbs:
        pulled = {limb.upper, limb.lower, limb.end, limb.goal, limb.pole}
        if limb.blend is not None and pulled & nodes:
            yield limb.blend
    for solver in rig.solvers:
        if (
            isinstance(solver, Aim)
            and solver.blend is not None
            and {solver.node, solver.target} & nodes
        ):
            yield solver.blend


def offered(rig: Rig, state: State, chosen: ChannelFilter) -> list[int]:
    """Settings behind a shape that are away from their defaults, and not chosen.

    Args:
        rig: whose.
        state: what is captured, of one frame or of a batch of them.
        chosen: what goes in.
    """
    found = []
    for row in sorted(settings_behind(rig, chosen)):
        away = np.abs(state.settings[..., row] - rig.rest.settings[row]).max() > MOVED
        if away and not rig.settings[row].helper:
            found.append(row)
    return found
