"""The shelf: all open libraries, and finding cards in them."""

from __future__ import annotations

import time
from collections import OrderedDict
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from pathlib import Path

from psygnal import Signal

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.places import Places
from fox_hand.base.work import Progress
from fox_hand.core.pose.similarity import Numbers
from fox_hand.core.rig.rig import Rig
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.library_file import LibraryFile
from fox_hand.library.index.index import Index, IndexDamagedError
from fox_hand.library.index.scan import look_at
from fox_hand.library.index.sheet_tree import SheetNode
from fox_hand.library.store.store import Library, login_name, now
from fox_hand.session.libraries.card_search import CardSearch
from fox_hand.session.libraries.library_reads import STOPPED, LibraryReads
from fox_hand.session.libraries.open_library import (
    BITS,
    OpenLibrary,
    Reading,
    not_listed,
    read_place,
    remembered,
    with_sheets_of,
)
from fox_hand.session.libraries.personal import PersonalCards
from fox_hand.session.libraries.request import Request, Result
from fox_hand.session.runtime.jobs import JobRunner
from fox_hand.session.runtime.long_work import LongWork

SO_FAR = 1.5  # seconds between showing what is listed of a library that is read for the first time
REMEMBERED = 6000  # entries kept in memory; a screen shows fewer than 300


class OpenLibraries:
    """Open libraries in the order they were opened. Signals come on the session's thread."""

    changed = Signal()  # cards or libraries
    failed = Signal(FoxHandError)
    reading = Signal(OpenLibrary, float)  # how far a library is read; 1.0 at the end
    came_back = Signal(OpenLibrary)  # can be read and perhaps written; also given now and then

    def __init__(
        self,
        places: Places,
        jobs: JobRunner,
        who: Callable[[], str] = login_name,
        long_work: LongWork | None = None,
    ) -> None:
        self._cache, self.jobs, self.who = places.cache, jobs, who
        self.places: list[OpenLibrary] = []
        self.personal = PersonalCards(places)
        self.target_number = 0  # the library that captures go to
        self.visited_before: dict[int, str] = {}
        self._numbers = 0
        self._reads = LibraryReads(jobs, long_work or LongWork(), self._far, self.look_again)
        self._shown_at: dict[int, float] = {}
        self._entries: OrderedDict[int, Entry] = OrderedDict()

    # -- libraries ------------------------------------------------------------------------

    @property
    def target(self) -> OpenLibrary | None:
        """The library that captures go to; unless one was chosen, the first that can be written."""
        wanted = self.place(self.target_number)
        if wanted is not None:  # an empty one, too
            return wanted
        able = (place for place in self.places if place.writable)
        return next(able, self.places[0] if self.places else None)

    def place(self, number: int) -> OpenLibrary | None:
        return next((p for p in self.places if p.number == number), None)

    def place_at(self, folder: Path) -> OpenLibrary | None:
        """The place of a folder, if it is on the shelf."""
        return next((p for p in self.places if p.folder == folder), None)

    def place_of(self, entry: Entry) -> OpenLibrary:
        """The library a card lies in.

        Raises:
            FoxHandError: ``library.closed``.
        """
        for place in self.places:
            if entry.path.is_relative_to(place.folder):
                return place
        raise FoxHandError(
            "library.closed",
            tr("The library of {name} is not open any more.", name=entry.name),
            "",
            "",
        )

    def library_of(self, entry: Entry) -> Library:
        """The same, as something that can be written.

        Raises:
            FoxHandError: ``library.closed`` or why it cannot be reached.
        """
        place = self.place_of(entry)
        if place.problem is not None:
            raise place.problem
        assert place.library is not None
        return place.library

    def add(self, folder: Path, name: str = "") -> OpenLibrary:
        """A place for a library; nothing is read yet."""
        folder = folder.absolute()
        known = self.place_at(folder)
        if known is not None:
            return known
        self._numbers += 1
        place = OpenLibrary(self._numbers, folder, name or folder.name)
        self.visited_before[place.number] = self.personal.last_visit(folder)
        self.personal.visited(folder, now())
        self.places.append(place)
        return place

    def set_order(self, folders: Iterable[Path]) -> None:
        """Libraries in the order of their folders; others follow as they were."""
        order = {folder.absolute(): number for number, folder in enumerate(folders)}
        wanted = sorted(self.places, key=lambda p: order.get(p.folder, len(order)))
        if wanted != self.places:
            self.places[:] = wanted
            self.changed.emit()

    def forget(self, place: OpenLibrary) -> None:
        """Take a library off the shelf; its files stay as they are."""
        self.places.remove(place)
        self._reads.forget(place)
        if place.index is not None:
            place.index.close()
        self._drop_entries(place)
        self.changed.emit()

    def read(
        self, place: OpenLibrary, progress: Progress, *, create: str = "", look: bool = False
    ) -> Reading:
        """Read a library, in a job; :meth:`take` shows it."""
        library = (
            Library.create(place.folder, create, by=self.who)
            if create
            else Library(place.folder, by=self.who)
        )
        place.index = place.index or Index.of(place.folder, self._cache)
        return read_place(library, place.index, progress, look=look)

    def remembered(self, place: OpenLibrary) -> Reading:
        """What the index knows of a library that is away, in a job."""
        library = Library(place.folder, LibraryFile(place.name), self.who)
        place.index = place.index or Index.of(place.folder, self._cache)
        return remembered(library, place.index)

    def take(self, place: OpenLibrary, reading: Reading) -> None:
        """Show what was read."""
        if place not in self.places:
            return
        if not place.take(reading):
            return  # something newer is here already
        self._drop_entries(place)
        place.personal = self.personal.of(reading.index, reading.hand_made)
        self.changed.emit()
        if reading.scanned:
            self._tell_unlisted(place, reading)
            self.came_back.emit(place)

    def _tell_unlisted(self, place: OpenLibrary, reading: Reading) -> None:
        """Sheets that cannot be listed are told once; their cards stay in sight as last known."""
        before, place.unlisted = place.unlisted, frozenset(reading.unlisted)
        if place.unlisted - before:
            self.failed.emit(not_listed(place.name, reading.unlisted))

    def personal_changed(self) -> None:
        """Favourites or uses changed: what depends on them is made anew."""
        for place in self.places:
            if place.reading is not None:
                place.personal = self.personal.of(place.reading.index, place.reading.hand_made)
        self.changed.emit()

    def lose(self, place: OpenLibrary, error: FoxHandError) -> None:
        """A library cannot be reached: what is known of it stays in sight."""
        if place.problem is None or place.problem.code != error.code:
            place.problem = _kept_here(error)
            self.changed.emit()

    def open(
        self,
        folder: Path,
        *,
        create: str = "",
        done: Callable[[OpenLibrary], None] | None = None,
        failed: Callable[[Exception], None] | None = None,
    ) -> OpenLibrary:
        """Put a library on the shelf and read it: first what the index knows, then the files."""
        place = self.add(folder, create)

        def read(reading: Reading) -> None:
            place.partial = False
            self.take(place, reading)
            if not reading.scanned:
                self.look_again(place)
            if done is not None:
                done(place)

        def not_read(error: FoxHandError) -> None:
            self._open_without(place, error)
            if failed is not None and error.code != STOPPED:
                failed(error)

        self._reads.run(place, lambda token: self.read(place, token, create=create), read, not_read)
        return place

    def _show_so_far(self, place: OpenLibrary) -> None:
        """While a large library is read for the first time: show what is listed already."""
        index, at = place.index, time.monotonic()
        shown = place.reading is not None and not place.partial
        before = self._shown_at.get(place.number)
        if index is None or shown or (before is not None and at - before < SO_FAR):
            return
        self._shown_at[place.number] = at + SO_FAR  # not again before this one is there

        def work(token: Progress) -> Reading:
            return read_place(
                Library(place.folder, by=self.who), index, token, look=False, so_far=True
            )

        def show(reading: Reading) -> None:
            self._shown_at[place.number] = time.monotonic()
            if place.reading is None or place.partial:
                place.partial = True
                self.take(place, reading)

        # what is wrong, the job that reads everything says
        self.jobs.run(work, show, lambda _: None)

    def _open_without(self, place: OpenLibrary, error: FoxHandError) -> None:
        """A library is away from the start: show what is remembered of it."""

        def show(reading: Reading) -> None:
            if place in self.places and place.reading is None and len(reading.columns.items):
                place.take(reading)
            self.lose(place, error)

        self.jobs.run(lambda _: self.remembered(place), show, lambda _: self.lose(place, error))

    def look_again(self, place: OpenLibrary, done: Callable[[], None] | None = None) -> None:
        """Compare all files of a library with what is known; while it is read already, once after
        that. A second reading would wait for the first, and every other job for both."""
        if place not in self.places or self._reads.after(place, done):
            return

        def read(reading: Reading) -> None:
            place.partial = False
            self.take(place, reading)
            if done is not None:
                done()

        def work(token: Progress) -> Reading:
            return self.read(place, token, look=True)

        def failed(error: FoxHandError) -> None:
            known = place.reading is not None and not place.partial
            if error.code != STOPPED or not known:  # what is known of it stays as it is
                self.lose(place, error)

        self._reads.run(place, work, read, failed)

    def _far(self, place: OpenLibrary, share: float) -> None:
        self.reading.emit(place, share)
        if share < 1.0:
            self._show_so_far(place)

    def look(self, place: OpenLibrary, paths: Iterable[Path]) -> None:
        """Some files of a library changed just now, by us or by others."""
        reading, wanted = place.reading, list(paths)
        if reading is None or not wanted:
            return

        def work(token: Progress) -> Reading | None:
            assert reading is not None
            if not look_at(reading.index, wanted):
                return None
            # the order of the sheets may be new as well
            return read_place(
                Library(reading.library.folder, by=self.who), reading.index, token, look=False
            )

        def read(new: Reading | None) -> None:
            if new is not None:
                self.take(place, with_sheets_of(new, place.reading or reading))

        def failed(error: Exception) -> None:
            if isinstance(error, IndexDamagedError):
                self.look_again(place)  # which makes it anew
                return
            if not isinstance(error, FoxHandError):
                raise error
            self.failed.emit(error)

        self.jobs.run(work, read, failed)

    # -- cards ----------------------------------------------------------------------------

    def is_new(self, entry: Entry, place: OpenLibrary, author: str) -> bool:
        """Whether somebody else made or changed a card since this person's last visit."""
        before = self.visited_before.get(place.number, "")
        return (
            bool(before) and entry.changed > before and entry.changed_by not in (author, self.who())
        )

    def tree_of(self, place: OpenLibrary, author: str) -> SheetNode:
        """The sheets of a library, and how many cards in them are new to this person."""
        before = self.visited_before.get(place.number, "")
        return place.tree(before, (author, self.who()))

    def search_in(self) -> CardSearch:
        """Looks in all of them."""
        return CardSearch(self.places, self.look_again)

    def key_of(self, place: OpenLibrary, item: int) -> int:
        return place.number << BITS | item

    def entry(self, key: int) -> Entry | None:
        """What is listed of a card; None if it is gone meanwhile."""
        found = self._entries.get(key)
        if found is None:
            self.fetch([key])
            found = self._entries.get(key)
        return found

    def key_in(self, entry: Entry) -> int | None:
        """The key of a card in whichever library it lies; None where none of the open ones."""
        for place in self.places:
            if entry.item and entry.path.is_relative_to(place.folder):
                return self.key_of(place, entry.item)
        return None

    def entries_of(self, keys: Sequence[int]) -> list[Entry]:
        """What is listed of cards; those that are gone are left out."""
        self.fetch(list(keys))
        return [entry for entry in map(self.entry, keys) if entry is not None]

    def entry_at(self, path: Path) -> Entry | None:
        """What is listed of a card file; None if it is not known (yet)."""
        for place in self.places:
            if place.reading is not None and path.is_relative_to(place.folder):
                stamps = place.reading.index.stamps([path.relative_to(place.folder).as_posix()])
                for item, _ in stamps.values():
                    return self.entry(self.key_of(place, item))
        return None

    def lists(self, path: Path) -> bool:
        """Whether a card file is among what is shown; it may only be indexed yet."""
        entry = self.entry_at(path)
        return entry is not None and self.place_of(entry).lists(entry)

    def by_identity(self, identity: str) -> Entry | None:
        """The card with an identity, in whichever library."""
        for place in self.places:
            item = place.item_of(identity)
            if item is not None:
                return self.entry(self.key_of(place, item))
        return None

    def keys_in(self, place: OpenLibrary, sheet: str) -> list[int]:
        """Keys of all cards of a sheet and of the sheets in it, whatever is searched for."""
        if place.catalogue is None:
            return []
        kept = place.catalogue.kept_by_words(None, [sheet])
        return [self.key_of(place, item) for item in place.catalogue.columns.items[kept].tolist()]

    def alike(
        self, numbers: Numbers, most: int, only: Collection[str] = ()
    ) -> list[tuple[int, float]]:
        """Keys of the cards most like a pose or clip and how alike they are, best first; perhaps
        counting only some controls and settings. In a job."""
        found = [
            (self.key_of(place, alike.item), alike.share)
            for place in list(self.places)
            if place.finder is not None
            for alike in place.finder.nearest(numbers, most, only)
        ]
        return sorted(found, key=lambda pair: -pair[1])[:most]

    def fetch(self, keys: Sequence[int]) -> None:
        """Have some entries at hand; one question for all of them."""
        by_place: dict[int, list[int]] = {}
        for key in keys:
            if key not in self._entries:
                by_place.setdefault(key >> BITS, []).append(key & (1 << BITS) - 1)
        for number, items in by_place.items():
            place = self.place(number)
            if place is not None and place.reading is not None:
                try:
                    found = place.reading.index.entries(items)
                except IndexDamagedError:
                    self.look_again(place)  # which makes it anew
                    continue
                for item, entry in found.items():
                    self._entries[self.key_of(place, item)] = entry
        while len(self._entries) > REMEMBERED:
            self._entries.popitem(last=False)

    def at_hand(self, key: int) -> Entry | None:
        """What is listed of a card, if nobody has to be asked for it."""
        return self._entries.get(key)

    def fetch_later(self, keys: Sequence[int], then: Callable[[], None]) -> None:
        """The same as :meth:`fetch` beside the window."""
        asked = [
            (place, place.reading, [k & (1 << BITS) - 1 for k in own])
            for place in self.places
            if place.reading is not None and (own := [k for k in keys if k >> BITS == place.number])
        ]

        def work(token: Progress) -> list[Mapping[int, Entry]]:
            token.step(0.0)
            return [reading.index.entries(items) for _, reading, items in asked]

        def done(found: list[Mapping[int, Entry]]) -> None:
            for (place, reading, _), entries in zip(asked, found, strict=True):
                if place.reading is reading:  # else it may be known better by now
                    for item, entry in entries.items():
                        self._entries[self.key_of(place, item)] = entry
            then()

        def failed(error: Exception) -> None:
            damaged = self.place_at(error.folder) if isinstance(error, IndexDamagedError) else None
            if damaged is not None:
                self.look_again(damaged)  # which makes it anew
            then()
            if damaged is None:
                raise error

        self.jobs.run(work, done, failed)

    def entries(self, result: Result | None = None) -> Iterator[Entry]:
        """All cards of a result, or all there are."""
        for section in (result or self.find(Request())).sections:
            self.fetch(section.keys[:REMEMBERED].tolist())
            for key in section.keys.tolist():
                entry = self.entry(key)
                if entry is not None:
                    yield entry

    def find(self, request: Request, rig: Rig | None = None) -> Result:
        """Cards that were asked for, with a note on what was understood otherwise."""
        return self.search_in().find(request, rig)

    def _drop_entries(self, place: OpenLibrary) -> None:
        for key in [k for k in self._entries if k >> BITS == place.number]:
            del self._entries[key]


def _kept_here(error: FoxHandError) -> FoxHandError:
    """The same of a library that is away, with what this program does meanwhile."""
    if error.code != "library.unreachable":
        return error
    kept = tr("What is captured for it is kept on this machine.")
    comes = tr("It comes back by itself when it can be reached again.")
    return FoxHandError(error.code, error.happened, kept, comes, error.detail)
