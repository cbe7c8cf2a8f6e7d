"""Trying limits, drawings that are not used, names, limbs, zoom, drawings drawn anew: on the
Assemble screen, by clicks and pulls."""

from __future__ import annotations

import os
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QContextMenuEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog

from fox_hand.ui.screens.assemble.assemble_screen import LOOK, AssembleScreen
from tests.puppets import as_folder, bird, blob
from tests.ui.conftest import LONG, Hand, OpenWindow, choose


@pytest.fixture
def source(tmp_path: Path) -> Path:
    return as_folder(tmp_path / "tern", bird())


@pytest.fixture
def hand(open_window: OpenWindow, source: Path) -> Hand:
    made = open_window()
    made.window.home.drawings.open(source)
    screen = made.window.screens.assemble
    made.qtbot.waitUntil(screen.isVisible, timeout=LONG)
    made.qtbot.waitUntil(
        lambda: all(screen.images.image(p.seen) is not None for p in screen.assembly.puppet.parts),
        timeout=LONG,
    )
    return made


def screen_of(hand: Hand) -> AssembleScreen:
    return hand.window.screens.assemble


def part(hand: Hand, name: str):
    return screen_of(hand).assembly.puppet.part(name)


def press(hand: Hand, button) -> None:
    hand.click(button, button.rect().center())


def test_limits_are_pulled_on_the_canvas_and_hold_while_a_part_is_tried(hand: Hand) -> None:
    screen, canvas = screen_of(hand), screen_of(hand).canvas
    screen.choose("Head")
    assert canvas._arc() is None  # it turns as it likes
    screen.panel.limited.click()
    assert part(hand, "Head").limits == pytest.approx((-np.pi / 2, np.pi / 2))
    arc = canvas._arc()
    start, end = arc.end(1), arc.middle + QPointF(70, 0)
    hand.drag(canvas, [start, (start + end) / 2, end])
    low, high = part(hand, "Head").limits
    assert low == pytest.approx(-np.pi / 2)
    wanted = -np.arctan2(end.y() - arc.middle.y(), end.x() - arc.middle.x()) - arc.rest
    wanted = (wanted + np.pi) % (2 * np.pi) - np.pi
    assert high == pytest.approx(max(wanted, low), abs=0.03)
    screen.assembly.undo()
    assert part(hand, "Head").limits == pytest.approx((-np.pi / 2, np.pi / 2))
    screen.panel.low.field.setValue(-10)
    screen.panel.high.field.setValue(20)
    before = screen.assembly.puppet
    press(hand, screen.pose)
    pivot, head = canvas.pivot_place(part(hand, "Head")), canvas._rect(part(hand, "Head")).center()
    start = head + QPointF(-14, 0)
    assert canvas.part_at(start).name == "Head"
    way = start - pivot
    side = QPointF(way.y(), -way.x())  # counterclockwise, as y goes down
    hand.drag(canvas, [start, start + side * 0.5, start + side * 2])
    assert canvas.trying.angles["Head"] == pytest.approx(np.radians(20), abs=1e-6)
    assert screen.assembly.puppet is before  # nothing of it is said
    # what hangs on it goes along, and is found where it is now
    now = canvas.trying.way(before, part(hand, "Beak")).map(QPointF(318, 100))
    scale, corner = canvas._fit()
    assert canvas.part_at(corner + now * scale).name == "Beak"
    press(hand, screen.pose)
    assert canvas.trying.angles == {} and not canvas.posing


def test_a_drawing_is_put_aside_from_its_menu_and_given_back_by_a_click(hand: Hand) -> None:
    screen = screen_of(hand)
    screen.choose("Beak")
    button = screen.panel.drawings[1]
    name = part(hand, "Beak").drawings[1].name
    at = button.rect().center()
    event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, at, button.mapToGlobal(at))
    QApplication.sendEvent(button, event)
    choose(hand.window, "Do not use it")
    assert len(part(hand, "Beak").drawings) == 2 and len(screen.panel.drawings) == 2
    assert screen.aside.isVisible() and screen.aside.title.text() == "Not used  1"
    screen.choose("Eye")
    press(hand, screen.aside.buttons[0])
    assert [d.name for d in part(hand, "Eye").drawings][-1] == name
    assert not screen.aside.isVisible()
    told: list[object] = []
    screen.failed.connect(told.append)
    screen.choose("Head")
    screen.panel._put_aside(0)
    assert told[0].code == "puppet.last_drawing"


def test_names_and_limbs_are_said_in_the_panel(hand: Hand) -> None:
    screen = screen_of(hand)
    screen.choose("Near wing")
    field = screen.panel.name
    assert field.text() == "Near wing" and screen.panel.limb.currentText() == "Near wing tip"
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "Big wing")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert part(hand, "Near wing").called == "Big wing"
    assert "Big wing" in screen.list._words(part(hand, "Near wing"))
    screen.panel.limb.setCurrentIndex(0)
    screen.panel.limb.textActivated.emit(screen.panel.limb.currentText())
    assert part(hand, "Near wing").lower is None
    screen.choose("Near wing tip")
    assert not screen.panel.limb.isEnabled()  # nothing hangs on it


def test_the_canvas_is_looked_at_closely_and_as_a_whole(hand: Hand) -> None:
    canvas = screen_of(hand).canvas
    scale, _ = canvas._fit()
    head = canvas.pivot_place(part(hand, "Head"))
    wheel = QWheelEvent(
        head,
        QPointF(canvas.mapToGlobal(head.toPoint())),
        QPoint(),
        QPoint(0, 360),
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(canvas, wheel)
    assert canvas._fit()[0] == pytest.approx(scale * 1.15**3)
    there = canvas.pivot_place(part(hand, "Head"))
    assert (there - head).manhattanLength() < 0.5  # the place under the pointer stays
    hand.drag(
        canvas, [head, head + QPointF(10, 5), head + QPointF(40, 20)], Qt.MouseButton.RightButton
    )
    moved = canvas.pivot_place(part(hand, "Head")) - there
    assert (moved - QPointF(40, 20)).manhattanLength() < 1.5
    QTest.mouseDClick(canvas, Qt.MouseButton.LeftButton, pos=QPoint(4, canvas.height() - 4))
    assert canvas._fit()[0] == pytest.approx(scale)


def test_drawings_that_changed_are_told_and_read_again(
    hand: Hand, source: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    screen = screen_of(hand)
    screen.choose("Near wing")
    screen.assembly.set_pivot(("", "Near wing"), 111.0, 122.0)
    assert not screen.again.isVisible()
    wing = next(source.glob("*Near wing.png"))
    blob(170, 190, 140, 80, "#ff0000").save(wing)
    os.utime(wing, ns=(1, 1))
    hand.qtbot.waitUntil(screen.again.isVisible, timeout=LONG + LOOK)
    press(hand, screen.again)
    hand.qtbot.waitUntil(lambda: not screen.again.isVisible(), timeout=LONG)
    assert part(hand, "Near wing").seen.pixels()[190, 170, 0] == 255
    assert part(hand, "Near wing").pivot == (111.0, 122.0)
    hat = tmp_path / "Hat.png"
    blob(260, 50, 60, 40, "#222222").save(hat)
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: ([str(hat)], ""))
    press(hand, screen.more)
    hand.qtbot.waitUntil(
        lambda: any(p.name == "Hat" for p in screen.assembly.puppet.parts), timeout=LONG
    )
    front = as_folder(
        tmp_path / "front", {"Head": blob(200, 100, 90, 90, "#fff"), "Body": bird()["Body"]}
    )
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(front))
    press(hand, screen.more_views)
    choose(hand.window, "Front")
    hand.qtbot.waitUntil(lambda: len(screen.assembly.puppet.views) == 2, timeout=LONG)
    assert screen.views is not None and screen.view == "Side"
    assert screen.assembly.part(("Side", "Near wing")).pivot == (111.0, 122.0)
    press(hand, screen.switches["others"])
    assert screen.canvas.others
    assert not screen.canvas.grab().toImage().isNull()
