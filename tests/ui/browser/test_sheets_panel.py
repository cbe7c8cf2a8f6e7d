"""Libraries in the window: ticking, tidying, several at once, colleagues, a share that goes."""

from __future__ import annotations

import json
import os
import zipfile
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QDragEnterEvent, QDragMoveEvent, QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QInputDialog, QMenu

from fox_hand.demo.colleague import Colleague
from fox_hand.demo.share import Share
from fox_hand.library.format.container import read_card
from fox_hand.library.format.entry import Entry
from fox_hand.library.store.store import Library
from fox_hand.ui.browser.sheets_painter import card_tip
from fox_hand.ui.browser.tag_popup import TagPopup
from fox_hand.ui.cards.card_drag import cards_mime
from fox_hand.ui.cards.card_metrics import TAB
from fox_hand.ui.cards.card_painter import tick_rect
from fox_hand.ui.outline.sheet_chooser import SheetChooser
from tests.ui.conftest import CTRL, LONG, SHIFT, Hand, OpenWindow, choose


def spot(hand: Hand, name: str) -> QPoint:
    """Middle of a card in the sheets."""
    view = hand.window.sheets.view
    view.reveal(hand.entry(name))
    rect = view.rect_of(hand.entry(name))
    assert rect is not None
    return rect.center()


def box(hand: Hand, name: str) -> QPoint:
    """The corner in which a card is ticked."""
    view = hand.window.sheets.view
    view.reveal(hand.entry(name))
    rect = view.rect_of(hand.entry(name))
    picture = rect.adjusted(0, TAB, 0, 0)
    picture.setHeight(picture.width())
    return tick_rect(picture.toRectF()).center().toPoint()


def ticked(hand: Hand) -> set[str]:
    view = hand.window.sheets.view
    return {e.name for e in view.chosen()} if view.choice.ticked else set()


def document(path: Path) -> dict[str, object]:
    with zipfile.ZipFile(path) as archive:
        return json.loads(archive.read("card.json"))


def drop(hand: Hand, names: list[str], at: QPoint, keys: Qt.KeyboardModifier) -> None:
    """Drop cards on a place of the sheets, as the window system would say it."""
    view = hand.window.sheets.view
    entries = [hand.entry(n) for n in names]
    mime = cards_mime([view.open_libraries.key_in(e) for e in entries], [e.path for e in entries])
    actions = Qt.DropAction.MoveAction | Qt.DropAction.CopyAction
    how = actions, mime, Qt.MouseButton.LeftButton, keys
    for event in (
        QDragEnterEvent(at, *how),
        QDragMoveEvent(at, *how),
        QDropEvent(QPointF(at), *how),
    ):
        QApplication.sendEvent(view.viewport(), event)


def test_cards_are_ticked_and_tagged_together_and_undone(hand: Hand) -> None:
    view = hand.window.sheets.view
    hand.click(view.viewport(), box(hand, "Fist"))
    hand.click(view.viewport(), spot(hand, "Fox"), SHIFT)
    assert ticked(hand) == {"Fist", "Flat", "Fox"}
    assert hand.workspace.mix is None  # ticking puts nothing on
    bar = hand.window.sheets.ticked
    assert hand.window.sheets.foot.currentWidget() is bar
    hand.click(bar.tag_button, bar.tag_button.rect().center())
    popup = hand.window.findChild(TagPopup)
    hand.click(popup.buttons["crew"], popup.buttons["crew"].rect().center())
    popup.field.setText("rope, deck")
    popup._finish()
    paths = {n: hand.entry(n).path for n in ("Fist", "Flat", "Fox")}
    hand.qtbot.waitUntil(lambda: "rope" in hand.entry("Flat").tags, timeout=LONG)
    assert document(paths["Fist"])["tags"] == ["grip", "cross", "crew", "rope", "deck"]
    assert document(paths["Fox"])["tags"] == ["fox", "crew", "rope", "deck"]
    with zipfile.ZipFile(paths["Fox"]) as archive:
        assert archive.read("thumb.png").startswith(b"\x89PNG")
    hand.window.workspace.undo()
    hand.qtbot.waitUntil(lambda: "rope" not in hand.entry("Flat").tags, timeout=LONG)
    assert document(paths["Fox"])["tags"] == ["fox", "crew"]
    view.setFocus()
    hand.key(Qt.Key.Key_Escape)
    assert ticked(hand) == set()


def test_the_keyboard_ticks_renames_duplicates_and_takes_out(
    hand: Hand, monkeypatch: pytest.MonkeyPatch
) -> None:
    view = hand.window.sheets.view
    view.reveal(hand.entry("Fist"))
    view.setFocus()
    hand.key(Qt.Key.Key_Right, SHIFT)
    assert ticked(hand) == {"Fist", "Flat"}
    hand.key(Qt.Key.Key_Escape)
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Palm / stop", True))
    hand.key(Qt.Key.Key_F2)
    renamed = hand.wait_for_card("Palm / stop")
    assert renamed.path.name == "Palm stop.foxcard"
    view.reveal(renamed)
    hand.key(Qt.Key.Key_D, CTRL)
    hand.qtbot.waitUntil(lambda: len(named(hand, "Palm / stop")) == 2, timeout=LONG)
    first, second = named(hand, "Palm / stop")
    assert first.identity != second.identity
    hand.key("*")
    hand.qtbot.waitUntil(
        lambda: hand.workspace.open_libraries.personal.favourite(first.identity), timeout=LONG
    )
    hand.window.header.search_field.setText("favourite:yes")
    hand.qtbot.waitUntil(lambda: view.layout_now().sections[0].count == 1, timeout=LONG)
    hand.window.header.search_field.clear()
    hand.qtbot.waitUntil(lambda: view.layout_now().sections[0].count > 1, timeout=LONG)
    count = len(hand.cards)
    view.reveal(second)
    view.setFocus()
    hand.key(Qt.Key.Key_Delete)
    hand.qtbot.waitUntil(lambda: len(hand.cards) == count - 1, timeout=LONG)
    for _ in range(4):
        hand.workspace.undo()
    hand.wait_for_card("Flat")
    hand.qtbot.waitUntil(lambda: not named(hand, "Palm / stop"), timeout=LONG)
    assert hand.entry("Flat").path.name == "Flat.foxcard"


def named(hand: Hand, name: str) -> list[Entry]:
    return [e for e in hand.cards if e.name == name]


def test_cards_are_dragged_between_sheets_and_put_in_order_by_hand(
    hand: Hand, library_folder: Path
) -> None:
    drop(hand, ["Fist", "Flat"], spot(hand, "Glad"), Qt.KeyboardModifier.NoModifier)
    hand.qtbot.waitUntil(lambda: hand.entry("Fist").sheet == "Marrow/Face", timeout=LONG)
    assert (library_folder / "Marrow" / "Face" / "Flat.foxcard").is_file()
    drop(hand, ["Glad"], spot(hand, "Fox"), CTRL)
    hand.qtbot.waitUntil(lambda: len(named(hand, "Glad")) == 2, timeout=LONG)
    hand.workspace.undo()
    hand.workspace.undo()
    for name in ("Fist", "Flat"):
        hand.qtbot.waitUntil(lambda n=name: hand.entry(n).sheet == "Marrow/Hands", timeout=LONG)
    hand.qtbot.waitUntil(lambda: len(named(hand, "Glad")) == 1, timeout=LONG)
    panel, view = hand.window.sheets, hand.window.sheets.view
    button = panel.head.order_button
    hand.click(button, button.rect().center())
    choose(hand.window, "As put by hand")
    left = spot(hand, "Fist") - QPoint(30, 0)
    drop(hand, ["Tense"], left, Qt.KeyboardModifier.NoModifier)
    hand.qtbot.waitUntil(
        lambda: hand.workspace.open_libraries.entry(view.layout_now().key((0, 0))).name == "Tense",
        timeout=LONG,
    )
    assert "cards = [" in (library_folder / "Marrow" / "Hands" / "sheet.toml").read_text()
    hand.workspace.undo()
    hand.qtbot.waitUntil(
        lambda: hand.workspace.open_libraries.entry(view.layout_now().key((0, 0))).name != "Tense",
        timeout=LONG,
    )


def test_sheets_are_tidied_from_their_headings(
    hand: Hand, library_folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    view, count = hand.window.sheets.view, len(hand.cards)

    def menu_of(section: int) -> None:
        shown = view.layout_now().sections[section].shown
        hand.window.sheets.input.sheet_menu_asked.emit(
            shown, hand.window.mapToGlobal(QPoint(400, 300))
        )

    menu_of(0)
    choose(hand.window, "Colour", "Sea")
    hand.qtbot.waitUntil(
        lambda: view.layout_now().sections[0].shown.colour == "#5FB3A3", timeout=LONG
    )
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Pim/Mitts", True))
    menu_of(0)
    choose(hand.window, "Rename")
    hand.qtbot.waitUntil(lambda: hand.entry("Fist").sheet == "Pim/Mitts", timeout=LONG)
    hand.qtbot.waitUntil(lambda: view.layout_now().sections[0].title == "Pim / Mitts", timeout=LONG)
    menu_of(0)
    choose(hand.window, "Merge into")
    chooser = hand.window.findChild(SheetChooser)
    chooser.field.setText("face")
    QTest.keyClick(chooser.field, Qt.Key.Key_Return)
    hand.qtbot.waitUntil(lambda: hand.entry("Fist").sheet == "Marrow/Face", timeout=LONG)
    # the cards are seen in their new place while the emptied folder is still being taken away
    hand.qtbot.waitUntil(lambda: not (library_folder / "Pim" / "Mitts").exists(), timeout=LONG)
    for _ in range(3):
        hand.workspace.undo()
    hand.qtbot.waitUntil(lambda: hand.entry("Fist").sheet == "Marrow/Hands", timeout=LONG)
    hand.qtbot.waitUntil(lambda: view.layout_now().sections[0].shown.colour == "", timeout=LONG)
    hand.qtbot.waitUntil(
        lambda: view.layout_now().sections[0].title == "Marrow / Hands", timeout=LONG
    )
    # nowhere twice, as while what moved back is still listed where it was
    hand.qtbot.waitUntil(lambda: len(hand.cards) == count, timeout=LONG)
    menu_of(0)
    choose(hand.window, "Remove, 8 cards")
    hand.qtbot.waitUntil(lambda: len(hand.cards) == count - 8, timeout=LONG)
    hand.workspace.undo()
    hand.qtbot.waitUntil(lambda: len(hand.cards) == count, timeout=LONG)


def test_what_a_colleague_does_appears_by_itself_and_is_new(
    hand: Hand, library_folder: Path
) -> None:
    hand.workspace.settings.author = "Ines B."
    open_libraries, place = hand.workspace.open_libraries, hand.workspace.open_libraries.places[0]
    open_libraries.visited_before[place.number] = "2026-11-20T00:00:00Z"
    Colleague(library_folder, 5).add()
    hand.qtbot.waitUntil(lambda: len(hand.cards) == 29, timeout=LONG)
    new = [e for e in hand.cards if open_libraries.is_new(e, place, "Ines B.")]
    assert [e.author for e in new] == ["Tomas R."]
    assert "by Tomas R." in card_tip(open_libraries, new[0], None, "Ines B.")
    (library_folder / "Marrow" / "Face").rename(library_folder / "Marrow" / "Moods")
    hand.qtbot.waitUntil(lambda: hand.entry("Glad").sheet == "Marrow/Moods", timeout=LONG)
    (library_folder / "Marrow" / "Moods" / "Sad.foxcard").unlink()
    hand.qtbot.waitUntil(lambda: not named(hand, "Sad"), timeout=LONG)


def test_an_approved_card_is_kept_from_being_stored_over(hand: Hand) -> None:
    hand.workspace.settings.author = "Ines B."
    hand.window.sheets.input.menu_asked.emit(
        hand.entry("Fist"), hand.window.mapToGlobal(QPoint(300, 300))
    )
    choose(hand.window, "Approve and lock")
    hand.qtbot.waitUntil(lambda: hand.entry("Fist").locked, timeout=LONG)
    assert document(hand.entry("Fist").path)["approved"]["by"] == "Ines B."
    before = hand.entry("Fist").path.read_bytes()
    hand.workspace.card_commands.tag([hand.entry("Fist")], ["x"], [])
    hand.qtbot.waitUntil(lambda: "approved by Ines B." in hand.window.notice.text, timeout=LONG)
    assert hand.entry("Fist").path.read_bytes() == before
    hand.window.sheets.input.menu_asked.emit(
        hand.entry("Fist"), hand.window.mapToGlobal(QPoint(300, 300))
    )
    choose(hand.window, "Unlock")
    hand.qtbot.waitUntil(lambda: not hand.entry("Fist").locked, timeout=LONG)


def test_a_share_that_goes_away_is_greyed_captures_wait_and_it_comes_back(
    hand: Hand, tmp_path: Path
) -> None:
    share = Share.made(tmp_path / "share")
    hand.window.opener.open_library(share.folder)
    hand.qtbot.waitUntil(lambda: len(hand.cards) == 56, timeout=LONG)
    place = hand.workspace.open_libraries.places[1]
    assert place.name == "Studio share"
    hand.window.home.cards.set_target(place)
    share.go_away()
    hand.qtbot.waitUntil(lambda: place.problem is not None, timeout=LONG)
    assert len(hand.cards) == 56  # greyed, not gone
    hand.window.figure_panel.sets.choose("L hand")
    hand.window.workspace.capturing.ask()
    hand.window.capture.form.name.setText("While away")
    hand.window.home.cards.save_capture()
    hand.qtbot.waitUntil(lambda: hand.workspace.capturing.draft is None, timeout=LONG)
    assert "kept on this machine" in hand.window.notice.text
    assert "1 card for Studio share waits" in hand.window.sheets.said.text()
    share.come_back()
    entry = hand.wait_for_card("While away")
    assert entry.path.is_relative_to(share.folder)
    assert "waited and is now in Studio share" in hand.window.notice.text
    assert hand.window.sheets.said.text() == ""
    assert read_card(entry.path)[1] is not None
    hand.window.home.cards.forget_library(place)
    assert len(hand.cards) == 28
    assert entry.path.is_file()


def test_several_libraries_are_open_again_at_the_next_start(
    open_window: OpenWindow, hand: Hand, tmp_path: Path
) -> None:
    from fox_hand.__main__ import begin
    from fox_hand.cli import Wish

    Library.create(tmp_path / "own", "Own")
    hand.window.opener.open_library(tmp_path / "own")
    hand.qtbot.waitUntil(lambda: len(hand.workspace.open_libraries.places) == 2, timeout=LONG)
    hand.qtbot.waitUntil(
        lambda: all(p.ready for p in hand.workspace.open_libraries.places), timeout=LONG
    )
    hand.window.close()
    again = open_window()
    begin(again.window, Wish())
    again.qtbot.waitUntil(lambda: len(again.cards) == 28, timeout=LONG)
    again.qtbot.waitUntil(
        lambda: all(p.ready for p in again.workspace.open_libraries.places), timeout=LONG
    )
    assert [p.name for p in again.workspace.open_libraries.places] == ["Night Ferry show", "Own"]
    assert again.workspace.open_libraries.target.name == "Night Ferry show"
    panel = again.window.sheets
    again.click(panel.head.library_button, panel.head.library_button.rect().center())
    choose(again.window, "Own", "Only Own")
    assert again.window.sheets.view.layout_now().sections == ()


def test_card_files_are_dropped_in_and_copied_out(
    hand: Hand, tmp_path: Path, library_folder: Path
) -> None:
    outside = tmp_path / "From mail.foxcard"
    outside.write_bytes(hand.entry("Fox").path.read_bytes())
    view = hand.window.sheets.view
    shown = view.layout_now().sections[1].shown
    hand.window.sheets.drop.files_dropped.emit([outside], shown)
    path = library_folder / "Marrow" / "Face" / "From mail.foxcard"
    hand.qtbot.waitUntil(path.is_file, timeout=LONG)
    hand.qtbot.waitUntil(lambda: len(named(hand, "Fox")) == 2, timeout=LONG)
    view.reveal(hand.entry("Glad"))
    view.setFocus()
    hand.key(Qt.Key.Key_C, CTRL)
    urls = QApplication.clipboard().mimeData().urls()
    assert [Path(u.toLocalFile()) for u in urls] == [hand.entry("Glad").path]
    view.reveal(hand.entry("Wave"))
    hand.key(Qt.Key.Key_V, CTRL)
    copied = library_folder / "Marrow" / "Body" / "Glad.foxcard"
    hand.qtbot.waitUntil(copied.is_file, timeout=LONG)


def test_a_misspelt_word_finds_what_was_meant_and_says_so(hand: Hand) -> None:
    hand.key(Qt.Key.Key_F, CTRL)
    hand.key("surprsed")
    said = hand.window.sheets.said
    hand.qtbot.waitUntil(said.isVisible, timeout=LONG)
    assert said.text() == "Nothing has “surprsed”. These have “surprised”."
    assert hand.window.sheets.view.layout_now().sections[0].count == 1
    hand.key(Qt.Key.Key_Escape)
    hand.qtbot.waitUntil(lambda: not said.isVisible(), timeout=LONG)


def test_a_library_that_can_only_be_read_is_left_as_it_is(
    hand: Hand, tmp_path: Path, library_folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    studio = tmp_path / "studio"
    Share.made(tmp_path / "made").folder.rename(studio)
    before = {p: p.read_bytes() for p in studio.rglob("*") if p.is_file()}
    for path in (studio, *studio.rglob("*")):
        path.chmod(0o555 if path.is_dir() else 0o444)
    asked = os.access  # the tests may run as a user to whom permissions mean nothing

    def access(path: object, mode: int, **more: bool) -> bool:
        inside = Path(str(path)).is_relative_to(studio)
        return not (inside and mode & os.W_OK) and asked(path, mode, **more)

    monkeypatch.setattr(os, "access", access)
    hand.window.opener.open_library(studio)
    hand.qtbot.waitUntil(lambda: len(hand.cards) == 56, timeout=LONG)
    hand.qtbot.waitUntil(
        lambda: all(p.ready for p in hand.workspace.open_libraries.places), timeout=LONG
    )
    panel, open_libraries = hand.window.sheets, hand.workspace.open_libraries
    mine, theirs = open_libraries.places
    assert (mine.writable, theirs.writable) == (True, False)
    assert open_libraries.target is mine
    hand.click(panel.head.library_button, panel.head.library_button.rect().center())
    menus = [
        a.text() for m in hand.window.findChildren(QMenu) if m.isVisible() for a in m.actions()
    ]
    assert f"{theirs.name}  (read only)" in menus
    choose(hand.window, theirs.name, f"Only {theirs.name}")
    entry = next(e for e in hand.cards if e.path.is_relative_to(studio) and e.name == "Fox")
    panel.view.reveal(entry)
    target = panel.view.rect_of(entry).center()
    drop(hand, ["Fist"], target, Qt.KeyboardModifier.NoModifier)
    hand.workspace.card_commands.tag([entry], ["x"], [])
    hand.qtbot.waitUntil(lambda: "can only be read by you" in hand.window.notice.text, timeout=LONG)
    hand.workspace.card_commands.put_in([entry], mine, "Studio", copies=True)
    hand.qtbot.waitUntil((library_folder / "Studio" / "Fox.foxcard").is_file, timeout=LONG)
    assert {p: p.read_bytes() for p in studio.rglob("*") if p.is_file()} == before
    for path in (studio, *studio.rglob("*")):
        path.chmod(0o755 if path.is_dir() else 0o644)


def test_a_range_of_ticks_begins_at_a_card_wherever_a_search_has_put_it(hand: Hand) -> None:
    view = hand.window.sheets.view
    hand.click_card("Wave")
    hand.key(Qt.Key.Key_Escape)
    view.choice.toggle(view.layout_now().place_of(view.open_libraries.key_in(hand.entry("Wave"))))
    hand.window.sheets.search("glad")
    hand.qtbot.waitUntil(
        lambda: sum(s.count for s in view.layout_now().sections) == 1, timeout=LONG
    )
    glad = view.rect_of(hand.entry("Glad"))
    hand.click(view.viewport(), glad.center(), SHIFT)  # where Wave was, nothing is any more
    assert view.open_libraries.key_in(hand.entry("Glad")) in view.choice.ticked
