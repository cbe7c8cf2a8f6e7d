"""What a day begins with: nothing waits for a share, and everything can be gone on with."""

from __future__ import annotations

import shutil
import threading
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog
from pytestqt.qtbot import QtBot

from fox_hand.__main__ import begin
from fox_hand.base.places import Places
from fox_hand.cli import Wish
from fox_hand.session.shots import recent
from fox_hand.session.shots.recent import PlaceState, RecentShot, is_far, portrait_path
from fox_hand.ui.screens.start.start_screen import StartScreen
from tests.ui.conftest import LONG, Hand, OpenWindow


def listed(screen: StartScreen) -> list[RecentShot]:
    return screen.list._shots


def test_a_first_start_offers_the_demo_and_enter_takes_it(
    open_window: OpenWindow, qtbot: QtBot
) -> None:
    made = open_window()
    begin(made.window, Wish())
    screen = made.window.screens.start
    assert screen.first.isVisible()
    assert not made.window.header.isVisible()
    assert made.window.focusWidget() is screen.first.demo
    QTest.keyClick(screen.first.demo, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: made.workspace.actor is not None, timeout=LONG)
    assert made.window.screens.on_stage
    assert made.window.header.isVisible()


@pytest.fixture
def later(open_window: OpenWindow, places: Places, qtbot: QtBot) -> tuple[Hand, list[Path]]:
    """Three shots of the demo were open, the first last."""
    made = open_window()
    made.window.shot_opener.open_demo()
    qtbot.waitUntil(lambda: made.workspace.shots.path is not None, timeout=LONG)
    first = made.workspace.shots.path
    assert first is not None
    shots = [first, first.with_stem("nf_020"), first.with_stem("nf_040")]
    made.workspace.settings.recent_shots = [str(p) for p in shots]
    qtbot.waitUntil(portrait_path(places, first).is_file, timeout=LONG)
    return made, shots


def test_a_place_that_does_not_answer_holds_up_nothing(
    later: tuple[Hand, list[Path]], qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    hand, shots = later
    answers = {path: threading.Event() for path in shots}
    whole = recent.looked_at

    def slow(places: Places, known: RecentShot) -> RecentShot:
        assert answers[known.path].wait(60)
        return whole(places, known)

    monkeypatch.setattr(recent, "looked_at", slow)
    hand.window.start_work.show()
    screen = hand.window.screens.start
    assert [s.path for s in listed(screen)] == shots[1:]
    assert all(s.state is PlaceState.LOOKING for s in listed(screen))
    answers[shots[2]].set()  # the last one answers first
    qtbot.waitUntil(lambda: listed(screen)[1].state is PlaceState.HERE, timeout=LONG)
    assert listed(screen)[0].state is PlaceState.LOOKING
    assert "Gull" in listed(screen)[1].said
    screen.search.setText("gull")
    assert [s.path for s in listed(screen)] == [shots[2]]
    QTest.keyClick(screen.search, Qt.Key.Key_Escape)
    assert hand.window.screens.on_stage  # also while two are being looked for
    for answer in answers.values():
        answer.set()


def test_one_that_is_gone_is_found_and_opened(
    later: tuple[Hand, list[Path]],
    qtbot: QtBot,
    monkeypatch: pytest.MonkeyPatch,
    tmp_path: Path,
) -> None:
    hand, shots = later
    moved = tmp_path / "elsewhere" / "nf_020.foxshot"
    shutil.copytree(shots[1].parent.parent / "cast", tmp_path / "cast")
    moved.parent.mkdir()
    shutil.move(shots[1], moved)
    hand.window.start_work.show()
    screen = hand.window.screens.start
    qtbot.waitUntil(lambda: listed(screen)[0].state is PlaceState.MOVED, timeout=LONG)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(moved), ""))
    hand.click(screen.list.viewport(), screen.list.rect_of(0).center())
    qtbot.waitUntil(lambda: hand.workspace.shots.path == moved, timeout=LONG)
    assert str(shots[1]) not in hand.workspace.settings.recent_shots
    assert hand.workspace.settings.recent_shots[0] == str(moved)
    assert hand.window.screens.on_stage


def test_enter_goes_on_with_the_last_and_it_can_be_skipped(
    later: tuple[Hand, list[Path]], qtbot: QtBot, open_window: OpenWindow
) -> None:
    hand, shots = later
    hand.workspace.save_settings()
    other = open_window()
    begin(other.window, Wish())
    screen = other.window.screens.start
    qtbot.waitUntil(lambda: "Marrow" in screen.last._said.text(), timeout=LONG)
    hand.click(screen.skip, QPoint(8, screen.skip.height() // 2))
    assert other.workspace.settings.opens == "last"
    QTest.keyClick(screen.last.button, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: other.workspace.shots.path == shots[0], timeout=LONG)
    third = open_window()
    begin(third.window, Wish())
    assert not third.window.screens.starting
    qtbot.waitUntil(lambda: third.workspace.shots.path == shots[0], timeout=LONG)


def test_other_shots_of_a_project_are_found_by_name(
    later: tuple[Hand, list[Path]], qtbot: QtBot
) -> None:
    hand, shots = later
    hand.window.start_work.show()
    screen = hand.window.screens.start
    qtbot.waitUntil(lambda: listed(screen)[0].state is PlaceState.HERE, timeout=LONG)
    screen.search.setText("ferry nf_030")
    assert [s.path.stem for s in listed(screen)] == ["nf_030"]
    screen.list.setFocus()
    screen.list.go_to(0)
    QTest.keyClick(screen.list, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: hand.workspace.shots.path == shots[0].with_stem("nf_030"), timeout=LONG)


def test_a_share_is_known_by_its_mount(tmp_path: Path) -> None:
    """Columns as proc(5) describes them: what, where, kind; spaces as octal."""
    mounts = tmp_path / "mounts"
    mounts.write_text(
        "/dev/sda1 / ext4 rw 0 0\nserver:/show /mnt/the\\040show nfs4 rw 0 0\n"
        "/dev/sdb1 /mnt/the\\040show/local xfs rw 0 0\n"
    )
    assert is_far(Path("/mnt/the show/ferry/a.foxshot"), mounts)
    assert not is_far(Path("/mnt/the show/local/a.foxshot"), mounts)
    assert not is_far(Path("/home/a.foxshot"), mounts)
