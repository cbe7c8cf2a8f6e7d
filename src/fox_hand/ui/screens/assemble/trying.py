"""A puppet that is posed on the Assemble screen to try pivots and limits: nothing of it is kept."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF
from PySide6.QtGui import QTransform

from fox_hand.core.puppet.puppet import Puppet, PuppetPart


class Trying:
    """How far parts are turned while they are tried.

    Angles are radians, counterclockwise, as on the stage.
    """

    def __init__(self) -> None:
        self.angles: dict[str, float] = {}

    def reset(self) -> None:
        """Everything as it is at rest."""
        self.angles.clear()

    def swing(self, part: PuppetPart, angle: float) -> float:
        """Turn a part, within its limits; returns how far it goes."""
        low, high = part.limits or (-math.inf, math.inf)
        angle = min(max(angle, low), high)
        self.angles[part.name] = angle
        return angle

    def way(self, puppet: Puppet, part: PuppetPart) -> QTransform:
        """From where a part lies on the canvas to where it is now, canvas pixels."""
        found, at, seen = QTransform(), part, set[str]()
        while at.name not in seen:
            seen.add(at.name)
            x, y = at.pivot
            turn = QTransform()
            turn.translate(x, y)
            turn.rotateRadians(-self.angles.get(at.name, 0.0))  # y downwards
            turn.translate(-x, -y)
            found = found * turn
            if at.above is None:
                break
            at = puppet.part(at.above, part.view)
        return found

    def above(self, puppet: Puppet, part: PuppetPart) -> float:
        """How far all that a part hangs on is turned."""
        total, at, seen = 0.0, part, set[str]()
        while at.above is not None and at.name not in seen:
            seen.add(at.name)
            at = puppet.part(at.above, part.view)
            total += self.angles.get(at.name, 0.0)
        return total


def angle_about(middle: QPointF, at: QPointF) -> float:
    """The direction of a point seen from another, radians, counterclockwise from the right."""
    return math.atan2(-(at.y() - middle.y()), at.x() - middle.x())


def between(angle: float) -> float:
    """The same turn within half a turn of nothing."""
    return (angle + math.pi) % (2 * math.pi) - math.pi
