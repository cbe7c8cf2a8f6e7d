"""Putting a card on: everything is computed from the state before, so nothing drifts."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from psygnal import Signal

from fox_hand.core.blend import blend
from fox_hand.core.pose import BoundPose, bind
from fox_hand.core.rig import Rig
from fox_hand.core.rotations import Array, angle_between
from fox_hand.core.state import State
from fox_hand.library.card import Card
from fox_hand.library.entry import Entry
from fox_hand.session.actor import Actor, PoseStep
from fox_hand.session.history import History

LOWEST, HIGHEST = -0.5, 1.5


class Part(StrEnum):
    """How much of a card goes on."""

    ALL = "all"
    SELECTED = "selected"


@dataclass(frozen=True)
class Fit:
    """How much of a card lands on this character.

    Args:
        lands: controls it reaches.
        asked: controls it holds.
        missing: names the rig does not have.
    """

    lands: int
    asked: int
    missing: tuple[str, ...]


def fit_of(card: Card, rig: Rig) -> Fit:
    """What of a card finds its control by name."""
    known = 0
    missing = []
    for name, held in card.pose.controls.items():
        if name in rig.control_row or any(s in rig.setting_row for s in held.settings):
            known += 1
        else:
            missing.append(name)
    return Fit(known, len(card.pose.controls), tuple(missing))


class Mix:
    """One card being put on one figure.

    Args:
        actor: the figure.
        entry, card: the card's file and what it holds.
        selected: rows selected when it began.
    """

    changed = Signal()

    def __init__(self, actor: Actor, entry: Entry, card: Card, selected: tuple[int, ...]) -> None:
        self.actor, self.entry, self.card = actor, entry, card
        self.base = actor.state
        self.bound = bind(self.card.pose, actor.rig)
        self.fit = fit_of(self.card, actor.rig)
        self._selected = frozenset(selected)
        self._amount = 1.0
        self._reach: Array | None = None
        self.part = Part.SELECTED if self.selected_rows else Part.ALL
        self._show()

    @property
    def amount(self) -> float:
        return self._amount

    @property
    def selected_rows(self) -> frozenset[int]:
        """Selected controls that the card knows."""
        return self._selected & frozenset(self.bound.rows(self.actor.rig))

    @property
    def active(self) -> BoundPose:
        """What of the card goes on now."""
        if self.part is Part.SELECTED:
            return self.bound.only(self.actor.rig, self.selected_rows)
        return self.bound

    @property
    def rows(self) -> set[int]:
        """Controls it touches now."""
        return self.active.rows(self.actor.rig)

    def set_amount(self, amount: float) -> None:
        """Pull to an amount; 0 leaves the figure as it was, 1 is the card."""
        amount = float(np.clip(amount, LOWEST, HIGHEST))
        if amount != self._amount:
            self._amount = amount
            self._show()

    def set_part(self, part: Part) -> None:
        if part is Part.SELECTED and not self.selected_rows:
            return
        if part is not self.part:
            self.part = part
            self._reach = None
            self._show()

    def select(self, rows: tuple[int, ...]) -> None:
        """Follow the selection while the card is being put on."""
        self._selected = frozenset(rows)
        self._reach = None
        if self.part is Part.SELECTED and not self.selected_rows:
            self.part = Part.ALL
        self._show()

    def at(self, amount: float) -> State:
        """The figure as it would stand at some amount, within locks and limits."""
        blended = blend(self.base, self.active, amount, self.actor.rig.setting_rules)
        return self.actor.bounded(self.base, blended)

    def reach(self) -> Array:
        """How far the card moves each control at 100 %, 0...1 (1 is a quarter turn), ``(C,)``."""
        if self._reach is None:
            self._reach = self._computed_reach()
        return self._reach

    def _computed_reach(self) -> Array:
        far = np.zeros(len(self.actor.rig.controls))
        pose = self.active
        angle = angle_between(self.base.turn[pose.turn_rows], pose.turn) / (np.pi / 2)
        np.maximum.at(far, pose.turn_rows, angle)
        step = np.abs(pose.move - self.base.move[pose.move_rows]).sum(-1)
        np.maximum.at(far, pose.move_rows, step / (0.2 * self.actor.rig.height))
        holders = [self.actor.rig.settings[int(s)].control for s in pose.setting_rows]
        change = np.abs(pose.settings - self.base.settings[pose.setting_rows])
        np.maximum.at(far, np.array(holders, dtype=np.intp), change)
        return np.minimum(far, 1.0)

    def keep(self, history: History) -> None:
        """One undo step, unless nothing changed."""
        after = self.actor.state
        self.actor.landmarks["card"] = after
        if not after.same_bits(self.base):
            percent = f"{self._amount * 100:.0f} %"
            label = f"{self.card.name} {percent}"
            history.push(PoseStep(self.actor, self.base, after, label, self.actor.rig))

    def put_back(self) -> None:
        """The figure as it was before, bit for bit."""
        self.actor.show(self.base)

    def _show(self) -> None:
        self.actor.show(self.at(self._amount))
        self.changed.emit()
