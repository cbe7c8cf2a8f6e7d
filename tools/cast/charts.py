"""The charts of the demo's library: ready ones, with what is lent; filled as far as they say."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from pathlib import Path

import msgspec

from cast.numbers_file import ChartNumbers, charts
from fox_hand.base.places import Places
from fox_hand.library.charts import chart_moves
from fox_hand.library.charts.chart import Assigned, Chart
from fox_hand.library.charts.filling import fill
from fox_hand.library.charts.ready import ready_charts
from fox_hand.library.format.container import read_card
from fox_hand.library.format.entry import Entry
from fox_hand.library.store.store import Library
from fox_hand.session.app.workspace import Workspace


def make_charts(library: Library) -> None:
    """Write them, and stop where one is filled otherwise than its numbers say."""
    wrong = []
    ready = {file.path.name.split(".")[0]: file.chart for file in ready_charts()}
    entries = list(_entries(library))
    for numbers in charts():
        chart = msgspec.structs.replace(
            ready[numbers.ready],
            characters=tuple(numbers.filled),
            assigned=tuple(_lent(library, numbers)),
        )
        chart_moves.add(library, chart, key=numbers.ready)
        now = filled(chart, entries)
        if now != numbers.filled:
            wrong.append((numbers.ready, now))
    assert not wrong, wrong


def filled(chart: Chart, entries: list[Entry]) -> dict[str, int]:
    """How many slots of a chart each of its characters fills."""
    found = fill(chart, chart.characters, entries)
    return {
        who: sum(not found[slot.key, who].missing for slot in chart.slots)
        for who in chart.characters
    }


def _lent(library: Library, numbers: ChartNumbers) -> Iterator[Assigned]:
    for slot, character, card in numbers.lent:
        path = library.folder / f"{card}.foxcard"
        yield Assigned(slot, character, (read_card(path)[0].identity,))


def _entries(library: Library) -> Iterator[Entry]:
    with tempfile.TemporaryDirectory() as folder:
        workspace = Workspace(Places.under(Path(folder)))
        workspace.open_libraries.open(library.folder)
        yield from list(workspace.open_libraries.entries())
