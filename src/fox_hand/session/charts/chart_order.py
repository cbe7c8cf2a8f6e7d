"""The cards of a sheet in the order of a chart, with empty places where something is missing."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from fox_hand.session.charts.chart_board import ChartBoard
from fox_hand.session.charts.chart_book import ChartBook
from fox_hand.session.libraries.open_library import BITS
from fox_hand.session.libraries.request import EmptyCell, Shown


def in_order_of_charts(
    sheets: Sequence[Shown], charts: ChartBook, *, gaps: bool
) -> tuple[Shown, ...]:
    """Sheets of which those that ask for a chart are in its order.

    Args:
        sheets: as they are shown else.
        charts: read when the first sheet asks.
        gaps: whether empty places are shown.
    """
    found = []
    for shown in sheets:
        key = shown.place.chart(shown.sheet) if shown.sheet is not None else ""
        board = charts.board((shown.place.number, key)) if key else None
        if key and board is None:
            charts.need()
        found.append(shown if board is None else in_chart_order(shown, board, gaps=gaps))
    return tuple(found)


def in_chart_order(shown: Shown, board: ChartBoard, *, gaps: bool) -> Shown:
    """Put a sheet's cards as a chart has its slots; those that fill none follow.

    Args:
        shown: the sheet.
        board: the chart.
        gaps: whether empty places are shown; not while only some cards are.
    """
    character = character_of(shown, board)
    if character is None:
        return shown
    left = dict.fromkeys(shown.keys.tolist())
    order, cells, empty, cell = list[int](), list[int](), list[EmptyCell](), 0
    for slot in board.chart.slots:
        one = board.filled[slot.key, character]
        own = (f.card for f in one.cards if f.card.path.is_relative_to(shown.place.folder))
        keys = [key for card in own if (key := shown.place.number << BITS | card.item) in left]
        for key in keys:
            left.pop(key)
            order.append(key)
            cells.append(cell)
            cell += 1
        if one.missing and gaps:
            empty.append(EmptyCell(cell, slot.name, (board.key, slot.key, character)))
            cell += 1
    for key in left:
        order.append(key)
        cells.append(cell)
        cell += 1
    return replace(
        shown, keys=np.array(order, dtype=np.int64), cells=tuple(cells), empty=tuple(empty)
    )


def character_of(shown: Shown, board: ChartBoard) -> str | None:
    """Whose slots a sheet shows: whose cards lie there, else who its path names."""
    lying = Counter(
        character
        for (_, character), one in board.filled.items()
        for f in one.cards
        if f.card.sheet == shown.sheet and not f.lent
    )
    if lying:
        return lying.most_common(1)[0][0]
    parts = {part.casefold() for part in (shown.sheet or "").split("/")}
    return next((c for c in board.characters if c.casefold() in parts), None)
