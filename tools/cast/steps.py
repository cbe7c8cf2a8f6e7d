"""The four poses of a walk."""

from __future__ import annotations

from cast.fingers import hand_shape
from cast.poser import Poser


def _trunk(p: Poser, twist: float, roll: float, drop: float) -> None:
    p.turn("hips", 3, twist, roll).move("hips", 0, drop, 0)
    p.turn("spine_1", 2, -twist * 0.6, -roll * 0.5).turn("spine_2", 1, -twist * 0.6, -roll * 0.3)
    p.turn("chest", 0, -twist * 0.8, 0).turn("neck", 0).turn("head", -3, twist * 0.8, 0)


def _arm(p: Poser, side: str, swing: float) -> None:
    s = 1 if side == "L" else -1
    p.aim(f"arm_{side}", (0.22 * s, -1, 0.55 * swing), (0.2 * s, 0, 1))
    p.aim(f"forearm_{side}", (0.10 * s, -1, 0.35 + 0.75 * swing), (0.3 * s, 0.2, 1))
    hand_shape(p, "Relaxed", side)


def contact(p: Poser, front: str, back: str) -> Poser:
    """Heel down in front, the other foot on its toes."""
    twist = 7 if front == "R" else -7
    _trunk(p, twist, 0, -0.035)
    f, b = (1 if front == "L" else -1), (1 if back == "L" else -1)
    p.aim(f"thigh_{front}", (0.05 * f, -1, 0.46), (0.1 * f, 0, 1))
    p.aim(f"shin_{front}", (0.02 * f, -1, 0.30), (0.1 * f, 0, -1))
    p.aim(f"foot_{front}", (0.12 * f, -0.02, 1), (0, 1, 0))
    p.aim(f"thigh_{back}", (0.04 * b, -1, -0.26), (0.1 * b, 0, 1))
    p.aim(f"shin_{back}", (0.02 * b, -1, -0.72), (0.1 * b, 0, -1))
    p.aim(f"foot_{back}", (0.12 * b, -0.95, 0.75), (0, 1, 0.4))
    _arm(p, front, -0.6)
    _arm(p, back, 0.8)
    return p


def passing(p: Poser, stands: str, lifts: str) -> Poser:
    """One leg straight below, the other bent beside it."""
    s, m = (1 if stands == "L" else -1), (1 if lifts == "L" else -1)
    _trunk(p, 0, 3 * s, 0.006)
    p.aim(f"thigh_{stands}", (0.02 * s, -1, 0.02), (0.1 * s, 0, 1))
    p.aim(f"shin_{stands}", (0.01 * s, -1, -0.06), (0.1 * s, 0, -1))
    p.aim(f"foot_{stands}", (0.12 * s, -0.36, 1), (0, 1, 0))
    p.aim(f"thigh_{lifts}", (0.05 * m, -1, 0.38), (0.1 * m, 0, 1))
    p.aim(f"shin_{lifts}", (0.02 * m, -1, -0.75), (0.1 * m, 0, -1))
    p.aim(f"foot_{lifts}", (0.12 * m, -0.75, 0.8), (0, 1, 0.3))
    _arm(p, stands, -0.05)
    _arm(p, lifts, 0.1)
    return p
