"""Choices while cards are put on: side, part, way, amount, and what is written down of them."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.base.places import Places
from fox_hand.core.animation.curves import ChannelKind
from fox_hand.core.maths.rotations import angle_between
from fox_hand.core.model.controls import Region, Side
from fox_hand.core.pose.sides import Sides, partner_row
from fox_hand.demo.demo_project import prepare
from fox_hand.library.format.container import read_card
from fox_hand.library.format.name_map import NameMap, read_map
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.applying.application import Part, Way, Weights
from fox_hand.session.applying.card_origin import how_of, is_stale, settled
from fox_hand.session.applying.mix import Mix, fit_of, reach_of
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.pose_conversion import state_of
from tests.session.conftest import entry


def actor_of(workspace: Workspace) -> Figure:
    assert workspace.actor is not None
    return workspace.actor


def mixed(workspace: Workspace, *names: str) -> Mix:
    for name in names:
        workspace.applying.add(entry(workspace, name))
    assert workspace.mix is not None
    return workspace.mix


def regions_of(workspace: Workspace, rows: set[int]) -> set[Region]:
    return {actor_of(workspace).rig.controls[r].region for r in rows}


def test_part_and_side_decide_what_is_touched(workspace: Workspace) -> None:
    actor = actor_of(workspace)
    rig, row = actor.rig, actor.rig.control_row
    mix = mixed(workspace, "Wave")
    held = set(mix.rows)
    assert mix.part is Part.ALL and mix.regions == tuple(
        r for r in Region if r in regions_of(workspace, held)
    )
    mix.set_part(Part.SELECTED)  # nothing is selected
    assert mix.part is Part.ALL
    mix.set_part(Part.REGIONS)  # none was chosen: the first
    assert mix.how.regions == {mix.regions[0]}
    mix.toggle_regions([Region.ARMS])
    assert mix.how.regions == {mix.regions[0], Region.ARMS}
    mix.toggle_regions([mix.regions[0]])
    assert regions_of(workspace, mix.rows) == {Region.ARMS} == set(mix.how.regions)
    mix.toggle_regions([Region.ARMS])  # one stays
    assert mix.how.regions == {Region.ARMS}
    arms = {c.name for c in mix.channel_ids}
    assert arms and all(rig.controls[row[n]].region is Region.ARMS for n in arms if n in row)
    workspace.selection.set([row["forearm_R"], row["lids_L"] if "lids_L" in row else row["jaw"]])
    mix.set_part(Part.SELECTED)
    assert mix.rows == {row["forearm_R"]}
    workspace.selection.set([])
    assert mix.part is Part.ALL and mix.rows == held
    workspace.put_back()
    fist = mixed(workspace, "Fist")
    sides = {rig.controls[r].side for r in fist.rows}
    (side,) = sides
    other = {Side.LEFT: Side.RIGHT, Side.RIGHT: Side.LEFT}[side]
    own = set(fist.rows)
    fist.set_side(Sides.OTHER)
    assert {rig.controls[r].side for r in fist.rows} == {other}
    assert fist.rows == {partner_row(rig, r) for r in own}
    fist.set_side(Sides.BOTH)
    assert fist.rows == own | {partner_row(rig, r) for r in own}
    # a control of the other side counts as known
    workspace.selection.set([partner_row(rig, next(iter(own)))])
    assert len(fist.selected_rows) == 1


def test_amounts_stop_at_their_ends_and_titles_say_what_is_on(workspace: Workspace) -> None:
    mix = mixed(workspace, "Glad")
    assert (mix.title, mix.span, mix.amount) == ("Glad", (-0.5, 1.5), 1.0)
    glad = entry(workspace, "Glad")
    assert mix.weight_of(glad) == 1.0 and mix.weight_of(entry(workspace, "Sad")) is None
    for asked, got in ((2.0, 1.5), (-1.0, -0.5), (0.3, 0.3)):
        mix.set_amount(asked)
        assert mix.amount == pytest.approx(got)
    mix.set_amount(0.8, region=Region.MOUTH)
    assert mix.amount == pytest.approx(0.3) and mix.weights[0].regions == {Region.MOUTH: 0.8}
    mix.set_amount(0.5)  # of all of it: regions are forgotten
    assert mix.weights == [Weights(0.5)]
    half = actor_of(workspace).state
    assert mix.at(0.5).same_bits(half)
    whole = mix.at(1.0)
    (alone,) = mix.each()
    assert alone.same_bits(whole)
    workspace.applying.add(entry(workspace, "Sad"))
    assert (mix.title, mix.span) == ("2 cards", (0.0, 1.0))
    assert [w.whole for w in mix.weights] == [0.5, 0.5] and mix.together
    mix.set_amount(1.4, 0)
    assert [w.whole for w in mix.weights] == [1.0, 0.0]
    mix.keep_together(False)
    mix.set_amount(0.25, 0)
    mix.set_amount(0.25, 1)
    mix.keep_together(True)
    assert [w.whole for w in mix.weights] == [0.5, 0.5]
    mix.set_weights([Weights(0.0), Weights(0.0)])
    mix.keep_together(True)
    assert [w.whole for w in mix.weights] == [0.5, 0.5]
    first, second = mix.each()
    assert first.same_bits(whole) and not second.same_bits(whole)
    workspace.keep_mix()
    assert workspace.history.undo_label == "2 cards"


def test_cards_of_different_controls_go_on_whole(workspace: Workspace) -> None:
    mix = mixed(workspace, "Glad")
    mix.set_amount(1.3)
    workspace.applying.add(entry(workspace, "Fist"))
    assert not mix.together and [w.whole for w in mix.weights] == [1.0, 1.0]
    fit = mix.fit
    count = len({n for one in mix.cards for n in one.card.pose.controls})
    assert (fit.lands, fit.asked, fit.missing) == (count, count, ())
    workspace.applying.add(entry(workspace, "Glad"))  # once more: out of it
    assert [one.card.name for one in mix.cards] == ["Fist"] and mix.weights == [Weights()]


def test_a_step_is_named_by_card_and_amount_and_takes_all_back(workspace: Workspace) -> None:
    actor = actor_of(workspace)
    before = actor.state
    mix = mixed(workspace, "Crouch")
    mix.set_amount(0.7)
    workspace.keep_mix()
    assert workspace.history.undo_label == "Crouch 70 %" and not actor.state.same_bits(before)
    workspace.undo()
    assert actor.state.same_bits(before)
    steps = workspace.history.undo_step
    mixed(workspace, "Crouch").set_amount(0.0)
    workspace.keep_mix()  # nothing changed: no step
    assert workspace.history.undo_step is steps
    mixed(workspace, "Crouch")
    workspace.put_back()
    assert actor.state.same_bits(before) and workspace.mix is None


def test_how_far_each_control_goes(workspace: Workspace) -> None:
    """A quarter turn, a fifth of the height and a whole unit of a setting are all the way."""
    actor = actor_of(workspace)
    rig = actor.rig
    mix = mixed(workspace, "Sit on bollard")
    mix.set_amount(0.2)
    wanted = mix.at(1.0)
    reach = mix.reach()
    turned = angle_between(actor.rig.rest.turn, wanted.turn) / (np.pi / 2)
    row = int(np.argmax(np.where(turned < 0.9, turned, 0)))
    assert reach[row] >= turned[row] - 1e-6 and reach.max() <= 1.0
    untouched = [r for r in range(len(rig.controls)) if r not in mix.rows]
    assert not reach[untouched].any()
    move = rig.rest.move.copy()
    move[3] += 0.1 * rig.height, 0.0, 0.0
    assert reach_of(rig, rig.rest, rig.rest.with_(move=move))[3] == pytest.approx(0.5)
    settings = rig.rest.settings.copy()
    settings[0] += 0.25
    holder = rig.settings[0].control
    assert reach_of(rig, rig.rest, rig.rest.with_(settings=settings))[holder] == pytest.approx(0.25)


def test_a_look_shows_a_card_and_moves_nobody(workspace: Workspace) -> None:
    actor, commands = actor_of(workspace), workspace.mix_commands
    before = actor.state
    ready = commands.fits.ready(entry(workspace, "Wave"), actor)
    looked: list[int] = []
    commands.peeked.connect(lambda: looked.append(1))
    commands.look_at(ready)
    peek = commands.peek
    assert peek is not None and commands.touching is peek and actor.state.same_bits(before)
    mix = mixed(workspace, "Wave")
    assert commands.peek is None and commands.touching is mix  # what goes on ends the look
    assert peek.state.same_bits(mix.at(1.0)) and peek.rows == mix.rows
    assert np.array_equal(peek.reach(), mix.reach())
    mix.set_amount(0.0)
    commands.look_at(ready)  # it is on already
    assert commands.peek is None and len(looked) == 2


def test_whether_cards_set_keys_is_said_once(workspace: Workspace) -> None:
    commands, actor = workspace.mix_commands, actor_of(workspace)
    assert not commands.sets_keys and not mixed(workspace, "Glad").keyed
    workspace.keep_mix()
    assert not actor.keys
    workspace.keying.key(everything=True)
    assert commands.sets_keys and mixed(workspace, "Sad").keyed
    commands.set_keyed(False)
    mix = workspace.mix
    assert mix is not None and not mix.keyed and not commands.sets_keys
    commands.set_keyed(True)
    workspace.keep_mix()
    origins = {o.name for o in actor.keys.origins.values()}
    assert "Sad" in origins
    lines = [c for c, line in actor.keys.lines.items() if (line.origins > 0).any()]
    sad = read_card(entry(workspace, "Sad").path)[0].pose
    assert {c.kind for c in lines} >= {ChannelKind.SETTING}
    assert {c.name for c in lines} <= set(sad.controls) | {
        name for held in sad.controls.values() for name in held.settings
    }


def test_what_is_cleared_is_remembered_for_the_sheet(workspace: Workspace) -> None:
    actor = actor_of(workspace)
    row = actor.rig.setting_row["brow_inner_up_L"]
    settings = actor.state.settings.copy()
    settings[row] = 0.6
    workspace.apply("Brow", actor.state.with_(settings=settings))
    mix = mixed(workspace, "Fist")
    assert not mix.clear
    workspace.mix_commands.set_clear(True)
    assert mix.clear and actor.state.settings[row] == pytest.approx(0.6)  # elsewhere
    workspace.put_back()
    assert mixed(workspace, "Flat").clear  # of the same sheet
    workspace.put_back()
    assert not mixed(workspace, "Glad").clear
    workspace.put_back()
    workspace.applying.put_on(entry(workspace, "Fist"))
    workspace.mix_commands.set_clear(False)
    workspace.put_back()
    assert not mixed(workspace, "Flat").clear and workspace.settings.cleared_sheets == []


def on_top(mix: Mix) -> None:
    mix.set_way(Way.ON_TOP)
    mix.set_amount(0.5)


def some_regions(mix: Mix) -> None:
    mix.set_part(Part.REGIONS, [Region.ARMS, Region.HANDS])
    mix.set_amount(0.25, region=Region.ARMS)


def other_side(mix: Mix) -> None:
    mix.set_side(Sides.OTHER)


@pytest.mark.parametrize("choose", [on_top, some_regions, other_side])
def test_what_is_written_down_with_keys_says_how_it_went_on(
    workspace: Workspace, choose: object
) -> None:
    actor = actor_of(workspace)
    mix = mixed(workspace, "Wave")
    assert callable(choose)
    choose(mix)
    origin = mix.origin(mix._puttings[0])
    wave = entry(workspace, "Wave")
    assert (origin.card, origin.name, origin.revision) == (wave.identity, "Wave", wave.revision)
    how, weights = how_of(actor.rig, origin)
    assert (how, weights) == (mix.how, mix.weights[0])
    # what was there before is needed wherever it shows through
    assert (origin.base is None) == (choose is other_side)
    assert not is_stale(origin, wave)
    newer = replace(wave, revision=wave.revision + 1)
    assert not is_stale(origin, newer)  # only its words changed
    other = replace(newer, content="other values", name="Wave high")
    assert is_stale(origin, other) and not is_stale(settled(origin, other), other)
    assert settled(origin, other).name == "Wave high"
    assert settled(origin, replace(other, name="")).name == "Wave"
    unknown = replace(origin, content="")
    assert is_stale(unknown, newer) and not is_stale(unknown, wave)


def test_switches_are_told_before_they_jump(workspace: Workspace) -> None:
    actor = actor_of(workspace)
    discrete = [s for s in actor.rig.settings if s.discrete]
    mix = mixed(workspace, "Wave")
    held = {
        name: value
        for c in read_card(entry(workspace, "Wave").path)[0].pose.controls.values()
        for name, value in c.settings.items()
    }
    wanted = {
        s.label
        for s in discrete
        if s.name in held and held[s.name] != mix.base.settings[actor.rig.setting_row[s.name]]
    }
    assert set(mix.jumps()) == wanted
    assert mix.stopped() == ()


def test_copies_take_cards_as_well_and_stand_as_before_without(places: Places) -> None:
    workspace = Workspace(places)
    crew, folder = prepare(places)
    workspace.open_rig(crew[0])
    workspace.open_rig(crew[0])
    workspace.open_rig(crew[1])
    workspace.open_libraries.open(folder)
    first, second, other = workspace.cast.actors
    workspace.act(first)
    assert workspace.mix_commands.copies() == [second]
    before = second.state, other.state
    mix = mixed(workspace, "Crouch")
    assert second.state.same_bits(before[0])
    workspace.mix_commands.set_everywhere(True)
    assert np.allclose(second.state.turn, first.state.turn)
    assert mix.before(second).same_bits(before[0]) and mix.before(other) is other.state
    workspace.mix_commands.set_everywhere(False)
    assert second.state.same_bits(before[0]) and not first.state.same_bits(before[0])
    workspace.mix_commands.set_everywhere(True)
    workspace.keep_mix()
    assert workspace.history.undo_label == "Crouch 100 %"
    workspace.undo()
    assert first.state.same_bits(first.rig.rest) and second.state.same_bits(before[0])
    assert other.state.same_bits(before[1])


def test_what_was_said_of_names_is_kept_in_the_library_and_counts(
    workspace: Workspace,
) -> None:
    actor, place = actor_of(workspace), workspace.open_libraries.places[0]
    fits = workspace.mix_commands.fits
    assert place.library is not None
    assert fits.told_names("Stranger", actor.rig) == {}
    said = NameMap("Stranger", actor.rig.name, names={"paw": "hand_L", "tail": None})
    fits.save_names(said, place)
    assert read_map(place.library.own, "Stranger", actor.rig.name).names == said.names
    assert fits.told_names("Stranger", actor.rig) == said.names
    with pytest.raises(FoxHandError) as caught:
        fits.save_names(said, None)
    assert caught.value.code == "fit.no_library"
    fist = entry(workspace, "Fist")
    card = read_card(fist.path)[0]
    paw = replace(card.pose.controls["finger_index_1_L"])
    foreign = replace(
        card,
        character="Stranger",
        fingerprint="other",
        pose=replace(card.pose, controls={"paw": paw}),
    )
    ready = fits.ready(fist, actor, foreign)
    assert set(ready.card.pose.controls) == {"hand_L"} and ready.names == {"paw"}
    assert (ready.fit.lands, ready.fit.asked) == (1, 1)
    nobody = replace(foreign, pose=replace(card.pose, controls={"xyzzy": replace(paw, rest=None)}))
    with pytest.raises(FoxHandError) as caught:
        fits.ready(fist, actor, nobody)
    assert caught.value.code == "mix.nothing_lands"
    assert fit_of(nobody, actor.rig).missing == ("xyzzy",)
    assert state_of(actor.rig, nobody.pose).same_bits(actor.rig.rest)
