"""What the Care screen does: each choice is one undo step."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from functools import partial
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.library.files.atomic import remove
from fox_hand.library.format.entry import Entry
from fox_hand.library.store import moves
from fox_hand.library.store.moves import Done
from fox_hand.library.store.store import Library
from fox_hand.session.libraries.card_commands import Then
from fox_hand.session.libraries.care_report import Clash, NearTwins, Strange, TakenOut, Version
from fox_hand.session.libraries.file_jobs import FileJobs, Task
from fox_hand.session.libraries.open_library import OpenLibrary


class CareCommands:
    """Settles what somebody must decide, and brings back what was kept."""

    def __init__(self, file_jobs: FileJobs) -> None:
        self._file_jobs = file_jobs

    def keep_both(self, place: OpenLibrary, clash: Clash, then: Then) -> None:
        """Both versions stay; the late one becomes a card of its own."""
        beside = clash.entry.path if clash.entry is not None else None
        self._do(
            place,
            tr("Keep both of {name}", name=clash.conflict.card.name),
            then,
            moves.settle_both,
            clash.conflict,
            beside,
        )

    def take_late(self, place: OpenLibrary, clash: Clash, then: Then) -> None:
        """The version that came late counts."""
        if clash.entry is not None:
            label = tr("Take the other {name}", name=clash.entry.name)
            self._do(place, label, then, moves.settle_late, clash.conflict, clash.entry.path)

    def take_early(self, place: OpenLibrary, clash: Clash, then: Then) -> None:
        """The version in the sheet counts."""
        if clash.entry is not None:
            label = tr("Take {name} as it is", name=clash.entry.name)
            self._do(place, label, then, moves.settle_early, clash.conflict, clash.entry.path)

    def use_copy(self, place: OpenLibrary, strange: Strange, then: Then) -> None:
        """The last whole version in the place of a damaged file."""
        if strange.version is not None:
            label = tr("Use a whole copy of {name}", name=strange.entry.name)
            self._do(place, label, then, moves.use_copy, strange.entry.path, strange.version)

    def set_aside(self, place: OpenLibrary, strange: Strange, then: Then) -> None:
        """A file that cannot be used goes into the keep, as it is."""
        path = strange.entry.path
        self._do(place, tr("Put {name} aside", name=path.name), then, moves.take_out, path)

    def make_own(self, place: OpenLibrary, entry: Entry, then: Then) -> None:
        """A file that was copied outside the program becomes a card of its own."""
        self._do(
            place,
            tr("{name}, a card of its own", name=entry.name),
            then,
            moves.make_own,
            entry.path,
        )

    def keep_twins(self, place: OpenLibrary, pair: NearTwins, then: Then) -> None:
        """Two cards are meant to be alike, or are not any more."""
        label = tr(
            "{name} and {name_2} are meant to be alike",
            name=pair.first.name,
            name_2=pair.second.name,
        )
        ids = pair.first.identity, pair.second.identity
        self._do(place, label, then, partial(moves.keep_twins, kept=not pair.kept), *ids)

    def remove_leftovers(self, place: OpenLibrary, parts: tuple[Path, ...], then: Then) -> None:
        """Temporary files of writes that were cut off go; they never were cards."""
        library = place.library
        if library is not None:
            tasks: list[tuple[str, Task]] = [
                (part.name, partial(_removed, library, part)) for part in parts
            ]
            self._file_jobs.run(tr("Remove leftovers"), tasks, then)

    def bring_back_version(self, place: OpenLibrary, version: Version, then: Then) -> None:
        """A card that is gone comes back as its latest version was."""
        label = tr("Bring back {name}", name=version.entry.name)
        self._do(place, label, then, moves.revive, version.path)

    def bring_back(self, place: OpenLibrary, taken: TakenOut, then: Then) -> None:
        """Out of the keep into the sheet it came from."""
        self._do(
            place,
            tr("Bring back {name}", name=taken.entry.name),
            then,
            moves.bring_back,
            taken.path,
        )

    def use_version(self, place: OpenLibrary, entry: Entry, version: Path, then: Then) -> None:
        """An earlier version counts again; what is there becomes an earlier one too."""
        label = tr("Use an earlier {name}", name=entry.name)
        self._do(place, label, then, moves.use_version, entry.path, version)

    def variant(
        self, place: OpenLibrary, entry: Entry, version: Path, name: str, then: Then
    ) -> None:
        """An earlier version as a card of its own."""
        self._do(
            place, tr("Variant {name}", name=name), then, moves.variant, version, entry.path, name
        )

    def forget(self, place: OpenLibrary, taken: Sequence[TakenOut], then: Then) -> None:
        """Delete for good; this alone has no way back, so it is only done when asked for twice."""
        library = place.library
        if library is None:
            return

        def forget(one: TakenOut) -> Done:
            library.forget(one.path)
            return Done(library, (), _gone)

        tasks: list[tuple[str, Task]] = [(t.entry.name, partial(forget, t)) for t in taken]
        if tasks:
            self._file_jobs.run(tr("Delete {count} for good", count=len(tasks)), tasks, then)

    def _do(
        self, place: OpenLibrary, label: str, then: Then, work: object, *values: object
    ) -> None:
        library = place.library
        if library is not None:
            assert callable(work)
            self._file_jobs.do(label, [(label, partial(work, library, *values))], then)


def old_ones(place: OpenLibrary, taken: Sequence[TakenOut]) -> tuple[TakenOut, ...]:
    """Those that were taken out longer ago than the library keeps things."""
    if place.library is None:
        return ()
    today = datetime.datetime.now(datetime.UTC).date()
    day = (today - datetime.timedelta(days=place.library.file.keep_days)).isoformat()
    return tuple(t for t in taken if t.day < day)


def _removed(library: Library, part: Path) -> Done:
    remove(part)
    return Done(library, (), _gone)


def _gone() -> Done:
    raise FoxHandError("keep.gone", tr("What was deleted for good cannot come back."), "")
