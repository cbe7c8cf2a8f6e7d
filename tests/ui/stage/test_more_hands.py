"""Menus, double clicks and keys beside the main ways: figure drawing, views, strip, sheets."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QContextMenuEvent, QHelpEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QInputDialog, QLabel, QWidget

from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.model.controls import Region, Side
from fox_hand.session.applying.application import Part
from fox_hand.ui.help.shortcuts import GROUPS, ShortcutsSheet
from fox_hand.ui.picker.figure_drawing import HEIGHT, WIDTH
from fox_hand.ui.timeline.strip import Strip
from tests.ui.conftest import CTRL, LONG, SHIFT, Hand, choose, key_card


def context_menu(widget: QWidget, at: QPointF | QPoint) -> None:
    point = at.toPoint() if isinstance(at, QPointF) else at
    reason = QContextMenuEvent.Reason.Mouse
    event = QContextMenuEvent(reason, point, widget.mapToGlobal(point))
    QApplication.sendEvent(widget, event)


def zone_middle(hand: Hand, key: str) -> QPointF:
    """A point inside a zone of the figure drawing, away from its dots."""
    view = hand.window.figure_panel.figure
    for y in range(0, HEIGHT, 3):
        for x in range(0, WIDTH, 3):
            at = QPointF(x, y)
            zone = view.drawing.zone_at(at)
            if zone is not None and zone.key == key and view.dot_at(at) is None:
                return at + QPointF((view.width() - WIDTH) / 2, 0)
    raise AssertionError(key)


def names(hand: Hand) -> set[str]:
    rig = hand.workspace.actor.rig
    return {rig.controls[r].name for r in hand.workspace.selection.rows}


def test_a_region_of_the_drawing_is_selected_added_halved_and_put_back(hand: Hand) -> None:
    figure, rig = hand.window.figure_panel.figure, hand.workspace.actor.rig
    hand.qtbot.waitUntil(lambda: figure.drawing is not None, timeout=LONG)
    head = zone_middle(hand, "head")
    context_menu(figure, head)
    choose(hand.window, "Select")
    whole = names(hand)
    regions = {rig.controls[rig.control_row[n]].region for n in whole}
    assert Region.EYES in regions
    assert not regions & {Region.ARMS, Region.HANDS, Region.LEGS}
    context_menu(figure, head)
    choose(hand.window, "Only the own left")
    left = names(hand)
    assert left < whole
    assert all(rig.controls[rig.control_row[n]].side is Side.LEFT for n in left)
    context_menu(figure, zone_middle(hand, "hand_right"))
    choose(hand.window, "Add")
    assert names(hand) > left
    hand.click_card("Glad")
    hand.key(Qt.Key.Key_Return)
    smiling = hand.workspace.actor.state
    context_menu(figure, head)
    choose(hand.window, "Put")
    assert not hand.workspace.actor.differs().any()
    hand.key("z", CTRL)
    assert hand.workspace.actor.state.same_bits(smiling)


def test_while_a_card_goes_on_by_regions_the_drawing_chooses_them(hand: Hand) -> None:
    figure = hand.window.figure_panel.figure
    hand.qtbot.waitUntil(lambda: figure.drawing is not None, timeout=LONG)
    hand.click_card("Wave")
    hand.workspace.mix.set_part(Part.REGIONS, [Region.ARMS])
    at = zone_middle(hand, "head").toPoint()
    QTest.mouseMove(figure, at)
    hand.click(figure, at)
    assert Region.HEAD in hand.workspace.mix.how.regions
    hand.click(figure, at)
    assert Region.HEAD not in hand.workspace.mix.how.regions
    assert Region.ARMS in hand.workspace.mix.how.regions


def test_a_double_click_on_a_dot_takes_all_below_it(hand: Hand) -> None:
    figure, rig = hand.window.figure_panel.figure, hand.workspace.actor.rig
    hand.qtbot.waitUntil(lambda: figure.drawing is not None, timeout=LONG)
    row = rig.control_row["arm_L"]
    x, y = figure.drawing.dots[row, :2]
    at = QPoint(round(x + (figure.width() - WIDTH) / 2), round(y))
    QTest.mouseDClick(figure, Qt.MouseButton.LeftButton, pos=at)
    assert names(hand) == {rig.controls[r].name for r in rig.below(row)}


def test_a_view_is_kept_gone_to_and_forgotten(hand: Hand, monkeypatch: pytest.MonkeyPatch) -> None:
    stage, button = hand.window.stage, hand.window.overlays.bars.view
    stage.set_camera(stage.camera.orbit(0.4, 0.1))
    there = stage.camera
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("From the rail", True))
    hand.click(button, button.rect().center())
    choose(hand.window, "Keep this view")
    assert button.text() == "From the rail"
    stage.set_camera(stage.camera.orbit(-1.0, -0.2))
    assert button.text() == "View"  # it is not that one any more
    hand.click(button, button.rect().center())
    choose(hand.window, "From the rail")
    assert button.text() == "From the rail"
    assert stage.camera.yaw == pytest.approx(there.yaw)
    assert np.allclose(stage.camera.target, there.target)
    hand.click(button, button.rect().center())
    choose(hand.window, "Forget a view", "From the rail")
    assert "From the rail" not in hand.workspace.actor.views


@pytest.fixture
def shot(hand: Hand) -> Hand:
    """Wave at 1, Arms up at 25."""
    key_card(hand, "Wave", 1)
    key_card(hand, "Arms up", 25)
    return hand


def chip_at(strip: Strip, frame: float) -> QPointF:
    row = next(r for r in strip.rows() if r.key == "Body")
    number = next(i for i, c in enumerate(row.key_groups) if c.frame == frame)
    return strip.rect_of(row, number).center()


def test_double_clicks_on_the_strip_go_mark_and_show_everything(shot: Hand) -> None:
    strip, workspace = shot.window.timeline.strip, shot.workspace
    left = Qt.MouseButton.LeftButton
    QTest.mouseDClick(strip, left, pos=chip_at(strip, 1).toPoint())
    assert workspace.timing.frame == 1
    ruler = QPoint(round(strip.scale.x_of(13)), 16)
    QTest.mouseDClick(strip, left, pos=ruler)
    assert workspace.timing.marks == {13}
    QTest.mouseDClick(strip, left, pos=ruler)
    assert workspace.timing.marks == set()
    strip.set_scale(strip.scale.zoomed(strip.scale.x_of(10), 3.0))
    first = strip.scale.first
    x = strip.scale.left + 0.75 * strip.scale.width
    shot.drag(strip, [QPointF(x - 100, 52), QPointF(x - 50, 52), QPointF(x, 52)])
    assert strip.scale.first > first  # what is shown went along the overview
    QTest.mouseDClick(strip, left, pos=QPoint(round(x), 52))
    assert strip.scale.first <= workspace.timing.first
    assert strip.scale.last >= workspace.timing.last


def test_the_menu_of_a_chip_holds_goes_on_and_takes_out(shot: Hand) -> None:
    strip, workspace = shot.window.timeline.strip, shot.workspace
    at = chip_at(strip, 25)
    help_event = QHelpEvent(QHelpEvent.Type.ToolTip, at.toPoint(), strip.mapToGlobal(at.toPoint()))
    QApplication.sendEvent(strip, help_event)
    assert "Arms up" in strip.tip_at(at)
    context_menu(strip, at)
    assert {f for frames in strip.picks.values() for f in frames} == {25.0}
    choose(shot.window, "Go on: straight")
    body, before = set(strip.picks), workspace.actor.keys
    for channel_id, line in before.lines.items():
        expected = Ease.LINEAR if channel_id in body else Ease.SMOOTH
        assert line.eases[line.at(25.0)] == expected
    assert body and body != set(before.lines)  # hands have a row of their own
    context_menu(strip, at)
    choose(shot.window, "Delete")
    assert {x for x, line in workspace.actor.keys.lines.items() if line.at(25.0) is None} == body
    shot.key("z", CTRL)
    assert workspace.actor.keys.count == before.count


def test_the_rate_the_loop_and_auto_keys_are_chosen_beside_the_strip(shot: Hand) -> None:
    tools, timing = shot.window.timeline.tools, shot.workspace.timing
    shot.click(tools.rate, tools.rate.rect().center())
    choose(shot.window, "30 frames")
    assert timing.rate == 30
    assert tools.rate.text() == "30 fps"
    loops = timing.loop
    shot.click(tools.rate, tools.rate.rect().center())
    choose(shot.window, "Begin again")
    assert timing.loop is not loops
    tools.show_rate(11.0)
    assert tools.rate.text() == "11 of 30"  # it says when frames are dropped
    assert timing.auto
    shot.click(tools.auto, tools.auto.rect().center())
    assert not timing.auto
    before = shot.workspace.actor.keys
    shot.workspace.selection.set([shot.row("head")])
    shot.click(tools.key, tools.key.rect().center())
    assert shot.workspace.actor.keys.count == before.count  # the key of the head is set anew
    assert shot.workspace.actor.keys.lines != before.lines


def test_keys_are_listed_and_every_row_fits(hand: Hand) -> None:
    QTest.keyClick(hand.window, Qt.Key.Key_F1, Qt.KeyboardModifier.ShiftModifier)
    sheet = hand.window.findChild(ShortcutsSheet)
    assert sheet is not None and sheet.isVisible()
    shown = sheet.findChildren(QWidget)
    texts = {w.text() for w in shown if hasattr(w, "text")}
    for command in hand.window.actions_table:
        if command.key and command.listed and command.group:
            assert command.key in texts, command.name
    for _, rows in GROUPS:
        for keys, does in rows:
            assert any(keys in text for text in texts), keys
            assert any(does in text for text in texts), does
    assert sheet.area.verticalScrollBar().maximum() == 0  # nothing has to be scrolled for
    assert sheet.area.horizontalScrollBar().maximum() == 0
    for label in sheet.findChildren(QLabel):
        if label.isVisible() and not label.wordWrap():
            assert label.width() >= label.sizeHint().width(), label.text()
    sheet.close()


def test_cards_are_ticked_all_with_the_keys_and_a_click_beside_lets_go(hand: Hand) -> None:
    view = hand.window.sheets.view
    view.setFocus()
    hand.key("a", CTRL)
    assert len(view.choice.ticked) == len(hand.cards)
    hand.key(Qt.Key.Key_Escape)
    assert not view.choice.ticked
    hand.key(Qt.Key.Key_Home)
    hand.key(Qt.Key.Key_Right, SHIFT)
    hand.key(Qt.Key.Key_Right, SHIFT)
    assert len(view.choice.ticked) == 3
    bare = QPoint(view.viewport().width() - 30, 4)
    hand.click(view.viewport(), bare)
    hand.key(Qt.Key.Key_Escape)
    assert not view.choice.ticked
