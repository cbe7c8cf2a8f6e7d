"""A sheet in the order of a chart, with empty places; charts made from cards."""

from __future__ import annotations

from pathlib import Path
from types import SimpleNamespace
from typing import Any

import msgspec
import numpy as np
import pytest

from fox_hand.core.model.controls import Region
from fox_hand.library.charts.chart import Assigned, Chart, Slot
from fox_hand.library.charts.chart_file import ChartFile
from fox_hand.library.format.entry import Entry
from fox_hand.session.charts.chart_board import ChartBoard, board_of
from fox_hand.session.charts.chart_book import chart_from_cards
from fox_hand.session.charts.chart_order import in_chart_order
from fox_hand.session.charts.gap_filling import sheet_for, side_of
from fox_hand.session.charts.likely_cards import likeness
from fox_hand.session.libraries.open_library import BITS
from fox_hand.session.libraries.request import Shown
from fox_hand.ui.browser.sheet_layout import lay_out_sheets

FOLDER = Path("/lib")
PLACE: Any = SimpleNamespace(number=1, folder=FOLDER, name="Lib")
HANDS = Chart(
    "Hands",
    slots=(
        Slot("fist", "Fist", region="hands", wanted=2),
        Slot("flat", "Flat", region="hands"),
        Slot("point", "Point", region="hands"),
        Slot("fox", "Fox", region="hands"),
    ),
)


def card(item: int, name: str, sheet: str = "Marrow/Hands", **more: Any) -> Entry:
    usual = {"region": Region.HANDS, "side": "left", "character": "Marrow"}
    path = FOLDER / sheet / f"{item}.foxcard"
    return Entry(path, sheet, item, f"id{item}", name, **usual | more)


def board(*cards: Entry, chart: Chart = HANDS) -> ChartBoard:
    file = ChartFile(FOLDER / "charts" / "hands.foxchart.toml", chart)
    return board_of(PLACE, file, cards, ())


def shown(*items: int, sheet: str = "Marrow/Hands") -> Shown:
    keys = np.array([1 << BITS | item for item in items], dtype=np.int64)
    return Shown(PLACE, sheet, sheet, keys, sheet=sheet)


def test_cards_lie_as_the_chart_has_them_and_gaps_have_a_place() -> None:
    cards = [card(1, "Other"), card(2, "Fox"), card(3, "Fist"), card(4, "Fist 2")]
    found = in_chart_order(shown(1, 2, 3, 4), board(*cards), gaps=True)
    items = [key - (1 << BITS) for key in found.keys.tolist()]
    assert items == [3, 4, 2, 1] and found.cells == (0, 1, 4, 5)
    assert [(e.cell, e.name) for e in found.empty] == [(2, "Flat"), (3, "Point")]
    assert found.empty[0].slot == ((1, "hands"), "flat", "Marrow")
    without = in_chart_order(shown(1, 2, 3, 4), board(*cards), gaps=False)
    assert without.cells == (0, 1, 2, 3) and without.empty == ()
    other = in_chart_order(shown(9, sheet="Boats"), board(*cards), gaps=True)
    assert other.cells == () and other.empty == ()  # nobody's slots


def test_the_layout_finds_cards_and_gaps_by_where_they_lie() -> None:
    cards = [card(1, "Other"), card(2, "Fox"), card(3, "Fist"), card(4, "Fist 2")]
    found = in_chart_order(shown(1, 2, 3, 4), board(*cards), gaps=True)
    layout = lay_out_sheets([found], 3 * 76 + 12, 68, True, ())
    assert layout.columns == 3

    def middle(cell: int) -> tuple[int, int]:
        x, y, width, height = layout.cell_rect(0, cell)
        return x + width // 2, y + height // 2

    assert layout.at(*middle(0)) == (0, 0) and layout.at(*middle(4)) == (0, 2)
    assert layout.at(*middle(2)) is None and layout.at(*middle(3)) is None
    assert layout.empty_at(*middle(2)).name == "Flat" and layout.empty_at(*middle(4)) is None
    assert layout.card_rect(0, 2) == layout.cell_rect(0, 4)
    assert layout.gap_at(*middle(4)) == (0, 2)
    row = layout.cell_rect(0, 3)[1]
    assert list(layout.visible(row + 1, row + 2)) == [(0, 2), (0, 3)]
    assert layout.height == lay_out_sheets([shown(*range(1, 7))], 240, 68, True, ()).height


def test_the_next_gap_is_the_same_characters_first() -> None:
    pim = {"character": "Pim", "sheet": "Pim/Hands"}
    found = board(card(1, "Fist"), card(2, "Point"), card(3, "Flat", **pim))
    following = found.next_missing(("fist", "Marrow"))
    assert (following.slot.key, following.character) == ("flat", "Marrow")
    assert found.next_missing(("fox", "Marrow")).slot.key == "flat"  # round to the first
    whole = board(*(card(n, s.name) for n, s in enumerate(HANDS.slots, 1)), card(9, "Flat", **pim))
    following = whole.next_missing(("fox", "Marrow"))
    assert (following.slot.key, following.character) == ("fist", "Pim")
    assert board(card(1, "Fist")).sample(HANDS.slots[0], "Pim").name == "Fist"
    assert board(card(1, "Fist")).sample(HANDS.slots[0], "Marrow") is None


def test_a_card_goes_where_the_others_of_its_character_lie_and_of_their_side() -> None:
    own = board(card(1, "Fist", "Odd/Place"))
    assert sheet_for(own, own.filled["flat", "Marrow"]) == "Odd/Place"
    chart = msgspec.structs.replace(HANDS, characters=("Marrow", "Pim"))
    both = board(card(1, "Fist"), chart=chart)
    assert sheet_for(both, both.filled["flat", "Pim"]) == "Pim/Hands"
    assert side_of(both, both.filled["flat", "Pim"]).value == "left"
    other = board(card(1, "Flat", side="right"), card(2, "Fist"), card(3, "Fist"), chart=chart)
    assert side_of(other, other.filled["flat", "Pim"]).value == "right"  # of the card that shows it
    nobody = board(chart=chart)
    assert sheet_for(nobody, nobody.filled["flat", "Pim"]) == "Pim/Hands"  # named as the chart
    assert side_of(nobody, nobody.filled["flat", "Pim"]) is None
    lent = msgspec.structs.replace(chart, assigned=(Assigned("flat", "Pim", ("id1",)),))
    borrowed = board(card(1, "Fist"), chart=lent)
    assert borrowed.filled["flat", "Pim"].cards[0].lent and borrowed.count == 2


def test_every_card_becomes_a_slot_and_variants_are_wanted() -> None:
    cards = [card(1, "Fist 2", note="Tight.\nMore"), card(2, "Fist"), card(3, "Flat", side="both")]
    chart = chart_from_cards("Mine", cards)
    assert [(s.key, s.name, s.wanted, s.side) for s in chart.slots] == [
        ("fist", "Fist", 2, "left"),
        ("flat", "Flat", 1, ""),
    ]
    assert chart.slots[0].pose == "id1" and chart.slots[0].looks == "Tight."
    found = board(*cards, chart=chart)
    assert found.count == found.whole == 2 and found.filled["fist", "Marrow"].short == 0


def test_faces_are_alike_in_what_they_do_whatever_how_much() -> None:
    assert likeness({"jaw open": 1.0}, {"jaw open": 0.2}) == pytest.approx(1.0)
    assert likeness({"jaw open": 1.0}, {"mouth wide": 1.0}) == 0.0
    assert likeness({"jaw open": 1.0}, {}) == 0.0 == likeness({}, {"a": 1.0})
    both = likeness({"jaw open": 1.0, "mouth round": 1.0}, {"jaw open": 1.0})
    assert both == pytest.approx(2**-0.5)
