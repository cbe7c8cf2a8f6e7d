"""Finding cards over open libraries: by words, filters and order; a word is forgiven."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from fox_hand.core.rig.rig import Rig
from fox_hand.library.index.catalogue import Grouping
from fox_hand.library.index.index import IndexDamagedError
from fox_hand.library.index.query import Query, parse
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
                notes.append(f"Nothing has “{typed}”. These have “{meant}”.")
        return Result(tuple(found), " ".join(notes))

    def _select(self, query: Query, request: Request, rig: Rig | None) -> list[Shown]:
        found = []
        places = [p for p in self._places if request.only in (None, p.number)]
        for place in places:
            if place.catalogue is None or place.reading is None:
                continue
            try:
                matching = place.reading.index.matching(query.text) if query.text else None
            except IndexDamagedError:
                self._damaged(place)  # which makes it anew
                continue
            sections = place.catalogue.select(
                query,
                matching,
                sort=request.sort,
                group=request.group,
                sheets=place.sheets,
                personal=place.personal,
                landing=place.landing(rig) if query.fits is not None else None,
            )
            filled = {section.key: section.items for section in sections}
            if request.group is Grouping.SHEET and query.empty:  # empty sheets are there too
                empty = np.zeros(0, dtype=np.int64)
                loose = [""] if "" in filled else []
                filled = {s: filled.get(s, empty) for s in (*loose, *place.sheets)}
            for key, items in filled.items():
                title = _title(key, request.group, place.sheets)
                sheet = key if request.group is Grouping.SHEET else None
                colour = place.colour(sheet) if sheet is not None else ""
                keys = items + (place.number << BITS)
                found.append(Shown(place, key, title, keys, colour, sheet))
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


def _title(key: str, group: Grouping, sheets: Sequence[str]) -> str:
    """The last part of a sheet's path; where another sheet ends the same, with the one above."""
    if group is Grouping.SHEET:
        above, _, last = key.rpartition("/")
        alike = sum(sheet.rpartition("/")[2] == last for sheet in sheets)
        if above and alike > 1:
            return f"{above.rpartition('/')[2]} / {last}"
        return last or "Loose cards"
    return key.capitalize() or "All cards"
