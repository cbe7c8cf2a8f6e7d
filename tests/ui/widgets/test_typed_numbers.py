"""Numbers that are typed beyond what can be: the nearest counts, and it is said."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLineEdit

from fox_hand.session.figures.playhead import LONGEST
from fox_hand.ui.widgets.fields.number_field import NumberField
from tests.ui.conftest import LONG, Hand


def typed(hand: Hand, field: QLineEdit, text: str, end: Qt.Key = Qt.Key.Key_Return) -> str:
    """Type it; the sentence that the window says about it."""
    hand.window.notice.hide()
    field.setFocus()
    field.selectAll()
    hand.key(text)
    hand.key(end)
    notice = hand.window.notice
    return notice.text if notice.isVisible() else ""


def test_an_amount_beyond_the_card(hand: Hand) -> None:
    hand.click_card("Fist")
    hand.wait_for_mix("Fist")
    field = hand.window.overlays.mix_bar.amount
    assert "from -50 to 150 %; it is 150 % now" in typed(hand, field, "400", Qt.Key.Key_Tab)
    assert hand.workspace.mix.amount == pytest.approx(1.5)
    assert typed(hand, field, "70", Qt.Key.Key_Tab) == ""
    assert hand.workspace.mix.amount == pytest.approx(0.7)
    for nothing in ("nan", "inf", "much"):
        assert typed(hand, field, nothing, Qt.Key.Key_Tab) == ""
        assert hand.workspace.mix.amount == pytest.approx(0.7)
        assert field.text() == "70"


def test_a_number_of_a_block(hand: Hand) -> None:
    hand.press_card("Blink")
    placements = hand.workspace.placements
    hand.qtbot.waitUntil(lambda: placements.now is not None, timeout=LONG)
    bar = hand.window.overlays.lay_bar
    assert "Speed goes from 5 to 2000 %" in typed(hand, bar.speed.field, "1")
    assert placements.now.instance.speed == pytest.approx(0.05)
    assert "it is 48 now" in typed(hand, bar.lead.field, "1e9")
    assert typed(hand, bar.speed.field, "150 %") == ""
    assert placements.now.instance.speed == pytest.approx(1.5)
    for field in bar.findChildren(NumberField):  # and it is there to be read
        line = field.field.lineEdit()
        assert line.width() >= line.fontMetrics().horizontalAdvance(line.text()), field


def test_a_frame_and_a_range(hand: Hand) -> None:
    timing, tools = hand.workspace.timing, hand.window.timeline.tools
    assert f"it is {LONGEST} now" in typed(hand, tools.frame, "1e12")
    assert timing.frame == LONGEST
    for nothing in ("nan", "inf", "-inf", "soon"):
        assert typed(hand, tools.frame, nothing) == ""
        assert timing.frame == LONGEST
        assert tools.frame.text() == str(LONGEST)
    assert "it is 0 now" in typed(hand, tools.frame, "-99999999")
    assert timing.frame == 0


def test_a_setting_beyond_its_range(hand: Hand) -> None:
    rig, channels = hand.workspace.actor.rig, hand.window.figure_panel.channels
    hand.workspace.selection.set([rig.settings[rig.setting_row["lid_shut_L"]].control])
    hand.settle()
    number = next(i for i, r in enumerate(channels.rows) if r.first.kind is None)
    channels.edit_row(number)
    setting = rig.settings[channels.rows[number].first.axis]
    assert f"it is {setting.maximum:g} now" in typed(hand, channels._editor, "70")
    assert hand.workspace.actor.state.settings[channels.rows[number].first.axis] == setting.maximum
