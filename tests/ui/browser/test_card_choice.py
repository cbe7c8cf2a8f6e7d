"""Ticks and the current card stay with their cards, whatever is shown; without Qt."""

from __future__ import annotations

import subprocess
import sys
from types import SimpleNamespace

import numpy as np

from fox_hand.session.libraries.request import Shown
from fox_hand.ui.browser.card_choice import FAR, CardChoice
from fox_hand.ui.browser.sheet_layout import lay_out_sheets


def shown(*sections: list[int], closed: tuple[str, ...] = ()) -> CardChoice:
    choice = CardChoice()
    show(choice, *sections, closed=closed)
    return choice


def show(choice: CardChoice, *sections: list[int], closed: tuple[str, ...] = ()) -> None:
    place = SimpleNamespace(name="Lib", number=0)
    made = [
        Shown(place, f"S{n}", f"S{n}", np.array(keys, dtype=np.int64))  # type: ignore[arg-type]
        for n, keys in enumerate(sections)
    ]
    choice.show(lay_out_sheets(made, 300, 68, True, closed))
    choice.forget_gone(made)


def test_ranges_are_ticked_with_shift_over_sections_but_not_over_folded_ones() -> None:
    choice = shown([1, 2, 3], [4, 5], [6, 7], closed=("Lib/S1",))
    choice.toggle((0, 1))
    choice.tick_to((2, 0))
    assert choice.ticked == {2, 3, 6}
    choice.tick_to((0, 0))  # from the same beginning, the other way, and more is kept
    assert choice.ticked == {1, 2, 3, 6}
    choice.tick_all()
    assert choice.ticked == {1, 2, 3, 4, 5, 6, 7}
    choice.toggle((0, 0))
    assert choice.chosen() == [2, 3, 4, 5, 6, 7]
    assert choice.together_with((0, 1)) == [2, 3, 4, 5, 6, 7]
    assert choice.together_with((0, 0)) == [1]  # not among the ticked: it alone


def test_walking_with_shift_ticks_to_and_fro_from_where_it_began() -> None:
    choice = shown([1, 2, 3, 4])
    choice.go((0, 1))
    choice.walk_and_tick(1)
    choice.walk_and_tick(1)
    assert choice.ticked == {2, 3, 4}
    choice.walk_and_tick(-1)
    assert choice.ticked == {2, 3}
    choice.walk(FAR)
    assert choice.current_key == 4
    choice.walk(-FAR)
    assert (choice.current_key, choice.ticked) == (1, {2, 3})


def test_what_is_shown_otherwise_keeps_its_ticks_and_its_place() -> None:
    choice, heard = shown([1, 2, 3], [4]), list[set[int]]()
    choice.ticked_changed.connect(lambda: heard.append(set(choice.ticked)))
    choice.go((0, 2))
    choice.set_ticked([1, 4])
    show(choice, [4, 3])  # filtered, and in another order
    assert (choice.current, choice.current_key) == ((0, 1), 3)
    assert heard == [{1, 4}, {4}]
    show(choice, [9])
    assert (choice.current, choice.chosen()) == (None, [])
    assert not shown().walk(1)


def test_it_needs_no_toolkit() -> None:
    code = "import sys, fox_hand.ui.browser.card_choice; print('PySide6' in sys.modules)"
    said = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert said.stdout.strip() == "False"
