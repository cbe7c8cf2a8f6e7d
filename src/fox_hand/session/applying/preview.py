"""Seeing what a card would do, without putting it on."""

from __future__ import annotations

from functools import cached_property

from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.state import State
from fox_hand.core.pose.pose import bind
from fox_hand.session.applying.application import Application, How, Weights
from fox_hand.session.applying.mix import Mixed, reach_of
from fox_hand.session.figures.figure import Figure


class Preview:
    """A card looked at on a figure; the figure itself stays as it is.

    Args:
        actor: the figure.
        ready: the card as it would go on.
        before: how the figure stands without what is being put on.
    """

    def __init__(self, actor: Figure, ready: Mixed, before: State) -> None:
        self.actor, self.entry, self.card, self.fit = actor, ready.entry, ready.card, ready.fit
        self._before = before
        self._putting = Application(actor, before, [bind(ready.card.pose, actor.rig)], How())

    @property
    def rows(self) -> set[int]:
        """Controls it would touch."""
        return self._putting.rows

    @cached_property
    def state(self) -> State:
        """The figure as it would stand."""
        return self._putting.at([Weights()])

    def reach(self) -> Array:
        """How far it would move each control, 0...1, ``(C,)``."""
        return self._reach

    @cached_property
    def _reach(self) -> Array:
        return reach_of(self.actor.rig, self._before, self.state)
