"""Two windows of one person on one stage: each keeps its unsaved work in a place of its own.

The first window on a stage has the first seat, and so on. A seat belongs to the process: what a
window that was killed had not saved is found by the next that sits down there.
"""

from __future__ import annotations

import contextlib
import itertools
from collections.abc import Iterator

from filelock import FileLock, Timeout

from fox_hand.base.places import Places


class Seats:
    """The seat of this window.

    Args:
        places: the user's folders.
    """

    def __init__(self, places: Places) -> None:
        self._folder = places.state / "casts"
        self._taken: tuple[str, FileLock] | None = None

    def free(self, stage: str) -> str:
        """The word under which this window would keep unsaved work of a stage."""
        for seat in _seats(stage):
            if self._taken is not None and self._taken[0] == seat:
                return seat
            lock = self._locked(seat)
            if lock is not None:
                lock.release()
                return seat
        raise AssertionError("there is no end of seats")

    def take(self, stage: str) -> str:
        """Sit down, and leave the seat one had."""
        if self._taken is not None and self._taken[0] in itertools.islice(_seats(stage), 99):
            return self._taken[0]
        self.leave()
        for seat in _seats(stage):
            lock = self._locked(seat)
            if lock is not None:
                self._taken = seat, lock
                return seat
        raise AssertionError("there is no end of seats")

    def leave(self) -> None:
        """Others may sit here."""
        if self._taken is not None:
            self._taken[1].release()
            self._taken = None

    def forsaken(self, stage: str) -> int:
        """How many other seats hold unsaved work that nobody sits at."""
        count = 0
        own = self._taken[0] if self._taken is not None else stage
        for seat in itertools.islice(_seats(stage), 9):
            if seat != own and (self._folder / f"{seat}.json").is_file():
                lock = self._locked(seat)
                if lock is not None:
                    lock.release()
                    count += 1
        return count

    def _locked(self, seat: str) -> FileLock | None:
        """The lock of a free seat. Where none can be made nothing can be kept either, so anybody
        may sit there."""
        lock = FileLock(self._folder / f"{seat}.lock", timeout=0, thread_local=False)
        with contextlib.suppress(OSError):
            self._folder.mkdir(parents=True, exist_ok=True)
            try:
                lock.acquire()
            except Timeout:
                return None
        return lock


def _seats(stage: str) -> Iterator[str]:
    yield stage
    for number in itertools.count(2):
        yield f"{stage}~{number}"
