"""Names that cards have already, to be offered where somebody types one."""

from __future__ import annotations

from collections.abc import Iterable

from fox_hand.library.index.card_columns import Columns
from fox_hand.session.libraries.open_library import OpenLibrary


def known_tags(places: Iterable[OpenLibrary]) -> list[str]:
    """All tags of the open libraries, sorted."""
    return _sorted(name for columns in _columns(places) for name in columns.tags.names)


def known_authors(places: Iterable[OpenLibrary], own: str = "") -> list[str]:
    """Whoever made a card, sorted; also ``own``, which may have made none yet."""
    names = (name for columns in _columns(places) for name in columns.authors.names)
    return _sorted((own, *names))


def known_characters(places: Iterable[OpenLibrary]) -> list[str]:
    """Whose cards there are, sorted."""
    return _sorted(name for columns in _columns(places) for name in columns.characters.names)


def known_sheets(place: OpenLibrary | None) -> list[str]:
    """The sheets of one library, as they are written."""
    return [] if place is None else _sorted(place.sheets)


def _columns(places: Iterable[OpenLibrary]) -> list[Columns]:
    """Of those that have been read."""
    return [place.reading.columns for place in places if place.reading is not None]


def _sorted(names: Iterable[str]) -> list[str]:
    return sorted({name for name in names if name}, key=str.casefold)
