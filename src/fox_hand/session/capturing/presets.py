"""How cards of one sheet are taken by habit, such as "turns of the fingers only"."""

from __future__ import annotations

from fox_hand.core.model.controls import Channel, Region
from fox_hand.library.store.sheets import Habit
from fox_hand.session.capturing.draft import CaptureDraft


def habit_of(draft: CaptureDraft) -> Habit:
    """What of a draft can be a habit."""
    rig, rows = draft.actor.rig, draft.rows
    inside = {rig.controls[row].region for row in rows}
    held = {s for row in rows for s in rig.settings_of[row] if not rig.settings[s].helper}
    out = sorted(held - draft.settings) if draft.settings else []
    left_out = tuple(rig.settings[s].name for s in out)
    tops = {r for g in draft.groups if g.own_turn for r in g.rows}
    return Habit(
        kinds=tuple(k.value for k in Channel if k in draft.kinds),
        settings=bool(draft.settings),
        own_turn=bool(tops & draft.rows),
        style=draft.style,
        ground=draft.ground,
        regions=tuple(r.value for r in Region if r in inside) if inside != set(Region) else (),
        left_out=left_out,
    )
