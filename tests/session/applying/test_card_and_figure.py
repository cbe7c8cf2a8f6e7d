"""A card and the figure compared: what is put on always comes from the card."""

from __future__ import annotations

import pytest

from fox_hand.core.model.state import State
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.applying.comparing import (
    Compared,
    Comparison,
    DifferingPart,
    of_card,
    of_figure,
)
from tests.session.conftest import entry


@pytest.mark.parametrize("figure_first", [False, True])
def test_chosen_rows_come_from_the_card_whichever_side_it_stands_on(
    workspace: Workspace, figure_first: bool
) -> None:
    actor = workspace.actor
    card = of_card(
        actor.rig, workspace.mix_commands.fits.ready(entry(workspace, "Glad"), actor), ""
    )
    figure = of_figure(actor, card)
    comparison = Comparison(actor, *((figure, card) if figure_first else (card, figure)))
    row = comparison.rows[0]
    assert row.key[0] is DifferingPart.SETTING
    comparison.toggle(row.key)
    part = comparison.part()
    assert part is not None
    name = actor.rig.settings[row.key[1]].name
    (held,) = part.card.pose.controls.values()
    assert held.settings == {name: float(card.state.settings[row.key[1]])}
    shown = comparison.changed_only()
    assert shown.settings[row.key[1]] == card.state.settings[row.key[1]]
    others = [s for s in range(len(actor.rig.settings)) if s != row.key[1]]
    assert (shown.settings[others] == actor.state.settings[others]).all()


def test_two_hands_are_looked_at_as_in_the_picture_of_the_first(workspace: Workspace) -> None:
    actor = workspace.actor
    fits = workspace.mix_commands.fits
    fist, point = (
        of_card(actor.rig, fits.ready(entry(workspace, name), actor), "")
        for name in ("Fist", "Point")
    )

    def arm(state: State) -> list[float]:
        return state.turn[actor.rig.control_row["arm_L"]].tolist()

    one, two = Comparison(actor, fist, point).states()
    assert arm(one) == arm(two) != arm(actor.state)
    hand = Comparison(actor, fist, of_figure(actor, fist)).states()[1]
    assert arm(hand) == arm(one)
    face: Compared = of_card(actor.rig, fits.ready(entry(workspace, "Glad"), actor), "")
    assert arm(Comparison(actor, face, of_figure(actor, face)).states()[0]) == arm(actor.state)
