"""What differs between two poses, control by control."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from fox_hand.core.maths.rotations import angle_between
from fox_hand.core.pose.pose import Held, Pose

ANGLE = 0.01  # degrees; less counts as the same
DISTANCE = 1e-5  # metres
VALUE = 1e-4  # of a setting, or of a scale
NOTHING = Held()


@dataclass(frozen=True)
class Difference:
    """How one control differs.

    Args:
        control: its name.
        angle: between the turns, degrees.
        distance: between the moves, metres.
        scale: largest factor between the scales, as a difference from 1.
        settings: by name the values in the first and the second pose.
    """

    control: str
    angle: float = 0.0
    distance: float = 0.0
    scale: float = 0.0
    settings: Mapping[str, tuple[float, float]] = field(default_factory=dict)

    @property
    def size(self) -> float:
        """For sorting: a quarter turn, 20 cm, a doubling and a whole unit of a setting count
        alike."""
        change = sum(abs(b - a) for a, b in self.settings.values())
        return self.angle / 90 + self.distance / 0.2 + self.scale + change


def difference(first: Pose, second: Pose) -> tuple[Difference, ...]:
    """What differs, largest first. A channel that only one of them holds counts as at rest in the
    other."""
    names = dict.fromkeys((*first.controls, *second.controls))
    found = (
        _of(name, first.controls.get(name, NOTHING), second.controls.get(name, NOTHING))
        for name in names
    )
    counted = [d for d in found if d is not None]
    return tuple(sorted(counted, key=lambda d: -d.size))


def _of(name: str, a: Held, b: Held) -> Difference | None:
    straight, still, one = (0.0, 0.0, 0.0, 1.0), (0.0, 0.0, 0.0), (1.0, 1.0, 1.0)
    angle = float(np.degrees(angle_between(a.turn or straight, b.turn or straight)))
    distance = float(np.linalg.norm(np.subtract(a.move or still, b.move or still)))
    scale = float(np.abs(np.subtract(a.scale or one, b.scale or one)).max())
    settings = {
        key: (a.settings.get(key, 0.0), b.settings.get(key, 0.0))
        for key in dict.fromkeys((*a.settings, *b.settings))
        if abs(a.settings.get(key, 0.0) - b.settings.get(key, 0.0)) > VALUE
    }
    same = angle < ANGLE and distance < DISTANCE and scale < VALUE and not settings
    return None if same else Difference(name, angle, distance, scale, settings)
