"""What is asked of the shelf, and what it gives."""

from __future__ import annotations

from dataclasses import dataclass, field

from fox_hand.core.model.skeleton import Index as Rows
from fox_hand.library.index.catalogue import Grouping, Sort
from fox_hand.library.index.query import Query
from fox_hand.session.libraries.open_library import OpenLibrary


@dataclass(frozen=True)
class Request:
    """What is to be shown.

    Args:
        text: what was typed.
        query: filters that were chosen by hand, together with what was typed.
        sort, group: how to put it.
        only: number of the one library to look in; None for all.
    """

    text: str = ""
    query: Query = field(default_factory=Query)
    sort: Sort = Sort.NAME
    group: Grouping = Grouping.SHEET
    only: int | None = None


@dataclass(frozen=True, eq=False)
class Shown:
    """Cards under one heading.

    Args:
        place: the library they are in.
        key: the sheet's path, or what else the section stands for.
        title: as shown.
        keys: which cards, ``(N,)``; see :meth:`OpenLibraries.entry`.
        colour: of a sheet that was given one, ``#rrggbb``; else empty.
        sheet: the sheet's path, where the section is a sheet.
    """

    place: OpenLibrary
    key: str
    title: str
    keys: Rows
    colour: str = ""
    sheet: str | None = None


@dataclass(frozen=True, eq=False)
class Result:
    """What a search gave.

    Args:
        sections: in order.
        note: a sentence, such as what was looked for instead; empty if there is none.
    """

    sections: tuple[Shown, ...]
    note: str = ""

    @property
    def count(self) -> int:
        return sum(len(section.keys) for section in self.sections)
