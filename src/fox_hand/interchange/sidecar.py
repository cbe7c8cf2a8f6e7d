"""``<rig>.foxrig.json``: what a glTF file cannot say about a rig."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

import msgspec
import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.versions import upgrade
from fox_hand.core.rig import (
    Channel,
    Control,
    ControlKind,
    MirrorRule,
    Region,
    Rig,
    Setting,
    Side,
)
from fox_hand.core.rotations import EulerOrder

VERSION = 1
FORMAT = "fox-hand rig sidecar"


class ControlNotes(msgspec.Struct, omit_defaults=True, forbid_unknown_fields=False):
    """What is said about one control; everything left out stays as inferred."""

    label: str | None = None
    side: Side | None = None
    region: Region | None = None
    order: EulerOrder | None = None
    channels: list[Channel] | None = None
    limits: list[tuple[float, float] | None] | None = None
    axis_labels: tuple[str, str, str] | None = None
    partner: str | None = None
    helper: bool = False


class SettingNotes(msgspec.Struct, omit_defaults=True):
    """What is said about one setting."""

    label: str | None = None
    minimum: float = 0.0
    maximum: float = 1.0
    default: float = 0.0
    mirror: MirrorRule | None = None
    partner: str | None = None


class HolderNotes(msgspec.Struct, omit_defaults=True):
    """A control that only holds settings and hangs somewhere on the figure.

    ``at`` is a joint's name and ``offset`` metres in that joint's frame.
    """

    label: str
    at: str
    offset: tuple[float, float, float]
    settings: list[str]
    side: Side = Side.CENTRE
    region: Region = Region.HEAD
    partner: str | None = None


class Sidecar(msgspec.Struct, omit_defaults=True):
    """The file. Angles are degrees, lengths metres."""

    format: str
    version: int
    name: str | None = None
    controls: dict[str, ControlNotes] = {}
    settings: dict[str, SettingNotes] = {}
    holders: dict[str, HolderNotes] = {}
    sets: dict[str, list[str]] = {}


def sidecar_path(rig_path: Path) -> Path:
    """Where the sidecar of a rig file lies."""
    return rig_path.with_suffix(".foxrig.json")


def read_sidecar(path: Path) -> Sidecar:
    """Read and check a sidecar.

    Raises:
        FoxHandError: with what is wrong and where.
    """
    try:
        raw: Any = msgspec.json.decode(path.read_bytes())
        if not isinstance(raw, dict) or raw.get("format") != FORMAT:
            raise FoxHandError("sidecar.foreign", f"{path.name} is not a rig sidecar.")
        document = upgrade(raw, current=VERSION, steps={}, what="rig sidecar")
        return msgspec.convert(document, Sidecar)
    except (msgspec.MsgspecError, UnicodeDecodeError) as error:
        raise FoxHandError(
            "sidecar.damaged",
            f"{path.name} cannot be read: {error}.",
            "The rig was opened without it.",
        ) from error


def write_sidecar(sidecar: Sidecar) -> bytes:
    """The file's bytes."""
    return msgspec.json.format(msgspec.json.encode(sidecar), indent=1) + b"\n"


def json_schema() -> bytes:
    """The published JSON Schema of a sidecar."""
    schema = msgspec.json.schema(Sidecar)
    head = {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": f"Fox Hand rig sidecar, version {VERSION}",
    }
    return msgspec.json.format(msgspec.json.encode({**head, **schema}), indent=2) + b"\n"


def apply_sidecar(rig: Rig, sidecar: Sidecar) -> Rig:
    """The rig as its sidecar describes it; notes say what the sidecar names in vain."""
    names = set(rig.control_row) | set(sidecar.holders)
    notes = [
        f"The sidecar speaks of {n}, which the rig does not have."
        for n in sidecar.controls
        if n not in rig.control_row
    ]
    joints = [
        _noted(c, sidecar.controls.get(c.name))
        for c in rig.controls
        if c.kind is ControlKind.JOINT or not sidecar.holders
    ]
    controls = joints + _holders(rig, sidecar)
    row = {c.name: i for i, c in enumerate(controls)}
    settings = [_setting(rig, s, sidecar, row) for s in rig.settings]
    missing = {n for members in sidecar.sets.values() for n in members} - names
    notes += [f"A set of the sidecar names {n}, which the rig does not have." for n in missing]
    return replace(
        rig,
        name=sidecar.name or rig.name,
        controls=tuple(controls),
        settings=tuple(settings),
        sets={k: tuple(n for n in v if n in row) for k, v in sidecar.sets.items()},
        notes=(*rig.notes, *notes),
    )


def _noted(control: Control, notes: ControlNotes | None) -> Control:
    if notes is None:
        return control
    limits = control.limits
    if notes.limits is not None:
        limits = tuple(
            None if pair is None else (float(np.radians(pair[0])), float(np.radians(pair[1])))
            for pair in notes.limits
        )
    channels = control.channels if notes.channels is None else frozenset(notes.channels)
    return replace(
        control,
        label=notes.label or control.label,
        side=notes.side or control.side,
        region=notes.region or control.region,
        order=notes.order or control.order,
        channels=channels,
        limits=limits,
        axis_labels=notes.axis_labels or control.axis_labels,
        partner=notes.partner or control.partner,
        helper=notes.helper,
    )


def _holders(rig: Rig, sidecar: Sidecar) -> list[Control]:
    node_of = {name: i for i, name in enumerate(rig.skeleton.names)}
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
        for name, notes in sidecar.holders.items()
    ]


def _setting(rig: Rig, setting: Setting, sidecar: Sidecar, row: dict[str, int]) -> Setting:
    old_holder = rig.controls[setting.control].name
    holder = next((h for h, n in sidecar.holders.items() if setting.name in n.settings), None)
    notes = sidecar.settings.get(setting.name)
    control = row.get(holder or old_holder, row.get(old_holder, 0))
    if notes is None:
        return replace(setting, control=control)
    return Setting(
        setting.name,
        notes.label or setting.label,
        control,
        notes.minimum,
        notes.maximum,
        notes.default,
        notes.mirror or setting.mirror,
        notes.partner or setting.partner,
    )
