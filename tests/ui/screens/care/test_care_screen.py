"""Care of the library: every choice is shown, made, and can be taken back."""

from __future__ import annotations

import os
import subprocess
from dataclasses import replace
from pathlib import Path

import pytest
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QLabel

from fox_hand.library.files.atomic import PART
from fox_hand.library.format.container import card_bytes, read_card, read_picture
from fox_hand.library.store import moves
from fox_hand.library.store.conflicts import conflicts, set_aside
from fox_hand.library.store.moves import current
from fox_hand.library.store.store import Library
from fox_hand.ui.screens.care.care_versions import VersionsPanel
from fox_hand.ui.widgets.buttons import Button
from tests.ui.conftest import LONG, Hand


@pytest.fixture
def library(library_folder: Path, hand: Hand) -> Library:
    return Library(library_folder)


def looked(hand: Hand, name: str = "") -> None:
    """Open Care and wait until it has looked through everything."""
    place = hand.workspace.open_libraries.places[0]
    done: list[int] = []
    hand.workspace.open_libraries.look_again(place, lambda: done.append(1))
    hand.qtbot.waitUntil(lambda: bool(done), timeout=LONG)
    hand.window.screens.show_care(place, hand.entry(name) if name else None)
    ready(hand)


def ready(hand: Hand) -> None:
    hand.qtbot.waitUntil(
        lambda: "Looked through" in hand.window.screens.care._said.text(), timeout=LONG
    )


def press(hand: Hand, subject: str, word: str) -> None:
    """Press a button of a panel by how its word begins."""
    panel = hand.window.screens.care.panels[subject]
    button = next(b for b in panel.findChildren(Button) if b.text().startswith(word))
    hand.window.screens.care.go_to(subject)
    hand.click(button, button.rect().center())


def count(hand: Hand, subject: str) -> int:
    return hand.window.screens.care.list._counts.get(subject, -1)


def held(path: Path) -> bytes:
    """What a file holds; nothing while it is being moved."""
    try:
        return path.read_bytes()
    except FileNotFoundError:
        return b""


def settled(hand: Hand, subject: str, number: int) -> None:
    hand.qtbot.waitUntil(lambda: count(hand, subject) == number, timeout=LONG)


@pytest.mark.parametrize("choice", ["Keep both", "Take Tomas R.'s", "Take Ines B.'s"])
def test_two_people_one_card(hand: Hand, library: Library, choice: str) -> None:
    entry = hand.entry("Sit on bollard")
    mine, _ = read_card(entry.path)
    theirs = replace(read_card(hand.entry("Crouch").path)[0], name=mine.name, author="Tomas R.")
    set_aside(library, mine.identity, card_bytes(theirs, read_picture(entry.path)))
    looked(hand)
    assert count(hand, "clashes") == 1
    press(hand, "clashes", choice)
    settled(hand, "clashes", 0)
    assert conflicts(library) == []
    now = read_card(entry.path)[0]
    versions = [read_card(v)[0].pose for v in library.versions(mine.identity)]
    if choice == "Keep both":
        other = hand.entry("Sit on bollard (Tomas R.)")
        assert (now.pose, read_card(other.path)[0].pose) == (mine.pose, theirs.pose)
        assert other.identity != mine.identity
    elif choice == "Take Tomas R.'s":
        assert (now.pose, versions) == (theirs.pose, [mine.pose])
    else:
        assert (now.pose, versions) == (mine.pose, [theirs.pose])
    hand.workspace.undo()
    if choice == "Take Ines B.'s":
        hand.qtbot.waitUntil(lambda: len(conflicts(library)) == 1, timeout=LONG)
    elif choice == "Take Tomas R.'s":
        hand.qtbot.waitUntil(lambda: read_card(entry.path)[0].pose == mine.pose, timeout=LONG)


def test_a_damaged_file_is_explained_and_a_whole_copy_takes_its_place(
    hand: Hand, library: Library
) -> None:
    path = hand.entry("Tense").path
    whole, picture = read_card(path)
    moves.store_over(library, current(library, path), replace(whole, note="tighter"), picture)
    path.write_bytes(path.read_bytes()[:9000])
    cut = path.read_bytes()
    strange = path.with_name("Haul rope.foxcard")
    strange.write_bytes(b"dear diary")
    glad = hand.entry("Glad").path
    data = bytearray(glad.read_bytes())
    data[-9000] ^= 255  # only its picture
    glad.write_bytes(bytes(data))
    looked(hand)
    assert count(hand, "strange") == 3
    assert path.read_bytes() == cut
    assert hand.window.screens.care._fine.text() == "26 of 29 cards are fine"
    press(hand, "strange", "Use ")
    settled(hand, "strange", 2)
    assert read_card(path)[0].pose == whole.pose
    kept = [p for p in library.removed() if p.name == path.name]
    assert [p.read_bytes() for p in kept] == [cut]
    hand.workspace.undo()
    hand.qtbot.waitUntil(lambda: held(path) == cut, timeout=LONG)
    assert strange.read_bytes() == b"dear diary"


def test_twins_are_shown_once_and_files_copied_outside_become_cards(
    hand: Hand, library: Library
) -> None:
    moves.copy(library, hand.entry("Fist").path, "Marrow/Hands")
    outside = hand.entry("Fox").path.with_name("Fox copy.foxcard")
    outside.write_bytes(hand.entry("Fox").path.read_bytes())
    looked(hand)
    assert count(hand, "pairs") == 2
    press(hand, "pairs", "Two cards")
    settled(hand, "pairs", 2)
    hand.qtbot.waitUntil(
        lambda: read_card(outside)[0].identity != hand.entry("Fox").identity, timeout=LONG
    )
    press(hand, "pairs", "On purpose")
    settled(hand, "pairs", 1)
    press(hand, "pairs", "On purpose")
    settled(hand, "pairs", 0)
    assert (library.own / "twins.json").is_file()
    looked(hand)
    assert count(hand, "pairs") == 0
    assert len(hand.window.screens.care.report.pairs) == 2


def test_what_was_taken_out_comes_back(hand: Hand, library: Library) -> None:
    path = hand.entry("Point").path
    before = path.read_bytes()
    hand.workspace.take_out([hand.entry("Point")])
    hand.qtbot.waitUntil(lambda: not path.exists(), timeout=LONG)
    looked(hand)
    assert count(hand, "taken") == 1
    press(hand, "taken", "Bring back Point")
    settled(hand, "taken", 0)
    assert path.read_bytes() == before


def test_deleting_for_good_is_asked_for_twice_and_takes_only_the_old(
    hand: Hand, library: Library
) -> None:
    young, old = hand.entry("Point"), hand.entry("Fist")
    hand.workspace.take_out([young, old])
    hand.qtbot.waitUntil(lambda: not (young.path.exists() or old.path.exists()), timeout=LONG)
    kept = {p.stem: p for p in library.removed()}
    past = (
        library.own
        / "removed"
        / "2020-01-31"
        / kept["Fist"]
        .parent.relative_to(library.own / "removed")
        .relative_to(kept["Fist"].relative_to(library.own / "removed").parts[0])
    )
    past.mkdir(parents=True)
    kept["Fist"].rename(past / "Fist.foxcard")
    looked(hand)
    assert count(hand, "taken") == 2
    press(hand, "taken", "Delete the old ones")
    assert len(library.removed()) == 2  # not yet
    press(hand, "taken", "Delete 1 for good?")
    settled(hand, "taken", 1)
    assert [p.stem for p in library.removed()] == ["Point"]
    looked(hand)
    panel = hand.window.screens.care.panels["taken"]
    button = next(b for b in panel.findChildren(Button) if b.text() == "Delete the old ones")
    assert not button.isEnabled()


def test_leftovers_go_and_a_card_that_is_gone_comes_back_from_a_version(
    hand: Hand, library: Library
) -> None:
    path = hand.entry("Tense").path
    whole, picture = read_card(path)
    moves.store_over(library, current(library, path), replace(whole, note="tighter"), picture)
    path.unlink()  # outside the program
    part = library.own / f".Tense{PART}"  # those in sheets go by themselves
    part.write_bytes(b"cut off")
    os.utime(part, (0, 0))
    looked(hand)
    press(hand, "strange", "Remove")
    hand.qtbot.waitUntil(lambda: not part.exists(), timeout=LONG)
    ready(hand)
    hand.qtbot.waitUntil(
        lambda: any(
            b.text() == "Bring back"
            for b in hand.window.screens.care.panels["strange"].findChildren(Button)
        ),
        timeout=LONG,
    )
    press(hand, "strange", "Bring back")
    back = hand.wait_for_card("Tense")
    assert read_card(back.path)[0].pose == whole.pose
    assert read_card(back.path)[0].identity == whole.identity
    hand.workspace.undo()
    hand.qtbot.waitUntil(lambda: not back.path.exists(), timeout=LONG)


def test_folders_that_keep_cards_from_people_are_counted_and_told(
    hand: Hand, library: Library
) -> None:
    """Each with what mends it; a link to a folder is not followed, as it may lead anywhere."""
    (library.folder / "Elsewhere").symlink_to(library.folder.parent)
    sheets = [p for p in library.folder.rglob("*") if p.is_dir() and not p.is_symlink()]
    for folder in (library.folder, *sheets):
        folder.chmod(0o775)
    (library.folder / "Marrow" / "Face").chmod(0o755)
    looked(hand)
    assert count(hand, "strange") == 2
    panel = hand.window.screens.care.panels["strange"]
    said = [label.text() for label in panel.findChildren(QLabel)]
    assert "2" in said
    assert any("Elsewhere is a link" in text for text in said)
    assert any("kept out of Marrow/Face" in text for text in said)
    press(hand, "strange", "Copy the command")
    command = QGuiApplication.clipboard().text()
    subprocess.run(["sh", "-c", command], check=True)
    (library.folder / "Elsewhere").unlink()
    looked(hand)
    assert count(hand, "strange") == 0


def test_earlier_versions_are_looked_at_peeked_varied_and_used_again(
    hand: Hand, library: Library
) -> None:
    path = hand.entry("Glad").path
    first, _ = read_card(path)
    for name in ("Sad", "Surprised"):
        other, picture = read_card(hand.entry(name).path)
        moves.store_over(
            library, current(library, path), replace(other, name="Glad", note=name), picture
        )
    looked(hand, "Glad")
    panel = hand.window.screens.care.panels["versions"]
    assert isinstance(panel, VersionsPanel)
    assert len(panel.tiles) == 3
    hand.click(panel.tiles[0], panel.tiles[0].rect().center())
    assert panel.chosen.entry.revision == 1
    assert "controls differ" in panel._said.text()
    press(hand, "versions", "As a variant")
    hand.qtbot.waitUntil(
        lambda: any(e.name.startswith("Glad of ") for e in hand.cards), timeout=LONG
    )
    ready(hand)
    panel = hand.window.screens.care.panels["versions"]
    panel.choose(0)
    press(hand, "versions", "Use this again")
    hand.qtbot.waitUntil(lambda: read_card(path)[0].pose == first.pose, timeout=LONG)
    assert read_card(path)[0].revision == 4
    assert len(library.versions(first.identity)) == 3
    ready(hand)
    panel = hand.window.screens.care.panels["versions"]
    panel.choose(1)
    press(hand, "versions", "Peek")
    hand.qtbot.waitUntil(lambda: hand.workspace.mix is not None, timeout=LONG)
    assert hand.window.screens.body.currentWidget() is hand.window.columns
    assert hand.workspace.mix.card.note == "Sad"


def test_cards_no_rig_has_are_told_and_shown(hand: Hand, library: Library) -> None:
    pose = read_card(hand.entry("Fist").path)[0].pose
    held = [replace(one, rest=None) for one in pose.controls.values()]  # nor says what it is
    renamed = {f"bone{n:03}": one for n, one in enumerate(held)}
    made = replace(
        read_card(hand.entry("Fist").path)[0],
        name="From before",
        character="Skipper",
        identity="f" * 32,
        pose=type(pose)(renamed),
    )
    library.add(made, None, "Marrow/Hands")
    looked(hand)
    assert count(hand, "lost") == 1
    press(hand, "lost", "Show")
    assert hand.window.screens.body.currentWidget() is hand.window.columns
    assert [e.name for e in hand.window.sheets.view.chosen()] == ["From before"]
