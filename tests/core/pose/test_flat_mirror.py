"""Views of puppets: what belongs to which, and what mirroring does in each."""

from __future__ import annotations

import numpy as np
import pytest

from fox_hand.core.model.controls import Channel
from fox_hand.core.model.state import State
from fox_hand.core.pose.mirror import mirror
from fox_hand.core.pose.pose import ChannelFilter
from fox_hand.core.pose.sides import mirrored
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.readers import read_rig
from fox_hand.session.puppets.making import puppet_of, write_puppet
from tests.puppets import blob

WING = {"up": 30, "down": 50}


def two_views() -> dict[str, object]:
    """A side and a front of one bird."""
    found = {}
    for view, near, far, x in (("Side", "Near", "Far", 190), ("Front", "Left", "Right", 130)):
        for word, high in WING.items():
            found[f"{view}/{near} wing/{word}"] = blob(270, 180, 60, high, "#889")
        found[f"{view}/Body"] = blob(200, 190, 120, 90, "#fff")
        for word, high in WING.items():
            found[f"{view}/{far} wing/{word}"] = blob(x, 180, 60, high, "#445")
    return found


@pytest.fixture(scope="module")
def rig(tmp_path_factory: pytest.TempPathFactory) -> Rig:
    folder = tmp_path_factory.mktemp("views")
    for name, picture in two_views().items():
        path = folder / "bird" / f"{name}.png"
        path.parent.mkdir(parents=True, exist_ok=True)
        picture.save(path)
    write_puppet(puppet_of(folder / "bird"), folder / "bird.glb")
    return read_rig(folder / "bird.glb")


def stood(rig: Rig, view: int, angles: dict[str, float], **settings: float) -> State:
    """A state with some parts turned."""
    euler, values = rig.rest.euler.copy(), rig.rest.settings.copy()
    turn = rig.rest.turn.copy()
    for name, angle in angles.items():
        row = rig.control_row[name]
        euler[row, 2] = angle
        turn[row] = (0, 0, np.sin(angle / 2), np.cos(angle / 2))
    values[rig.setting_row["view"]] = view
    for name, value in settings.items():
        values[rig.setting_row[name]] = value
    return rig.rest.with_(turn=turn, euler=euler, settings=values)


def angle(rig: Rig, state: State, name: str) -> float:
    return round(float(state.shown(rig.orders)[rig.control_row[name], 2]), 6)


def value(rig: Rig, state: State, name: str) -> float:
    return float(state.settings[rig.setting_row[name]])


def test_every_control_belongs_to_the_view_it_is_drawn_in(rig: Rig) -> None:
    views = rig.views
    assert views.names == ("Side", "Front")
    assert views.aside == (True, False)
    of = {rig.controls[row].name: number for row, number in enumerate(views.of_control)}
    assert (of["root"], of["body"], of["near_wing"], of["front_body"]) == (-1, 0, 0, 1)
    assert of["front_left_wing__1"] == 1
    assert views.only([rig.control_row["near_wing"], rig.control_row["root"]]) == 0
    assert views.only([rig.control_row["near_wing"], rig.control_row["front_body"]]) is None


def test_a_view_from_the_side_turns_round_and_the_others_stay(rig: Rig) -> None:
    state = stood(rig, 0, {"root": 0.2, "near_wing": 0.7, "front_left_wing": 0.4})
    found = mirror(rig, state)
    assert value(rig, found, "facing") == 1.0
    assert angle(rig, found, "root") == -0.2
    assert angle(rig, found, "near_wing") == 0.7  # turned over with the body it hangs on
    assert angle(rig, found, "front_left_wing") == 0.4  # another view


def test_a_view_from_in_front_exchanges_its_sides(rig: Rig) -> None:
    state = stood(rig, 1, {"front_left_wing": 0.4, "near_wing": 0.7}, front_left_wing_drawing=1.0)
    found = mirror(rig, state)
    assert value(rig, found, "facing") == 0.0
    assert angle(rig, found, "front_right_wing") == -0.4
    assert angle(rig, found, "front_left_wing") == 0.0
    assert value(rig, found, "front_right_wing_drawing") == 1.0
    assert value(rig, found, "front_left_wing_drawing") == 0.0
    assert angle(rig, found, "near_wing") == 0.7


def test_near_and_far_parts_are_exchanged_in_the_same_direction(rig: Rig) -> None:
    state = stood(rig, 0, {"near_wing": 0.7}, near_wing_drawing=1.0, near_wing_in_front=2.0)
    rows = {rig.control_row["near_wing"], rig.control_row["far_wing"]}
    found = mirror(rig, state, rows)
    assert value(rig, found, "facing") == 0.0
    assert (angle(rig, found, "far_wing"), angle(rig, found, "near_wing")) == (0.7, 0.0)
    assert value(rig, found, "far_wing_drawing") == 1.0
    assert value(rig, found, "far_wing_in_front") == 2.0
    assert value(rig, found, "near_wing_drawing") == 0.0


def test_the_other_side_of_a_card_of_all_faces_the_other_way(rig: Rig) -> None:
    state = stood(rig, 0, {"near_wing": 0.7, "body": 0.3})
    rows = [rig.control_row[n] for n in ("body", "near_wing")]
    choice = ChannelFilter.of(rig, rows, (Channel.TURN,))
    found, held = mirrored(rig, state, choice, both=False)
    assert rig.setting_row["facing"] in held.settings
    assert value(rig, found, "facing") == 1.0
    assert (angle(rig, found, "near_wing"), angle(rig, found, "body")) == (0.7, -0.3)
    assert mirrored(rig, state, choice, both=True) == (state, choice)
    part = ChannelFilter.of(rig, rows[1:], (Channel.TURN,))
    found, held = mirrored(rig, state, part, both=False)
    assert list(held.channels) == [rig.control_row["far_wing"]]
    assert rig.setting_row["facing"] not in held.settings
    assert angle(rig, found, "far_wing") == 0.7
