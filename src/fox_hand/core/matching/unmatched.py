"""Which controls of a card find their place on a rig, from their names alone."""

from __future__ import annotations

from collections.abc import Mapping

from fox_hand.core.matching.name_match import Rules, match_by_kind, match_names
from fox_hand.core.matching.setting_match import match_settings
from fox_hand.core.model.controls import Side
from fox_hand.core.naming.roles import infer_roles
from fox_hand.core.naming.side_region import side_from_name
from fox_hand.core.rig.rig import Rig


def not_landing(
    controls: Mapping[str, tuple[str, ...]],
    rig: Rig,
    saved: Mapping[str, str | None] | None = None,
    rules: Rules | None = None,
) -> tuple[str, ...]:
    """Names of controls of which nothing lands without asking.

    Args:
        controls: by name the names of the settings that are held.
        rig: where they are to land.
        saved: what was said about names of controls and settings; None for "nothing here".
        rules: for exchanging parts of names.
    """
    said = saved or {}
    lost = [
        name
        for name, settings in controls.items()
        if not (name in rig.control_row and said.get(name, name) is not None)
        and not any(s in rig.setting_row and said.get(s, s) is not None for s in settings)
    ]
    if not lost:
        return ()
    names = list(controls)
    sides = [side_from_name(name) or Side.CENTRE for name in names]
    roles = zip(names, infer_roles(names, sides, [-1] * len(names)), strict=True)
    known_roles = {name: role for name, role in roles if role is not None}
    found = match_by_kind(names, rig, saved, rules, known_roles)
    # names alone do not say of every pole that it is one
    unsure = [m.source for m in found if not m.sure]
    targets = [c.name for c in rig.controls]
    found += match_names(unsure, targets, saved=saved, rules=rules)
    settings = list(dict.fromkeys(s for held in controls.values() for s in held))
    known = match_settings(settings, rig, saved, rules)
    sure = {m.source for m in found if m.sure and m.target is not None}
    sure |= {m.source for m in known if m.targets}
    return tuple(n for n in lost if n not in sure and not sure & set(controls[n]))
