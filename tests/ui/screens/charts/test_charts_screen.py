"""The Charts screen in the window: what is missing is posed, captured, lent and laid on frames."""

from __future__ import annotations

from pathlib import Path

import pytest
from PIL import Image
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QInputDialog

from fox_hand.library.charts.chart_file import read_chart
from fox_hand.library.format.container import read_card
from fox_hand.library.store.store import Library
from fox_hand.ui.capture.batch_popup import BatchPopup
from fox_hand.ui.main.library.sheet_menu import sheet_menu
from fox_hand.ui.outline.sheet_chooser import SheetChooser
from fox_hand.ui.screens.charts.charts_screen import ChartsScreen
from fox_hand.ui.screens.charts.cut_dialog import CutDialog
from fox_hand.ui.screens.charts.slot_popup import SlotPopup
from tests.held_jobs import HeldJobs
from tests.ui.conftest import CTRL, LONG, Hand, choose

POINT = QPoint(400, 300)


@pytest.fixture
def screen(hand: Hand) -> ChartsScreen:
    """The screen with the hand shapes, and Marrow alone on it."""
    return opened(hand, "Hand shapes")


def opened(hand: Hand, *names: str) -> ChartsScreen:
    found = hand.window.screens.charts
    hand.key(Qt.Key.Key_F9)
    assert found.isVisible() and not found.missing.isVisible()  # of no chart nothing is missing
    for name in names:
        hand.click(found.add_button, found.add_button.rect().center())
        choose(hand.window, name)
        hand.qtbot.waitUntil(lambda n=name: board(hand, n) is not None, timeout=LONG)
    return found


def board(hand: Hand, name: str):  # type: ignore[no-untyped-def]  # shorter
    return next((b for b in hand.workspace.charts.boards if b.chart.name == name), None)


def go(hand: Hand, screen: ChartsScreen, slot: str, character: str, chart: str) -> None:
    """Click a slot."""
    at = (board(hand, chart).key, slot, character)
    screen.grid.go_to(at)  # brings it into sight
    screen.grid.go_to(None)
    hand.click(screen.grid.viewport(), screen.grid.rect_of(at).center())
    assert screen.grid.at == at and screen.panel.isVisible()


def filled(hand: Hand, chart: str, slot: str, character: str) -> list[tuple[str, bool]]:
    found = board(hand, chart).filled[slot, character].cards
    return [(one.card.name, one.lent) for one in found]


def test_a_ready_chart_shows_what_is_there_and_what_is_missing(
    hand: Hand, screen: ChartsScreen, library_folder: Path
) -> None:
    path = library_folder / "charts" / "hands.foxchart.toml"
    assert read_chart(path).chart.source == "Common practice, no source"
    assert "charts" not in {
        s.partition("/")[0] for s in hand.workspace.open_libraries.places[0].sheets
    }
    assert filled(hand, "Hand shapes", "fist", "Marrow") == [("Fist", False)]
    marrow = board(hand, "Hand shapes").of("Marrow")
    assert [one.slot.key for one in marrow if one.missing] == ["thumb", "grip", "pinch"]
    go(hand, screen, "fist", "Marrow", "Hand shapes")
    assert list(screen.panel.buttons) == ["put_on", "pose", "refuse"]
    go(hand, screen, "thumb", "Marrow", "Hand shapes")
    assert screen.panel.buttons["pose"].isEnabled()
    hand.workspace.undo()
    hand.qtbot.waitUntil(lambda: board(hand, "Hand shapes") is None, timeout=LONG)
    assert not path.exists() and not screen.panel.isVisible()


def test_a_missing_shape_is_posed_captured_and_the_next_one_comes(
    hand: Hand, screen: ChartsScreen
) -> None:
    go(hand, screen, "thumb", "Marrow", "Hand shapes")
    hand.key(Qt.Key.Key_Return)
    draft = hand.workspace.capturing.draft
    assert draft is not None and not screen.isVisible()
    assert (draft.name, draft.sheet) == ("Thumb up", "Marrow/Hands")
    regions = {draft.actor.rig.controls[r].region.value for r in draft.rows}
    sides = {draft.actor.rig.controls[r].side.value for r in draft.rows}
    assert regions == {"hands"} and sides == {"left"}  # as the other hands of the chart
    assert hand.window.capture.form.name.text() == "Thumb up"
    hand.window.home.cards.save_capture()
    hand.wait_for_card("Thumb up")
    hand.qtbot.waitUntil(
        lambda: (
            hand.workspace.capturing.draft is not None
            and hand.workspace.capturing.draft.name == "Grip"
        ),
        timeout=LONG,
    )
    assert "Next: Grip" in hand.window.notice.text
    hand.window.capture.form.name.setText("Around a rope")  # not called like its slot
    hand.window.home.cards.save_capture()
    hand.qtbot.waitUntil(
        lambda: ("Around a rope", False) in filled(hand, "Hand shapes", "grip", "Marrow"),
        timeout=LONG,
    )
    assert filled(hand, "Hand shapes", "thumb", "Marrow") == [("Thumb up", False)]
    hand.workspace.capturing.cancel()
    hand.workspace.undo()  # what was said of the card that is called otherwise
    hand.qtbot.waitUntil(lambda: filled(hand, "Hand shapes", "grip", "Marrow") == [], timeout=LONG)


def test_a_capture_that_was_left_fills_nothing_and_cards_go_where_they_went(
    hand: Hand, screen: ChartsScreen, tmp_path: Path
) -> None:
    Library.create(tmp_path / "own", "Own")
    hand.window.opener.open_library(tmp_path / "own")
    libraries = hand.workspace.open_libraries
    hand.qtbot.waitUntil(lambda: len([p for p in libraries.places if p.ready]) == 2, timeout=LONG)
    own = libraries.places[1]
    hand.window.home.cards.set_target(own)
    go(hand, screen, "grip", "Marrow", "Hand shapes")
    hand.key(Qt.Key.Key_Return)
    assert libraries.target is libraries.places[0]  # the chart's own, for this capture
    hand.key(Qt.Key.Key_Escape)
    assert hand.workspace.capturing.draft is None and libraries.target is own
    hand.workspace.capturing.mirror([hand.entry("Fox")], both=False)
    hand.qtbot.waitUntil(lambda: len(hand.cards) == 29, timeout=LONG)
    QTest.qWait(50)
    assert filled(hand, "Hand shapes", "grip", "Marrow") == []
    assert "assigned" not in board(hand, "Hand shapes").file.text


def test_a_card_is_lent_put_on_and_taken_out_again(hand: Hand, screen: ChartsScreen) -> None:
    go(hand, screen, "fist", "Pim", "Hand shapes")
    hand.click(screen.panel.buttons["lend"], QPoint(8, 8))
    hand.qtbot.waitUntil(
        lambda: filled(hand, "Hand shapes", "fist", "Pim") == [("Fist", True)], timeout=LONG
    )
    assert screen.grid.at is not None and screen.panel.isVisible()  # still the same slot
    hand.key(Qt.Key.Key_Delete)
    hand.qtbot.waitUntil(lambda: filled(hand, "Hand shapes", "fist", "Pim") == [], timeout=LONG)
    hand.workspace.undo()
    hand.qtbot.waitUntil(
        lambda: filled(hand, "Hand shapes", "fist", "Pim") == [("Fist", True)], timeout=LONG
    )
    screen.grid.setFocus()
    hand.key(Qt.Key.Key_Return)
    hand.wait_for_mix("Fist")
    assert hand.workspace.actor.rig.name == "Pim" and not screen.isVisible()


def test_twelve_empty_frames_are_posed_and_captured_in_one_go(hand: Hand) -> None:
    """The whole mouth chart of Pim, by clicks."""
    screen = opened(hand, "Mouth shapes")
    pim = next(a for a in hand.workspace.cast.actors if a.rig.name == "Pim")
    go(hand, screen, "rest", "Pim", "Mouth shapes")
    button = screen.missing.frames
    assert button.text() == "Make empty frames for Pim's 12"
    hand.click(button, button.rect().center())
    timing = hand.workspace.timing
    assert sorted(timing.marks) == list(range(1, 13)) and not screen.isVisible()
    assert hand.workspace.actor is pim
    held = pim.rig.setting_row["jaw_open"]
    for frame in (1, 4, 10):  # each frame stands alone: what is posed on one is on one
        hand.workspace.go(float(frame))
        state = pim.state
        settings = state.settings.copy()
        settings[held] = frame / 20
        hand.workspace.apply("Jaw", state.with_(settings=settings))
    for frame, value in ((1, 0.05), (2, 0.0), (4, 0.2), (10, 0.5), (11, 0.0)):
        assert pim.take.at(float(frame)).settings[held] == pytest.approx(value)
    hand.key(Qt.Key.Key_C)
    hand.qtbot.waitUntil(lambda: hand.workspace.capturing.draft is not None, timeout=LONG)
    hand.click(hand.window.capture.batch, hand.window.capture.batch.rect().center())
    hand.qtbot.waitUntil(lambda: hand.window.findChild(BatchPopup) is not None, timeout=LONG)
    popup = hand.window.findChild(BatchPopup)
    assert popup.pattern.text() == "{slot}" and popup.take.text() == "Take 12"
    hand.click(popup.take, popup.take.rect().center())
    hand.qtbot.waitUntil(
        lambda: (
            board(hand, "Mouth shapes") is not None
            and all(not one.missing for one in board(hand, "Mouth shapes").of("Pim"))
        ),
        timeout=3 * LONG,
    )
    assert hand.entry("Ah").character == "Pim" and hand.entry("Ah").sheet == "Pim/Mouth shapes"
    values = read_card(hand.entry("Ah").path)[0].pose
    held_values = {n: v for h in values.controls.values() for n, v in h.settings.items()}
    assert held_values["jaw_open"] == pytest.approx(0.5)
    hand.workspace.undo()  # all twelve cards
    hand.qtbot.waitUntil(lambda: len(hand.cards) == 28, timeout=LONG)


def test_empty_frames_are_one_step_that_goes_back(hand: Hand, screen: ChartsScreen) -> None:
    go(hand, screen, "thumb", "Marrow", "Hand shapes")
    before = hand.workspace.actor.take
    hand.click(screen.missing.frames, screen.missing.frames.rect().center())
    assert sorted(hand.workspace.timing.marks) == [1, 2, 3]
    hand.workspace.undo()
    assert hand.workspace.timing.marks == frozenset()
    assert hand.workspace.actor.take.keys is before.keys


def test_a_chart_is_made_from_a_sheet_and_its_slots_are_changed(
    hand: Hand, monkeypatch: pytest.MonkeyPatch
) -> None:
    screen = opened(hand)
    hand.click(screen.add_button, screen.add_button.rect().center())
    choose(hand.window, "Every card of a sheet")
    chooser = hand.window.findChild(SheetChooser)
    chooser.field.setText("face")
    QTest.keyClick(chooser.field, Qt.Key.Key_Return)
    hand.qtbot.waitUntil(lambda: board(hand, "Marrow Face") is not None, timeout=LONG)
    made = board(hand, "Marrow Face")
    assert made.count == 7 and made.of("Pim")[0].missing
    glad = made.chart.slot("glad")
    assert glad.pose == hand.entry("Glad").identity
    screen.edit_asked.emit(made, made.filled["glad", "Marrow"])
    popup = hand.window.findChild(SlotPopup)
    popup.field.setText("Beaming")
    popup.words.setText("glad, laughing")
    popup.wanted.field.setValue(2)
    hand.click(popup.save, popup.save.rect().center())
    hand.qtbot.waitUntil(
        lambda: board(hand, "Marrow Face").chart.slot("glad").name == "Beaming", timeout=LONG
    )
    one = board(hand, "Marrow Face").filled["glad", "Marrow"]
    assert [f.card.name for f in one.cards] == ["Glad"] and one.short == 1
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Faces of all", True))
    screen.list.setFocus()
    screen.list.go_to(0)
    hand.key(Qt.Key.Key_F2)
    hand.qtbot.waitUntil(lambda: board(hand, "Faces of all") is not None, timeout=LONG)
    screen.list.setFocus()
    hand.key(Qt.Key.Key_Delete)
    hand.qtbot.waitUntil(lambda: hand.workspace.charts.boards == (), timeout=LONG)
    for _ in range(3):
        hand.workspace.undo()
    hand.qtbot.waitUntil(lambda: board(hand, "Marrow Face") is not None, timeout=LONG)


def test_the_keyboard_walks_the_slots_and_charts_are_shown_one_by_one(hand: Hand) -> None:
    screen = opened(hand, "Hand shapes", "Emotions")
    assert {b.chart.name for b in screen.boards} == {"Hand shapes", "Emotions"}
    screen.grid.setFocus()
    first = screen.grid.at
    hand.key(Qt.Key.Key_Right)
    hand.key(Qt.Key.Key_Down)
    assert screen.grid.at is not None and screen.grid.at[1:] != first[1:]
    hand.key(Qt.Key.Key_Up)
    hand.key(Qt.Key.Key_Left)
    assert screen.grid.at == first
    row = [b.chart.name for b in screen.list.boards].index("Emotions")
    hand.click(screen.list.viewport(), screen.list.rect_of(row).center())
    assert [b.chart.name for b in screen.boards] == ["Emotions"]
    hand.click(screen.list.viewport(), screen.list.rect_of(1 - row).center(), CTRL)
    assert len(screen.boards) == 2
    hand.key(Qt.Key.Key_Escape)
    assert not screen.isVisible()


def test_of_two_readings_the_last_counts_whichever_answers_first(
    hand: Hand, screen: ChartsScreen
) -> None:
    charts, libraries = hand.workspace.charts, hand.workspace.open_libraries
    for order in ((0, 1), (1, 0)):
        held, jobs = HeldJobs(), libraries.jobs
        libraries.jobs = held
        try:
            charts.read()
            charts.read()
        finally:
            libraries.jobs = jobs
        before = charts.found
        held.release(order[0])
        first = charts.found
        held.release(order[1])
        if order[0] == 0:
            assert first is before and charts.found is not before
        else:
            assert first is not before and charts.found is first


def test_a_damaged_chart_is_told_and_a_character_that_is_not_there_cannot_be_posed(
    hand: Hand, screen: ChartsScreen, library_folder: Path
) -> None:
    path = library_folder / "charts" / "hands.foxchart.toml"
    path.write_text('characters = ["Nobody", "Marrow"]\n' + path.read_text())
    (library_folder / "charts" / "odd.foxchart.toml").write_text("name = ")
    hand.workspace.charts.read()
    hand.qtbot.waitUntil(screen._wrong.isVisible, timeout=LONG)
    assert "odd.foxchart.toml cannot be read" in screen._wrong.text()
    go(hand, screen, "fist", "Nobody", "Hand shapes")
    assert not screen.panel.buttons["pose"].isEnabled()
    hand.key(Qt.Key.Key_Return)
    assert hand.workspace.capturing.draft is None and screen.isVisible()
    assert "Nobody is not on the stage" in hand.window.notice.text
    assert QApplication.activePopupWidget() is None


def test_a_sheet_of_drawings_is_cut_into_pictures_of_the_slots(
    hand: Hand, screen: ChartsScreen, library_folder: Path, tmp_path: Path
) -> None:
    sheet = tmp_path / "hands.png"
    picture = Image.new("RGB", (400, 300), "white")
    for number, colour in enumerate(("red", "green", "blue", "yellow")):
        left, top = number % 2 * 200, number // 2 * 150
        picture.paste(colour, (left + 20, top, left + 200, top + 150))
    picture.save(sheet)
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(sheet))])
    how = Qt.DropAction.CopyAction, mime, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    for event in (QDragEnterEvent(QPoint(500, 300), *how), QDropEvent(QPointF(500, 300), *how)):
        QApplication.sendEvent(screen, event)
    dialog = hand.window.findChild(CutDialog)
    assert dialog is not None, hand.window.notice.text
    dialog.columns.field.setValue(2)
    dialog.rows.field.setValue(2)
    view = dialog.view
    hand.qtbot.waitUntil(lambda: view.width() > 320, timeout=LONG)
    area = view.area()
    start = QPoint(round(area.left()), round(area.center().y() / 2))
    hand.drag(view, [start, start + QPoint(round(area.width() * 0.05), 0)])  # the white edge
    assert view.xs[0] == pytest.approx(0.05, abs=0.01)
    hand.click(view, view.cell_rect(1).center().toPoint())  # the second drawing is left out
    assert dialog.take.text() == "Take 3 pictures"
    hand.click(dialog.take, dialog.take.rect().center())
    names = ("relaxed", "flat", "fist")

    def pictures() -> dict[str, str]:
        slots = board(hand, "Hand shapes").chart.slots
        return {slot.key: slot.picture for slot in slots if slot.picture}

    hand.qtbot.waitUntil(lambda: pictures() == {n: f"hands/{n}.png" for n in names}, timeout=LONG)
    folder = library_folder / "charts"
    colours = {}
    for name in names:
        with Image.open(folder / pictures()[name]) as cell:
            colours[name] = cell.convert("RGB").getpixel((cell.width // 2, cell.height // 2))
    assert colours == {"relaxed": (255, 0, 0), "flat": (0, 0, 255), "fist": (255, 255, 0)}
    go(hand, screen, "flat", "Pim", "Hand shapes")
    assert screen.panel._shape._image.pixelColor(20, 20).name() == "#0000ff"
    hand.workspace.undo()
    hand.qtbot.waitUntil(lambda: pictures() == {}, timeout=LONG)
    assert list((folder / "hands").iterdir()) == []
    (place,) = hand.workspace.open_libraries.places
    assert not any(sheet.startswith("charts") for sheet in place.sheets)


def test_a_sheet_is_shown_in_the_order_of_a_chart_and_a_gap_is_captured(
    hand: Hand, screen: ChartsScreen
) -> None:
    del screen
    hand.key(Qt.Key.Key_Escape)
    (place,) = hand.workspace.open_libraries.places
    row = QPoint(600, 300)
    sheet_menu(hand.window.home, place, "Marrow/Hands", row)
    choose(hand.window, "In the order of a chart", "Hand shapes")
    view = hand.window.sheets.view
    hand.qtbot.waitUntil(lambda: len(view.shown[0].empty) == 3, timeout=LONG)
    names = [hand.workspace.open_libraries.entry(k).name for k in view.shown[0].keys.tolist()]
    assert names == [
        *("Relaxed", "Flat", "Fist", "Point", "Open wide", "Tense", "Two-finger", "Fox"),
    ]
    gap = view.shown[0].empty[0]
    assert (gap.name, gap.cell) == ("Thumb up", 7)
    layout = view.layout_now()
    x, y, width, height = layout.cell_rect(0, gap.cell)
    hand.click(view.viewport(), QPoint(x + width // 2, y + height // 2 - view.offset))
    assert hand.workspace.capturing.draft.name == "Thumb up"
    hand.workspace.capturing.cancel()
    hand.window.header.search_field.setText("fi")
    hand.qtbot.waitUntil(lambda: view.shown[0].empty == (), timeout=LONG)  # only some are shown
