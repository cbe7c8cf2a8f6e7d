"""What a figure does in a shot: how it stands where nothing is keyed, and its keys."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace
from functools import cached_property

from fox_hand.core.keys import NO_KEYS, Keys, Lane, Origin, changed_lanes, keys_at, with_lanes
from fox_hand.core.rebind import values_of, with_values
from fox_hand.core.rig import Rig
from fox_hand.core.state import State
from fox_hand.core.timeline import Timeline
from fox_hand.core.tracks import Ease


@dataclass(frozen=True, eq=False)
class Take:
    """Immutable, so that a step of the history just keeps it.

    Args:
        rig: what ``base`` belongs to.
        base: values of channels without keys; for keyed ones those that come back when the
            last key goes.
        keys: see :class:`fox_hand.core.keys.Keys`.
    """

    rig: Rig
    base: State
    keys: Keys = NO_KEYS

    @cached_property
    def timeline(self) -> Timeline:
        """The keys, ready to be sampled."""
        return Timeline(self.rig, self.keys)

    def at(self, frame: float) -> State:
        """How the figure stands at a frame."""
        return self.timeline.at(self.base, frame)

    def on(self, rig: Rig) -> Take:
        """The same for a rig that was read again; values follow by name."""
        if rig is self.rig:
            return self
        return Take(rig, with_values(rig, values_of(self.rig, self.base))[0], self.keys)

    def with_keys(self, keys: Keys) -> Take:
        return replace(self, keys=keys)


@dataclass(frozen=True)
class Keyed:
    """How a change goes into a take.

    Args:
        frame: where.
        ease: how new keys go on.
        lanes: what gets a key whether it changed or not.
        auto: whether changed channels that have keys get one here too.
        origin: the card the change came from.
    """

    frame: float
    ease: Ease = Ease.SMOOTH
    lanes: Collection[Lane] = ()
    auto: bool = True
    origin: Origin | None = None


def recorded(take: Take, before: State, after: State, how: Keyed) -> Take:
    """The take after a change of the figure. Channels without keys change for the whole shot;
    those with keys get one where that is wanted, else the change is loose: seen, and gone with the
    next frame."""
    rig = take.rig
    changed = changed_lanes(rig, before, after)
    wanted = dict.fromkeys(how.lanes)
    free = [lane for lane in changed if lane not in take.keys.lines and lane not in wanted]
    if how.auto:
        wanted.update(dict.fromkeys(lane for lane in changed if lane in take.keys.lines))
    found = take
    if free:
        found = replace(found, base=with_lanes(rig, take.base, after, free))
    if wanted:
        keys, origin = found.keys.with_origin(how.origin)
        lines = keys_at(rig, after, wanted, how.frame, how.ease, origin)
        found = replace(found, keys=keys.with_lines(lines))
    return found


def set_keys(take: Take, state: State, lanes: Collection[Lane], how: Keyed) -> Take:
    """The take with keys of what is shown."""
    return recorded(take, state, state, replace(how, lanes=lanes))
