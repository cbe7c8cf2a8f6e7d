"""What a figure does in a shot: how it stands where nothing is keyed, and its keys."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from fox_hand.core.animation.clip_instances import ClipInstance, ClipInstancePlayer
from fox_hand.core.animation.curves import (
    NO_KEYS,
    ChannelId,
    Keys,
    Origin,
    changed_lanes,
    keys_at,
    with_lanes,
)
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.animation.sampler import Sampler
from fox_hand.core.maths.rotations import Array, inverse, multiply, normalise
from fox_hand.core.model.state import State
from fox_hand.core.rig.rebind import values_of, with_values
from fox_hand.core.rig.rig import Rig


@dataclass(frozen=True, eq=False)
class Animation:
    """Immutable, so that a step of the history just keeps it.

    Args:
        rig: what ``base`` belongs to.
        base: values of channels without keys; for keyed ones those that come back when the
            last key goes.
        keys: see :class:`fox_hand.core.animation.curves.Keys`.
        blocks: clips laid over the keys, in the order in which they came.
    """

    rig: Rig
    base: State
    keys: Keys = NO_KEYS
    instances: tuple[ClipInstance, ...] = ()

    def bytes_beside(self, other: Animation) -> int:
        """About how much memory it takes beside one that shares what did not change."""
        known = set(map(id, other.keys.lines.values()))
        own = sum(line.nbytes for line in self.keys.lines.values() if id(line) not in known)
        return own + sum(array.nbytes for array in self.base.arrays())

    @cached_property
    def timeline(self) -> Sampler:
        """The keys, ready to be sampled."""
        return Sampler(self.rig, self.keys)

    @cached_property
    def _player(self) -> ClipInstancePlayer:
        return ClipInstancePlayer(self.rig, self.instances)

    def rest(self) -> None:
        """Give up what was only made for sampling; it is made again when it is needed."""
        vars(self).pop("timeline", None)
        vars(self).pop("_player", None)

    def at(self, frame: float) -> State:
        """How the figure stands at a frame: its keys, and over them the blocks."""
        state = self.keyed_at(frame)
        return self._player.over(state, frame) if self.instances else state

    def many(self, frames: Array) -> State:
        """The same for many frames, a batch ``(F, C, ...)``."""
        if not self.instances:
            return self.timeline.many(self.base, frames.tolist())
        states = [self.at(float(frame)).arrays() for frame in frames.tolist()]
        return State(*(np.stack(values) for values in zip(*states, strict=True)))

    @property
    def moves(self) -> bool:
        """Whether there is anything to go through."""
        return bool(self.keys) or bool(self.instances)

    def keyed_at(self, frame: float) -> State:
        """The same without blocks."""
        return self.timeline.at(self.base, frame)

    def on(self, rig: Rig) -> Animation:
        """The same for a rig that was read again; values follow by name."""
        if rig is self.rig:
            return self
        base = with_values(rig, values_of(self.rig, self.base))[0]
        return Animation(rig, base, self.keys, self.instances)

    def with_keys(self, keys: Keys) -> Animation:
        return replace(self, keys=keys)


@dataclass(frozen=True)
class Keyed:
    """How a change goes into a take.

    Args:
        frame: where.
        ease: how new keys go on.
        channels: what gets a key whether it changed or not.
        auto: whether changed channels that have keys get one here too.
        origin: the card the change came from.
        below: what lies below any blocks then, where that is known; else it is worked out from
            what is seen.
    """

    frame: float
    ease: Ease = Ease.SMOOTH
    channel_ids: Collection[ChannelId] = ()
    auto: bool = True
    origin: Origin | None = None
    below: State | None = None


def recorded(take: Animation, before: State, after: State, how: Keyed) -> Animation:
    """The take after a change of the figure. Channels without keys change for the whole shot;
    those with keys get one where that is wanted, else the change is loose: seen, and gone with the
    next frame."""
    rig = take.rig
    changed = changed_lanes(rig, before, after)
    if take.instances:
        after = below_blocks(take, after, how.frame) if how.below is None else how.below
    wanted = dict.fromkeys(how.channel_ids)
    free = [
        channel_id
        for channel_id in changed
        if channel_id not in take.keys.lines and channel_id not in wanted
    ]
    if how.auto:
        wanted.update(
            dict.fromkeys(channel_id for channel_id in changed if channel_id in take.keys.lines)
        )
    found = take
    if free:
        found = replace(found, base=with_lanes(rig, take.base, after, free))
    if wanted:
        keys, origin = found.keys.with_origin(how.origin)
        lines = keys_at(rig, after, wanted, how.frame, how.ease, origin)
        found = replace(found, keys=keys.with_lines(lines))
    return found


def below_blocks(take: Animation, after: State, frame: float) -> State:
    """What has to lie below the blocks, so that the change shows through them as it was made."""
    below, shown = take.keyed_at(frame), take.at(frame)
    turned = (below.turn != shown.turn).any(-1)
    turn = after.turn.copy()
    back = multiply(after.turn[turned], inverse(shown.turn[turned]))
    turn[turned] = normalise(multiply(back, below.turn[turned]))
    safe = np.where(np.abs(shown.scale) > 1e-9, shown.scale, 1.0)
    scale = np.where(below.scale != shown.scale, below.scale * after.scale / safe, after.scale)
    rules = take.rig.setting_rules
    moved = below.settings + (after.settings - shown.settings)
    covered = (below.settings != shown.settings) & ~rules.discrete
    settings = np.where(covered, np.clip(moved, rules.low, rules.high), after.settings)
    move = np.where(below.move != shown.move, below.move + after.move - shown.move, after.move)
    return after.with_(turn=turn, scale=scale, settings=settings, move=move)
