"""Drawings as cards: taken from one puppet, given to another, and what the files hold then."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pygltflib
import pytest
from typer.testing import CliRunner

from fox_hand.base.errors import FoxHandError
from fox_hand.base.places import Places
from fox_hand.cli.app import make_app
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.readers import read_rig
from fox_hand.interchange.sidecar import sidecar_path
from fox_hand.library.format.container import card_bytes, read_card, read_drawing
from fox_hand.library.format.entry import Entry
from fox_hand.library.store.store import Library
from fox_hand.session.app.swapping import show_drawing
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.puppets.drawing_cards import drawing_of, part_under
from fox_hand.session.puppets.making import puppet_of, write_puppet
from tests.conftest import MARROW
from tests.puppets import as_folder, bird, blob


@pytest.fixture
def workspace(places: Places, tmp_path: Path) -> Workspace:
    """A bird with beaks, a fish without any choice, and a library."""
    for name, drawings, height in (
        ("tern", bird(), 1.0),
        (
            "fish",
            {"Fin": blob(150, 120, 60, 30, "#88a"), "Body": blob(200, 150, 200, 90, "#aac")},
            0.5,
        ),
    ):
        source = as_folder(tmp_path / name, drawings)
        write_puppet(puppet_of(source, name.title()), tmp_path / f"{name}.glb", source, height)
    found = Workspace(places)
    Library.create(tmp_path / "own", "My cards")
    found.open_libraries.open(tmp_path / "own")
    for name in ("fish", "tern"):
        found.open_rig(tmp_path / f"{name}.glb")
    return found


def taken(workspace: Workspace, part: str, number: int) -> Entry:
    actor = workspace.actor
    workspace.capturing.puppet_cards.take_drawing(actor.rig.control_row[part], number)
    return next(e for e in workspace.open_libraries.entries() if e.kind == "drawing")


def sizes(rig: Rig, state: object) -> dict[str, float]:
    """How large each drawing is."""
    nodes = rig.evaluate(state).nodes
    found = np.linalg.norm(nodes[:, :3, 0], axis=1)
    return {n: float(found[i]) for i, n in enumerate(rig.skeleton.names) if "__" in n}


def test_a_card_of_a_drawing_holds_its_picture_pivot_and_size(workspace: Workspace) -> None:
    rig = workspace.actor.rig
    entry = taken(workspace, "beak", 1)
    assert (entry.name, entry.sheet, entry.kind) == ("Beak shout", "Tern/Drawings", "drawing")
    card, _ = read_card(entry.path)
    assert [list(h.options.values()) for h in card.pose.controls.values()] == [["shout"]]
    drawing = read_drawing(entry.path)
    own = drawing_of(rig, rig.control_row["beak"], 1)
    assert drawing.data == own.data and drawing.name == "shout" and drawing.part == "Beak"
    part = next(p for p in rig.parts if p.name == "beak__1")
    wide = float(np.ptp(part.positions[:, 0]))
    assert drawing.pixel * part.material.drawing.width == pytest.approx(wide, rel=1e-5)
    left = -drawing.pivot[0] * drawing.pixel
    assert left == pytest.approx(float(part.positions[:, 0].min()), abs=1e-6)
    # a card that is written anew from its words alone is a pose; its picture would be missing
    again = entry.path.with_name("again.foxcard")
    again.write_bytes(card_bytes(card, None))
    assert read_card(again)[0].kind == "pose"
    with pytest.raises(FoxHandError, match="brings no drawing"):
        read_drawing(again)


def test_a_part_of_another_puppet_gets_it_without_the_first_and_undo_takes_it_back(
    workspace: Workspace, tmp_path: Path
) -> None:
    entry = taken(workspace, "beak", 1)
    fish = next(a for a in workspace.cast.actors if a.name == "Fish")
    before = (fish.path.read_bytes(), sidecar_path(fish.path).read_bytes())
    mark, asked = fish.rig.fingerprint, []
    workspace.act(fish)
    row = fish.rig.control_row["fin"]
    workspace.puppet_drawings.add(entry, fish, row, lambda *told: asked.append(told))
    assert asked == [("fin", 1)]
    assert fish.rig.fingerprint == mark  # its cards are as good as before
    swap = fish.rig.swaps[row]
    assert swap.names == ("first", "shout")
    shown = sizes(fish.rig, fish.state)
    assert shown["fin__0"] == pytest.approx(1.0) and shown["fin__added_0"] < 0.01
    show_drawing(workspace, swap, 1)
    shown = sizes(fish.rig, fish.state)
    assert shown["fin__added_0"] == pytest.approx(1.0) and shown["fin__0"] < 0.01
    # attached at its pivot, as large in proportion as on the bird
    tern = next(a for a in workspace.cast.actors if a.name == "Tern").rig
    wide = {
        one.name: float(np.ptp(p.positions[:, 0]))
        for one, name in ((fish.rig, "fin__added_0"), (tern, "beak__1"))
        for p in one.parts
        if p.name == name
    }
    scale = fish.rig.height / tern.height
    assert wide["Fish"] == pytest.approx(wide["Tern"] * scale, rel=1e-4)
    # the file stands for itself, for us and for others
    (tmp_path / "tern.glb").unlink()
    entry.path.unlink()
    alone = read_rig(fish.path)
    assert alone.swaps[alone.control_row["fin"]].names == swap.names
    theirs = pygltflib.GLTF2().load(str(fish.path))
    node = next(n for n in theirs.nodes if n.name == "fin__added_0")
    material = theirs.materials[theirs.meshes[node.mesh].primitives[0].material]
    assert material.alphaMode == "BLEND" and "KHR_materials_unlit" in material.extensions
    workspace.history.undo()
    workspace.history.undo()
    assert (fish.path.read_bytes(), sidecar_path(fish.path).read_bytes()) == before
    assert fish.rig.swaps == {}
    workspace.history.redo()
    assert fish.rig.swaps[fish.rig.control_row["fin"]].names == swap.names


def test_the_same_drawing_is_not_added_twice_and_equal_names_are_told_apart(
    workspace: Workspace,
) -> None:
    entry = taken(workspace, "beak", 1)
    tern = workspace.actor
    row, told = tern.rig.control_row["beak"], []
    before = tern.path.read_bytes()
    workspace.puppet_drawings.add(entry, tern, row, lambda *one: told.append(one))
    assert told == [("beak", 1)] and tern.path.read_bytes() == before
    eye = tern.rig.control_row["eye"]
    workspace.puppet_drawings.add(entry, tern, eye, lambda *one: told.append(one))
    names = tern.rig.swaps[tern.rig.control_row["eye"]].names
    assert names == ("open", "shut", "shout")
    values = json.loads(sidecar_path(tern.path).read_text())["settings"]["eye_drawing"]
    assert values["maximum"] == 2.0
    for number in range(3):
        show_drawing(workspace, tern.rig.swaps[tern.rig.control_row["eye"]], number)
        shown = {
            n for n, s in sizes(tern.rig, tern.state).items() if n.startswith("eye") and s > 0.5
        }
        assert shown == {("eye__0", "eye__1", "eye__added_0")[number]}


def test_made_anew_from_its_drawings_a_puppet_keeps_what_cards_brought(
    workspace: Workspace, tmp_path: Path
) -> None:
    entry = taken(workspace, "beak", 1)
    fish = tmp_path / "fish.glb"
    words = ["puppet", "add", str(entry.path), str(fish), "--part"]
    told = CliRunner().invoke(make_app(lambda _: 0), [*words, "gill"])
    assert told.exit_code == 1 and "It has body, fin." in told.stderr
    told = CliRunner().invoke(make_app(lambda _: 0), [*words[:3], str(MARROW), "--part", "head"])
    assert told.exit_code == 1 and "not a puppet" in told.stderr
    for expected, part in (("has shout now", "fin"), ("has shout now", "body")):
        told = CliRunner().invoke(make_app(lambda _: 0), [*words, part])
        assert told.exit_code == 0 and expected in told.stderr
    first = fish.read_bytes()
    told = CliRunner().invoke(make_app(lambda _: 0), [*words, "fin"])
    assert "already" in told.stderr and fish.read_bytes() == first

    def corners(rig: Rig) -> np.ndarray:
        part = next(p for p in rig.parts if p.name == "fin__added_0")
        return part.positions / rig.height

    before = corners(read_rig(fish))
    source = tmp_path / "fish"
    (fin,) = source.glob("*Fin.png")
    blob(150, 120, 80, 40, "#8a8").save(fin)
    made = write_puppet(puppet_of(source, "Fish"), fish, source, 0.5)
    again = read_rig(fish)
    assert made.notes == ()
    for part in ("fin", "body"):
        assert again.swaps[again.control_row[part]].names == ("first", "shout")
    assert corners(again) == pytest.approx(before, rel=1e-4)
    assert fish.read_bytes() != first  # the fin is as it is drawn now
    fin.rename(fin.with_name(fin.name.replace("Fin", "Flipper")))
    made = write_puppet(puppet_of(source, "Fish"), fish, source, 0.5)
    assert len(made.notes) == 1 and made.notes[0].startswith("shout came by a card to a part")
    again = read_rig(fish)
    assert again.swaps[again.control_row["body"]].names == ("first", "shout")


def test_files_that_changed_meanwhile_and_figures_that_are_no_puppets_are_left_alone(
    workspace: Workspace,
) -> None:
    entry = taken(workspace, "beak", 1)
    fish = next(a for a in workspace.cast.actors if a.name == "Fish")
    failed: list[FoxHandError] = []
    workspace.failed.connect(failed.append)
    workspace.puppet_drawings.add(entry, fish, fish.rig.control_row["fin"], lambda *_: None)
    said = sidecar_path(fish.path)
    said.write_bytes(said.read_bytes() + b"\n")
    changed = said.read_bytes()
    workspace.history.undo()
    assert [error.code for error in failed] == ["puppet.changed_meanwhile"]
    assert said.read_bytes() == changed
    said.unlink()
    workspace.puppet_drawings.add(entry, fish, fish.rig.control_row["body"], lambda *_: None)
    assert failed[-1].code in ("puppet.unreadable", "puppet.no_puppet")
    assert not workspace.puppet_drawings.busy


def test_put_on_somebody_else_a_drawing_says_what_to_do_with_it(workspace: Workspace) -> None:
    entry = taken(workspace, "beak", 1)
    failed: list[FoxHandError] = []
    workspace.failed.connect(failed.append)
    workspace.applying.put_on(entry)
    assert workspace.mix is not None and failed == []  # its own puppet shows it
    workspace.put_back()
    workspace.act(next(a for a in workspace.cast.actors if a.name == "Fish"))
    workspace.applying.put_on(entry)
    assert workspace.mix is None
    assert [error.code for error in failed] == ["mix.drawing"]


def test_what_is_under_the_pointer_is_what_is_seen_there(workspace: Workspace) -> None:
    rig, at = workspace.actor.rig, workspace.actor.at

    def name(x: float, y: float) -> str | None:
        row = part_under(rig, at.nodes, x, y)
        return None if row is None else rig.controls[row].name

    def middle(part: str) -> tuple[float, float]:
        points = rig.flesh(at, [rig.skeleton.names.index(f"{part}__0")])
        return float(points[:, 0].mean()), float(points[:, 1].mean())

    assert name(*middle("beak")) == "beak"
    assert name(*middle("near_wing")) == "near_wing"  # before the body
    x, y = middle("body")
    assert name(x + 5, y) is None
