"""Frames of some rig, as they come out of a file with motion."""

from __future__ import annotations

from dataclasses import dataclass

from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig


@dataclass(frozen=True, eq=False)
class Performance:
    """A motion on the rig of its own file.

    Args:
        name: what it is called.
        rig: whose frames these are.
        states: a batch ``(F, C, ...)``.
        rate: frames a second.
    """

    name: str
    rig: Rig
    states: State
    rate: float

    def __len__(self) -> int:
        return int(self.states.turn.shape[0])
