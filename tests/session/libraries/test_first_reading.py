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
from fox_hand.session.libraries import watching
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.request import Request
from fox_hand.session.runtime.long_work import LongWork, WorkState
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


def test_a_first_reading_that_was_stopped_keeps_what_is_listed_until_it_is_asked_for_again(
    tmp_path: Path,
) -> None:
    clock = [0.0]
    work = LongWork(lambda: clock[0])
    jobs = HeldJobs()
    library = shelf(tmp_path)[2]
    open_libraries = OpenLibraries(Places.under(tmp_path / "home2"), jobs, long_work=work)
    said: list[Exception] = []
    place = open_libraries.open(library.folder, failed=said.append)
    assert work.listed == []  # most are there before anybody could read that
    clock[0] = 2.0
    (listed,) = work.listed
    assert (listed.label, work.lasting) == ("Read lib", [])  # closing does not ask about it
    listed.stop()
    listed.stop()
    jobs.release()  # its answer was under way
    assert place.problem is not None
    assert "stopped" in place.problem.sentence()
    assert said == []  # whoever stopped it knows
    open_libraries.changed.emit()
    watching._look_again(open_libraries, place)  # as when something changes on disk
    assert [job.state for job in work.jobs] == [WorkState.STOPPED]
    again = listed.again
    assert again is not None
    jobs.holds = False
    again()
    assert (place.problem, place.partial, len(place)) == (None, False, 3)
    jobs.holds = True
    open_libraries.look_again(place)
    work.going[0].stop()
    assert place.problem is None  # it is known whole, so nothing is missing


def test_a_library_that_is_taken_off_while_it_is_read_leaves_the_list(tmp_path: Path) -> None:
    jobs, work = HeldJobs(), LongWork()
    library = shelf(tmp_path)[2]
    open_libraries = OpenLibraries(Places.under(tmp_path / "home2"), jobs, long_work=work)
    open_libraries.forget(open_libraries.open(library.folder))
    assert work.jobs == []
    jobs.release()
    assert open_libraries.places == []
