"""Looking after a library: what somebody must decide, and what can be brought back."""

from __future__ import annotations

import contextlib
import time
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.core.pose.difference import Difference, difference
from fox_hand.core.rig.rig import Rig
from fox_hand.library.format.container import damage, read_card
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.head import read_head
from fox_hand.library.format.schema import SUFFIX
from fox_hand.library.store.conflicts import Conflict, conflicts
from fox_hand.library.store.orphans import leftovers, lost_versions
from fox_hand.library.store.store import Library
from fox_hand.library.store.troubles import Trouble, troubles
from fox_hand.library.store.twins import kept_on_purpose, pair_of
from fox_hand.session.libraries.open_library import OpenLibrary

NEAR = 0.97  # as alike as this, two cards are near twins
MOST = 200  # of anything that is listed


@dataclass(frozen=True)
class Clash:
    """Two people changed one card.

    Args:
        conflict: the version that came too late.
        entry: the card as it lies in its sheet; None if it is gone.
        differences: what differs, largest first.
        held: controls that either holds.
    """

    conflict: Conflict
    entry: Entry | None
    differences: tuple[Difference, ...]
    held: int


@dataclass(frozen=True)
class Strange:
    """A file that cannot be used as it is.

    Args:
        entry: with what is wrong with it.
        version: the latest earlier version of the same card that can be read, None if there is
            none.
    """

    entry: Entry
    version: Path | None


@dataclass(frozen=True)
class TakenOut:
    """A card in the library's keep.

    Args:
        path: where it lies now.
        entry: as listed.
        day: when it was taken out, ``2026-11-12``.
    """

    path: Path
    entry: Entry
    day: str


@dataclass(frozen=True)
class Lost:
    """Cards of a character of which nothing, or not everything, lands on any known rig.

    Args:
        character: as the cards say.
        entries: those cards.
        missing: controls no rig has, at most a few.
    """

    character: str
    entries: tuple[Entry, ...]
    missing: tuple[str, ...]


@dataclass(frozen=True)
class Version:
    """An earlier version of a card.

    Args:
        path: its file.
        entry: as listed.
    """

    path: Path
    entry: Entry


@dataclass(frozen=True)
class NearTwins:
    """Two cards that are nearly the same.

    Args:
        first, second: the cards.
        share: how alike, 0...1.
        kept: somebody said that this is meant.
    """

    first: Entry
    second: Entry
    share: float
    kept: bool

    @property
    def double(self) -> bool:
        """Whether it is one card in two files, copied outside the program."""
        return self.first.identity == self.second.identity


@dataclass(frozen=True)
class Report:
    """Everything the screen shows.

    Args:
        troubles, clashes, strange, pairs, lost, taken_out: see the classes.
        leftovers: temporary files of writes that were cut off.
        gone: latest versions of cards that are in no sheet and not in the keep.
        versions: number of earlier versions in the library.
        fine: cards nothing is to be said of.
        total: all cards.
        seconds: how long looking took.
    """

    troubles: tuple[Trouble, ...] = ()
    clashes: tuple[Clash, ...] = ()
    strange: tuple[Strange, ...] = ()
    pairs: tuple[NearTwins, ...] = ()
    lost: tuple[Lost, ...] = ()
    taken_out: tuple[TakenOut, ...] = ()
    leftovers: tuple[Path, ...] = ()
    gone: tuple[Version, ...] = ()
    versions: int = 0
    fine: int = 0
    total: int = 0
    seconds: float = 0.0


def look_through(place: OpenLibrary, rigs: Sequence[Rig], progress: Progress) -> Report:
    """Look through a whole library, in a job.

    Args:
        place: a library that can be read.
        rigs: the characters that are known; cards of which nothing lands on any are told.
        progress: how far it is.

    Raises:
        Cancelled: if somebody asked to stop.
    """
    started = time.perf_counter()
    reading, library = place.reading, place.library
    assert reading is not None and library is not None
    entries = reading.index.entries(reading.columns.items.tolist())
    progress.step(0.2, tr("Reading what waits for a choice"))
    clashes = _clashes(library, {e.identity: e for e in entries.values()})
    strange = _strange(library, _looked_into(entries.values(), progress))
    progress.step(0.4, tr("Comparing poses"))
    pairs = _pairs(place, entries)
    progress.step(0.8, tr("Looking for rigs"))
    lost = _lost(place, entries.values(), rigs)
    progress.step(0.9, tr("Looking into the keep"))
    taken = tuple(_taken_out(library, path) for path in library.removed()[:MOST])
    parts = leftovers(library)
    told = {one.version.parent for one in strange if one.version is not None}
    gone = tuple(
        Version(path, read_head(path, "").entry)
        for path in lost_versions(library, {e.identity for e in entries.values()})
        if path.parent not in told
    )
    count = sum(1 for _ in (library.own / "versions").glob(f"*/*{SUFFIX}"))
    total = len(entries)
    fine = total - len(strange) - len(clashes)
    wrong = troubles(library)
    seconds = time.perf_counter() - started
    return Report(
        wrong, clashes, strange, pairs, lost, taken, parts, gone, count, fine, total, seconds
    )


def _clashes(library: Library, known: Mapping[str, Entry]) -> tuple[Clash, ...]:
    found = []
    for conflict in conflicts(library):
        entry = known.get(conflict.identity)
        differs: tuple[Difference, ...] = ()
        held = len(conflict.card.pose)
        if entry is not None:
            with contextlib.suppress(FoxHandError):
                pose = read_card(entry.path)[0].pose
                differs = difference(pose, conflict.card.pose)
                held = len({*pose.controls, *conflict.card.pose.controls})
        found.append(Clash(conflict, entry, differs, held))
    return tuple(found)


def _looked_into(entries: Iterable[Entry], progress: Progress) -> list[Entry]:
    """The entries, with what a look at every byte of their files found."""
    found, known = [], list(entries)
    for number, entry in enumerate(known):
        if number % 50 == 0:
            progress.step(0.2 + 0.2 * number / len(known), tr("Looking into the files"))
        problem = damage(entry.path) if entry.readable else entry.error
        found.append(entry if problem is None else replace(entry, error=problem))
    return found


def _strange(library: Library, entries: Iterable[Entry]) -> tuple[Strange, ...]:
    broken = [e for e in entries if not e.readable][:MOST]
    return tuple(Strange(entry, _kept_copy(library, entry)) for entry in broken)


def _kept_copy(library: Library, entry: Entry) -> Path | None:
    """The latest earlier version of a card whose file cannot be read any more. Its identity can
    not be read either, so it is found by its name."""
    latest: tuple[str, Path] | None = None
    for path in (library.own / "versions").glob(f"*/*{SUFFIX}"):
        head = read_head(path, "").entry
        if (
            head.readable
            and head.name == entry.name
            and (latest is None or head.changed > latest[0])
        ):
            latest = head.changed, path
    return latest[1] if latest is not None else None


def _pairs(place: OpenLibrary, entries: Mapping[int, Entry]) -> tuple[NearTwins, ...]:
    assert place.finder is not None and place.library is not None
    kept = kept_on_purpose(place.library)
    found = []
    for a, b, share in place.finder.twins(NEAR):
        first, second = entries.get(a), entries.get(b)
        if first is None or second is None or first.identity == second.identity:
            continue
        # every character has its own fist, with its own picture, to be adjusted on its own
        if first.character == second.character:
            pair = pair_of(first.identity, second.identity)
            found.append(NearTwins(first, second, share, pair in kept))
    return tuple(_doubles(entries.values()) + sorted(found[:MOST], key=lambda p: p.kept))


def _doubles(entries: Iterable[Entry]) -> list[NearTwins]:
    """Files that were copied outside the program: the same card twice."""
    first: dict[str, Entry] = {}
    found = []
    for entry in entries:
        if entry.identity and entry.identity in first:
            found.append(NearTwins(first[entry.identity], entry, 1.0, False))
        first.setdefault(entry.identity, entry)
    return found


def _lost(place: OpenLibrary, entries: Iterable[Entry], rigs: Sequence[Rig]) -> tuple[Lost, ...]:
    """Cards that miss controls on every rig that is known, by the character they were made for."""
    if not rigs:
        return ()
    by_character: dict[str, list[Entry]] = {}
    missing: dict[str, dict[str, None]] = {}
    gaps = {
        number: min((place.missing(number, r) for r in rigs), key=len) for number in place.shapes
    }
    for entry in entries:
        gap = gaps.get(entry.shape, ())
        if gap:
            by_character.setdefault(entry.character, []).append(entry)
            missing.setdefault(entry.character, {}).update(dict.fromkeys(gap))
    return tuple(
        Lost(name, tuple(cards[:MOST]), tuple(missing[name])[:6])
        for name, cards in by_character.items()
    )


def _taken_out(library: Library, path: Path) -> TakenOut:
    parts = path.relative_to(library.own / "removed").parts
    sheet = "/".join(parts[1:-1])
    return TakenOut(path, read_head(path, sheet).entry, parts[0])


def versions_of(library: Library, identity: str) -> tuple[Version, ...]:
    """Earlier versions of a card that can be read, oldest first."""
    found = (Version(path, read_head(path, "").entry) for path in library.versions(identity))
    return tuple(v for v in found if v.entry.readable)
