"""What counts as new: what others have made or changed since one's last visit."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from fox_hand.base.places import Places
from fox_hand.library.format.container import changed_bytes, read_card
from fox_hand.library.store.store import Library
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.runtime.jobs import Jobs
from tests.library.conftest import card

BEFORE, VISIT, AFTER = (f"2026-0{month}-01T10:00:00Z" for month in (1, 3, 5))


def changed(path: Path, at: str, by: str) -> None:
    path.write_bytes(changed_bytes(path, replace(read_card(path)[0], changed=at, changed_by=by)))


def test_only_what_somebody_else_did_since_the_last_visit_is_new(
    places: Places, tmp_path: Path
) -> None:
    library = Library.create(tmp_path / "shared", "Shared")
    for name, author, at, by in (
        ("theirs, old", "Ines", BEFORE, "Ines"),
        ("theirs, new", "Ines", AFTER, "Ines"),
        ("mine", "Me", AFTER, "Me"),
        ("theirs, changed by me", "Ines", AFTER, "Me"),
        ("mine, changed by them", "Me", AFTER, "Ines"),
    ):
        changed(library.add(card(name, author=author), None, "Body"), at, by)
    open_libraries = OpenLibraries(places, Jobs(lambda run: run(), inline=True))
    place = open_libraries.open(library.folder)
    open_libraries.visited_before[place.number] = VISIT
    new = {e.name for e in open_libraries.entries() if open_libraries.is_new(e, place, "Me")}
    assert new == {"theirs, new", "mine, changed by them"}
    open_libraries.visited_before[place.number] = ""  # a first visit: nothing is new
    assert not any(open_libraries.is_new(e, place, "Me") for e in open_libraries.entries())
