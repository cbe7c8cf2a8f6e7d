"""The cast by its menus: one more, another prefix, off the stage; cards on all copies of a rig."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QInputDialog

from fox_hand.core.maths.rotations import angle_between
from fox_hand.session.figures.figure import Figure
from tests.ui.conftest import CTRL, LONG, SHIFT, Hand, choose


def ask(hand: Hand, member: Figure, *words: str) -> None:
    """An entry of the menu of somebody's tab."""
    tabs = hand.window.header.cast
    tab = tabs.tab_of(member)
    tab.menu_asked.emit(tab.mapToGlobal(QPoint(10, 10)))
    choose(hand.window, *words)


def prefixes(hand: Hand) -> list[str]:
    return [a.prefix for a in hand.workspace.cast.actors]


@pytest.fixture
def twins(hand: Hand) -> Hand:
    """Marrow, Pim, and one more Marrow, the first one acting."""
    marrow = hand.workspace.actor
    ask(hand, marrow, "One more")
    hand.qtbot.waitUntil(lambda: len(hand.workspace.cast.actors) == 3, timeout=LONG)
    hand.workspace.act(marrow)
    return hand


def test_one_more_of_a_rig_has_a_prefix_of_its_own_that_can_be_changed(
    twins: Hand, monkeypatch: pytest.MonkeyPatch
) -> None:
    hand = twins
    assert len(set(prefixes(hand))) == 3
    second = hand.workspace.cast.actors[2]
    first = second.prefix
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("brother", True))
    ask(hand, second, "Prefix")
    assert second.prefix == "brother"
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("pim", True))
    ask(hand, second, "Prefix")
    assert len(set(prefixes(hand))) == 3  # pim is somebody else's
    for _ in range(2):
        hand.key("z", CTRL)
    assert second.prefix == first


def test_who_is_taken_off_comes_back_standing_as_before(twins: Hand) -> None:
    hand, second = twins, twins.workspace.cast.actors[2]
    hand.workspace.act(second)
    hand.click_card("Crouch")
    hand.workspace.keep_mix()
    stood = second.state
    ask(hand, second, "Take off")
    assert len(hand.workspace.cast.actors) == 2
    assert hand.workspace.actor is not second
    hand.key("z", CTRL)
    hand.qtbot.waitUntil(lambda: len(hand.workspace.cast.actors) == 3, timeout=LONG)
    back = next(a for a in hand.workspace.cast.actors if a.prefix == second.prefix)
    assert back.state.same_bits(stood)


def test_a_card_goes_on_all_copies_only_when_asked_and_is_one_step(twins: Hand) -> None:
    hand = twins
    one, pim, other = hand.workspace.cast.actors
    before = [a.state for a in (one, pim, other)]
    hand.click_card("Fist")
    row = one.rig.control_row["finger_index_2_L"]
    assert other.state is before[2]
    more = hand.window.overlays.mix_bar.choices.more
    hand.click(more, more.rect().center())
    choose(hand.window, "All 2 of Marrow")
    hand.workspace.mix.set_amount(0.5)
    assert np.array_equal(other.state.turn[row], one.state.turn[row])
    assert angle_between(other.state.turn[row], before[2].turn[row]) > 0.3
    assert pim.state is before[1]
    hand.workspace.keep_mix()
    kept = [a.state for a in (one, other)]
    hand.key("z", CTRL)
    assert [a.state.same_bits(b) for a, b in zip((one, other), before[::2], strict=True)] == [
        True,
        True,
    ]
    hand.key("z", CTRL | SHIFT)
    assert [a.state.same_bits(b) for a, b in zip((one, other), kept, strict=True)] == [True, True]


def test_a_card_moves_over_to_another_character(hand: Hand) -> None:
    marrow, pim = hand.workspace.cast.actors
    stood = marrow.state
    hand.click_card("Fist")
    more = hand.window.overlays.mix_bar.choices.more
    hand.click(more, more.rect().center())
    choose(hand.window, "Pim")
    hand.qtbot.waitUntil(
        lambda: hand.workspace.actor is pim and hand.workspace.mix is not None, timeout=LONG
    )
    assert marrow.state.same_bits(stood)  # it did not stay on the first
    row = pim.rig.control_row["finger_index_2_L"]
    assert angle_between(pim.state.turn[row], pim.rig.rest.turn[row]) > 0.3


def test_a_crowded_cast_keeps_its_faces_whole_and_the_others_in_a_menu(hand: Hand) -> None:
    pim = next(a for a in hand.workspace.cast.actors if a.prefix == "pim")
    for count in range(3, 11):
        hand.window.opener.open_rig(pim.path)
        hand.qtbot.waitUntil(lambda n=count: len(hand.workspace.cast.actors) == n, timeout=LONG)
    hand.window.resize(1024, 680)
    cast = hand.window.header.cast
    hand.qtbot.waitUntil(cast.more.isVisible, timeout=LONG)

    def whole() -> bool:
        """They are laid out in turns after the window was made smaller."""
        shown = [tab for tab in cast.tabs if tab.isVisible()]
        edges = [tab.geometry() for tab in shown] + [cast.more.geometry()]
        apart = all(a.right() < b.left() for a, b in itertools.pairwise(edges))
        wide = all(tab.width() >= tab.sizeHint().width() for tab in shown)
        return 2 <= len(shown) < 10 and apart and wide and edges[-1].right() <= cast.width()

    hand.qtbot.waitUntil(whole, timeout=LONG)
    hidden = next(tab.member for tab in cast.tabs if not tab.isVisible())
    hand.click(cast.more, cast.more.rect().center())
    choose(hand.window, hidden.name)
    assert hand.workspace.actor is hidden
    hand.qtbot.waitUntil(cast.tab_of(hidden).isVisible, timeout=LONG)
    hand.settle()
    picture = hand.window.stage.pictures.latest
    assert picture is not None
    assert len(picture.view.figures) == 10
    hand.window.resize(1280, 800)
