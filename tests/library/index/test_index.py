"""Finding cards: the index follows the files, and words and filters find what they should."""

from __future__ import annotations

import os
import sqlite3
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from fox_hand.base.places import Places
from fox_hand.core.maths.rotations import from_vector
from fox_hand.core.model.controls import Region
from fox_hand.core.pose.pose import Held, Pose
from fox_hand.core.pose.similarity import likeness
from fox_hand.core.rig.rig import Rig
from fox_hand.library.format.container import card_bytes, changed_bytes, read_card
from fox_hand.library.index.alike import AlikeFinder, numbers_of
from fox_hand.library.index.catalogue import Grouping, Sort
from fox_hand.library.index.index import Index
from fox_hand.library.index.query import parse
from fox_hand.library.index.scan import look_at, scan
from fox_hand.library.store.store import Library
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.session.libraries.request import Request
from fox_hand.session.runtime.jobs import Jobs
from tests.library.conftest import card


@pytest.fixture
def open_libraries(places: Places) -> OpenLibraries:
    return OpenLibraries(places, Jobs(lambda run: run(), inline=True))


def filled(library: Library) -> None:
    """Cards as people make them."""
    left = {"region": Region.HANDS, "side": "left"}
    for sheet, made in (
        ("Marrow/Hands", card("Fist 2", tags=("grip", "deck"), note="Held close.", **left)),
        ("Marrow/Hands", card("fist 10", author="Ines B.", **left)),
        ("Marrow/Hands", card("Flat", region=Region.HANDS, side="both", author="Tomas R.")),
        ("Marrow/Face", card("Glad", region=Region.EYES, tags=("Überraschung",))),
        ("Pim/Hands", card("Fist 1", region=Region.HANDS, side="right")),
        ("", card("Crouch", region=Region.LEGS, approved_by="Ines B.")),
    ):
        library.add(made, None, sheet)


def found(open_libraries: OpenLibraries, text: str, **more: object) -> list[str]:
    return [e.name for e in open_libraries.entries(open_libraries.find(Request(text, **more)))]


@pytest.mark.parametrize(
    ("text", "names"),
    [
        ("fis", ["Fist 2", "fist 10", "Fist 1"]),
        ("marrow fist clo", ["Fist 2"]),
        ("FIST deck", ["Fist 2"]),
        ("uberr", ["Glad"]),
        ("qzx", []),
        ("by:ines", ["fist 10"]),
        ("tag:grip", ["Fist 2"]),
        ("sheet:hands by:tom", ["Flat"]),
        ("region:hands side:right", ["Flat", "Fist 1"]),
        ("region:face", ["Glad"]),
        ("region:body", ["Crouch"]),
        ("region:eyes side:left", []),
        ("new:today", ["Crouch", "Glad", "Fist 2", "fist 10", "Flat", "Fist 1"]),
        ('"held close"', ["Fist 2"]),
        ("fist*) OR (name:x", []),
        ("region:", ["Crouch", "Glad", "Fist 2", "fist 10", "Flat", "Fist 1"]),
    ],
)
def test_words_and_filters_find_cards(
    library: Library, open_libraries: OpenLibraries, text: str, names: list[str]
) -> None:
    filled(library)
    open_libraries.open(library.folder)
    assert found(open_libraries, text) == names


def test_spelling_is_forgiven_when_nothing_matches(
    library: Library, open_libraries: OpenLibraries
) -> None:
    filled(library)
    open_libraries.open(library.folder)
    result = open_libraries.find(Request("crowch"))
    assert [e.name for e in open_libraries.entries(result)] == ["Crouch"]
    assert result.note == "Nothing has “crowch”. These have “crouch”."
    assert open_libraries.find(Request("zzzzzz")).count == 0
    assert "knows" in open_libraries.find(Request("region:moon")).note


def test_order_groups_and_several_libraries(
    library: Library, open_libraries: OpenLibraries, tmp_path: Path
) -> None:
    filled(library)
    other = Library.create(tmp_path / "own", "Own")
    other.add(card("Glad own", region=Region.EYES), None, "Faces")
    first, second = open_libraries.open(library.folder), open_libraries.open(other.folder)
    titles = [s.title for s in open_libraries.find(Request()).sections]
    assert titles == [
        "Loose cards",
        "Marrow / Face",
        "Marrow / Hands",
        "Pim / Hands",
        "Faces",
    ]
    assert found(open_libraries, "glad") == ["Glad", "Glad own"]
    assert found(open_libraries, "glad", only=second.number) == ["Glad own"]
    open_libraries.personal.put_on(
        next(e for e in open_libraries.entries() if e.name == "Flat").identity
    )
    open_libraries.personal_changed()
    used = found(open_libraries, "region:hands", sort=Sort.USED, group=Grouping.NOTHING)
    assert used[0] == "Flat"
    dates = {"Glad": "2026-03-01", "Flat": "2026-05-01", "Crouch": "2026-01-01"}
    for entry in list(open_libraries.entries()):
        if entry.name in dates:
            at = f"{dates[entry.name]}T10:00:00Z"
            data = changed_bytes(entry.path, replace(read_card(entry.path)[0], changed=at))
            entry.path.write_bytes(data)
    open_libraries.look_again(first)
    newest = found(open_libraries, "", sort=Sort.NEWEST, group=Grouping.NOTHING)
    old = [name for name in newest if name in dates]
    assert old == ["Flat", "Glad", "Crouch"]
    regions = open_libraries.find(Request(group=Grouping.REGION, only=first.number)).sections
    assert [s.title for s in regions] == ["Eyes", "Hands", "Legs"]
    open_libraries.forget(second)
    assert found(open_libraries, "glad") == ["Glad"]
    assert (other.folder / "Faces").is_dir()


def test_only_what_changed_is_read_again_and_all_can_be_made_anew(
    library: Library, tmp_path: Path
) -> None:
    filled(library)
    index = Index.of(library.folder, tmp_path / "cache")
    assert scan(index).read == 6
    assert not scan(index)
    items = {e.identity: e.item for e in index.entries(index.columns().items.tolist()).values()}
    path = next((library.folder / "Marrow" / "Hands").glob("Flat*"))
    os.utime(path, ns=(1, 1))
    (library.folder / "Marrow" / "Face").rename(library.folder / "Marrow" / "Faces")
    (library.folder / "Crouch.foxcard").unlink()
    changes = scan(index)
    assert (changes.read, changes.gone) == (2, 2)
    assert look_at(index, [path]) == 0
    path.write_bytes(b"no card")
    assert look_at(index, [path]) == 1
    after = index.entries(index.columns().items.tolist())
    assert [e.name for e in after.values() if not e.readable] == ["Flat"]
    assert index.matching(parse("flat").text).tolist() == [
        next(i for i, e in after.items() if e.name == "Flat")
    ]
    assert index.made_anew
    index.close()
    anew = Index.of(library.folder, tmp_path / "cache")
    assert not anew.made_anew and not scan(anew)
    anew.throw_away()
    assert anew.made_anew
    assert scan(anew).read == 5
    assert len(items) == 6


@pytest.mark.parametrize("kind", ["garbage", "older", "gone"])
def test_an_index_that_cannot_be_used_is_made_anew(
    library: Library, tmp_path: Path, kind: str
) -> None:
    filled(library)
    index = Index.of(library.folder, tmp_path / "cache")
    scan(index)
    index.close()
    if kind == "garbage":
        index.file.write_bytes(b"not a database" * 1000)
    elif kind == "gone":
        index.file.unlink()
    else:
        database = sqlite3.connect(index.file)
        database.execute("PRAGMA user_version = 0")
        database.close()
    again = Index.of(library.folder, tmp_path / "cache")
    assert again.made_anew
    assert scan(again).read == 6
    again.close()


def test_a_library_that_is_away_is_remembered_and_comes_back(
    library: Library, open_libraries: OpenLibraries, places: Places
) -> None:
    filled(library)
    open_libraries.open(library.folder)
    later = OpenLibraries(places, Jobs(lambda run: run(), inline=True))
    away = library.folder.with_name("away")
    library.folder.rename(away)
    place = later.open(library.folder)
    assert place.problem is not None
    assert "comes back by itself" in place.problem.sentence()
    assert found(later, "fist 2") == ["Fist 2"]  # as remembered
    away.rename(library.folder)
    later.look_again(place)
    assert place.problem is None
    assert place.name == "Ferry"
    open_libraries.look_again(open_libraries.places[0])


def test_likeness_is_the_share_of_the_way_that_poses_have_in_common(
    library: Library, tmp_path: Path
) -> None:
    """Against the definition, computed one by one."""
    rng = np.random.default_rng(3)

    def pose(scale: float) -> Pose:
        turns = from_vector(base + rng.normal(0, scale, base.shape))
        return Pose({f"c{i}": Held(turn=tuple(q)) for i, q in enumerate(turns.tolist())})

    base = rng.normal(0, 0.6, (12, 3))
    poses = [pose(s) for s in np.linspace(0, 0.5, 40)]
    for number, one in enumerate(poses):
        path = library.sheet_folder("A") / f"{number:02}.foxcard"
        path.write_bytes(card_bytes(card(f"{number:02}", pose=one), None))
    index = Index.of(library.folder, tmp_path / "cache")
    scan(index)
    names = {item: e.name for item, e in index.entries(index.columns().items.tolist()).items()}
    nearest = AlikeFinder(index).nearest(numbers_of(poses[0]), 5)
    exact = sorted(range(40), key=lambda i: -likeness(numbers_of(poses[0]), numbers_of(poses[i])))
    assert [names[n.item] for n in nearest] == [f"{i:02}" for i in exact[:5]]
    assert nearest[0].share == pytest.approx(1.0, abs=1e-3)  # poses are kept in single precision
    twins = AlikeFinder(index).twins(0.9)
    pairs = {
        tuple(sorted((i, j)))
        for i in range(40)
        for j in range(i)
        if likeness(numbers_of(poses[i]), numbers_of(poses[j])) >= 0.9
    }
    assert {tuple(sorted((int(names[a]), int(names[b])))) for a, b, _ in twins} == pairs


def test_what_fits_a_character_is_found(
    open_libraries: OpenLibraries, library: Library, marrow: Rig
) -> None:
    held = Held(turn=(0.0, 0.0, 0.0, 1.0))
    library.add(card("all", pose=Pose({"jaw": held, "head": held})), None, "A sheet")
    library.add(card("some", pose=Pose({"jaw": held, "tail": held})), None, "A sheet")
    library.add(card("none", pose=Pose({"tail": held})), None, "A sheet")
    place: OpenLibrary = open_libraries.open(library.folder)
    for text, names in (
        ("fits:all", ["all"]),
        ("fits:some", ["all", "some"]),
        ("fits:none", ["none"]),
    ):
        result = open_libraries.find(Request(text), marrow)
        assert [e.name for e in open_libraries.entries(result)] == names
    some = next(e for e in open_libraries.entries() if e.name == "some")
    assert place.lands(some.shape, marrow) == (1, 2)
    assert place.missing(some.shape, marrow) == ("tail",)


def test_a_number_is_never_given_to_another_card(library: Library, places: Places) -> None:
    gone = library.add(card("Fist"), None, "Hands")
    open_libraries = OpenLibraries(places, Jobs(lambda run: run(), inline=True))
    place = open_libraries.open(library.folder)
    open_libraries.look_again(place)
    ticked = open_libraries.find(Request()).sections[0].keys.tolist()
    gone.unlink()
    library.add(card("Flat"), None, "Hands")
    open_libraries.look_again(place)
    assert found(open_libraries, "flat") == ["Flat"]
    assert [open_libraries.entry(key) for key in ticked] == [None]


def test_an_index_thrown_away_under_a_reading_lets_it_end(library: Library, tmp_path: Path) -> None:
    filled(library)
    index = Index.of(library.folder, tmp_path / "cache")
    scan(index)
    with index.lent() as reader:
        rows = reader.execute("SELECT name FROM card ORDER BY id")
        first = rows.fetchone()
        with ThreadPoolExecutor(1) as other:
            other.submit(index.throw_away).result()
            assert other.submit(lambda: len(index.columns().items)).result() == 0
        assert len([first, *rows]) == 6  # the reading ends in the file it began in
        assert not len(index.columns().items)  # one that begins now is of the new file
    with pytest.raises(sqlite3.ProgrammingError, match="closed"):
        reader.execute("SELECT 1")  # nothing is left open of what was thrown away
    scan(index)
    with index.lent() as reader:
        index.close()
        assert reader.execute("SELECT count(*) FROM card").fetchone() == (6,)
    with pytest.raises(sqlite3.ProgrammingError, match="closed"):
        reader.execute("SELECT 1")


def test_a_list_is_of_one_moment_though_others_write_meanwhile(
    library: Library, tmp_path: Path
) -> None:
    filled(library)
    index = Index.of(library.folder, tmp_path / "cache")
    scan(index)
    late = library.add(card("Late"), None, "A new sheet")
    with index.lent() as reader, ThreadPoolExecutor(1) as other:

        def asked(query: str) -> None:
            if "ORDER BY ordered" in query:  # nothing that was asked before may be older
                other.submit(look_at, index, [late]).result()

        reader.set_trace_callback(asked)
        columns = index.columns()
        reader.set_trace_callback(None)
    assert (len(columns.items), "A new sheet" in columns.sheet_names) == (7, True)
    again = index.columns()
    assert (len(again.items), "A new sheet" in again.sheet_names) == (7, True)
