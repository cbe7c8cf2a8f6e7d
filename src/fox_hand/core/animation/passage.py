"""How a clip passes, in as few numbers as a pose: what finding like clips needs."""

from __future__ import annotations

import numpy as np

from fox_hand.core.animation.clip import Clip
from fox_hand.core.animation.curves import ChannelKind
from fox_hand.core.pose.similarity import Numbers

MARK = "\x1f"  # no control has it in its name
MOMENTS = 5  # at even distances from its beginning to its end


def passage(clip: Clip) -> Numbers:
    """The turns and settings of a clip at a few moments, each under a name of its own, so that two
    clips are as alike as they are at their beginnings, quarters, middles and ends. How long they
    take does not count: a slower walk is the same walk."""
    at = np.linspace(0.0, clip.length, MOMENTS)
    turns, settings = dict[str, tuple[float, ...]](), dict[str, float]()
    for channel_id, line in clip.lines.items():
        if channel_id.kind not in (ChannelKind.TURN, ChannelKind.SETTING):
            continue
        turning = channel_id.kind is ChannelKind.TURN
        for moment, value in enumerate(line.track.sample(at).tolist()):
            name = f"{channel_id.name}{MARK}{moment}"
            if turning:
                turns[name] = tuple(value)
            else:
                settings[name] = value[0]
    return Numbers(turns, settings)


def plain(name: str) -> str:
    """The control or setting that a name in a passage, or in a pose, is of."""
    return name.partition(MARK)[0]
