"""Contact sheets: pages, what cannot be read, what is too much, and stopping."""

from __future__ import annotations

import io
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PIL.PdfParser import PdfParser

from fox_hand.base.errors import FoxHandError
from fox_hand.base.work import Cancelled, Progress
from fox_hand.demo.demo_project import shipped
from fox_hand.library.format.entry import Entry
from fox_hand.library.store.contact_sheet import (
    GAP,
    HEAD,
    MARGIN,
    NAME,
    PAGE,
    sheet_bytes,
    write_sheet,
)
from fox_hand.library.store.store import Library
from tests.library.conftest import Listed


@pytest.fixture
def entries(listed: Listed) -> list[Entry]:
    """The demo's cards."""
    return listed(Library(shipped() / "library"))


def columns_of(entries: list[Entry], columns: int) -> tuple[Image.Image, int]:
    """A sheet as a picture, and the side of a card on it."""
    data = sheet_bytes(".png", entries, "Cards", columns=columns)
    return Image.open(io.BytesIO(data)).convert("RGB"), (
        PAGE[0] - 2 * MARGIN - (columns - 1) * GAP
    ) // columns


def test_every_card_stands_in_its_place_and_one_that_is_damaged_is_an_empty_field(
    entries: list[Entry], tmp_path: Path
) -> None:
    broken = tmp_path / "broken.foxcard"
    broken.write_bytes(entries[1].path.read_bytes()[:200])
    shown = [entries[0], replace(entries[1], path=broken), *entries[2:7]]
    page, side = columns_of(shown, 3)
    assert page.width == PAGE[0]
    assert page.height == HEAD + 2 * MARGIN + 3 * (side + NAME + GAP)
    pixels = np.asarray(page).astype(int)
    spread = []
    for number in range(9):
        x = MARGIN + number % 3 * (side + GAP)
        y = MARGIN + HEAD + number // 3 * (side + NAME + GAP)
        spread.append(pixels[y + 8 : y + side - 8, x + 8 : x + side - 8].std((0, 1)).max())
    assert all(value > 10 for n, value in enumerate(spread[:7]) if n != 1)  # a figure is seen
    assert spread[1] == 0
    assert spread[7] == spread[8] == 0  # nothing after the last


@pytest.mark.parametrize(("columns", "pages"), [(5, 1), (2, 5), (1, 20)])
def test_pages_to_print_hold_every_card_once(
    entries: list[Entry], tmp_path: Path, columns: int, pages: int
) -> None:
    path = tmp_path / "cards.pdf"
    write_sheet(path, entries[:20], "Cards", columns=columns)
    side = (PAGE[0] - 2 * MARGIN - (columns - 1) * GAP) // columns
    each = max((PAGE[1] - 2 * MARGIN - HEAD) // (side + NAME + GAP), 1) * columns
    assert pages == -(-20 // each)
    with PdfParser(str(path)) as pdf:
        assert len(pdf.pages) == pages


def test_too_many_none_and_other_kinds_are_refused_before_anything_is_written(
    entries: list[Entry], tmp_path: Path
) -> None:
    many = entries * 30
    for name, shown, code in (
        ("a.png", many, "sheet.too_many"),
        ("a.pdf", many * 10, "sheet.too_many"),
        ("a.bmp", entries, "sheet.kind"),
        ("a.pdf", [], "sheet.empty"),
    ):
        with pytest.raises(FoxHandError) as error:
            write_sheet(tmp_path / name, shown, "Cards")
        assert error.value.code == code
    assert list(tmp_path.glob("a.*")) == []


def test_stopping_leaves_what_was_there(entries: list[Entry], tmp_path: Path) -> None:
    path = tmp_path / "cards.pdf"
    path.write_bytes(b"before")
    seen: list[str] = []

    def stop(share: float, what: str) -> None:
        seen.append(what)
        if len(seen) == 4:
            progress.cancel()

    progress = Progress(stop)
    with pytest.raises(Cancelled):
        write_sheet(path, entries, "Cards", progress=progress)
    assert seen == [e.name for e in entries[:4]]
    assert path.read_bytes() == b"before"


@pytest.mark.parametrize("kind", [".png", ".pdf"])
def test_how_far_a_sheet_is_goes_from_card_to_card(entries: list[Entry], kind: str) -> None:
    told: list[tuple[float, str]] = []
    shown = entries[:4]
    sheet_bytes(
        kind, shown, "Cards", progress=Progress(lambda share, text: told.append((share, text)))
    )
    assert told == [(n / 4, e.name) for n, e in enumerate(shown)]


def test_names_too_long_for_their_field_are_cut(entries: list[Entry]) -> None:
    short, long = entries[0], replace(entries[0], name="W" * 80)
    below = []
    for entry in (short, long):
        page, side = columns_of([entry, entries[1]], 4)
        pixels = np.asarray(page.convert("L")).astype(int)
        field = pixels[MARGIN + HEAD + side + 2 : MARGIN + HEAD + side + NAME, :]
        ink = np.flatnonzero(np.ptp(field[:, : MARGIN + side + GAP], axis=0) > 40)
        below.append(int(ink.max()))
    assert below[0] < below[1] <= MARGIN + side
    assert below[1] > MARGIN + 0.8 * side  # as much of it as there is room for
