"""Pictures of what slots are to look like, cut from a sheet of reference drawings."""

from __future__ import annotations

import io
from collections.abc import Mapping, Sequence
from functools import partial
from itertools import pairwise
from pathlib import Path

import msgspec
from PIL import Image

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.pictures import opened_picture
from fox_hand.base.language import tr
from fox_hand.library.charts.chart import SUFFIX, Chart
from fox_hand.library.charts.chart_file import chart_text, read_chart, write_chart
from fox_hand.library.files.atomic import make_folder, remove, write_atomically
from fox_hand.library.format.names import file_stem
from fox_hand.library.store.moves import Done
from fox_hand.library.store.store import Library

LARGEST = 320  # pixels of a longer side
LEAST = 4  # pixels of the sheet that a cell has at least


def cut(data: bytes, xs: Sequence[float], ys: Sequence[float]) -> list[bytes]:
    """Cells of a picture as PNG, row by row.

    Args:
        data: the picture, in any format.
        xs, ys: lines between the cells, the outer edges among them, as shares 0...1 of the width
            and height, rising.

    Raises:
        FoxHandError: ``picture.unreadable``, or ``chart.cells`` where a cell is too small.
    """
    try:
        with opened_picture(data) as opened:
            picture = opened.convert("RGBA")
    except (OSError, SyntaxError, ValueError) as error:
        raise FoxHandError(
            "picture.unreadable",
            tr("The picture cannot be read ({error}).", error=error),
            tr("Nothing was changed."),
        ) from error
    columns = [round(x * picture.width) for x in xs]
    rows = [round(y * picture.height) for y in ys]
    sizes = [end - start for line in (columns, rows) for start, end in pairwise(line)]
    if len(columns) < 2 or len(rows) < 2 or min(sizes) < LEAST:
        raise FoxHandError(
            "chart.cells",
            tr("A cell is too small to be a picture."),
            tr("Nothing was changed."),
            tr("Pull the lines further apart, or take fewer of them."),
        )
    return [
        _png(picture.crop((left, top, right, bottom)))
        for top, bottom in pairwise(rows)
        for left, right in pairwise(columns)
    ]


def _png(cell: Image.Image) -> bytes:
    cell.thumbnail((LARGEST, LARGEST), Image.Resampling.LANCZOS)
    buffer = io.BytesIO()
    cell.save(buffer, "PNG", optimize=True)
    return buffer.getvalue()


def give_pictures(library: Library, path: Path, pictures: Mapping[str, bytes]) -> Done:
    """Pictures for some slots of a chart, in a folder beside it.

    Args:
        library: whose.
        path: of the chart.
        pictures: PNG by the slots' keys.

    Raises:
        FoxHandError: as of reading and writing charts; nothing is changed then.
    """
    folder = path.parent / path.name.removesuffix(SUFFIX)
    with library.lock():
        chart = read_chart(path).chart
        names = {key: _free(folder, key) for key in pictures}
        make_folder(folder)
        for key, name in names.items():
            write_atomically(folder / name, pictures[key])
        before = {slot.key: slot.picture for slot in chart.slots if slot.key in names}
        wanted = {key: f"{folder.name}/{name}" for key, name in names.items()}
        write_chart(path, chart_text(_with(chart, wanted)))
    written = [folder / name for name in names.values()]
    undo = partial(_take_back, library, path, before, written, pictures)
    return Done(library, (path,), undo, path)


def _take_back(
    library: Library,
    path: Path,
    before: Mapping[str, str],
    written: Sequence[Path],
    pictures: Mapping[str, bytes],
) -> Done:
    with library.lock():
        write_chart(path, chart_text(_with(read_chart(path).chart, before)))
        for file in written:
            remove(file)
    return Done(library, (path,), lambda: give_pictures(library, path, pictures), path)


def _with(chart: Chart, pictures: Mapping[str, str]) -> Chart:
    slots = tuple(
        msgspec.structs.replace(slot, picture=pictures.get(slot.key, slot.picture))
        for slot in chart.slots
    )
    return msgspec.structs.replace(chart, slots=slots)


def _free(folder: Path, key: str) -> str:
    """A file name that nothing has yet: an earlier picture may be needed again."""
    stem, number = file_stem(key) or "slot", 2
    name = f"{stem}.png"
    while (folder / name).exists():
        name, number = f"{stem} {number}.png", number + 1
    return name
