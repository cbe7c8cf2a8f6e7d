"""What one person thinks of the cards: favourites, how often each was put on, when last here."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

import msgspec

from fox_hand.base.files.documents import decode_json, wrong_with
from fox_hand.base.files.inputs import CARD, read_file
from fox_hand.base.language import tr
from fox_hand.base.places import Places
from fox_hand.library.index.catalogue import Personal
from fox_hand.library.index.index import Index
from fox_hand.session.runtime.shared_file import SharedFile

VERSION = 1
RECENT = 9


class _PersonalFile(msgspec.Struct):
    version: int = VERSION
    favourites: list[str] = []
    used: dict[str, int] = {}
    visits: dict[str, str] = {}
    recent: list[str] = []
    searches: dict[str, str] = {}  # by name


def _together(base: _PersonalFile, ours: _PersonalFile, theirs: _PersonalFile) -> _PersonalFile:
    """What two windows did: marks set and taken away, uses added up, the later visit."""
    gone = set(base.favourites) - set(ours.favourites)
    new = [i for i in ours.favourites if i not in set(base.favourites) | set(theirs.favourites)]
    used = dict(theirs.used)
    for identity, count in ours.used.items():
        more = count - base.used.get(identity, 0)
        used[identity] = max(used.get(identity, 0) + more, 0)
    visits = {
        f: max(ours.visits.get(f, ""), theirs.visits.get(f, ""))
        for f in {**theirs.visits, **ours.visits}
    }
    fresh = [i for i in ours.recent if ours.recent != base.recent]
    recent = list(dict.fromkeys([*fresh, *theirs.recent]))[:RECENT]
    favourites = [i for i in theirs.favourites if i not in gone] + new
    lost = set(base.searches) - set(ours.searches)
    kept = {n: t for n, t in theirs.searches.items() if n not in lost}
    said = {n: t for n, t in ours.searches.items() if base.searches.get(n) != t}
    return _PersonalFile(VERSION, favourites, used, visits, recent, {**kept, **said})


class PersonalCards:
    """Kept by the cards' identities in the user's own folder, so it follows a card wherever it
    is moved and disturbs nobody else."""

    def __init__(self, places: Places) -> None:
        self._path = places.data / "cards.json"
        self.problem: str | None = None
        self._file = self._read()
        self._shared = SharedFile(self._path, _PersonalFile, _together)
        self._shared.known(self._file)

    def _read(self) -> _PersonalFile:
        try:
            return decode_json(read_file(self._path, CARD), _PersonalFile)
        except FileNotFoundError:
            return _PersonalFile()
        except (OSError, ValueError) as error:
            aside = self._path.with_suffix(".unreadable.json")
            try:
                self._path.replace(aside)
            except OSError:
                aside = self._path
            self.problem = tr(
                "Your favourites could not be read ({wrong_with}). They were kept as {aside}.",
                wrong_with=wrong_with(error),
                aside=aside,
            )
            return _PersonalFile()

    def save(self) -> None:
        """Remember.

        Raises:
            FoxHandError: ``file.write``.
        """
        self._file = self._shared.write(self._file)
        self._shared.known(self._file)

    def favourite(self, identity: str) -> bool:
        return identity in self._file.favourites

    def set_favourite(self, identities: Iterable[str], on: bool) -> None:
        """Mark cards, or take the mark away."""
        changed = set(identities)
        kept = [i for i in self._file.favourites if i not in changed]
        self._file.favourites = kept + sorted(changed) if on else kept

    @property
    def searches(self) -> dict[str, str]:
        """Texts of the searches this person keeps, by name; a copy."""
        return dict(self._file.searches)

    def set_searches(self, searches: dict[str, str]) -> None:
        """Keep these, in this order."""
        self._file.searches = dict(searches)

    def put_on(self, identity: str) -> None:
        """A card was put on once more."""
        self._file.used[identity] = self._file.used.get(identity, 0) + 1
        others = [i for i in self._file.recent if i != identity]
        self._file.recent = [identity, *others][:RECENT]

    @property
    def recent(self) -> tuple[str, ...]:
        """Identities of the cards that were put on last, the latest first."""
        return tuple(self._file.recent)

    def last_visit(self, folder: Path) -> str:
        """When a library was open before this time; RFC 3339, empty if never."""
        return self._file.visits.get(str(folder), "")

    def visited(self, folder: Path, when: str) -> None:
        self._file.visits[str(folder)] = when

    def of(self, index: Index, hand_made: Iterable[str] = ()) -> Personal:
        """The same by numbers of one library's index.

        Args:
            hand_made: identities of cards in the order somebody put them.
        """
        order = {identity: place for place, identity in enumerate(hand_made)}
        wanted = list({*self._file.favourites, *self._file.used, *order})
        favourites, used, places = list[int](), dict[int, int](), dict[int, int]()
        for identity, item in index.items_of(wanted):
            if identity in self._file.favourites:
                favourites.append(item)
            if identity in self._file.used:
                used[item] = self._file.used[identity]
            if identity in order:
                places[item] = order[identity]
        return Personal(favourites, used, places)
