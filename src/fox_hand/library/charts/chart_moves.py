"""Everything a person does to charts, each with its way back."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import msgspec

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.library.charts.chart import FOLDER, SUFFIX, Assigned, Chart
from fox_hand.library.charts.chart_file import (
    ChartFile,
    chart_text,
    read_chart,
    with_assigned,
    write_chart,
)
from fox_hand.library.files.atomic import make_folder, remove, write_atomically
from fox_hand.library.format.names import file_stem
from fox_hand.library.store.moves import Done
from fox_hand.library.store.store import Library

Change = Callable[[Chart], Chart]


def chart_path(library: Library, key: str) -> Path:
    """Where a chart of a library lies."""
    return library.folder / FOLDER / f"{key}{SUFFIX}"


def add(library: Library, chart: Chart, text: str = "", key: str = "") -> Done:
    """A new chart, under a name that is free.

    Args:
        library: where.
        chart: what it says.
        text: the same as somebody wrote it; made from the chart without.
        key: its file's name; made from its name without.
    """
    with library.lock():
        stem = key or file_stem(chart.name) or "chart"
        number, path = 2, chart_path(library, stem)
        while path.exists():
            path, number = chart_path(library, f"{stem} {number}"), number + 1
        write_chart(path, text or chart_text(chart))
    return Done(library, (path,), lambda: take_away(library, path), path)


def take_away(library: Library, path: Path) -> Done:
    """Remove a chart; its cards stay.

    Raises:
        FoxHandError: ``chart.unreachable`` where it cannot be read to be put back.
    """
    with library.lock():
        data = _bytes(path)
        remove(path)

    def back() -> Done:
        with library.lock():
            make_folder(path.parent)
            write_atomically(path, data)
        return Done(library, (path,), lambda: take_away(library, path), path)

    return Done(library, (path,), back)


def change(library: Library, path: Path, how: Change) -> Done:
    """Another name, other slots; as it is on disk now.

    Raises:
        FoxHandError: as :func:`read_chart` and :func:`write_chart`.
    """
    return _written(library, path, lambda file: chart_text(how(file.chart)))


def assign(library: Library, path: Path, wanted: Assigned) -> Done:
    """What is said of one slot and one character; what others said of other slots stays."""

    def text(file: ChartFile) -> str:
        before = file.chart.said(wanted.slot, wanted.character)
        kept = tuple(one for one in file.chart.assigned if one != before)
        said = (*kept, wanted) if wanted.cards or wanted.refused else kept
        return with_assigned(file, said)

    with library.lock():
        was = read_chart(path).chart.said(wanted.slot, wanted.character)
        write_chart(path, text(read_chart(path)))
    return Done(library, (path,), lambda: assign(library, path, was), path)


def _written(library: Library, path: Path, text: Callable[[ChartFile], str]) -> Done:
    with library.lock():
        before = _bytes(path)
        write_chart(path, text(read_chart(path)))
        after = _bytes(path)

    def back() -> Done:
        return _exchanged(library, path, after, before)

    return Done(library, (path,), back, path)


def _exchanged(library: Library, path: Path, now: bytes, wanted: bytes) -> Done:
    """Put a chart back as it was, unless somebody changed it meanwhile.

    Raises:
        FoxHandError: ``chart.changed_meanwhile``.
    """
    with library.lock():
        if _bytes(path) != now:
            raise FoxHandError(
                "chart.changed_meanwhile",
                tr(
                    "The chart {name} was changed by somebody else meanwhile.",
                    name=path.name.removesuffix(SUFFIX),
                ),
                tr("It was left as it is."),
            )
        write_atomically(path, wanted)
    return Done(library, (path,), lambda: _exchanged(library, path, wanted, now), path)


def _bytes(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except OSError as error:
        raise FoxHandError(
            "chart.unreachable",
            tr(
                "The chart {name} cannot be read ({strerror}).",
                name=path.name.removesuffix(SUFFIX),
                strerror=error.strerror,
            ),
            tr("Nothing was changed."),
        ) from error


def said_with(
    chart: Chart, slot: str, character: str, *, add: str = "", refuse: str = ""
) -> Assigned:
    """What is said of a slot when one card comes into it or goes out of it; the one that comes is
    the best from then on."""
    said = chart.said(slot, character)
    cards = [one for one in said.cards if one not in (add, refuse)]
    refused = [one for one in said.refused if one not in (add, refuse)]
    return msgspec.structs.replace(
        said,
        cards=tuple([add, *cards] if add else cards),
        refused=tuple([*refused, refuse] if refuse else refused),
    )
