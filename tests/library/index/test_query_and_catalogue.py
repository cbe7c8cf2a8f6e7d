"""What is typed, as the filters it stands for; cards in memory, filtered, sorted, in sections."""

from __future__ import annotations

import time

import numpy as np
import pytest

from fox_hand.core.model.controls import Region
from fox_hand.library.index.catalogue import Catalogue, Grouping, Personal, Sort
from fox_hand.library.index.index import REGIONS, Columns
from fox_hand.library.index.index_rows import SIDES
from fox_hand.library.index.query import (
    BODY,
    FACE,
    FitFilter,
    Query,
    parse,
    unknown_filters,
    words_of,
)
from fox_hand.library.index.spelling import nearest_words

HANDS, LEGS = frozenset({Region.HANDS}), frozenset({Region.LEGS})


@pytest.mark.parametrize(
    ("text", "query"),
    [
        ("", Query()),
        ("Fist-2  OPEN", Query(("fist", "2", "open"))),
        ('"held close" a', Query(("held", "close", "a"))),
        ("region:hands", Query(regions=HANDS)),
        ("region:hand region:leg", Query(regions=HANDS | LEGS)),
        ("region:face", Query(regions=FACE)),
        ("region:bod", Query(regions=BODY)),
        ("side:l", Query(sides=frozenset({"left", "both"}))),
        ("side:both", Query(sides=frozenset({"both"}))),
        ("side:c", Query(sides=frozenset({"centre"}))),
        ('tag:"deck grip"', Query(columns=(("tags", "deck"), ("tags", "grip")))),
        ("by:ines sheet:face", Query(columns=(("author", "ines"), ("sheet", "face")))),
        ("fits:some", Query(fits=FitFilter.SOME)),
        ("FITS:N", Query(fits=FitFilter.NONE)),
        ("kind:clip fist", Query(("fist",), kind="clip")),
        ("new:today", Query(days=1)),
        ("new:week", Query(days=7)),
        ("new:31d", Query(days=31)),
        ("new: by:", Query()),
        ("region: fist", Query(("fist",))),
        ("colour:red", Query(("colour", "red"))),
    ],
)
def test_words_and_filters_are_understood(text: str, query: Query) -> None:
    found = parse(text)
    assert found == query and found.problems == ()
    assert found.empty == (query == Query())


@pytest.mark.parametrize(
    ("text", "problem"),
    [
        ("region:fur", "region: knows face, body, head, eyes"),
        ("side:up fist", "side: knows left, l, right"),
        ("fits:maybe", "fits: knows all, some, none."),
        ("kind:film", "kind: knows pose, clip."),
        ("new:soon", "new: knows today, week, month or a number of days."),
        ("new:12345", "new: knows today"),
    ],
)
def test_what_is_not_understood_is_said_and_the_rest_counts(text: str, problem: str) -> None:
    found = parse(text)
    (said,) = found.problems
    assert said.startswith(problem)
    assert found == Query(("fist",) if "fist" in text else ())
    assert unknown_filters(text) == found.problems


def test_what_looks_like_a_filter_and_is_none_is_told_where_it_matters() -> None:
    assert unknown_filters('"colour:red" region:hands fist') == ()
    (said,) = unknown_filters("colour:red fist")
    assert said.startswith("There is no filter colour:. There are region, side, tag")
    assert words_of("Über-Hand, 2x (_a_)") == ("über", "hand", "2x", "a")


def test_two_queries_together_find_what_both_find() -> None:
    one = Query(("a",), regions=HANDS | LEGS, sides=frozenset({"left", "both"}), days=7)
    other = Query(("b",), regions=HANDS, sides=frozenset({"both"}), days=1, favourites=True)
    both = one.together(other)
    assert both == Query(
        ("a", "b"), regions=HANDS, sides=frozenset({"both"}), days=1, favourites=True
    )
    assert one.together(Query()) == one == Query().together(one)
    assert Query(regions=HANDS).together(Query(regions=LEGS)).nothing
    assert Query(sides=frozenset({"left"})).together(Query(sides=frozenset({"right"}))).nothing
    assert Query(kind="pose").together(Query(kind="clip")).nothing
    assert not Query(kind="pose").together(Query(kind="pose")).nothing
    assert Query().together(Query(kind="clip", locked=True)) == Query(kind="clip", locked=True)
    assert Query(fits=FitFilter.ALL).together(Query(fits=FitFilter.NONE)).fits is FitFilter.ALL
    problems = Query(problems=("x",)).together(Query(problems=("y",))).problems
    assert problems == ("x", "y")
    assert Query(("fist", "2"), (("author", "ines"),)).text == (
        '"fist"* AND "2"* AND author : "ines"*'
    )


def columns(**changed: object) -> Columns:
    """Eight cards by name: numbers 3, 5, 7 ... 17."""
    now = time.time()
    regions = [REGIONS.index(r) for r in (Region.HANDS, Region.HEAD, Region.LEGS, Region.EYES)] * 2
    values: dict[str, object] = {
        "items": np.arange(3, 19, 2),
        "sheets": np.array([0, 1, 2, 1, 0, 1, 2, 3]),
        "regions": np.array(regions),
        "sides": np.array([SIDES.index(s) for s in ("left", "right", "both", "centre")] * 2),
        "shapes": np.array([1, 1, 2, 2, 3, 3, 1, 2]),
        "changed": now - 86_400 * np.array([0.5, 2, 8, 40, 0.2, 6, 30, 400.0]),
        "locked": np.array([0, 1, 0, 0, 1, 0, 0, 0]),
        "readable": np.array([1, 1, 1, 1, 1, 1, 1, 0]),
        "moving": np.array([0, 0, 1, 0, 0, 1, 0, 0]),
        "sheet_names": ("Face", "Hands", "", "Zebra"),
    }
    known = {k: v for k, v in {**values, **changed}.items() if k in Columns.__dataclass_fields__}
    return Columns(**known)


def told(catalogue: Catalogue, query: Query, matching: object = None, **how: object) -> object:
    found = catalogue.select(query, matching, **how)
    return [(section.key, section.items.tolist()) for section in found]


def flat(query: Query, matching: object = None, **how: object) -> list[int]:
    catalogue = Catalogue(columns())
    (found,) = catalogue.select(query, matching, group=Grouping.NOTHING, **how) or [None]
    return [] if found is None else found.items.tolist()


def test_cards_are_filtered_by_each_column() -> None:
    every = list(range(3, 19, 2))
    assert flat(Query()) == every
    assert flat(Query(nothing=True)) == []
    assert flat(Query(regions=HANDS)) == [3, 11]
    assert flat(Query(regions=frozenset({Region.EYES}))) == [9]  # the other cannot be read
    assert flat(Query(sides=frozenset({"left", "both"}))) == [3, 7, 11, 15]
    assert flat(Query(kind="clip")) == [7, 13] and flat(Query(kind="pose")) == [3, 5, 9, 11, 15, 17]
    assert flat(Query(days=1)) == [3, 11] and flat(Query(days=7)) == [3, 5, 11, 13]
    assert flat(Query(locked=True)) == [5, 11]
    personal = Personal(favourites=[5, 17, 99])
    assert flat(Query(favourites=True), personal=personal) == [5, 17]
    assert flat(Query(favourites=True)) == []
    assert flat(Query(), np.array([5, 7, 200, 17])) == [5, 7, 17]  # one is younger
    landing = {1: FitFilter.ALL, 2: FitFilter.SOME, 3: FitFilter.NONE}
    assert flat(Query(fits=FitFilter.ALL), landing=landing) == [3, 5, 15]
    assert flat(Query(fits=FitFilter.SOME), landing=landing) == [3, 5, 7, 9, 15]
    assert flat(Query(fits=FitFilter.NONE), landing=landing) == [11, 13]
    assert len(flat(Query(fits=FitFilter.ALL))) == 7  # nobody acts; what cannot be read is out


def test_cards_are_sorted_and_put_in_sections() -> None:
    catalogue = Catalogue(columns())
    assert len(catalogue) == 8
    assert told(catalogue, Query(), sheets=("Hands", "Face")) == [
        ("", [7, 15]),
        ("Hands", [5, 9, 13]),
        ("Face", [3, 11]),
        ("Zebra", [17]),
    ]
    assert told(catalogue, Query(), sheets=("Face",))[1:] == [  # type: ignore[index]
        ("Face", [3, 11]),
        ("Hands", [5, 9, 13]),
        ("Zebra", [17]),
    ]
    regions = told(catalogue, Query(), group=Grouping.REGION)
    assert isinstance(regions, list)
    assert dict(regions) == {"hands": [3, 11], "head": [5, 13], "legs": [7, 15], "eyes": [9, 17]}
    assert [key for key, _ in regions] == [r.value for r in REGIONS if r.value in dict(regions)]
    assert flat(Query(), sort=Sort.NEWEST) == [11, 3, 5, 13, 7, 15, 9, 17]
    assert flat(Query(), sort=Sort.REGION) == [i for _, items in regions for i in items]
    personal = Personal(used={13: 4, 5: 9, 400: 3}, order={17: 0, 3: 1, 11: 2})
    assert flat(Query(), sort=Sort.USED, personal=personal)[:3] == [5, 13, 3]
    assert flat(Query(), sort=Sort.HAND, personal=personal)[:4] == [17, 3, 11, 5]
    few = catalogue.select(Query(), np.array([17]), sort=Sort.NEWEST, group=Grouping.NOTHING)
    assert few[0].items.tolist() == [17]
    assert Catalogue(columns()).select(Query(nothing=True)) == []
    # many rows, few found: sorted as they are, the others picked from the order
    other = Personal(used={3: 1})
    assert flat(Query(), sort=Sort.USED, personal=other)[0] == 3


def test_a_misspelt_word_is_the_nearest_known_one() -> None:
    known = {"fist", "flat", "first", "hands", "wave", "fits"}
    assert nearest_words(("fsit",), known) == ("fist",)
    assert nearest_words(("hadns", "wave"), known) == ("hands", "wave")
    assert nearest_words(("xylophone",), known) is None
    assert nearest_words((), known) in (None, ())
