"""What one person thinks of the cards: favourites, how often each was put on, when last here."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

import msgspec

from fox_hand.base.documents import decode_json, wrong_with
from fox_hand.base.inputs import CARD, read_file
from fox_hand.base.places import Places
from fox_hand.library.atomic import make_folder, write_atomically
from fox_hand.library.catalogue import Personal
from fox_hand.library.index import Index

VERSION = 1
RECENT = 9


class _File(msgspec.Struct):
    version: int = VERSION
    favourites: list[str] = []
    used: dict[str, int] = {}
    visits: dict[str, str] = {}
    recent: list[str] = []


class PersonalCards:
    """Kept by the cards' identities in the user's own folder, so it follows a card wherever it
    is moved and disturbs nobody else."""

    def __init__(self, places: Places) -> None:
        self._path = places.data / "cards.json"
        self.problem: str | None = None
        self._file = self._read()

    def _read(self) -> _File:
        try:
            return decode_json(read_file(self._path, CARD), _File)
        except FileNotFoundError:
            return _File()
        except (OSError, ValueError) as error:
            aside = self._path.with_suffix(".unreadable.json")
            try:
                self._path.replace(aside)
            except OSError:
                aside = self._path
            self.problem = (
                f"Your favourites could not be read ({wrong_with(error)}). "
                f"They were kept as {aside}."
            )
            return _File()

    def save(self) -> None:
        """Remember.

        Raises:
            FoxHandError: ``file.write``.
        """
        make_folder(self._path.parent)
        write_atomically(self._path, msgspec.json.encode(self._file))

    def favourite(self, identity: str) -> bool:
        return identity in self._file.favourites

    def set_favourite(self, identities: Iterable[str], on: bool) -> None:
        """Mark cards, or take the mark away."""
        changed = set(identities)
        kept = [i for i in self._file.favourites if i not in changed]
        self._file.favourites = kept + sorted(changed) if on else kept

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
