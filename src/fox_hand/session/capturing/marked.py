"""Frames worth capturing: of a performance that is looked through, or of the shot."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from types import MappingProxyType
from typing import Protocol

from fox_hand.core.model.state import State
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.frame_name import FrameName


class Marked(Protocol):
    """Where marks can be set."""

    name: str

    @property
    def marks(self) -> Collection[int]:
        """The marked frames."""

    @property
    def names(self) -> Mapping[int, FrameName]:
        """What marked frames are to be called, where that was said."""

    def at(self, frame: int) -> State:
        """The pose at a frame, without touching the figure."""

    def number(self, frame: int) -> int:
        """What the frame is called."""


class ShotFrames:
    """The marked frames of the shot, for one figure.

    Args:
        actor: the figure.
        name: the shot's.
        names: what its frames are to be called.
    """

    def __init__(
        self, actor: Figure, name: str, names: Mapping[int, FrameName] = MappingProxyType({})
    ) -> None:
        self._actor, self.name, self.names = actor, name, names

    @property
    def marks(self) -> Collection[int]:
        return self._actor.timing.marks

    def at(self, frame: int) -> State:
        return self._actor.take.at(float(frame))

    def number(self, frame: int) -> int:
        return frame
