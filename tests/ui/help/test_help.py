"""What people see when something went wrong, and what they can hand to whoever helps."""

from __future__ import annotations

import os
import sys
import threading
from pathlib import Path

import pytest
from PySide6.QtWidgets import QApplication

from fox_hand.__main__ import faults_told
from fox_hand.base.system.log import start_log
from fox_hand.render import renderer as renderer_module
from fox_hand.render.renderer import Renderer
from fox_hand.ui.help.about import AboutSheet
from tests.ui.conftest import LONG, Hand, OpenWindow, choose


def test_about_has_versions_licences_and_details_to_copy(open_window: OpenWindow) -> None:
    hand = open_window()
    button = hand.window.header.menu_button
    hand.click(button, button.rect().center())
    choose(hand.window, "About")
    sheet = hand.window.findChild(AboutSheet)
    hand.qtbot.waitUntil(sheet.isVisible, timeout=LONG)
    hand.click(sheet.pages, sheet.pages.rect().center() + sheet.pages.rect().topRight() / 4)
    for part in ("Apache License 2.0", "SIL OPEN FONT LICENSE", "ISC", "PySide6_Essentials"):
        assert part in sheet.text.toPlainText()
    hand.click(sheet.copied, sheet.copied.rect().center())
    copied = QApplication.clipboard().text()
    assert copied.startswith("Fox Hand: 0.1.0\n")
    assert "\nScreens: " in copied
    sheet.close()


def test_a_fault_is_told_calmly_written_down_and_names_no_files(
    open_window: OpenWindow, tmp_path: Path
) -> None:
    hand = open_window()
    files = start_log(tmp_path / "log")
    notice, bridge = hand.window.notice, hand.window._services.bridge

    film = "/home/ines/the secret film.glb"

    def fail() -> None:
        raise RuntimeError(f"no {film!r}")

    def through_the_hook() -> None:
        try:
            fail()
        except RuntimeError as error:
            sys.excepthook(type(error), error, error.__traceback__)

    with faults_told(hand.window, bridge):
        through_the_hook()
        hand.qtbot.waitUntil(lambda: "should not have" in notice.text, timeout=LONG)
        notice.hide()
        thread = threading.Thread(target=fail)
        thread.start()
        thread.join()
        hand.qtbot.waitUntil(notice.isVisible, timeout=LONG)
    assert notice.action.isVisible()
    assert notice.action.text() == "Copy details"
    hand.click(notice.action, notice.action.rect().center())
    log = files.log.read_text()
    assert log.count("\nRuntimeError: no …") == 2
    assert "help/test_help.py" in log
    assert "ines" not in log.replace("lines", "")
    assert "copied" in notice.text
    assert not notice.action.isVisible()


def test_drawing_that_was_given_up_is_tried_again_when_asked(
    hand: Hand, renderer: Renderer, monkeypatch: pytest.MonkeyPatch
) -> None:
    notice = hand.window.notice
    monkeypatch.setattr(renderer_module, "LAUNCH", "raise SystemExit(3)")
    assert renderer.process_id is not None
    os.kill(renderer.process_id, 9)
    stage = hand.window.stage
    stage.look_from(0.4, 0.1, None, 1.2)
    stage.look_from(0.9, 0.1, None, 1.2)
    hand.qtbot.waitUntil(lambda: "3 times in a row" in notice.text, timeout=LONG)
    assert notice.action.text() == "Try again"
    monkeypatch.undo()
    hand.click(notice.action, notice.action.rect().center())
    hand.settle()
    assert hand.window.stage.pictures.latest is not None
