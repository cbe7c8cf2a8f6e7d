"""What is done to cards and sheets: what it is called, what it changes, and the way back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.core.matching.name_match import Rule, Rules
from fox_hand.library.format.container import read_card, read_motion, read_picture
from fox_hand.library.format.thumb import Square
from fox_hand.library.store.sheets import Habit, read_sheet
from fox_hand.library.store.store import Library
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.libraries.file_jobs import Outcome
from fox_hand.session.libraries.open_library import OpenLibrary
from tests.session.conftest import entry


def files(place: OpenLibrary) -> dict[str, bytes]:
    """All that lies in a library's sheets."""
    return {
        str(path.relative_to(place.folder)): path.read_bytes() if path.is_file() else b""
        for path in sorted(place.folder.rglob("*"))
        if ".foxhand" not in path.parts
    }


def listed(workspace: Workspace) -> dict[str, str]:
    return {e.name: e.sheet for e in workspace.open_libraries.entries()}


Deed = Callable[[Workspace, OpenLibrary], None]
DEEDS: dict[str, Deed] = {
    "Take out Fist": lambda w, _: w.card_commands.take_out([entry(w, "Fist")]),
    "Take out 2 cards": lambda w, _: w.card_commands.take_out([entry(w, "Fist"), entry(w, "Fox")]),
    "Put Fist into Face": lambda w, p: w.card_commands.put_in(
        [entry(w, "Fist")], p, "Marrow/Face", copies=False
    ),
    "Put 2 cards into Night Ferry show": lambda w, p: w.card_commands.put_in(
        [entry(w, "Fist"), entry(w, "Fox")], p, "", copies=False
    ),
    "Copy Fist into Face": lambda w, p: w.card_commands.put_in(
        [entry(w, "Fist")], p, "Marrow/Face", copies=True
    ),
    "Duplicate Fist": lambda w, _: w.card_commands.duplicate([entry(w, "Fist")]),
    "Rename Fist": lambda w, _: w.card_commands.rename(entry(w, "Fist"), "Clenched"),
    "Note on Fist": lambda w, _: w.card_commands.set_note(entry(w, "Fist"), "knuckles"),
    "Tag Fist": lambda w, _: w.card_commands.tag([entry(w, "Fist"), tagged(w)], ["wet"], []),
    "Approve Fist": lambda w, _: w.card_commands.approve([entry(w, "Fist")], "Ines"),
    "Rename controls in Fist": lambda w, _: w.card_commands.rename_controls(
        [entry(w, "Fist"), entry(w, "Glad")], Rules((Rule("finger", "digit"),))
    ),
    "New sheet Props": lambda w, p: w.sheet_commands.make_sheet(p, "Props"),
    "Rename Hands": lambda w, p: w.sheet_commands.move_sheet(p, "Marrow/Hands", "Quill/Paws"),
    "Merge Hands": lambda w, p: w.sheet_commands.merge_sheet(p, "Marrow/Hands", "Marrow/Face"),
    "Colour of Hands": lambda w, p: w.sheet_commands.colour_sheet(p, "Marrow/Hands", "#336699"),
    "Habit of Hands": lambda w, p: w.sheet_commands.set_habit(
        p, "Marrow/Hands", Habit(("turn",), regions=("hands",))
    ),
    "Neutral card of Hands": lambda w, p: w.sheet_commands.set_neutral(
        p, "Marrow/Hands", entry(w, "Relaxed").identity
    ),
    "Order of the sheets": lambda w, p: w.sheet_commands.order_sheets(p, p.sheets[::-1]),
    "Rename Night Ferry show": lambda w, p: w.sheet_commands.rename_library(p, "Day Ferry"),
    "Who approves in Night Ferry show": lambda w, p: w.sheet_commands.set_approvers(
        p, ("Ines", w.open_libraries.who())
    ),
    "Remove Hands": lambda w, p: w.sheet_commands.remove_sheet(p, "Marrow/Hands"),
    "Order Fist": lambda w, p: w.sheet_commands.arrange(
        p,
        "Marrow/Hands",
        w.open_libraries.keys_in(p, "Marrow/Hands")[::-1],
        [w.open_libraries.key_in(entry(w, "Fist")) or 0],
    ),
}


def tagged(workspace: Workspace) -> object:
    """A card that has the tag already: it stays as it is."""
    fox = entry(workspace, "Fox")
    return replace(fox, tags=("wet",))


@pytest.mark.parametrize("label", DEEDS)
def test_each_deed_has_its_name_its_effect_and_its_way_back(
    workspace: Workspace, label: str
) -> None:
    place = workspace.open_libraries.places[0]
    told: list[FoxHandError] = []
    workspace.failed.connect(told.append)
    before, names = files(place), listed(workspace)
    DEEDS[label](workspace, place)
    assert workspace.history.undo_label == label
    after, then = files(place), listed(workspace)
    assert after != before
    workspace.history.undo()
    cards = {name for name in before if name.endswith(".foxcard")}
    assert {n for n in files(place) if n.endswith(".foxcard")} == cards
    assert listed(workspace) == names
    workspace.history.redo()
    assert set(files(place)) == set(after) and listed(workspace) == then
    assert told == []


def test_tags_are_added_once_and_taken_away(workspace: Workspace) -> None:
    commands, fist = workspace.card_commands, entry(workspace, "Fist")
    commands.tag([fist], ["wet", "tight", "wet"], [])
    assert entry(workspace, "Fist").tags == (*fist.tags, "wet", "tight")
    steps = workspace.history.undo_step
    commands.tag([entry(workspace, "Fist")], ["wet"], ["dry"])  # nothing changes: no step
    assert workspace.history.undo_step is steps
    commands.tag([entry(workspace, "Fist")], [], [*fist.tags, "wet"])
    assert entry(workspace, "Fist").tags == ("tight",)
    commands.take_out([])
    assert workspace.history.undo_label == "Tag Fist"


def test_locks_are_set_and_taken_away_where_they_are_not_yet(workspace: Workspace) -> None:
    commands = workspace.card_commands
    commands.approve([entry(workspace, "Fist"), entry(workspace, "Fox")], "Ines")
    fist = entry(workspace, "Fist")
    assert fist.locked and fist.approved_by == "Ines" and fist.approved_at
    revision = fist.revision
    commands.approve([fist, entry(workspace, "Flat")], "Mara")
    assert workspace.history.undo_label == "Approve Flat"
    assert entry(workspace, "Fist").revision == revision
    commands.unlock([entry(workspace, n) for n in ("Fist", "Point")])
    assert workspace.history.undo_label == "Unlock Fist"
    assert not entry(workspace, "Fist").locked and entry(workspace, "Fox").locked


def test_favourites_are_ones_own_and_one_step(workspace: Workspace) -> None:
    commands, personal = workspace.card_commands, workspace.open_libraries.personal
    place = workspace.open_libraries.places[0]
    cards = [entry(workspace, n) for n in ("Fist", "Fox")]
    before = files(place)
    commands.set_favourite(cards[:1], True)
    commands.set_favourite(cards, True)
    assert workspace.history.undo_label == "Favourite: 2 cards"
    assert all(personal.favourite(e.identity) for e in cards)
    assert set(place.personal.favourites) == {e.item for e in cards}
    workspace.history.undo()  # the first was one before
    assert [personal.favourite(e.identity) for e in cards] == [True, False]
    assert set(place.personal.favourites) == {cards[0].item}
    commands.set_favourite(cards[1:], False)
    assert workspace.history.undo_label == "Favourite: Fist"
    commands.set_favourite(cards, False)
    assert workspace.history.undo_label == "No favourite: 2 cards"
    assert place.personal.favourites == [] and files(place) == before


def test_a_clip_keeps_its_moving_picture_beside_one_of_its_own(
    workspace: Workspace, tmp_path: Path
) -> None:
    nod = entry(workspace, "Nod")
    moving, other = read_motion(nod.path), entry(workspace, "Fist").path
    assert moving is not None
    picture = read_picture(other, 640)
    assert picture is not None
    workspace.card_commands.set_picture(nod, picture, Square(0.0, 0.0, 1.0))
    card, _ = read_card(nod.path)
    assert card.own_picture and read_motion(nod.path) == moving
    assert workspace.history.undo_label == "Picture of Nod"
    workspace.history.undo()
    assert not read_card(nod.path)[0].own_picture


def test_files_brought_in_are_cards_of_their_own_only_where_they_are_twice(
    workspace: Workspace, tmp_path: Path
) -> None:
    place = workspace.open_libraries.places[0]
    elsewhere = Library.create(tmp_path / "other", "Other")
    foreign = elsewhere.copy_in(entry(workspace, "Fox").path, "", own=True)
    fist = entry(workspace, "Fist")
    outcomes: list[Outcome] = []
    workspace.card_commands.bring_in([foreign, fist.path], place, "New", outcomes.append)
    assert workspace.history.undo_label == "Bring in 2 cards" and len(outcomes[0].done) == 2
    new = {e.name: e for e in workspace.open_libraries.entries() if e.sheet == "New"}
    assert new["Fox"].identity == read_card(foreign)[0].identity
    assert new["Fist"].identity != fist.identity
    workspace.card_commands.bring_in([foreign], place, "New")
    assert workspace.history.undo_label == "Bring in Fox"


def test_what_does_not_work_is_told_item_by_item(workspace: Workspace) -> None:
    told: list[FoxHandError] = []
    workspace.failed.connect(told.append)
    commands = workspace.card_commands
    cards = [entry(workspace, n) for n in ("Fist", "Fox", "Flat")]
    cards[0].path.unlink()
    commands.duplicate(cards[:2])
    assert [e.code for e in told] == [told[0].code] and len(told) == 1
    cards[1].path.unlink()
    commands.duplicate(cards)
    assert told[-1].code == "tidy.some_failed"
    assert told[-1].happened.startswith("Duplicate 3 cards: 2 of 3 did not work. Fist: ")
    assert workspace.history.undo_label == "Duplicate 3 cards"
    place = workspace.open_libraries.places[0]
    place.writable = False
    commands.duplicate([entry(workspace, "Flat")])
    assert told[-1].code == "library.read_only" and "Flat was left as it is." in str(told[-1].kept)
    assert workspace.history.undo_label == "Duplicate 3 cards"  # nothing was done: no step


def test_a_row_of_deeds_can_be_stopped(workspace: Workspace) -> None:
    told: list[FoxHandError] = []
    steps: list[tuple[str, float]] = []
    workspace.failed.connect(told.append)
    jobs = workspace.file_jobs
    jobs.working.connect(lambda label, part: steps.append((label, part)))
    names = ("Fist", "Fox", "Flat", "Point")

    def stop(label: str, part: float) -> None:
        if part == 0.5:
            jobs.cancel()

    jobs.working.connect(stop)
    workspace.card_commands.duplicate([entry(workspace, n) for n in names])
    assert steps == [("Duplicate 4 cards", part) for part in (0.0, 0.25, 0.5, 1.0)]
    assert told[-1].code == "tidy.cancelled"
    assert told[-1].happened == "Duplicate 4 cards was stopped after 3 of 4."
    count = len(list(workspace.open_libraries.entries()))
    assert count == 28 + 3
    workspace.history.undo()
    assert len(list(workspace.open_libraries.entries())) == 28


def test_what_a_sheet_is_told_is_in_its_file(workspace: Workspace) -> None:
    place = workspace.open_libraries.places[0]
    assert place.library is not None
    relaxed = entry(workspace, "Relaxed").identity
    workspace.sheet_commands.colour_sheet(place, "Marrow/Hands", "#336699")
    workspace.sheet_commands.set_habit(place, "Marrow/Hands", Habit(("turn",), regions=("hands",)))
    workspace.sheet_commands.set_neutral(place, "Marrow/Hands", relaxed)
    assert place.colour("Marrow/Hands") == "#336699" and place.colour("Marrow/Face") == ""
    assert place.habit("Marrow/Hands") == Habit(("turn",), regions=("hands",))
    assert place.neutral("Marrow/Hands") == relaxed and place.neutral("Marrow/Face") == ""
    kept = read_sheet(place.library, "Marrow/Hands")
    assert (kept.colour, kept.neutral) == ("#336699", relaxed)
    keys = workspace.open_libraries.keys_in(place, "Marrow/Hands")
    workspace.sheet_commands.arrange(place, "Marrow/Hands", keys[::-1], keys[:2])
    assert workspace.history.undo_label == "Order 2 cards"
    order = [e.identity for e in workspace.open_libraries.entries_of(keys[::-1])]
    content = read_sheet(place.library, "Marrow/Hands")
    assert list(content.cards) == order and content.neutral == relaxed
    assert place.reading is not None and place.reading.hand_made == order
    workspace.sheet_commands.order_sheets(place, place.sheets[::-1])
    before = place.sheets
    workspace.history.undo()
    assert place.sheets == before[::-1]
