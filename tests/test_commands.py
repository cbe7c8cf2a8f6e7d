"""The command line: libraries without a window, and the demo's stand-ins."""

from __future__ import annotations

import os
import shutil
from pathlib import Path

import pytest
from typer.testing import CliRunner, Result

from fox_hand.base.places import Places
from fox_hand.cli import Wish, make_app
from fox_hand.demo.project import shipped
from fox_hand.library import moves
from fox_hand.library.conflicts import set_aside
from fox_hand.library.container import card_bytes, read_card
from fox_hand.library.moves import current
from fox_hand.library.store import Library
from tests.conftest import MARROW


@pytest.fixture
def folder(tmp_path: Path, places: Places, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A copy of the demo's library, and a user's folders of its own."""
    monkeypatch.setattr(Places, "of_user", staticmethod(lambda: places))
    made = tmp_path / "poses"
    shutil.copytree(shipped() / "library", made)
    return made


def run(*words: str | Path) -> Result:
    asked: list[Wish] = []
    app = make_app(lambda wish: asked.append(wish) or 0)
    return CliRunner().invoke(app, [str(w) for w in words])


def test_listing_and_search_say_what_the_window_says(folder: Path) -> None:
    listed = run("library", "list", folder)
    assert listed.exit_code == 0
    lines = [line.split("\t") for line in listed.stdout.splitlines() if "\t" in line]
    assert len(lines) == 28
    assert lines[0][:5] == ["Marrow/Hands", "Fist", "hands", "left", "16"]
    assert lines[0][7] == "#grip #cross"
    found = run("library", "search", folder, "hel", "region:face")
    assert "Glad" in found.stdout
    assert "1 found" in found.output
    assert run("library", "search", folder, "qqqq").exit_code == 1
    fits = run("library", "search", folder, "fits:all", "--rig", MARROW)
    assert "28 found" in fits.output
    nowhere = run("library", "list", folder / "nowhere")
    assert nowhere.exit_code == 1
    assert "cannot be reached" in nowhere.output


def test_check_names_everything_that_needs_a_person(folder: Path) -> None:
    assert run("library", "check", folder).exit_code == 0
    library = Library(folder)
    hands = folder / "Marrow" / "Hands"
    fist, picture = read_card(hands / "Fist.foxcard")
    set_aside(library, fist.identity, card_bytes(fist, picture))
    moves.copy(library, hands / "Fox.foxcard", "Marrow/Hands")
    (hands / "Flat.foxcard").write_bytes((hands / "Flat.foxcard").read_bytes()[:7000])
    tense = hands / "Tense.foxcard"
    card, picture = read_card(tense)
    moves.store_over(library, current(library, tense), card, picture)
    tense.unlink()  # with a file manager, say
    left = hands / ".abc.part"
    left.write_bytes(b"half")
    os.utime(left, (1, 1))
    found = run("library", "check", folder, "--rig", MARROW)
    assert found.exit_code == 1
    kinds = {line.split("\t")[0] for line in found.stdout.splitlines() if "\t" in line}
    assert kinds == {"damaged", "conflict", "twins", "orphan", "leftover"}
    assert "26 of 28 cards are fine" in found.output


def test_reindex_makes_the_index_anew(folder: Path, places: Places) -> None:
    run("library", "list", folder)
    index = next((places.cache / "libraries").glob("*.sqlite"))
    assert index.stat().st_size > 0
    assert "28 cards in 4 sheets" in run("library", "reindex", folder).stdout


def test_pictures_are_taken_again_in_bulk(folder: Path) -> None:
    path = folder / "Marrow" / "Hands" / "Fist.foxcard"
    card, before = read_card(path)
    taken = run("library", "reshoot", folder, "--rig", MARROW, "--only", "fist", "--style", "clay")
    assert "1 pictures taken, 0 not" in taken.output
    again, picture = read_card(path)
    assert picture != before
    assert (again.pose, again.style, again.revision) == (card.pose, "clay", card.revision + 1)
    assert len(Library(folder).versions(card.identity)) == 1
    wrong = run("library", "reshoot", folder, "--rig", MARROW, "--style", "oil")
    assert wrong.exit_code == 1
    assert "no way to draw" in wrong.output


def test_the_colleague_and_the_share_do_what_they_say(folder: Path, tmp_path: Path) -> None:
    worked = run("demo", "colleague", "--library", folder, "--every", "0", "--deeds", "8")
    assert worked.exit_code == 0
    assert worked.stdout.count("Tomas R. added") == 2
    assert run("library", "check", folder).output.count("damaged") == 0
    share = run(
        "demo", "share", tmp_path / "s", "--flaky", "--there", "0", "--away", "0", "--rounds", "2"
    )
    assert "is away" in share.stdout
    assert "can only be read" in share.stdout
    assert Library(tmp_path / "s").name == "Studio share"
