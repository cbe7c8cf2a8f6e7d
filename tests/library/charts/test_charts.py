"""Charts as files, and the decision which card fills which slot."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import jsonschema
import msgspec
import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.documents import decode_toml
from fox_hand.core.model.controls import Region
from fox_hand.interchange.gltf.expressions import RENAMED
from fox_hand.library.charts import chart_moves
from fox_hand.library.charts.chart import Assigned, Chart, Slot, alike_name, json_schema
from fox_hand.library.charts.chart_file import chart_of, chart_text, read_chart, read_charts
from fox_hand.library.charts.filling import Why, fill, owners
from fox_hand.library.charts.ready import ready_charts
from fox_hand.library.format.entry import Entry
from fox_hand.library.store.store import Library

SCHEMA = Path(__file__).parents[3] / "docs" / "format" / "foxchart-1.schema.json"
MOUTH = Chart(
    "Mouths",
    slots=(
        Slot("rest", "Rest", region="mouth"),
        Slot("mbp", "M B P", region="mouth", wanted=3, words=("m", "lips pressed")),
        Slot("fist", "Fist", region="hands", side="left"),
    ),
)


def entry(name: str, identity: str, **more: object) -> Entry:
    usual = {"region": Region.MOUTH, "character": "Marrow", "changed": "2026-11-01T00:00:00Z"}
    return Entry(Path(f"{identity}.foxcard"), "Sheet", name=name, identity=identity, **usual | more)


def told(chart: Chart, *cards: Entry, characters: tuple[str, ...] = ("Marrow",)) -> dict:
    found = fill(chart, characters, cards)
    return {
        key: [(one.card.identity, one.how, one.lent) for one in filling.cards]
        for key, filling in found.items()
        if filling.cards
    }


def test_a_card_fills_a_slot_by_what_is_said_then_by_its_tag_then_by_its_name() -> None:
    by_name = entry("M B P 2", "n")
    old = entry("mbp", "old", changed="2026-01-01T00:00:00Z")
    by_word = entry("Lips pressed", "w", approved_by="Ines")
    face = entry("M B P", "face", region=Region.HEAD)
    locked = entry("M B P", "locked", approved_by="Ines")
    by_tag = entry("Squeeze", "t", tags=("m b p",))
    full = entry("Odd", "f", tags=("mouths mbp",))
    said = entry("Whatever", "s")
    chart = msgspec.structs.replace(MOUTH, assigned=(Assigned("mbp", "Marrow", ("s", "gone")),))
    assert told(chart, face, by_name, old, by_word, locked, by_tag, said, full)[
        "mbp", "Marrow"
    ] == [
        ("s", Why.ASSIGNED, False),
        ("f", Why.TAG, False),
        ("t", Why.TAG, False),
        ("locked", Why.NAME, False),  # approved before newer
        ("n", Why.NAME, False),
        ("old", Why.NAME, False),
        ("face", Why.NAME, False),  # a mouth before a whole face
        ("w", Why.WORD, False),  # its name before another word for it
    ]
    fist = entry("Rest", "r", tags=("mbp",))  # called like another slot
    assert ("mbp", "Marrow") not in told(MOUTH, fist)
    assert told(MOUTH, replace(fist, tags=("mouths mbp",)))["mbp", "Marrow"]
    (filling,) = [f for k, f in fill(MOUTH, ("Marrow",), [by_name]).items() if k[0] == "mbp"]
    assert (filling.missing, filling.short) == (False, 2)


def test_what_is_no_mouth_or_of_somebody_else_fills_no_mouth() -> None:
    assert told(MOUTH, entry("Rest", "r", region=Region.HANDS)) == {}
    assert told(MOUTH, entry("Rest", "r", region=Region.HEAD)) == {
        ("rest", "Marrow"): [("r", Why.NAME, False)]  # mouths lie where heads lie
    }
    assert told(MOUTH, entry("Rest", "r", region=Region.EYES)) == {}
    assert told(MOUTH, entry("Rest", "r", character="Pim")) == {}
    eyes = Chart("Lids", slots=(Slot("wide", "Wide", region="eyes"),))
    assert told(eyes, entry("Ee", "e", tags=("wide",))) == {}  # a wide mouth is no wide eye
    whole = Chart("Emotions", slots=(Slot("wide", "Wide", region="face"),))
    assert told(whole, entry("Ee", "e", tags=("wide",))) != {}
    hand = entry("Fist", "h", region=Region.HANDS, side="right")
    assert told(MOUTH, hand) == {}
    assert told(MOUTH, replace(hand, side="both")) == {("fist", "Marrow"): [("h", Why.NAME, False)]}
    wrong = replace(entry("Rest", "x"), error=FoxHandError("a", "b", "c"))
    assert told(MOUTH, wrong) == {}


def test_a_card_can_be_lent_refused_and_put_into_one_slot_only() -> None:
    pims = entry("Rest", "p", character="Pim")
    chart = msgspec.structs.replace(
        MOUTH,
        assigned=(
            Assigned("rest", "MARROW", ("p",), refused=("r",)),
            Assigned("mbp", "Marrow", ("m",)),
        ),
    )
    found = told(chart, pims, entry("Rest", "r"), entry("Rest 2", "m"))
    assert found == {
        ("rest", "Marrow"): [("p", Why.ASSIGNED, True)],
        ("mbp", "Marrow"): [("m", Why.ASSIGNED, False)],
    }


def test_what_looks_like_it_is_proposed_and_fills_nothing() -> None:
    cards = [
        entry("A", "a"),
        entry("B", "b"),
        entry("Rest", "r"),
        entry("C", "c", region=Region.LEGS),
    ]
    likely = {
        ("mbp", "Marrow"): [("a", 0.9), ("b", 0.97), ("r", 0.99), ("c", 0.99), ("zz", 1.0)],
        ("rest", "Marrow"): [("a", 1.0)],
        ("fist", "Marrow"): [("a", 0.5)],
    }
    found = fill(MOUTH, ("Marrow",), cards, likely)
    assert [(e.identity, s) for e, s in found["mbp", "Marrow"].proposed] == [
        ("b", 0.97),
        ("a", 0.9),
    ]
    assert found["mbp", "Marrow"].missing
    assert found["rest", "Marrow"].proposed == ()  # it is filled
    assert found["fist", "Marrow"].proposed == ()
    refusing = msgspec.structs.replace(MOUTH, assigned=(Assigned("mbp", "Marrow", refused=("b",)),))
    again = fill(refusing, ("Marrow",), cards, likely)["mbp", "Marrow"].proposed
    assert [e.identity for e, _ in again] == ["a"]


def test_a_chart_is_for_those_it_names_else_for_all_that_have_cards() -> None:
    cards = [entry("a", "a", character="Quill"), entry("b", "b"), entry("c", "c", character="")]
    assert owners(MOUTH, cards, ("Pim", "marrow")) == ("Pim", "marrow", "Quill")
    assert owners(msgspec.structs.replace(MOUTH, characters=("Gull",)), cards) == ("Gull",)


def test_names_are_compared_by_letters_and_without_their_number() -> None:
    assert alike_name("M B P 2") == alike_name("mbp") == "mbp"
    assert alike_name("Ch/Sh") == "chsh" and alike_name("2") == "2" and alike_name("") == ""
    assert alike_name("Walk contact left") != alike_name("walk contact")


def test_ready_charts_can_be_read_and_fit_the_published_schema() -> None:
    schema = json.loads(SCHEMA.read_text())
    assert SCHEMA.read_bytes() == json_schema()
    charts = ready_charts()
    assert len(charts) == 7
    for file in charts:
        jsonschema.Draft202012Validator(schema).validate(decode_toml(file.text))
        assert file.chart.source and all(slot.looks for slot in file.chart.slots)
        assert chart_of(decode_toml(chart_text(file.chart)), file.path) == file.chart


def test_mouth_shapes_cover_every_viseme_of_mpeg_4_once() -> None:
    """ISO/IEC 14496-2, table of visemes: 0 none, 1 p b m, 2 f v, 3 T D, 4 t d, 5 k g, 6 tS dZ S,
    7 s z, 8 n l, 9 r, 10 A:, 11 e, 12 I, 13 Q, 14 U (from memory; the same in Tekalp and Ostermann,
    Face and 2-D mesh animation in MPEG-4, Signal Processing: Image Communication 15, 2000)."""
    mouth = next(f.chart for f in ready_charts() if f.key == "mouth")
    said = [int(v.removeprefix("viseme ")) for slot in mouth.slots for v in slot.stands_for]
    assert sorted(said) == list(range(15)) and len(mouth.slots) == 12
    of = {v: slot.key for slot in mouth.slots for v in slot.stands_for}
    wanted = {0: "rest", 1: "mbp", 2: "fv", 3: "th", 5: "kgs", 6: "chsh", 7: "kgs", 8: "l"}
    wanted |= {10: "ah", 11: "eh", 12: "ee", 13: "oh", 14: "oo"}
    assert {number: of[f"viseme {number}"] for number in wanted} == wanted
    assert mouth.slot("mbp").wanted == 3


def test_expressions_are_the_presets_of_vrm_1() -> None:
    """VRMC_vrm-1.0, expressions.preset (VRM Consortium); from memory, the same list as the reader
    of such files has, and ``surprised``, which VRM 0.x did not have."""
    chart = next(f.chart for f in ready_charts() if f.key == "expressions")
    assert {slot.key for slot in chart.slots} == {*RENAMED.values(), "surprised"}
    assert len(chart.slots) == 18


@pytest.mark.parametrize(
    ("text", "code"),
    [
        ("name = 3", "chart.damaged"),
        ("version = 2\nname = 'x'", "version.newer"),
        ("name = 'x'\n[[slots]]\nkey = 'a'\nname = 'A'\nregion = 'fur'", "chart.damaged"),
        ("name = 'x'\nslots = [{key='a', name='A'}, {key='a', name='B'}]", "chart.damaged"),
        ("name = 'x'\n[[slots]]\nkey = 'a'\nname = 'A'\nwanted = 0", "chart.damaged"),
        ("name = ", "chart.damaged"),
    ],
)
def test_a_chart_that_cannot_be_read_says_why_and_the_others_are_there(
    library: Library, text: str, code: str
) -> None:
    folder = library.folder / "charts"
    folder.mkdir()
    (folder / "bad.foxchart.toml").write_text(text)
    chart_moves.add(library, MOUTH)
    found, wrong = read_charts(library.folder)
    assert [f.chart.name for f in found] == ["Mouths"]
    assert [w.code for w in wrong] == [code] and "bad.foxchart.toml" in wrong[0].happened


def test_what_is_said_of_slots_keeps_what_people_wrote_and_goes_back(library: Library) -> None:
    done = chart_moves.add(library, MOUTH)
    assert done.path is not None and done.path.name == "Mouths.foxchart.toml"
    path = done.path
    path.write_text("# ours, do not sort\n" + path.read_text())
    before = path.read_bytes()
    one = chart_moves.assign(library, path, Assigned("mbp", "Marrow", ("a",)))
    chart_moves.assign(library, path, Assigned("mbp", "Pim", refused=("b",)))
    two = chart_moves.assign(library, path, Assigned("mbp", "marrow", ("c", "a")))
    assert path.read_text().startswith("# ours, do not sort\n")
    chart = read_chart(path).chart
    assert chart.said("mbp", "Marrow").cards == ("c", "a") and len(chart.assigned) == 2
    two.undo()
    assert read_chart(path).chart.said("mbp", "Marrow").cards == ("a",)
    one.undo()
    assert read_chart(path).chart.assigned == (Assigned("mbp", "Pim", refused=("b",)),)
    chart_moves.assign(library, path, Assigned("mbp", "Pim"))
    assert path.read_bytes() == before
    gone = chart_moves.take_away(library, path)
    assert not path.exists()
    gone.undo()
    assert path.read_bytes() == before
    again = chart_moves.add(library, MOUTH)
    assert again.path is not None and again.path.name == "Mouths 2.foxchart.toml"


def test_a_chart_that_a_colleague_changed_is_not_taken_back(library: Library) -> None:
    path = chart_moves.add(library, MOUTH).path
    assert path is not None
    done = chart_moves.change(library, path, lambda c: msgspec.structs.replace(c, name="Other"))
    assert read_chart(path).chart.name == "Other"
    back = done.undo()
    assert read_chart(path).chart.name == "Mouths"
    back.undo()
    path.write_text(path.read_text() + "# a colleague\n")
    with pytest.raises(FoxHandError, match="changed by somebody else"):
        done.undo()
    assert path.read_text().endswith("# a colleague\n")
