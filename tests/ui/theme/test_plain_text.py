"""Names that people give are shown as they wrote them, whatever they look like."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QPoint
from PySide6.QtGui import Qt
from PySide6.QtWidgets import QLabel

from fox_hand.library.format.container import read_card
from fox_hand.library.store import moves
from fox_hand.library.store.store import Library
from fox_hand.ui.outline.sheet_chooser import SheetChooser
from fox_hand.ui.theme.plain_text import Words, plain_tip
from tests.ui.conftest import LONG, Hand, choose


def test_only_a_few_labels_take_markup_and_they_escape_names(hand: Hand) -> None:
    taking = [w for w in hand.window.findChildren(QLabel) if not isinstance(w, Words)]
    assert {w.textFormat() for w in taking} <= {Qt.TextFormat.RichText, Qt.TextFormat.AutoText}
    for label in taking:  # what is left says only what the program says
        known = hand.window.header.project, hand.window.screens.fit.rules.preview
        assert label in known or label.textFormat() is Qt.TextFormat.AutoText, label.text()
        assert label in known or not Qt.mightBeRichText(label.text())


def test_a_card_with_markup_for_a_name_says_its_name(hand: Hand) -> None:
    name = "Fist <b>tight</b> <img src='x.png'>"
    library = Library(hand.workspace.open_libraries.places[0].folder)
    path = hand.entry("Fist").path
    card, picture = read_card(path)
    changed = replace(card, name=name, note="<h1>Look</h1>")
    moves.store_over(library, moves.current(library, path), changed, picture)
    hand.window.opener.reload_cards()
    hand.qtbot.waitUntil(lambda: any(e.name == name for e in hand.cards), timeout=LONG)
    hand.click_card(name)
    labels = [w for w in hand.window.overlays.mix_bar.findChildren(QLabel) if "Fist" in w.text()]
    assert labels and all(w.textFormat() is Qt.TextFormat.PlainText for w in labels)
    assert "&lt;b&gt;" in plain_tip(name)
    assert plain_tip("a < b, <L hand>") == "a < b, <L hand>"


def test_menus_show_names_with_an_ampersand_whole(hand: Hand) -> None:
    bars, button = hand.window.overlays.bars, hand.window.overlays.bars.view
    bars.keep_view("Rope & rail")
    hand.click(button, button.rect().center())
    choose(hand.window, "Forget a view", "Rope && rail")
    assert "Rope & rail" not in hand.workspace.actor.views
    for card, way in (("Fist", "Put into"), ("Flat", "Copy into")):
        hand.window.sheets.input.menu_asked.emit(
            hand.entry(card), hand.window.mapToGlobal(QPoint(300, 300))
        )
        choose(hand.window, way)
        chooser = hand.window.findChildren(SheetChooser)[-1]
        chooser.field.setText("Hands & feet")
        if way == "Put into":
            hand.click(chooser.new, chooser.new.rect().center())
            hand.qtbot.waitUntil(lambda: hand.entry("Fist").sheet == "Hands & feet", timeout=LONG)
        else:
            assert chooser.list.rows[chooser.list.row].words == "Hands & feet"
            hand.click(chooser.done, chooser.done.rect().center())
    hand.qtbot.waitUntil(
        lambda: sum(e.sheet == "Hands & feet" for e in hand.cards) == 2, timeout=LONG
    )
