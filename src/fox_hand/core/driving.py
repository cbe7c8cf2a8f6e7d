"""Drives: piecewise-linear curves from settings to settings and to channels of nodes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fox_hand.core.rotations import Array
from fox_hand.core.skeleton import Index
from fox_hand.core.solvers import Drive, DrivenKind


def curve(points: tuple[tuple[float, float], ...], at: Array) -> Array:
    """A piecewise-linear curve, level outside its ends."""
    xs, ys = zip(*points, strict=True)
    return np.asarray(np.interp(at, xs, ys))


def output(drive: Drive, settings: Array) -> Array:
    """What a drive gives, ``(F,)``, from effective setting values ``(S, F)``."""
    value = curve(drive.points, settings[drive.source])
    return value if drive.times is None else value * settings[drive.times]


def driven_settings(drives: Sequence[Drive], settings: Array) -> Array:
    """Effective setting values ``(S, F)``: the drives onto settings added, in the rig's order."""
    onto = [d for d in drives if d.kind is DrivenKind.SETTING]
    if not onto:
        return settings
    found = settings.copy()
    for drive in onto:
        found[drive.target] += output(drive, found)
    return found


def _rests_at_nought(drive: Drive) -> bool:
    nought = float(curve(drive.points, np.zeros(1))[0])
    return drive.kind is not DrivenKind.SCALE and nought == 0.0


@dataclass(frozen=True, eq=False)
class DrivenNodes:
    """Drives onto nodes, gathered by node.

    Args:
        nodes: the driven nodes, ``(K,)``.
        drives: drives onto them, each with the place of its node in ``nodes`` and whether it
            changes nothing while its setting is 0.
    """

    nodes: Index
    drives: tuple[tuple[int, Drive, bool], ...]

    @staticmethod
    def of(drives: Sequence[Drive]) -> DrivenNodes:
        """Gather the drives that are onto nodes."""
        onto = [d for d in drives if d.kind is not DrivenKind.SETTING]
        slot = {node: i for i, node in enumerate(dict.fromkeys(d.target for d in onto))}
        return DrivenNodes(
            np.array(list(slot), dtype=np.intp),
            tuple((slot[d.target], d, _rests_at_nought(d)) for d in onto),
        )

    def values(self, settings: Array) -> tuple[Array, Array, Array]:
        """Moves in metres, turns (Euler XYZ, radians) and scale factors that the drives give,
        each ``(K, 3, F)``."""
        shape = (len(self.nodes), 3, settings.shape[-1])
        move, turn, scale = np.zeros(shape), np.zeros(shape), np.ones(shape)
        stirred = np.asarray(settings.any(-1))
        for slot, drive, resting in self.drives:
            if resting and not stirred[drive.source]:
                continue
            value = output(drive, settings)
            if drive.kind is DrivenKind.MOVE:
                move[slot, drive.axis] += value
            elif drive.kind is DrivenKind.TURN:
                turn[slot, drive.axis] += value
            else:
                scale[slot, drive.axis] *= value
        return move, turn, scale
