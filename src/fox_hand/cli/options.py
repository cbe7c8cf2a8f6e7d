"""Options that several commands have, and what they take."""

from __future__ import annotations

import math
from enum import StrEnum
from pathlib import Path
from typing import Annotated

import typer

from fox_hand.base.language import tr
from fox_hand.base.motion_wish import MotionWish


def _finite(value: float | None) -> float | None:
    if value is not None and not (math.isfinite(value) and 0 < value <= 1000):
        raise typer.BadParameter(
            tr("{value} is no number of frames a second (above 0, at most 1000)", value=value)
        )
    return value


Rate = Annotated[
    float | None, typer.Option("--rate", help=tr("Frames a second to sample at."), callback=_finite)
]
Animation = Annotated[
    str | None,
    typer.Option("--animation", help=tr("Which of several: its name, or its number from 1.")),
]


class Unit(StrEnum):
    """Units a person can name."""

    METRES = "metres"
    CENTIMETRES = "centimetres"
    INCHES = "inches"
    MILLIMETRES = "millimetres"


UnitOption = Annotated[
    Unit | None, typer.Option("--unit", help=tr("Of files that do not say theirs (BVH)."))
]


def metres_of(unit: Unit | None) -> float | None:
    """Metres of one unit."""
    from fox_hand.interchange.units import UNITS

    return None if unit is None else UNITS[unit.value]


def wish_of(rate: float | None, animation: str | None, unit: Unit | None) -> MotionWish:
    """How a file with motion is to be read."""
    return MotionWish(rate, animation, metres_of(unit))


Find = Annotated[
    str,
    typer.Option("--find", help=tr("Only what a search finds: words and filters, as on screen.")),
]
Folder = Annotated[Path, typer.Argument(help=tr("The library's folder."))]
RigOption = Annotated[
    Path | None, typer.Option("--rig", help=tr("A character, for fits: and for what has no rig."))
]
Who = Annotated[str, typer.Option("--who", help=tr("The prefix, of a shot with several."))]
STDIO = Path("-")
