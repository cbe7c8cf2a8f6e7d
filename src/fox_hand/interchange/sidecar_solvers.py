"""Drives and solvers of a sidecar, resolved to nodes and settings of a rig."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping
from itertools import pairwise

from fox_hand.base.language import tr
from fox_hand.core.model.solvers import Aim, Drive, DrivenKind, Limb, Solver, Twist
from fox_hand.interchange.sidecar import DriveNotes, LimbNotes, LookNotes, Sidecar, TwistNotes

AXES = {"x": 0, "y": 1, "z": 2}


class SolverBuilder:
    """Resolves names; what names something the rig lacks is left out and noted.

    Args:
        sidecar: the file.
        node_of: skeleton nodes by name.
        setting_row: rows of settings by name.
    """

    def __init__(
        self, sidecar: Sidecar, node_of: Mapping[str, int], setting_row: Mapping[str, int]
    ) -> None:
        self._sidecar, self._node_of, self._setting_row = sidecar, node_of, setting_row
        self.notes: list[str] = []

    def solvers(self) -> tuple[Solver, ...]:
        """Limbs, looks and twists in the file's order."""
        found: list[Solver] = []
        for notes in self._sidecar.solvers:
            solver: Solver | None
            if isinstance(notes, LimbNotes):
                solver = self._limb(notes)
            elif isinstance(notes, LookNotes):
                solver = self._look(notes)
            else:
                solver = self._twist(notes)
            if solver is not None:
                found.append(solver)
        return tuple(found)

    def drives(self, moved: Collection[int]) -> tuple[Drive, ...]:
        """Drives in the file's order; onto nodes only where one of the controls ``moved`` is."""
        made = (self._drive(notes, moved) for notes in self._sidecar.drives)
        return tuple(d for d in made if d is not None)

    def _has(self, what: str, nodes: list[str], settings: list[str | None]) -> bool:
        missing = [n for n in nodes if n not in self._node_of]
        missing += [s for s in settings if s is not None and s not in self._setting_row]
        if missing:
            self.notes.append(
                tr(
                    "{what} is left out: the rig does not have {names}.",
                    what=what,
                    names=", ".join(missing),
                )
            )
        return not missing

    def _row(self, setting: str | None) -> int | None:
        return None if setting is None else self._setting_row[setting]

    def _limb(self, notes: LimbNotes) -> Limb | None:
        nodes = [notes.upper, notes.lower, notes.end, notes.goal, notes.pole]
        settings = [notes.blend, notes.twist_upper, notes.twist_lower]
        if not self._has(tr("The limb {name}", name=notes.name), nodes, settings):
            return None
        return Limb(
            notes.name, *(self._node_of[n] for n in nodes), *(self._row(s) for s in settings)
        )

    def _look(self, notes: LookNotes) -> Aim | None:
        if not self._has(
            tr("The look {name}", name=notes.name), [notes.joint, notes.target], [notes.blend]
        ):
            return None
        limits = (notes.left, notes.right, notes.up, notes.down)
        return Aim(
            notes.name,
            self._node_of[notes.joint],
            self._node_of[notes.target],
            self._row(notes.blend),
            *(math.radians(v) for v in limits),
        )

    def _twist(self, notes: TwistNotes) -> Twist | None:
        if not self._has(
            tr("The twist of {joint}", joint=notes.joint), [notes.joint, notes.source], []
        ):
            return None
        joint, source = self._node_of[notes.joint], self._node_of[notes.source]
        return Twist(joint, source, AXES[notes.axis], notes.share)

    def _drive(self, notes: DriveNotes, moved: Collection[int]) -> Drive | None:
        what = tr("The drive from {source} to {target}", source=notes.source, target=notes.target)
        onto_setting = notes.onto is DrivenKind.SETTING
        nodes = [] if onto_setting else [notes.target]
        settings = [notes.source, notes.times, notes.target if onto_setting else None]
        if not self._has(what, nodes, settings):
            return None
        xs = [x for x, _ in notes.points]
        if not xs or any(b <= a for a, b in pairwise(xs)):
            self.notes.append(
                tr("{what} is left out: its inputs have to grow from point to point.", what=what)
            )
            return None
        target = self._setting_row[notes.target] if onto_setting else self._node_of[notes.target]
        if not onto_setting and target not in moved:
            self.notes.append(
                tr("{what} is left out: {target} is not a control.", what=what, target=notes.target)
            )
            return None
        turning = notes.onto is DrivenKind.TURN
        points = tuple((x, math.radians(y) if turning else y) for x, y in notes.points)
        return Drive(
            self._setting_row[notes.source],
            notes.onto,
            target,
            AXES[notes.axis],
            points,
            self._row(notes.times),
        )
