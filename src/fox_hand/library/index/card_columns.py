"""What is known of all cards of a library at once: numbers, and few names with their numbers."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any, Protocol

import numpy as np

from fox_hand.core.model.skeleton import Index as Rows
from fox_hand.library.index.index_rows import as_named

TOGETHER = 400  # rows that are made into numbers at once; the window cannot answer meanwhile
CARDS = (
    "SELECT id, sheet, character, author, changed_by, tags, region, side, shape, changed_at, "
    "code = '', approved_by || approved_at <> '', (kind = 'clip') + 2 * (kind = 'drawing') "
    "FROM card ORDER BY ordered, id"
)


class Found(Protocol):
    """Rows of the index."""

    def fetchmany(self, size: int, /) -> list[Any]: ...


@dataclass(frozen=True, eq=False)
class Named:
    """One of a few names for each card.

    Args:
        codes: which of the names, ``(N,)``.
        names: each once, sorted.
    """

    codes: Rows
    names: tuple[str, ...]


@dataclass(frozen=True, eq=False)
class Tags:
    """Any number of names for each card.

    Args:
        rows, codes: row of a card and which of the names it has, ``(M,)`` each.
        names: each once, sorted.
    """

    rows: Rows
    codes: Rows
    names: tuple[str, ...]


@dataclass(frozen=True, eq=False)
class Columns:
    """All cards, sorted by name; every array ``(N,)``.

    Args:
        items: numbers of the cards, :attr:`fox_hand.library.format.entry.Entry.item`.
        sheets: which of ``sheet_names`` each lies in.
        regions, sides: numbers as in ``REGIONS`` and ``SIDES``.
        shapes: :attr:`fox_hand.library.format.entry.Entry.shape`.
        changed: seconds since 1970.
        readable, locked: true or false.
        kinds: 0 for poses, 1 for clips, 2 for drawings.
        characters, authors, changers: whose cards they are, who made and who changed them.
        tags: what they are tagged with.
    """

    items: Rows
    sheets: Rows
    sheet_names: tuple[str, ...]
    regions: Rows
    sides: Rows
    shapes: Rows
    changed: Rows
    readable: Rows
    locked: Rows
    kinds: Rows
    characters: Named
    authors: Named
    changers: Named
    tags: Tags


def read_columns(rows: Found) -> Columns:
    """Make the columns of what :data:`CARDS` finds."""
    named_columns = tuple(Names() for _ in range(5))
    parts = [np.zeros((0, 13), dtype=np.int64)]
    while some := rows.fetchmany(TOGETHER):
        items, *words_and_numbers = zip(*some, strict=True)
        codes = [
            names.codes(words)
            for names, words in zip(named_columns, words_and_numbers, strict=False)
        ]
        parts.append(np.array([items, *codes, *words_and_numbers[5:]], dtype=np.int64).T)
    sheets, characters, authors, changers, tagged_with = named_columns
    table = np.concatenate(parts).T.copy()
    items, where, of, by, last, tag_lists = table[:6]
    regions, sides, shapes, changed, readable, locked, kinds = table[6:]
    in_sheets = sheets.sorted(where, as_named)
    return Columns(
        items,
        in_sheets.codes,
        in_sheets.names,
        regions,
        sides,
        shapes,
        changed,
        readable,
        locked,
        kinds,
        characters.sorted(of),
        authors.sorted(by),
        changers.sorted(last),
        _tags(tuple(tagged_with.known), tag_lists),
    )


def _tags(lists: Sequence[str], codes: Rows) -> Tags:
    """Tags from lists of them that many cards share.

    Args:
        lists: each once, a tag a line.
        codes: which of them each card has, ``(N,)``.
    """
    names, each = Names(), list[Rows]()
    for text in lists:
        each.append(np.array([names.code(tag) for tag in text.split("\n") if tag], dtype=np.int64))
    count = np.array([*map(len, each), 0], dtype=np.int64)[codes]
    rows = np.repeat(np.arange(len(codes)), count)
    found = np.concatenate([np.zeros(0, dtype=np.int64), *(each[code] for code in codes.tolist())])
    in_order = names.sorted(found)
    return Tags(rows, in_order.codes, in_order.names)


@dataclass
class Names:
    """Numbers for names in the order they are met."""

    known: dict[str, int] = field(default_factory=dict)

    def code(self, name: str) -> int:
        """The number of a name."""
        return self.known.setdefault(name, len(self.known))

    def codes(self, names: Sequence[str]) -> list[int]:
        """The numbers of many."""
        for name in dict.fromkeys(names):
            self.code(name)
        return [self.known[name] for name in names]

    def sorted(self, codes: Rows, shown: Callable[[str], str] = str) -> Named:
        """Codes ``(N,)`` as they were given, in the order of the names instead."""
        names = sorted(self.known)
        order = np.empty(len(names), dtype=np.int64)
        order[[self.known[name] for name in names]] = np.arange(len(names))
        return Named(order[codes], tuple(map(shown, names)))


def named(values: Sequence[str]) -> Named:
    """One name for each of some cards."""
    names = Names()
    codes = [names.code(value) for value in values]
    return names.sorted(np.array(codes, dtype=np.int64))


def tagged(values: Iterable[Sequence[str]]) -> Tags:
    """Tags of some cards."""
    names = Names()
    pairs = [(row, names.code(tag)) for row, tags in enumerate(values) for tag in tags]
    rows, codes = np.array(pairs, dtype=np.int64).reshape(-1, 2).T.copy()
    found = names.sorted(codes)
    return Tags(rows, found.codes, found.names)
