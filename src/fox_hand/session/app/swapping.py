"""Drawings and views of the acting puppet, changed as undo steps and keyed as anything else."""

from __future__ import annotations

from fox_hand.base.language import tr
from fox_hand.core.rig.swaps import Swap
from fox_hand.core.rig.views import AS_DRAWN, TURNED
from fox_hand.session.app.needs import Posing


def swap_at_hand(work: Posing) -> Swap | None:
    """What the part that was selected last swaps; None where it does not."""
    actor, rows = work.actor, work.selection.rows
    return actor.rig.swaps.get(rows[-1]) if actor is not None and rows else None


def drawing_shown(work: Posing, swap: Swap) -> int:
    """The number of the drawing that is seen now."""
    assert work.actor is not None
    return round(float(work.actor.state.settings[swap.setting]))


def show_drawing(work: Posing, swap: Swap, number: int) -> None:
    """Show another drawing of a part."""
    if work.actor is not None:
        label = f"{work.actor.rig.word(swap.control)}: {swap.names[number]}"
        _set(work, swap.setting, float(number), label)


def next_drawing(work: Posing, step: int) -> bool:
    """Show the drawing after, or before, of the part that was selected last; from the last on to
    the first. False where it swaps none."""
    swap = swap_at_hand(work)
    if swap is None:
        return False
    show_drawing(work, swap, (drawing_shown(work, swap) + step) % len(swap.names))
    return True


def show_view(work: Posing, number: int) -> None:
    """See the acting puppet in another view. What is selected is selected no more where it is not
    drawn there."""
    actor = work.actor
    if actor is None or actor.rig.views.view is None:
        return
    _set(
        work,
        actor.rig.views.view,
        float(number),
        tr("View {names}", names=actor.rig.views.names[number]),
    )
    work.selection.set(r for r in work.selection.rows if r in actor.listed)


def next_view(work: Posing, step: int) -> bool:
    """The view after, or before; False where there is one only."""
    actor = work.actor
    if actor is None or actor.rig.views.view is None:
        return False
    show_view(work, (actor.view + step) % len(actor.rig.views.names))
    return True


def turn_facing(work: Posing) -> bool:
    """Let the acting puppet look the other way, as it stands; False where it cannot."""
    actor = work.actor
    if actor is None or actor.rig.views.facing is None:
        return False
    row = actor.rig.views.facing
    turned = actor.state.settings[row] == AS_DRAWN
    _set(work, row, TURNED if turned else AS_DRAWN, tr("Turn round") if turned else tr("Turn back"))
    return True


def _set(work: Posing, setting: int, value: float, label: str) -> None:
    actor = work.actor
    if actor is None or actor.state.settings[setting] == value:
        return
    edit = work.edit(label)
    values = actor.state.settings.copy()
    values[setting] = value
    edit.preview(actor.state.with_(settings=values))
    edit.commit()
