"""Searches that are kept: a library's for everybody, and one's own."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.library.format.library_file import KeptSearch
from fox_hand.library.store import search_moves
from fox_hand.library.store.moves import Done
from fox_hand.session.figures.figure import ChangeStep
from fox_hand.session.libraries.file_jobs import FileJobs
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.session.runtime.history import History


@dataclass(frozen=True)
class Kept:
    """A search as it is listed.

    Args:
        name, text: what it is called, and what it looks for.
        place: the library that keeps it for everybody; None for one's own.
    """

    name: str
    text: str
    place: OpenLibrary | None = None

    @property
    def key(self) -> tuple[int, str]:
        """What tells it from others."""
        return (self.place.number if self.place is not None else 0), self.name


class KeptSearches:
    """Every change is one undo step.

    Args:
        open_libraries: which keep some.
        file_jobs: changes those of libraries.
        history: where changes of one's own go.
    """

    def __init__(
        self, open_libraries: OpenLibraries, file_jobs: FileJobs, history: History
    ) -> None:
        self._open_libraries, self._file_jobs, self._history = open_libraries, file_jobs, history

    def all(self) -> list[Kept]:
        """Those of the libraries in their order, then one's own."""
        found = [
            Kept(search.name, search.text, place)
            for place in self._open_libraries.places
            if place.library is not None
            for search in place.library.file.searches
        ]
        own = self._open_libraries.personal.searches
        return found + [Kept(name, text) for name, text in own.items()]

    def keep(self, name: str, text: str, place: OpenLibrary | None = None) -> None:
        """Keep what is looked for under a name.

        Raises:
            FoxHandError: ``search.exists`` where one of one's own is called so.
        """
        if place is None:
            own = self._open_libraries.personal.searches
            self._change_own(tr("Keep {name}", name=name), {**self._free(name, own), name: text})
        else:
            search = KeptSearch(name, text)
            self._do(
                tr("Keep {name}", name=name),
                place,
                lambda library: search_moves.add(library, search),
            )

    def remove(self, kept: Kept) -> None:
        """Keep it no longer."""
        label = tr("Forget {name}", name=kept.name)
        if kept.place is None:
            own = self._open_libraries.personal.searches
            own.pop(kept.name, None)
            self._change_own(label, own)
        else:
            self._do(label, kept.place, lambda library: search_moves.remove(library, kept.name))

    def change(self, kept: Kept, name: str, text: str) -> None:
        """Another name or text.

        Raises:
            FoxHandError: ``search.exists`` where another of one's own is called so.
        """
        label = (
            tr("Rename {name}", name=kept.name)
            if name != kept.name
            else tr("Change {name}", name=kept.name)
        )
        if kept.place is not None:
            wanted = KeptSearch(name, text)
            change = partial(search_moves.change, name=kept.name, wanted=wanted)
            self._do(label, kept.place, change)
            return
        own = self._open_libraries.personal.searches
        if name != kept.name:
            self._free(name, own)
        changed = {
            (name if one == kept.name else one): (text if one == kept.name else old)
            for one, old in own.items()
        }
        self._change_own(label, changed)

    def _free(self, name: str, own: dict[str, str]) -> dict[str, str]:
        if name in own:
            raise FoxHandError(
                "search.exists",
                tr("You keep a search {name} already.", name=name),
                tr("It is as it was."),
                tr("Give this one another name."),
            )
        return own

    def _do(self, label: str, place: OpenLibrary, work: Callable[..., Done]) -> None:
        if place.library is not None:
            self._file_jobs.do(label, [(label, partial(work, place.library))])

    def _change_own(self, label: str, wanted: dict[str, str]) -> None:
        personal = self._open_libraries.personal
        before = personal.searches

        def set_to(searches: dict[str, str]) -> None:
            personal.set_searches(searches)
            self._open_libraries.changed.emit()

        set_to(wanted)
        self._history.push(ChangeStep(label, lambda: set_to(before), lambda: set_to(wanted)))
