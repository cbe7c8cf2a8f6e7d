"""Answers of jobs come one after the other, and the window is heard between them and before what
they changed is painted."""

from __future__ import annotations

import threading
from collections.abc import Callable

import pytest
from PySide6.QtCore import QCoreApplication, QTimer
from PySide6.QtGui import QPaintEvent
from PySide6.QtWidgets import QWidget
from pytestqt.qtbot import QtBot

from fox_hand.ui.services.bridge import Bridge
from fox_hand.ui.services.paint_turn import PaintTurn, painted_for


def test_what_is_typed_is_heard_between_two_answers(qtbot: QtBot) -> None:
    bridge, came = Bridge(turn=0.0), list[str]()

    def answer(name: str) -> Callable[[], None]:
        return lambda: came.append(name)

    def from_a_job() -> None:
        for name in "abc":
            bridge.post(answer(name))

    job = threading.Thread(target=from_a_job)
    job.start()
    job.join()
    QCoreApplication.sendPostedEvents()  # as many as are there, before anything else
    assert came == ["a"]
    bridge.post(answer("d"))  # comes after those that wait
    qtbot.waitUntil(lambda: len(came) == 4)
    assert came == ["a", "b", "c", "d"]


def test_an_answer_that_fails_takes_no_other_with_it(qtbot: QtBot) -> None:
    bridge, came = Bridge(turn=0.0), list[str]()

    def fails() -> None:
        raise ValueError("of the test")

    with qtbot.captureExceptions() as told:
        bridge.post(fails)
        bridge.post(lambda: came.append("after"))
        qtbot.waitUntil(lambda: came == ["after"])
    assert [str(value) for _, value, _ in told] == ["of the test"]


def test_nothing_comes_after_closing(qtbot: QtBot) -> None:
    bridge, came = Bridge(turn=0.0), list[str]()
    bridge.post(lambda: came.append("first"))
    bridge.post(lambda: came.append("second"))
    QCoreApplication.sendPostedEvents()
    bridge.close()
    bridge.post(lambda: came.append("third"))
    qtbot.wait(20)
    assert came == ["first"]


class Seen(QWidget):
    """Says when it is painted, and for how long its window has been."""

    def __init__(self, parent: QWidget, came: list[str], takes: Callable[[], None]) -> None:
        super().__init__(parent)
        self._came, self._takes = came, takes
        self.painted_for = list[float]()

    def paintEvent(self, event: QPaintEvent) -> None:  # noqa: N802 - Qt's name
        del event
        self._came.append("paint")
        self._takes()
        self.painted_for.append(painted_for(self))


@pytest.mark.parametrize(
    ("seconds", "order"), [(0.03, ["work", "heard", "paint"]), (0.001, ["work", "paint", "heard"])]
)
def test_after_long_work_one_is_heard_before_it_is_painted(
    qtbot: QtBot, seconds: float, order: list[str]
) -> None:
    worked, came = [0.0], list[str]()
    window, bridge = QWidget(), Bridge()
    qtbot.addWidget(window)
    PaintTurn(window, lambda: worked[0])

    def takes() -> None:
        worked[0] += 0.5

    seen = Seen(window, came, takes)
    with qtbot.waitExposed(window):
        window.show()
    qtbot.waitUntil(lambda: came != [] and not qtbot.wait(20))
    heard = QTimer(window)
    heard.setSingleShot(True)
    heard.timeout.connect(lambda: came.append("heard"))

    def work() -> None:
        came.append("work")
        heard.start(0)
        seen.update()
        worked[0] += seconds

    for _ in range(2):  # it waits each time anew, and only once
        came.clear()
        bridge.post(work)
        qtbot.waitUntil(lambda: len(came) == 3)
        assert came == order
        assert seen.painted_for[-1] == pytest.approx(0.5)
    assert painted_for(seen) == 0.0
    seen.grab()
    assert seen.painted_for[-1] == 0.0  # of a picture, not in the window
