"""Finding cards over open libraries: by words, filters and order; a word is forgiven."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import replace

import numpy as np

from fox_hand.base.language import tr
from fox_hand.core.model.skeleton import Index as Rows
from fox_hand.core.rig.rig import Rig
from fox_hand.library.index.catalogue import Grouping
from fox_hand.library.index.facets import Facet, count_values, facets_of
from fox_hand.library.index.index import IndexDamagedError
from fox_hand.library.index.query import FitFilter, Query, parse
from fox_hand.library.index.spelling import nearest_words
from fox_hand.session.libraries.open_library import BITS, OpenLibrary
from fox_hand.session.libraries.request import Request, Result, Shown


class CardSearch:
    """Looks in some libraries.

    Args:
        places: the libraries.
        damaged: told of one whose index cannot be read.
    """

    def __init__(
        self, places: Sequence[OpenLibrary], damaged: Callable[[OpenLibrary], None]
    ) -> None:
        self._places, self._damaged = places, damaged

    def find(self, request: Request, rig: Rig | None = None) -> Result:
        """Cards that were asked for. Where no card has a word as it was typed, the nearest word
        that some card has is looked for instead, and the note says so."""
        query = parse(request.text).together(request.query)
        found = self._select(query, request, rig)
        notes = list(query.problems)
        if not found and query.words:
            other = self._respelled(query)
            if other is not None:
                found = self._select(other, request, rig)
                typed, meant = " ".join(query.words), " ".join(other.words)
                notes.append(
                    tr("Nothing has “{typed}”. These have “{meant}”.", typed=typed, meant=meant)
                )
        return Result(tuple(found), " ".join(notes))

    def count(self, text: str, rig: Rig | None = None) -> int:
        """How many cards a text finds in all libraries."""
        query = parse(text)
        kept = (
            place.catalogue.kept(query, words, place.personal, _landing(place, query, rig))
            for place, words in self._matching(query, Request())
            if place.catalogue is not None
        )
        return sum(int(np.count_nonzero(mask)) for mask in kept)

    def facets(self, request: Request, rig: Rig | None = None) -> tuple[Facet, ...]:
        """By what the cards that are found can be told apart, and how many there are of each."""
        query = parse(request.text).together(request.query)
        counts = []
        for place, words in self._matching(query, request):
            if place.catalogue is None:
                continue
            kept = place.catalogue.kept_by_words(words, request.sheets_in(place))
            columns, favourites = place.catalogue.columns, place.personal.favourites
            counts.append(count_values(columns, kept, query, favourites, place.landing(rig)))
        return facets_of(request.text, counts)

    def _matching(
        self, query: Query, request: Request
    ) -> Iterator[tuple[OpenLibrary, Rows | None]]:
        """Libraries that are looked in, and which of their cards have the words."""
        for place in list(self._places):
            if place.catalogue is None or place.reading is None or not request.reaches(place):
                continue
            try:
                yield place, place.reading.index.matching(query.text) if query.text else None
            except IndexDamagedError:
                self._damaged(place)  # which makes it anew

    def _select(self, query: Query, request: Request, rig: Rig | None) -> list[Shown]:
        found = []
        for place, matching in self._matching(query, request):
            if place.catalogue is None:
                continue
            within = request.sheets_in(place)
            sections = place.catalogue.select(
                query,
                matching,
                sort=request.sort,
                group=request.group,
                sheets=place.sheets,
                personal=place.personal,
                landing=_landing(place, query, rig),
                within=within,
                above=place.number << BITS,
            )
            filled = {section.key: section.items for section in sections}
            if request.group is Grouping.SHEET and query.empty:  # empty sheets are there too
                empty = np.zeros(0, dtype=np.int64)
                loose = [""] if "" in filled else []
                above = tuple(f"{sheet}/" for sheet in within)
                asked = (
                    s for s in place.sheets if not within or s in within or s.startswith(above)
                )
                filled = {s: filled.get(s, empty) for s in (*loose, *asked)}
            found += [_shown(place, key, items, request.group) for key, items in filled.items()]
        return found

    def _respelled(self, query: Query) -> Query | None:
        words: set[str] = set()
        for place in self._places:
            if place.reading is not None:
                words.update(place.reading.index.vocabulary())
        meant = nearest_words(query.words, words)
        if meant is None or meant == query.words:
            return None
        return replace(query, words=meant)


def _landing(place: OpenLibrary, query: Query, rig: Rig | None) -> Mapping[int, FitFilter] | None:
    return place.landing(rig) if query.fits else None


def _shown(place: OpenLibrary, key: str, keys: Rows, group: Grouping) -> Shown:
    if group is not Grouping.SHEET:
        return Shown(place, key, key.capitalize() or tr("All cards"), keys)
    node = place.node(key)
    title = key.replace("/", " / ") or tr("Loose cards")
    whose = node.whose if node is not None else ""
    return Shown(place, key, title, keys, place.colour(key), key, whose)
