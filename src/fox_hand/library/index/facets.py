"""Facets: by what cards can be told apart, and how many there are of each."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from fox_hand.base.language import tr
from fox_hand.core.model.skeleton import Index as Rows
from fox_hand.core.naming.part_words import REGIONS as PARTS
from fox_hand.core.naming.part_words import SIDES as SIDE_NAMES
from fox_hand.library.index.card_columns import Columns, Named
from fox_hand.library.index.index import REGIONS
from fox_hand.library.index.index_rows import SIDES
from fox_hand.library.index.narrowing import Mask, changed_within, fits, masks_of, plain
from fox_hand.library.index.query import KINDS, FitFilter, Query, filter_values, parse

FACETS = {  # by the filter that is written for them
    "character": tr("Character"),
    "region": tr("Region"),
    "side": tr("Side"),
    "tag": tr("Tags"),
    "by": tr("Author"),
    "kind": tr("Kind"),
    "fits": tr("Fits"),
    "approved": tr("Approved"),
    "new": tr("Changed"),
    "favourite": tr("Yours"),
}
BY_NAME = ("character", "tag", "by")  # whose values are quoted, and stand by number
Counts = dict[str, int]
CHANGED = {"today": 1, "week": 7, "month": 31}
WORDS: dict[tuple[str, str], str] = {
    ("side", "left"): "L",
    ("side", "right"): "R",
    ("fits", "all"): tr("wholly"),
    ("fits", "some"): tr("in part or wholly"),
    ("fits", "none"): tr("not"),
    ("approved", "yes"): tr("yes"),
    ("approved", "no"): tr("not yet"),
    ("kind", "pose"): tr("poses"),
    ("kind", "clip"): tr("clips"),
    ("kind", "drawing"): tr("drawings"),
    ("favourite", "yes"): tr("favourites"),
    ("new", "week"): tr("this week"),
    ("new", "month"): tr("this month"),
    ("new", "today"): tr("today"),
    **{("region", str(region)): word for region, word in PARTS.items()},
    ("side", "centre"): SIDE_NAMES["centre"],
    ("side", "both"): tr("both"),
}


@dataclass(frozen=True)
class FacetValue:
    """One of the values of a facet.

    Args:
        token: as it is written behind the filter.
        word: as it is shown.
        count: cards that have it, among those all other facets leave.
        chosen: whether it is asked for.
    """

    token: str
    word: str
    count: int
    chosen: bool = False


@dataclass(frozen=True)
class Facet:
    """A row of values; of several chosen ones, any.

    Args:
        key: the filter.
        word: as it is shown.
        values: those that occur, and those that are chosen.
    """

    key: str
    word: str
    values: tuple[FacetValue, ...]

    def switched(self, token: str) -> tuple[str, ...]:
        """What is chosen when one value is pressed."""
        return tuple(v.token for v in self.values if v.chosen is not (v.token == token))


def count_values(
    columns: Columns,
    kept: Mask,
    query: Query,
    favourites: Collection[int],
    landing: Mapping[int, FitFilter] | None,
) -> dict[str, Counts]:
    """By facet and value, how many cards of one library have it.

    Args:
        columns: the cards.
        kept: whether the words of the search match each, ``(N,)``.
        query: its filters. Those of a facet do not narrow its own row.
        favourites, landing: as of :func:`fox_hand.library.index.narrowing.masks_of`.
    """
    masks = list(masks_of(columns, query, favourites, landing))
    mine = np.isin(columns.items, np.fromiter(favourites, dtype=np.int64))
    found = {}
    for facet in FACETS:
        rest = kept & (not query.nothing)
        for key, mask in masks:
            if key != facet:
                rest = rest & mask
        if facet == "fits":
            found[facet] = _landing(columns, rest, landing)
        elif facet == "favourite":
            found[facet] = {"yes": _true(rest & mine)}
        else:
            found[facet] = COUNTED[facet](columns, rest)
    return found


def _regions(c: Columns, rest: Mask) -> Counts:
    counts = _bins(c.regions[rest & (c.readable > 0)], len(REGIONS))
    return {region.value: count for region, count in zip(REGIONS, counts, strict=True)}


def _sides(c: Columns, rest: Mask) -> Counts:
    counts = _bins(c.sides[rest & (c.readable > 0)], len(SIDES))
    each = dict(zip(SIDES, counts, strict=True))
    both = each["both"]  # which is asked for with either side
    return {s: n + both * (s in ("left", "right")) for s, n in each.items()}


def _named(column: Named, rest: Mask) -> Counts:
    counts = _bins(column.codes[rest], len(column.names))
    return dict(zip(column.names, counts, strict=True))


def _tags(c: Columns, rest: Mask) -> Counts:
    counts = _bins(c.tags.codes[rest[c.tags.rows]], len(c.tags.names))
    return dict(zip(c.tags.names, counts, strict=True))


def _kinds(c: Columns, rest: Mask) -> Counts:
    return {word: _true(rest & (c.kinds == n)) for n, word in enumerate(KINDS)}


def _approved(c: Columns, rest: Mask) -> Counts:
    locked = _true(rest & (c.locked > 0))
    return {"yes": locked, "no": _true(rest) - locked}


def _changed(c: Columns, rest: Mask) -> Counts:
    return {word: _true(rest & changed_within(c, days)) for word, days in CHANGED.items()}


def _landing(c: Columns, rest: Mask, landing: Mapping[int, FitFilter] | None) -> Counts:
    if landing is None:
        return {}
    known = rest & (c.readable > 0)
    found = {fit.value: _true(known & fits(c, [fit], landing)) for fit in FitFilter}
    if found["some"] == found["all"]:
        found.pop("some")  # it says nothing more
    return found


COUNTED: Mapping[str, Callable[[Columns, Mask], Counts]] = {
    "character": lambda c, rest: _named(c.characters, rest),
    "region": _regions,
    "side": _sides,
    "tag": _tags,
    "by": lambda c, rest: _named(c.authors, rest),
    "kind": _kinds,
    "approved": _approved,
    "new": _changed,
}


def _bins(codes: Rows, least: int) -> list[int]:
    found: list[int] = np.bincount(codes, minlength=max(least, 0)).tolist()
    return found


def _true(mask: Mask) -> int:
    return int(np.count_nonzero(mask))


def facets_of(text: str, counts: Sequence[Mapping[str, Mapping[str, int]]]) -> tuple[Facet, ...]:
    """All facets that have something to tell apart.

    Args:
        text: what is typed; what it says of a facet is chosen there.
        counts: of each library, see :func:`count_values`.
    """
    found = []
    for key, word in FACETS.items():
        summed: dict[str, int] = {}
        for one in counts:
            for value, count in one.get(key, {}).items():
                summed[value] = summed.get(value, 0) + count
        chosen = chosen_values(text, key)
        values = _values(key, summed, chosen)
        if len(values) > 1 or any(v.chosen for v in values) or (key == "favourite" and values):
            found.append(Facet(key, word, values))
    return tuple(found)


def _values(key: str, counts: Mapping[str, int], chosen: frozenset[str]) -> tuple[FacetValue, ...]:
    shown = {plain(value): value for value in counts if plain(value)}
    shown |= {value: value for value in chosen - set(shown)}  # which can be taken off
    values = [
        FacetValue(
            f'"{value.replace(chr(34), "")}"' if key in BY_NAME else value,
            WORDS.get((key, value), value),
            counts.get(value, 0),
            name in chosen,
        )
        for name, value in shown.items()
        if counts.get(value, 0) or name in chosen
    ]
    if key in BY_NAME:
        values.sort(key=lambda v: (-v.count, v.word.casefold()))
    return tuple(values)


def chosen_values(text: str, key: str) -> frozenset[str]:
    """Values of a facet that a text asks for."""
    query = parse(text)
    if key == "region":
        return frozenset(region.value for region in query.regions)
    values = frozenset(filter_values(text, key))
    if key == "side":
        return frozenset({"l": "left", "r": "right"}.get(value, value) for value in values)
    if key in BY_NAME:
        whole = (one.whole for one in query.names if one.key == key)
        return frozenset().union(*whole)
    return values
