"""Cards side by side as one picture, or as pages to print."""

from __future__ import annotations

import contextlib
import io
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from importlib import resources
from pathlib import Path

from PIL import Image, ImageDraw, ImageFont

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.outputs import keep_inputs
from fox_hand.base.files.pictures import opened_picture
from fox_hand.base.files.scratch import scratch_folder
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.library.files.atomic import write_atomically
from fox_hand.library.format.container import read_picture
from fox_hand.library.format.entry import Entry

PAPER, INK, QUIET = "#FBF8F2", "#22303A", "#50606A"
PAGE = (1654, 2339)  # A4 upright at 200 dots an inch
MARGIN, GAP, NAME = 96, 24, 44
HEAD = 96
MOST = {".png": 500, ".pdf": 5000}  # cards; a picture is held as a whole, of pages one at a time
Cell = tuple[Image.Image, str]


@dataclass(frozen=True)
class Gap:
    """A place where a card is missing.

    Args:
        name: what is missing.
    """

    name: str


Shown = Entry | Gap


def sheet_bytes(
    kind: str,
    entries: Sequence[Shown],
    title: str,
    *,
    columns: int = 5,
    progress: Progress | None = None,
) -> bytes:
    """A contact sheet.

    Args:
        kind: ``.png`` for one picture as long as it takes, ``.pdf`` for pages.
        entries: which cards, in order, and gaps between them.
        title: over them.
        columns: cards beside each other.
        progress: of long work.

    Raises:
        FoxHandError: ``sheet.kind`` for other kinds, ``sheet.empty`` without cards,
            ``sheet.too_many``.
        Cancelled: if somebody asked to stop.
    """
    kind = kind.lower()
    _check(kind, entries)
    size = (PAGE[0] - 2 * MARGIN - (columns - 1) * GAP) // columns
    row = size + NAME + GAP

    def cell(number: int) -> Cell:
        if progress is not None:
            progress.step(number / len(entries), entries[number].name)
        return _cell(entries[number], size)

    if kind == ".png":
        cells = [cell(number) for number in range(len(entries))]
        tall = HEAD + 2 * MARGIN + -(-len(cells) // columns) * row
        buffer = io.BytesIO()
        _page(cells, (PAGE[0], tall), title, columns, size).save(buffer, "PNG", optimize=True)
        return buffer.getvalue()
    each = max((PAGE[1] - 2 * MARGIN - HEAD) // row, 1) * columns
    parts = [range(len(entries))[i : i + each] for i in range(0, len(entries), each)]
    pages = (
        _page(
            [cell(number) for number in part],
            PAGE,
            f"{title}  {i + 1} of {len(parts)}" if len(parts) > 1 else title,
            columns,
            size,
        )
        for i, part in enumerate(parts)
    )
    return _bound(pages)


def _check(kind: str, entries: Sequence[Shown]) -> None:
    most = MOST.get(kind)
    if not entries:
        raise FoxHandError("sheet.empty", tr("There are no cards for a contact sheet."), "")
    if most is None:
        raise FoxHandError(
            "sheet.kind",
            tr(
                "A contact sheet cannot be written as {kind}.", kind=kind or tr("this kind of file")
            ),
            tr("Nothing was written."),
            tr("Choose a name that ends with .png or .pdf."),
        )
    if len(entries) > most:
        raise FoxHandError(
            "sheet.too_many",
            tr(
                "{count} cards are too many for one {kind} file; {most} have room.",
                count=len(entries),
                kind=kind,
                most=most,
            ),
            tr("Nothing was written."),
            tr("Search for fewer of them; a .pdf has room for more than a .png."),
        )


def write_sheet(
    path: Path,
    entries: Sequence[Shown],
    title: str,
    *,
    columns: int = 5,
    progress: Progress | None = None,
) -> None:
    """Write a contact sheet; see :func:`sheet_bytes`.

    Raises:
        FoxHandError: also ``file.write``, ``output.is_input``.
    """
    keep_inputs(path, (e.path for e in entries if isinstance(e, Entry)))
    data = sheet_bytes(path.suffix.lower(), entries, title, columns=columns, progress=progress)
    write_atomically(path, data)


def _bound(pages: Iterable[Image.Image]) -> bytes:
    """Pages as one PDF; only one of them is held at a time."""
    with scratch_folder() as folder:
        path = folder / "sheet.pdf"
        for page in pages:
            page.save(path, "PDF", append=path.exists(), resolution=200.0)
        return path.read_bytes()


def _font(size: int) -> ImageFont.FreeTypeFont | ImageFont.ImageFont:
    for file in resources.files("fox_hand.base.fonts").iterdir():
        if file.name.endswith(".ttf"):
            return ImageFont.truetype(io.BytesIO(file.read_bytes()), size)
    return ImageFont.load_default(size)


def _cell(entry: Shown, size: int) -> Cell:
    """A card's picture; a card without one, or a damaged one, is an empty field with its name; a
    gap is a frame of dashes."""
    if isinstance(entry, Gap):
        return _dashed(size), entry.name
    try:
        data = read_picture(entry.path, size)
    except FoxHandError:
        data = None
    ground = Image.new("RGB", (size, size), "#ECE5D8")
    if data is not None:
        with contextlib.suppress(OSError, SyntaxError, ValueError), opened_picture(data) as picture:
            small = picture.convert("RGBA").resize((size, size), Image.Resampling.LANCZOS)
            ground.paste(small, (0, 0), small)
    return ground, entry.name


def _dashed(size: int) -> Image.Image:
    ground = Image.new("RGB", (size, size), PAPER)
    draw, dash = ImageDraw.Draw(ground), max(size // 24, 4)
    for start in range(0, size, 2 * dash):
        end = min(start + dash, size - 1)
        for line in (
            ((start, 1), (end, 1)),
            ((start, size - 2), (end, size - 2)),
            ((1, start), (1, end)),
            ((size - 2, start), (size - 2, end)),
        ):
            draw.line(line, fill=QUIET, width=3)
    half, arm = size // 2, size // 10
    draw.line(((half - arm, half), (half + arm, half)), fill=QUIET, width=4)
    draw.line(((half, half - arm), (half, half + arm)), fill=QUIET, width=4)
    return ground


def _page(
    cells: Sequence[Cell],
    size: tuple[int, int],
    title: str,
    columns: int,
    cell: int,
) -> Image.Image:
    page = Image.new("RGB", size, PAPER)
    draw = ImageDraw.Draw(page)
    draw.text((MARGIN, MARGIN - 12), title, fill=INK, font=_font(40))
    small = _font(24)
    for number, (picture, name) in enumerate(cells):
        x = MARGIN + number % columns * (cell + GAP)
        y = MARGIN + HEAD + number // columns * (cell + NAME + GAP)
        page.paste(picture, (x, y))
        draw.text((x, y + cell + 8), _short(draw, name, cell, small), fill=QUIET, font=small)
    return page


def _short(
    draw: ImageDraw.ImageDraw,
    text: str,
    room: int,
    font: ImageFont.FreeTypeFont | ImageFont.ImageFont,
) -> str:
    if draw.textlength(text, font=font) <= room:
        return text
    while text and draw.textlength(f"{text}…", font=font) > room:
        text = text[:-1]
    return f"{text}…"
