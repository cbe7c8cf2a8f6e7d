"""Finding which way a figure stands, from where its joints are and what they are."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.body_frame import BodyFrame, vector

SNAP = np.radians(8.0)  # directions nearer to an axis than this are tried as that axis
MOST = 40  # pairs that are tried
STRAIGHT = 2e-6  # of the figure's size: a plane that fits as well is exact
WORSE = 1.5  # and how much worse one along an axis may fit a figure that is not


def find_body(
    places: Array, roles: Mapping[str, int], pairs: Sequence[tuple[int, int]]
) -> BodyFrame:
    """The directions of a figure at rest.

    Args:
        places: rest places of joints ``(J, 3)``.
        roles: rows of joints by humanoid role, as far as they are known.
        pairs: rows of joints of the own left and right that belong together.
    """
    if not len(places):
        return BodyFrame()
    size = max(float(np.ptp(places, axis=0).max()), 1e-9)
    up, up_sure = _up(places, roles)
    across = _across(places, pairs, up, size)
    if across is None:
        ahead = _ahead(places, roles, up)
        left = np.cross(up, ahead) if ahead is not None else _flat(up)
        sure = 0.5 * up_sure if ahead is not None else 0.2
        lefts: tuple[Array, float] = (left, sure)
    else:
        lefts = (across, up_sure)
    left, sure = lefts
    left = left - (left @ up) * up
    left /= np.linalg.norm(left)
    left, middle = _plane(places, pairs, left, up, size)
    return BodyFrame(vector(up), vector(np.cross(left, up)), vector(middle), sure)


def _up(places: Array, roles: Mapping[str, int]) -> tuple[Array, float]:
    """The axis from the feet to the hips, or from the hips to the head; +Y where nothing says."""
    ways = []
    feet = [roles[r] for r in ("leftFoot", "rightFoot") if r in roles]
    hips = [roles[r] for r in ("leftUpperLeg", "rightUpperLeg", "hips") if r in roles]
    heads = [roles[r] for r in ("head", "neck", "upperChest", "chest", "spine") if r in roles]
    if feet and hips:
        ways.append(places[hips].mean(0) - places[feet].mean(0))
    if hips and heads:
        ways.append(places[heads[0]] - places[hips].mean(0))
    if not ways:
        return np.array([0.0, 1.0, 0.0]), 0.5
    total = sum(ways, np.zeros(3))
    number = int(np.argmax(np.abs(total)))
    found = np.zeros(3)
    found[number] = np.sign(total[number]) or 1.0
    agree = all(way[number] * found[number] > 0.5 * np.linalg.norm(way) for way in ways)
    return found, 1.0 if agree else 0.6


def _across(
    places: Array, pairs: Sequence[tuple[int, int]], up: Array, size: float
) -> Array | None:
    """The way from right to left, by all pairs."""
    if not pairs:
        return None
    one, other = np.array(pairs).T
    total = (places[one] - places[other]).sum(0)
    total -= (total @ up) * up
    far = float(np.linalg.norm(total))
    return total / far if far > 1e-3 * size else None


def _ahead(places: Array, roles: Mapping[str, int], up: Array) -> Array | None:
    """From ankles to toes, or from the head to the eyes."""
    for start, end in (("leftFoot", "leftToes"), ("rightFoot", "rightToes"), ("head", "leftEye")):
        if start in roles and end in roles:
            way = places[roles[end]] - places[roles[start]]
            way = way - (way @ up) * up
            far = float(np.linalg.norm(way))
            if far > 1e-6:
                return np.asarray(way / far)
    return None


def _flat(up: Array) -> Array:
    """Left of a figure of which nothing is known but up: +X, or +Y for one that lies along X."""
    return np.array([0.0, 1.0, 0.0]) if abs(up[0]) > 0.9 else np.array([1.0, 0.0, 0.0])


def _plane(
    places: Array, pairs: Sequence[tuple[int, int]], left: Array, up: Array, size: float
) -> tuple[Array, Array]:
    """The direction and a point of the middle plane: those of an axis and of the origin where
    these fit as well as what was measured, so that a figure built exactly is mirrored exactly."""
    if not pairs:
        axis = _axis_near(left, up)
        return axis if axis is not None else left, np.zeros(3)
    one, other = np.array(pairs).T
    tried = [left, *_ways_of_pairs(places[one] - places[other], up)]
    axes = [axis for way in tried if (axis := _axis_near(way, up)) is not None]
    tried = [*axes[:1], *tried]
    halves = (places[one] + places[other]) / 2
    found = []
    for way in tried:
        far = float(np.median(halves @ way))
        found += [
            (_misfit(places[one], places[other], way, d), way, d * way)
            for d in ((0.0, far) if abs(far) < 0.02 * size else (far,))
        ]
    best = min(error for error, _, _ in found)
    sense = np.sign([way @ left for _, way, _ in found])
    found = [(e, way * s, at) for (e, way, at), s in zip(found, sense, strict=True) if s]
    good = next(f for f in found if f[0] <= WORSE * best + STRAIGHT * size)
    return good[1], good[2]


def _axis_near(way: Array, up: Array) -> Array | None:
    """The axis of the world that a direction nearly is; None for other directions."""
    number = int(np.argmax(np.abs(way)))
    axis = np.zeros(3)
    axis[number] = np.sign(way[number])
    near = np.arccos(np.clip(way @ axis, -1, 1)) < SNAP and abs(axis @ up) < 0.5
    return axis if near else None


def _ways_of_pairs(gaps: Array, up: Array) -> list[Array]:
    """The directions in which single pairs lie apart, of those furthest apart: a figure that
    rests with one arm bent has many pairs that say so rightly and a few that do not."""
    flat = gaps - (gaps @ up)[:, None] * up
    far = np.linalg.norm(flat, axis=1)
    order = np.argsort(-far)[:MOST]
    return [flat[i] / far[i] for i in order if far[i] > 1e-9]


def _misfit(one: Array, other: Array, way: Array, far: float) -> float:
    """Half of all pairs are nearer to each other's mirror image than this."""
    image = other - 2 * ((other @ way) - far)[:, None] * way
    return float(np.median(np.linalg.norm(image - one, axis=-1)))
