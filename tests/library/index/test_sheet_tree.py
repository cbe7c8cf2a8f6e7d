"""Sheets in sheets as a tree, with what lies in them."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from fox_hand.core.model.controls import Region
from fox_hand.library.index.card_columns import Columns, named, tagged
from fox_hand.library.index.index import REGIONS
from fox_hand.library.index.narrowing import changed_by_others
from fox_hand.library.index.sheet_tree import SheetNode, sheet_tree, tell_new, tree_order

HEAD, HANDS = REGIONS.index(Region.HEAD), REGIONS.index(Region.HANDS)


def columns() -> Columns:
    """Six cards: two hands and a head below Marrow, two hands of Pim, one loose."""
    zeros: Any = np.zeros(6, dtype=np.int64)
    return Columns(
        np.arange(1, 7),
        np.array([1, 1, 2, 3, 3, 0]),
        ("", "Marrow/Hands/Grips", "Marrow/Face", "Mixed"),
        np.array([HANDS, HANDS, HEAD, HANDS, HEAD, HEAD]),
        *(zeros, zeros, np.array([100, 200, 300, 400, 500, 600]), zeros + 1, zeros, zeros),
        characters=named(["Marrow", "Marrow", "Marrow", "Pim", "Marrow", ""]),
        authors=named(["Ines"] * 6),
        changers=named(["ines", "tomas", "tomas", "ines", "tomas", "tomas"]),
        tags=tagged([[]] * 6),
    )


def at(root: SheetNode, path: str) -> SheetNode:
    return next(node for node in root.walk() if node.path == path)


def test_a_sheet_counts_all_that_lies_in_it_and_says_whose_it_is() -> None:
    new = np.array([True, False, True, False, False, True])
    root = sheet_tree(columns(), ("Mixed", "Marrow/Empty", "Marrow/Face"))
    tell_new({node.path: node for node in root.walk()}, columns(), new)
    assert [n.path for n in root.inner] == ["Mixed", "Marrow"]
    marrow = at(root, "Marrow")
    assert [n.name for n in marrow.inner] == ["Empty", "Face", "Hands"]
    assert (marrow.own, marrow.count, marrow.new, marrow.depth) == (0, 3, 2, 1)
    assert marrow.regions == (Region.HANDS, Region.HEAD)  # a third of it is faces
    assert marrow.characters == ("Marrow",)
    assert at(root, "Mixed").characters == ("Marrow", "Pim")
    grips = at(root, "Marrow/Hands/Grips")
    assert (grips.own, grips.count, grips.new, grips.regions) == (2, 2, 1, (Region.HANDS,))
    empty = at(root, "Marrow/Empty")
    assert (empty.count, empty.regions, empty.characters) == (0, (), ())
    assert (root.own, root.count, root.new, root.sheets) == (1, 6, 3, 6)
    assert (marrow.face, grips.face, empty.face) == (3, 1, 0)  # the first face, else the first
    assert at(root, "Mixed").whose == "Marrow, Pim" and grips.whose == ""
    assert at(sheet_tree(columns(), ()), "Marrow").new == 0


def test_a_face_is_shown_rather_than_a_mouth_and_a_mouth_rather_than_a_hand() -> None:
    mouth = REGIONS.index(Region.MOUTH)
    some = replace(columns(), regions=np.array([HANDS, mouth, HEAD, HANDS, mouth, HEAD]))
    root = sheet_tree(some, ())
    assert [at(root, p).face for p in ("Marrow", "Marrow/Hands/Grips", "Mixed")] == [3, 2, 5]


def test_what_lies_in_a_sheet_follows_it_whatever_the_order_says() -> None:
    given = ("B/1", "A", "B/1/x", "C", "B/0", "B", "A/2")
    assert tree_order(given) == ("B", "B/1", "B/1/x", "B/0", "A", "A/2", "C")
    assert tree_order(("Marrow/Hands", "Pim/Hands", "Marrow/Face")) == (
        *("Marrow/Hands", "Marrow/Face"),
        "Pim/Hands",
    )


def test_new_is_what_others_changed_since() -> None:
    found = changed_by_others(columns(), "1970-01-01T00:04:10Z", {"ines"})
    assert found.tolist() == [False, False, True, False, True, True]
    assert not changed_by_others(columns(), "", {"ines"}).any()
    assert changed_by_others(columns(), "1970-01-01T00:00:00Z", set()).all()
