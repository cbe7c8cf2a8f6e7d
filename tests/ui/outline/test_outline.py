"""The outline in the window: narrowing, kept searches, facets, and what is dropped there."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt
from PySide6.QtGui import QColor, QDragEnterEvent, QDragMoveEvent, QDropEvent, QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QInputDialog

from fox_hand.demo.colleague import Colleague
from fox_hand.library.format.container import read_card
from fox_hand.library.format.library_file import read_library_file
from fox_hand.library.store.store import Library
from fox_hand.ui.cards.card_drag import SHEET, cards_mime
from fox_hand.ui.cards.stamps import Stamps
from fox_hand.ui.outline import outline_list
from fox_hand.ui.outline.keep_popup import KeepPopup
from fox_hand.ui.outline.outline_list import OutlineList
from fox_hand.ui.outline.outline_rows import RowKind
from fox_hand.ui.outline.sheet_chooser import SheetChooser
from fox_hand.ui.theme.tokens import PAPER
from tests.ui.conftest import CTRL, LONG, Hand, choose

NONE = Qt.KeyboardModifier.NoModifier


@pytest.fixture
def outline(hand: Hand) -> OutlineList:
    """The outline beside the demo's cards, with a sheet in a sheet."""
    hand.workspace.sheet_commands.make_sheet(place(hand), "Marrow/Hands/Grips")
    hand.window.sheets.side.set_shown(True)
    rows = hand.window.sheets.outline.list
    hand.qtbot.waitUntil(lambda: row(rows, "Grips") >= 0, timeout=LONG)
    return rows


def place(hand: Hand):  # type: ignore[no-untyped-def]  # shorter
    return hand.workspace.open_libraries.places[0]


def row(rows: OutlineList, words: str) -> int:
    return next((n for n, one in enumerate(rows.rows) if one.words == words), -1)


def picture(rows: OutlineList) -> QImage:
    return rows.viewport().grab().toImage()


def click(hand: Hand, rows: OutlineList, words: str, keys: Qt.KeyboardModifier = NONE) -> None:
    hand.click(rows.viewport(), rows.rect_of(row(rows, words)).center(), keys)


def shown(hand: Hand) -> dict[str, int]:
    return {s.title: len(s.keys) for s in hand.window.sheets.view.shown}


def drop(rows: OutlineList, mime: QMimeData, at: QPoint, keys: Qt.KeyboardModifier = NONE) -> str:
    """Drag over a point and let go there; what was said at the pointer meanwhile."""
    actions = Qt.DropAction.MoveAction | Qt.DropAction.CopyAction
    how = actions, mime, Qt.MouseButton.LeftButton, keys
    for event in (QDragEnterEvent(at, *how), QDragMoveEvent(at, *how)):
        QApplication.sendEvent(rows.viewport(), event)
    said = rows.hint
    QApplication.sendEvent(rows.viewport(), QDropEvent(QPointF(at), *how))
    assert rows.hint == "" and rows.target == -1
    return said


def cards(hand: Hand, *names: str) -> QMimeData:
    entries = [hand.entry(name) for name in names]
    keys = [hand.workspace.open_libraries.key_in(e) for e in entries]
    return cards_mime(keys, [e.path for e in entries])


def sheet(number: int, path: str) -> QMimeData:
    mime = QMimeData()
    mime.setData(SHEET, f"{number} {path}".encode())
    return mime


def test_a_click_narrows_to_a_sheet_and_all_in_it_and_a_second_goes_back(
    hand: Hand, outline: OutlineList
) -> None:
    panel, every = hand.window.sheets, shown(hand)
    hand.workspace.card_commands.put_in(
        [hand.entry("Fist")], place(hand), "Marrow/Hands/Grips", copies=False
    )
    hand.qtbot.waitUntil(lambda: hand.entry("Fist").sheet == "Marrow/Hands/Grips", timeout=LONG)
    click(hand, outline, "Hands")
    assert shown(hand) == {"Marrow / Hands": 7, "Marrow / Hands / Grips": 1}
    assert panel.path.isVisible() and not panel.parts.isVisible()
    assert [b.text() for b in panel.path.buttons] == ["Marrow"]
    assert (panel.path.here.text(), panel.path.count.text()) == ("Hands", "8")
    click(hand, outline, "Face", CTRL)
    assert list(shown(hand)) == ["Marrow / Hands", "Marrow / Hands / Grips", "Marrow / Face"]
    click(hand, outline, "Face", CTRL)
    hand.key(Qt.Key.Key_F, CTRL)
    hand.key("fist")
    hand.qtbot.waitUntil(lambda: panel.path.count.text() == "1 of 8", timeout=LONG)
    hand.window.header.search_field.clear()
    hand.click(panel.path.buttons[0], panel.path.buttons[0].rect().center())
    hand.qtbot.waitUntil(lambda: sum(shown(hand).values()) == 28, timeout=LONG)
    assert panel.request.within == ((place(hand).number, "Marrow"),)
    click(hand, outline, "Marrow")
    assert panel.request.within == () and set(every) == set(shown(hand))
    click(hand, outline, "Grips")
    hand.workspace.sheet_commands.remove_sheet(place(hand), "Marrow/Hands/Grips")
    hand.qtbot.waitUntil(lambda: panel.request.within == (), timeout=LONG)  # it is gone


def test_the_keyboard_walks_folds_narrows_and_goes_back(hand: Hand, outline: OutlineList) -> None:
    panel = hand.window.sheets
    hand.key(Qt.Key.Key_F8)
    assert not panel.side.shown
    hand.key(Qt.Key.Key_F8)
    assert panel.side.shown and outline.hasFocus()
    outline.go_to(row(outline, "Marrow"))
    hand.key(Qt.Key.Key_Left)
    assert row(outline, "Hands") == -1  # folded
    hand.key(Qt.Key.Key_Right)
    hand.key(Qt.Key.Key_Right)
    assert outline.rows[outline.row].words == "Hands"
    hand.key(Qt.Key.Key_Return)
    assert list(shown(hand)) == ["Marrow / Hands", "Marrow / Hands / Grips"]
    hand.key(Qt.Key.Key_Escape)
    assert len(shown(hand)) > 3
    outline.go_to(row(outline, "Grips"))
    hand.key(Qt.Key.Key_Left)
    assert outline.rows[outline.row].words == "Hands"
    hand.key("g")
    field = panel.outline.field
    assert field.hasFocus() and field.text() == "g"
    field.setText("grip")
    assert [r.words for r in outline.rows] == ["Sheets", "Marrow", "Hands", "Grips"]
    QTest.keyClick(field, Qt.Key.Key_Down)
    assert outline.hasFocus() and outline.rows[outline.row].words == "Grips"
    field.setText("nowhere")
    assert [r.words for r in outline.rows][-1] == "Nothing here is called so."
    hand.key(Qt.Key.Key_Escape)
    assert field.text() == "" and row(outline, "Face") >= 0


def test_cards_and_sheets_are_dropped_onto_sheets(
    hand: Hand, outline: OutlineList, library_folder: Path
) -> None:
    at = lambda words: outline.rect_of(row(outline, words)).center()  # noqa: E731
    assert drop(outline, cards(hand, "Fist", "Flat"), at("Grips")) == "Move 2 to Grips"
    grips = library_folder / "Marrow" / "Hands" / "Grips"
    hand.qtbot.waitUntil((grips / "Flat.foxcard").is_file, timeout=LONG)
    hand.qtbot.waitUntil(lambda: hand.entry("Flat").sheet.endswith("Grips"), timeout=LONG)
    assert drop(outline, cards(hand, "Flat"), at("Grips")) == "It is in Grips already."
    assert drop(outline, cards(hand, "Flat"), at("Face"), CTRL) == "Copy 1 to Face"
    hand.qtbot.waitUntil((library_folder / "Marrow/Face/Flat.foxcard").is_file, timeout=LONG)
    number = place(hand).number
    assert drop(outline, sheet(number, "Marrow/Hands"), at("Grips")) == (
        "A sheet cannot lie in itself."
    )
    said = drop(outline, sheet(number, "Marrow/Hands/Grips"), at("Face"))
    assert said == "Move Grips into Face"
    moved = library_folder / "Marrow" / "Face" / "Grips"
    hand.qtbot.waitUntil((moved / "Fist.foxcard").is_file, timeout=LONG)
    hand.workspace.undo()
    hand.qtbot.waitUntil((grips / "Fist.foxcard").is_file, timeout=LONG)
    assert not moved.exists()
    hand.qtbot.waitUntil(lambda: "Marrow/Hands/Grips" in place(hand).sheets, timeout=LONG)
    order = [n.name for n in place(hand).tree().inner[0].inner]
    upper = QPoint(40, outline.rect_of(row(outline, order[1])).top() + 2)
    assert drop(outline, sheet(number, f"Marrow/{order[2]}"), upper) == (
        f"{order[2]} before {order[1]}"
    )
    wanted = [order[0], order[2], order[1]]
    hand.qtbot.waitUntil(
        lambda: [n.name for n in place(hand).tree().inner[0].inner][:3] == wanted, timeout=LONG
    )


def test_what_a_sheet_cannot_take_is_refused_with_the_reason(
    hand: Hand, outline: OutlineList, tmp_path: Path
) -> None:
    other = Library.create(tmp_path / "studio", "Studio")
    other.add(read_card(hand.entry("Glad").path)[0], None, "Faces")
    hand.window.opener.open_library(other.folder)
    hand.qtbot.waitUntil(lambda: row(outline, "Faces") >= 0, timeout=LONG)
    studio = hand.workspace.open_libraries.places[1]
    at = outline.rect_of(row(outline, "Faces")).center()
    studio.writable = False
    assert drop(outline, cards(hand, "Fist"), at) == "Studio can only be read by you."
    heading = outline.rect_of(row(outline, "Kept searches")).center()
    assert drop(outline, cards(hand, "Fist"), heading) == "Drop it onto a sheet."
    studio.writable = True
    said = drop(outline, sheet(place(hand).number, "Marrow/Hands"), at)
    assert said == "Copy Hands, 8 cards into Faces"
    hand.qtbot.waitUntil(lambda: studio.count_in("Faces/Hands") == 8, timeout=LONG)
    assert (other.folder / "Faces" / "Hands" / "Grips").is_dir()
    assert place(hand).count_in("Marrow/Hands") == 8
    identities = {e.identity for e in hand.cards if e.name == "Fist"}
    hand.workspace.undo()
    hand.qtbot.waitUntil(lambda: studio.count_in("Faces/Hands") == 0, timeout=LONG)
    assert len(identities) == 1  # the same card in another library


def test_a_folded_sheet_unfolds_under_what_is_dragged(hand: Hand, outline: OutlineList) -> None:
    outline.fold(row(outline, "Hands"), True)
    assert row(outline, "Grips") == -1
    hand.window.sheets.outline.drop._unfolding.setInterval(0)
    actions = Qt.DropAction.MoveAction
    at = outline.rect_of(row(outline, "Hands")).center()
    how = actions, cards(hand, "Glad"), Qt.MouseButton.LeftButton, NONE
    for event in (QDragEnterEvent(at, *how), QDragMoveEvent(at, *how)):
        QApplication.sendEvent(outline.viewport(), event)
    hand.qtbot.waitUntil(lambda: row(outline, "Grips") >= 0, timeout=LONG)
    assert outline.hint == "Move 1 to Hands"


def test_facets_write_filters_and_a_search_is_kept_for_all(
    hand: Hand, outline: OutlineList, library_folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    panel, field = hand.window.sheets, hand.window.header.search_field
    hand.click(panel.parts.facets_button, panel.parts.facets_button.rect().center())

    def press(key: str, word: str) -> None:
        own = [s for s in panel.facets.spots if s.facet.key == key]
        if word not in [s.words for s in own]:  # the word at the right shows the others
            hand.click(panel.facets, own[-1].rect.center())
        found = next(s for s in panel.facets.spots if (s.facet.key, s.words) == (key, word))
        hand.click(panel.facets, found.rect.center())

    hand.qtbot.waitUntil(lambda: len(panel.facets.spots) > 5, timeout=LONG)
    press("region", "hands")
    assert field.text() == "region:hands"
    hand.qtbot.waitUntil(lambda: sum(shown(hand).values()) == 8, timeout=LONG)
    press("region", "head")
    assert field.text() == "region:head,hands"
    hand.qtbot.waitUntil(lambda: sum(shown(hand).values()) > 8, timeout=LONG)
    press("region", "head")
    hand.qtbot.waitUntil(lambda: sum(shown(hand).values()) == 8, timeout=LONG)
    kinds = {s.facet.key for s in panel.facets.spots}
    assert "kind" not in kinds  # all hands are poses: there is nothing to choose
    hand.click(outline.viewport(), outline.rect_of_button(RowKind.SEARCHES).center())
    popup = hand.window.findChild(KeepPopup)
    assert not popup.keep.isEnabled()
    popup.field.setText("All hands")
    hand.click(popup.whose[1], popup.whose[1].rect().center())
    popup._finish()
    hand.qtbot.waitUntil(lambda: row(outline, "All hands") >= 0, timeout=LONG)
    kept = read_library_file(library_folder).searches
    assert [(s.name, s.text) for s in kept] == [("All hands", "region:hands")]
    hand.qtbot.waitUntil(lambda: outline.counts.get((1, "All hands")) == 8, timeout=LONG)
    click(hand, outline, "All hands")
    assert field.text() == ""
    click(hand, outline, "All hands")
    assert field.text() == "region:hands"
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Every hand", True))
    outline.setFocus()
    outline.go_to(row(outline, "All hands"))
    hand.key(Qt.Key.Key_F2)
    hand.qtbot.waitUntil(lambda: row(outline, "Every hand") >= 0, timeout=LONG)
    outline.go_to(row(outline, "Every hand"))
    hand.key(Qt.Key.Key_Delete)
    hand.qtbot.waitUntil(lambda: row(outline, "Every hand") == -1, timeout=LONG)
    hand.workspace.undo()
    hand.workspace.undo()
    hand.qtbot.waitUntil(lambda: row(outline, "All hands") >= 0, timeout=LONG)


def test_ones_own_searches_are_there_at_the_next_start(hand: Hand, outline: OutlineList) -> None:
    searches = hand.workspace.kept_searches
    outline.keep_asked.emit()
    assert "Nothing is looked for" in hand.window.notice.text
    click(hand, outline, "Hands")
    outline.keep_asked.emit()
    popup = hand.window.findChild(KeepPopup)
    popup.field.setText("Only hands")
    popup._finish()
    assert [(k.name, k.text, k.place) for k in searches.all()] == [
        ("Only hands", 'sheet:"Marrow/Hands"', None)
    ]
    hand.workspace.open_libraries.personal.save()
    again = type(hand.workspace.open_libraries.personal)(hand.workspace.places)
    assert again.searches == {"Only hands": 'sheet:"Marrow/Hands"'}
    hand.workspace.undo()
    assert searches.all() == [] and row(outline, "Only hands") == -1


def test_what_is_new_is_marked_until_it_was_in_sight(
    hand: Hand, outline: OutlineList, library_folder: Path
) -> None:
    hand.workspace.settings.author = "Ines B."
    hand.workspace.open_libraries.visited_before[place(hand).number] = "2026-11-20T00:00:00Z"
    panel = hand.window.sheets
    panel._looking.setInterval(1 << 30)
    Colleague(library_folder, 5).add()
    hand.qtbot.waitUntil(lambda: len(hand.cards) == 29, timeout=LONG)
    root = next(r for r in outline.rows if r.words == "Marrow").node
    assert root is not None
    hand.qtbot.waitUntil(lambda: outline.rows[row(outline, "Marrow")].node.new == 1, timeout=LONG)
    assert "1 new" in outline._said(outline.rows[row(outline, "Marrow")])
    new = next(e for e in hand.cards if e.author == "Tomas R.")
    panel.view.reveal(new)
    panel._looking.setInterval(0)
    panel._looking.start()
    hand.qtbot.waitUntil(lambda: outline.rows[row(outline, "Marrow")].node.new == 0, timeout=LONG)


def test_a_sheet_is_chosen_by_typing_or_named_anew(
    hand: Hand, outline: OutlineList, library_folder: Path
) -> None:
    hand.window.sheets.input.menu_asked.emit(
        hand.entry("Fox"), hand.window.mapToGlobal(QPoint(300, 300))
    )
    choose(hand.window, "Put into")
    chooser = hand.window.findChild(SheetChooser)
    chooser.field.setText("grip")
    assert chooser.list.rows[chooser.list.row].words == "Grips"
    QTest.keyClick(chooser.field, Qt.Key.Key_Return)
    there = library_folder / "Marrow" / "Hands" / "Grips" / "Fox.foxcard"
    hand.qtbot.waitUntil(there.is_file, timeout=LONG)
    outline.menu_asked.emit(outline.rows[row(outline, "Grips")], QPoint(600, 300))
    choose(hand.window, "Move into")
    chooser = hand.window.findChildren(SheetChooser)[-1]
    chooser.field.setText("Props/Held")
    assert not chooser.done.isEnabled()
    hand.click(chooser.new, chooser.new.rect().center())
    moved = library_folder / "Props" / "Held" / "Grips" / "Fox.foxcard"
    hand.qtbot.waitUntil(moved.is_file, timeout=LONG)


def test_pointing_draws_two_rows_anew_and_no_others(
    hand: Hand, outline: OutlineList, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The others are shown as they were drawn before."""
    drawn = list[str]()
    paint = outline_list.paint_outline_row

    def counted(*said: object) -> None:
        drawn.append(said[3].words)  # type: ignore[attr-defined]
        paint(*said)  # type: ignore[arg-type]

    def point(words: str) -> set[str]:
        drawn.clear()
        QTest.mouseMove(outline.viewport(), outline.rect_of(row(outline, words)).center())
        hand.qtbot.waitUntil(lambda: outline.over == row(outline, words), timeout=LONG)
        picture(outline)
        return set(drawn)

    point("Grips")
    hand.qtbot.waitUntil(lambda: not (outline._stamps.late or outline._more.isActive()))
    monkeypatch.setattr(outline_list, "paint_outline_row", counted)
    assert point("Face") <= {"Face", "Grips"}
    point("Grips")
    assert point("Face") == set()  # both have been seen both ways


def test_rows_that_were_drawn_before_are_never_shown_as_they_were(
    hand: Hand, outline: OutlineList, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Whatever changes, the outline looks as if it had been drawn for the first time."""

    seen, kept = list[QImage](), Stamps(1.0, lambda: 0.0)

    def looks_fresh() -> None:
        outline._stamps = kept
        shown, outline._stamps = picture(outline), Stamps(1.0, lambda: 0.0)
        assert picture(outline) == shown and shown not in seen
        seen.append(shown)

    hand.qtbot.waitUntil(lambda: outline.faces != {}, timeout=LONG)
    looks_fresh()
    at = row(outline, "Grips")
    outline.over = at
    looks_fresh()
    outline.over = -1
    for locked, before in ((False, False), (True, False), (False, True)):
        outline.show_target(at, "", QPoint(), locked=locked, before=before)
        looks_fresh()
    outline.show_target(-1, "", QPoint(), locked=False, before=False)
    outline.show_chosen([outline.rows[at].spot], None)
    looks_fresh()
    click(hand, outline, "Face")  # chosen, and with the keyboard
    looks_fresh()
    monkeypatch.setattr(place(hand), "colour", lambda _: "#2080ff")
    looks_fresh()
    outline.faces = {}
    looks_fresh()
    node = outline.rows[at].node
    assert node is not None
    node.count, node.new = 4321, 8
    looks_fresh()
    hand.window.theme.wear(PAPER)
    looks_fresh()


def test_on_any_scale_a_row_has_its_ground_to_the_last_pixel(qapp: QApplication) -> None:
    del qapp
    panel = QColor("#1f2d36")
    for ratio in (1.0, 1.25, 1.5, 1.75, 2.0):
        stamp = Stamps(1.0, lambda: 0.0).get("key", (221, 27), ratio, lambda _: None, panel)
        assert stamp is not None
        image = stamp.toImage()
        every = {image.pixel(x, y) for x in range(image.width()) for y in range(image.height())}
        assert every == {panel.rgb()}


def test_what_takes_too_long_to_draw_comes_with_the_next_painting(
    hand: Hand, outline: OutlineList
) -> None:
    hand.qtbot.waitUntil(lambda: outline.faces != {}, timeout=LONG)
    outline._stamps = Stamps(1.0, lambda: 0.0)
    whole = picture(outline)
    seconds = iter(range(1000))
    outline._stamps = Stamps(0.5, lambda: next(seconds))  # no time at all
    picture(outline)
    assert outline._stamps.late and outline._more.isActive()
    outline._stamps = Stamps(1.0, lambda: 0.0)
    hand.qtbot.waitUntil(lambda: picture(outline) == whole, timeout=LONG)


def test_in_a_narrow_window_it_is_a_drawer_over_the_stage(hand: Hand, outline: OutlineList) -> None:
    panel, window = hand.window.sheets, hand.window
    wide = window.columns.right.width()
    assert panel.side.beside and panel.view.index_width == 0
    window.resize(1024, 680)
    hand.qtbot.waitUntil(lambda: not panel.side.shown, timeout=LONG)
    hand.key(Qt.Key.Key_F8)
    drawer = panel.outline.parentWidget()
    assert drawer.isVisible() and drawer.parentWidget() is window
    right = drawer.mapTo(window, QPoint(drawer.width(), 0)).x()
    assert right == panel.mapTo(window, QPoint(0, 0)).x()
    click(hand, outline, "Face")
    assert list(shown(hand)) == ["Marrow / Face"]
    hand.key(Qt.Key.Key_F8)
    assert not drawer.isVisible()
    window.resize(1280, 800)
    hand.qtbot.waitUntil(lambda: panel.side.beside, timeout=LONG)
    assert not drawer.isVisible() and outline.isVisible()
    hand.qtbot.waitUntil(lambda: abs(window.columns.right.width() - wide) < 3, timeout=LONG)
