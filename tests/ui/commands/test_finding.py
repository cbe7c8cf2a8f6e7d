"""What is found by part of a word, and in which order."""

from __future__ import annotations

import pytest
from PySide6.QtWidgets import QMenu

from fox_hand.ui.commands.actions import Actions, Command, Where
from fox_hand.ui.commands.finding import Findable, find, folded, grouped


def nothing() -> None:
    raise AssertionError("it was only looked for")


def named(words: str, group: str = "Commands", more: str = "", *, ready: bool = True) -> Findable:
    return Findable(words, nothing, group, more, ready=ready)


def test_beginnings_come_first_then_words_then_what_is_inside_or_beside() -> None:
    all_of_them = [
        named("Admire"),
        named("What mirrors to what"),
        named("Pairs", more="what is mirrored to what"),
        named("Mirror", ready=False),
        named("Mirror onto the other side"),
        named("Unrelated"),
    ]
    hits = find("mIr", all_of_them)
    assert [hit.of.words for hit in hits] == [
        "Mirror onto the other side",
        "Mirror",  # which cannot be used now
        "What mirrors to what",
        "Admire",
        "Pairs",
    ]
    underlined = [hit.of.words[hit.start : hit.end] for hit in hits]
    assert underlined == ["Mir", "Mir", "mir", "mir", ""]
    assert not find("mirrror", all_of_them)
    assert [hit.of.words for hit in find("mi", all_of_them)][-1] == "What mirrors to what"


def test_accents_and_capitals_do_not_matter_and_places_stay_right() -> None:
    assert folded("Füchse Ünd ß") == "fuchse und ß"
    (hit,) = find("fuch", [named("Die Füchse")])
    assert hit.of.words[hit.start : hit.end] == "Füch"
    assert find("ﬁ", [named("ﬁn")])


def test_groups_keep_their_order_and_are_cut_short() -> None:
    many = [named(f"Sheet {n}", "Sheets") for n in range(70)]
    hits = find("sheet", [named("New sheet"), *many], most=7)
    assert [(title, len(found)) for title, found in grouped(hits)] == [
        ("Commands", 1),
        ("Sheets", 7),
    ]
    unready = [named("Save", ready=False), named("Open")]
    assert [h.of.words for h in find("", unready)] == ["Open"]


def test_no_name_and_no_key_of_a_place_is_there_twice() -> None:
    one = Command("a", "A", nothing, ("Ctrl+K",))
    with pytest.raises(ValueError, match="twice"):
        Actions([one, Command("a", "B", nothing)])
    with pytest.raises(ValueError, match="twice"):
        Actions([one, Command("b", "B", nothing, ("ctrl+k",))])
    Actions([one, Command("b", "B", nothing, ("Ctrl+K",), where=Where.STAGE)])


def test_a_menu_says_what_the_table_says(qtbot) -> None:
    done: list[str] = []
    table = Actions(
        [
            Command("on", "Names & tags", lambda: done.append("on"), checked=lambda: True),
            Command("off", "Never", nothing, ("F7",), ready=lambda: False),
        ]
    )
    menu = QMenu()
    table.fill(menu, "on", "", "off")
    on, line, off = menu.actions()
    assert line.isSeparator()
    assert (on.text(), on.isChecked(), on.isEnabled()) == ("Names && tags", True, True)
    assert (off.text(), off.isEnabled()) == ("Never\tF7", False)
    off.trigger()
    on.trigger()
    assert done == ["on"]
