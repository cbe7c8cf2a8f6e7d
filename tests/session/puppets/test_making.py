"""From a folder of drawings to a rig that is posed, through the command line and back."""

from __future__ import annotations

import json
import struct
from pathlib import Path

import numpy as np
import pytest
from typer.testing import CliRunner, Result

from fox_hand.base.errors import FoxHandError
from fox_hand.cli.app import make_app
from fox_hand.core.kinematics.skinning import skinned
from fox_hand.core.maths.rotations import from_vector
from fox_hand.core.model.controls import Channel, MirrorRule, Side
from fox_hand.core.pose.blend import blend
from fox_hand.core.pose.pose import ChannelFilter, bind, take
from fox_hand.core.rig.locks_limits import built_in
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.puppets.puppet_file import cut
from fox_hand.interchange.readers import read_rig
from fox_hand.session.puppets.making import puppet_of, write_puppet
from tests.puppets import as_folder, bird, blob
from tests.small_demo import WHOLE


def run(*words: str | Path) -> Result:
    return CliRunner().invoke(make_app(lambda _: 0), [str(w) for w in words])


@pytest.fixture
def rig(tmp_path: Path) -> Rig:
    source = as_folder(tmp_path / "bird", bird())
    write_puppet(puppet_of(source), tmp_path / "bird.glb", source)
    return read_rig(tmp_path / "bird.glb")


def quad(rig: Rig, name: str, **settings: float) -> np.ndarray:
    """Corners of a drawing as it stands, ``(4, 3)`` metres."""
    values = rig.rest.settings.copy()
    for key, value in settings.items():
        values[rig.setting_row[key]] = value
    at = rig.evaluate(rig.rest.with_(settings=values))
    part = next(part for part in rig.parts if part.name == name)
    return np.asarray(skinned(part, at.palette, at.settings))


def test_a_folder_becomes_a_rig_as_high_as_was_said(rig: Rig) -> None:
    assert rig.name == "Bird"
    assert not rig.notes
    shown = {control.name: control for control in rig.controls if not control.helper}
    assert {"root", "body", "head", "near_wing", "far_wing"} <= set(shown)
    assert shown["near_wing"].side is Side.LEFT
    assert shown["near_wing"].partner == "far_wing"
    body = quad(rig, "body__0")
    high = np.ptp(body[:, 1])
    assert high == pytest.approx(104 / 300, abs=0.01)  # 100 pixels and some room of 300
    assert np.ptp(body[:, 2]) == pytest.approx(0, abs=1e-9)


def test_one_drawing_of_a_part_is_seen_and_a_choice_changes_it(rig: Rig) -> None:
    sizes = {}
    for value, word in enumerate(rig.settings[rig.setting_row["beak_drawing"]].options):
        seen = [np.ptp(quad(rig, f"beak__{n}", beak_drawing=value)[:, 0]) for n in range(3)]
        assert np.argmax(seen) == value and sorted(seen)[1] < 0.001
        sizes[word] = np.ptp(quad(rig, f"beak__{value}", beak_drawing=value)[:, 1])
    assert sizes["shut"] < sizes["open"] < sizes["shout"]
    assert rig.settings[rig.setting_row["beak_drawing"]].discrete


def test_drawings_change_at_the_half_and_turns_go_on(rig: Rig) -> None:
    settings, turn = rig.rest.settings.copy(), rig.rest.turn.copy()
    settings[rig.setting_row["beak_drawing"]] = 2
    turn[rig.control_row["head"]] = from_vector(np.array([0, 0, 0.4]))
    posed = rig.rest.with_(settings=settings, turn=turn)
    card = take(rig, posed, ChannelFilter.of(rig, range(len(rig.controls))))
    for amount, drawing in ((0.0, 0), (0.49, 0), (0.51, 2), (1.0, 2)):
        found = blend(rig.rest, bind(card, rig), amount, rig.setting_rules)
        assert found.settings[rig.setting_row["beak_drawing"]] == drawing
        assert found.turn[rig.control_row["head"]][2] == pytest.approx(np.sin(0.2 * amount))


def test_what_is_in_front_can_be_changed_and_takes_along_what_hangs_on_it(rig: Rig) -> None:
    def near(name: str, **settings: float) -> float:
        return float(quad(rig, name, **settings)[:, 2].mean())

    order = ["near_wing__0", "near_wing_tip__0", "head__0", "body__0", "far_wing__0"]
    depths = [near(name) for name in order]
    assert depths == sorted(depths, reverse=True) and len(set(depths)) == len(depths)
    assert min(depths) > 0 and max(depths) < 0.02  # millimetres, so that nothing moves aside
    assert near("near_wing__0", near_wing_in_front=-10) < near("body__0")
    moved = near("near_wing_tip__0", near_wing_in_front=-10) - near("near_wing_tip__0")
    assert moved == pytest.approx(-0.01)
    rule = rig.settings[rig.setting_row["near_wing_in_front"]]
    assert (rule.mirror, rule.partner) == (MirrorRule.SWAP, "far_wing_in_front")


def test_flat_parts_turn_and_move_in_their_plane_only(rig: Rig) -> None:
    locks = {(lock.control, str(lock.channel), lock.axis) for lock in built_in(rig)}
    assert ("head", "turn", 0) in locks and ("head", "turn", 1) in locks
    assert ("head", "turn", 2) not in locks and ("body", "move", 2) in locks
    channels = {control.name: control.channels for control in rig.controls}
    assert Channel.MOVE in channels["body"] and Channel.MOVE not in channels["head"]


def test_several_views_are_there_and_one_is_seen(tmp_path: Path) -> None:
    source = tmp_path / "bird"
    as_folder(source / "Side", bird())
    front = {"Head": blob(200, 95, 80, 80, "white"), "Body": blob(200, 190, 110, 120, "white")}
    as_folder(source / "Front", front)
    write_puppet(puppet_of(source), tmp_path / "bird.glb", source)
    rig = read_rig(tmp_path / "bird.glb")
    view = rig.settings[rig.setting_row["view"]]
    assert list(view.options) == ["Side", "Front"] and view.discrete
    for value, word in enumerate(view.options):
        node = {"Side": "body__0", "Front": "front_body__0"}
        seen = {w: np.ptp(quad(rig, node[w], view=value)[:, 0]) for w in view.options}
        assert max(seen, key=lambda w: seen[w]) == word and min(seen.values()) < 0.001
    partners = {c.name: c.partner for c in rig.controls}
    assert partners["near_leg"] == "far_leg" and partners["front_head"] == "front_head"


def test_a_view_that_is_drawn_later_renames_nothing(tmp_path: Path) -> None:
    def names() -> set[str]:
        write_puppet(puppet_of(tmp_path / "bird"), tmp_path / "bird.glb")
        return {control.name for control in read_rig(tmp_path / "bird.glb").controls}

    as_folder(tmp_path / "bird", bird())
    loose = names()
    as_folder(tmp_path / "bird" / "Front", {"Head": blob(200, 95, 80, 80, "white")})
    both = names()
    assert loose <= both and "front_head" in both


def test_edges_keep_their_colour_where_nothing_is_drawn(tmp_path: Path) -> None:
    puppet = puppet_of(as_folder(tmp_path / "b", {"Body": blob(200, 190, 190, 100, "#ff8800")}))
    pixels, left, top = cut(puppet.part("Body").seen)
    assert (pixels[..., 3] == 0).any()
    assert np.abs(pixels[..., :3].astype(int) - (255, 136, 0)).max() <= 12  # rounding
    assert (left, top) == pytest.approx((103, 138), abs=2)


def test_the_command_makes_it_lists_guesses_and_keeps_the_drawings(tmp_path: Path) -> None:
    source = as_folder(tmp_path / "bird", bird() | {"Thing": blob(200, 190, 20, 20, "red")})
    out = tmp_path / "made.glb"
    found = run("puppet", "make", source, "-o", out, "--height", "0.5", "--name", "Tern")
    assert found.exit_code == 0, found.output
    assert "guessed\tThing hangs on Body\tits name says nothing; it lies on it" in found.stdout
    assert read_rig(out).name == "Tern"
    facts = json.loads(run("puppet", "make", source, "-o", out, "--json").stdout)
    assert facts["parts"][0]["hangs_on"] == "Body"
    (length,) = struct.unpack_from("<I", out.read_bytes(), 8)
    assert length == out.stat().st_size
    before = {path: path.read_bytes() for path in source.rglob("*.png")}
    bad = run("puppet", "make", source, "-o", tmp_path / "made.png")
    assert bad.exit_code == 1 and "Puppets are written as .glb." in bad.output
    assert run("puppet", "make", tmp_path / "none", "-o", out).exit_code == 1
    assert {path: path.read_bytes() for path in source.rglob("*.png")} == before


def test_what_cannot_be_written_leaves_what_was_there(tmp_path: Path) -> None:
    source = as_folder(tmp_path / "bird", bird())
    puppet = puppet_of(source)
    with pytest.raises(FoxHandError, match="cannot be written"):
        write_puppet(puppet, tmp_path / "bird.usd")
    with pytest.raises(FoxHandError):
        write_puppet(puppet, tmp_path / "nowhere" / "below" / "bird.glb")


def test_the_ticket_that_ships_is_whole_as_a_folder_and_as_layers() -> None:
    shipped_drawings = WHOLE / "drawings"
    found = [puppet_of(shipped_drawings / name) for name in ("ticket", "ticket.ora")]
    for puppet in found:
        assert puppet.name == "Ticket" and puppet.notes == ()
        drawn = {part.name: {d.name for d in part.drawings} for part in puppet.parts}
        assert drawn["Mouth"] == {"shut", "open", "grin", "oh"} and len(drawn) == 9
        assert puppet.root("").name == "Body"
        assert puppet.part("Left arm").partner == "Right arm"
    one, other = found
    assert [part.name for part in one.parts] == [part.name for part in other.parts]
