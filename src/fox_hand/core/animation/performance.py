"""Frames of some rig, as they come out of a file with motion."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from fox_hand.core.animation.curves import ChannelId
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig


@dataclass(frozen=True, eq=False)
class FileKeys:
    """Where the keys of one channel stand in a file.

    Args:
        frames: from the first frame of the performance on, ``(K,)``; they need not be whole.
        ease: how it goes on from each of them.
        slopes: of splines how each key is arrived at and left, in units a frame of the performance
            relative to rest, ``(K, 2, w)``.
        values: what the slopes are beside, ``(K, w)``: a turn can be written in two ways.
    """

    frames: Array
    ease: Ease
    slopes: Array | None = None
    values: Array | None = None


@dataclass(frozen=True, eq=False)
class Performance:
    """A motion on the rig of its own file.

    Args:
        name: what it is called.
        rig: whose frames these are.
        states: a batch ``(F, C, ...)``.
        rate: frames a second.
        keys: of channels whose keys are known where these stand.
    """

    name: str
    rig: Rig
    states: State
    rate: float
    keys: Mapping[ChannelId, FileKeys] = field(default_factory=dict)

    def __len__(self) -> int:
        return int(self.states.turn.shape[0])
