"""What a draft has been, step by step: for undo on the screens that have one of their own."""

from __future__ import annotations

from typing import Generic, TypeVar

Said = TypeVar("Said")


class DraftHistory(Generic[Said]):
    """A state that is never changed, only followed by others.

    Args:
        first: the state to begin with.
    """

    def __init__(self, first: Said) -> None:
        self._steps = [first]
        self._at = 0
        self._joined = ""

    @property
    def now(self) -> Said:
        return self._steps[self._at]

    @property
    def can_undo(self) -> bool:
        return self._at > 0

    @property
    def can_redo(self) -> bool:
        return self._at < len(self._steps) - 1

    def say(self, said: Said, joined: str = "") -> bool:
        """Go on to another state; whether it is another one.

        Args:
            joined: states of one word that follow each other, such as the letters of one typed
                word, count as one step.
        """
        if said == self.now:
            return False
        if joined and joined == self._joined and self._at > 0:
            self._steps[self._at :] = [said]
        else:
            self._steps[self._at + 1 :] = [said]
            self._at += 1
        self._joined = joined
        return True

    def go(self, way: int) -> bool:
        """One step back (-1) or on again (1); whether there was one."""
        self._joined = ""
        if not 0 <= self._at + way < len(self._steps):
            return False
        self._at += way
        return True
