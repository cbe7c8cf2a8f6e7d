"""What is typed, as the filters it stands for; cards in memory, filtered, sorted, in sections."""

from __future__ import annotations

import time

import numpy as np
import pytest

from fox_hand.core.model.controls import Region
from fox_hand.library.index.card_columns import Columns, named, tagged
from fox_hand.library.index.catalogue import Catalogue, Grouping, Personal, Sort
from fox_hand.library.index.facets import count_values, facets_of
from fox_hand.library.index.index import REGIONS
from fox_hand.library.index.index_rows import SIDES
from fox_hand.library.index.query import (
    BODY,
    FACE,
    FitFilter,
    NamedFilter,
    Query,
    parse,
    unknown_filters,
    with_filter,
    words_of,
)
from fox_hand.library.index.spelling import nearest_words

ALL, SOME, NONE = (frozenset({fit}) for fit in (FitFilter.ALL, FitFilter.SOME, FitFilter.NONE))
BOTH_SIDES = frozenset({"left", "right", "both"})
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
        ('tag:"deck grip', Query(("grip",), (("tags", "deck"),))),
        ('tag:"Deck grip"', Query(names=(NamedFilter("tag", frozenset({"deck grip"})),))),
        (
            'by:ines,"Tomo R." x',
            Query(("x",), names=(NamedFilter("by", frozenset({"tomo r."}), ("ines",)),)),
        ),
        ("character:mar", Query(names=(NamedFilter("character", begun=("mar",)),))),
        ("region:hands,legs side:l,r", Query(regions=HANDS | LEGS, sides=BOTH_SIDES)),
        ("approved:no kind:pose,clip", Query(locked=False)),
        ("approved:yes,no new:today,month", Query(days=31)),
        ("by:ines sheet:face", Query(columns=(("author", "ines"), ("sheet", "face")))),
        ("fits:some", Query(fits=SOME)),
        ("FITS:N", Query(fits=NONE)),
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
        ("kind:film", "kind: knows pose, clip, drawing."),
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
    assert Query(fits=ALL).together(Query(fits=NONE)).nothing
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
        "kinds": np.array([0, 0, 1, 0, 0, 1, 0, 0]),
        "sheet_names": ("Face", "Hands", "", "Zebra"),
        "characters": named(["Marrow"] * 6 + ["Pim", ""]),
        "authors": named(["Ines B.", "Tomo R."] * 4),
        "changers": named(["Ines B."] * 8),
        "tags": tagged([["rope"], ["rope", "wet"], [], [], ["Two words"], [], [], ["wet"]]),
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
    assert flat(Query(fits=ALL), landing=landing) == [3, 5, 15]
    assert flat(Query(fits=SOME), landing=landing) == [3, 5, 7, 9, 15]
    assert flat(Query(fits=NONE), landing=landing) == [11, 13]
    assert flat(Query(locked=False)) == [3, 7, 9, 13, 15, 17]
    assert len(flat(Query(fits=ALL))) == 7  # nobody acts; what cannot be read is out


def test_cards_are_filtered_by_names() -> None:
    assert flat(parse('tag:"rope"')) == [3, 5] and flat(parse('tag:"rope" tag:"wet"')) == [5]
    assert flat(parse('tag:"rope","wet"')) == [3, 5, 17] == flat(parse("tag:ro,we"))
    assert flat(parse('tag:"two"')) == [] and flat(parse('tag:"two words"')) == [11]
    assert flat(parse("character:pi")) == [15] and flat(parse('character:"MARROW"'))[-1] == 13
    assert flat(parse('by:"tomo r.","nobody"')) == [5, 9, 13, 17]
    assert flat(parse('sheet:"hands"')) == [5, 9, 13]
    inside = Catalogue(columns(sheet_names=("Hands/Grips", "Hands", "", "Handsome")))
    (found,) = inside.select(parse('sheet:"Hands"'), group=Grouping.NOTHING)
    assert found.items.tolist() == [3, 5, 9, 11, 13]
    nobody = columns(characters=named([""] * 8), tags=tagged([[]] * 8))
    assert Catalogue(nobody).select(parse('tag:"x"')) == []


def counted(text: str, **more: object) -> dict[str, dict[str, int]]:
    catalogue = Catalogue(columns())
    landing = {1: FitFilter.ALL, 2: FitFilter.SOME, 3: FitFilter.NONE}
    kept = catalogue.kept_by_words(more.pop("matching", None))
    counts = count_values(catalogue.columns, kept, parse(text), [5, 99], landing)
    facets = facets_of(text, [counts, more["other"]] if "other" in more else [counts])
    return {facet.key: {v.word: v.count for v in facet.values} for facet in facets}


def test_a_facet_counts_what_each_of_its_values_would_give() -> None:
    rows = counted("")
    assert rows["character"] == {"Marrow": 6, "Pim": 1}
    assert rows["tag"] == {"rope": 2, "wet": 2, "Two words": 1}
    assert rows["by"] == {"Ines B.": 4, "Tomo R.": 4}
    assert rows["side"] == {"L": 4, "R": 4, "centre": 1, "both": 2}
    assert rows["kind"] == {"poses": 6, "clips": 2} and rows["approved"] == {"yes": 2, "not yet": 6}
    assert rows["new"] == {"today": 2, "this week": 4, "this month": 6}
    assert rows["fits"] == {"wholly": 3, "in part or wholly": 5, "not": 2}
    assert rows["favourite"] == {"favourites": 1}
    assert rows["region"] == {"head": 2, "eyes": 1, "hands": 2, "legs": 2}
    landing = {1: FitFilter.ALL, 2: FitFilter.SOME, 3: FitFilter.NONE}
    mine = Personal(favourites=[5, 99])
    for text in ("region:hands", 'tag:"wet"', "side:left kind:pose", 'by:"ines b." approved:no'):
        for facet in facets_of(text, [count_values_of(text)]):
            for value in facet.values:
                if facet.key not in text:  # the same as is found when it is asked for, too
                    both = parse(f"{text} {facet.key}:{value.token}")
                    assert len(flat(both, personal=mine, landing=landing)) == value.count


def test_what_is_chosen_in_a_row_does_not_narrow_that_row() -> None:
    rows = counted("region:hands")
    assert rows["region"] == counted("")["region"]
    assert "side" not in rows  # all that are left are of one side
    assert counted('tag:"gone"')["tag"]["gone"] == 0  # can be taken off
    assert counted("fist", matching=np.array([5, 15]))["character"] == {"Marrow": 1, "Pim": 1}
    assert counted("", other={"character": {"Pim": 4, "Quill": 2}})["character"] == {
        "Marrow": 6,
        "Pim": 5,
        "Quill": 2,
    }


def test_pressing_a_value_writes_it_into_the_search() -> None:
    text = 'old region:body tag:"wet" rope'
    assert with_filter(text, "tag", ('"wet"', '"rope"')) == 'old region:body rope tag:"wet","rope"'
    assert with_filter(text, "tag", ()) == "old region:body rope"
    assert (
        with_filter("", "side", ("left",))
        == "side:left"
        == with_filter("side:r", "side", ("left",))
    )
    counts = count_values_of('tag:"Wet" region:face')
    tag, region = (
        next(f for f in facets_of('tag:"Wet" region:face', [counts]) if f.key == key)
        for key in ("tag", "region")
    )
    assert tag.switched('"rope"') == ('"rope"', '"wet"') and tag.switched('"wet"') == ()
    assert "eyes" in [v.token for v in region.values if v.chosen]
    assert "eyes" not in region.switched("eyes") and "head" in region.switched("eyes")


def count_values_of(text: str) -> dict[str, dict[str, int]]:
    catalogue = Catalogue(columns())
    landing = {1: FitFilter.ALL, 2: FitFilter.SOME, 3: FitFilter.NONE}
    kept = catalogue.kept_by_words(None)
    return count_values(catalogue.columns, kept, parse(text), [5, 99], landing)


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
