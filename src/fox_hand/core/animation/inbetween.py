"""In between two keys: part of the way from the one before to the one after."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from fox_hand.core.animation.curves import ChannelId, ChannelKind, Keys, place_of
from fox_hand.core.maths.rotations import Array, between
from fox_hand.core.model.state import State
from fox_hand.core.pose.blend import JUMP, blend_scale
from fox_hand.core.rig.rig import Rig

LOWEST, HIGHEST = -0.25, 1.25


def spanning(keys: Keys, channel_ids: Iterable[ChannelId], frame: float) -> list[ChannelId]:
    """Channels that have a key before and one after a frame.

    Args:
        keys: the figure's.
        channels: of these.
        frame: it lies strictly between two keys.
    """
    found = []
    for channel_id in channel_ids:
        line = keys.lines.get(channel_id)
        if line is not None and line.frames[0] < frame < line.frames[-1]:
            found.append(channel_id)
    return found


def in_between(
    rig: Rig, keys: Keys, state: State, channel_ids: Iterable[ChannelId], frame: float, part: float
) -> State:
    """A figure with some channels part of the way between their keys around a frame.

    Args:
        rig: what the state belongs to.
        keys: the figure's keys.
        state: values of everything else.
        channels: channels as :func:`spanning` gives them.
        frame: where; a key just there is passed over.
        part: 0 is the key before, 1 the key after; beyond both is possible.
    """
    arrays = [values.copy() for values in state.arrays()]
    for channel_id in channel_ids:
        line = keys.lines[channel_id]
        before = int(np.searchsorted(line.frames, frame - 1e-6)) - 1
        after = int(np.searchsorted(line.frames, frame + 1e-6))
        row, setting = place_of(rig, channel_id), channel_id.is_setting
        assert row is not None
        start, end = line.values[before], line.values[after]
        discrete = setting and rig.settings[row].discrete
        value = _part_way(channel_id.kind, start, end, part, discrete=discrete)
        if setting:
            low, high = rig.settings[row].minimum, rig.settings[row].maximum
            ends = min(low, float(start[0]), float(end[0])), max(high, *start, *end)
            value = np.clip(value, *ends)[0]
        arrays[channel_id.kind.place][row] = value
        if channel_id.kind is ChannelKind.TURN and line.euler is not None:
            arrays[4][row] = line.euler[before if part < JUMP else after]
    move, turn, scale, settings, euler = arrays
    return state.with_(move=move, turn=turn, scale=scale, settings=settings, euler=euler)


def _part_way(kind: ChannelKind, start: Array, end: Array, part: float, *, discrete: bool) -> Array:
    if part in (0.0, 1.0):
        return (start, end)[int(part)]
    if discrete:
        return start if part < JUMP else end
    if kind is ChannelKind.TURN:
        return between(start, end, part)
    if kind is ChannelKind.SCALE:
        return blend_scale(start, end, part)
    return np.asarray(start + part * (end - start))
