"""A card and the figure compared: what is put on always comes from the card."""

from __future__ import annotations

import numpy as np
import pytest

from fox_hand.core.maths.rotations import from_vector, multiply
from fox_hand.core.model.controls import Channel
from fox_hand.core.model.state import State
from fox_hand.core.pose.pose import ChannelFilter
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.applying.comparing import (
    Compared,
    Comparison,
    DifferingPart,
    of_card,
    of_clip,
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


def test_moves_sizes_and_turns_are_told_in_their_units_the_largest_first(
    workspace: Workspace,
) -> None:
    """A quarter turn, 20 cm and a whole unit count alike."""
    actor = workspace.actor
    rig, row = actor.rig, actor.rig.control_row["jaw"]
    rest = rig.rest
    move, scale, turn = rest.move.copy(), rest.scale.copy(), rest.turn.copy()
    move[row], scale[row] = (0.01, -0.05, 0.0), (1.0, 1.0, 1.5)
    turn[row] = multiply(turn[row], from_vector(np.array([0.0, np.radians(30), 0.0])))
    hips = rig.control_row["hips"]
    move[hips], scale[hips] = (0.3, 0.0, 0.0), (2.0, 2.0, 2.0)  # which is not compared
    turn[hips] = from_vector(np.array([0.0, 1.0, 0.0]))
    choice = ChannelFilter({row: frozenset(Channel)}, frozenset())
    here = Compared("here", "", rest, choice)
    there = Compared("there", "", rest.with_(move=move, scale=scale, turn=turn), choice)
    comparison = Comparison(actor, here, there)
    assert [(r.key, r.unit) for r in comparison.rows] == [
        ((DifferingPart.SCALE, row), ""),
        ((DifferingPart.TURN, row), "°"),
        ((DifferingPart.MOVE, row), " cm"),
    ]
    size, turned, gone = comparison.rows
    assert (size.word, size.first, size.second, size.high) == ("scale", 1.0, 1.5, 2.0)
    assert (gone.word, gone.first, gone.second) == ("move y", 0.0, pytest.approx(-5.0))
    assert turned.second - turned.first == pytest.approx(30.0)
    assert [r.size for r in comparison.rows] == pytest.approx(
        [0.5, 1 / 3, np.hypot(0.01, 0.05) / 0.2]
    )
    one, two = comparison.states()
    for state, wanted in ((one, rest), (two, there.state)):
        for name in ("move", "scale", "turn"):
            assert np.array_equal(getattr(state, name)[row], getattr(wanted, name)[row]), name
            assert np.array_equal(getattr(state, name)[hips], getattr(rest, name)[hips]), name
    comparison.toggle((DifferingPart.MOVE, row))
    only = comparison.changed_only()
    giver = one if comparison.giver is here else two
    assert np.array_equal(only.move[row], giver.move[row])
    worn = two if comparison.giver is here else one
    assert np.array_equal(only.scale[row], worn.scale[row])
    comparison.toggle((DifferingPart.MOVE, row))
    comparison.swap()
    assert comparison.rows[2].first == pytest.approx(-5.0)
    assert comparison.count == 3


def test_of_a_clip_chosen_rows_keep_only_their_lines(workspace: Workspace) -> None:
    actor = workspace.actor
    ready = workspace.mix_commands.fits.ready(entry(workspace, "Nod"), actor)
    clip = ready.card.clip
    card = of_clip(actor.rig, ready, clip, "")
    comparison = Comparison(actor, of_figure(actor, card), card)
    assert comparison.moves
    begins = actor.rig.control_row["head"]
    assert np.array_equal(card.state.turn[begins], card.at(0.0).state.turn[begins])
    assert comparison.rows  # at the moment of the way where most differs
    comparison.look_at(0.0)
    assert comparison.share == 0.0
    comparison.look_at(0.5)
    row = next(r for r in comparison.rows if r.key[0] is DifferingPart.TURN)
    comparison.toggle(row.key)
    part = comparison.part()
    name = actor.rig.controls[row.key[1]].name
    assert [x.name for x in part.card.clip.lines] == [name]
    assert part.card.clip.length == clip.length


def test_beside_a_clip_the_figure_goes_on_from_the_frame_in_sight(workspace: Workspace) -> None:
    actor = workspace.actor
    workspace.go(1.0)
    workspace.keying.key(everything=True)
    settings = actor.rig.rest.settings.copy()
    settings[actor.rig.setting_row["jaw_open"]] = 0.8
    workspace.go(13.0)
    workspace.apply("Open", actor.rig.rest.with_(settings=settings))
    workspace.keying.key(everything=True)
    workspace.go(1.0)
    ready = workspace.mix_commands.fits.ready(entry(workspace, "Nod"), actor)
    figure = of_figure(actor, of_card(actor.rig, ready, ""))
    opened = [
        figure.at(share).state.settings[actor.rig.setting_row["jaw_open"]]
        for share in (
            0.0,
            12.0 / (ready.card.clip.length * actor.timing.rate / ready.card.clip.rate),
        )
    ]
    assert opened == pytest.approx([0.0, 0.8])
    assert figure.words == f"{actor.name} from frame 1 on"


def test_only_what_both_hold_is_compared_and_the_rest_is_named(workspace: Workspace) -> None:
    """A head that is turned in one and moved in the other has nothing in common."""
    actor = workspace.actor
    rig, row = actor.rig, actor.rig.control_row
    jaw, head, neck = (row[name] for name in ("jaw", "head", "neck"))
    turned, both = frozenset({Channel.TURN}), frozenset({Channel.TURN, Channel.MOVE})
    one = ChannelFilter({head: turned, jaw: both, neck: turned}, frozenset({0, 1, 2}))
    two = ChannelFilter({head: frozenset({Channel.MOVE}), jaw: turned}, frozenset({1, 2, 5}))
    turn = rig.rest.turn.copy()
    turn[[head, jaw, neck]] = from_vector(np.array([0.4, 0.0, 0.0]))
    settings = rig.rest.settings.copy()
    settings[:6] += 0.25
    worn = rig.rest.with_(turn=turn, settings=settings)
    first = Compared("one", "", worn, one)
    second = Compared("two", "", rig.rest, two)
    comparison = Comparison(actor, first, second)
    assert comparison.shared.channels == {jaw: turned}
    assert comparison.shared.settings == frozenset({1, 2})
    assert comparison.count == 3 and not comparison.moves and comparison.share == 0.0
    keys = {(r.key[0], r.key[1]) for r in comparison.rows}
    assert keys == {
        (DifferingPart.TURN, jaw),
        (DifferingPart.SETTING, 1),
        (DifferingPart.SETTING, 2),
    }
    labels = [rig.controls[neck].label, rig.settings[0].label]
    assert list(comparison.only(second=False)) == labels
    assert list(comparison.only(second=True)) == [rig.settings[5].label]
    heard: list[int] = []
    comparison.changed.connect(lambda: heard.append(1))
    comparison.look_at(0.5)  # poses have no way to look along
    assert comparison.share == 0.0 and not heard
    comparison.toggle((DifferingPart.SETTING, 1))
    shown = comparison.changed_only()
    first_state, second_state = comparison.states()
    # the second is no card, so the first gives
    assert shown.settings[1] == first_state.settings[1] != second_state.settings[1]
    assert shown.settings[2] == second_state.settings[2]
    comparison.toggle((DifferingPart.SETTING, 1))
    assert np.array_equal(comparison.changed_only().settings, second_state.settings)
    assert len(heard) == 2
