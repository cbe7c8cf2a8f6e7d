"""The character on the stage and how it stands."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from psygnal import Signal

from fox_hand.core.rig import ControlKind, Evaluation, Rig
from fox_hand.core.rotations import Array
from fox_hand.core.state import State
from fox_hand.core.view import Standing
from fox_hand.session.history import History


class Actor:
    """One figure: a rig by reference and its channel values."""

    posed = Signal()

    def __init__(self, rig: Rig, path: Path) -> None:
        self.rig = rig
        self.path = path
        self._state = rig.rest
        self._at: Evaluation | None = None

    @property
    def state(self) -> State:
        return self._state

    def show(self, state: State) -> None:
        """Put the figure into a state."""
        if state is not self._state:
            self._state = state
            self._at = None
            self.posed.emit()

    @property
    def at(self) -> Evaluation:
        """The evaluated pose."""
        if self._at is None:
            self._at = self.rig.evaluate(self._state)
        return self._at

    @property
    def standing(self) -> Standing:
        return Standing(self.rig, self.at)

    def handles(self) -> Array:
        """World places of all handles, ``(C, 3)``."""
        return self.rig.handle_places(self.at.nodes)

    def differs(self) -> np.ndarray:
        """For each control whether it is away from rest, ``(C,)`` bool."""
        return self._state.differs_from(self.rig.rest, self.rig.settings_of)

    def flesh_nodes(self, rows: list[int]) -> frozenset[int]:
        """Skeleton nodes whose flesh belongs to some controls; holders stand on their node."""
        controls = [self.rig.controls[r] for r in rows]
        own = {c.node for c in controls if c.kind is ControlKind.JOINT}
        return frozenset(own or {c.node for c in controls})


@dataclass(frozen=True)
class PoseStep:
    """A change of pose, for the history."""

    actor: Actor
    before: State
    after: State
    label: str

    def undo(self) -> None:
        self.actor.show(self.before)

    def redo(self) -> None:
        self.actor.show(self.after)


class Edit:
    """A change under way, such as a drag: previews first, then one step or none."""

    def __init__(self, actor: Actor, history: History, label: str) -> None:
        self._actor, self._history, self._label = actor, history, label
        self.before = actor.state

    def preview(self, state: State) -> None:
        """Show an intermediate state; nothing is remembered yet."""
        self._actor.show(state)

    def commit(self) -> None:
        """Make what is shown now one undo step; unchanged figures leave no step."""
        after = self._actor.state
        if after is not self.before and not after.same_bits(self.before):
            self._history.push(PoseStep(self._actor, self.before, after, self._label))

    def cancel(self) -> None:
        """Put back what was there, bit for bit."""
        self._actor.show(self.before)
