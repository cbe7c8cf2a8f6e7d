"""Answers of jobs come one after the other, and the window is heard between them."""

from __future__ import annotations

import threading
from collections.abc import Callable

from PySide6.QtCore import QCoreApplication
from pytestqt.qtbot import QtBot

from fox_hand.ui.services.bridge import Bridge


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
