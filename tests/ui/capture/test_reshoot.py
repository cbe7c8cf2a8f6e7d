"""Pictures of many cards taken again in the window: seen first, undone as one."""

from __future__ import annotations

import zipfile
from pathlib import Path

from PySide6.QtCore import Qt

from fox_hand.ui.capture.reshoot_popup import FEW, ReshootPopup
from fox_hand.ui.main.library.card_menu import card_menu
from tests.ui.conftest import LONG, Hand, choose


def picture(path: Path) -> bytes:
    with zipfile.ZipFile(path) as archive:
        return archive.read("thumb.png")


def test_a_few_are_shown_before_all_are_taken_and_undo_brings_them_back(hand: Hand) -> None:
    window, workspace = hand.window, hand.workspace
    entries = [e for e in hand.cards if e.sheet == "Marrow/Hands"]
    fist = hand.entry("Fist")
    before = {e.path: picture(e.path) for e in entries}
    keys = window.sheets.view.open_libraries.key_in
    window.sheets.view.choice.set_ticked({keys(e) for e in entries})
    assert {e.path for e in window.sheets.view.chosen()} == set(before)
    card_menu(window.home, fist, window.mapToGlobal(window.rect().center()))
    choose(window, "Take their pictures again …")
    hand.qtbot.waitUntil(lambda: window.findChild(ReshootPopup) is not None, timeout=LONG)
    popup = window.findChild(ReshootPopup)
    assert len(popup.thumbs) == FEW
    assert all(not a.image.isNull() and not b.image.isNull() for a, b in popup.thumbs)
    workspace.settings.author = "Somebody"
    hand.qtbot.keyClick(popup.take, Qt.Key.Key_Return)
    library = workspace.open_libraries.library_of(fist)
    hand.qtbot.waitUntil(
        lambda: all(library.versions(e.identity) for e in entries), timeout=4 * LONG
    )
    hand.qtbot.waitUntil(lambda: workspace.history.undo_label == "Pictures of 8 cards")
    workspace.undo()
    # the version is kept before the file is written: only the file itself says that it is done
    hand.qtbot.waitUntil(
        lambda: {path: picture(path) for path in before} == before, timeout=4 * LONG
    )
    assert all(len(library.versions(e.identity)) == 2 for e in entries)
