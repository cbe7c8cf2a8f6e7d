"""Undo and redo."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

from psygnal import Signal

MOST_BYTES = 32 << 20  # what all steps together may hold
SMALL = 2048  # bytes of a step that says nothing of itself


class Step(Protocol):
    """Something that was done and can be undone."""

    @property
    def label(self) -> str:
        """What it is called in the interface."""

    def undo(self) -> None: ...

    def redo(self) -> None: ...


@dataclass(frozen=True)
class StepsTogether:
    """Several steps that are one, for the history."""

    label: str
    steps: tuple[Step, ...]

    @property
    def frame(self) -> float | None:
        """Where it is seen, if it belongs to one frame."""
        found = getattr(self.steps[-1], "frame", None)
        return found if isinstance(found, float) else None

    def undo(self) -> None:
        for step in reversed(self.steps):
            step.undo()

    def redo(self) -> None:
        for step in self.steps:
            step.redo()


def size_of(step: Step) -> int:
    """About how much memory a step holds."""
    if isinstance(step, StepsTogether):
        return sum(map(size_of, step.steps))
    found = getattr(step, "nbytes", SMALL)
    return found if isinstance(found, int) else SMALL


class History:
    """Steps in order; what lies before the current place can be undone.

    Args:
        keep: how many at most.
        most: how many bytes they may hold together.
    """

    changed = Signal()

    def __init__(self, keep: int = 500, most: int = MOST_BYTES) -> None:
        self._steps: list[Step] = []
        self._at = 0
        self._keep, self._most = keep, most

    def make_room(self, keep: int, most: int) -> None:
        """How many steps are kept, and how many bytes they may hold, from now on."""
        self._keep, self._most = keep, most
        before = len(self._steps)
        self._make_room()
        self._at = max(self._at - (before - len(self._steps)), 0)
        self.changed.emit()

    def push(self, step: Step) -> None:
        """Remember a step that has just been done; what was undone before is forgotten."""
        del self._steps[self._at :]
        self._steps.append(step)
        self._make_room()
        self._at = len(self._steps)
        self.changed.emit()

    def _make_room(self) -> None:
        """The oldest steps go where there are too many, or where they hold too much; the last one
        can always be undone."""
        held, kept = 0, 0
        for step in reversed(self._steps):
            held += size_of(step)
            if kept == self._keep or (kept and held > self._most):
                break
            kept += 1
        del self._steps[: len(self._steps) - kept]

    def drop(self, step: Step) -> None:
        """Forget a step of which nothing was done after all."""
        if step not in self._steps:
            return
        place = self._steps.index(step)
        del self._steps[place]
        if place < self._at:
            self._at -= 1
        self.changed.emit()

    @property
    def undo_step(self) -> Step | None:
        """What undo would take back."""
        return self._steps[self._at - 1] if self._at else None

    @property
    def redo_step(self) -> Step | None:
        return self._steps[self._at] if self._at < len(self._steps) else None

    @property
    def undo_label(self) -> str | None:
        """What undo would take back, None where there is nothing."""
        return self._steps[self._at - 1].label if self._at else None

    @property
    def redo_label(self) -> str | None:
        return self._steps[self._at].label if self._at < len(self._steps) else None

    def undo(self) -> bool:
        """Take the last step back; False where there is none."""
        if not self._at:
            return False
        self._at -= 1
        try:
            self._steps[self._at].undo()
        except Exception:
            self._at += 1  # a failed undo can be tried again
            raise
        self.changed.emit()
        return True

    def redo(self) -> bool:
        if self._at >= len(self._steps):
            return False
        self._at += 1
        try:
            self._steps[self._at - 1].redo()
        except Exception:
            self._at -= 1
            raise
        self.changed.emit()
        return True

    def again(self, step: Step, *, undo: bool) -> None:
        """A step that works beside the window did not work after all: it is the next to be undone,
        or to be done again, as before.

        Args:
            step: of the history, or part of one of its steps.
            undo: whether it was its undo that failed.
        """
        if step in self._steps:
            at = self._steps.index(step)
            del self._steps[at]
            self._at -= at < self._at
        self._steps.insert(self._at, step)
        self._at += undo
        self.changed.emit()

    def clear(self) -> None:
        self._steps.clear()
        self._at = 0
        self.changed.emit()
