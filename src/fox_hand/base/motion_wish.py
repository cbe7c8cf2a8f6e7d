"""How a file with motion is to be read."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class MotionWish:
    """What somebody wants of a file with motion; None where the file decides.

    Args:
        rate: frames a second.
        animation: which of several, by name or by number from 1.
        metres_per_unit: the unit of files that do not say it.
    """

    rate: float | None = None
    animation: str | None = None
    metres_per_unit: float | None = None


AS_IT_IS = MotionWish()
