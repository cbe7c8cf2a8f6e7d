"""Cards into libraries; what cannot be written now waits on this machine and is written later."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial

from psygnal import Signal

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.places import Places
from fox_hand.base.work import Progress
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import card_bytes
from fox_hand.library.format.entry import Entry
from fox_hand.library.store import moves
from fox_hand.library.store.conflicts import set_aside
from fox_hand.library.store.moves import Done
from fox_hand.library.store.outbox import Delivery, Outbox, Waiting
from fox_hand.library.store.store import CardChangedError, Library, now
from fox_hand.session.libraries.file_jobs import FileJobs, Outcome, Task
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.session.runtime.jobs import JobRunner

WAITS = frozenset(
    {
        "file.write",
        "file.move",
        "library.unreachable",
        "library.missing",
        "library.away",
        "library.busy",
    }
)
Pictures = Callable[[], tuple[bytes | None, ...]]
Drawn = tuple[bytes | None, ...]


@dataclass(frozen=True)
class Wanted:
    """A card to be stored.

    Args:
        card: what it holds.
        pictures: draws it at 320 and 640 px, and of a clip the moving one; called in the job.
        sheet: where a new card goes.
        over: the card it replaces; None for a new one.
    """

    card: Card
    pictures: Pictures
    sheet: str = ""
    over: Entry | None = None


class Storing:
    """Stores cards. A card is in its library, or waits, or the person was told why not.

    Args:
        places: the user's folders; what waits lies below the state folder.
        shelf, file_jobs: the libraries, and what works through their files.
        files: does its work in order.
    """

    told = Signal(str)

    def __init__(
        self, places: Places, open_libraries: OpenLibraries, file_jobs: FileJobs, files: JobRunner
    ) -> None:
        self.outbox = Outbox(places.state / "outbox")
        self._open_libraries, self._file_jobs, self._files = open_libraries, file_jobs, files
        self._delivering = False
        open_libraries.came_back.connect(self.deliver)
        open_libraries.changed.connect(self._count)

    def store(
        self,
        label: str,
        place: OpenLibrary,
        wanted: Sequence[Wanted],
        then: Callable[[Outcome], None] | None = None,
    ) -> None:
        """Write cards; one undo step. Those that cannot be written now wait, which counts as a
        failure with the code ``outbox.waiting``."""
        later = [(one.card.name, partial(_given, one)) for one in wanted]
        self.store_later(label, place, later, then)

    def store_later(
        self,
        label: str,
        place: OpenLibrary,
        wanted: Sequence[tuple[str, Callable[[], Wanted]]],
        then: Callable[[Outcome], None] | None = None,
    ) -> None:
        """The same for cards that take time to make: each, with its name, is made in the job."""

        def stored(make: Callable[[], Wanted]) -> Done:
            return self._stored(place, make())

        tasks: list[tuple[str, Task]] = [(name, partial(stored, make)) for name, make in wanted]

        def finished(outcome: Outcome) -> None:
            if outcome.failed:
                self._count()
                self._open_libraries.changed.emit()
            if then is not None:
                then(outcome)

        self._file_jobs.do(label, tasks, finished)

    def _stored(self, place: OpenLibrary, wanted: Wanted) -> Done:
        drawn = wanted.pictures()
        who = self._open_libraries.who()
        stamped = replace(
            wanted.card, created=wanted.card.created or now(), changed=now(), changed_by=who
        )
        try:
            if place.problem is not None:
                raise place.problem
            library = place.library or Library(place.folder, by=self._open_libraries.who)
            if wanted.over is not None:
                return self._over(library, wanted.over, stamped, drawn)
            data = card_bytes(stamped, *drawn)
            return moves.added(library, library.add_bytes(data, stamped.name, wanted.sheet))
        except FoxHandError as error:
            if error.code not in WAITS:
                raise
            self._wait(place, wanted, card_bytes(stamped, *drawn))
            raise _waits(wanted.card.name, place, error) from error

    def _over(self, library: Library, entry: Entry, card: Card, drawn: Drawn) -> Done:
        try:
            return moves.store_over(library, entry, card, *drawn)
        except CardChangedError:
            late = replace(card, identity=entry.identity, revision=entry.revision + 1)
            set_aside(library, entry.identity, card_bytes(late, *drawn))
            raise

    def _wait(self, place: OpenLibrary, wanted: Wanted, data: bytes) -> None:
        over, card = wanted.over, wanted.card
        self.outbox.put(
            Waiting(
                str(place.folder),
                wanted.sheet if over is None else over.sheet,
                card.name,
                card.identity if over is None else over.identity,
                "" if over is None else over.path.relative_to(place.folder).as_posix(),
                0 if over is None else over.revision,
            ),
            data,
        )

    # -- delivering -----------------------------------------------------------------------

    def _count(self) -> None:
        counts: dict[str, Counter[str]] = {}
        for _, note in self.outbox.waiting():
            counts.setdefault(note.library, Counter())[note.sheet] += 1
        for place in self._open_libraries.places:
            place.waiting_in = counts.get(str(place.folder), Counter())

    def deliver(self, place: OpenLibrary) -> None:
        """Write what waits for a library that can be reached again."""
        library = place.library
        self._count()
        if self._delivering or library is None or not place.waiting or place.problem is not None:
            return
        self._delivering = True

        def work(progress: Progress) -> list[Delivery]:
            progress.step(0.0)
            assert library is not None
            return self.outbox.deliver(library)

        def done(found: list[Delivery]) -> None:
            self._delivering = False
            self._count()
            self._told(place, found)

        def failed(error: Exception) -> None:
            self._delivering = False
            if isinstance(error, FoxHandError):
                self._file_jobs.failed.emit(error)

        self._files.run(work, done, failed)

    def _told(self, place: OpenLibrary, found: Sequence[Delivery]) -> None:
        there = [d for d in found if d.path is not None and not d.conflict]
        late = [d for d in found if d.conflict]
        self._open_libraries.look(place, [d.path for d in there if d.path is not None])
        said = []
        if there:
            names = ", ".join(d.waiting.name for d in there[:3])
            verb = "is" if len(there) == 1 else "are"
            said.append(
                tr(
                    "{names} waited and {verb} now in {name}.",
                    names=names,
                    verb=verb,
                    name=place.name,
                )
            )
        if late:
            names = ", ".join(d.waiting.name for d in late[:3])
            said.append(
                tr(
                    "Somebody else had changed {names}: choose under Care of the library.",
                    names=names,
                )
            )
        if said:
            self._open_libraries.changed.emit()
            self.told.emit(" ".join(said))


def _given(wanted: Wanted) -> Wanted:
    return wanted


def _waits(name: str, place: OpenLibrary, error: FoxHandError) -> FoxHandError:
    return FoxHandError(
        "outbox.waiting",
        tr(
            "{name} could not be written into {name_2} now. {happened}",
            name=name,
            name_2=place.name,
            happened=error.happened,
        ),
        tr("The card is kept on this machine."),
        tr("It is written by itself as soon as the library can be."),
    )
