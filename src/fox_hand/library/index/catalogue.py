"""All cards of one library in memory, as a few arrays: filtered and sorted in milliseconds.

Only numbers are kept; what a card is called and who made it is looked up for the few cards that
are visible.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise

import numpy as np

from fox_hand.core.model.skeleton import Index as Rows
from fox_hand.library.index.card_columns import Columns
from fox_hand.library.index.index import REGIONS
from fox_hand.library.index.narrowing import Mask, masks_of
from fox_hand.library.index.query import FitFilter, Query

FEW = 16  # fewer than one row in so many are sorted, more are picked from all


class Sort(StrEnum):
    """In which order the cards of a section stand."""

    NAME = "name"
    NEWEST = "newest"
    USED = "used"
    REGION = "region"
    HAND = "hand"


class Grouping(StrEnum):
    """What makes a section."""

    SHEET = "sheet"
    REGION = "region"
    NOTHING = "nothing"


@dataclass(frozen=True, eq=False)
class Personal:
    """What one person thinks of the cards, by number.

    Args:
        favourites: the cards marked as such.
        used: how often each was put on.
        order: places of cards that were ordered by hand.
    """

    favourites: Collection[int] = ()
    used: Mapping[int, int] | None = None
    order: Mapping[int, int] | None = None


NOBODY = Personal()


@dataclass(frozen=True, eq=False)
class Section:
    """Cards under one heading.

    Args:
        key: the sheet's path, or the region's name, or empty.
        items: numbers of its cards in order, ``(N,)``.
    """

    key: str
    items: Rows


def lies_in(sheet: str, outer: str) -> bool:
    """Whether a sheet is another or lies in it; everything lies in the one without a name."""
    return not outer or sheet == outer or sheet.startswith(f"{outer}/")


class Catalogue:
    """The cards of one library.

    Args:
        columns: from the index.
    """

    def __init__(self, columns: Columns) -> None:
        self._columns = columns
        self._orders: dict[tuple[Sort, Grouping, tuple[str, ...]], tuple[Personal, Rows, Rows]] = {}
        highest = int(columns.items.max(initial=0))
        self._row = np.full(highest + 1, -1, dtype=np.int64)
        self._row[columns.items] = np.arange(len(columns.items))

    def __len__(self) -> int:
        return len(self._columns.items)

    @property
    def columns(self) -> Columns:
        return self._columns

    def select(
        self,
        query: Query,
        matching: Rows | None = None,
        *,
        sort: Sort = Sort.NAME,
        group: Grouping = Grouping.SHEET,
        sheets: Sequence[str] = (),
        personal: Personal | None = None,
        landing: Mapping[int, FitFilter] | None = None,
        within: Collection[str] = (),
        above: int = 0,
    ) -> list[Section]:
        """Cards that a query finds, in sections.

        Args:
            query: everything but its words.
            matching: numbers of the cards its words match; None if it has none.
            sort, group: how to put them.
            sheets: sheets in the order of the library; others follow by name.
            personal: favourites, uses and hand-made order.
            landing: by shape, how much of it lands on the character that acts.
            within: only these sheets and those in them; none for all.
            above: is added to every number.
        """
        personal = personal or NOBODY
        rows = np.flatnonzero(self.kept(query, matching, personal, landing, within))
        order, rank = self._order(sort, group, tuple(sheets), personal)
        if len(rows) < len(order) // FEW:
            rows = rows[np.argsort(rank[rows])]
        else:
            keep = np.zeros(len(order), dtype=bool)
            keep[rows] = True
            rows = order[keep[order]]
        return self._sections(rows, group, above)

    def kept(
        self,
        query: Query,
        matching: Rows | None,
        personal: Personal,
        landing: Mapping[int, FitFilter] | None,
        within: Collection[str] = (),
    ) -> Mask:
        """Whether each card is found, ``(N,)``; arguments as of :meth:`select`."""
        keep = self.kept_by_words(matching, within)
        if query.nothing:
            keep = np.zeros_like(keep)
        for _, mask in masks_of(self._columns, query, personal.favourites, landing):
            keep &= mask
        return keep

    def kept_by_words(self, matching: Rows | None, within: Collection[str] = ()) -> Mask:
        """Whether words match each card that lies in some sheets, ``(N,)``; all of them where
        there are no words and no sheets."""
        c = self._columns
        keep = np.full(len(c.items), matching is None)
        if matching is not None:
            keep[self._rows_of(matching)] = True
        if within:
            whole = set(within)
            above = tuple(f"{sheet}/" for sheet in within)
            inside = ["" in whole or n in whole or n.startswith(above) for n in c.sheet_names]
            keep &= np.array([*inside, False], dtype=bool)[c.sheets]
        return keep

    def _rows_of(self, items: Rows) -> Rows:
        """Rows of some cards; one may be younger than this catalogue and is left out."""
        rows = self._row[items[items < len(self._row)]]
        return rows[rows >= 0]

    def _order(
        self, sort: Sort, group: Grouping, sheets: tuple[str, ...], personal: Personal
    ) -> tuple[Rows, Rows]:
        """All rows in order, and of each row its place in that order."""
        known = self._orders.get((sort, group, sheets))
        if known is not None and known[0] is personal:
            return known[1:]
        c = self._columns
        rows = np.arange(len(c.items))  # already by name
        if sort is Sort.NEWEST:
            rows = np.argsort(-c.changed, kind="stable")
        elif sort is Sort.REGION:
            rows = np.argsort(c.regions, kind="stable")
        elif sort is Sort.USED:
            rows = np.argsort(-self._spread(personal.used or {}, 0), kind="stable")
        elif sort is Sort.HAND:
            rows = np.argsort(self._spread(personal.order or {}, 1 << 30), kind="stable")
        if group is Grouping.SHEET:
            rows = rows[np.argsort(self._sheet_rank(sheets)[c.sheets[rows]], kind="stable")]
        elif group is Grouping.REGION:
            rows = rows[np.argsort(c.regions[rows], kind="stable")]
        rank = np.empty_like(rows)
        rank[rows] = np.arange(len(rows))
        self._orders[sort, group, sheets] = personal, rows, rank
        return rows, rank

    def _spread(self, values: Mapping[int, int], otherwise: int) -> Rows:
        found = np.full(len(self._columns.items), otherwise, dtype=np.int64)
        for item, value in values.items():
            row = int(self._row[item]) if 0 <= item < len(self._row) else -1
            if row >= 0:
                found[row] = value
        return found

    def _sheet_rank(self, sheets: Sequence[str]) -> Rows:
        names = self._columns.sheet_names
        place = {sheet: i for i, sheet in enumerate(sheets)}
        place[""] = -1  # loose cards come first
        last = len(sheets)
        return np.array([place.get(s, last + i) for i, s in enumerate(names)], dtype=np.int64)

    def _sections(self, rows: Rows, group: Grouping, above: int) -> list[Section]:
        c = self._columns
        if not len(rows):
            return []
        if group is Grouping.NOTHING:
            return [Section("", c.items[rows] + above)]
        whole = c.sheets if group is Grouping.SHEET else c.regions
        words = c.sheet_names if group is Grouping.SHEET else tuple(r.value for r in REGIONS)
        values = whole[rows]
        cuts = [0, *(np.flatnonzero(values[1:] != values[:-1]) + 1).tolist(), len(rows)]
        items = c.items[rows] + above
        return [
            Section(words[int(values[start])], items[start:end]) for start, end in pairwise(cuts)
        ]
