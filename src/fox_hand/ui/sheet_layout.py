"""Where sections and cards lie in the sheets view; pure numbers."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from fox_hand.library.store import Entry

TAB, NAME, GAP, HEADING, PAD = 6, 20, 8, 24, 12


@dataclass(frozen=True)
class Section:
    """A sheet in the view.

    Args:
        title: last part of the sheet's path.
        sheet: the whole path.
        entries: its cards as they are shown.
        top: y of its heading.
        height: heading and cards together.
        closed: only the heading is shown.
    """

    title: str
    sheet: str
    entries: tuple[Entry, ...]
    top: int
    height: int
    closed: bool


@dataclass(frozen=True)
class SheetLayout:
    """All sections for one width and card size."""

    sections: tuple[Section, ...]
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

    def flat(self) -> list[tuple[int, int]]:
        """Every visible card as (section, place in it), in reading order."""
        return [
            (s, i)
            for s, section in enumerate(self.sections)
            if not section.closed
            for i in range(len(section.entries))
        ]

    def card_rect(self, section: int, place: int) -> tuple[int, int, int, int]:
        """x, y, width, height of a card, in content pixels."""
        dx, dy = self.pitch
        row, column = divmod(place, self.columns)
        y = self.sections[section].top + HEADING + row * dy
        return PAD + column * dx, y, self.card, self.card_height

    def at(self, x: int, y: int) -> tuple[int, int] | None:
        """The card at a point of the content."""
        for s, section in enumerate(self.sections):
            if section.top <= y < section.top + section.height and not section.closed:
                dx, dy = self.pitch
                column, row = (x - PAD) // dx, (y - section.top - HEADING) // dy
                place = row * self.columns + column
                if row < 0 or not 0 <= column < self.columns or place >= len(section.entries):
                    return None
                cx, cy, width, height = self.card_rect(s, place)
                inside = cx <= x < cx + width and cy <= y < cy + height
                return (s, place) if inside else None
        return None

    def visible(self, top: int, bottom: int) -> list[tuple[int, int]]:
        """Cards that touch a stretch of the content; only these are painted."""
        found = []
        _, dy = self.pitch
        for s, section in enumerate(self.sections):
            if section.closed or section.top > bottom or section.top + section.height < top:
                continue
            start = section.top + HEADING
            first = max((top - start) // dy, 0) * self.columns
            last = ((bottom - start) // dy + 1) * self.columns
            found += [(s, i) for i in range(first, min(max(last, 0), len(section.entries)))]
        return found


def lay_out_sheets(
    groups: Sequence[tuple[str, Sequence[Entry]]],
    width: int,
    card: int,
    labels: bool,
    closed: set[str],
) -> SheetLayout:
    """Put sections under one another.

    Args:
        groups: sheet path and its cards.
        width: of the view without its edge.
        card: picture size.
        labels: whether names are shown.
        closed: sheets that are folded.
    """
    columns = max((width - PAD - 2 + GAP) // (card + GAP), 1)
    height = TAB + card + (NAME if labels else 0)
    sections = []
    top = 0
    for sheet, entries in groups:
        rows = -(-len(entries) // columns)
        folded = sheet in closed
        tall = HEADING + (0 if folded else rows * (height + GAP)) + 4
        title = sheet.rsplit("/", 1)[-1] or "Loose cards"
        sections.append(Section(title, sheet, tuple(entries), top, tall, folded))
        top += tall
    return SheetLayout(tuple(sections), columns, card, labels, width)
