"""Hand shapes on a rig; thumbs that meet fingers are solved."""

from __future__ import annotations

import numpy as np
from scipy.optimize import least_squares

from cast.numbers_file import HandNumbers, hands
from cast.poser import Poser
from fox_hand.core.maths.rotations import Array
from fox_hand.core.rig.rig import Rig


def hand_shape(poser: Poser, name: str, side: str) -> Poser:
    """Curl the fingers of one hand."""
    shape = hands()[name]
    _curled(poser, shape, side)
    thumb = shape.thumb
    return _thumb(poser, side, _Thumb(poser.rig, shape).solved if isinstance(thumb, str) else thumb)


def _curled(poser: Poser, shape: HandNumbers, side: str) -> Poser:
    for finger, (a, b, c, spread) in shape.fingers.items():
        poser.turn(f"finger_{finger}_1_{side}", a, 0, spread)
        poser.turn(f"finger_{finger}_2_{side}", b)
        poser.turn(f"finger_{finger}_3_{side}", c)
    return poser


def _thumb(poser: Poser, side: str, angles: tuple[float, ...] | Array) -> Poser:
    a = [float(v) for v in angles]
    poser.turn(f"finger_thumb_1_{side}", a[0], a[2], a[1])
    poser.turn(f"finger_thumb_2_{side}", a[3])
    return poser.turn(f"finger_thumb_3_{side}", a[4])


class _Thumb:
    """Thumb angles by least squares against a target on the curled fingers."""

    SIZE = 0.60 * 0.48  # metres of a hand

    def __init__(self, rig: Rig, shape: HandNumbers) -> None:
        self._rig = rig
        self._curled = _curled(Poser(rig), shape, "L").state
        self._node = {n: i for i, n in enumerate(rig.skeleton.names)}
        self._palm = rig.skeleton.rest_world[self._node["hand_L"]][:3, :3]
        how, *self._fingers = str(shape.thumb).split()
        self._gap = self._to_tips if how == "tips" else self._over

    @property
    def solved(self) -> Array:
        found = least_squares(
            self._residuals,
            np.array([20.0, 0, 0, 20, 20]),
            bounds=([-30, -75, -70, -15, -15], [85, 75, 70, 75, 85]),
        )
        return np.round(found.x, 1)

    def _at(self, world: Array, joint: str, along: float = 0.0) -> Array:
        m = world[self._node[joint]]
        return np.asarray(m[:3, 3] + m[:3, 1] * along)

    def _residuals(self, angles: Array) -> list[float]:
        poser = _thumb(Poser.of(self._rig, self._curled), "L", angles)
        world = self._rig.evaluate(poser.state).nodes
        effort = list(np.asarray(angles) / np.array([90, 80, 90, 80, 80]) * 0.10)
        return [*self._gap(world), *effort]

    def _to_tips(self, world: Array) -> list[float]:
        """Pads touch: the thumb's tip stands just in front of the finger tips."""
        size, palm = self.SIZE, self._palm
        ends = [self._at(world, f"finger_{f}_3_L", 0.115 * size) for f in self._fingers]
        target = sum(ends) / len(ends) + palm[:, 2] * 0.055 * size + palm[:, 1] * 0.03 * size
        return list((self._at(world, "finger_thumb_3_L", 0.135 * size) - target) / size * 9)

    def _over(self, world: Array) -> list[float]:
        """The thumb lies across a curled finger."""
        size, finger = self.SIZE, self._fingers[0]
        knuckle = (
            self._at(world, f"finger_{finger}_2_L") * 0.4
            + self._at(world, f"finger_{finger}_3_L") * 0.6
        )
        target = knuckle + self._palm[:, 2] * 0.135 * size
        lean = self._palm.T @ (self._at(world, "finger_thumb_3_L") - target) / size
        tip = self._at(world, "finger_thumb_3_L", 0.135 * size)
        return [*((tip - target) / size * 6), (lean[2] - 0.01) * 4, (lean[1] + 0.02) * 4]
