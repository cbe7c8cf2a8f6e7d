"""The mix with keys alone, with weights by region, and in a narrow window."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QWidget

from fox_hand.core.maths.rotations import angle_between
from fox_hand.core.model.controls import Region
from fox_hand.session.applying.application import Part, Way
from tests.ui.apply.test_mix_bar import add_card, turned
from tests.ui.conftest import LONG, SHIFT, Hand, choose

LEFT, RIGHT = Qt.Key.Key_Left, Qt.Key.Key_Right


@pytest.fixture
def faces(hand: Hand) -> Hand:
    """Glad, Surprised and Sad on one face."""
    hand.click_card("Glad")
    add_card(hand, "Surprised")
    add_card(hand, "Sad")
    return hand


def focus(hand: Hand, widget: QWidget) -> None:
    """Give the keyboard to a widget as soon as it is in sight; rows are made anew with the mix."""
    hand.qtbot.waitUntil(widget.isVisible, timeout=LONG)
    widget.setFocus()


def wholes(hand: Hand) -> list[float]:
    return [w.whole for w in hand.workspace.mix.weights]


def test_the_pad_and_the_sliders_go_by_keys(faces: Hand) -> None:
    hand, weights = faces, faces.window.overlays.mix_bar.weights
    focus(hand, weights.pad)
    middle = hand.workspace.mix.pad_at
    hand.key(LEFT)
    hand.key(Qt.Key.Key_Up, SHIFT)
    assert hand.workspace.mix.pad_at == pytest.approx((middle[0] - 0.05, middle[1] - 0.01))
    for _ in range(30):
        hand.key(RIGHT)
        hand.key(Qt.Key.Key_Down)
    assert hand.workspace.mix.pad_at == (1.0, 1.0)  # and no further
    assert sum(wholes(hand)) == pytest.approx(1.0, abs=1e-3)
    slider = weights.sliders[0]
    focus(hand, slider)
    hand.key(Qt.Key.Key_End)
    assert wholes(hand) == pytest.approx([1.0, 0.0, 0.0], abs=1e-3)
    hand.key(LEFT)
    hand.key(LEFT, SHIFT)
    assert wholes(hand)[0] == pytest.approx(0.94, abs=1e-3)
    assert sum(wholes(hand)) == pytest.approx(1.0, abs=1e-3)
    hand.key(Qt.Key.Key_Home)
    assert wholes(hand)[0] == 0.0
    y = slider.height() // 2
    path = [QPoint(round(slider.x_of(v)), y) for v in (0.1, 0.4, 0.7)]
    hand.drag(slider, path)
    assert wholes(hand)[0] == pytest.approx(0.7, abs=0.02)
    assert "sum 100 %" in weights._sum.text()


def test_cards_are_taken_out_with_the_keyboard_which_goes_on_at_the_next(faces: Hand) -> None:
    hand, weights = faces, faces.window.overlays.mix_bar.weights
    add_card(hand, "Angry")
    names = [one.card.name for one in hand.workspace.mix.cards]
    focus(hand, weights.drops[1])
    hand.key(Qt.Key.Key_Space)
    assert [one.card.name for one in hand.workspace.mix.cards] == [names[0], *names[2:]]
    assert hand.window.focusWidget() is weights.drops[1]
    hand.key(Qt.Key.Key_Space)
    assert [one.card.name for one in hand.workspace.mix.cards] == [names[0], names[3]]
    assert hand.window.focusWidget() is weights.drops[1]


def test_each_for_itself_until_they_are_to_add_up_again(faces: Hand) -> None:
    hand, weights = faces, faces.window.overlays.mix_bar.weights
    before = hand.workspace.actor.state
    hand.click(weights.together, QPoint(8, 12))
    for slider, key in zip(weights.sliders, (Qt.Key.Key_End, Qt.Key.Key_End, LEFT), strict=True):
        focus(hand, slider)
        hand.key(key)
    assert wholes(hand)[:2] == [1.0, 1.0]
    assert weights._sum.text() == "each for itself"
    assert not hand.workspace.actor.state.same_bits(before)
    hand.click(weights.together, QPoint(8, 12))
    assert sum(wholes(hand)) == pytest.approx(1.0, abs=1e-3)
    assert wholes(hand)[0] == pytest.approx(wholes(hand)[1], abs=1e-3)


def test_one_region_has_weights_of_its_own(faces: Hand) -> None:
    hand, weights = faces, faces.window.overlays.mix_bar.weights
    rig = hand.workspace.actor.rig
    eyes = [s for s, x in enumerate(rig.settings) if rig.controls[x.control].region is Region.EYES]
    mouth = [
        s for s, x in enumerate(rig.settings) if rig.controls[x.control].region is Region.MOUTH
    ]
    assert eyes and mouth
    even = hand.workspace.actor.state.settings.copy()
    hand.click(weights.where, weights.where.rect().center())
    choose(hand.window, "Mouth")
    assert weights.where.text() == "Mouth"
    slider = weights.sliders[2]
    focus(hand, slider)
    hand.key(Qt.Key.Key_End)
    after = hand.workspace.actor.state.settings
    assert np.array_equal(after[eyes], even[eyes])  # the eyes stay an even mix
    assert np.abs(after[mouth] - even[mouth]).max() > 0.05
    values = [label.text() for label in weights._values]
    assert values[2] == "100 %"
    hand.click(weights.where, weights.where.rect().center())
    choose(hand.window, "Everywhere")
    assert [label.text() for label in weights._values] == ["33 %"] * 3
    hand.workspace.put_back()
    assert hand.workspace.mix is None


def test_choices_go_by_keys_over_what_cannot_be_chosen_now(hand: Hand) -> None:
    hand.click_card("Wave")
    part = hand.window.overlays.mix_bar.choices.part
    focus(hand, part.segments)
    hand.key(RIGHT)  # nothing is selected, so "selected" is passed over
    assert hand.workspace.mix.part is Part.REGIONS
    hand.key(RIGHT)
    assert hand.workspace.mix.part is Part.REGIONS
    hand.key(LEFT)
    assert hand.workspace.mix.part is Part.ALL


def test_in_a_narrow_window_choices_are_menus_that_do_the_same(hand: Hand) -> None:
    hand.click_card("Fist")
    own = turned(hand)
    state = hand.workspace.actor.state
    hand.window.resize(1024, 680)
    choices = hand.window.overlays.mix_bar.choices
    hand.qtbot.waitUntil(choices.side.button.isVisible, timeout=LONG)
    hand.click(choices.side.button, choices.side.button.rect().center())
    choose(hand.window, "Other")
    assert turned(hand) == {n.replace("_L", "_R") for n in own}
    assert choices.side.button.text() == "Other"
    hand.click(choices.side.button, choices.side.button.rect().center())
    choose(hand.window, "As captured")
    hand.click(choices.way.button, choices.way.button.rect().center())
    choose(hand.window, "On top")
    assert hand.workspace.mix.how.way is Way.ON_TOP
    hand.click(choices.way.button, choices.way.button.rect().center())
    choose(hand.window, "Replace")
    assert angle_between(hand.workspace.actor.state.turn, state.turn).max() < 1e-9
