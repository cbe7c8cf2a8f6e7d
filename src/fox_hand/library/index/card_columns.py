"""What is known of all cards of a library at once: numbers, and few names with their numbers."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any, Protocol

import numpy as np

from fox_hand.core.model.skeleton import Index as Rows
from fox_hand.library.index.index_rows import as_named

TOGETHER = 2000  # rows that are made into numbers at once; the window cannot answer meanwhile
CARDS = (
    "SELECT id, sheet, character, author, changed_by, tags, region, side, shape, changed_at, "
    "code = '', approved_by || approved_at <> '', kind = 'clip' "
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
        readable, locked, moving: true or false; clips move.
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
    moving: Rows
    characters: Named
    authors: Named
    changers: Named
    tags: Tags


def read_columns(rows: Found) -> Columns:
    """Make the columns of what :data:`CARDS` finds."""
    sheets, characters, authors, changers, tags = (Names() for _ in range(5))
    parts = [np.zeros((0, 12), dtype=np.int64)]
    tagged: list[tuple[int, int]] = []
    row = 0
    while some := rows.fetchmany(TOGETHER):
        numbers = []
        for item, sheet, character, author, changer, words, *others in some:
            numbers.append(
                (
                    item,
                    sheets.code(sheet),
                    *others,
                    characters.code(character),
                    authors.code(author),
                    changers.code(changer),
                )
            )
            if words:
                tagged += [(row, tags.code(word)) for word in words.split("\n") if word]
            row += 1
        parts.append(np.array(numbers, dtype=np.int64))
    table = np.concatenate(parts).T.copy()
    items, where, regions, sides, shapes, changed = table[:6]
    readable, locked, moving, of, by, last = table[6:]
    pairs = np.array(tagged, dtype=np.int64).reshape(-1, 2).T.copy()
    in_sheets = sheets.sorted(where, as_named)
    named_tags = tags.sorted(pairs[1])
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
        moving,
        characters.sorted(of),
        authors.sorted(by),
        changers.sorted(last),
        Tags(pairs[0], named_tags.codes, named_tags.names),
    )


@dataclass
class Names:
    """Numbers for names in the order they are met."""

    known: dict[str, int] = field(default_factory=dict)

    def code(self, name: str) -> int:
        """The number of a name."""
        return self.known.setdefault(name, len(self.known))

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
