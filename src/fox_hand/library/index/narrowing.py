"""Which cards each filter of a query keeps."""

from __future__ import annotations

import datetime
import time
from collections.abc import Callable, Collection, Iterator, Mapping

import numpy as np
from numpy.typing import NDArray

from fox_hand.library.index.card_columns import Columns, Named
from fox_hand.library.index.index import REGIONS
from fox_hand.library.index.index_rows import SIDES
from fox_hand.library.index.query import KINDS, FitFilter, NamedFilter, Query, words_of

DAY = 86_400
Mask = NDArray[np.bool_]


def masks_of(
    columns: Columns,
    query: Query,
    favourites: Collection[int],
    landing: Mapping[int, FitFilter] | None,
) -> Iterator[tuple[str, Mask]]:
    """Every filter that a query has: its key as it is typed, and whether it keeps each card.

    Args:
        columns: the cards.
        query: everything but its words.
        favourites: numbers of the cards marked so.
        landing: by shape, how much of it lands on who acts; None while nobody does.

    Yields:
        key and ``(N,)``.
    """
    c = columns
    known = c.readable > 0  # nobody knows where the others belong
    if query.regions:
        yield "region", known & np.isin(c.regions, [REGIONS.index(r) for r in query.regions])
    if query.sides:
        yield "side", known & np.isin(c.sides, [SIDES.index(s) for s in query.sides])
    if query.fits:
        yield "fits", known if landing is None else known & fits(c, query.fits, landing)
    if query.kind is not None:
        yield "kind", c.kinds == list(KINDS).index(query.kind)
    if query.days:
        yield "new", changed_within(c, query.days)
    if query.locked is not None:
        yield "approved", (c.locked > 0) == query.locked
    if query.favourites:
        yield "favourite", np.isin(c.items, np.fromiter(favourites, dtype=np.int64))
    for one in query.names:
        yield one.key, _named(c, one)


def changed_within(columns: Columns, days: int) -> Mask:
    """Cards that were changed in the last days, ``(N,)``."""
    return columns.changed >= time.time() - days * DAY


def changed_by_others(columns: Columns, before: str, mine: Collection[str]) -> Mask:
    """Cards that somebody else made or changed after a moment, ``(N,)``.

    Args:
        columns: the cards.
        before: the moment, RFC 3339; empty for none of them.
        mine: names of who does not count.
    """
    try:
        moment = datetime.datetime.fromisoformat(before).timestamp()
    except ValueError:
        return np.zeros(len(columns.items), dtype=bool)
    others = np.array([*(name not in mine for name in columns.changers.names), False], dtype=bool)
    found: Mask = (columns.changed > moment) & others[columns.changers.codes]
    return found


def fits(columns: Columns, wanted: Collection[FitFilter], landing: Mapping[int, FitFilter]) -> Mask:
    """Cards that land as much as wanted, ``(N,)``; what lands whole lands in part, too."""
    any_of = set(wanted) | ({FitFilter.ALL} if FitFilter.SOME in wanted else set())
    return np.isin(columns.shapes, [shape for shape, fit in landing.items() if fit in any_of])


def plain(name: str) -> str:
    """A name as filters compare it: in lower case, and without quotes, which cannot be typed."""
    return name.replace('"', "").casefold().strip()


def _named(columns: Columns, one: NamedFilter) -> Mask:
    if one.key == "tag":
        tags, found = columns.tags, np.zeros(len(columns.items), dtype=bool)
        found[tags.rows[_codes(tags.names, one, _begins)[tags.codes]]] = True
        return found
    if one.key == "sheet":
        return _codes(columns.sheet_names, one, _lies_in)[columns.sheets]
    column: Named = columns.authors if one.key == "by" else columns.characters
    return _codes(column.names, one, _begins)[column.codes]


def _codes(
    names: tuple[str, ...], one: NamedFilter, matches: Callable[[str, NamedFilter], bool]
) -> Mask:
    """Whether each name is meant, with one false at the end so that none may be looked up."""
    return np.array([matches(plain(name), one) for name in names] or [False], dtype=bool)


def _begins(name: str, one: NamedFilter) -> bool:
    if name in one.whole:
        return True
    words = words_of(name)
    return any(
        all(any(word.startswith(part) for word in words) for part in words_of(begun))
        for begun in one.begun
        if words_of(begun)
    )


def _lies_in(name: str, one: NamedFilter) -> bool:
    inside = any(name == sheet or name.startswith(f"{sheet}/") for sheet in one.whole)
    return inside or _begins(name, one)
