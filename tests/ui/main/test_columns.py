"""Columns are hidden and change sides, and stand the same the next time."""

from __future__ import annotations

from PySide6.QtCore import Qt

from tests.ui.conftest import CTRL, LONG, Hand


def left_of(first: object, second: object) -> bool:
    at = [w.mapToGlobal(w.rect().topLeft()).x() for w in (first, second)]
    return at[0] < at[1]


def test_columns_are_hidden_exchanged_and_remembered(hand: Hand) -> None:
    window, stage = hand.window, hand.window.stage
    sheets, figure = window.columns.right, window.figure_panel
    wide = stage.width()
    assert left_of(figure, stage)
    assert left_of(stage, sheets)
    hand.key(Qt.Key.Key_F6)
    assert not figure.isVisible()
    hand.qtbot.waitUntil(lambda: stage.width() > wide + 200, timeout=LONG)
    hand.key(Qt.Key.Key_F7)
    assert not sheets.isVisible()
    window.workspace.capturing.ask()  # what is captured is needed, whatever was hidden
    hand.qtbot.waitUntil(window.capture.isVisible, timeout=LONG)
    window.workspace.capturing.cancel()
    assert not sheets.isVisible()
    hand.key("f", CTRL)  # whoever looks for a card wants to see it
    hand.qtbot.waitUntil(sheets.isVisible, timeout=LONG)
    window.actions_table["hide_figure"].run()
    window.actions_table["sheets_left"].run()
    hand.qtbot.waitUntil(lambda: left_of(sheets, figure), timeout=LONG)
    assert left_of(figure, stage)
    settings = window.workspace.settings
    assert (settings.figure_hidden, settings.sheets_hidden, settings.sheets_left) == (
        False,
        False,
        True,
    )
    widths = settings.figure_width, settings.sheets_width
    for _ in range(2):  # there and back, at the same widths
        window.actions_table["sheets_left"].run()
    assert (settings.figure_width, settings.sheets_width) == widths
