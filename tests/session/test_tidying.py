"""Files are changed beside the window; undo may come before they are."""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.places import Places
from fox_hand.library import moves
from fox_hand.library.moves import Done
from fox_hand.library.store import Library
from fox_hand.session.history import History
from fox_hand.session.jobs import Jobs
from fox_hand.session.shelf import Shelf
from fox_hand.session.tidying import Tidying
from tests.library.conftest import card


def test_what_is_undone_early_is_undone_when_it_is_there(tmp_path: Path, places: Places) -> None:
    library = Library.create(tmp_path / "poses", "Poses")
    fist = library.add(card("Fist"), None, "Hands")
    posts: queue.Queue[Callable[[], None]] = queue.Queue()
    history, jobs = History(), Jobs(posts.put, threads=1)
    tidying = Tidying(Shelf(places, Jobs(posts.put, inline=True)), history, jobs)
    may_begin = threading.Event()

    def rename() -> Done:
        may_begin.wait(20)
        return moves.rename(library, fist, "Clenched")

    def refuse() -> Done:
        raise FoxHandError("test.no", "No.", "", "")

    told: list[str] = []
    tidying.told.connect(lambda error: told.append(error.code))
    tidying.do("Rename Fist", [("Fist", rename)])
    tidying.do("Refused", [("Fist", refuse)])
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
