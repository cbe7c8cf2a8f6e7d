"""The rows of the outline: kept searches, then the sheets of every library, one under another."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

from fox_hand.base.language import tr, tr_n
from fox_hand.library.index.sheet_tree import SheetNode
from fox_hand.session.libraries.kept_searches import Kept
from fox_hand.session.libraries.open_library import OpenLibrary

TALL, LOW = 28, 24  # of a library, a character and a heading; of everything else
FEW = 40  # with no more sheets than this, all are unfolded at first
Spot = tuple[int, str]  # number of a library and a sheet in it; the empty name for all of it


class RowKind(StrEnum):
    """What a row is."""

    SEARCHES = "searches"  # heading
    SEARCH = "search"
    SHEETS = "sheets"  # heading
    LIBRARY = "library"
    CHARACTER = "character"
    SHEET = "sheet"
    NOTE = "note"  # why there is nothing


@dataclass(frozen=True, eq=False)
class OutlineRow:
    """A row.

    Args:
        kind: what it is.
        words: what it says.
        indent: how deep it lies, in steps.
        place, node: of a library or sheet.
        kept: of a search.
        folded: whether what lies in it is hidden; None where nothing does.
        waiting: cards that wait to be written into it or a sheet in it.
    """

    kind: RowKind
    words: str
    indent: int = 0
    place: OpenLibrary | None = None
    node: SheetNode | None = None
    kept: Kept | None = None
    folded: bool | None = None
    waiting: int = 0

    @property
    def height(self) -> int:
        return LOW if self.kind in (RowKind.SHEET, RowKind.SEARCH) else TALL

    @property
    def spot(self) -> Spot | None:
        """What a click narrows to; None where it narrows to nothing."""
        if self.place is None or self.node is None or self.heading:
            return None
        return self.place.number, self.node.path

    @property
    def heading(self) -> bool:
        """Whether it stands over others and is nothing itself."""
        return self.kind in (RowKind.SEARCHES, RowKind.SHEETS, RowKind.NOTE)


@dataclass(frozen=True)
class OutlineContent:
    """What the outline shows.

    Args:
        trees: every library with its sheets.
        searches: kept ones.
        folds: what somebody folded (true) or unfolded (false), see :func:`fold_key`.
        text: only rows with this in their name, and what they lie in; empty for all.
    """

    trees: Sequence[tuple[OpenLibrary, SheetNode]] = ()
    searches: Sequence[Kept] = ()
    folds: Mapping[str, bool] = field(default_factory=dict)
    text: str = ""

    @property
    def sheets(self) -> int:
        """How many sheets there are."""
        return sum(root.sheets for _, root in self.trees)

    @property
    def cards(self) -> int:
        return sum(root.count for _, root in self.trees)


def fold_key(place: OpenLibrary, node: SheetNode) -> str:
    """What is remembered of a folded sheet."""
    return f"{place.name}/{node.path}"


def outline_rows(content: OutlineContent) -> list[OutlineRow]:
    """All rows that are to be seen."""
    words = content.text.casefold().split()
    searches = [k for k in content.searches if _has(k.name, words)]
    rows = [OutlineRow(RowKind.SEARCHES, tr("Kept searches"))] if searches or not words else []
    rows += [OutlineRow(RowKind.SEARCH, kept.name, kept=kept) for kept in searches]
    several = len(content.trees) > 1
    place, root = (None, None) if several or not content.trees else content.trees[0]
    rows.append(OutlineRow(RowKind.SHEETS, tr("Sheets"), 0, place, root))  # the library, if but one
    unfolded = content.sheets <= FEW
    for place, root in content.trees:
        hits = _hits(root, words) if words else None
        if hits is not None and not hits:
            continue
        if several:
            folded = content.folds.get(fold_key(place, root), False) and not words
            waiting = place.waiting
            rows.append(
                OutlineRow(
                    RowKind.LIBRARY, place.name, 0, place, root, folded=folded, waiting=waiting
                )
            )
            if folded:
                continue
        rows += _inside(content, place, root, int(several), unfolded, hits)
    if rows[-1].kind is RowKind.SHEETS:
        rows.append(OutlineRow(RowKind.NOTE, _why_none(content, words)))
    return rows


def _why_none(content: OutlineContent, words: Sequence[str]) -> str:
    if words:
        return tr("Nothing here is called so.")
    if any(place.reading is None and place.problem is None for place, _ in content.trees):
        return tr("Reading the sheets …")
    return tr("No sheets yet.") if content.trees else tr("No library is open.")


def _inside(
    content: OutlineContent,
    place: OpenLibrary,
    above: SheetNode,
    indent: int,
    unfolded: bool,
    hits: set[str] | None,
) -> Iterator[OutlineRow]:
    for node in above.inner:
        if hits is not None and node.path not in hits:
            continue
        folded = None
        if node.inner:
            usual = not unfolded and node.depth > 1
            folded = hits is None and content.folds.get(fold_key(place, node), usual)
        kind = RowKind.CHARACTER if _is_character(node) else RowKind.SHEET
        waiting = _waiting(place, node, bool(folded))
        yield OutlineRow(kind, node.name, indent, place, node, None, folded, waiting)
        if not folded:
            yield from _inside(content, place, node, indent + 1, unfolded, hits)


def _waiting(place: OpenLibrary, node: SheetNode, all_inside: bool) -> int:
    """Cards that wait for a sheet, and where those in it are hidden, for them, too."""
    if not place.waiting_in:
        return 0
    inside = f"{node.path}/"
    return sum(
        count
        for sheet, count in place.waiting_in.items()
        if sheet == node.path or (all_inside and sheet.startswith(inside))
    )


def _is_character(node: SheetNode) -> bool:
    """Sheets at the top that hold sheets, or are called like whose cards they hold."""
    if node.depth != 1:
        return False
    return bool(node.inner) or node.name.casefold() in map(str.casefold, node.characters)


def _has(name: str, words: Sequence[str]) -> bool:
    folded = name.casefold()
    return all(word in folded for word in words)


def _hits(root: SheetNode, words: Sequence[str]) -> set[str]:
    """Sheets with all words in their path, at least one in their own name, and what they lie in.
    What lies in one that is found is found with it only if it is asked for by name, too."""
    found: set[str] = set()
    for node in root.walk():
        own = node.name.casefold()
        if node.path and _has(node.path, words) and any(word in own for word in words):
            parts = node.path.split("/")
            found |= {"/".join(parts[:depth]) for depth in range(1, len(parts) + 1)}
    return found


def said_of(row: OutlineRow, content: OutlineContent, chosen: bool, count: int | None) -> str:
    """A row in words, for who does not see it.

    Args:
        row, content: the row and where it stands.
        chosen: whether the cards are narrowed to it.
        count: of a kept search, how many it finds; None while nobody knows.
    """
    if row.kind is RowKind.SEARCHES:
        return f"{row.words}, {len(content.searches)}"
    if row.kind is RowKind.SHEETS:
        return f"{row.words}, {content.sheets}, {_cards(content.cards)}"
    parts = [row.words]
    if row.kind is RowKind.NOTE:
        return row.words
    if row.kind is RowKind.SEARCH:
        parts.append(tr("kept search"))
        parts += [_cards(count)] if count is not None else []
        own = row.kept is None or row.kept.place is None
        parts.append(tr("your own") if own else tr("for everybody"))
    elif row.node is not None:
        parts.append(_cards(row.node.count))
        parts += [tr("{new} new", new=row.node.new)] if row.node.new else []
        parts += [tr("{waiting} waiting", waiting=row.waiting)] if row.waiting else []
        parts += [] if row.folded is None else [tr("folded") if row.folded else tr("unfolded")]
    if chosen:
        parts.append(tr("shown alone"))
    return ", ".join(parts)


def _cards(count: int) -> str:
    return tr_n("1 card", "{number:,} cards", count)
