"""Correcting what was inferred about a rig: partners, sides, regions, roles, mirror rules.

Changes live in a draft and are tried out on a copy of the rig; saving writes them into the rig's
sidecar, so that they count in all shots.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np
from psygnal import Signal

from fox_hand.core.maths.rotations import angle_between, from_vector
from fox_hand.core.model.body_frame import BodyFrame, vector
from fox_hand.core.model.controls import Control, ControlKind, MirrorRule, Region, Side
from fox_hand.core.model.state import State
from fox_hand.core.naming.mirror_partners import infer_partners, rest_places
from fox_hand.core.naming.side_region import infer_sides, side_from_name
from fox_hand.core.pose.mirror import mirror
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.sidecar import (
    FORMAT,
    VERSION,
    BodyNotes,
    ControlNotes,
    SettingNotes,
    Sidecar,
    read_sidecar,
    sidecar_path,
    write_sidecar,
)
from fox_hand.library.files.atomic import keep_earlier, write_atomically
from fox_hand.session.runtime.draft_history import DraftHistory


@dataclass(frozen=True)
class Corrections:
    """What a person has said, by control or setting name. An empty partner is *no partner*; an
    empty role is *no role*. ``body`` is which way the figure stands."""

    partners: Mapping[str, str] = field(default_factory=dict)
    sides: Mapping[str, Side] = field(default_factory=dict)
    regions: Mapping[str, Region] = field(default_factory=dict)
    roles: Mapping[str, str] = field(default_factory=dict)
    rules: Mapping[str, MirrorRule] = field(default_factory=dict)
    body: BodyFrame | None = None

    def __len__(self) -> int:
        groups = (self.partners, self.sides, self.regions, self.roles, self.rules)
        return sum(len(g) for g in groups) + (self.body is not None)


@dataclass(frozen=True)
class Trial:
    """A pose, its mirror image, and how well they agree.

    Args:
        posed, mirrored: the states.
        back: largest angle in degrees after mirroring twice.
        gap: largest distance in metres between a control and the mirror image of its partner;
            controls that stay alone are left out.
        worst: row of that control.
    """

    posed: State
    mirrored: State
    back: float
    gap: float
    worst: int


class PairsDraft:
    """Corrections of one rig, with undo."""

    changed = Signal()

    def __init__(self, rig: Rig, path: Path) -> None:
        self._base, self._path = rig, path
        self.steps = DraftHistory(Corrections())
        self.rig = rig

    @property
    def corrections(self) -> Corrections:
        return self.steps.now

    def undo(self) -> None:
        if self.steps.go(-1):
            self._follow()

    def redo(self) -> None:
        if self.steps.go(1):
            self._follow()

    def _follow(self) -> None:
        self.rig = corrected(self._base, self.corrections)
        self.changed.emit()

    def _say(self, corrections: Corrections) -> None:
        if self.steps.say(corrections):
            self._follow()

    def pair(self, name: str, partner: str) -> None:
        """Two controls mirror to each other; the own name for the middle, empty for alone. Who
        was paired with either of them before is alone now."""
        row = self.rig.control_row
        said = dict(self.corrections.partners)
        for one, other in ((name, partner), (partner, name)):
            if one not in row:
                continue
            old = self.rig.controls[row[one]].partner
            if old and old not in (one, other) and old in row:
                said[old] = ""
            said[one] = other if partner else ""
        self._say(replace(self.corrections, partners=said))

    def set_side(self, name: str, side: Side) -> None:
        """A control's side; its partner gets the other one."""
        said = {**self.corrections.sides, name: side}
        partner = self._partner(name)
        if partner is not None and partner != name:
            said[partner] = side.other
        self._say(replace(self.corrections, sides=said))

    def set_region(self, name: str, region: Region) -> None:
        """A control's region, and its partner's."""
        names = {name, self._partner(name) or name}
        said = {**self.corrections.regions, **dict.fromkeys(names, region)}
        self._say(replace(self.corrections, regions=said))

    def set_role(self, name: str, role: str) -> None:
        """A joint's humanoid role, taken from whoever had it; empty for none."""
        said = dict(self.corrections.roles)
        for control in self.rig.controls:
            if role and control.role == role:
                said[control.name] = ""
        said[name] = role
        self._say(replace(self.corrections, roles=said))

    def look_along(self, axis: str) -> None:
        """Which way the figure looks: an axis such as ``-Z``; its middle stays where it is. The
        sides of controls whose names say none follow."""
        if axis == self.rig.body.facing:
            return
        ahead = np.zeros(3)
        ahead["XYZ".index(axis[1])] = 1.0 if axis[0] == "+" else -1.0
        found = replace(self.rig.body, ahead=vector(ahead), sure=1.0, said=True)
        if abs(float(found.axes[:, 1] @ ahead)) < 1e-6:  # not up or down
            self._say(replace(self.corrections, body=found))

    def set_rule(self, setting: str, rule: MirrorRule) -> None:
        """How a setting mirrors, and its partner."""
        partner = self.rig.settings[self.rig.setting_row[setting]].partner
        names = {setting, partner or setting}
        said = {**self.corrections.rules, **dict.fromkeys(names, rule)}
        self._say(replace(self.corrections, rules=said))

    def find_again(self) -> None:
        """Infer all partners anew; those made by hand stay."""
        rig = self._base
        by_hand = {c.name for c in rig.controls if c.paired_by_hand} | set(
            self.corrections.partners
        )
        said = dict(self.corrections.partners)
        for kind in (ControlKind.JOINT, ControlKind.GOAL, ControlKind.POLE):
            rows = [r for r, c in enumerate(rig.controls) if c.kind is kind]
            names = [rig.controls[r].name for r in rows]
            sides = [rig.controls[r].side for r in rows]
            found = infer_partners(names, sides, rest_places(rig)[rows], rig.height)
            for row, name, partner in zip(rows, names, found, strict=True):
                if name not in by_hand and partner != rig.controls[row].partner:
                    said[name] = partner or ""
        self._say(replace(self.corrections, partners=said))

    def _partner(self, name: str) -> str | None:
        return self.rig.controls[self.rig.control_row[name]].partner

    def trial(self, state: State) -> Trial:
        """Mirror a state of the figure, or a made-up one where it stands at rest."""
        rig = self.rig
        posed = state if not state.same_bits(rig.rest) else lively(rig)
        mirrored = mirror(rig, posed)
        twice = mirror(rig, mirrored)
        angles = angle_between(twice.turn, posed.turn)
        places = rig.body.seen(rig.handle_places(rig.evaluate(posed).nodes))
        images = rig.body.seen(rig.handle_places(rig.evaluate(mirrored).nodes))
        partner = [rig.control_row.get(c.partner or c.name, r) for r, c in enumerate(rig.controls)]
        gaps = np.linalg.norm(images - places[partner] * (-1.0, 1.0, 1.0), axis=-1)
        gaps[[i for i, c in enumerate(rig.controls) if c.helper or c.partner is None]] = 0.0
        worst = int(np.argmax(gaps)) if len(gaps) else 0
        back = float(np.degrees(angles.max(initial=0.0)))
        return Trial(posed, mirrored, back, float(gaps.max(initial=0.0)), worst)

    def save(self) -> Path:
        """Write the corrections into the rig's sidecar; the one before is kept beside it.

        Raises:
            FoxHandError: if the sidecar that is there cannot be read, or cannot be written.
        """
        path = sidecar_path(self._path)
        sidecar = read_sidecar(path) if path.is_file() else Sidecar(FORMAT, VERSION)
        said = self.corrections
        for name, partner in said.partners.items():
            _notes(sidecar, name).partner = partner
        for name, side in said.sides.items():
            _notes(sidecar, name).side = side
        for name, region in said.regions.items():
            _notes(sidecar, name).region = region
        for name, role in said.roles.items():
            if name not in sidecar.targets:
                sidecar.controls.setdefault(name, ControlNotes()).role = role
        for name, rule in said.rules.items():
            known = self._base.settings[self._base.setting_row[name]]
            notes = sidecar.settings.setdefault(
                name,
                SettingNotes(known.label, known.minimum, known.maximum, known.default),
            )
            notes.mirror = rule
        if said.body is not None:
            sidecar.body = BodyNotes(said.body.ahead, said.body.up, said.body.middle)
        keep_earlier(path)
        write_atomically(path, write_sidecar(sidecar))
        return path


def _notes(sidecar: Sidecar, name: str):  # type: ignore[no-untyped-def]
    for group in (sidecar.targets, sidecar.holders):
        if name in group:
            return group[name]
    return sidecar.controls.setdefault(name, ControlNotes())


def corrected(rig: Rig, said: Corrections) -> Rig:
    """A rig with corrections laid onto it."""

    def control(c: Control) -> Control:
        partner = said.partners.get(c.name, c.partner)
        role = said.roles.get(c.name, c.role)
        return replace(
            c,
            partner=partner or None,
            paired_by_hand=c.paired_by_hand or c.name in said.partners,
            side=said.sides.get(c.name, c.side),
            region=said.regions.get(c.name, c.region),
            role=role or None,
            role_sure=1.0 if c.name in said.roles else c.role_sure,
        )

    if said.body is not None:
        rig = _looking(rig, said.body)
    return replace(
        rig,
        controls=tuple(control(c) for c in rig.controls),
        settings=tuple(replace(s, mirror=said.rules.get(s.name, s.mirror)) for s in rig.settings),
    )


def _looking(rig: Rig, body: BodyFrame) -> Rig:
    """A rig that stands so, the sides of controls without a side in their name by where they are
    then."""
    places = body.seen(rig.handle_places(rig.skeleton.rest_world))
    sides, _ = infer_sides([c.name for c in rig.controls], places, rig.height)
    controls = tuple(
        replace(c, side=side)
        if c.kind is ControlKind.JOINT and side_from_name(c.name) is None
        else c
        for c, side in zip(rig.controls, sides, strict=True)
    )
    return replace(rig, body=body, controls=controls)


def lively(rig: Rig) -> State:
    """A made-up pose that shows at once whether mirroring is right: one side is moved."""
    vectors = np.zeros((len(rig.controls), 3))
    settings = rig.rest.settings.copy()
    for row, control in enumerate(rig.controls):
        if control.helper or control.kind is not ControlKind.JOINT:
            continue
        if control.side is Side.LEFT and control.region in (Region.ARMS, Region.LEGS):
            vectors[row] = (0.30, 0.12, 0.28)
        elif control.side is Side.LEFT and control.region is Region.HANDS:
            vectors[row] = (0.45, 0.0, 0.05)
        elif control.region in (Region.TORSO, Region.HEAD) and control.role is not None:
            vectors[row] = (0.05, 0.10, 0.08)
    for row, setting in enumerate(rig.settings):
        held = rig.controls[setting.control]
        if not setting.discrete and held.kind is ControlKind.HOLDER and held.side is Side.LEFT:
            settings[row] = min(setting.maximum, setting.default + 0.5)
    return rig.rest.with_(turn=from_vector(vectors), settings=settings)
