"""Keys follow a newer revision of their card, as far and in the way it had gone on."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest

from fox_hand.core.animation.curves import ChannelId, ChannelKind
from fox_hand.core.maths.euler import from_euler
from fox_hand.core.maths.rotations import angle_between
from fox_hand.core.model.controls import Region
from fox_hand.core.pose.pose import Pose
from fox_hand.core.pose.sides import Sides
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import read_card
from fox_hand.library.store import moves
from fox_hand.session.app.card_updates import StaleCard
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.applying.application import Part, Way
from fox_hand.session.applying.mix import Mix
from fox_hand.session.figures.snapshot_keys import kept_origins, keys_from
from tests.session.conftest import entry

AT = 9.0


def key(workspace: Workspace, name: str, choose: Callable[[Mix], object] = id) -> int:
    """Put a card on with keys; the number of its origin."""
    workspace.go(AT)
    workspace.applying.put_on(entry(workspace, name))
    mix = workspace.mix
    assert mix is not None
    mix.set_keyed(True)
    choose(mix)
    workspace.keep_mix()
    return next(n for n, o in workspace.actor.keys.origins.items() if o.name == name)


def change(workspace: Workspace, name: str, to: Callable[[Card], Card]) -> None:
    """Somebody stores over a card."""
    place = workspace.open_libraries.places[0]
    path = entry(workspace, name).path
    card, picture = read_card(path)
    assert place.library is not None
    moves.store_over(place.library, moves.current(place.library, path), to(card), picture)
    workspace.open_libraries.look_again(place)


def other_pose(workspace: Workspace, name: str) -> Callable[[Card], Card]:
    """The values of another card for what both hold."""
    other = read_card(entry(workspace, name).path)[0].pose.controls
    return lambda card: replace(
        card, pose=Pose({n: other.get(n, held) for n, held in card.pose.controls.items()})
    )


def keyed(workspace: Workspace, number: int) -> set[ChannelId]:
    lines = workspace.actor.keys.lines
    return {c for c, line in lines.items() if (line.origins == number).any()}


def stale(workspace: Workspace) -> list[StaleCard]:
    return workspace.card_updates.stale()


def test_other_words_are_not_asked_about(workspace: Workspace) -> None:
    number = key(workspace, "Fist")
    change(workspace, "Fist", lambda card: replace(card, note="Tighter than it looks."))
    assert entry(workspace, "Fist").revision > workspace.actor.keys.origins[number].revision
    assert stale(workspace) == []
    change(workspace, "Fist", other_pose(workspace, "Flat"))
    assert [one.number for one in stale(workspace)] == [number]
    workspace.card_updates.keep(stale(workspace)[0])
    assert stale(workspace) == []


def test_a_card_that_cannot_be_read_any_more_is_told_and_the_others_follow(
    workspace: Workspace,
) -> None:
    fist, glad = key(workspace, "Fist"), key(workspace, "Glad")
    change(workspace, "Fist", other_pose(workspace, "Flat"))
    change(workspace, "Glad", other_pose(workspace, "Sad"))
    old = stale(workspace)
    assert {one.number for one in old} == {fist, glad}
    next(one for one in old if one.number == fist).entry.path.write_bytes(b"cut off")
    told: list[Exception] = []
    workspace.card_updates.failed.connect(told.append)
    workspace.card_updates.update(old)
    assert [error.code for error in told] == ["card.foreign"]
    corner = workspace.actor.rig.setting_row["mouth_corner_down_L"]
    sad = read_card(entry(workspace, "Sad").path)[0].pose.controls["mouth_L"].settings
    assert workspace.actor.take.at(AT).settings[corner] == sad["mouth_corner_down_L"] != 0.0


def test_only_the_part_that_had_gone_on_follows(workspace: Workspace) -> None:
    number = key(
        workspace, "Crouch", lambda mix: mix.set_part(Part.REGIONS, frozenset({Region.HANDS}))
    )
    before, keys = keyed(workspace, number), workspace.actor.keys
    rig = workspace.actor.rig
    assert {rig.controls[rig.control_row[c.name]].region for c in before if not c.is_setting} == {
        Region.HANDS
    }
    change(workspace, "Crouch", other_pose(workspace, "Wave"))
    workspace.card_updates.update(stale(workspace))
    assert keyed(workspace, number) == before
    wanted = read_card(entry(workspace, "Wave").path)[0].pose.controls["finger_index_2_R"].turn
    turn = workspace.actor.take.at(AT).turn[rig.control_row["finger_index_2_R"]]
    assert np.allclose(turn, wanted, atol=1e-9) or np.allclose(turn, -np.array(wanted), atol=1e-9)
    shown = 0
    for channel_id in before:  # the angles of a key are those of its turn
        line = workspace.actor.keys.lines[channel_id]
        if channel_id.kind is ChannelKind.TURN and line.euler is not None:
            order = rig.controls[rig.control_row[channel_id.name]].order
            assert angle_between(from_euler(line.euler[0], order), line.values[0]) < 1e-6
            shown += 1
    assert shown > 10
    others = [c for c in keys.lines if c not in before]
    assert all(workspace.actor.keys.lines[c] is keys.lines[c] for c in others)
    workspace.undo()
    assert workspace.actor.keys.lines.keys() == keys.lines.keys()
    assert len(stale(workspace)) == 1


def in_part(mix: Mix) -> None:
    mix.set_amount(0.6)


def on_top_of_the_other_side(mix: Mix) -> None:
    mix.set_side(Sides.OTHER)
    mix.set_way(Way.ON_TOP)
    mix.set_amount(0.7)


def hands_less(mix: Mix) -> None:
    mix.set_amount(0.3, region=Region.HANDS)


@pytest.mark.parametrize(
    ("name", "choose"),
    [("Wave", in_part), ("Fist", on_top_of_the_other_side), ("Wave", hands_less)],
)
def test_the_amount_the_side_and_the_way_are_kept(
    workspace: Workspace, name: str, choose: Callable[[Mix], object]
) -> None:
    """What follows is what putting the new card on in the same way would have given."""
    number = key(workspace, name, choose)
    change(workspace, name, other_pose(workspace, "Arms up" if name == "Wave" else "Flat"))
    origins = workspace.actor.keys.origins
    assert keys_from([], kept_origins(workspace.actor.keys)).origins == origins  # as in a shot
    workspace.card_updates.update(stale(workspace))
    followed = workspace.actor.take.at(AT)
    channel_ids = keyed(workspace, number)
    workspace.undo()
    workspace.undo()  # the card itself
    key(workspace, name, choose)
    anew = workspace.actor.take.at(AT)
    rig = workspace.actor.rig
    turned = [rig.control_row[c.name] for c in channel_ids if c.kind is ChannelKind.TURN]
    assert len(turned) > 10
    dots = np.abs((followed.turn[turned] * anew.turn[turned]).sum(-1))
    assert np.allclose(dots, 1.0, atol=1e-9)
    held = [rig.setting_row[c.name] for c in channel_ids if c.is_setting]
    assert np.allclose(followed.settings[held], anew.settings[held])


def test_what_was_changed_by_hand_stays_unless_it_is_asked_for(workspace: Workspace) -> None:
    number = key(workspace, "Fist")
    actor, rig = workspace.actor, workspace.actor.rig
    row = rig.control_row["finger_index_2_L"]
    turn = actor.state.turn.copy()
    turn[row] = 0.0, 0.0, np.sin(0.1), np.cos(0.1)
    workspace.selection.set([row])
    workspace.apply("By hand", actor.state.with_(turn=turn))
    workspace.keying.key()
    tweaked = workspace.actor.take.at(AT).turn[row].copy()
    index = ChannelId(ChannelKind.TURN, "finger_index_2_L")
    assert index not in keyed(workspace, number)
    change(workspace, "Fist", other_pose(workspace, "Flat"))
    told: list[str] = []
    workspace.card_updates.told.connect(told.append)
    assert stale(workspace)[0].by_hand >= 1
    workspace.card_updates.update(stale(workspace))
    assert np.array_equal(workspace.actor.take.at(AT).turn[row], tweaked)
    assert "changed by hand" in told[0]
    assert "Index" in told[0]
    workspace.undo()
    workspace.card_updates.update(stale(workspace), over_hand=True)
    wanted = read_card(entry(workspace, "Flat").path)[0].pose.controls["finger_index_2_L"].turn
    assert abs(float(workspace.actor.take.at(AT).turn[row] @ np.array(wanted))) > 1 - 1e-9
    assert stale(workspace) == []


def test_what_the_card_holds_since_is_keyed_and_what_was_deleted_is_not(
    workspace: Workspace,
) -> None:
    number = key(workspace, "Fist")
    index = ChannelId(ChannelKind.TURN, "finger_index_1_L")
    workspace.keying.delete({index: np.array([AT])})
    fox = read_card(entry(workspace, "Wave").path)[0].pose.controls["head"]
    flat = other_pose(workspace, "Flat")
    change(
        workspace,
        "Fist",
        lambda card: replace(flat(card), pose=Pose({**flat(card).pose.controls, "head": fox})),
    )
    workspace.card_updates.update(stale(workspace))
    assert ChannelId(ChannelKind.TURN, "head") in keyed(workspace, number)
    assert index not in workspace.actor.keys.lines
