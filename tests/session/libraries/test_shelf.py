"""Several libraries on one shelf: which card is meant, where captures go, what lands on whom."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.base.places import Places
from fox_hand.core.model.controls import Region
from fox_hand.core.pose.pose import ChannelFilter, Pose, take
from fox_hand.core.rig.rig import Rig
from fox_hand.library.format.name_map import NameMap
from fox_hand.library.index.catalogue import Grouping
from fox_hand.library.index.query import FitFilter
from fox_hand.library.store import sheet_moves
from fox_hand.library.store.store import Library
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.open_library import OpenLibrary, in_order, not_listed
from fox_hand.session.libraries.request import Request, Result
from fox_hand.session.runtime.jobs import Jobs
from tests.bodies import Build, body_rig
from tests.core.naming.test_roles import FAMILIES
from tests.held_jobs import HeldJobs
from tests.library.conftest import card
from tests.session.conftest import entry

POSE = Pose({"wrist_l": {}, "wrist_r": {}})


def shelf(places: Places) -> OpenLibraries:
    return OpenLibraries(places, Jobs(lambda run: run(), inline=True))


def filled(folder: Path, name: str, **cards: tuple[str, ...]) -> Library:
    """A library with cards named by sheet."""
    library = Library.create(folder, name)
    for sheet, names in cards.items():
        for one in names:
            library.add(card(one), None, sheet)
    return library


def told(result: Result) -> list[tuple[str, str, int]]:
    return [(s.place.name, s.title, len(s.keys)) for s in result.sections]


@pytest.fixture
def two(places: Places, tmp_path: Path) -> tuple[OpenLibraries, OpenLibrary, OpenLibrary]:
    """Two libraries with cards of the same names."""
    filled(tmp_path / "one", "One", Body=("Wave", "Sit"), Hands=("Fist",))
    filled(tmp_path / "two", "Two", Body=("Wave",), Face=("Glad", "Sad"))
    made = shelf(places)
    return made, made.open(tmp_path / "one"), made.open(tmp_path / "two")


def test_each_card_is_found_in_its_own_library(
    two: tuple[OpenLibraries, OpenLibrary, OpenLibrary],
) -> None:
    shelves, one, other = two
    assert (one.number, other.number, one.name, other.name) == (1, 2, "One", "Two")
    assert shelves.place_at(other.folder) is other and shelves.place(2) is other
    assert shelves.place(3) is None and len(one) == 3 and len(other) == 3
    for found in shelves.entries():
        place = shelves.place_of(found)
        assert found.path.is_relative_to(place.folder)
        assert shelves.library_of(found).folder == place.folder
        key = shelves.key_in(found)
        assert key is not None and shelves.entry(key) == found == shelves.at_hand(key)
        assert shelves.entry_at(found.path) == found == shelves.by_identity(found.identity)
        assert place.item_of(found.identity) == found.item
        assert place.lists(found)
        assert not place.lists(replace(found, item=9999))
    names = [e.name for e in shelves.entries_of(shelves.keys_in(other, "Face"))]
    assert sorted(names) == ["Glad", "Sad"]
    assert shelves.keys_in(one, "Face") == []
    assert shelves.entry_at(one.folder / "no.foxcard") is None
    assert shelves.by_identity("nobody") is None
    assert one.item_of("") is None


def test_what_is_searched_is_put_under_its_library_and_sheet(
    two: tuple[OpenLibraries, OpenLibrary, OpenLibrary],
) -> None:
    shelves, one, other = two
    everything = [("One", "Body", 2), ("One", "Hands", 1), ("Two", "Body", 1), ("Two", "Face", 2)]
    assert told(shelves.find(Request())) == everything
    assert shelves.find(Request()).count == 6
    assert told(shelves.find(Request("wave"))) == [("One", "Body", 1), ("Two", "Body", 1)]
    assert told(shelves.find(Request("wave", only=other.number))) == [("Two", "Body", 1)]
    wrong = shelves.find(Request("wavd"))
    assert told(wrong) == [("One", "Body", 1), ("Two", "Body", 1)]
    assert wrong.note == "Nothing has “wavd”. These have “wave”."
    assert shelves.find(Request("zzzzzz")).sections == ()
    whole = shelves.find(Request(group=Grouping.NOTHING))
    assert [(s.title, s.sheet, len(s.keys)) for s in whole.sections] == [
        ("All cards", None, 3),
        ("All cards", None, 3),
    ]
    assert one.library is not None
    sheet_moves.make(one.library, "Empty")
    sheet_moves.make(one.library, "Quill/Body")
    shelves.look_again(one)
    titles = [s.title for s in shelves.find(Request(only=one.number)).sections]
    assert titles == ["Body", "Empty", "Hands", "Quill / Body"]
    assert [s.title for s in shelves.find(Request("fist", only=1)).sections] == ["Hands"]


def test_captures_go_where_it_was_said_else_where_somebody_may_write(
    two: tuple[OpenLibraries, OpenLibrary, OpenLibrary],
) -> None:
    shelves, one, other = two
    assert shelves.target is one
    one.writable = False
    assert shelves.target is other
    other.writable = False
    assert shelves.target is one  # so that it can be said why not
    shelves.target_number = other.number
    assert shelves.target is other
    shelves.forget(other)
    shelves.forget(one)
    assert shelves.target is None


def test_of_a_forgotten_library_nothing_is_left(
    two: tuple[OpenLibraries, OpenLibrary, OpenLibrary],
) -> None:
    shelves, one, other = two
    found = next(e for e in shelves.entries() if e.path.is_relative_to(one.folder))
    kept = next(e for e in shelves.entries() if e.path.is_relative_to(other.folder))
    key, other_key = shelves.key_in(found), shelves.key_in(kept)
    changes: list[int] = []
    shelves.changed.connect(lambda: changes.append(1))
    shelves.forget(one)
    assert changes and shelves.places == [other]
    assert key is not None and other_key is not None
    assert shelves.at_hand(key) is None and shelves.at_hand(other_key) == kept
    assert shelves.entry(key) is None and shelves.key_in(found) is None
    with pytest.raises(FoxHandError) as caught:
        shelves.place_of(found)
    assert caught.value.code == "library.closed"
    assert found.path.exists()
    again = shelves.open(one.folder)
    assert again.number == 3  # keys of before lead nowhere


def test_a_library_that_is_away_is_told_once_and_what_it_holds_stays(
    two: tuple[OpenLibraries, OpenLibrary, OpenLibrary], places: Places
) -> None:
    shelves, one, other = two
    changes: list[int] = []
    shelves.changed.connect(lambda: changes.append(1))
    away = one.folder.rename(one.folder.with_name("away"))
    shelves.look_again(one)
    assert one.problem is not None and not one.ready and other.ready
    said = len(changes)
    assert said == 1
    shelves.look_again(one)
    assert len(changes) == said
    assert told(shelves.find(Request("fist"))) == [("One", "Hands", 1)]
    fist = next(e for e in shelves.entries() if e.name == "Fist")
    with pytest.raises(FoxHandError) as caught:
        shelves.library_of(fist)
    assert caught.value.code == one.problem.code
    # and for one who starts now
    later = shelf(places)
    problems: list[Exception] = []
    place = later.open(one.folder, failed=problems.append)
    assert [type(p) for p in problems] == [FoxHandError] and place.problem is not None
    assert told(later.find(Request("fist"))) == [(place.name, "Hands", 1)]
    away.rename(one.folder)
    shelves.look_again(one)
    assert one.problem is None and one.ready


def test_what_was_asked_of_a_library_that_went_meanwhile_is_not_shown(
    places: Places, tmp_path: Path
) -> None:
    filled(tmp_path / "one", "One", Body=("Wave",))
    jobs = HeldJobs()
    shelves = OpenLibraries(places, jobs)
    place = shelves.open(tmp_path / "one")
    assert not place.ready and shelves.find(Request()).sections == ()
    assert shelves.add(tmp_path / "one") is place and len(shelves.places) == 1
    shelves.forget(place)
    jobs.release()
    assert place.reading is None and shelves.places == []


def test_changed_files_are_seen_and_older_answers_are_not(places: Places, tmp_path: Path) -> None:
    library = filled(tmp_path / "one", "One", Body=("Wave",))
    jobs = HeldJobs(holds=False)
    shelves = OpenLibraries(places, jobs)
    place = shelves.open(library.folder)
    jobs.holds = True
    first = library.add(card("First"), None, "Body")
    shelves.look(place, [first])
    second = library.add(card("Second"), None, "Hands")
    shelves.look(place, [second])
    shelves.look(place, [])  # asks nobody
    assert len(jobs.held) == 2
    jobs.release(1)
    assert {e.name for e in shelves.entries()} >= {"Second", "Wave"}
    jobs.release(0)
    assert {e.name for e in shelves.entries()} == {"First", "Second", "Wave"}
    assert place.sheets == ("Body", "Hands")
    keys = [k for section in shelves.find(Request()).sections for k in section.keys.tolist()]
    shelves._entries.clear()
    done: list[int] = []
    shelves.fetch_later(keys, lambda: done.append(len(keys)))
    assert all(shelves.at_hand(key) is None for key in keys)
    jobs.release(2)
    assert done == [3] and all(shelves.at_hand(key) is not None for key in keys)


def test_sheets_keep_their_order_and_strangers_come_after(tmp_path: Path) -> None:
    library = Library.create(tmp_path / "one", "One", ("Legs", "Arms"))
    found = in_order(library, {"Arms", "Legs", "Part 10", "Part 9", ""})
    assert found == ("Legs", "Arms", "Part 9", "Part 10")
    alone = not_listed("One", {"B": "no right"})
    assert alone.happened == "The sheet B in One cannot be listed (no right)."
    more = not_listed("One", {"B": "no right", "A": "gone", "C": "gone"})
    assert more.happened == "The sheet A and 2 more in One cannot be listed (gone)."


def test_what_lands_on_whom_is_known_with_what_was_said_of_names(workspace: Workspace) -> None:
    actor, place = workspace.actor, workspace.open_libraries.places[0]
    assert actor is not None and place.reading is not None
    fist = entry(workspace, "Fist")
    held = place.controls_of(fist.shape)
    assert place.lands(fist.shape, actor.rig) == (len(held), len(held))
    assert place.missing(fist.shape, actor.rig) == ()
    landing = place.landing(actor.rig)
    used = {e.shape for e in workspace.open_libraries.entries()}
    assert landing is not None and {landing[shape] for shape in used} == {FitFilter.ALL}
    assert set(place.controls_in(fist.sheet)) >= set(held)
    assert place.controls_in("No such sheet") == frozenset()
    # the same body under other names, of which only the hand has a role
    names = {c.name: f"zz {n:03} {c.kind}" for n, c in enumerate(actor.rig.controls)}
    controls = tuple(
        replace(c, name=names[c.name], role=c.role if c.name == "hand_L" else None)
        for c in actor.rig.controls
    )
    other = replace(actor.rig, name="Other", controls=controls)
    assert place.landing(None) is None
    fingers = [name for name in held if name != "hand_L"]
    assert place.lands(fist.shape, other) == (1, len(held))
    assert set(place.missing(fist.shape, other)) == set(fingers)
    assert (place.landing(other) or {})[fist.shape] is FitFilter.SOME
    half = {name: names[name] for name in fingers[::2]}
    place.know_names(NameMap(fist.character, "Other", names=half))
    assert place.lands(fist.shape, other) == (1 + len(half), len(held))
    assert place.lands(fist.shape, other, "Somebody else") == (1, len(held))
    place.know_names(NameMap(fist.character, "Other", names=names))
    assert (place.landing(other) or {})[fist.shape] is FitFilter.ALL
    curls = [s.name for s in other.settings]
    place.know_names(NameMap(fist.character, "Other", names=dict.fromkeys((*held, *curls))))
    assert (place.landing(other) or {})[fist.shape] is FitFilter.NONE


def test_roles_that_cards_hold_count_where_names_say_nothing(
    places: Places, tmp_path: Path, marrow: Rig
) -> None:
    names = {role: f"b{n:02}" for n, role in enumerate(FAMILIES["up leg"])}
    rig = body_rig(Build(), names)
    controls = tuple(
        replace(c, role=role, role_sure=1.0) for c, role in zip(rig.controls, names, strict=True)
    )
    held = take(
        replace(rig, controls=controls), rig.rest, ChannelFilter.of(rig, range(len(controls)))
    )
    library = Library.create(tmp_path / "one", "One")
    library.add(replace(card("Wave"), pose=held, fingerprint=rig.fingerprint), None, "Body")
    place = shelf(places).open(tmp_path / "one")
    (shape,) = place.shapes
    assert place.lands(shape, marrow) == (len(names), len(names))


def test_a_new_card_goes_where_its_like_lies(workspace: Workspace) -> None:
    place = workspace.open_libraries.places[0]
    usual = {region: place.usual_sheet(region) for region in Region}
    assert usual[Region.HANDS] == "Marrow/Hands" and usual[Region.TORSO] == "Marrow/Body"
    # faces lie together, whatever part of them most cards are of
    assert {usual[r] for r in (Region.HEAD, Region.EYES, Region.MOUTH)} == {"Marrow/Face"}
    assert usual[Region.WINGS] == place.sheets[0] != place.sheets[-1]  # nothing is like it
    assert OpenLibrary(9, place.folder, "unread").usual_sheet(Region.HANDS) == ""
