"""How it looks: contrast, nothing cut off, everything named."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QRect, Qt
from PySide6.QtWidgets import QAbstractButton, QLineEdit, QWidget

from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.session.libraries.request import Shown
from fox_hand.ui.browser.sheet_layout import lay_out_sheets
from fox_hand.ui.theme.tokens import TEXT_ON, THEMES, contrast
from fox_hand.ui.widgets.buttons import Button
from tests.ui.conftest import Hand, OpenWindow


def test_contrast_is_computed_as_the_guideline_says() -> None:
    """WCAG 2.2: black on white is 21:1; #777777 on white is 4.48:1 (W3C's own example)."""
    assert contrast("#000000", "#ffffff") == pytest.approx(21)
    assert contrast("#777777", "#ffffff") == pytest.approx(4.48, abs=0.005)


@pytest.mark.parametrize("pair", TEXT_ON, ids=lambda p: f"{p[0]} on {p[1]}")
@pytest.mark.parametrize("theme", THEMES)
def test_every_text_reaches_4_5_to_1_and_7_to_1_in_the_stronger(
    theme: str, pair: tuple[str, str]
) -> None:
    for tokens, wanted in zip(THEMES[theme], (4.5, 7.0), strict=True):
        assert contrast(getattr(tokens, pair[0]), getattr(tokens, pair[1])) >= wanted


def visible(window: QWidget, kind: type[QWidget]) -> list[QWidget]:
    return [w for w in window.findChildren(kind) if w.isVisible()]


@pytest.mark.parametrize("size", [(1024, 680), (1280, 800), (2560, 1440)])
def test_nothing_is_cut_off(hand: Hand, size: tuple[int, int]) -> None:
    window = hand.window
    window.resize(*size)
    if size[0] < 1200:
        window.columns.setSizes([size[0] - 257, 256])
    hand.qtbot.wait(60)
    hand.click_card("Wave")
    for step in ("mix", "capture"):
        if step == "capture":
            hand.workspace.keep_mix()
            window.workspace.capturing.ask()
        hand.qtbot.wait(60)
        for button in visible(window, QAbstractButton):
            assert isinstance(button, QAbstractButton)
            if window.capture.isAncestorOf(button) and not button.visibleRegion().isEmpty():
                continue  # rows of the scrolling list
            if window.capture.isAncestorOf(button):
                continue
            inside = QRect(QPoint(0, 0), window.size())
            place = QRect(button.mapTo(window, QPoint(0, 0)), button.size())
            assert inside.contains(place), button.accessibleName()
            if isinstance(button, Button):
                assert button.width() >= button.sizeHint().width(), button.text()
            shown = button.visibleRegion().boundingRect()
            assert shown.size() == button.size(), f"{step}: {button.accessibleName()} is covered"
        for a in (window.overlays.bars.left, window.overlays.bars.right):
            assert window.stage.rect().contains(a.geometry())
    footer = window.capture.save
    assert QRect(QPoint(0, 0), window.size()).contains(
        QRect(footer.mapTo(window, QPoint(0, 0)), footer.size())
    )


def test_a_tall_strip_takes_rows_of_sets_whole_and_never_cuts_one_through(hand: Hand) -> None:
    window, sets = hand.window, hand.window.figure_panel.sets
    window.resize(1024, 680)
    counts = set()
    for strip in range(120, 400, 12):
        window.columns.upright.setSizes([636 - strip, strip])
        hand.qtbot.wait(30)
        chips = [c for c in sets.findChildren(Button) if c.isVisibleTo(sets)]
        seen = [c for c in chips if not c.visibleRegion().isEmpty()]
        assert len(seen) >= 3  # a row stays in any case
        for chip in seen:
            assert chip.visibleRegion().boundingRect().height() == chip.height(), strip
        counts.add(len(seen))
    assert len(counts) > 1  # some of them did have to go


def test_everything_that_can_be_pressed_has_a_name(hand: Hand) -> None:
    hand.click_card("Wave")
    hand.workspace.keep_mix()
    hand.window.workspace.capturing.ask()
    for kind in (QAbstractButton, QLineEdit):
        for widget in hand.window.findChildren(kind):
            own = widget.objectName().startswith("qt_") or widget.parent() is None
            inner = isinstance(widget.parent(), QLineEdit)
            if not own and not inner and widget.parent() is not hand.window.figure_panel.channels:
                assert widget.accessibleName(), widget


def test_the_first_start_says_what_to_do(open_window: OpenWindow) -> None:
    hand = open_window()
    assert hand.window.overlays.empty.isVisible()
    assert "No library is open. Make one" in hand.window.sheets.view.empty_text
    hand.window.workspace.capturing.ask()
    assert "no figure on the stage" in hand.window.notice.text
    hand.click(hand.window.overlays.empty.demo, hand.window.overlays.empty.demo.rect().center())
    hand.qtbot.waitUntil(lambda: hand.workspace.actor is not None, timeout=60_000)
    assert not hand.window.overlays.empty.isVisible()


def test_the_tab_key_reaches_every_part_of_the_window(hand: Hand) -> None:
    window = hand.window
    seen = set()
    window.stage.setFocus()
    for _ in range(60):
        hand.key(Qt.Key.Key_Tab)
        seen.add(window.focusWidget())
    for widget in (
        window.stage,
        window.sheets.view,
        window.header.search_field,
        window.header.menu_button,
        window.sheets.head.capture_button,
        window.figure_panel.channels,
        window.overlays.bars.handles,
    ):
        assert widget in seen, widget.accessibleName()


def test_a_hundred_thousand_cards_are_laid_out_by_rows_in_sight() -> None:
    place, keys = OpenLibrary(1, Path("Own"), "Own"), np.arange(50_000)
    shown = [Shown(place, "A", "A", keys), Shown(place, "B", "B", keys + 50_000)]
    layout = lay_out_sheets(shown, 310, 68, True, {"Own/C"})
    assert layout.columns == 4
    assert len(list(layout.visible(200_000, 200_700))) < 60
    for section, place in ((0, 0), (1, 49_999), (0, 777)):
        x, y, width, height = layout.card_rect(section, place)
        assert layout.at(x + width // 2, y + height // 2) == (section, place)
        assert layout.at(x + width + 2, y + height // 2) != (section, place)
    assert layout.walk((0, 49_998), 4) == (1, 2)
    assert layout.walk((1, 2), -(10**9)) == (0, 0)
    assert layout.place_of(70_000) == (1, 20_000)
    assert layout.between((1, 1), (0, 49_998)) == [49_998, 49_999, 50_000, 50_001]
    folded = lay_out_sheets(shown, 310, 68, True, {"Own/A"})
    assert folded.height < layout.height / 1.9
    assert folded.at(40, 60) == (1, 0)
