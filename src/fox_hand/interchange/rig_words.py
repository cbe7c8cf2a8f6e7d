"""What a person has said about a rig file, beyond what the file says itself."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.core.model.body_frame import BodyFrame
from fox_hand.core.rig.rig import RestFrom
from fox_hand.interchange.sidecar import Sidecar, read_sidecar, sidecar_path


@dataclass(frozen=True)
class RigWords:
    """What was said; None where nothing was.

    Args:
        metres_per_unit: the unit.
        rest_from: what counts as rest.
        body: which way the figure stands.
        controls: names of nodes that are to be posed with, joints or not.
    """

    metres_per_unit: float | None = None
    rest_from: RestFrom | None = None
    body: BodyFrame | None = None
    controls: frozenset[str] = frozenset()


NOTHING_SAID = RigWords()


def words_of(sidecar: Sidecar | None, metres_per_unit: float | None = None) -> RigWords:
    """What a sidecar says, and of the unit what was said just now."""
    if sidecar is None:
        return RigWords(metres_per_unit)
    unit = sidecar.metres_per_unit if metres_per_unit is None else metres_per_unit
    body = sidecar.body.frame() if sidecar.body is not None else None
    return RigWords(unit, sidecar.rest_from, body, frozenset(sidecar.controls))


def words_beside(path: Path) -> RigWords:
    """What the sidecar of a file says; nothing without one, or where it cannot be read."""
    beside = sidecar_path(path)
    if not beside.is_file():
        return NOTHING_SAID
    try:
        return words_of(read_sidecar(beside))
    except FoxHandError:
        return NOTHING_SAID


def in_unit(words: RigWords, metres_per_unit: float | None) -> RigWords:
    """The same with another unit, where one is given."""
    return words if metres_per_unit is None else replace(words, metres_per_unit=metres_per_unit)
