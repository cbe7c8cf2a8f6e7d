"""What can be done with keys: holding, stretching, following a newer card."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from fox_hand.core.animation.clip import channel_values
from fox_hand.core.animation.curves import ChannelCurve, ChannelId, Keys
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.maths.rotations import Array
from fox_hand.core.pose.pose import bind
from fox_hand.core.pose.sides import Sides, sided
from fox_hand.library.format.card import Card
from fox_hand.session.animating.key_groups import KeyGroup
from fox_hand.session.figures.animation import Animation


def held(keys: Keys, key_group: KeyGroup, until: float) -> Keys:
    """The keys with a key group held until a frame: the second, equal keys stand there."""
    found = keys
    if key_group.held:
        found = found.without(
            {channel_id: np.array([key_group.end]) for channel_id in key_group.channel_ids}
        )
    if until <= key_group.frame:
        return found
    lines = {}
    for channel_id in key_group.channel_ids:
        line = found.lines[channel_id]
        here = line.at(key_group.frame)
        assert here is not None
        inside = line.frames[(line.frames > key_group.frame + 1e-6) & (line.frames < until)]
        if len(inside):
            found = found.without({channel_id: inside})
        lines[channel_id] = replace(line.taken(np.array([here])), frames=np.array([float(until)]))
    return found.with_lines(lines)


def stretched(keys: Keys, picked: Mapping[ChannelId, Array], pivot: float, factor: float) -> Keys:
    """The keys with some of them scaled in time about a frame, onto whole frames."""
    return keys.carried(picked, lambda f: np.round(pivot + (f - pivot) * factor))


def updated(take: Animation, number: int, card: Card) -> Keys:
    """The keys with those of one origin as its card is now; channels that the card holds no
    longer become keys by hand."""
    rig, keys = take.rig, take.keys
    origin = keys.origins[number]
    pose = sided(rig, bind(card.pose, rig), Sides(origin.side))
    values = {channel_id: (value, euler) for channel_id, value, euler in channel_values(rig, pose)}
    mine_at = [line.frames[line.origins == number] for line in keys.lines.values()]
    frames = np.unique(np.concatenate(mine_at))
    lines: dict[ChannelId, ChannelCurve] = {}
    for channel_id, line in keys.lines.items():
        mine = line.origins == number
        if not mine.any():
            continue
        if channel_id in values:
            value, euler = values[channel_id]
            new = line.values.copy()
            new[mine] = value
            turned = line.euler.copy() if line.euler is not None else None
            if turned is not None and euler is not None:
                turned[mine] = euler
            lines[channel_id] = replace(line, values=new, euler=turned)
        else:
            lines[channel_id] = replace(line, origins=np.where(mine, 0, line.origins))
    fresh = {channel_id: v for channel_id, v in values.items() if channel_id not in lines}
    ease = _ease_of(keys, number)
    for channel_id, (value, euler) in fresh.items():
        count = len(frames)
        lines[channel_id] = ChannelCurve(
            frames,
            np.repeat(value[None], count, axis=0),
            np.full(count, ease, np.uint8),
            np.full(count, number, np.intp),
            np.repeat(euler[None], count, axis=0) if euler is not None else None,
        )
    found = keys.with_lines(lines)
    newer = replace(origin, revision=card.revision, name=card.name)
    return replace(found, origins={**found.origins, number: newer})


def _ease_of(keys: Keys, number: int) -> Ease:
    for line in keys.lines.values():
        mine = line.origins == number
        if mine.any():
            return Ease(int(line.eases[mine][0]))
    return Ease.SMOOTH
