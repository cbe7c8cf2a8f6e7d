"""A picture that stands upright on the stage, behind the figures or in front of them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fox_hand.core.kinematics.evaluation import Evaluation
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.mesh import Material, MeshPart
from fox_hand.core.model.skeleton import Skeleton
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.render_request import Pixels, Standing

BEHIND, BEFORE = 2.0, 0.8  # metres from the middle of the stage


@dataclass(frozen=True)
class Placed:
    """Where a backdrop stands.

    Args:
        near: before the figures, not behind them.
        x, y: the middle of its lower edge, metres.
        height: metres; the width follows from the picture.
        yaw: which way it faces, radians about the vertical from the front, as of a camera.
    """

    near: bool = False
    x: float = 0.0
    y: float = 0.0
    height: float = 2.0
    yaw: float = 0.0

    def matrix(self) -> Array:
        """From a picture of height 1 above the origin to the stage, ``(4, 4)``."""
        found = np.diag([self.height, self.height, self.height, 1.0])
        found[:3, 3] = self.x, self.y, depth_of(self.near)
        return facing(self.yaw) @ found


def facing(yaw: float) -> Array:
    """A turn about the vertical, ``(4, 4)``."""
    found = np.eye(4)
    sine, cosine = np.sin(yaw), np.cos(yaw)
    found[0, 0], found[0, 2], found[2, 0], found[2, 2] = cosine, sine, -sine, cosine
    return found


def depth_of(near: bool) -> float:
    """How far before the middle of the stage a backdrop stands, metres."""
    return BEFORE if near else -BEHIND


def backdrop_rig(name: str, pixels: Pixels) -> Rig:
    """A picture as something that can stand on the stage.

    Args:
        name: of the file, for messages.
        pixels: sRGB with straight alpha, ``(height, width, 4)``.
    """
    half = pixels.shape[1] / max(pixels.shape[0], 1) / 2
    corners = np.array([[-half, 0, 0], [half, 0, 0], [half, 1, 0], [-half, 1, 0]], np.float32)
    part = MeshPart(
        name,
        corners,
        np.tile(np.array([0, 0, 1], np.float32), (4, 1)),
        np.array([[0, 1, 2], [0, 2, 3]], np.int32),
        np.zeros((4, 1), np.int32),
        np.ones((4, 1), np.float32),
        np.array([[0, 1], [1, 1], [1, 0], [0, 0]], np.float32),
        np.ones((4, 4), np.float32),
        Material(name, (1.0, 1.0, 1.0, 1.0), 1.0, pixels, double_sided=True, flat=True),
    )
    still = Skeleton((name,), (-1,), np.zeros((1, 3)), np.array([[0, 0, 0, 1.0]]), np.ones((1, 3)))
    return Rig(name, still, (), (), (part,), np.zeros(1, np.intp), np.eye(4)[None])


def standing_at(rig: Rig, placed: Placed) -> Standing:
    """A picture where it stands."""
    nodes = placed.matrix()[None]
    at = Evaluation(nodes, np.zeros(0), rig.palette_nodes, rig.inverse_binds)
    return Standing(rig, at)


def filling(low: Array, high: Array, aspect: float, near: bool, yaw: float = 0.0) -> Placed:
    """So large that a rectangle of the stage is filled.

    Args:
        low, high: corners of what is seen, ``(2,)`` metres.
        aspect: of the picture, width to height.
        near, yaw: see :class:`Placed`.
    """
    wide, tall = float(high[0] - low[0]), float(high[1] - low[1])
    height = max(tall, wide / max(aspect, 1e-6))
    middle = float(low[0] + high[0]) / 2
    return Placed(near, middle, float(low[1]) - (height - tall) / 2, height, yaw)
