"""One reading of each library at a time, listed with all that takes a while."""

from __future__ import annotations

from collections.abc import Callable

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.session.libraries.open_library import OpenLibrary, Reading
from fox_hand.session.runtime.jobs import JobRunner
from fox_hand.session.runtime.listed_read import ListedRead
from fox_hand.session.runtime.long_work import LongWork

STOPPED = "library.stopped"

Then = Callable[[], None]


class LibraryReads:
    """Who is read now, and who is to be read again after that.

    Args:
        jobs: runs them.
        long_work: lists them.
        tell: is told how far a library is; 1.0 at the end.
        look: reads a library again.
    """

    def __init__(
        self,
        jobs: JobRunner,
        long_work: LongWork,
        tell: Callable[[OpenLibrary, float], None],
        look: Callable[[OpenLibrary, Then | None], None],
    ) -> None:
        self._jobs, self._long_work, self._tell, self._look = jobs, long_work, tell, look
        self._reads: dict[int, ListedRead[Reading]] = {}
        self._after: dict[int, list[Then]] = {}

    def run(
        self,
        place: OpenLibrary,
        work: Callable[[Progress], Reading],
        done: Callable[[Reading], None],
        failed: Callable[[FoxHandError], None],
    ) -> None:
        """Read in a job that says how far it is, and ends when the library is forgotten. What is
        no error of ours goes to whoever looks at faults."""

        def ended(reading: Reading) -> None:
            self._reads.pop(place.number, None)
            self._tell(place, 1.0)
            done(reading)
            asked = self._after.pop(place.number, [])
            if asked:
                self._look(place, lambda: _all(asked))

        def not_ended(error: Exception) -> None:
            self.forget(place)
            self._tell(place, 1.0)
            if not isinstance(error, FoxHandError):
                raise error
            failed(error)

        read = ListedRead(
            self._long_work,
            self._jobs,
            tr("Read {name}", name=place.name),
            work,
            ended,
            not_ended,
            progressed=lambda share, _: self._tell(place, share),
            stopped=lambda: not_ended(_stopped(place)),
            again=lambda: self._look(place, None),
        )
        if read.under_way:
            self._reads[place.number] = read

    def after(self, place: OpenLibrary, done: Then | None) -> bool:
        """Have it read once more after the reading that goes on; False where none does."""
        reading = self._reads.get(place.number)
        if reading is None or not reading.under_way:
            return False
        self._after.setdefault(place.number, []).append(done or (lambda: None))
        return True

    def forget(self, place: OpenLibrary) -> None:
        """Nobody waits for it any more."""
        reading = self._reads.pop(place.number, None)
        self._after.pop(place.number, None)
        if reading is not None and reading.under_way:
            reading.cancel()


def _all(asked: list[Then]) -> None:
    for done in asked:
        done()


def _stopped(place: OpenLibrary) -> FoxHandError:
    return FoxHandError(
        STOPPED,
        tr("Reading {name} was stopped.", name=place.name),
        tr("What is listed of it already stays."),
        tr("Look for changed cards to read the rest."),
    )
