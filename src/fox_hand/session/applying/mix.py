"""Putting cards on: everything is computed from the state before, so nothing drifts."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, replace

import numpy as np
from psygnal import Signal

from fox_hand.base.language import tr
from fox_hand.core.animation.curves import ChannelId, Origin
from fox_hand.core.maths.rotations import Array, angle_between
from fox_hand.core.model.controls import Region
from fox_hand.core.model.state import State
from fox_hand.core.pose.pose import BoundPose, Pose, bind
from fox_hand.core.pose.sides import Sides, partner_row
from fox_hand.core.rig.rig import Rig
from fox_hand.library.format.card import Card
from fox_hand.library.format.entry import Entry
from fox_hand.session.applying.application import (
    Application,
    How,
    Part,
    Way,
    Weights,
    touched_parts,
)
from fox_hand.session.applying.card_origin import origin_of
from fox_hand.session.figures.animation import Keyed
from fox_hand.session.figures.figure import Figure, pose_step
from fox_hand.session.figures.pose_conversion import state_of
from fox_hand.session.runtime.history import History, Step, StepsTogether

LOWEST, HIGHEST = -0.5, 1.5


@dataclass(frozen=True)
class Fit:
    """How much of some cards lands on this character.

    Args:
        lands: controls they reach.
        asked: controls they hold.
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


@dataclass(frozen=True)
class Sheets:
    """What a mix asks about the sheet a card lies in.

    Args:
        held: names of the controls that any card of the sheet holds.
        neutral: the sheet's neutral pose, None for rest.
    """

    held: Callable[[Entry], Collection[str]]
    neutral: Callable[[Entry], Pose | None]


@dataclass(frozen=True, eq=False)
class Mixed:
    """One card of a mix.

    Args:
        entry: its file.
        card: as it goes on this character.
        fit: how much of it does.
        original: what the file holds, where it was fitted.
        view: the view it is drawn for, where it is put on another.
    """

    entry: Entry
    card: Card
    fit: Fit
    original: Card | None = None
    view: str = ""

    @property
    def names(self) -> set[str]:
        """Controls that the file holds."""
        return set((self.original or self.card).pose.controls)


class Mix:
    """One card or several being put on one figure, or on all copies of its rig.

    Args:
        actor: the figure.
        first: the first card.
        selected: rows selected when it began.
        sheets: what is asked about the cards' sheets.
    """

    changed = Signal()
    reshaped = Signal()  # cards came or went

    def __init__(
        self,
        actor: Figure,
        first: Mixed,
        selected: tuple[int, ...],
        sheets: Sheets | None = None,
    ) -> None:
        self.actor = actor
        self.cards = [first]
        self.weights = [Weights()]
        self.together = False  # whether weights always add to 100
        self.clear = False
        self.keyed = False  # whether it sets keys where it is kept
        self.others: tuple[Figure, ...] = ()  # copies of the rig that go with it
        self.pad_at = (0.5, 0.5)  # where the pointer of the pad was left
        self._sheets = sheets
        self._selected = frozenset(selected)
        self._before = {actor: actor.state}
        self._reach: Array | None = None
        self._bound: dict[tuple[int, Rig], BoundPose] = {}
        self._puttings: list[Application] = []
        self.how = How()
        if self.selected_rows:
            self.how = replace(self.how, part=Part.SELECTED, selected=self.selected_rows)
        self._prepare()
        self._show()

    # -- what it is -----------------------------------------------------------------------

    @property
    def entry(self) -> Entry:
        """The card that was put on last."""
        return self.cards[-1].entry

    @property
    def card(self) -> Card:
        return self.cards[-1].card

    @property
    def base(self) -> State:
        """How the figure stood before."""
        return self._before[self.actor]

    def before(self, actor: Figure) -> State:
        """How a member of the cast stood before; as it stands if the mix does not touch it."""
        return self._before.get(actor, actor.state)

    @property
    def amount(self) -> float:
        """Of the only card, or the sum of all."""
        return sum(w.whole for w in self.weights)

    @property
    def part(self) -> Part:
        return self.how.part

    @property
    def fit(self) -> Fit:
        """Of all its cards together."""
        asked = {name for one in self.cards for name in one.names}
        missing = dict.fromkeys(name for one in self.cards for name in one.fit.missing)
        return Fit(len(asked) - len(missing), len(asked), tuple(missing))

    @property
    def title(self) -> str:
        return (
            self.card.name if len(self.cards) == 1 else tr("{count} cards", count=len(self.cards))
        )

    def weight_of(self, entry: Entry) -> float | None:
        """How much of a card is on; None if it is not in the mix."""
        for one, weight in zip(self.cards, self.weights, strict=True):
            if one.entry.path == entry.path:
                return weight.whole
        return None

    @property
    def selected_rows(self) -> frozenset[int]:
        """Selected controls that the cards know on any side."""
        rows: set[int] = set()
        for number in range(len(self.cards)):
            for side in Sides if self._selected else ():
                rows |= self._sided_rows(number, side)
        return self._selected & frozenset(rows)

    def _sided_rows(self, number: int, side: Sides) -> set[int]:
        rig = self.actor.rig
        rows = self._pose(number, rig).rows(rig)
        if side is Sides.CAPTURED:
            return rows
        partners = {partner_row(rig, r) for r in rows}
        return partners if side is Sides.OTHER else rows | partners

    @property
    def rows(self) -> set[int]:
        """Controls it touches now."""
        return self._puttings[0].rows

    @property
    def channel_ids(self) -> list[ChannelId]:
        """Channels and settings it touches now."""
        return self._puttings[0].channel_ids

    @property
    def regions(self) -> tuple[Region, ...]:
        """Regions that the cards hold anything of, from head to toe."""
        rig = self.actor.rig
        rows = {r for n in range(len(self.cards)) for r in self._pose(n, rig).rows(rig)}
        found = {region for region, _ in touched_parts(rig, rows)}
        return tuple(region for region in Region if region in found)

    def jumps(self) -> tuple[str, ...]:
        """Switches and choices that change at the half."""
        return self._puttings[0].jumps()

    def stopped(self) -> tuple[str, ...]:
        """Labels of controls that locks or limits keep from where the cards want them."""
        rows = self._puttings[0].stopped(self.weights)
        return tuple(self.actor.rig.word(r) for r in rows)

    @property
    def span(self) -> tuple[float, float]:
        """Least and greatest amount: beyond the card where it is alone."""
        return (LOWEST, HIGHEST) if len(self.cards) == 1 else (0.0, 1.0)

    # -- amounts --------------------------------------------------------------------------

    def set_amount(self, amount: float, number: int = -1, region: Region | None = None) -> None:
        """Pull a card to an amount; 0 leaves the figure as it was, 1 is the card.

        Args:
            amount: alone -0.5...1.5, with other cards 0...1.
            number: which card.
            region: only there; None for all of it.
        """
        alone = len(self.cards) == 1
        amount = float(np.clip(amount, *self.span))
        number %= len(self.cards)
        before = self.weights[number]
        if region is None:
            after = Weights(amount)
        else:
            after = Weights(before.whole, {**before.regions, region: amount})
        if after == before:
            return
        wanted = [*self.weights]
        wanted[number] = after
        if self.together and not alone and region is None:
            wanted = _filled(wanted, number)
        self.set_weights(wanted)

    def set_weights(self, weights: Sequence[Weights]) -> None:
        """All amounts at once, as the pad gives them."""
        if list(weights) != self.weights:
            self.weights = list(weights)
            self._show()

    def keep_together(self, on: bool) -> None:
        """Whether the weights always add to 100."""
        self.together = on
        total = sum(w.whole for w in self.weights)
        if on and len(self.weights) > 1:
            share = [w.whole / total if total > 0 else 1 / len(self.weights) for w in self.weights]
            self.set_weights([Weights(round(s, 4)) for s in share])
        self.changed.emit()

    # -- cards ----------------------------------------------------------------------------

    def add(self, ready: Mixed) -> None:
        """One more card. Cards of the same controls share them, others go on whole."""
        rig = self.actor.rig
        known = {r for n in range(len(self.cards)) for r in self._pose(n, rig).rows(rig)}
        self.cards.append(ready)
        own = self._pose(len(self.cards) - 1, rig).rows(rig)
        count = len(self.cards)
        if own & known:
            self.together = True
            self.weights = [Weights(round(1 / count, 4))] * count
        else:
            self.together = False
            self.weights = [replace(w, whole=min(max(w.whole, 0.0), 1.0)) for w in self.weights]
            self.weights.append(Weights())
        self._reshaped()

    def drop(self, number: int) -> None:
        """Take a card out of the mix; the last one stays."""
        if len(self.cards) == 1:
            return
        del self.cards[number], self.weights[number]
        self._bound.clear()
        if len(self.cards) == 1:
            self.weights, self.together = [Weights()], False
        elif self.together:
            self.weights = _filled(self.weights, None)
        self._reshaped()

    def _reshaped(self) -> None:
        self.pad_at = (0.5, 0.5)
        self._prepare()
        self._show()
        self.reshaped.emit()

    # -- choices --------------------------------------------------------------------------

    def set_part(self, part: Part, regions: Collection[Region] = ()) -> None:
        """All the cards hold, only what is selected, or only some regions."""
        if part is Part.SELECTED and not self.selected_rows:
            return
        chosen = frozenset(regions) & frozenset(self.regions)
        if part is Part.REGIONS and not chosen:
            chosen = self.how.regions or frozenset(self.regions[:1])
        self.choose(replace(self.how, part=part, regions=chosen))

    def toggle_regions(self, regions: Collection[Region]) -> None:
        """Take regions in or leave them out; one stays at least."""
        wanted = self.how.regions ^ (frozenset(regions) & frozenset(self.regions))
        if wanted:
            self.set_part(Part.REGIONS, wanted)

    def set_side(self, side: Sides) -> None:
        self.choose(replace(self.how, side=side))

    def set_way(self, way: Way) -> None:
        self.choose(replace(self.how, way=way))

    def set_clear(self, on: bool) -> None:
        """Whether what other cards of the sheet hold goes to rest first."""
        self.clear = on
        self.choose(self.how)

    def set_others(self, actors: Sequence[Figure]) -> None:
        """Copies of the rig that the cards go on as well; the others stand as they did."""
        for actor in self.others:
            if actor not in actors:
                actor.show(self._before.pop(actor))
        for actor in actors:
            self._before.setdefault(actor, actor.state)
        self.others = tuple(actors)
        self._prepare()
        self._show()

    def choose(self, how: How) -> None:
        """Other choices; everything is computed anew from the state before."""
        self.how = how
        self._prepare()
        self._show()

    def select(self, rows: tuple[int, ...]) -> None:
        """Follow the selection while cards are being put on."""
        self._selected = frozenset(rows)
        known = self.selected_rows
        part = self.how.part
        if part is Part.SELECTED and not known:
            part = Part.ALL
        self.choose(replace(self.how, part=part, selected=known))

    # -- figures --------------------------------------------------------------------------

    def at(self, amount: float) -> State:
        """The figure as it would stand with all weights scaled so that they add to an amount;
        with one card that is its amount."""
        return self._puttings[0].at(self._scaled(amount))

    def each(self) -> list[State]:
        """The figure with each card alone and whole."""
        alone = [Weights(0.0)] * len(self.cards)
        return [
            self._puttings[0].at([*alone[:n], Weights(), *alone[n + 1 :]])
            for n in range(len(self.cards))
        ]

    def _scaled(self, amount: float) -> list[Weights]:
        if len(self.cards) == 1:
            return [Weights(amount, dict.fromkeys(self.weights[0].regions, amount))]
        return [Weights(w.whole * amount) for w in self.weights]

    def reach(self) -> Array:
        """How far the cards move each control when all are on, 0...1, ``(C,)``."""
        if self._reach is None:
            full = [Weights()] * len(self.cards)
            self._reach = reach_of(self.actor.rig, self.base, self._puttings[0].wanted(full))
        return self._reach

    def keep(self, history: History) -> None:
        """One undo step for all figures, unless nothing changed."""
        percent = f" {self.amount * 100:.0f} %" if len(self.cards) == 1 else ""
        label = f"{self.title}{percent}"
        found = [
            pose_step(
                putting.actor, self._before[putting.actor], label, self._keys(putting), card=True
            )
            for putting in self._puttings
        ]
        steps: list[Step] = [step for step in found if step is not None]
        if len(steps) == 1:
            history.push(steps[0])
        elif steps:
            history.push(StepsTogether(label, tuple(steps)))

    def _keys(self, putting: Application) -> Keyed:
        """Which keys it sets: of all that the cards hold, or none at all."""
        timing = putting.actor.timing
        channel_ids = putting.channel_ids if self.keyed else ()
        return Keyed(
            timing.frame, timing.ease, channel_ids, auto=self.keyed, origin=self.origin(putting)
        )

    def origin(self, putting: Application) -> Origin:
        """What is written down with the keys of one of the figures."""
        if len(self.cards) > 1:
            return Origin("", self.title, amount=round(self.amount, 4), whole=False)
        return origin_of(self.entry, self.card.name, putting, self.how, self.weights[0])

    def set_keyed(self, on: bool) -> None:
        """Whether keeping it sets keys."""
        if on != self.keyed:
            self.keyed = on
            self.changed.emit()

    def put_back(self) -> None:
        """The figures as they were before, bit for bit."""
        for actor, before in self._before.items():
            actor.show(before)

    def _pose(self, number: int, rig: Rig) -> BoundPose:
        key = number, rig
        if key not in self._bound:
            self._bound[key] = bind(self.cards[number].card.pose, rig)
        return self._bound[key]

    def _prepare(self) -> None:
        self._reach = None
        neutral = self._sheets.neutral(self.entry) if self._sheets is not None else None
        self._puttings = []
        for actor in (self.actor, *self.others):
            rig = actor.rig
            poses = [self._pose(n, rig) for n in range(len(self.cards))]
            how = replace(self.how, cleared=self._cleared(rig) if self.clear else frozenset())
            ground = state_of(rig, neutral) if neutral is not None else rig.rest
            self._puttings.append(Application(actor, self._before[actor], poses, how, ground))

    def _cleared(self, rig: Rig) -> frozenset[int]:
        """What other cards of the sheets may have left where these cards go: all that any card
        of a sheet holds, or where only one card lies there, all of the regions it touches."""
        rows: set[int] = set()
        for number, one in enumerate(self.cards):
            held = self._sided_rows(number, self.how.side)
            parts = touched_parts(rig, held)
            near = {r for r, c in enumerate(rig.controls) if (c.region, c.side) in parts}
            names = self._sheets.held(one.entry) if self._sheets is not None else ()
            known = {rig.control_row[n] for n in names if n in rig.control_row}
            known |= {partner_row(rig, r) for r in known}
            rows |= (known & near) if known & near > held else near
        return frozenset(rows)

    def _show(self) -> None:
        for putting in self._puttings:
            putting.actor.show(putting.at(self.weights))
        self.changed.emit()


def reach_of(rig: Rig, before: State, after: State) -> Array:
    """How far each control goes, 0...1: a quarter turn, a fifth of the height or a whole unit of a
    setting count as all the way, ``(C,)``."""
    angle = angle_between(before.turn, after.turn) / (np.pi / 2)
    step = np.abs(after.move - before.move).sum(-1) / (0.2 * rig.height)
    far = np.maximum(angle, step)
    holders = np.array([s.control for s in rig.settings], dtype=np.intp)
    np.maximum.at(far, holders, np.abs(after.settings - before.settings))
    return np.asarray(np.minimum(far, 1.0))


def _filled(weights: Sequence[Weights], fixed: int | None) -> list[Weights]:
    """The weights so that they add to 1: the fixed one as it is, the others in their proportion."""
    kept = weights[fixed].whole if fixed is not None else 0.0
    others = [w.whole for i, w in enumerate(weights) if i != fixed]
    total, room = sum(others), 1.0 - kept
    even = room / max(len(others), 1)
    return [
        w if i == fixed else Weights(round(w.whole / total * room if total > 1e-9 else even, 4))
        for i, w in enumerate(weights)
    ]
