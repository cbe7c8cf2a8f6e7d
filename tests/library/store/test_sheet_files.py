"""What a sheet says about itself, whoever wrote it; sheets made, moved, merged, taken away."""

from __future__ import annotations

from pathlib import Path

import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.library.format.library_file import read_library_file
from fox_hand.library.store.sheets import (
    Habit,
    Sheet,
    make_sheet,
    merge_sheets,
    move_sheet,
    order_sheets,
    read_sheet,
    remove_sheet,
    sheet_of,
    sheet_path,
    write_sheet,
)
from fox_hand.library.store.store import Library
from fox_hand.library.store.twins import keep_on_purpose, kept_on_purpose, pair_of
from tests.library.conftest import card

WHOLE = Sheet(
    "#aabb00",
    ("id1", "id2"),
    "visemes",
    Habit(("move", "turn"), False, True, "outline", False, ("hands", "arms"), ("curl",)),
    "id3",
)


def test_all_of_it_is_written_and_read_again(library: Library) -> None:
    for content in (WHOLE, Sheet(), Sheet(colour="#000000"), Sheet(habit=Habit())):
        write_sheet(library, "A sheet", content)
        found = read_sheet(library, "A sheet")
        habit = content.habit
        if habit is not None and habit.regions:
            assert found.habit is not None and set(found.habit.regions) == set(habit.regions)
            assert found.habit.left_out == habit.left_out and found.habit.kinds == habit.kinds
            assert (found.habit.settings, found.habit.own_turn) == (False, True)
            assert (found.habit.style, found.habit.ground) == ("outline", False)
        else:
            assert found.habit == habit
        assert (found.colour, found.cards, found.chart, found.neutral) == (
            content.colour,
            content.cards,
            content.chart,
            content.neutral,
        )
    assert read_sheet(library, "No sheet") == Sheet()


def test_what_is_not_understood_counts_as_not_said() -> None:
    assert sheet_of({}) == Sheet()
    assert sheet_of({"colour": "red", "cards": "a", "chart": 3, "neutral": [], "capture": 1}) == (
        Sheet()
    )
    assert sheet_of({"cards": ["a", 2, "b"], "colour": "#12345g"}).cards == ("a", "b")
    odd = {"kinds": ["turn", "spin"], "style": "oil", "regions": ["fur", "hands"], "left_out": [1]}
    assert sheet_of({"capture": odd}).habit == Habit(("turn",), regions=("hands",))
    plain = {"kinds": "turn", "settings": 0, "ground": None, "own_turn": 1, "regions": "hands"}
    assert sheet_of({"capture": plain}).habit == Habit()


@pytest.mark.parametrize("text", ["version = 2\n", "version = [", "version = 'x'\n"])
def test_a_file_of_somebody_else_is_left_as_it_is(library: Library, text: str) -> None:
    library.add(card("pose"), None, "A sheet")
    path = library.folder / "A sheet" / "sheet.toml"
    path.write_text(text)
    with pytest.raises(FoxHandError) as caught:
        write_sheet(library, "A sheet", WHOLE)
    assert caught.value.code == "sheet.foreign" and path.read_text() == text
    path.write_text("colour = '#010203'\n")  # without a version it is the first
    write_sheet(library, "A sheet", WHOLE)
    assert read_sheet(library, "A sheet").colour == "#aabb00"


def test_sheets_are_made_moved_and_taken_away_with_their_place(library: Library) -> None:
    order_sheets(library, ("B sheet", "A sheet"))
    library.add(card("pose"), None, "A sheet")
    library.add(card("inner"), None, "A sheet/Inner")
    order_sheets(library, ("B sheet", "A sheet", "A sheet/Inner", "C"))
    move_sheet(library, "A sheet", "D/E")
    assert read_library_file(library.folder).sheets == ("B sheet", "D/E", "D/E/Inner", "C")
    assert sorted(p.name for p in (library.folder / "D" / "E").rglob("*.foxcard")) == [
        "inner.foxcard",
        "pose.foxcard",
    ]
    move_sheet(library, "D/E", "D/E")  # to where it is
    make_sheet(library, "New")
    for wrong, to, code in (
        ("D", "D/F", "sheet.inside"),
        ("D", "New", "sheet.exists"),
        ("gone", "Other", "file.move"),
    ):
        order_sheets(library, ("B sheet", "gone", "D/E"))
        with pytest.raises(FoxHandError) as caught:
            move_sheet(library, wrong, to)
        assert caught.value.code == code
        # whatever was prepared for the move is as it was
        assert read_library_file(library.folder).sheets == ("B sheet", "gone", "D/E")
    for name in ("", "New"):
        with pytest.raises(FoxHandError) as caught:
            make_sheet(library, name)
        assert caught.value.code == "sheet.exists"
    order_sheets(library, ("New", "D/E"))
    write_sheet(library, "New", Sheet(colour="#000000"))
    assert remove_sheet(library, "New") and not (library.folder / "New").exists()
    assert read_library_file(library.folder).sheets == ("D/E",)
    assert not remove_sheet(library, "D/E") and not remove_sheet(library, "")
    assert read_library_file(library.folder).sheets == ("D/E",)


def test_merged_cards_lie_beside_those_that_were_there(library: Library) -> None:
    library.add(card("pose"), None, "A sheet")
    library.add(card("pose"), None, "B sheet")
    library.add(card("other"), None, "A sheet")
    moved = merge_sheets(library, "A sheet", "B sheet")
    places = {before.name: now.name for before, now in moved}
    assert places == {"other.foxcard": "other.foxcard", "pose.foxcard": "pose 2.foxcard"}
    assert sorted(p.name for p in (library.folder / "B sheet").glob("*.foxcard")) == [
        "other.foxcard",
        "pose 2.foxcard",
        "pose.foxcard",
    ]
    assert not (library.folder / "A sheet").exists()


def test_names_become_paths_that_every_system_takes() -> None:
    assert sheet_path("Hands", "Left/Open") == "Hands/Left/Open"
    assert sheet_path("", "/a//b/") == "a/b"
    assert "\\" not in sheet_path("a\\b") and ":" not in sheet_path("a:b")


def test_twins_that_are_meant_are_remembered_whichever_is_named_first(library: Library) -> None:
    assert kept_on_purpose(library) == frozenset()
    keep_on_purpose(library, "b", "a")
    keep_on_purpose(library, "c", "a")
    assert kept_on_purpose(library) == {("a", "b"), ("a", "c")} and pair_of("b", "a") == ("a", "b")
    keep_on_purpose(library, "a", "b", kept=False)
    assert kept_on_purpose(library) == {("a", "c")}
    path: Path = library.own / "twins.json"
    path.write_text("[")
    assert kept_on_purpose(library) == frozenset()
    with pytest.raises(FoxHandError) as caught:
        keep_on_purpose(library, "x", "y")
    assert caught.value.code == "twins.foreign" and path.read_text() == "["
