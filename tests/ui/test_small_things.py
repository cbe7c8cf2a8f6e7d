"""What hands expect: fingers that spread, a second click, the right button, words that complete
themselves."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QNativeGestureEvent, QPointingDevice
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit, QMenu, QWidget

from fox_hand.ui.browser.sheets_bar import USUAL
from tests.ui.conftest import Hand, choose
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
