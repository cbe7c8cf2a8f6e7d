"""What stands on the screen before the window is built."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QImage
from pytestqt.qtbot import QtBot

from fox_hand.base.early_settings import early_settings
from fox_hand.base.places import Places
from fox_hand.ui.main.showing.screen_set import NAMES
from fox_hand.ui.services import first_frame, screen_sizes
from fox_hand.ui.services.first_frame import HEADER, STRIP, FirstFrame
from fox_hand.ui.theme.tokens import THEMES
from tests.ui.conftest import LONG, Hand, OpenWindow


@pytest.fixture
def home(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Path]:
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))
    early_settings.cache_clear()
    yield tmp_path
    early_settings.cache_clear()


def painted(qtbot: QtBot, settings: Any) -> QImage:
    config = Places.of_user().config
    config.mkdir(parents=True, exist_ok=True)
    (config / "settings.json").write_text(json.dumps(settings))
    early_settings.cache_clear()
    frame = FirstFrame()
    qtbot.addWidget(frame)
    frame.resize(1280, 800)
    return frame.grab().toImage()


@pytest.mark.usefixtures("home")
def test_columns_strip_and_theme_are_where_the_window_will_have_them(qtbot: QtBot) -> None:
    panel = QColor(THEMES["paper"][False].panel)
    picture = painted(qtbot, {"theme": "paper", "figure_width": 300, "sheets_hidden": True})
    assert picture.pixelColor(299, 400) == panel
    assert picture.pixelColor(301, 400) != panel
    assert picture.pixelColor(1270, 400) != panel
    assert picture.pixelColor(640, 800 - STRIP + 2) == panel
    assert picture.pixelColor(640, HEADER - 2) == QColor(THEMES["paper"][False].window)
    picture = painted(qtbot, {"theme": "paper", "sheets_left": True, "strip_height": 90})
    assert picture.pixelColor(400, 400) == panel  # both columns at the left
    assert picture.pixelColor(640, 800 - 92) != panel


HOSTILE: list[Any] = [
    {"window": "\ud800\u00e4", "theme": "pink", "figure_width": -(10**30), "strip_height": 10**30},
    {"window": 7, "theme": [], "sheets_width": 10**30, "strip_height": -5, "stronger": "yes"},
    ["not", "an", "object"],
]


@pytest.mark.parametrize("settings", HOSTILE)
@pytest.mark.usefixtures("home")
def test_settings_of_nonsense_still_give_a_frame(qtbot: QtBot, settings: Any) -> None:
    picture = painted(qtbot, settings)
    assert picture.pixelColor(640, HEADER - 2) == QColor(THEMES["dusk"][False].window)


def test_screens_are_built_when_they_are_needed_or_in_turns_at_rest(hand: Hand) -> None:
    screens = hand.window.screens
    assert [name for name in NAMES if screens.is_built(name)] == []
    hand.window.screens.show_pairs()
    assert (screens.now, [name for name in NAMES if screens.is_built(name)]) == ("pairs", ["pairs"])
    screens._build_next()  # not behind somebody's back
    assert not screens.is_built("manual")
    hand.key(Qt.Key.Key_Escape)
    assert screens.now == ""
    screens.build_in_turns()
    hand.qtbot.waitUntil(lambda: all(map(screens.is_built, NAMES)), timeout=LONG)
    assert screens.now == ""
    assert screens.pairs.undo_button.toolTip() == "Undo (Ctrl+Z)"  # as ever


def test_sizes_are_remembered_for_each_set_of_screens(
    open_window: OpenWindow, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot, places: Places
) -> None:
    """A laptop at home on a large screen, and alone: each as it was there last."""
    there = ["1400x900@1"]
    for module in (first_frame, screen_sizes):
        monkeypatch.setattr(module, "screens_there", lambda: there[0])
    for screens, figure in (("1400x900@1", 301), ("1400x900@1 2560x1440@2", 262)):
        there[0] = screens
        hand = open_window()
        hand.workspace.settings.figure_width = figure
        hand.window.close()
    monkeypatch.setattr(Places, "of_user", lambda: places)
    for screens, figure in (("1400x900@1", 301), ("1400x900@1 2560x1440@2", 262), ("else", 262)):
        there[0] = screens
        early_settings.cache_clear()
        frame = FirstFrame()
        qtbot.addWidget(frame)
        frame.resize(1280, 800)
        picture = frame.grab().toImage()
        assert picture.pixelColor(figure - 1, 400) == QColor(THEMES["dusk"][False].panel)
        assert picture.pixelColor(figure + 1, 400) != QColor(THEMES["dusk"][False].panel)
        hand = open_window()
        assert hand.workspace.settings.figure_width == figure
        hand.window.close()
    early_settings.cache_clear()
