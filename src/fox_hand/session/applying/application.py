"""Cards on one figure: from the state before and a few choices, how it stands."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum

import numpy as np

from fox_hand.core.animation.curves import ChannelId, ChannelKind
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.controls import Region, Side
from fox_hand.core.model.state import State
from fox_hand.core.pose.additive import layer
from fox_hand.core.pose.ik_fk_blend import IkFkBlend
from fox_hand.core.pose.pose import BoundPose
from fox_hand.core.pose.sides import Sides, sided
from fox_hand.core.pose.weighted_blend import mix
from fox_hand.core.rig.rig import Rig
from fox_hand.session.figures.figure import Figure


class Part(StrEnum):
    """How much of a card goes on."""

    ALL = "all"
    SELECTED = "selected"
    REGIONS = "regions"


class Way(StrEnum):
    """Whether a card takes the place of what is there, or is added to it."""

    REPLACE = "replace"
    ON_TOP = "on top"


@dataclass(frozen=True)
class How:
    """How cards go on.

    Args:
        side, part, way: see there.
        selected: rows that :attr:`Part.SELECTED` stands for.
        regions: regions that :attr:`Part.REGIONS` stands for.
        cleared: rows that go to the ground pose where a card does not hold them.
    """

    side: Sides = Sides.CAPTURED
    part: Part = Part.ALL
    way: Way = Way.REPLACE
    selected: frozenset[int] = frozenset()
    regions: frozenset[Region] = frozenset()
    cleared: frozenset[int] = frozenset()


@dataclass(frozen=True)
class Weights:
    """How much of one card goes on.

    Args:
        whole: 0...1; alone on the figure -0.5...1.5.
        regions: other amounts for some regions.
    """

    whole: float = 1.0
    regions: dict[Region, float] = field(default_factory=dict)

    def of(self, rig: Rig) -> Array:
        """For each control, ``(C,)``."""
        if self.even:
            return np.full(len(rig.controls), float(self.whole))
        return np.array([self.regions.get(c.region, self.whole) for c in rig.controls])

    @property
    def even(self) -> bool:
        return not self.regions


class Application:
    """Some cards being put on one figure.

    Args:
        actor: the figure.
        base: how it stood before.
        captured: the cards' poses laid against its rig.
        how: the choices.
        ground: what is measured from on top, and what cleared controls go to; rest if None.
    """

    def __init__(
        self,
        actor: Figure,
        base: State,
        captured: Sequence[BoundPose],
        how: How,
        ground: State | None = None,
    ) -> None:
        self.actor, self.base = actor, base
        self.ground = ground or actor.rig.rest
        rig = actor.rig
        self._holders = np.array([s.control for s in rig.settings], dtype=np.intp)
        self.active = [_narrowed(rig, sided(rig, pose, how.side), how) for pose in captured]
        self._way = how.way
        if how.way is Way.REPLACE and how.cleared:
            self.active = [_cleared(rig, p, how.cleared, self.ground) for p in self.active]
        self._twins = IkFkBlend.of(rig, self.base, self.active)
        self._start: State | None = None
        self._latest: tuple[list[Weights], State, State] | None = None

    @property
    def rows(self) -> set[int]:
        """Controls that the cards touch now."""
        return set[int]().union(*(pose.rows(self.actor.rig) for pose in self.active))

    @property
    def channel_ids(self) -> list[ChannelId]:
        """Channels that the cards hold of them."""
        rig, found = self.actor.rig, dict[ChannelId, None]()
        for pose in self.active:
            for kind, rows in (
                (ChannelKind.MOVE, pose.move_rows),
                (ChannelKind.TURN, pose.turn_rows),
                (ChannelKind.SCALE, pose.scale_rows),
            ):
                found.update(
                    dict.fromkeys(ChannelId(kind, rig.controls[r].name) for r in rows.tolist())
                )
            names = (rig.settings[s].name for s in pose.setting_rows.tolist())
            found.update(dict.fromkeys(ChannelId(ChannelKind.SETTING, name) for name in names))
        return list(found)

    def wanted(self, weights: Sequence[Weights]) -> State:
        """The figure with the cards on it, whatever locks and limits say."""
        rig = self.actor.rig
        table = np.array([w.of(rig) for w in weights])
        if not table.any():
            return self.base
        if self._start is None:
            self._start = self._twins.handed_over(self.base)
        put: Callable[[State], State]
        if self._way is Way.ON_TOP:
            put = lambda state: self._layered(state, weights)  # noqa: E731 - one of two
        else:
            put = lambda state: mix(  # noqa: E731
                state, self.active, table, rig.setting_rules, self._holders
            )
        return self._twins.around(put, self._start)

    def _layered(self, state: State, weights: Sequence[Weights]) -> State:
        rig = self.actor.rig
        for pose, weight in zip(self.active, weights, strict=True):
            for amount, part in _by_amount(rig, pose, weight):
                state = layer(state, part, self.ground, amount, rig.setting_rules)
        return state

    def at(self, weights: Sequence[Weights]) -> State:
        """The figure with the cards on it, within its locks and limits."""
        wanted = self.wanted(weights)
        found = self.actor.bounded(self.base, wanted)
        self._latest = list(weights), wanted, found
        return found

    def stopped(self, weights: Sequence[Weights]) -> tuple[int, ...]:
        """Controls that a lock or a limit keeps from where the cards want them."""
        if self._latest is None or self._latest[0] != list(weights):
            self.at(weights)
        assert self._latest is not None
        _, wanted, found = self._latest
        differs = found.differs_from(wanted, self.actor.rig.settings_of)
        return tuple(np.flatnonzero(differs).tolist())

    def jumps(self) -> tuple[str, ...]:
        """Labels of switches and choices that change at the half."""
        rig, found = self.actor.rig, dict[str, None]()
        for pose in self.active:
            for row, value in zip(pose.setting_rows.tolist(), pose.settings, strict=True):
                if rig.settings[row].discrete and value != self.base.settings[row]:
                    found[rig.setting_word(row)] = None
        return tuple(found)


def touched_parts(rig: Rig, rows: Collection[int]) -> set[tuple[Region, Side]]:
    """Regions and sides of some controls."""
    return {(rig.controls[r].region, rig.controls[r].side) for r in rows}


def _narrowed(rig: Rig, pose: BoundPose, how: How) -> BoundPose:
    if how.part is Part.SELECTED:
        return pose.only(rig, how.selected)
    if how.part is Part.REGIONS:
        return pose.only(
            rig, [r for r, control in enumerate(rig.controls) if control.region in how.regions]
        )
    return pose


def _cleared(rig: Rig, pose: BoundPose, rows: Collection[int], ground: State) -> BoundPose:
    """The pose with the ground's values for channels of some controls that it does not hold."""
    held = set(pose.turn_rows.tolist()), set(pose.move_rows.tolist()), set(pose.scale_rows.tolist())
    free = [
        np.array(sorted(r for r in rows if r not in own and rig.controls[r].moves_node), np.intp)
        for own in held
    ]
    known = set(pose.setting_rows.tolist())
    values = [s for r in sorted(rows) for s in rig.settings_of[r] if s not in known]
    settings = np.array(values, dtype=np.intp)
    turns, moves, scales = free
    return replace(
        pose,
        turn_rows=np.concatenate([pose.turn_rows, turns]),
        turn=np.concatenate([pose.turn, ground.turn[turns]]),
        euler=np.concatenate([pose.euler, ground.shown(rig.orders)[turns]]),
        move_rows=np.concatenate([pose.move_rows, moves]),
        move=np.concatenate([pose.move, ground.move[moves]]),
        scale_rows=np.concatenate([pose.scale_rows, scales]),
        scale=np.concatenate([pose.scale, ground.scale[scales]]),
        setting_rows=np.concatenate([pose.setting_rows, settings]),
        settings=np.concatenate([pose.settings, ground.settings[settings]]),
    )


def _by_amount(rig: Rig, pose: BoundPose, weight: Weights) -> list[tuple[float, BoundPose]]:
    """The parts of a pose that go on by the same amount."""
    if weight.even:
        return [(weight.whole, pose)]
    amounts = weight.of(rig)
    return [
        (float(amount), pose.only(rig, np.flatnonzero(amounts == amount).tolist()))
        for amount in np.unique(amounts)
    ]
