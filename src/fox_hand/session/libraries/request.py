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
        within: only these sheets and those in them, each with the number of its library; the
            empty name stands for the whole library. None for all there are.
    """

    text: str = ""
    query: Query = field(default_factory=Query)
    sort: Sort = Sort.NAME
    group: Grouping = Grouping.SHEET
    only: int | None = None
    within: tuple[tuple[int, str], ...] = ()

    def reaches(self, place: OpenLibrary) -> bool:
        """Whether a library is looked in at all."""
        inside = not self.within or any(number == place.number for number, _ in self.within)
        return inside and self.only in (None, place.number)

    def sheets_in(self, place: OpenLibrary) -> tuple[str, ...]:
        """To which sheets of a library it is narrowed; none for all."""
        wanted = tuple(sheet for number, sheet in self.within if number == place.number)
        return () if "" in wanted else wanted


@dataclass(frozen=True)
class EmptyCell:
    """A place among a sheet's cards where one is missing.

    Args:
        cell: which place, counted with those of the cards.
        name: of what is missing.
        slot: keys of the chart and its slot, and whose.
    """

    cell: int
    name: str
    slot: tuple[tuple[int, str], str, str]


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
        whose: characters its cards are of, where the title does not say it.
        cells: where each card lies, if not one after the other, ``(N,)``.
        empty: places between them where a card is missing.
    """

    place: OpenLibrary
    key: str
    title: str
    keys: Rows
    colour: str = ""
    sheet: str | None = None
    whose: str = ""
    cells: tuple[int, ...] = ()
    empty: tuple[EmptyCell, ...] = ()

    @property
    def places(self) -> int:
        """How many places its cards and the empty ones take."""
        return len(self.keys) + len(self.empty)


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
