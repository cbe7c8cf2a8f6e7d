"""Searches that a library keeps for everybody, each change with its way back."""

from __future__ import annotations

from dataclasses import replace

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.library.format.library_file import KeptSearch, LibraryFile
from fox_hand.library.store.moves import Done
from fox_hand.library.store.store import Library

UNTOUCHED = tr("The kept searches are as they were.")


def add(library: Library, search: KeptSearch, at: int | None = None) -> Done:
    """Keep a search; at the end, or where it was.

    Raises:
        FoxHandError: ``search.exists`` or ``file.write``.
    """

    def change(file: LibraryFile) -> LibraryFile:
        if search.name in (one.name for one in file.searches):
            raise FoxHandError(
                "search.exists",
                tr("{name} keeps a search {name_2} already.", name=file.name, name_2=search.name),
                UNTOUCHED,
                tr("Give it another name."),
            )
        kept = list(file.searches)
        kept.insert(len(kept) if at is None else at, search)
        return replace(file, searches=tuple(kept))

    library.change_file(change)
    return Done(library, (), lambda: remove(library, search.name), whole=True)


def remove(library: Library, name: str) -> Done:
    """Keep a search no longer; one that is gone already is no error."""
    before = library.change_file(
        lambda file: replace(file, searches=tuple(s for s in file.searches if s.name != name))
    ).searches
    for at, search in enumerate(before):
        if search.name == name:
            return Done(library, (), lambda: add(library, search, at), whole=True)  # noqa: B023
    return Done(library, (), lambda: remove(library, name), whole=True)


def change(library: Library, name: str, wanted: KeptSearch) -> Done:
    """Another name or text for a kept search.

    Raises:
        FoxHandError: ``search.exists``, ``search.gone`` or ``file.write``.
    """

    def changed(file: LibraryFile) -> LibraryFile:
        names = [one.name for one in file.searches]
        if name not in names:
            raise FoxHandError(
                "search.gone",
                tr("{name} does not keep a search {name_2} any more.", name=file.name, name_2=name),
                UNTOUCHED,
            )
        if wanted.name != name and wanted.name in names:
            raise FoxHandError(
                "search.exists",
                tr("{name} keeps a search {name_2} already.", name=file.name, name_2=wanted.name),
                UNTOUCHED,
            )
        kept = tuple(wanted if one.name == name else one for one in file.searches)
        return replace(file, searches=kept)

    before = library.change_file(changed).searches
    was = next(one for one in before if one.name == name)
    return Done(library, (), lambda: change(library, wanted.name, was), whole=True)
