"""Which settings the shape of some controls depends on."""

from __future__ import annotations

from collections.abc import Collection, Iterator

import numpy as np

from fox_hand.core.model.solvers import Aim, DrivenKind
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig

MOVED = 1e-6


def settings_behind(rig: Rig, rows: Collection[int]) -> frozenset[int]:
    """Settings that have a say in the shape of some controls: the blend of a limb or a look that
    moves their nodes, what drives those nodes or the settings they hold, and what drives that in
    turn. Settings that the controls hold themselves are not among them."""
    nodes = {rig.controls[r].node for r in rows if rig.controls[r].moves_node}
    held = {s for r in rows for s in rig.settings_of[r]}
    found = set(_blends(rig, nodes))
    size = -1
    while len(found) > size:
        size = len(found)
        for drive in rig.drives:
            one_of = found | held if drive.kind is DrivenKind.SETTING else nodes
            if drive.target in one_of:
                found.add(drive.source)
                if drive.times is not None:
                    found.add(drive.times)
    return frozenset(found - held)


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


def offered(rig: Rig, state: State, rows: Collection[int], taken: Collection[int]) -> list[int]:
    """Settings behind a shape that are away from their defaults and not taken yet."""
    away = np.abs(state.settings - rig.rest.settings) > MOVED
    return [
        s
        for s in sorted(settings_behind(rig, rows))
        if away[s] and s not in taken and not rig.settings[s].helper
    ]
