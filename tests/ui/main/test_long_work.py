"""Long work in one place: how far, what did not work and why, tried again, asked about once."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel, QMessageBox

from fox_hand.base.errors import FoxHandError
from fox_hand.library.store.moves import Done
from fox_hand.session.runtime.long_work import KEPT, LongWork, WorkState, time_words
from fox_hand.ui.main.work.jobs_panel import JobsPanel
from tests.ui.conftest import LONG, Hand


class Clock:
    """Seconds that go forwards when the test says so."""

    def __init__(self) -> None:
        self.now = 100.0

    def __call__(self) -> float:
        return self.now


def test_how_long_it_takes_is_said_after_a_while_and_an_end_is_an_end() -> None:
    clock = Clock()
    work = LongWork(clock)
    job = work.begin("Pictures", lambda: None)
    work.report(job, 0.5)
    assert job.seconds_left(clock.now + 1) is None  # too early to say
    assert job.seconds_left(clock.now + 10) == pytest.approx(10)
    assert [time_words(s) for s in (1, 12, 58, 200, 6000)] == [
        "5 s",
        "10 s",
        "1 min",
        "3 min",
        "2 h",
    ]
    clock.now += 10
    work.end(job, worked=3, problems=[("Fox", "It is cut off.")], left=2, again=lambda: None)
    assert (job.state, job.total, job.took) == (WorkState.STOPPED, 6, 10)
    work.report(job, 0.7)  # what comes late changes nothing
    work.fail(job, FoxHandError("x", "No."))
    assert (job.state, job.share) == (WorkState.STOPPED, 0.5)
    quick = work.begin("Tag", lambda: None)
    work.end(quick, worked=1)
    assert quick not in work.jobs  # nothing to be seen
    for _ in range(KEPT + 5):
        work.fail(work.begin("Bad", lambda: None), FoxHandError("x", "No."))
    assert len(work.jobs) == KEPT


def panel(hand: Hand) -> JobsPanel:
    return hand.window.jobs_sign.panel


def test_what_did_not_work_is_listed_with_why_and_only_that_is_tried_again(hand: Hand) -> None:
    """Of 70 things three fail; the second time one still does."""
    bad = {"card 7", "card 33", "card 69"}
    tried: list[str] = []

    def task(name: str) -> Callable[[], Done]:
        def run() -> Done:
            tried.append(name)
            if name in bad:
                raise FoxHandError("x", f"{name} is cut off.", "It was left.", "Look at it.")
            library = hand.workspace.open_libraries.places[0].library
            assert library is not None
            nothing = Done(library, (), lambda: nothing)
            return nothing

        return run

    names = [f"card {n}" for n in range(70)]
    hand.workspace.file_jobs.do("Mark 70 cards", [(n, task(n)) for n in names])
    hand.qtbot.waitUntil(lambda: len(tried) == 70, timeout=LONG)
    button = hand.window.header.jobs_button
    hand.qtbot.waitUntil(lambda: button.text() == "3 did not work", timeout=LONG)
    hand.click(button, button.rect().center())
    (_, _, row), *_ = panel(hand).list
    assert "67 of 70" in row.accessibleName()
    words = [w.text() for w in row.findChildren(type(hand.window.notice._text))]
    assert any("card 33 is cut off. It was left. Look at it." in text for text in words)
    bad -= {"card 7", "card 69"}
    tried.clear()
    assert row.again.text() == "Try those 3 again"
    hand.click(row.again, row.again.rect().center())
    hand.qtbot.waitUntil(lambda: len(tried) == 3, timeout=LONG)
    assert tried == ["card 7", "card 33", "card 69"]
    hand.qtbot.waitUntil(
        lambda: any(j.worked == 2 for j in hand.workspace.long_work.jobs), timeout=LONG
    )
    QTest.keyClick(panel(hand), Qt.Key.Key_Escape)
    assert not panel(hand).isVisible()


def test_stop_is_pressed_once_and_the_sign_goes_when_all_was_seen(hand: Hand) -> None:
    work, stopped = hand.workspace.long_work, list[int]()
    job = work.begin("Write a.glb", lambda: stopped.append(1))
    button = hand.window.header.jobs_button
    hand.qtbot.waitUntil(lambda: button.isVisible() and button.text() == "1 going on", timeout=LONG)
    hand.window.actions_table["jobs"].run()
    (_, _, row), *_ = panel(hand).list
    for _ in range(3):
        hand.click(row.stop, row.stop.rect().center())
    assert stopped == [1]
    work.end(job, left=1)
    hand.qtbot.waitUntil(lambda: "Stopped" in panel(hand).list[0][2].accessibleName(), timeout=LONG)
    panel(hand).hide()
    work.clear()
    hand.qtbot.waitUntil(lambda: not button.isVisible(), timeout=LONG)


def test_that_nothing_goes_on_is_said_from_the_first(hand: Hand) -> None:
    hand.window.actions_table["jobs"].run()
    said = [words for words in panel(hand).findChildren(QLabel) if words.isVisible()]
    assert "Nothing goes on." in [words.text() for words in said]
    button = hand.window.header.jobs_button
    hand.workspace.long_work.changed.emit()
    hand.qtbot.waitUntil(lambda: button.isVisible() and button.text() == "Long jobs", timeout=LONG)
    QTest.keyClick(panel(hand), Qt.Key.Key_Escape)  # and then there is nothing to see
    hand.qtbot.waitUntil(lambda: not button.isVisible(), timeout=LONG)


def test_closing_asks_once_and_waits_or_stops(hand: Hand, monkeypatch: pytest.MonkeyPatch) -> None:
    work, stopped, asked = hand.workspace.long_work, list[int](), list[str]()
    job = work.begin("Write a.glb", lambda: stopped.append(1))

    def answer(word: str) -> None:
        def run(box: QMessageBox) -> None:
            asked.append(box.text())
            next(b for b in box.buttons() if b.text() == word).click()

        monkeypatch.setattr(QMessageBox, "exec", run)

    job.began -= 5  # what has only just begun is over in a moment, and nothing is asked
    answer("Stay here")
    hand.window.close()
    assert hand.window.isVisible()
    assert stopped == []
    answer("Finish, then close")
    hand.window.close()
    assert not hand.window.isVisible()
    assert stopped == []
    work.end(job, worked=1)  # now it closes by itself
    assert "Write a.glb" in asked[0]
    assert len(asked) == 2
    hand.window.show()
    work.begin("Write b.glb", lambda: stopped.append(2)).began -= 5
    answer("Stop and close")
    hand.window.close()
    assert stopped == [2]
    assert not hand.window.isVisible()
