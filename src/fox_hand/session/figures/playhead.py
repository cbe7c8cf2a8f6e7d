"""Where in the shot we are, and how it runs."""

from __future__ import annotations

from collections.abc import Iterable

from psygnal import Signal

from fox_hand.core.animation.interpolation import Ease

LONGEST = 999_999  # frames: more than eleven hours
RATES = (12.0, 15.0, 24.0, 25.0, 30.0, 48.0, 50.0, 60.0)


class Playhead:
    """The frame in sight, the shot's range and rate, its marks. Frames are counted from 1.

    Attributes:
        ease: how new keys go on.
        auto: whether a change of something that has keys sets a key.
        loop: whether playing begins again at the end.
    """

    moved = Signal()  # another frame is in sight
    changed = Signal()  # range, rate, marks, or a way of working

    def __init__(self) -> None:
        self.frame = 1.0
        self.first, self.last = 1, 72
        self.rate = 24.0
        self.marks: frozenset[int] = frozenset()
        self.ease = Ease.SMOOTH
        self.auto = True
        self.loop = True

    @property
    def length(self) -> int:
        """Frames of the range, both ends counted."""
        return self.last - self.first + 1

    def put(self, frame: float) -> bool:
        """Another frame; whoever calls it lets the figures follow. False if it is this one."""
        frame = min(max(float(frame), 0.0), float(LONGEST))
        if frame == self.frame:
            return False
        self.frame = frame
        return True

    def set_range(self, first: int, last: int) -> None:
        """First and last frame; at least two frames."""
        first = min(max(first, 0), LONGEST - 1)
        last = min(max(last, first + 1), LONGEST)
        if (first, last) != (self.first, self.last):
            self.first, self.last = first, last
            self.changed.emit()

    def set_rate(self, rate: float) -> None:
        """Frames a second."""
        rate = min(max(rate, 1.0), 240.0)
        if rate != self.rate:
            self.rate = rate
            self.changed.emit()

    def set_marks(self, marks: Iterable[int]) -> None:
        found = frozenset(marks)
        if found != self.marks:
            self.marks = found
            self.changed.emit()

    def work_with(
        self, *, ease: Ease | None = None, auto: bool | None = None, loop: bool | None = None
    ) -> None:
        """Another way of working from now on."""
        self.ease = self.ease if ease is None else ease
        self.auto = self.auto if auto is None else auto
        self.loop = self.loop if loop is None else loop
        self.changed.emit()
