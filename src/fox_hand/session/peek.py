"""Seeing what a card would do, without putting it on."""

from __future__ import annotations

from functools import cached_property

from fox_hand.core.pose import bind
from fox_hand.core.rotations import Array
from fox_hand.core.state import State
from fox_hand.library.card import Card
from fox_hand.library.entry import Entry
from fox_hand.session.actor import Actor
from fox_hand.session.mix import Fit, fit_of, reach_of
from fox_hand.session.putting import How, Putting, Weights


class Peek:
    """A card looked at on a figure; the figure itself stays as it is.

    Args:
        actor: the figure.
        entry, card: the card's file and what it holds.
        before: how the figure stands without what is being put on.
    """

    def __init__(self, actor: Actor, entry: Entry, card: Card, before: State) -> None:
        self.actor, self.entry, self.card = actor, entry, card
        self._before = before
        self._putting = Putting(actor, before, [bind(card.pose, actor.rig)], How())

    @property
    def fit(self) -> Fit:
        return fit_of(self.card, self.actor.rig)

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
