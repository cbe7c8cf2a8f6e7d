"""How cards of one sheet are taken by habit, such as "turns of the fingers only"."""

from __future__ import annotations

from fox_hand.core.model.controls import Channel
from fox_hand.library.store.sheets import Habit
from fox_hand.session.capturing.draft import CaptureDraft


def habit_of(draft: CaptureDraft) -> Habit:
    """What of a draft can be a habit."""
    tops = {r for g in draft.groups if g.own_turn for r in g.rows}
    return Habit(
        kinds=tuple(k.value for k in Channel if k in draft.kinds),
        settings=bool(draft.settings),
        own_turn=bool(tops & draft.rows),
        style=draft.style,
        ground=draft.ground,
    )
