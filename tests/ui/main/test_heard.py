"""What is painted can be heard and used without seeing it; Tab goes round, Escape leads back."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QAccessible, QAccessibleInterface
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QWidget

from fox_hand.ui.widgets.amount_ruler import AmountRuler
from tests.ui.conftest import LONG, Hand, key_card

NAME, WORDS = QAccessible.Text.Name, QAccessible.Text.Description
ROOT = Path(__file__).parents[3]


def parts(widget: QWidget) -> dict[str, QAccessibleInterface]:
    """Children of a widget by name, as a screen reader is told of them."""
    whole = QAccessible.queryAccessibleInterface(widget)
    found = [whole.child(n) for n in range(whole.childCount())]
    return {part.text(NAME): part for part in found if part.isValid()}


def test_cards_are_heard_with_what_they_are_and_can_be_pressed(hand: Hand) -> None:
    view = hand.window.sheets.view
    heard = parts(view)
    assert heard["Marrow / Hands"].role() == QAccessible.Role.Heading
    assert "8 cards" in heard["Marrow / Hands"].text(WORDS)
    assert heard["Marrow / Hands"].state().expanded
    fist = heard["Fist"]
    assert fist.role() == QAccessible.Role.ListItem
    assert fist.text(WORDS).startswith("Left hand, 16 controls")
    assert fist.rect().topLeft() == view.viewport().mapToGlobal(
        view.rect_of(hand.entry("Fist")).topLeft()
    )
    assert not fist.state().checked
    view.choice.toggle(view.layout_now().place_of(view.open_libraries.key_in(hand.entry("Fist"))))
    hand.qtbot.waitUntil(
        lambda: "Fist" in parts(view) and bool(parts(view)["Fist"].state().checked), timeout=LONG
    )
    fist.actionInterface().doAction("Press")
    hand.wait_for_mix("Fist")
    hand.qtbot.waitUntil(
        lambda: "Fist" in parts(view) and bool(parts(view)["Fist"].state().selected), timeout=LONG
    )
    assert parts(view)["Fist"].valueInterface().currentValue() == 100.0
    heard["Marrow / Hands"].actionInterface().doAction("Press")  # folds the section
    hand.qtbot.waitUntil(lambda: "Fist" not in parts(view), timeout=LONG)
    assert not fist.isValid()


def test_controls_and_channels_are_heard_with_their_values(hand: Hand) -> None:
    window, workspace = hand.window, hand.workspace
    dots = window.figure_panel.figure
    hand.qtbot.waitUntil(lambda: dots.drawing is not None, timeout=LONG)
    for seen in (dots, window.stage):
        parts(seen)["Forearm, left"].actionInterface().doAction("Press")
        assert workspace.selection.rows == (hand.row("forearm_L"),)
        hand.qtbot.waitUntil(
            lambda seen=seen: bool(parts(seen)["Forearm, left"].state().selected), timeout=LONG
        )
        workspace.selection.clear()
    parts(dots)["the left hand"].actionInterface().doAction("Press")
    assert len(workspace.selection.rows) == 16
    workspace.selection.set([hand.row("forearm_L")])
    bend = parts(window.figure_panel.channels)["Forearm bend"]
    assert bend.role() == QAccessible.Role.SpinBox
    bend.valueInterface().setCurrentValue(40.0)
    assert hand.value("forearm_L") == pytest.approx(40.0)
    hand.qtbot.waitUntil(lambda: bend.text(WORDS) == "40.0°", timeout=LONG)
    assert workspace.history.undo_label == "Set Forearm bend"


def test_keys_and_rows_of_lists_are_heard(hand: Hand) -> None:
    key_card(hand, "Wave", 9)
    window, strip = hand.window, hand.window.timeline.strip
    heard = parts(strip)
    assert heard["Body"].role() == QAccessible.Role.RowHeader
    assert heard["Current frame"].valueInterface().currentValue() == 9.0
    heard["Current frame"].valueInterface().setCurrentValue(4.0)
    assert hand.workspace.timing.frame == 4.0
    heard["Wave at 9"].actionInterface().doAction("Press")
    assert hand.workspace.timing.frame == 9.0
    assert strip.picks
    window.screens.show_compare(hand.entry("Fist"))
    hand.qtbot.waitUntil(lambda: bool(window.screens.compare.list.rows), timeout=LONG)
    first = window.screens.compare.list.rows[0]
    rows = QAccessible.queryAccessibleInterface(window.screens.compare.list)
    assert rows.child(0).text(NAME).startswith(f"{first.label} {first.word}: ")
    ruler = AmountRuler(window.theme, (0.0, 1.0), (0.0,))
    assert QAccessible.queryAccessibleInterface(ruler).role() == QAccessible.Role.Slider


def test_tab_goes_round_all_parts_whatever_was_made_last(hand: Hand) -> None:
    window = hand.window
    hand.click_card("Fist")
    window.header.project_button.setFocus()
    order = [
        window.header,
        window.figure_panel.figure,
        window.figure_panel.channels,
        window.stage,
        window.overlays.mix_bar,
        window.timeline,
        window.sheets,
    ]

    def part_of(widget: QWidget) -> int:
        """The last of the parts that it lies in, as some lie in others."""
        inside = [n for n, p in enumerate(order) if p is widget or p.isAncestorOf(widget)]
        return inside[-1] if inside else -1

    passed, stops = list[int](), 0
    while stops == 0 or window.focusWidget() is not window.header.project_button:
        part = part_of(window.focusWidget())
        if part >= 0 and (not passed or passed[-1] != part):
            passed.append(part)
        QTest.keyClick(window.focusWidget(), Qt.Key.Key_Tab)
        stops += 1
        assert stops < 200
    # the stage's own bars and the mix bar both lie on the stage
    assert passed == sorted(passed)
    assert set(passed) == set(range(len(order)))
    QTest.keyClick(window.focusWidget(), Qt.Key.Key_Backtab)
    assert part_of(window.focusWidget()) == len(order) - 1


def test_escape_leads_back_to_where_one_was(hand: Hand) -> None:
    window = hand.window
    view = window.sheets.view
    view.setFocus()
    view.make_current(view.layout_now().place_of(view.open_libraries.key_in(hand.entry("Fox"))))
    window.screens.show_pairs()
    assert window.focusWidget() is not view
    hand.key(Qt.Key.Key_Escape)
    assert window.focusWidget() is view
    hand.key("g")  # typing finds
    assert window.focusWidget() is window.header.search_field
    hand.key(Qt.Key.Key_Escape)  # the word goes
    hand.key(Qt.Key.Key_Escape)
    assert window.focusWidget() is view
    assert view.current_entry().name == "Fox"


@pytest.fixture
def heard(tmp_path: Path) -> Iterator[dict[str, list[dict[str, object]]]]:
    """The window as the accessibility bus has it."""
    places = ("/usr/libexec/at-spi-bus-launcher", "/usr/lib/at-spi2-core/at-spi-bus-launcher")
    if shutil.which("dbus-run-session") is None or not any(Path(p).is_file() for p in places):
        pytest.skip("there is no accessibility bus here (packages dbus and at-spi2-core)")
    if not os.environ.get("DISPLAY"):
        pytest.skip("there is no screen here for a window on the accessibility bus")
    environment = {k: v for k, v in os.environ.items() if not k.startswith("QT_QPA")}
    environment |= {"PYTHONPATH": f"{ROOT / 'src'}{os.pathsep}{ROOT}"}
    found = tmp_path / "heard.json"
    script = [sys.executable, "-m", "tests.ui.main.heard_by_bus", str(tmp_path), str(found)]
    said = subprocess.run(
        ["dbus-run-session", "--", *script],
        cwd=ROOT,
        env=environment,
        capture_output=True,
        text=True,
        check=False,
        timeout=150,
    )
    assert said.returncode == 0, said.stderr[-2000:]
    yield json.loads(found.read_text("utf-8"))


def test_a_screen_reader_finds_it_all_on_the_bus(
    heard: dict[str, list[dict[str, object]]],
) -> None:
    by_name = {(h["role"], h["name"]): h for h in heard["before"]}
    assert ("list item", "Fist") in by_name
    assert ("list item", "Forearm, left") in by_name
    assert ("heading", "Marrow / Hands") in by_name
    assert ("push button", "the left hand") in by_name
    assert by_name["spin box", "Forearm bend"]["value"] == pytest.approx(0.0, abs=1e-6)
    assert ("row header", "Body") in by_name
    fist, bend = heard["after"]
    assert fist["selected"]
    assert bend["value"] == pytest.approx(40.0)
