"""Files of rigs: which are read, and beside each what it does not say, or says twice."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from fox_hand.core.rig.rig import RestFrom
from fox_hand.interchange.readers import RIG_KINDS, read_rig
from fox_hand.interchange.sidecar import (
    FORMAT,
    VERSION,
    Sidecar,
    kind_of,
    read_sidecar,
    rig_stem,
    sidecar_path,
    write_sidecar,
)
from fox_hand.interchange.units import UNITS, USUAL_HEIGHT, UnitUnknownError, unit_word
from fox_hand.library.files.atomic import write_atomically

__all__ = [
    "RIG_KINDS",
    "UNITS",
    "USUAL_HEIGHT",
    "UnitUnknownError",
    "keep_rest",
    "keep_unit",
    "kind_of",
    "read_rig",
    "rig_stem",
    "unit_word",
]


def keep_unit(path: Path, metres_per_unit: float) -> None:
    """Write a unit into a rig's sidecar; what else is there stays.

    Raises:
        FoxHandError: if the sidecar that is there cannot be read, or cannot be written.
    """
    _change(path, lambda sidecar: setattr(sidecar, "metres_per_unit", metres_per_unit))


def keep_rest(path: Path, rest_from: RestFrom) -> None:
    """Write into a rig's sidecar what counts as rest; what else is there stays.

    Raises:
        FoxHandError: if the sidecar that is there cannot be read, or cannot be written.
    """
    _change(path, lambda sidecar: setattr(sidecar, "rest_from", rest_from))


def _change(path: Path, change: Callable[[Sidecar], None]) -> None:
    beside = sidecar_path(path)
    sidecar = read_sidecar(beside) if beside.is_file() else Sidecar(FORMAT, VERSION)
    change(sidecar)
    write_atomically(beside, write_sidecar(sidecar))
