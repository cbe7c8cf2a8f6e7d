"""The sheets of a library as a tree: sheets in sheets, and what lies in them."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from fox_hand.core.model.controls import FACE_REGIONS, Region
from fox_hand.core.model.skeleton import Index as Rows
from fox_hand.library.index.card_columns import Columns
from fox_hand.library.index.index import REGIONS
from fox_hand.library.index.narrowing import Mask

SECOND = 0.25  # a second region is shown where more than this share of the cards is of it
NOWHERE = 1 << 40  # a row of no card
MOST_OWNERS = 3  # characters that are named of a sheet


@dataclass(eq=False)
class SheetNode:
    """A sheet with everything in it.

    Args:
        path: below the library, with ``/``; empty for loose cards and for the library itself.
        name: the last part.
        depth: 0 for the library itself, 1 for the sheets in it.
        own: cards that lie in it and in no inner sheet.
        count, new: cards in it and in all inner sheets, and how many of them are new.
        sheets: how many sheets lie in it, at any depth.
        regions: where most of them belong, and a second one if it has a good share.
        characters: whose they are, those with most cards first.
        whose: the same in words, where its path does not name any of them.
        face: number of the first card in it that shows a head, else a part of the face, else of
            its first card; 0 where it holds none.
        inner: the sheets in it.
    """

    path: str
    name: str
    depth: int
    own: int = 0
    count: int = 0
    new: int = 0
    sheets: int = 0
    regions: tuple[Region, ...] = ()
    characters: tuple[str, ...] = ()
    whose: str = ""
    face: int = 0
    inner: list[SheetNode] = field(default_factory=list)

    def walk(self) -> Iterator[SheetNode]:
        """It and everything in it, from the top down."""
        yield self
        for node in self.inner:
            yield from node.walk()


def with_those_above(sheets: Iterable[str]) -> Iterator[str]:
    """Sheets and all that they lie in, each once, those above before those in them."""
    seen: set[str] = set()
    for sheet in sheets:
        parts = sheet.split("/")
        for depth in range(1, len(parts) + 1):
            path = "/".join(parts[:depth])
            if path not in seen:
                seen.add(path)
                yield path


def tree_order(sheets: Sequence[str]) -> tuple[str, ...]:
    """Sheets so that those in a sheet follow it, and else as they were."""
    wanted, inner = set(sheets), dict[str, list[str]]()
    for path in with_those_above(sheets):
        inner.setdefault(path.rpartition("/")[0], []).append(path)
    found, waiting = list[str](), inner.get("", [])[::-1]
    while waiting:
        path = waiting.pop()
        if path in wanted:
            found.append(path)
        waiting += inner.get(path, [])[::-1]
    return tuple(found)


def sheet_tree(columns: Columns, sheets: Sequence[str]) -> SheetNode:
    """All sheets of a library.

    Args:
        columns: the cards.
        sheets: all sheets in order, those without cards too.
    """
    root = SheetNode("", "", 0)
    nodes = {"": root}
    for path in with_those_above(s for s in (*sheets, *columns.sheet_names) if s):
        above, _, name = path.rpartition("/")
        node = SheetNode(path, name, nodes[above].depth + 1)
        nodes[above].inner.append(node)
        nodes[path] = node
    _count(list(root.walk()), columns)
    return root


def tell_new(nodes: Mapping[str, SheetNode], columns: Columns, new: Mask) -> None:
    """Say of every sheet how many of its cards are new.

    Args:
        nodes: all of a library by path, those above before those in them.
        columns: its cards.
        new: whether each is, ``(N,)``.
    """
    names = columns.sheet_names
    fresh = np.bincount(columns.sheets[new], minlength=len(names)).tolist()
    own = dict(zip(names, fresh, strict=True))
    for path, node in nodes.items():
        node.new = own.get(path, 0)
    for path, node in reversed(list(nodes.items())):  # from the innermost outwards
        if path and node.new:
            nodes[path.rpartition("/")[0]].new += node.new


def _count(order: Sequence[SheetNode], columns: Columns) -> None:
    """Everything that is summed from the inside outwards, and what follows from it."""
    names, place = columns.sheet_names, {node.path: i for i, node in enumerate(order)}
    width = len(columns.characters.names)
    of_regions = np.zeros((len(order), len(REGIONS)), dtype=np.int64)
    of_owners = np.zeros((len(order), max(width, 1)), dtype=np.int64)
    where = [place[name] for name in names]
    of_regions[where] = _crossed(columns.sheets, columns.regions, len(names), len(REGIONS))
    of_owners[where] = _crossed(columns.sheets, columns.characters.codes, len(names), width)
    for node, count in zip(order, of_regions.sum(axis=1).tolist(), strict=True):
        node.own = node.count = count
    firsts = dict(zip(names, _first_rows(columns), strict=True))
    found = [firsts.get(node.path, (NOWHERE,) * 3) for node in order]
    for i in range(len(order) - 1, 0, -1):
        node = order[i]
        at = place[node.path.rpartition("/")[0]]
        order[at].count += node.count
        order[at].sheets += node.sheets + 1
        of_regions[at] += of_regions[i]
        of_owners[at] += of_owners[i]
        found[at] = tuple(map(min, found[at], found[i]))
    regions, owners = _main_regions(of_regions), _owners(of_owners, columns.characters.names)
    for i, node in enumerate(order):
        node.regions, node.characters = regions[i], owners[i]
        said = {part.casefold() for part in node.path.split("/")}
        if said.isdisjoint(map(str.casefold, owners[i])):
            node.whose = ", ".join(owners[i])
        row = next((row for row in found[i] if row < NOWHERE), NOWHERE)
        node.face = int(columns.items[row]) if row < NOWHERE else 0


def _first_rows(columns: Columns) -> list[tuple[int, ...]]:
    """Of each sheet the rows of its first card that shows a head, that shows a part of the face,
    and that can be read at all."""
    known = columns.readable > 0
    heads = known & (columns.regions == REGIONS.index(Region.HEAD))
    faces = known & np.isin(columns.regions, [REGIONS.index(r) for r in FACE_REGIONS])
    found = []
    for mask in (heads, faces, known):
        rows = np.flatnonzero(mask)
        firsts = np.full(len(columns.sheet_names), NOWHERE, dtype=np.int64)
        np.minimum.at(firsts, columns.sheets[rows], rows)
        found.append(firsts.tolist())
    return list(zip(*found, strict=True))


def _crossed(first: Rows, second: Rows, rows: int, width: int) -> Rows:
    """How often each pair of numbers occurs, ``(rows, width)``."""
    pairs = np.bincount(first * max(width, 1) + second, minlength=rows * max(width, 1))
    found: Rows = pairs.reshape(rows, max(width, 1))
    return found


def _main_regions(counts: Rows) -> list[tuple[Region, ...]]:
    """Of each row of counts, ``(N, R)``, the first region and perhaps the second."""
    total = counts.sum(axis=1)
    order = np.argsort(-counts, axis=1, kind="stable")[:, :2]
    best = np.take_along_axis(counts, order, axis=1)
    shown = (total > 0).astype(np.int64) + (best[:, 1] > SECOND * total)
    return [
        tuple(REGIONS[i] for i in row[:some])
        for row, some in zip(order.tolist(), shown.tolist(), strict=True)
    ]


def _owners(counts: Rows, names: Sequence[str]) -> list[tuple[str, ...]]:
    """Of each row of counts, ``(N, C)``, the names with the highest."""
    order = np.argsort(-counts, axis=1, kind="stable")[:, :MOST_OWNERS]
    best = np.take_along_axis(counts, order, axis=1)
    return [
        tuple(names[i] for i, count in zip(row, those, strict=True) if count and names[i])
        for row, those in zip(order.tolist(), best.tolist(), strict=True)
    ]
