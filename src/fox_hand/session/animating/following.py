"""Keys that came from a card follow its newest revision, as far as it had gone on."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace

import numpy as np

from fox_hand.core.animation.curves import BY_HAND, ChannelCurve, ChannelId, Keys, Origin, keys_at
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.model.skeleton import Index
from fox_hand.core.model.state import State
from fox_hand.core.pose.pose import BoundPose
from fox_hand.library.format.entry import Entry
from fox_hand.session.applying.application import Application
from fox_hand.session.applying.card_origin import base_of, how_of
from fox_hand.session.figures.animation import below_blocks
from fox_hand.session.figures.figure import Figure


@dataclass(frozen=True)
class Followed:
    """Keys after they followed a card.

    Args:
        keys: all keys of the figure.
        by_hand: channels that the card holds and somebody changed at its frames since.
    """

    keys: Keys
    by_hand: tuple[ChannelId, ...]


@dataclass(frozen=True)
class Newer:
    """The newest revision of a card, for the keys of one origin.

    Args:
        number: of the origin.
        entry: the card.
        pose: what it holds, laid against the rig.
        before: channels that it held when it went on; None where nobody knows.
    """

    number: int
    entry: Entry
    pose: BoundPose
    before: frozenset[ChannelId] | None = None


def frames_of(keys: Keys, number: int) -> list[float]:
    """Frames with a key of one origin."""
    found = {f for line in keys.lines.values() for f in line.frames[line.origins == number]}
    return sorted(map(float, found))


def changed_by_hand(keys: Keys, number: int, held: Collection[str]) -> tuple[ChannelId, ...]:
    """Channels of some controls and settings, by name, that have a key of another origin where one
    origin has its keys."""
    frames = np.array(frames_of(keys, number))
    return tuple(
        channel_id
        for channel_id, line in keys.lines.items()
        if channel_id.name in held and (line.near(frames) & (line.origins != number)).any()
    )


def followed(
    actor: Figure,
    keys: Keys,
    number: int,
    pose: BoundPose,
    *,
    before: Collection[ChannelId] | None = None,
    over_hand: bool = False,
) -> Followed:
    """The keys of one origin as its card is now, on the part, the side, by the amount and in the
    way it went on. What was changed by hand at its frames stays; channels that the card holds no
    longer become keys by hand.

    Args:
        actor: who is keyed.
        keys: its keys.
        number: of the origin.
        pose: what the card holds now.
        before: channels that it held then; those held since are keyed too. None: nobody knows,
            and what has no key at its frames is taken as new.
        over_hand: whether what was changed by hand follows as well.
    """
    by_hand = dict[ChannelId, None]()
    for frame in frames_of(keys, number):
        state, held = _anew(actor, keys.origins[number], frame, pose)
        lines, free = {}, dict.fromkeys(held)
        for channel_id, line in keys.lines.items():
            at = np.flatnonzero(line.near(np.array([frame])))
            if not len(at):
                continue
            key, known = int(at[0]), channel_id in free
            free.pop(channel_id, None)
            mine = bool(line.origins[key] == number)
            # beside the card's own, joints or goals were keyed that it had moved along
            along = mine and not known and before is not None and channel_id not in before
            if along or (known and (mine or over_hand)):
                lines[channel_id] = _at(actor, state, channel_id, line, key, number)
            elif known:
                by_hand[channel_id] = None
            elif mine:
                lines[channel_id] = replace(line, origins=_by_hand(line, key))
        fresh = [channel_id for channel_id in free if before is None or channel_id not in before]
        ease = _ease_at(keys, number, frame)
        new = keys_at(actor.rig, state, fresh, frame, ease, number)
        keys = Keys({**keys.lines, **lines}, keys.origins).with_lines(new)
    return Followed(keys, tuple(by_hand))


def touched(actor: Figure, origin: Origin, pose: BoundPose) -> frozenset[ChannelId]:
    """What a card touches where it goes on as an origin says."""
    how, _ = how_of(actor.rig, origin)
    return frozenset(Application(actor, actor.state, [pose], how).channel_ids)


def _anew(
    actor: Figure, origin: Origin, frame: float, pose: BoundPose
) -> tuple[State, list[ChannelId]]:
    """The figure with the card on it as it went on then, below any blocks, and what it touches."""
    rig = actor.rig
    how, weight = how_of(rig, origin)
    base = base_of(rig, origin, actor.take.at(frame))
    putting = Application(actor, base, [pose], how)
    state = putting.at([weight])
    if actor.take.instances:
        state = below_blocks(actor.take, state, frame)
    return state, putting.channel_ids


def _at(
    actor: Figure, state: State, channel_id: ChannelId, line: ChannelCurve, at: int, number: int
) -> ChannelCurve:
    """The curve with the state's value at one of its keys, going on as it did."""
    one = keys_at(actor.rig, state, [channel_id], 0.0, Ease.SMOOTH)[channel_id]
    values, origins, euler = line.values.copy(), line.origins.copy(), line.euler
    values[at], origins[at] = one.values[0], number
    if euler is not None and one.euler is not None:
        euler = euler.copy()
        euler[at] = one.euler[0]
    kept = replace(line, values=values, origins=origins, euler=euler)
    return kept.without_slopes(np.array([at]), np.array([at]))


def _by_hand(line: ChannelCurve, at: int) -> Index:
    origins = line.origins.copy()
    origins[at] = BY_HAND
    return origins


def _ease_at(keys: Keys, number: int, frame: float) -> Ease:
    """How the origin's keys at a frame go on."""
    for line in keys.lines.values():
        mine = (line.origins == number) & line.near(np.array([frame]))
        if mine.any():
            return Ease(int(line.eases[mine][0]))
    return Ease.SMOOTH
