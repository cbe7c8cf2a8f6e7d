"""Which controls of a card find their place on a rig, from their names alone."""

from __future__ import annotations

from collections.abc import Mapping

from fox_hand.core.matching.name_match import Rules, match_by_kind
from fox_hand.core.matching.setting_match import match_settings
from fox_hand.core.naming.known_roles import JointSaid, known_roles, names_said
from fox_hand.core.rig.rig import Rig


def not_landing(
    controls: Mapping[str, tuple[str, ...]],
    rig: Rig,
    saved: Mapping[str, str | None] | None = None,
    rules: Rules | None = None,
    joints: Mapping[str, JointSaid] | None = None,
) -> tuple[str, ...]:
    """Names of controls of which nothing lands without asking.

    Args:
        controls: by name the names of the settings that are held.
        rig: where they are to land.
        saved: what was said about names of controls and settings; None for "nothing here".
        rules: for exchanging parts of names.
        joints: what is said of those controls that are joints.
    """
    said, joints = saved or {}, joints or {}
    alike = names_said(joints) <= rig.control_row.keys()
    lost = [
        name
        for name, settings in controls.items()
        if not (name in rig.control_row and said.get(name, name) is not None and alike)
        and not any(s in rig.setting_row and said.get(s, s) is not None for s in settings)
    ]
    if not lost:
        return ()
    names = list(controls)
    free = {name for name, joint in joints.items() if joint.free}
    found = match_by_kind(names, rig, saved, rules, known_roles(joints), free)
    settings = list(dict.fromkeys(s for held in controls.values() for s in held))
    known = match_settings(settings, rig, saved, rules)
    sure = {m.source for m in found if m.sure and m.target is not None}
    sure |= {m.source for m in known if m.targets}
    return tuple(n for n in lost if n not in sure and not sure & set(controls[n]))
