"""What was read and inferred about a rig, as text; and a sidecar to start from."""

from __future__ import annotations

from collections import Counter

import numpy as np

from fox_hand.core.rig import ControlKind, Rig, Side
from fox_hand.interchange.sidecar import (
    FORMAT,
    VERSION,
    ControlNotes,
    HolderNotes,
    SettingNotes,
    Sidecar,
)


def report(rig: Rig) -> str:
    """Some thirty lines for a person, then one line a control."""
    joints = [c for c in rig.controls if c.kind is ControlKind.JOINT]
    triangles = sum(len(p.triangles) for p in rig.parts)
    vertices = sum(len(p.positions) for p in rig.parts)
    low, high = rig.rest_bounds if rig.parts else (np.zeros(3), np.zeros(3))
    regions = Counter(c.region.value for c in rig.controls)
    lines = [
        f"{rig.name} ({rig.source})",
        f"  {len(joints)} joints, {len(rig.controls) - len(joints)} holders, "
        f"{len(rig.settings)} settings, {len(rig.sets)} sets",
        f"  {len(rig.parts)} parts, {vertices} vertices, {triangles} triangles",
        "  stands from " + " to ".join(_place(v) for v in (low, high)) + " m",
        "  regions: " + ", ".join(f"{name} {count}" for name, count in regions.items()),
        f"  fingerprint {rig.fingerprint}",
    ]
    alone = [c.name for c in rig.controls if c.side is not Side.CENTRE and c.partner is None]
    if alone:
        lines.append(f"  without a partner on the other side: {', '.join(alone)}")
    lines += [f"  note: {note}" for note in rig.notes]
    lines += ["", f"  {'control':<28}{'side':<8}{'region':<8}{'partner':<28}holds"]
    for row, control in enumerate(rig.controls):
        held = [rig.settings[s].name for s in rig.settings_of[row]]
        what = ", ".join([*sorted(c.value for c in control.channels), *held])
        lines.append(
            f"  {control.name:<28}{control.side.value:<8}{control.region.value:<8}"
            f"{control.partner or '-':<28}{what}"
        )
    return "\n".join(lines) + "\n"


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
            partner=c.partner,
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
    return Sidecar(FORMAT, VERSION, rig.name, controls, settings, holders, sets)
