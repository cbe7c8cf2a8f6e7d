"""Frames of some rig, as they come out of a file with motion."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from fox_hand.core.animation.curves import ChannelId
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.maths.rotations import Array
from fox_hand.core.maths.transforms import undone
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
        unit: metres of one unit of its file, where that does not say it.
        guessed: whether nobody else has said it, either.
    """

    name: str
    rig: Rig
    states: State
    rate: float
    keys: Mapping[ChannelId, FileKeys] = field(default_factory=dict)
    unit: float | None = None
    guessed: bool = False

    def __len__(self) -> int:
        return int(self.states.turn.shape[0])

    def in_unit(self, unit: float) -> Performance:
        """The same of a file without shapes and keys if one of its units is another length.

        Args:
            unit: metres.
        """
        if self.unit is None or self.unit == unit:
            return self
        larger, rig = unit / self.unit, self.rig
        skeleton = replace(rig.skeleton, translation=rig.skeleton.translation * larger)
        x, y, z = (larger * v for v in rig.body.middle)
        body, binds = replace(rig.body, middle=(x, y, z)), undone(skeleton.rest_world)
        made = replace(rig, skeleton=skeleton, body=body, inverse_binds=binds)
        states = self.states.with_(move=self.states.move * larger)
        return replace(self, rig=made, states=states, unit=unit, guessed=False)
