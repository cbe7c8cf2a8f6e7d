"""The sheets of a library as a tree: sheets in sheets, and what lies in them."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from fox_hand.core.model.controls import Region
from fox_hand.core.model.skeleton import Index as Rows
from fox_hand.library.index.card_columns import Columns
from fox_hand.library.index.index import REGIONS
from fox_hand.library.index.narrowing import Mask

SECOND = 0.25  # a second region is shown where more than this share of the cards is of it
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
        regions: where most of them belong, and a second one if it has a good share.
        characters: whose they are, those with most cards first.
        inner: the sheets in it.
    """

    path: str
    name: str
    depth: int
    own: int = 0
    count: int = 0
    new: int = 0
    regions: tuple[Region, ...] = ()
    characters: tuple[str, ...] = ()
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


def sheet_tree(columns: Columns, sheets: Sequence[str], new: Mask | None = None) -> SheetNode:
    """All sheets of a library.

    Args:
        columns: the cards.
        sheets: all sheets in order, those without cards too.
        new: whether each card is new, ``(N,)``; none are without it.
    """
    root = SheetNode("", "", 0)
    nodes = {"": root}
    for path in with_those_above(s for s in (*sheets, *columns.sheet_names) if s):
        above, _, name = path.rpartition("/")
        node = SheetNode(path, name, nodes[above].depth + 1)
        nodes[above].inner.append(node)
        nodes[path] = node
    _count(root, nodes, columns, new)
    return root


def _count(
    root: SheetNode, nodes: Mapping[str, SheetNode], columns: Columns, new: Mask | None
) -> None:
    names = columns.sheet_names
    fresh = np.zeros(len(columns.items), dtype=bool) if new is None else new
    regions = _crossed(columns.sheets, columns.regions, len(names), len(REGIONS))
    owners = _crossed(
        columns.sheets, columns.characters.codes, len(names), len(columns.characters.names)
    )
    fresh_in = np.bincount(columns.sheets[fresh], minlength=len(names))
    order = list(root.walk())
    place = {node.path: i for i, node in enumerate(order)}
    of_regions = np.zeros((len(order), len(REGIONS)), dtype=np.int64)
    of_owners = np.zeros((len(order), owners.shape[1]), dtype=np.int64)
    for i, name in enumerate(names):
        at = place[name]
        of_regions[at], of_owners[at] = regions[i], owners[i]
        nodes[name].own, nodes[name].new = int(regions[i].sum()), int(fresh_in[i])
    for node in order:
        node.count = node.own
    for i in range(len(order) - 1, 0, -1):  # from the innermost outwards
        node = order[i]
        above = nodes[node.path.rpartition("/")[0]]
        above.count += node.count
        above.new += node.new
        of_regions[place[above.path]] += of_regions[i]
        of_owners[place[above.path]] += of_owners[i]
    for node, main in zip(order, _main_regions(of_regions), strict=True):
        node.regions = main
    for node, whose in zip(order, _owners(of_owners, columns.characters.names), strict=True):
        node.characters = whose


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
