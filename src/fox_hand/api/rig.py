"""Characters: what is known about a rig, and how it stands at rest."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Literal

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr

if TYPE_CHECKING:
    from fox_hand.api.stance import Stance
    from fox_hand.core.rig.rig import Rig as CoreRig

UnitName = Literal["metres", "centimetres", "inches", "millimetres"]
Range = tuple[float, float] | None


@dataclass(frozen=True)
class ControlFacts:
    """What is known about a control.

    Args:
        name, label: for files, and for people.
        kind: ``joint``, ``goal``, ``pole``, ``look`` or ``holder`` (of settings only).
        parent: the control above it; None for none.
        side, region: such as ``left`` and ``hands``.
        partner: its control on the other side; its own name in the middle, None for none.
        role: VRM 1.0 humanoid bone name, where it is one.
        order: Euler order of its turns, such as ``XYZ``.
        channels: such as ``move.x`` and ``turn.z``.
        locked: those of them that its builder has locked.
        limits: lowest and highest value of those that have any, degrees and metres.
        settings: names of those it holds.
        helper: follows others and is not shown.
    """

    name: str
    label: str
    kind: str
    parent: str | None
    side: str
    region: str
    partner: str | None
    role: str | None
    order: str
    channels: tuple[str, ...]
    locked: tuple[str, ...]
    limits: Mapping[str, tuple[float, float]]
    settings: tuple[str, ...]
    helper: bool


@dataclass(frozen=True)
class SettingFacts:
    """What is known about a setting.

    Args:
        name, label: for files, and for people.
        control: the control that holds it.
        kind: ``float``, ``bool`` or ``choice``.
        minimum, maximum, default: its range, and its value at rest.
        options: of a choice.
        partner: the setting on the other side; None for none.
    """

    name: str
    label: str
    control: str
    kind: str
    minimum: float
    maximum: float
    default: float
    options: tuple[str, ...]
    partner: str | None


class Rig:
    """A character as its file describes it; see :meth:`open`."""

    def __init__(self, core: CoreRig, path: Path) -> None:
        self.core, self.path = core, path

    @staticmethod
    def open(path: Path | str, *, unit: UnitName | None = None) -> Rig:
        """Read a rig, with the description beside it.

        Args:
            path: glTF, VRM, USD, BVH, or a description alone (``.foxrig.json``).
            unit: of files that do not say theirs.

        Raises:
            FoxHandError: if it cannot be read, or does not say its unit; ``api.unit``.
        """
        from fox_hand.interchange.readers import read_rig
        from fox_hand.interchange.units import UNITS

        if unit is not None and unit not in UNITS:
            known = ", ".join(UNITS)
            said = tr("There is no unit {unit}; there are {known}.", unit=unit, known=known)
            raise FoxHandError("api.unit", said, tr("Nothing was opened."))
        metres = None if unit is None else UNITS[unit]
        return Rig(read_rig(Path(path), metres), Path(path))

    def __repr__(self) -> str:
        return f"<{self.core!r} of {self.path}>"

    @property
    def name(self) -> str:
        return self.core.name

    @property
    def height(self) -> float:
        """Metres, at rest."""
        return self.core.height

    @property
    def fingerprint(self) -> str:
        """Stands for structure, rest and proportions; cards carry that of their rig."""
        return self.core.fingerprint

    @property
    def notes(self) -> tuple[str, ...]:
        """Sentences about what was inferred, or could not be read."""
        return self.core.notes

    @property
    def sets(self) -> Mapping[str, tuple[str, ...]]:
        """Selection sets: names of controls."""
        return self.core.sets

    @cached_property
    def controls(self) -> Mapping[str, ControlFacts]:
        """All controls by name, in the rig's order."""
        return {c.name: self._control(row) for row, c in enumerate(self.core.controls)}

    @cached_property
    def settings(self) -> Mapping[str, SettingFacts]:
        """All settings by name, in the rig's order."""
        return {
            s.name: SettingFacts(
                s.name,
                s.label,
                self.core.controls[s.control].name,
                s.kind.value,
                s.minimum,
                s.maximum,
                s.default,
                s.options,
                s.partner,
            )
            for s in self.core.settings
        }

    @cached_property
    def rest(self) -> Stance:
        """How it stands where nobody poses it."""
        from fox_hand.api.stance import Stance

        return Stance(self, self.core.rest)

    def _control(self, row: int) -> ControlFacts:
        from fox_hand.core.model.controls import Channel

        control, above = self.core.controls[row], self.core.parents[row]
        return ControlFacts(
            control.name,
            control.label,
            control.kind.value,
            self.core.controls[above].name if above >= 0 else None,
            control.side.value,
            control.region.value,
            control.partner,
            control.role,
            control.order,
            tuple(f"{c.value}.{a}" for c in Channel if c in control.channels for a in "xyz"),
            tuple(sorted(f"{c.value}.{'xyz'[axis]}" for c, axis in control.locked)),
            self._limits(row),
            tuple(self.core.settings[s].name for s in self.core.settings_of[row]),
            control.helper,
        )

    def _limits(self, row: int) -> dict[str, tuple[float, float]]:
        control, found = self.core.controls[row], {}
        for axis, turn, move in zip("xyz", control.limits, control.move_limits, strict=True):
            if turn is not None:
                found[f"turn.{axis}"] = (math.degrees(turn[0]), math.degrees(turn[1]))
            if move is not None:
                found[f"move.{axis}"] = move
        return found
