"""Where charts, characters and slots lie on the screen; pure numbers."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from fox_hand.library.charts.chart import Slot
from fox_hand.library.charts.filling import Filling
from fox_hand.session.charts.chart_board import ChartBoard

PAD, LABEL, SLOT, PITCH = 16, 128, 68, 76
TITLE, HEAD, BELOW = 36, 24, 20
At = tuple[tuple[int, str], str, str]  # key of the chart, key of the slot, character


@dataclass(frozen=True, eq=False)
class ChartLine:
    """Some slots of one character, side by side.

    Args:
        board, character, slots: which.
        y: of their upper edge.
        first: whether they begin the character's slots.
    """

    board: ChartBoard
    character: str
    slots: tuple[Slot, ...]
    y: int
    first: bool

    def filling(self, number: int) -> Filling:
        """What is in one of them."""
        return self.board.filled[self.slots[number].key, self.character]


@dataclass(frozen=True, eq=False)
class ChartHead:
    """What stands over slots: the chart's name once, the slots' names over every group.

    Args:
        board, slots: which.
        y: of the slots' names.
        title: y of the chart's name; None over further groups.
    """

    board: ChartBoard
    slots: tuple[Slot, ...]
    y: int
    title: int | None


@dataclass(frozen=True, eq=False)
class ChartLayout:
    """Everything for one width."""

    heads: tuple[ChartHead, ...]
    lines: tuple[ChartLine, ...]
    columns: int
    height: int

    def rect(self, line: ChartLine, number: int) -> tuple[int, int, int, int]:
        """x, y, width and height of a slot, in content pixels."""
        return PAD + LABEL + number * PITCH, line.y, SLOT, SLOT

    def at(self, x: int, y: int) -> At | None:
        """The slot at a point of the content."""
        for line in self.lines:
            if not line.y <= y < line.y + SLOT:
                continue
            number = (x - PAD - LABEL) // PITCH
            if 0 <= number < len(line.slots) and (x - PAD - LABEL) % PITCH < SLOT:
                return line.board.key, line.slots[number].key, line.character
        return None

    def place_of(self, at: At | None) -> tuple[ChartLine, int] | None:
        """The line of a slot, and where it is there."""
        for line in self.lines if at is not None else ():
            assert at is not None
            if (line.board.key, line.character) == (at[0], at[2]):
                for number, slot in enumerate(line.slots):
                    if slot.key == at[1]:
                        return line, number
        return None

    def walk(self, at: At | None, along: int, down: int) -> At | None:
        """The slot beside another one; the first where there is none yet."""
        found = self.place_of(at)
        if found is None:
            return _key(self.lines[0], 0) if self.lines and self.lines[0].slots else None
        line, number = found
        row = self.lines.index(line)
        if down:
            row = min(max(row + down, 0), len(self.lines) - 1)
            other = self.lines[row]
            return _key(other, min(number, len(other.slots) - 1))
        number += along
        if number < 0 and row:
            row, number = row - 1, len(self.lines[row - 1].slots) - 1
        elif number >= len(line.slots) and row + 1 < len(self.lines):
            row, number = row + 1, 0
        other = self.lines[row]
        return _key(other, min(max(number, 0), len(other.slots) - 1))


def _key(line: ChartLine, number: int) -> At:
    return line.board.key, line.slots[number].key, line.character


def lay_out_charts(boards: Sequence[ChartBoard], width: int, below: int = 0) -> ChartLayout:
    """Charts under one another; slots that have no room beside the others begin a new group.

    Args:
        boards: which.
        width: of the view.
        below: pixels that stay free at the end.
    """
    columns = max((width - 2 * PAD - LABEL + PITCH - SLOT) // PITCH, 1)
    heads, lines, y = list[ChartHead](), list[ChartLine](), 8
    for board in boards:
        slots = board.chart.slots
        groups = [slots[i : i + columns] for i in range(0, len(slots), columns)] or [()]
        title: int | None = y
        y += TITLE
        for group in groups:
            heads.append(ChartHead(board, group, y, title))
            y += HEAD
            for character in board.characters if group else ():
                lines.append(ChartLine(board, character, group, y, title is not None))
                y += PITCH
            title = None
        y += BELOW
    return ChartLayout(tuple(heads), tuple(lines), columns, y + below)
