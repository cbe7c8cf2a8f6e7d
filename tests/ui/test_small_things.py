"""What hands expect: fingers that spread, a second click, the right button, words that complete
themselves."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QNativeGestureEvent, QPointingDevice
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit, QMenu, QWidget

from fox_hand.core.model.controls import Region
from fox_hand.core.naming.part_words import region_word
from fox_hand.ui.browser.sheets_bar import USUAL
from fox_hand.ui.cards.tiles import Tile
from fox_hand.ui.widgets.painted_list import PaintedList
from tests.ui.conftest import LONG, Hand, choose
from tests.ui.screens.care.test_care_screen import looked
from tests.ui.screens.compare.test_compare_screen import compare
from tests.ui.stage.test_more_hands import context_menu

RIGHT = Qt.MouseButton.RightButton


def pinch(widget: QWidget, at: QPointF, nearer: float) -> None:
    """Two fingers on a touchpad spread by a share."""
    QApplication.sendEvent(
        widget,
        QNativeGestureEvent(
            Qt.NativeGestureType.ZoomNativeGesture,
            QPointingDevice.primaryPointingDevice(),
            2,
            at,
            at,
            QPointF(widget.mapToGlobal(at.toPoint())),
            nearer,
            QPointF(),
        ),
    )


def open_menus(hand: Hand) -> list[QMenu]:
    return [menu for menu in hand.window.findChildren(QMenu) if menu.isVisible()]


def words_of_menu(hand: Hand) -> list[str]:
    (menu,) = open_menus(hand)
    words = [action.text().split("\t")[0] for action in menu.actions() if action.text()]
    menu.close()
    return words


def test_fingers_go_nearer_on_stage_strip_and_cards(hand: Hand) -> None:
    stage, strip, sheets = hand.window.stage, hand.window.timeline.strip, hand.window.sheets
    far, pitch, size = stage.camera.distance, strip.scale.pitch, sheets.head.slider.value()
    pinch(stage, QPointF(200, 200), 0.2)
    assert stage.camera.distance == pytest.approx(far / 1.2)
    pinch(strip, QPointF(strip.label_width + 50, 30), 0.5)
    assert strip.scale.pitch == pytest.approx(pitch * 1.5)
    pinch(sheets.view.viewport(), QPointF(50, 50), 0.01)
    assert sheets.head.slider.value() == size + 1  # never less than a step
    pinch(sheets.view.viewport(), QPointF(50, 50), -0.5)
    assert sheets.view.card_size == 48  # and not beyond the smallest


def test_a_double_click_takes_a_slider_back(hand: Hand) -> None:
    head = hand.window.sheets.head
    head.slider.setValue(120)
    QTest.mouseDClick(head.slider, Qt.MouseButton.LeftButton)
    assert head.slider.value() == USUAL
    hand.click_card("Fist")
    ruler = hand.window.overlays.mix_bar.ruler
    hand.click(ruler, QPoint(round(ruler.x_of(0.3)), ruler.height() - 20))
    assert hand.workspace.mix.amount < 0.5
    QTest.mouseDClick(ruler, Qt.MouseButton.LeftButton, pos=QPoint(40, ruler.height() - 20))
    assert hand.workspace.mix.amount == 1.0


def test_a_double_click_on_a_bar_puts_a_channel_back(hand: Hand) -> None:
    hand.workspace.selection.set([hand.row("arm_L")])
    channels = hand.window.figure_panel.channels
    channels.edit_row(0)
    QTest.keyClicks(channels.findChild(QLineEdit), "30")
    QTest.keyClick(channels.findChild(QLineEdit), Qt.Key.Key_Return)
    assert hand.value("arm_L") == pytest.approx(30.0, abs=0.01)
    QTest.mouseDClick(
        channels, Qt.MouseButton.LeftButton, pos=channels.bar_rect(0).center().toPoint()
    )
    assert hand.value("arm_L") == pytest.approx(0.0, abs=1e-3)


def test_the_right_button_on_the_stage_turns_or_asks(hand: Hand) -> None:
    """A pull looks around and opens nothing; a click is about the control under it."""
    stage, at = hand.window.stage, hand.handle("hand_L")
    before = stage.camera
    hand.drag(stage, [at, at + QPoint(40, 0), at + QPoint(80, 0)], RIGHT)
    assert stage.camera.yaw != before.yaw and not open_menus(hand)
    at = hand.handle("hand_L")
    QTest.mouseClick(stage, RIGHT, pos=at)
    assert hand.workspace.selection.rows == (hand.row("hand_L"),)
    words = words_of_menu(hand)
    assert "Back to rest" in words and "Lock what is selected" in words


def test_the_right_button_on_a_channel(hand: Hand) -> None:
    hand.workspace.selection.set([hand.row("arm_L")])
    channels = hand.window.figure_panel.channels
    at = channels.value_rect(1).center().toPoint()
    context_menu(channels, at)
    choose(hand.window, "Lock")
    assert channels.locked(channels.rows[1]) and not channels.locked(channels.rows[0])
    context_menu(channels, at)
    assert "Unlock" in words_of_menu(hand)


@pytest.mark.parametrize(
    ("typed", "taken", "stands"), [("gr", "grip", "grip"), ("deck, gr", "grip", "deck, grip")]
)
def test_tags_are_offered_while_one_types(hand: Hand, typed: str, taken: str, stands: str) -> None:
    """The last of several is completed; those before stay."""
    hand.workspace.capturing.ask()
    field = hand.window.capture.form.tags
    field.setFocus()
    QTest.keyClicks(field, typed)
    completer = field.completer()
    offered = [
        completer.completionModel().index(row, 0).data()
        for row in range(completer.completionModel().rowCount())
    ]
    assert taken in offered
    index = completer.completionModel().index(offered.index(taken), 0)
    assert completer.pathFromIndex(index) == stands
    assert field.isClearButtonEnabled()


def test_a_cut_button_says_its_words_in_the_tooltip(hand: Hand) -> None:
    button = hand.window.sheets.head.capture_button
    whole = button.sizeHint().width()
    own = button.toolTip()
    button.setFixedWidth(whole - 20)
    QApplication.sendPostedEvents(button, QEvent.Type.LayoutRequest)
    hand.qtbot.waitUntil(lambda: button.toolTip() == f"{button.text()}. {own}")
    button.setFixedWidth(whole)
    hand.qtbot.waitUntil(lambda: button.toolTip() == own)


def row_menu(rows: PaintedList, row: int) -> None:
    context_menu(rows.viewport(), rows.rect_of(row).center())


def test_the_right_button_on_a_pair(hand: Hand) -> None:
    hand.window.screens.show_pairs()
    screen = hand.window.screens.pairs
    table, controls = screen.table, hand.workspace.actor.rig.controls

    def row_of(name: str) -> int:
        found = [controls[pair.row].name for pair in table.pairs]
        other = [controls[pair.other].name for pair in table.pairs]
        return found.index(name) if name in found else other.index(name)

    row_menu(table, row_of("arm_L"))
    choose(hand.window, "Copy both names")
    assert QApplication.clipboard().text().split("\n") == ["arm_R", "arm_L"]
    row_menu(table, row_of("arm_L"))
    choose(hand.window, "They are no pair")
    assert screen.draft.rig.controls[hand.row("arm_L")].partner is None
    table.go_to(row_of("arm_L"))
    QTest.keyClick(table, Qt.Key.Key_F10, Qt.KeyboardModifier.ShiftModifier)
    choose(hand.window, "Region", region_word(Region.HEAD))
    assert screen.draft.rig.controls[hand.row("arm_L")].region is Region.HEAD
    screen.draft.undo()
    screen.draft.undo()
    assert screen.unsaved == 0


def test_the_right_button_on_a_difference_chooses_and_does_not_click(hand: Hand) -> None:
    compare(hand, "Glad", "Surprised")
    screen = hand.window.screens.compare
    first, second = (row.key for row in screen.list.rows[:2])
    QTest.mouseClick(screen.list.viewport(), RIGHT, pos=screen.list.rect_of(0).center())
    assert screen.comparison.chosen == frozenset()
    row_menu(screen.list, 0)
    choose(hand.window, "Hold its change")
    row_menu(screen.list, 1)
    choose(hand.window, "Hold only this")
    assert screen.comparison.chosen == {second}
    row_menu(screen.list, 1)
    choose(hand.window, "Hold all in this list")
    assert {first, second} < screen.comparison.chosen
    row_menu(screen.list, 0)
    choose(hand.window, "Hold none")
    assert not screen.comparison.chosen


def test_the_right_button_on_what_care_shows(hand: Hand, library_folder: Path) -> None:
    path = hand.entry("Fist").path
    path.write_bytes(path.read_bytes()[:200])
    looked(hand)
    hand.window.screens.care.go_to("strange")
    tile = hand.window.screens.care.panels["strange"].findChildren(Tile)[0]
    context_menu(tile, tile.rect().center())
    choose(hand.window, "Copy the file's place")
    assert QApplication.clipboard().text() == str(path)
    assert path.is_relative_to(library_folder)


def test_the_right_button_chooses_and_pulls_nothing(hand: Hand) -> None:
    head = hand.window.sheets.head
    size = head.slider.value()
    QTest.mouseClick(head.slider, RIGHT, pos=QPoint(4, 8))
    assert head.slider.value() == size
    hand.window.screens.show_pairs()
    rules = hand.window.screens.pairs.trial.rules
    assert rules.rows
    QTest.mouseClick(rules, RIGHT, pos=rules.rule_rect(0, 3).center().toPoint())
    assert hand.window.screens.pairs.unsaved == 0
    compare(hand, "Glad", "Surprised")
    shown = hand.window.screens.compare.shown
    for button, value in ((RIGHT, "all"), (Qt.MouseButton.LeftButton, "settings")):
        QTest.mouseClick(shown, button, pos=QPoint(shown.width() - 8, 8))
        assert shown.value == value


def test_the_right_button_on_a_long_job(hand: Hand) -> None:
    work = hand.workspace.long_work
    again: list[int] = []
    hand.qtbot.waitUntil(lambda: work.jobs == [], timeout=LONG)  # the library is read
    job = work.begin("Mark 3 cards", lambda: None)
    work.end(job, worked=2, problems=[("Fist", "It is cut off.")], again=lambda: again.append(1))
    hand.window.actions_table["jobs"].run()
    row = hand.window.jobs_sign.panel.list[0][2]
    context_menu(row, row.rect().center())
    choose(hand.window, "Copy what it says")
    assert "Fist: It is cut off." in QApplication.clipboard().text()
    context_menu(row, row.rect().center())
    assert words_of_menu(hand) == ["Try it again", "Copy what it says", "Forget this"]
    context_menu(row, row.rect().center())
    choose(hand.window, "Forget this")
    assert work.jobs == [] and again == []


def offered(field: QLineEdit) -> list[str]:
    popup = field.completer().popup()
    if not popup.isVisible():
        return []
    model = field.completer().completionModel()
    return [model.index(row, 0).data() for row in range(model.rowCount())]


def test_the_search_offers_what_filters_may_be(hand: Hand) -> None:
    """Only behind a filter: words that are typed are left alone, and Enter goes to the cards."""
    field = hand.window.header.search_field
    field.setFocus()
    QTest.keyClicks(field, "gri")
    assert offered(field) == []
    field.clear()
    QTest.keyClicks(field, "deck tag:gri")
    assert "grip" in offered(field)
    popup = field.completer().popup()
    assert popup.styleSheet() == hand.window.styleSheet() != ""  # a window of its own has none
    while popup.currentIndex().data() != "grip":
        QTest.keyClick(popup, Qt.Key.Key_Down)
    QTest.keyClick(popup, Qt.Key.Key_Return)
    assert field.text() == "deck tag:grip" and not popup.isVisible()
    assert field.hasFocus()
    field.clear()
    QTest.keyClicks(field, "tag:grip,")
    assert len(offered(field)) > 1
    QTest.keyClick(popup, Qt.Key.Key_Escape)
    field.clear()
    QTest.keyClicks(field, "side:le")
    assert offered(field) == ["left"]
    QTest.keyClick(popup, Qt.Key.Key_Escape)
    assert not popup.isVisible() and field.text() == "side:le"
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert hand.window.sheets.view.hasFocus()


def test_values_of_several_words_are_taken_in_quotes(hand: Hand) -> None:
    field, values = hand.window.header.search_field, hand.window.header.filter_values
    values._list.setStringList(["wet rope"])
    field.setText("haul tag:dry,we")
    assert values.pathFromIndex(values._list.index(0, 0)) == 'haul tag:dry,"wet rope"'
    assert values.splitPath('tag:"wet rope",du') == ["du"]
    assert values.splitPath("tag:dry rope") == ["\n"]  # the filter is over
