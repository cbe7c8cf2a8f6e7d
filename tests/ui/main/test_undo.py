"""What used to have no way back: marks, range, rate, newcomers, views, pictures, number keys."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from PIL import Image
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtWidgets import QApplication, QWidget

from fox_hand.demo.demo_project import shipped
from tests.ui.conftest import CTRL, LONG, SHIFT, Hand


def picture(tmp_path: Path) -> Path:
    path = tmp_path / "reference.png"
    Image.new("RGB", (60, 40), (10, 200, 30)).save(path)
    return path


def opened(hand: Hand, tmp_path: Path) -> None:
    del tmp_path
    count = len(hand.workspace.cast)
    hand.window.opener.open_rig(shipped() / "cast" / "pim.glb")
    hand.qtbot.waitUntil(lambda: len(hand.workspace.cast) > count, timeout=LONG)


def pinned(hand: Hand, tmp_path: Path) -> None:
    hand.window.overlays.pin_board(picture(tmp_path), QPoint(200, 200))


DEEDS: dict[str, tuple[Callable[[Hand, Path], object], Callable[[Hand], object]]] = {
    "mark": (lambda hand, _: hand.key("m"), lambda hand: hand.workspace.timing.marks),
    "range": (
        lambda hand, _: hand.workspace.shot_settings.set_range(5, 50),
        lambda hand: (hand.workspace.timing.first, hand.workspace.timing.last),
    ),
    "rate": (
        lambda hand, _: hand.workspace.shot_settings.set_rate(30.0),
        lambda hand: hand.workspace.timing.rate,
    ),
    "newcomer": (opened, lambda hand: [member.name for member in hand.workspace.cast]),
    "view": (
        lambda hand, _: hand.workspace.keep_view("From the left", hand.window.stage.camera),
        lambda hand: dict(hand.workspace.cast.actors[0].views),
    ),
    "reference picture": (
        pinned,
        lambda hand: (
            len(hand.window.overlays.boards.boards),
            [board.path for board in hand.workspace.shots.boards],
        ),
    ),
    "number key": (
        lambda hand, _: hand.workspace.applying.take_in_hand(2, hand.entry("Fist")),
        lambda hand: [entry and entry.name for entry in hand.workspace.applying.at_hand],
    ),
}


@pytest.mark.parametrize("deed", DEEDS)
def test_it_is_undone_and_done_again_with_the_keys(hand: Hand, tmp_path: Path, deed: str) -> None:
    do, seen = DEEDS[deed]
    hand.window.stage.setFocus()
    before = seen(hand)
    do(hand, tmp_path)
    after = seen(hand)
    assert after != before
    for _ in range(2):
        hand.key("z", CTRL)
        assert seen(hand) == before
        hand.key("z", CTRL | SHIFT)
        assert seen(hand) == after


def notch(widget: QWidget) -> None:
    """The wheel turned towards oneself by one notch."""
    at, no = QPointF(10, 10), QPoint()
    plain, phase = Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase
    button = Qt.MouseButton.NoButton
    event = QWheelEvent(at, at, no, QPoint(0, -120), button, plain, phase, False)
    QApplication.sendEvent(widget, event)


def test_turning_the_wheel_over_a_reference_picture_is_one_step(hand: Hand, tmp_path: Path) -> None:
    pinned(hand, tmp_path)
    boards = hand.window.overlays.boards
    for _ in range(4):
        notch(boards.boards[0])
    assert boards.boards[0].fade == pytest.approx(0.6)
    hand.key("z", CTRL)
    assert [board.fade for board in boards.boards] == [1.0]
    hand.key("z", CTRL | SHIFT)
    assert [board.fade for board in boards.boards] == [pytest.approx(0.6)]
    hand.key("z", CTRL)
    notch(boards.boards[0])
    for _ in range(2):
        hand.key("z", CTRL)
    assert boards.boards == []  # one for the wheel, one for the pin
