"""Undo that fails loses nothing."""

from __future__ import annotations

from dataclasses import dataclass, field

import pytest

from fox_hand.session.runtime.draft_history import DraftHistory
from fox_hand.session.runtime.history import SMALL, History, StepsTogether, size_of


@dataclass
class Deed:
    """A step on a list that can be told to fail."""

    label: str
    done: list[str]
    fails: list[bool] = field(default_factory=lambda: [False])

    def undo(self) -> None:
        if self.fails[0]:
            raise OSError("the share is away")
        self.done.remove(self.label)

    def redo(self) -> None:
        if self.fails[0]:
            raise OSError("the share is away")
        self.done.append(self.label)


def test_an_undo_or_redo_that_fails_can_be_tried_again() -> None:
    done, history = ["one", "two"], History()
    one, two = Deed("one", done), Deed("two", done)
    history.push(one)
    history.push(two)
    two.fails[0] = True
    with pytest.raises(OSError, match="away"):
        history.undo()
    assert (history.undo_label, done) == ("two", ["one", "two"])
    two.fails[0] = False
    assert history.undo()
    assert (history.undo_label, history.redo_label, done) == ("one", "two", ["one"])
    two.fails[0] = True
    with pytest.raises(OSError, match="away"):
        history.redo()
    assert (history.redo_label, done) == ("two", ["one"])
    two.fails[0] = False
    assert history.redo()
    assert done == ["one", "two"]
    assert history.redo_label is None


@dataclass
class Heavy(Deed):
    """A step that says how much it holds."""

    nbytes: object = 1000


def labels(history: History) -> list[str]:
    """All steps from the oldest on, found by undoing everything."""
    found = []
    while history.undo():
        found.append(history.redo_label)
    while history.redo():
        pass
    return found[::-1]


def test_only_so_many_steps_and_so_much_memory_are_kept_and_the_last_always() -> None:
    done: list[str] = []

    def filled(history: History, count: int, size: object) -> History:
        done.clear()
        for number in range(count):
            done.append(str(number))
            history.push(Heavy(str(number), done, nbytes=size))
        return history

    assert labels(filled(History(keep=3), 5, 1)) == ["2", "3", "4"]
    assert labels(filled(History(most=2500), 5, 1000)) == ["3", "4"]
    assert labels(filled(History(most=3000), 5, 1000)) == ["2", "3", "4"]
    assert labels(filled(History(most=10), 3, 1000)) == ["2"]
    # a step that says nothing of its size, or nonsense, counts as a small one
    assert size_of(Deed("a", done)) == size_of(Heavy("a", done, nbytes="much")) == SMALL
    assert size_of(Heavy("a", done, nbytes=70)) == 70
    both = StepsTogether("both", (Heavy("a", done, nbytes=70), Heavy("b", done, nbytes=30)))
    assert size_of(both) == 100


def test_what_was_undone_is_forgotten_by_the_next_step() -> None:
    done, history, heard = ["one", "two"], History(), []
    history.changed.connect(lambda: heard.append(1))
    assert not history.undo() and not history.redo() and not heard
    assert history.undo_step is None and history.redo_step is None
    assert history.undo_label is None and history.redo_label is None
    one, two = Deed("one", done), Deed("two", done)
    history.push(one)
    history.push(two)
    assert history.undo() and history.redo_step is two and history.undo_step is one
    done.append("three")
    three = Deed("three", done)
    history.push(three)
    assert history.redo_step is None and labels(history) == ["one", "three"]
    history.drop(one)
    history.drop(two)  # it is not in it any more
    assert labels(history) == ["three"] and history.undo_step is three
    history.undo()
    history.drop(three)
    assert history.redo_step is None and history.undo_step is None
    history.push(one)
    history.clear()
    assert history.undo_step is None and len(heard) > 8


def test_a_step_that_failed_beside_the_window_is_the_next_again() -> None:
    done: list[str] = ["one", "two"]
    one, two = Deed("one", done), Deed("two", done)
    history = History()
    history.push(one)
    history.push(two)
    history.undo()
    done.append("two")
    history.again(two, undo=True)  # its undo did not work after all
    assert history.undo_step is two and history.redo_step is None
    history.undo()
    history.redo()
    done.remove("two")
    history.again(two, undo=False)  # its redo did not
    assert history.redo_step is two and history.undo_step is one
    part = Deed("part", done)
    history.again(part, undo=True)
    assert history.undo_step is part and history.redo_step is two


def test_steps_together_go_back_in_turn_and_stand_where_the_last_stands() -> None:
    done = ["one", "two"]
    both = StepsTogether("both", (Deed("one", done), Deed("two", done)))
    order: list[str] = []

    class Told(Deed):
        frame = 12.0

        def undo(self) -> None:
            order.append(self.label)

    both.undo()
    assert done == []
    both.redo()
    assert done == ["one", "two"] and both.frame is None
    told = StepsTogether("told", (Told("a", done), Told("b", done)))
    told.undo()
    assert order == ["b", "a"] and told.frame == 12.0


def test_a_draft_goes_back_and_on_and_typed_letters_are_one_step() -> None:
    draft = DraftHistory("")
    assert not draft.can_undo and not draft.can_redo and not draft.go(-1) and not draft.go(1)
    assert not draft.say("") and draft.now == ""
    for text in ("f", "fi", "fist"):
        assert draft.say(text, joined="name")
    assert draft.say("fist, left")
    assert draft.go(-1) and draft.now == "fist" and draft.can_redo
    assert draft.go(-1) and draft.now == "" and not draft.can_undo
    assert draft.go(1) and draft.go(1) and draft.now == "fist, left" and not draft.can_redo
    draft.go(-1)
    assert draft.say("flat", joined="name")  # after a step back it is a step of its own
    assert not draft.can_redo and draft.go(-1) and draft.now == "fist"
