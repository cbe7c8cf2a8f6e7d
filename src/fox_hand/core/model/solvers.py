"""What a rig computes by itself, as data: limbs reaching for goals, looking, twisting, drives.

The order of evaluation is: drives (in the rig's order), forward kinematics of all controls, then
limbs, looks and twists in the rig's order. :mod:`fox_hand.core.kinematics.evaluation` does it.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


@dataclass(frozen=True)
class Limb:
    """Two bones that reach for a goal, bending towards a pole.

    Args:
        name: for messages and the interface, such as ``"Left arm"``.
        upper, lower, end: skeleton nodes of the chain; nodes between them are carried along.
        goal: node of the goal; the end takes its place and its turn.
        pole: node of the pole.
        blend: row of the setting that says how much (0 joints only, 1 goal only); None for 1.
        twist_upper, twist_lower: rows of settings in degrees that roll the bones about
            themselves while they follow the goal; None for no roll.
    """

    name: str
    upper: int
    lower: int
    end: int
    goal: int
    pole: int
    blend: int | None = None
    twist_upper: int | None = None
    twist_lower: int | None = None


@dataclass(frozen=True)
class Aim:
    """A node that turns towards a target, measured from where the target stands at rest.

    Args:
        name: for messages and the interface.
        node: what turns.
        target: node it looks at.
        blend: row of the setting that says how much; None for always.
        left, right, up, down: largest turns in radians.
    """

    name: str
    node: int
    target: int
    blend: int | None = None
    left: float = 0.8
    right: float = 0.8
    up: float = 0.6
    down: float = 0.6


@dataclass(frozen=True)
class Twist:
    """A helper that takes a share of another node's turn about their common axis.

    Args:
        node: the helper.
        source: the node whose local turn away from rest is shared.
        axis: 0, 1 or 2, the bone axis of both.
        share: 0...1.
    """

    node: int
    source: int
    axis: int = 1
    share: float = 0.5


class DrivenKind(StrEnum):
    """What a drive moves."""

    SETTING = "setting"
    MOVE = "move"
    TURN = "turn"
    SCALE = "scale"


@dataclass(frozen=True)
class Drive:
    """A piecewise-linear curve from a setting to a setting (so also a morph target) or to one
    channel of a node. What it gives is added to what the channel has by itself; scale is
    multiplied.

    Args:
        source: row of the setting that drives.
        kind: what is driven.
        target: row of the driven setting, or the driven node.
        axis: 0, 1 or 2 for a node's channel.
        points: ``(input, output)`` with growing inputs; outside the first and the last the end
            values hold. Outputs are setting values, metres, radians or factors.
        times: row of a setting whose value the output is multiplied by, so that a corrective
            shape can wait for two things at once; None for no factor.
    """

    source: int
    kind: DrivenKind
    target: int
    axis: int
    points: tuple[tuple[float, float], ...]
    times: int | None = None


Solver = Limb | Aim | Twist
