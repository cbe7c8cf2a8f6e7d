"""Undo that fails loses nothing."""

from __future__ import annotations

from dataclasses import dataclass, field

import pytest

from fox_hand.session.runtime.history import History


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
