"""Where sections and cards lie in the sheets view; pure numbers."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

from fox_hand.session.libraries.request import EmptyCell, Shown
from fox_hand.ui.cards.card_metrics import NAME, TAB

GAP, HEADING, PAD = 8, 24, 12
At = tuple[int, int]  # section, and card in it


@dataclass(frozen=True, eq=False)
class SectionBox:
    """A sheet in the view.

    Args:
        shown: its cards and what they are called together.
        top: y of its heading.
        height: heading and cards together.
        closed: only the heading is shown.
    """

    shown: Shown
    top: int
    height: int
    closed: bool

    @property
    def title(self) -> str:
        return self.shown.title

    @property
    def count(self) -> int:
        return len(self.shown.keys)


def fold_name(shown: Shown) -> str:
    """What is remembered of a folded section."""
    return f"{shown.place.name}/{shown.key}"


@dataclass(frozen=True, eq=False)
class SheetLayout:
    """All sections for one width and card size."""

    sections: tuple[SectionBox, ...]
    columns: int
    card: int
    labels: bool
    width: int

    @property
    def height(self) -> int:
        last = self.sections[-1] if self.sections else None
        return 0 if last is None else last.top + last.height + PAD

    @property
    def card_height(self) -> int:
        return TAB + self.card + (NAME if self.labels else 0)

    @property
    def pitch(self) -> tuple[int, int]:
        return self.card + GAP, self.card_height + GAP

    def key(self, at: At | None) -> int | None:
        """The card at a place; None if there is none."""
        if at is None or at[0] >= len(self.sections):
            return None
        keys = self.sections[at[0]].shown.keys
        return int(keys[at[1]]) if at[1] < len(keys) else None

    def place_of(self, key: int | None) -> At | None:
        """Where a card is."""
        if key is None:
            return None
        for s, section in enumerate(self.sections):
            found = (section.shown.keys == key).nonzero()[0]
            if len(found):
                return s, int(found[0])
        return None

    def walk(self, at: At | None, step: int) -> At | None:
        """The card so many places further in reading order, over open sections; the first or
        last at the end."""
        starts = [0]
        for section in self.sections:
            starts.append(starts[-1] + (0 if section.closed else section.count))
        if not starts[-1]:
            return None
        if at is None or at[0] >= len(self.sections) or self.sections[at[0]].closed:
            wanted = 0
        else:
            wanted = min(max(starts[at[0]] + at[1] + step, 0), starts[-1] - 1)
        for s, (start, end) in enumerate(pairwise(starts)):
            if start <= wanted < end:
                return s, wanted - start
        return None

    def between(self, first: At, last: At) -> list[int]:
        """All cards from one to another, whichever comes first."""
        first, last = min(first, last), max(first, last)
        found = list[int]()
        for s in range(first[0], last[0] + 1):
            section = self.sections[s]
            if not section.closed:
                start = first[1] if s == first[0] else 0
                end = last[1] + 1 if s == last[0] else section.count
                found += section.shown.keys[start:end].tolist()
        return found

    def within(self, left: float, top: float, right: float, bottom: float) -> list[int]:
        """Cards that a rectangle of the content touches."""
        found = []
        for s, i in self.visible(int(top), int(bottom)):
            x, y, width, height = self.card_rect(s, i)
            if x < right and x + width > left and y < bottom and y + height > top:
                found.append(int(self.sections[s].shown.keys[i]))
        return found

    def card_rect(self, section: int, place: int) -> tuple[int, int, int, int]:
        """x, y, width, height of a card, in content pixels."""
        cells = self.sections[section].shown.cells
        return self.cell_rect(section, cells[place] if place < len(cells) else place)

    def cell_rect(self, section: int, cell: int) -> tuple[int, int, int, int]:
        """The same of a place, whether a card lies there or one is missing."""
        dx, dy = self.pitch
        row, column = divmod(cell, self.columns)
        y = self.sections[section].top + HEADING + row * dy
        return PAD + column * dx, y, self.card, self.card_height

    def empty_at(self, x: int, y: int) -> EmptyCell | None:
        """The place at a point of the content where a card is missing."""
        s = self.section_at(y)
        if s is None or self.sections[s].closed:
            return None
        for one in self.sections[s].shown.empty:
            left, top, width, height = self.cell_rect(s, one.cell)
            if left <= x < left + width and top <= y < top + height:
                return one
        return None

    def section_at(self, y: int) -> int | None:
        """The section at a height of the content."""
        for s, section in enumerate(self.sections):
            if section.top <= y < section.top + section.height:
                return s
        return None

    def at(self, x: int, y: int) -> At | None:
        """The card at a point of the content."""
        s = self.section_at(y)
        if s is None or self.sections[s].closed:
            return None
        place = self._card_in(s, self._slot(s, x, y))
        if place is None or place >= self.sections[s].count:
            return None
        cx, cy, width, height = self.card_rect(s, place)
        return (s, place) if cx <= x < cx + width and cy <= y < cy + height else None

    def _card_in(self, s: int, cell: int | None) -> int | None:
        """The card in a place; None where none lies there."""
        cells = self.sections[s].shown.cells
        if cell is None or not cells:
            return cell
        return cells.index(cell) if cell in cells else None

    def gap_at(self, x: int, y: int) -> At | None:
        """Before which card of a section something dropped at a point belongs."""
        s = self.section_at(y)
        if s is None:
            return None
        slot = self._slot(s, x + self.pitch[0] // 2, y)
        count, cells = self.sections[s].count, self.sections[s].shown.cells
        if cells and slot is not None:  # before the card that follows an empty place
            slot = sum(cell < slot for cell in cells)
        return s, count if slot is None else min(slot, count)

    def _slot(self, s: int, x: int, y: int) -> int | None:
        dx, dy = self.pitch
        column, row = (x - PAD) // dx, (y - self.sections[s].top - HEADING) // dy
        if row < 0 or column < 0:
            return None
        return row * self.columns + min(column, self.columns)

    def visible(self, top: int, bottom: int) -> Iterator[At]:
        """Cards that touch a stretch of the content; only these are painted."""
        _, dy = self.pitch
        for s, section in enumerate(self.sections):
            if section.closed or section.top > bottom or section.top + section.height < top:
                continue
            start = section.top + HEADING
            first = max((top - start) // dy, 0) * self.columns
            last = ((bottom - start) // dy + 1) * self.columns
            cells = section.shown.cells
            if cells:
                yield from ((s, i) for i, cell in enumerate(cells) if first <= cell < last)
                continue
            for i in range(first, min(max(last, 0), section.count)):
                yield s, i


def lay_out_sheets(
    shown: Sequence[Shown], width: int, card: int, labels: bool, closed: Collection[str]
) -> SheetLayout:
    """Put sections under one another.

    Args:
        shown: what to show.
        width: of the view without its edge.
        card: picture size.
        labels: whether names are shown.
        closed: sections that are folded, see :func:`fold_name`.
    """
    columns = max((width - PAD - 2 + GAP) // (card + GAP), 1)
    height = TAB + card + (NAME if labels else 0)
    sections = []
    top = 0
    for one in shown:
        rows = -(-one.places // columns)
        folded = fold_name(one) in closed
        tall = HEADING + (0 if folded else rows * (height + GAP)) + 4
        sections.append(SectionBox(one, top, tall, folded))
        top += tall
    return SheetLayout(tuple(sections), columns, card, labels, width)
