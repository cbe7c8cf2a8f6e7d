"""Which way a figure stands at rest: up, ahead, and the plane between its two sides."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from fox_hand.core.maths.rotations import Array

FLAT = 1e-6  # of one: who looks less along the ground than this looks up or down
Vector = tuple[float, float, float]


def vector(values: Array) -> Vector:
    """The three numbers of an array ``(3,)``; none of them is a negative zero."""
    x, y, z = (float(v) + 0.0 for v in values)
    return (x, y, z)


@dataclass(frozen=True)
class BodyFrame:
    """A figure's own directions at rest, in the world of its rig; own left is up x ahead.

    Args:
        up, ahead: unit vectors at right angles to each other.
        middle: a point between its two sides.
        sure: from 0 to 1 how sure the directions are.
        said: whether a person or the file says so, instead of what was found.
    """

    up: Vector = (0.0, 1.0, 0.0)
    ahead: Vector = (0.0, 0.0, 1.0)
    middle: Vector = (0.0, 0.0, 0.0)
    sure: float = 1.0
    said: bool = False

    @cached_property
    def axes(self) -> Array:
        """Left, up and ahead as columns ``(3, 3)``."""
        up, ahead = np.array(self.up), np.array(self.ahead)
        return np.stack([np.cross(up, ahead), up, ahead], axis=1)

    @property
    def usual(self) -> bool:
        """Whether it looks along +Z with its middle at x = 0, as figures of this program do."""
        plain = np.abs(self.axes - np.eye(3)).max() < 1e-9
        return bool(plain and abs(self.middle[0]) < 1e-9)

    def seen(self, places: Array) -> Array:
        """Places ``(..., 3)`` of the world as the figure has them: to its left, up, ahead."""
        return np.asarray((places - np.array(self.middle)) @ self.axes)

    @cached_property
    def reflection(self) -> Array:
        """What exchanges the two sides in the world, ``(4, 4)``."""
        left = self.axes[:, 0]
        found = np.eye(4)
        found[:3, :3] -= 2.0 * np.outer(left, left)
        found[:3, 3] = 2.0 * (left @ np.array(self.middle)) * left
        return found

    @property
    def heading(self) -> float:
        """Radians about +Y from +Z to where it looks; who looks from there sees its front. 0 where
        it looks straight up or down."""
        flat = float(np.hypot(self.ahead[0], self.ahead[2]))
        return float(np.arctan2(self.ahead[0], self.ahead[2])) if flat > FLAT else 0.0

    @property
    def facing(self) -> str:
        """In words: ``+Z``, or the angle from it for one that looks between the axes."""
        return _axis(self.ahead)

    @property
    def upwards(self) -> str:
        return _axis(self.up)


USUAL = BodyFrame()


def _axis(way: Vector) -> str:
    number = int(np.argmax(np.abs(way)))
    sign = "+" if way[number] > 0 else "-"
    near = abs(way[number]) > np.cos(np.radians(0.5))
    return f"{sign}{'XYZ'[number]}" if near else f"about {sign}{'XYZ'[number]}"
