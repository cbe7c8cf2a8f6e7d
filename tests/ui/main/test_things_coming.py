"""Files that are opened elsewhere or dropped: each is put to its use, which is said before."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDragLeaveEvent, QDropEvent
from PySide6.QtWidgets import QApplication

from fox_hand.session.runtime.door import Door, knock
from fox_hand.ui.main.choices.things_coming import take
from tests.ui.conftest import LONG, Hand

WHOLE = Path(__file__).parents[3] / "src" / "fox_hand" / "demo" / "night_ferry"
LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
COPY = Qt.DropAction.CopyAction


def files(*paths: Path) -> QMimeData:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    return data


def held(hand: Hand, data: QMimeData) -> str:
    """What is said while something is held over the window."""
    hint = hand.window._drop_hint
    event = QDragEnterEvent(QPoint(600, 300), COPY, data, LEFT, NONE)
    QApplication.sendEvent(hand.window, event)
    assert event.isAccepted()
    assert hint.isVisible()
    return hint.text()


def drop(hand: Hand, data: QMimeData) -> None:
    held(hand, data)
    QApplication.sendEvent(hand.window, QDropEvent(QPointF(600, 300), COPY, data, LEFT, NONE))


def test_what_a_drop_would_do_is_said_first(hand: Hand, tmp_path: Path) -> None:
    demo = WHOLE
    cards = sorted((demo / "library" / "Marrow" / "Hands").glob("*.foxcard"))[:3]
    (tmp_path / "a.wav").write_bytes(b"RIFF")
    (tmp_path / "a.obj").write_text("v 0 0 0")
    for paths, words in (
        ((demo / "shots" / "nf_020.foxshot",), "Opens the shot nf_020"),
        ((demo,), "Opens the project"),
        ((demo / "library",), "Opens the library"),
        ((demo / "cast" / "quill.glb",), "Brings quill.glb onto the stage"),
        ((demo / "drawings" / "ticket",), "Puts the drawings of ticket together"),
        ((demo / "drawings" / "ticket.ora",), "Puts the drawings of ticket.ora together"),
        ((tmp_path / "a.wav",), "a.wav is a sound"),
        ((tmp_path / "a.obj",), "does not open a.obj"),
        (tuple(cards), "Takes a copy of 3 cards into"),
        ((cards[0], demo / "shots" / "nf_020.foxshot"), "; Opens the shot nf_020"),
    ):
        assert words in held(hand, files(*paths))
    QApplication.sendEvent(hand.window, QDragLeaveEvent())
    assert not hand.window._drop_hint.isVisible()


def test_a_shot_that_is_dropped_opens_and_a_sound_says_why_not(hand: Hand, tmp_path: Path) -> None:
    (tmp_path / "a.wav").write_bytes(b"RIFF")
    drop(hand, files(tmp_path / "a.wav"))
    assert "no use for sounds" in hand.window.notice.text
    project = hand.workspace.places.data / "night-ferry"
    drop(hand, files(project / "shots" / "nf_020.foxshot"))
    hand.qtbot.waitUntil(lambda: hand.workspace.shots.name == "nf_020", timeout=LONG)
    assert not hand.window._drop_hint.isVisible()


def test_a_card_opened_elsewhere_is_shown_and_can_be_put_on(hand: Hand, tmp_path: Path) -> None:
    """By the door that a file manager knocks at."""
    wave = hand.entry("Wave").path
    lonely = tmp_path / "Lonely.foxcard"
    shutil.copy(wave, lonely)
    post = hand.window._services.bridge.post
    door = Door(tmp_path / "w.sock", post, lambda paths: take(hand.window.home, paths))
    notice = hand.window.notice
    try:
        assert knock(tmp_path / "w.sock", [wave])
        hand.qtbot.waitUntil(lambda: "Wave was opened" in notice.text, timeout=LONG)
        assert notice.action.text() == "Put it on"
        hand.click(notice.action, notice.action.rect().center())
        hand.wait_for_mix("Wave")
        hand.workspace.put_back()
        hand.window.start_work.show()
        assert knock(tmp_path / "w.sock", [lonely, tmp_path / "gone.foxcard"])
        hand.qtbot.waitUntil(lambda: "gone.foxcard is not there" in notice.text, timeout=LONG)
        assert hand.window.screens.on_stage
        assert knock(tmp_path / "w.sock", [lonely])
        hand.qtbot.waitUntil(lambda: "lies in no library" in notice.text, timeout=LONG)
        hand.click(notice.action, notice.action.rect().center())
        hand.wait_for_mix("Wave")
    finally:
        door.close()


@pytest.mark.parametrize("name", ["library.toml", "project.toml"])
def test_a_file_that_stands_for_its_folder_opens_the_folder(hand: Hand, name: str) -> None:
    project = hand.workspace.places.data / "night-ferry"
    path = next(project.rglob(name))
    take(hand.window.home, [path])
    if name == "project.toml":
        hand.qtbot.waitUntil(lambda: hand.workspace.shots.project is not None, timeout=LONG)
    else:
        assert "open already" in hand.window.notice.text
