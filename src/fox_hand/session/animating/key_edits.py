"""What can be done with keys: holding, stretching."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from fox_hand.core.animation.curves import ChannelId, Keys
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.skeleton import Index
from fox_hand.session.animating.key_groups import KeyGroup

NONE: Index = np.zeros(0, np.intp)
FIRST: Index = np.zeros(1, np.intp)


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
        one = line.taken(np.array([here])).without_slopes(FIRST, NONE)
        lines[channel_id] = replace(one, frames=np.array([float(until)]))
        still = line.without_slopes(NONE, np.array([here]))  # nothing swings while it is held
        found = replace(found, lines={**found.lines, channel_id: still})
        inside = line.frames[(line.frames > key_group.frame + 1e-6) & (line.frames < until)]
        if len(inside):
            found = found.without({channel_id: inside})
    return found.with_lines(lines)


def stretched(keys: Keys, picked: Mapping[ChannelId, Array], pivot: float, factor: float) -> Keys:
    """The keys with some of them scaled in time about a frame, onto whole frames."""
    return keys.carried(picked, lambda f: np.round(pivot + (f - pivot) * factor))
