"""What was read and inferred about a rig, as text; and a sidecar to start from."""

from __future__ import annotations

from collections import Counter
from typing import Any

import numpy as np

from fox_hand.base.language import tr, tr_n
from fox_hand.core.model.controls import ControlKind, Side
from fox_hand.core.naming.mirror_partners import doubts_of, pairs_of
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.sidecar import (
    FORMAT,
    VERSION,
    BodyNotes,
    ControlNotes,
    HolderNotes,
    SettingNotes,
    Sidecar,
)


def report(rig: Rig) -> str:
    """Some thirty lines for a person, then one line a control."""
    kinds = Counter(c.kind for c in rig.controls)
    triangles = sum(len(p.triangles) for p in rig.parts)
    vertices = sum(len(p.positions) for p in rig.parts)
    low, high = rig.rest_bounds if rig.parts else (np.zeros(3), np.zeros(3))
    regions = Counter(c.region.value for c in rig.controls)
    lines = [
        f"{rig.name} ({rig.source})",
        "  "
        + ", ".join(
            tr_n("{number} {value} control", "{number} {value} controls", count, value=kind.value)
            for kind, count in kinds.items()
        ),
        "  "
        + ", ".join(
            (
                tr_n("{number} setting", "{number} settings", len(rig.settings)),
                tr_n("{number} set", "{number} sets", len(rig.sets)),
                tr_n("{number} solver", "{number} solvers", len(rig.solvers)),
                tr_n("{number} drive", "{number} drives", len(rig.drives)),
            )
        ),
        tr(
            "  {parts}, {vertices} vertices, {triangles} triangles",
            parts=tr_n("{number} part", "{number} parts", len(rig.parts)),
            vertices=vertices,
            triangles=triangles,
        ),
        tr("  stands from ") + " to ".join(_place(v) for v in (low, high)) + " m",
        "  regions: " + ", ".join(f"{name} {count}" for name, count in regions.items()),
        tr(
            "  looks along {facing}, up is {upwards}, middle at {place} m: {how_sure}",
            facing=rig.body.facing,
            upwards=rig.body.upwards,
            place=_place(np.array(rig.body.middle)),
            how_sure=_how_sure(rig),
        ),
        tr("  fingerprint {fingerprint}", fingerprint=rig.fingerprint),
    ]
    found = Counter(p.found.value for p in pairs_of(rig))
    lines.append("  pairs: " + ", ".join(f"{count} {how}" for how, count in found.items()))
    lines += [
        tr("  doubt: {name}: {text}", name=rig.controls[d.row].name, text=d.text)
        for d in doubts_of(rig)
    ]
    alone = [c.name for c in rig.controls if c.side is not Side.CENTRE and c.partner is None]
    if alone:
        lines.append(tr("  without a partner on the other side: {names}", names=", ".join(alone)))
    lines += [tr("  note: {note}", note=note) for note in rig.notes]
    head = f"  {'control':<28}{'kind':<8}{'side':<8}{'region':<8}{'role':<26}{'partner':<28}holds"
    lines += ["", head]
    for row, control in enumerate(rig.controls):
        held = [rig.settings[s].name for s in rig.settings_of[row]]
        what = ", ".join([*sorted(c.value for c in control.channels), *held])
        lines.append(
            f"  {control.name:<28}{control.kind.value:<8}{control.side.value:<8}"
            f"{control.region.value:<8}{control.role or '-':<26}{control.partner or '-':<28}{what}"
        )
    return "\n".join(lines) + "\n"


def facts(rig: Rig) -> dict[str, Any]:
    """The same for programs: plain lists and values."""
    low, high = rig.rest_bounds if rig.parts else (np.zeros(3), np.zeros(3))
    return {
        "name": rig.name,
        "file": rig.source,
        "fingerprint": rig.fingerprint,
        "rest_from": rig.rest_from,
        "height": rig.height,
        "body": {
            "up": list(rig.body.up),
            "ahead": list(rig.body.ahead),
            "middle": list(rig.body.middle),
            "sure": rig.body.sure,
            "said": rig.body.said,
        },
        "bounds": [low.tolist(), high.tolist()],
        "vertices": sum(len(p.positions) for p in rig.parts),
        "triangles": sum(len(p.triangles) for p in rig.parts),
        "solvers": len(rig.solvers),
        "drives": len(rig.drives),
        "sets": {name: list(members) for name, members in rig.sets.items()},
        "controls": [
            {
                "name": c.name,
                "kind": c.kind.value,
                "side": c.side.value,
                "region": c.region.value,
                "role": c.role,
                "partner": c.partner,
                "order": c.order,
                "channels": sorted(channel.value for channel in c.channels),
                "settings": [rig.settings[s].name for s in rig.settings_of[row]],
            }
            for row, c in enumerate(rig.controls)
        ],
        "settings": [
            {
                "name": s.name,
                "minimum": s.minimum,
                "maximum": s.maximum,
                "default": s.default,
                "options": list(s.options),
                "mirror": s.mirror.value,
                "partner": s.partner,
            }
            for s in rig.settings
        ],
        "doubts": [f"{rig.controls[d.row].name}: {d.text}" for d in doubts_of(rig)],
        "notes": list(rig.notes),
    }


def _how_sure(rig: Rig) -> str:
    if rig.body.said:
        return tr("as its sidecar says")
    return "found" if rig.body.sure >= 1 else tr("a guess; body in the sidecar says otherwise")


def _place(v: np.ndarray) -> str:
    return "(" + ", ".join(f"{x:.2f}" for x in v) + ")"


def starting_sidecar(rig: Rig) -> Sidecar:
    """Everything that was inferred, written out so that it can be corrected by hand."""
    controls = {
        c.name: ControlNotes(
            label=c.label,
            side=c.side,
            region=c.region,
            order=c.order,
            channels=sorted(c.channels),
            axis_labels=c.axis_labels,
            role=c.role,
        )
        for c in rig.controls
        if c.kind is ControlKind.JOINT
    }
    settings = {
        s.name: SettingNotes(s.label, s.minimum, s.maximum, s.default, s.mirror, s.partner)
        for s in rig.settings
    }
    holders = {
        c.name: HolderNotes(
            label=c.label,
            at=rig.skeleton.names[c.node],
            offset=(round(c.offset[0], 5), round(c.offset[1], 5), round(c.offset[2], 5)),
            settings=[rig.settings[s].name for s in rig.settings_of[row]],
            side=c.side,
            region=c.region,
            partner=c.partner,
        )
        for row, c in enumerate(rig.controls)
        if c.kind is ControlKind.HOLDER
    }
    sets = {name: list(members) for name, members in rig.sets.items()}
    return Sidecar(
        FORMAT,
        VERSION,
        rig.name,
        controls=controls,
        settings=settings,
        holders=holders,
        sets=sets,
        body=BodyNotes(rig.body.ahead, rig.body.up, rig.body.middle),
    )
