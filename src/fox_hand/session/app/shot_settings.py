"""What a shot says about itself, changed by hand: marks, range and rate, each with a way back."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import TypeVar

from fox_hand.base.language import tr, tr_n
from fox_hand.session.figures.figure import ChangeStep
from fox_hand.session.figures.playhead import Playhead
from fox_hand.session.runtime.history import History

Value = TypeVar("Value")


class ShotSettings:
    """Changes the playhead's settings as undo steps.

    Args:
        timing: what is changed.
        history: where steps go.
    """

    def __init__(self, timing: Playhead, history: History) -> None:
        self._timing, self._history = timing, history

    def set_marks(self, marks: Iterable[int]) -> None:
        """Which frames are marked."""
        before, after = self._timing.marks, frozenset(marks)
        more, fewer = sorted(after - before), sorted(before - after)
        if len(more) == 1 and not fewer:
            label = tr("Mark frame {more}", more=more[0])
        elif len(fewer) == 1 and not more:
            label = tr("Take the mark off frame {fewer}", fewer=fewer[0])
        else:
            label = (
                tr_n("Mark {number} frame", "Mark {number} frames", len(after))
                if after
                else tr("Take all marks away")
            )
        self._do(label, lambda: self._timing.marks, self._timing.set_marks, after)

    def set_range(self, first: int, last: int) -> None:
        """First and last frame of the shot."""
        timing = self._timing

        def put(span: tuple[int, int]) -> None:
            timing.set_range(*span)

        label = tr("Frames {first} to {last}", first=first, last=last)
        self._do(label, lambda: (timing.first, timing.last), put, (first, last))

    def set_rate(self, rate: float) -> None:
        """Frames a second."""
        label = tr("{rate:g} frames a second", rate=rate)
        self._do(label, lambda: self._timing.rate, self._timing.set_rate, rate)

    def _do(
        self,
        label: str,
        now: Callable[[], Value],
        put: Callable[[Value], None],
        wanted: Value,
    ) -> None:
        before = now()
        put(wanted)
        after = now()
        if after != before:
            step = ChangeStep(label, lambda: put(before), lambda: put(after))
            self._history.push(step)
