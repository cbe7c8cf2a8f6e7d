"""Laying a sidecar onto the rig that a model file gives."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from fox_hand.base.language import tr
from fox_hand.core.maths.euler import EulerOrder
from fox_hand.core.maths.transforms import decompose, undone
from fox_hand.core.model.controls import (
    NO_LIMITS,
    Channel,
    Control,
    ControlKind,
    Limits,
    MirrorRule,
    Setting,
    SettingKind,
    Side,
)
from fox_hand.core.model.skeleton import Skeleton
from fox_hand.core.rig.rig import PickerSpot, Rig
from fox_hand.interchange.fingerprint import fingerprint
from fox_hand.interchange.sidecar import (
    ControlNotes,
    Order,
    SettingNotes,
    Sidecar,
    Span,
    TargetNotes,
)
from fox_hand.interchange.sidecar_solvers import SolverBuilder

AXES = {"x": 0, "y": 1, "z": 2}


SPOKEN = 100  # names in vain that are told one by one


def apply_sidecar(rig: Rig, sidecar: Sidecar) -> Rig:
    """The rig as its sidecar describes it; notes say what the sidecar names in vain."""
    return _Fitting(rig, sidecar).rig()


class _Fitting:
    def __init__(self, rig: Rig, sidecar: Sidecar) -> None:
        self._rig, self._sidecar = rig, sidecar
        self._notes: list[str] = []
        self._missed = 0

    def rig(self) -> Rig:
        rig, sidecar = self._rig, self._sidecar
        for name in sidecar.controls:
            if name not in rig.control_row:
                self._miss(tr("The sidecar speaks of"), name)
        skeleton, node_of = self._with_targets()
        controls = [
            _noted(c, sidecar.controls.get(c.name))
            for c in rig.controls
            if c.kind is ControlKind.JOINT or not sidecar.holders
        ]
        controls = self._roles_once(controls)
        controls += [_target(n, t, node_of[n]) for n, t in sidecar.targets.items() if n in node_of]
        controls += self._holders(node_of)
        row = {c.name: i for i, c in enumerate(controls)}
        settings = self._settings(row)
        builder = SolverBuilder(sidecar, node_of, {s.name: i for i, s in enumerate(settings)})
        moved = {c.node for c in controls if c.moves_node}
        drives, solvers = builder.drives(moved), builder.solvers()
        return replace(
            rig,
            name=sidecar.name or rig.name,
            skeleton=skeleton,
            controls=tuple(controls),
            settings=tuple(settings),
            drives=(*drives, *rig.drives),  # what the file itself computes comes last
            solvers=solvers,
            sets={k: self._members(k, v, row) for k, v in sidecar.sets.items()},
            picker={k: PickerSpot(v.x, v.y) for k, v in sidecar.picker.items() if k in row},
            fingerprint=fingerprint(controls, settings, skeleton),
            notes=(*rig.notes, *self._notes, *self._more(), *builder.notes),
        )

    def _roles_once(self, controls: list[Control]) -> list[Control]:
        """A role that the sidecar gives is taken from whoever else had it; of two that it gives
        the first counts."""
        told = {n: notes.role for n, notes in self._sidecar.controls.items() if notes.role}
        first: dict[str, str] = {}
        for control in controls:
            role = told.get(control.name)
            if role is not None and first.setdefault(role, control.name) != control.name:
                self._notes.append(
                    tr(
                        "The sidecar says of {first} and of {name} that each is the {role}; "
                        "the first counts.",
                        first=first[role],
                        name=control.name,
                        role=role,
                    )
                )
        return [
            replace(c, role=None) if c.role and first.get(c.role, c.name) != c.name else c
            for c in controls
        ]

    def _miss(self, what: str, name: str) -> None:
        self._missed += 1
        if self._missed <= SPOKEN:
            self._notes.append(
                tr("{what} {name}, which the rig does not have.", what=what, name=name)
            )

    def _more(self) -> tuple[str, ...]:
        """How many were not named one by one: a file can name any number in vain."""
        more = self._missed - SPOKEN
        return (
            (tr("The sidecar names {more} more that the rig does not have.", more=more),)
            if more > 0
            else ()
        )

    def _members(self, name: str, members: list[str], row: dict[str, int]) -> tuple[str, ...]:
        for member in members:
            if member not in row:
                self._miss(tr("The set {name} names", name=name), member)
        return tuple(n for n in members if n in row)

    def _with_targets(self) -> tuple[Skeleton, dict[str, int]]:
        """The skeleton with a node for each target, and the nodes by name."""
        skeleton = self._rig.skeleton
        node_of = {name: i for i, name in enumerate(skeleton.names)}
        names, parents = list(skeleton.names), list(skeleton.parents)
        world = list(skeleton.rest_world)
        locals_ = [skeleton.translation, skeleton.rotation, skeleton.scale]
        for name, notes in self._sidecar.targets.items():
            wanted = [n for n in (notes.at, notes.like, notes.under) if n is not None]
            missing = [n for n in wanted if n not in node_of]
            if missing or name in self._rig.control_row:
                for other in missing:
                    self._miss(tr("The target {name} needs", name=name), other)
                continue
            parent = node_of[notes.under] if notes.under is not None else -1
            place = np.eye(4)
            place[:3, 3] = world[node_of[notes.at]][:3, 3] + notes.offset
            if notes.like is not None:
                basis = world[node_of[notes.like]][:3, :3]
                place[:3, :3] = basis / np.linalg.norm(basis, axis=0)
            local = place if parent < 0 else undone(world[parent]) @ place
            for column, value in enumerate(decompose(local)):
                locals_[column] = np.vstack([locals_[column], value])
            node_of[name] = len(names)
            names.append(name if name not in skeleton.names else tr("{name} (control)", name=name))
            parents.append(parent)
            world.append(place)
        return Skeleton(tuple(names), tuple(parents), *locals_), node_of

    def _holders(self, node_of: dict[str, int]) -> list[Control]:
        return [
            Control(
                name=name,
                label=notes.label,
                kind=ControlKind.HOLDER,
                node=node_of.get(notes.at, 0),
                offset=notes.offset,
                side=notes.side,
                region=notes.region,
                channels=frozenset(),
                partner=notes.partner or (name if notes.side is Side.CENTRE else None),
            )
            for name, notes in self._sidecar.holders.items()
        ]

    def _settings(self, row: dict[str, int]) -> list[Setting]:
        sidecar, rig = self._sidecar, self._rig
        holder_of = {
            setting: name
            for group in (sidecar.controls, sidecar.targets, sidecar.holders)
            for name, notes in group.items()
            for setting in notes.settings
            if name in row
        }
        found = []
        for setting in rig.settings:
            old = rig.controls[setting.control].name
            control = row.get(holder_of.get(setting.name, old), row.get(old, 0))
            found.append(_setting(replace(setting, control=control), sidecar))
        known = {s.name for s in rig.settings}
        for name, holder in holder_of.items():
            if name not in known and name in sidecar.settings:
                found.append(_setting(Setting(name, name, row[holder]), sidecar))
            elif name not in known:
                self._miss(tr("{holder} holds", holder=holder), name)
        return found


def _turn_order(order: Order) -> tuple[EulerOrder, bool]:
    return ("XYZ", True) if order == "quaternion" else (order, False)


def _radians(spans: list[Span] | None, otherwise: Limits) -> Limits:
    if spans is None:
        return otherwise
    return tuple(
        None if pair is None else (float(np.radians(pair[0])), float(np.radians(pair[1])))
        for pair in (*spans, None, None, None)[:3]
    )


def _said(said: str | None, inferred: str | None) -> str | None:
    """What a person says counts; an empty word says that there is none."""
    return inferred if said is None else said or None


def _locks(names: list[str] | None) -> frozenset[tuple[Channel, int]]:
    found = set()
    for name in names or ():
        kind, _, axis = name.partition(".")
        if kind in set(Channel):
            found |= {(Channel(kind), i) for a, i in AXES.items() if axis in ("", a)}
    return frozenset(found)


def _noted(control: Control, notes: ControlNotes | None) -> Control:
    if notes is None:
        return control
    order, quaternion = control.order, control.quaternion
    if notes.order is not None:
        order, quaternion = _turn_order(notes.order)
    moves = control.move_limits
    if notes.move_limits is not None:
        moves = (*notes.move_limits, None, None, None)[:3]
    return replace(
        control,
        label=notes.label or control.label,
        side=notes.side or control.side,
        region=notes.region or control.region,
        role=_said(notes.role, control.role),
        role_sure=control.role_sure if notes.role is None else 1.0,
        order=order,
        quaternion=quaternion,
        channels=control.channels if notes.channels is None else frozenset(notes.channels),
        limits=_radians(notes.limits, control.limits),
        move_limits=moves,
        locked=_locks(notes.locked) or control.locked,
        axis_labels=notes.axis_labels or control.axis_labels,
        partner=_said(notes.partner, control.partner),
        paired_by_hand=notes.partner is not None,
        helper=notes.helper,
    )


def _target(name: str, notes: TargetNotes, node: int) -> Control:
    order, quaternion = _turn_order(notes.order)
    usual = (
        frozenset({Channel.MOVE, Channel.TURN})
        if notes.kind == "goal"
        else frozenset({Channel.MOVE})
    )
    return Control(
        name=name,
        label=notes.label or name,
        kind=ControlKind(notes.kind),
        node=node,
        order=order,
        quaternion=quaternion,
        side=notes.side,
        region=notes.region,
        channels=usual if notes.channels is None else frozenset(notes.channels),
        limits=NO_LIMITS,
        locked=_locks(notes.locked),
        partner=notes.partner or (name if notes.side is Side.CENTRE else None),
        axis_labels=notes.axis_labels or ("about x", "about y", "about z"),
    )


def _setting(setting: Setting, sidecar: Sidecar) -> Setting:
    notes: SettingNotes | None = sidecar.settings.get(setting.name)
    if notes is None:
        return setting
    low, high = notes.minimum, notes.maximum
    if notes.kind is SettingKind.CHOICE:
        low, high = 0.0, float(max(len(notes.options) - 1, 0))
    elif notes.kind is SettingKind.BOOL:
        low, high = 0.0, 1.0
    return Setting(
        setting.name,
        notes.label or setting.label,
        setting.control,
        min(low, high),
        max(low, high),
        min(max(notes.default, min(low, high)), max(low, high)),
        notes.mirror or (MirrorRule.SWAP if notes.partner else setting.mirror),
        notes.partner or setting.partner,
        notes.kind,
        tuple(notes.options),
        notes.helper,
    )
