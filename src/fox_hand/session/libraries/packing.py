"""Packs out of the libraries and into them."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from functools import partial
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.library.format.entry import Entry
from fox_hand.library.store.moves import Done
from fox_hand.library.store.pack import Offer, TakeIn, take_in, take_in_extras
from fox_hand.library.store.store import Library
from fox_hand.session.libraries.file_jobs import FileJobs, Outcome, Task
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.open_library import OpenLibrary


def own_card(open_libraries: OpenLibraries, place: OpenLibrary, identity: str) -> Entry | None:
    """The card of a library with an identity."""
    item = place.item_of(identity)
    return open_libraries.entry(open_libraries.key_of(place, item)) if item is not None else None


def take_pack(
    file_jobs: FileJobs,
    open_libraries: OpenLibraries,
    place: OpenLibrary,
    pack: Path,
    chosen: Sequence[tuple[Offer, TakeIn]],
    then: Callable[[Outcome], None] | None = None,
) -> int:
    """Take cards of a pack into a library, as one step; returns how many."""
    library = place.library
    if library is None:
        return 0
    owns: Mapping[str, Entry | None] = {
        o.card.id: own_card(open_libraries, place, o.card.id) for o, _ in chosen
    }
    tasks: list[tuple[str, Task]] = [
        (offer.card.name, partial(_taken, library, pack, offer, owns[offer.card.id], what))
        for offer, what in chosen
        if what is not TakeIn.LEAVE
    ]
    if tasks:
        tasks.append((tr("the sheets of {stem}", stem=pack.stem), partial(_sheets, library, pack)))
        file_jobs.do(tr("Take in {stem}", stem=pack.stem), tasks, then)
    return len(tasks) - 1 if tasks else 0


def _sheets(library: Library, pack: Path) -> Done:
    done = take_in_extras(library, pack)
    return done if done is not None else Done(library, (), partial(_sheets, library, pack))


def _taken(library: Library, pack: Path, offer: Offer, own: Entry | None, what: TakeIn) -> Done:
    done = take_in(library, pack, offer, own, what)
    if done is None:
        raise FoxHandError("pack.nothing", tr("{name} was left.", name=offer.card.name), "")
    return done
