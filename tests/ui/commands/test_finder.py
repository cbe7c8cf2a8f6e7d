"""The finder in the window: type part of a word, see the key, do it, go there."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QMenu

from fox_hand.ui.commands.finder import Finder
from fox_hand.ui.commands.finding import FoundWord
from tests.ui.conftest import CTRL, LONG, Hand


def opened(hand: Hand) -> Finder:
    hand.key(Qt.Key.Key_F3)
    found = [f for f in hand.window.findChildren(Finder) if f.isVisible()]
    assert len(found) == 1
    return found[0]


def shown(finder: Finder) -> list[str]:
    return [r.of.words if isinstance(r, FoundWord) else r[0].upper() for r in finder.model.rows]


def typed(hand: Hand, finder: Finder, text: str) -> list[str]:
    hand.qtbot.keyClicks(finder.search, text)
    return shown(finder)


def test_a_command_is_found_shown_with_its_key_and_done(hand: Hand) -> None:
    hand.workspace.selection.set([hand.row("arm_L")])
    before = hand.workspace.actor.state
    hand.window.stage.setFocus()
    hand.key(Qt.Key.Key_Up)
    bent = hand.workspace.actor.state
    assert not bent.same_bits(before)
    finder = opened(hand)
    assert typed(hand, finder, "back to r")[:2] == ["COMMANDS", "Back to rest"]
    row = finder.model.rows[1]
    assert isinstance(row, FoundWord)
    assert row.of.keys == "R"
    hand.qtbot.keyClick(finder.search, Qt.Key.Key_Return)
    assert hand.workspace.actor.state.same_bits(before)
    assert not [f for f in hand.window.findChildren(Finder) if f.isVisible()]
    hand.workspace.undo()
    assert hand.workspace.actor.state.same_bits(bent)


def test_it_stays_for_another_with_ctrl_and_walks_by_keys(hand: Hand) -> None:
    finder, names = opened(hand), hand.window.sheets.view.labels
    typed(hand, finder, "names on")
    hand.qtbot.keyClick(finder.search, Qt.Key.Key_Return, CTRL)
    assert hand.window.sheets.view.labels is not names
    assert finder.isVisible()
    row = finder.model.rows[1]
    assert isinstance(row, FoundWord)
    assert row.of.state == ("off" if names else "on")
    finder.search.clear()
    first = finder.list.currentIndex().row()
    hand.qtbot.keyClick(finder.search, Qt.Key.Key_Down)
    assert finder.list.currentIndex().row() == first + 1
    hand.qtbot.keyClick(finder.search, Qt.Key.Key_Up)
    hand.qtbot.keyClick(finder.search, Qt.Key.Key_Up)  # round to the last
    assert finder.list.currentIndex().row() == finder.model.usable()[-1]
    hand.qtbot.keyClick(finder.search, Qt.Key.Key_Tab)
    assert finder.list.currentIndex().row() == first
    typed(hand, finder, "qqqq")
    assert finder.none.isVisible()
    assert not finder.go.isEnabled()
    hand.qtbot.keyClick(finder.search, Qt.Key.Key_Return)  # nothing to do, nothing happens
    assert finder.isVisible()
    hand.qtbot.keyClick(finder, Qt.Key.Key_Escape)
    assert not finder.isVisible()


def test_sheets_and_characters_are_gone_to(hand: Hand) -> None:
    window, workspace = hand.window, hand.workspace
    other = next(m for m in workspace.cast.actors if m is not workspace.actor)
    finder = opened(hand)
    assert "SHEETS AND CHARACTERS" in typed(hand, finder, other.name)
    hand.qtbot.keyClick(finder.search, Qt.Key.Key_Return)
    assert workspace.actor is other
    window.sheets.filter("face")
    bar = window.sheets.view.verticalScrollBar()
    bar.setValue(0)
    sheet = window.sheets.view.open_libraries.places[0].sheets[-1]
    finder = opened(hand)
    typed(hand, finder, sheet.replace("/", " / "))
    hand.qtbot.keyClick(finder.search, Qt.Key.Key_Return)
    hand.qtbot.waitUntil(lambda: bar.value() == bar.maximum() or bar.value() > 200, timeout=LONG)
    titles = [s.shown.sheet for s in window.sheets.view.layout_now().sections]
    assert sheet in titles  # although only faces were shown


def test_what_is_for_the_stage_rests_while_another_screen_is_open(hand: Hand) -> None:
    state = hand.workspace.actor.state
    hand.window.screens.show_care()
    finder = opened(hand)
    typed(hand, finder, "mirror onto")
    assert finder.model.usable() == []
    hand.qtbot.keyClick(finder.search, Qt.Key.Key_Return)
    assert hand.workspace.actor.state.same_bits(state)
    finder.search.clear()
    typed(hand, finder, "marrow / f")
    assert finder.model.usable() == []  # the sheets are not in sight
    hand.qtbot.keyClick(finder, Qt.Key.Key_Escape)


def test_every_command_says_something_and_its_icon_is_there(hand: Hand) -> None:
    for command in hand.window.actions_table:
        assert command.words[:1].isupper()
        assert len(command.words) < 48
        if command.icon:
            picture = hand.window.theme.pixmap(command.icon, 16).toImage()
            solid = np.array(picture.constBits()).reshape(-1, 4)[:, 3]
            assert solid.any(), command.icon
    menus = hand.window.header.menu_button, hand.window.header.project_button
    for button, word in zip(menus, ("Find a command …", "Save the shot"), strict=True):
        hand.click(button, button.rect().center())
        menu = next(m for m in hand.window.findChildren(QMenu) if m.isVisible())
        assert any(a.text().startswith(word) for a in menu.actions())
        menu.close()


def test_buttons_tell_the_key_of_the_table_whatever_else_they_say(hand: Hand) -> None:
    window, table = hand.window, hand.window.actions_table
    undo, handles = window.header.undo_button, window.overlays.bars.handles
    assert undo.toolTip() == f"Nothing to undo ({table['undo'].key})"
    hand.click_card("Fist")
    hand.workspace.keep_mix()
    hand.qtbot.waitUntil(lambda: "Fist" in undo.toolTip(), timeout=LONG)
    assert undo.toolTip().endswith(f"({table['undo'].key})")
    assert handles.toolTip().endswith(f"({table['handles'].key})")
    assert undo.accessibleName() == "Undo"
    out = window.sheets.ticked.out_button
    assert out.toolTip() == "Take out of the library (Del)"
