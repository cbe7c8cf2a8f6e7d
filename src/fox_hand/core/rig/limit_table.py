"""The limits of all controls of a rig as arrays."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fox_hand.core.maths.euler import Axes, axes_of
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.controls import NO_LIMITS, Control, Limits
from fox_hand.core.model.skeleton import Index


@dataclass(frozen=True, eq=False)
class LimitTable:
    """Limits by control row.

    Args:
        turns, moves: lowest and highest values, each ``(C, 3)``, radians and metres; infinite
            where there is no limit.
        turning, moving: rows with any limit.
        axes: of the Euler turns they are measured in, ``(C, 3)``.
    """

    turns: tuple[Array, Array]
    moves: tuple[Array, Array]
    turning: Index
    moving: Index
    axes: Axes

    @staticmethod
    def of(controls: Sequence[Control]) -> LimitTable:
        """Gather the limits of some controls."""

        def rows(limited: list[int]) -> Index:
            return np.array(limited, dtype=np.intp)

        return LimitTable(
            _columns([c.limits for c in controls]),
            _columns([c.move_limits for c in controls]),
            rows([i for i, c in enumerate(controls) if c.limits != NO_LIMITS]),
            rows([i for i, c in enumerate(controls) if c.move_limits != NO_LIMITS]),
            axes_of([c.order for c in controls]),
        )


def _columns(limits: Sequence[Limits]) -> tuple[Array, Array]:
    open_ended = (-np.inf, np.inf)
    pairs = [[open_ended if pair is None else pair for pair in three] for three in limits]
    both = np.array(pairs, dtype=np.float64).reshape(-1, 3, 2)
    return both[..., 0], both[..., 1]
