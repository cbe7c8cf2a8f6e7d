"""Libraries: finding cards, writing them, charts and packs."""

from __future__ import annotations

import uuid
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING, Literal

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr

if TYPE_CHECKING:
    from fox_hand.api.card import Card
    from fox_hand.api.pictures import Pictures
    from fox_hand.api.rig import Rig
    from fox_hand.library.charts.filling import Filling
    from fox_hand.library.format.card import Card as CoreCard
    from fox_hand.library.format.entry import Entry
    from fox_hand.library.store.moves import Done
    from fox_hand.library.store.store import Library as Store
    from fox_hand.session.libraries.open_libraries import OpenLibraries
    from fox_hand.session.libraries.open_library import OpenLibrary

BothHave = Literal["keep both", "theirs", "mine"]


@dataclass(frozen=True)
class CardFacts:
    """A card of a library, without its values.

    Args:
        path, sheet: its file, and the sheet it lies in, with ``/`` between folders.
        problem: why it cannot be read; empty where it can, and then all else says something.
        controls: how many it holds.
        approved: whether somebody locked it.

    The others are those of :class:`Card`.
    """

    path: Path
    sheet: str
    problem: str = ""
    name: str = ""
    identity: str = ""
    revision: int = 0
    kind: str = "pose"
    region: str = ""
    side: str = ""
    controls: int = 0
    character: str = ""
    author: str = ""
    changed: str = ""
    tags: tuple[str, ...] = ()
    note: str = ""
    approved: bool = False


@dataclass(frozen=True)
class SlotFacts:
    """A slot of a chart for one character.

    Args:
        name: what it is for.
        cards: files of the cards that fill it, best first; none where it is missing.
        wanted: how many there should be.
        proposed: files of cards that look like it, though nobody said so.
    """

    name: str
    cards: tuple[Path, ...]
    wanted: int
    proposed: tuple[Path, ...]


@dataclass(frozen=True)
class ChartFacts:
    """A chart, and by character its slots in order."""

    name: str
    characters: Mapping[str, tuple[SlotFacts, ...]]


class Library:
    """A library's folder, all its files looked at; see :meth:`open`. What others change meanwhile
    is seen after :meth:`look_again`; nothing they wrote is written over unseen in any case."""

    def __init__(self, shelf: OpenLibraries, place: OpenLibrary) -> None:
        self._shelf, self._place = shelf, place

    @staticmethod
    def open(folder: Path | str, *, author: str = "") -> Library:
        """Open a library.

        Args:
            folder: where it lies.
            author: who signs what is changed; the login name without.

        Raises:
            FoxHandError: where there is none, or it is of a newer version.
        """
        from fox_hand.base.places import Places
        from fox_hand.library.store.store import login_name
        from fox_hand.session.libraries.open_libraries import OpenLibraries
        from fox_hand.session.runtime.jobs import Jobs

        who = (lambda: author) if author else login_name
        shelf = OpenLibraries(Places.of_user(), Jobs(lambda run: run(), inline=True), who)
        found = Library(shelf, shelf.add(Path(folder).absolute()))
        found.look_again()
        return found

    @staticmethod
    def create(folder: Path | str, name: str = "", *, author: str = "") -> Library:
        """Make an empty library in a folder and open it.

        Raises:
            FoxHandError: ``library.there`` where one lies already, or if it cannot be made.
        """
        from fox_hand.library.store.store import Library as Store

        path = Path(folder).absolute()
        if (path / "library.toml").exists():
            raise FoxHandError(
                "library.there",
                tr("{folder} is a library already; it was left as it is.", folder=folder),
            )
        Store.create(path, name or path.name)
        return Library.open(path, author=author)

    def __repr__(self) -> str:
        return f"<Library {self.name}: {len(self._place)} cards>"

    @property
    def name(self) -> str:
        return self._place.name

    @property
    def folder(self) -> Path:
        return self._place.folder

    @property
    def sheets(self) -> tuple[str, ...]:
        """All sheets in their order, those within others with ``/``."""
        return self._place.sheets

    def look_again(self) -> None:
        """See what others changed."""
        from fox_hand.base.work import Progress

        reading = self._shelf.read(self._place, Progress(), look=True)
        self._shelf.take(self._place, reading)

    # -- finding --------------------------------------------------------------------------

    def cards(self, find: str = "", *, rig: Rig | None = None) -> list[CardFacts]:
        """Cards that a search finds, as in the window; all of them without words.

        Args:
            find: words and filters such as ``hand side:left tag:grip fits:all``.
            rig: for ``fits:``.

        Raises:
            FoxHandError: ``find.unknown`` where a filter or word is not understood: something else
                would be found than was meant.
        """
        return [_facts(entry) for entry in self._found(find, rig)]

    def card(self, which: CardFacts | Path | str) -> Card:
        """A card with its values.

        Args:
            which: facts, a file, or an identity.

        Raises:
            FoxHandError: ``card.gone``, or if it cannot be read.
        """
        from fox_hand.api.card import Card

        return Card.open(self._entry(which).path)

    def _found(self, find: str, rig: Rig | None) -> list[Entry]:
        from fox_hand.library.index.query import parse, unknown_filters
        from fox_hand.session.libraries.request import Request

        problems = list(unknown_filters(find))
        if parse(find).fits and rig is None:
            problems.append(tr("fits: needs a character."))
        result = (
            None if problems else self._shelf.find(Request(find), None if rig is None else rig.core)
        )
        if result is None or result.note:
            said = " ".join(problems) if result is None else result.note
            raise FoxHandError("find.unknown", said, tr("Nothing was done."))
        return list(self._shelf.entries(result))

    def _entry(self, which: CardFacts | Path | str) -> Entry:
        if isinstance(which, str) and which:
            entry = self._shelf.by_identity(which)
        else:
            path = which.path if isinstance(which, CardFacts) else Path(which)
            entry = self._shelf.entry_at(path.absolute())
        if entry is None:
            raise FoxHandError(
                "card.gone",
                tr("{which} is no card of {name}.", which=which, name=self.name),
                tr("Nothing was changed."),
            )
        return entry

    # -- writing --------------------------------------------------------------------------

    def add(
        self, card: Card, sheet: str, *, rig: Rig | None = None, pictures: Pictures | None = None
    ) -> CardFacts:
        """Write a card into a sheet, which is made where it is not there. A file of that name gets
        a number; a card that is there already is added as another one.

        Args:
            card, sheet: what goes where.
            rig, pictures: who wears it in its picture, and who draws; it has none without them.

        Raises:
            FoxHandError: ``api.empty`` without a name, or if it cannot be written; nothing was
                changed.
        """
        core, files = self._pictured(card, rig, pictures)
        small, large, *motion = files
        if self._shelf.by_identity(core.identity) is not None:  # it is one more, not the same twice
            own = uuid.uuid4().hex
            core = replace(core, identity=own, revision=1, approved_by="", approved_at="")
        return self._seen(self._store.add(_named(core), small, sheet, large, *motion))

    def replace(
        self,
        which: CardFacts | Path | str,
        card: Card,
        *,
        rig: Rig | None = None,
        pictures: Pictures | None = None,
    ) -> CardFacts:
        """Store over a card; the one before becomes an earlier version. Without a rig and pictures
        it keeps the picture it has.

        Raises:
            FoxHandError: ``card.changed_meanwhile`` where somebody has changed it since the facts
                or the card were read, ``card.locked`` if it is approved.
        """
        from fox_hand.api.pictures import files_of

        entry = self._unchanged(which, card)
        if rig is not None and pictures is not None:
            core, (small, large, *motion) = files_of(pictures, card, rig)
            self._store.replace(entry, _named(core), small, large, *motion)
        else:

            def exchanged(now: CoreCard) -> CoreCard:
                return replace(_named(card.core), identity=now.identity, created=now.created)

            self._store.rewrite(entry, exchanged, keep=True)
        return self._seen(entry.path)

    def change(
        self,
        which: CardFacts | Path | str,
        *,
        name: str | None = None,
        tags: Iterable[str] | None = None,
        note: str | None = None,
        author: str | None = None,
        licence: str | None = None,
    ) -> CardFacts:
        """Other words on a card, None leaves them; its values and pictures stay.

        Raises:
            FoxHandError: as :meth:`replace`.
        """
        from fox_hand.api.card import Card
        from fox_hand.library.store import moves

        entry = self._unchanged(which)
        path, own = entry.path, None if tags is None else tuple(tags)

        def reworded(core: CoreCard) -> CoreCard:
            return Card(core).with_words(tags=own, note=note, author=author, licence=licence).core

        if name is not None and not name.strip():
            raise _no_name()
        if (own, note, author, licence) != (None,) * 4:
            moves.reword(self._store, entry, reworded)
        if name is not None and name != entry.name:
            path = self._done(moves.rename(self._store, path, name))
        return self._seen(path)

    def move(self, which: CardFacts | Path | str, sheet: str) -> CardFacts:
        """Into another sheet, which is made where it is not there.

        Raises:
            FoxHandError: if it cannot be moved.
        """
        from fox_hand.library.store import moves

        return self._seen(self._done(moves.move(self._store, self._unchanged(which).path, sheet)))

    def remove(self, which: CardFacts | Path | str) -> Callable[[], CardFacts]:
        """Take a card out. It stays in the library's keep, and what is returned brings it back.

        Raises:
            FoxHandError: if it is locked, or cannot be moved.
        """
        from fox_hand.library.store import moves

        done = moves.take_out(self._store, self._unchanged(which).path)
        self._shelf.look(self._place, done.touched)

        def back() -> CardFacts:
            return self._seen(self._done(done.undo()))

        return back

    def _unchanged(self, which: CardFacts | Path | str, card: Card | None = None) -> Entry:
        """The card that is meant, if it is still the one that was read."""
        from fox_hand.library.store.store import CardChangedError

        entry = self._entry(which)
        same = card is not None and card.identity == entry.identity
        read = [card.revision] if card is not None and same else []
        if isinstance(which, CardFacts):
            read.append(which.revision)
        if any(revision != entry.revision for revision in read):
            raise CardChangedError(entry.name, entry.path, entry.changed_by)
        return entry

    @property
    def _store(self) -> Store:
        assert self._place.library is not None  # it was read when it was opened
        return self._place.library

    def _pictured(
        self, card: Card, rig: Rig | None, pictures: Pictures | None
    ) -> tuple[CoreCard, tuple[bytes | None, ...]]:
        from fox_hand.api.pictures import files_of

        if rig is None or pictures is None:
            return card.core, (None, None)
        return files_of(pictures, card, rig)

    def _done(self, done: Done) -> Path:
        assert done.path is not None
        self._shelf.look(self._place, done.touched)
        return done.path

    def _seen(self, path: Path) -> CardFacts:
        self._shelf.look(self._place, [path])
        return _facts(self._entry(path))

    # -- charts and packs -----------------------------------------------------------------

    def charts(self) -> list[ChartFacts]:
        """Its charts, and which cards fill them. Those that cannot be read are left out; ``fox-hand
        chart check`` says why."""
        from fox_hand.base.work import Progress
        from fox_hand.session.charts.chart_book import read_all, with_likely

        found = []
        for board in with_likely(read_all([self._place], (), Progress()), Progress()).boards:
            slots = {whose: tuple(map(_slot, board.of(whose))) for whose in board.characters}
            found.append(ChartFacts(board.chart.name, slots))
        return found

    def pack(self, out: Path | str, find: str = "") -> int:
        """Write the cards that a search finds as one ``.foxpack`` file; how many there are.

        Raises:
            FoxHandError: ``pack.empty``, ``find.unknown``, or if it cannot be written.
        """
        from fox_hand.library.store.pack import write_pack

        path = Path(out)
        readable = [entry for entry in self._found(find, None) if entry.readable]
        return write_pack(path, path.stem, readable)

    def take_in(self, pack: Path | str, *, both: BothHave = "keep both") -> Sequence[CardFacts]:
        """Cards of a pack, and what it says of sheets where this library says nothing; those that
        came.

        Args:
            pack: the file.
            both: which counts where both have a card and they differ.

        Raises:
            FoxHandError: if the pack is damaged, or a card cannot be written.
        """
        from fox_hand.library.store.pack import News, TakeIn, offers, take_in, take_in_extras
        from fox_hand.session.libraries.packing import own_card

        path, came = Path(pack), []
        chosen = {"theirs": TakeIn.THEIRS, "mine": TakeIn.LEAVE}

        def mine(identity: str) -> Entry | None:
            return own_card(self._shelf, self._place, identity)

        for offer in offers(path, mine):
            differs = offer.news is News.DIFFERENT
            what = chosen.get(both, offer.usual) if differs else offer.usual
            if what is TakeIn.LEAVE:
                continue
            done = take_in(self._store, path, offer, mine(offer.card.id), what)
            if done is not None and done.path is not None:
                came.append(self._seen(self._done(done)))
        take_in_extras(self._store, path)
        self.look_again()
        return came


def _no_name() -> FoxHandError:
    return FoxHandError("api.empty", tr("Give the card a name."), tr("Nothing was changed."))


def _named(core: CoreCard) -> CoreCard:
    """The card, if it has a name."""
    if not core.name.strip():
        raise _no_name()
    return core


def _slot(filling: Filling) -> SlotFacts:
    return SlotFacts(
        filling.slot.name,
        tuple(one.card.path for one in filling.cards),
        filling.slot.wanted,
        tuple(entry.path for entry, _ in filling.proposed),
    )


def _facts(entry: Entry) -> CardFacts:
    if entry.error is not None:
        return CardFacts(entry.path, entry.sheet, entry.error.sentence())
    return CardFacts(
        entry.path,
        entry.sheet,
        "",
        entry.name,
        entry.identity,
        entry.revision,
        entry.kind,
        entry.region.value,
        entry.side,
        entry.count,
        entry.character,
        entry.author,
        entry.changed,
        entry.tags,
        entry.note,
        entry.locked,
    )
