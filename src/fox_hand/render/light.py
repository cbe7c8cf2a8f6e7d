"""Where the key light stands and what the shadow map covers."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fox_hand.core.maths.rotations import Array
from fox_hand.core.view.render_request import Standing

KEY: Array = np.array([-0.5, 1.05, 0.72]) / np.linalg.norm([-0.5, 1.05, 0.72])


@dataclass(frozen=True, eq=False)
class Room:
    """The space the figures take up.

    Args:
        centre: middle of all figures, world metres.
        reach: radius of a sphere around them.
        floor: height of the ground.
        feet: what touches the ground: x, z, radius, strength, ``(8, 4)``.
        heading: radians about Y by which the lights stand, so that faces are lit.
    """

    centre: Array
    reach: float
    floor: float
    feet: Array
    heading: float = 0.0

    @property
    def about(self) -> tuple[float, float]:
        """Cosine and sine of the heading."""
        return float(np.cos(self.heading)), float(np.sin(self.heading))

    @property
    def key(self) -> Array:
        """The way to the key light, ``(3,)``."""
        (c, s), (x, y, z) = self.about, KEY
        return np.array([c * x + s * z, y, c * z - s * x])

    def to_light(self) -> Array:
        """World to the light's clip space, ``(4, 4)``."""
        z, reach = self.key, self.reach
        x = np.cross([0.0, 1.0, 0.0], z)
        x /= np.linalg.norm(x)
        y = np.cross(z, x)
        view = np.eye(4)
        view[:3, :3] = np.stack([x, y, z])
        view[:3, 3] = -view[:3, :3] @ (self.centre + z * reach * 4)
        ortho = np.diag([1 / reach, 1 / reach, -2 / (reach * 8), 1.0])
        ortho[2, 3] = -1.0
        return np.asarray(ortho @ view)


def room_of(figures: tuple[Standing, ...]) -> Room:
    """The room around some figures, from where their joints are."""
    points, feet, floor, flesh = [], [], 0.0, 0.1
    for i, standing in enumerate(figures):
        rig = standing.rig
        nodes = rig.joint_nodes if len(rig.joint_nodes) else rig.palette_nodes
        at = standing.at.nodes[nodes, :3, 3]
        points.append(at)
        flesh = max(flesh, 0.22 * rig.height)
        ground = float(rig.rest_bounds[0][1]) if rig.parts else 0.0
        floor = ground if i == 0 else min(floor, ground)
        bones = rig.fleshed_nodes if len(rig.fleshed_nodes) else nodes
        feet.append(_feet(standing.at.nodes[bones, :3, 3], ground, rig.height))
    everything = np.concatenate(points) if points else np.zeros((1, 3))
    low, high = everything.min(0), everything.max(0)
    blobs = np.concatenate(feet)[:8] if feet else np.zeros((0, 4))
    blobs = np.vstack([blobs, np.tile([0, 0, 1, 0], (8 - len(blobs), 1))])
    reach = float(np.linalg.norm(high - low)) / 2 + flesh
    return Room((low + high) / 2, reach, floor, blobs, _heading(figures))


def _heading(figures: tuple[Standing, ...]) -> float:
    """Where the figures look together at rest; 0 where they look apart."""
    headings = [standing.rig.body.heading for standing in figures]
    east, north = float(np.sin(headings).sum()), float(np.cos(headings).sum())
    together = np.hypot(east, north) > 0.1 * len(headings)
    return float(np.arctan2(east, north)) if together else 0.0


def _feet(joints: Array, ground: float, height: float) -> Array:
    """Soft dark spots under the four lowest joints, fading as they lift off."""
    lowest = np.argsort(joints[:, 1], kind="stable")[:4]
    up = (joints[lowest, 1] - ground) / height
    strength = 0.30 * np.clip(1 - up / 0.14, 0, 1)
    radius = np.full(len(lowest), 0.085 * height)
    return np.stack([joints[lowest, 0], joints[lowest, 2], radius, strength], 1)
