"""Selecting and posing on the stage and the figure."""

from __future__ import annotations

import math

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from fox_hand.core.model.controls import Region
from fox_hand.ui.picker.figure_drawing import ZONES, zone_rows
from tests.ui.conftest import CTRL, SHIFT, Hand


def test_click_shift_click_marquee_and_ground(hand: Hand) -> None:
    stage, selection = hand.window.stage, hand.workspace.selection
    hand.click(stage, hand.handle("forearm_L"))
    assert selection.rows == (hand.row("forearm_L"),)
    hand.click(stage, hand.handle("shin_R"), SHIFT)
    assert set(selection.rows) == {hand.row("forearm_L"), hand.row("shin_R")}
    hand.click(stage, hand.handle("shin_R"), SHIFT)
    assert selection.rows == (hand.row("forearm_L"),)
    a, b = hand.handle("thigh_R"), hand.handle("shin_L")
    corner = QPoint(min(a.x(), b.x()) - 12, a.y() - 12)
    hand.drag(stage, [corner, corner + QPoint(20, 20), QPoint(max(a.x(), b.x()) + 12, b.y() + 12)])
    assert hand.row("thigh_L") in selection.rows
    assert hand.row("shin_R") in selection.rows
    assert hand.row("chest") not in selection.rows
    hand.click(stage, QPoint(20, stage.height() - 20))
    assert selection.rows == ()


def test_a_double_click_takes_everything_below(hand: Hand) -> None:
    stage = hand.window.stage
    at = hand.handle("arm_R")
    QTest.mouseDClick(stage, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)
    names = {hand.workspace.actor.rig.controls[r].name for r in hand.workspace.selection.rows}
    assert {"arm_R", "hand_R", "finger_little_3_R"} <= names
    assert "collar_R" not in names


def test_dragging_a_handle_turns_the_joint_freely_and_esc_cancels(hand: Hand) -> None:
    stage = hand.window.stage
    start = hand.handle("arm_L")
    before = hand.workspace.actor.state
    hand.drag(stage, [start, start + QPoint(10, -20), start + QPoint(20, -60)], release=False)
    assert hand.workspace.actor.differs()[hand.row("arm_L")]
    hand.key(Qt.Key.Key_Escape)
    assert hand.workspace.actor.state is before
    QTest.mouseRelease(stage, Qt.MouseButton.LeftButton, pos=start)
    hand.drag(stage, [start, start + QPoint(0, -20), start + QPoint(0, -60)])
    assert hand.workspace.history.undo_label == "Turn Arm"
    moved = np.flatnonzero(hand.workspace.actor.differs()).tolist()
    assert moved == [hand.row("arm_L")]
    raised = hand.workspace.actor.at.nodes[
        hand.workspace.actor.rig.controls[hand.row("hand_L")].node
    ]
    rest = hand.workspace.actor.rig.skeleton.rest_world
    node = hand.workspace.actor.rig.controls[hand.row("hand_L")].node
    assert not np.allclose(raised[:3, 3], rest[node][:3, 3], atol=0.05)
    hand.key(Qt.Key.Key_Z, CTRL)
    assert hand.workspace.actor.state is before
    hand.key(Qt.Key.Key_Z, CTRL | SHIFT)
    assert hand.workspace.actor.differs()[hand.row("arm_L")]


def test_sweeping_a_grip_of_the_dial_turns_about_one_own_axis(hand: Hand) -> None:
    stage = hand.window.stage
    for axis in range(3):
        hand.click(stage, hand.handle("arm_L"))
        dial = stage.dial()
        assert dial is not None
        grip = dial.grip(axis)
        start = dial.angle_at(grip)
        path = [
            dial.centre
            + QPointF(math.cos(math.radians(start + a)), -math.sin(math.radians(start + a))) * 60
            for a in range(0, 33, 4)
        ]
        hand.drag(stage, [grip, *path])
        values = [hand.value("arm_L", k) for k in range(3)]
        assert abs(abs(values[axis]) - 32) < 2.5, (axis, values)
        assert all(abs(v) < 0.01 for k, v in enumerate(values) if k != axis)
        hand.key(Qt.Key.Key_Z, CTRL)
        assert abs(hand.value("arm_L", axis)) < 1e-9


def test_many_joints_turn_together(hand: Hand) -> None:
    hand.window.figure_panel.sets.choose("L hand")
    stage = hand.window.stage
    stage.setFocus()
    for _ in range(6):
        hand.key(Qt.Key.Key_Up)
    assert hand.value("finger_index_2_L") == hand.value("finger_little_3_L")
    assert abs(hand.value("finger_index_2_L") - 30) < 1e-6
    assert abs(hand.value("finger_index_2_R")) < 1e-9


def test_the_other_side_and_both_from_the_keyboard(hand: Hand) -> None:
    hand.click(hand.window.stage, hand.handle("forearm_L"))
    hand.key(Qt.Key.Key_O)
    assert hand.workspace.selection.rows == (hand.row("forearm_R"),)
    hand.key(Qt.Key.Key_O, SHIFT)
    assert hand.workspace.selection.rows == (hand.row("forearm_L"), hand.row("forearm_R"))


def test_looking_around(hand: Hand) -> None:
    stage = hand.window.stage
    centre = QPoint(stage.width() // 2, stage.height() // 2)
    first = stage.camera
    hand.drag(stage, [centre, centre + QPoint(60, 0)], Qt.MouseButton.RightButton)
    assert stage.camera.yaw < first.yaw - 0.3
    assert stage.camera.target == first.target
    hand.drag(stage, [centre, centre + QPoint(0, 80)], Qt.MouseButton.MiddleButton)
    assert stage.camera.target[1] > first.target[1] + 0.05
    hand.click(stage, hand.handle("head"))
    hand.key(Qt.Key.Key_Z)
    near = stage.camera
    assert near.distance < first.distance / 2
    assert near.target[1] > 1.2
    hand.key(Qt.Key.Key_Z, SHIFT)
    assert stage.camera.distance > near.distance * 2
    hand.window.overlays.bars.go_to("Behind")
    assert abs(stage.camera.yaw - math.pi) < 1e-6
    hand.settle()
    assert stage.pictures.latest.view.camera == stage.camera


def test_the_wheel_zooms_about_the_pointer(hand: Hand) -> None:
    from PySide6.QtGui import QWheelEvent

    stage = hand.window.stage
    at = hand.handle("hand_L")
    place = hand.workspace.actor.handles()[hand.row("hand_L")]
    event = QWheelEvent(
        QPointF(at),
        QPointF(stage.mapToGlobal(at)),
        QPoint(),
        QPoint(0, 360),
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    before = stage.camera.distance
    QApplication.sendEvent(stage, event)
    assert stage.camera.distance < before * 0.75
    seen = stage.camera.project(place, stage.width(), stage.height())[0]
    assert abs(seen[0] - at.x()) < 20
    assert abs(seen[1] - at.y()) < 20


def test_the_figure_selects_regions_dots_and_names(hand: Hand) -> None:
    figure = hand.window.figure_panel.figure
    hand.qtbot.waitUntil(lambda: figure.drawing is not None, timeout=60_000)
    rig, selection = hand.workspace.actor.rig, hand.workspace.selection
    offset = QPointF((figure.width() - 208) / 2, 0)
    for zone in (z for z in ZONES if z.key in figure.drawing.paths):
        path = figure.drawing.paths[zone.key]
        rows = set(zone_rows(rig, zone))
        # a point of the zone that is not on a dot and not covered by another zone
        box = path.boundingRect()
        spots = (
            QPointF(round(box.left() + box.width() * u), round(box.top() + box.height() * v))
            for u in np.linspace(0.05, 0.95, 40)
            for v in np.linspace(0.05, 0.95, 40)
        )
        spot = next(
            p
            for p in spots
            if figure.drawing.zone_at(p) is zone
            and figure.dot_at(p) is None
            and figure._name_at(p) is None
        )
        hand.click(figure, (spot + offset).toPoint())
        assert set(selection.rows) == rows, zone.key
    dot = figure.drawing.dots[hand.row("jaw")]
    hand.click(figure, (QPointF(*dot) + offset).toPoint())
    assert selection.rows == (hand.row("jaw"),)
    name = figure._name_rect(next(z for z in ZONES if z.key == "hand_right")).center()
    hand.click(figure, (name + offset).toPoint(), SHIFT)
    regions = {rig.controls[r].region for r in selection.rows}
    assert regions == {Region.MOUTH, Region.HANDS}


def test_typing_pulling_and_resetting_channels(hand: Hand) -> None:
    panel = hand.window.figure_panel
    hand.click(hand.window.stage, hand.handle("head"))
    channels = panel.channels
    nod = next(i for i, r in enumerate(channels.rows) if r.word == "Nod")
    hand.click(channels, channels.value_rect(nod).center().toPoint())
    hand.key("15.5")
    hand.key(Qt.Key.Key_Return)
    assert abs(hand.value("head") - 15.5) < 1e-9
    assert hand.workspace.history.undo_label == "Set Head nod"
    hand.click(channels, channels.value_rect(nod).center().toPoint())
    hand.key("+4")
    hand.key(Qt.Key.Key_Return)
    assert abs(hand.value("head") - 19.5) < 1e-9
    hand.click(channels, channels.value_rect(nod).center().toPoint())
    hand.key("+-4°")
    hand.key(Qt.Key.Key_Return)
    assert abs(hand.value("head") - 15.5) < 1e-9
    hand.click(channels, channels.value_rect(nod).center().toPoint())
    hand.key("nonsense")
    hand.key(Qt.Key.Key_Return)
    assert abs(hand.value("head") - 15.5) < 1e-9
    hand.click(channels, channels.value_rect(nod).center().toPoint())
    hand.key("80")
    hand.key(Qt.Key.Key_Escape)
    assert abs(hand.value("head") - 15.5) < 1e-9
    assert len(hand.workspace.selection) == 1  # Esc left the number, not the selection
    middle = channels.bar_rect(nod).center()
    hand.drag(channels, [middle, middle + QPointF(10, 0), middle + QPointF(22, 0)])
    assert hand.value("head") == pytest.approx(20)  # the rig's limit
    hand.click(channels, channels.reset_rect(nod).center().toPoint())
    assert hand.value("head") == 0
    for expected in (20, 15.5, 0):
        hand.key(Qt.Key.Key_Z, CTRL)
        assert hand.value("head") >= expected - 1e-6


def test_r_resets_the_selected_and_without_a_selection_everything(hand: Hand) -> None:
    hand.click_card("Wave")
    hand.key(Qt.Key.Key_Return)
    hand.window.figure_panel.sets.choose("R hand")
    hand.window.stage.setFocus()
    hand.key(Qt.Key.Key_R)
    assert not hand.workspace.actor.differs()[list(hand.workspace.selection.rows)].any()
    assert hand.workspace.actor.differs().any()
    hand.key(Qt.Key.Key_Escape)
    hand.key(Qt.Key.Key_R)
    assert not hand.workspace.actor.differs().any()
    assert hand.workspace.history.undo_label == "Reset all"


def test_a_hand_far_away_shows_its_wrist_and_a_selected_one_all_its_handles(hand: Hand) -> None:
    layout = hand.window.stage.layout_now()
    assert layout.shown[hand.row("hand_L")]
    assert not layout.shown[hand.row("finger_index_2_L")]
    hand.window.figure_panel.sets.choose("L hand")
    layout = hand.window.stage.layout_now()
    assert layout.shown[hand.row("finger_index_2_L")]
    assert not layout.shown[hand.row("finger_index_2_R")]
    hand.key(Qt.Key.Key_H)
    assert not hand.window.stage.handles_on
    hand.click(hand.window.stage, hand.handle("hand_R"))
    assert hand.row("hand_R") not in hand.workspace.selection.rows
