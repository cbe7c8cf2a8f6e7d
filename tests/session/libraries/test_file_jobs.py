"""Files are changed beside the window; undo may come before they are."""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.places import Places
from fox_hand.library.store import moves
from fox_hand.library.store.moves import Done
from fox_hand.library.store.store import Library
from fox_hand.session.libraries.file_jobs import FileJobs
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.runtime.history import History
from fox_hand.session.runtime.jobs import Jobs
from tests.library.conftest import card


def test_what_is_undone_early_is_undone_when_it_is_there(tmp_path: Path, places: Places) -> None:
    library = Library.create(tmp_path / "poses", "Poses")
    fist = library.add(card("Fist"), None, "Hands")
    posts: queue.Queue[Callable[[], None]] = queue.Queue()
    history, jobs = History(), Jobs(posts.put, threads=1)
    file_jobs = FileJobs(OpenLibraries(places, Jobs(posts.put, inline=True)), history, jobs)
    may_begin = threading.Event()

    def rename() -> Done:
        may_begin.wait(20)
        return moves.rename(library, fist, "Clenched")

    def refuse() -> Done:
        raise FoxHandError("test.no", "No.", "", "")

    told: list[str] = []
    file_jobs.failed.connect(lambda error: told.append(error.code))
    file_jobs.do("Rename Fist", [("Fist", rename)])
    file_jobs.do("Refused", [("Fist", refuse)])
    assert history.undo_label == "Refused"
    history.undo()
    assert history.undo_label == "Rename Fist"
    history.undo()
    history.redo()
    history.undo()
    may_begin.set()
    ended: list[bool] = []
    jobs.run(lambda _: True, ended.append, lambda _: None)
    while not ended:
        posts.get(timeout=20)()
    assert told == ["test.no"]
    assert fist.is_file()
    assert [p.name for p in fist.parent.glob("*.foxcard")] == ["Fist.foxcard"]
    assert history.redo_label == "Rename Fist"
    history.redo()
    assert history.redo_label is None  # nothing was done of the other


def test_an_undo_that_does_not_work_stays_and_works_when_there_is_room(
    tmp_path: Path, places: Places
) -> None:
    """As on a full disk: some files can be turned back, others not yet."""
    library = Library.create(tmp_path / "poses", "Poses")
    names = ("Fist", "Flat", "Point")
    paths = {name: library.add(card(name), None, "Hands") for name in names}
    history, jobs = History(), Jobs(lambda run: run(), inline=True)
    file_jobs = FileJobs(OpenLibraries(places, jobs), history, jobs)
    told: list[str] = []
    file_jobs.failed.connect(lambda error: told.append(error.code))
    full: set[str] = set()

    def renamed(name: str, to: str) -> Done:
        if name in full:
            raise FoxHandError("file.write", "There is no room.", "It is as it was.", "")
        done = moves.rename(library, library.folder / "Hands" / f"{name}.foxcard", to)
        return Done(library, done.touched, lambda: renamed(to, name), done.path)

    def there() -> list[str]:
        return sorted(p.stem for p in paths["Fist"].parent.glob("*.foxcard"))

    file_jobs.do("Rename", [(n, lambda n=n: renamed(n, f"{n} 2")) for n in names])
    assert there() == ["Fist 2", "Flat 2", "Point 2"]
    full.update(("Flat 2", "Point 2"))
    history.undo()
    assert told == ["tidy.some_failed"]
    assert there() == ["Fist", "Flat 2", "Point 2"]
    assert (history.undo_label, history.redo_label) == ("Rename", None)
    full.discard("Point 2")
    history.undo()
    assert there() == ["Fist", "Flat 2", "Point"]
    assert history.undo_label == "Rename"
    full.clear()
    history.undo()
    assert there() == ["Fist", "Flat", "Point"]
    assert (history.undo_label, history.redo_label) == (None, "Rename")
    full.add("Fist")
    history.redo()
    assert there() == ["Fist", "Flat 2", "Point 2"]
    assert history.redo_label == "Rename"
    full.clear()
    history.redo()
    assert there() == ["Fist 2", "Flat 2", "Point 2"]
    history.undo()
    assert there() == ["Fist", "Flat", "Point"]
