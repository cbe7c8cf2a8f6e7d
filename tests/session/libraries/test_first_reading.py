"""A library is read for the first time: what is listed so far shows, and nothing waits for it."""

from __future__ import annotations

from pathlib import Path

import pytest

from fox_hand.base.places import Places
from fox_hand.core.pose.pose import Pose
from fox_hand.library.format.card import Card
from fox_hand.library.index import scan
from fox_hand.library.store.store import Library
from fox_hand.session.libraries import open_libraries as module
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.request import Request
from tests.held_jobs import HeldJobs


def shelf(tmp_path: Path) -> tuple[OpenLibraries, HeldJobs, Library]:
    library = Library.create(tmp_path / "lib", "Ferry")
    for number in range(3):
        library.add(Card(f"Pose {number}", Pose({})), None, "Body")
    jobs = HeldJobs()
    return OpenLibraries(Places.under(tmp_path / "home"), jobs), jobs, library


def test_what_is_listed_so_far_can_be_found_while_the_reading_goes_on(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(scan, "TOGETHER", 1)
    monkeypatch.setattr(module, "SO_FAR", 0.0)
    open_libraries, jobs, library = shelf(tmp_path)
    place = open_libraries.open(library.folder)
    seen: list[tuple[int, bool, int]] = []

    def look() -> None:
        found = open_libraries.find(Request(text="Pose")).sections
        seen.append((len(place), place.partial, sum(len(section.keys) for section in found)))

    open_libraries.changed.connect(look)
    jobs.holds = False  # readings of what is there so far are done at once
    jobs.release(0)
    assert seen[:-1] == [(count, True, count) for count in (0, 1, 2)]
    assert seen[-1] == (3, False, 3)


def test_looks_that_are_asked_for_meanwhile_become_one_afterwards(tmp_path: Path) -> None:
    open_libraries, jobs, library = shelf(tmp_path)
    place = open_libraries.open(library.folder)
    ended: list[str] = []
    for name in ("a colleague", "F5", "Care"):
        open_libraries.look_again(place, lambda n=name: ended.append(n))
    assert len(jobs.held) == 1  # none of them takes a thread that would only wait
    library.add(Card("Late", Pose({})), None, "Body")
    jobs.release(0)
    assert ended == []
    jobs.release(*range(1, len(jobs.held)))
    assert ended == ["a colleague", "F5", "Care"]
    assert len(place) == 4
    count = len(jobs.held)
    open_libraries.look_again(place)
    open_libraries.forget(place)
    jobs.release(count)
    assert len(jobs.held) == count + 1  # nobody looks for a library that is not open any more
