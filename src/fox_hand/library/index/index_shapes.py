"""What the cards of a library hold, kept once for all cards that hold the same."""

from __future__ import annotations

import json
from dataclasses import dataclass

from fox_hand.core.naming.known_roles import JointSaid
from fox_hand.library.format.head import Joints


@dataclass(frozen=True)
class Shape:
    """A set of controls and settings that some cards hold.

    Args:
        controls: names, sorted, each with the settings held of it.
        turning: those of the controls that hold a turn, sorted.
        joints: what the cards say of the joints among them.
    """

    controls: tuple[tuple[str, tuple[str, ...]], ...]
    turning: tuple[str, ...]
    joints: Joints = ()

    @property
    def settings(self) -> tuple[str, ...]:
        """Names of all settings, sorted."""
        return tuple(sorted({s for _, held in self.controls for s in held}))

    @property
    def stored(self) -> str:
        """It as the index keeps it."""
        return json.dumps((self.controls, self.turning, self.joints), separators=(",", ":"))

    @property
    def said(self) -> dict[str, JointSaid]:
        """What the cards say of their joints, by name."""
        return {
            name: JointSaid(parent, role, sure, free)
            for name, parent, role, sure, free in self.joints
        }

    @staticmethod
    def of(stored: str) -> Shape:
        """What :attr:`stored` gave."""
        controls, turning, joints = json.loads(stored)
        return Shape(
            tuple((name, tuple(settings)) for name, settings in controls),
            tuple(turning),
            tuple(tuple(joint) for joint in joints),
        )
