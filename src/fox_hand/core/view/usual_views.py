"""From where figures are seen where nobody says it."""

from __future__ import annotations

import numpy as np

from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera

FLAT_LENS = float(np.radians(1.0))  # next to no perspective


def seen_from(rig: Rig, aside: float, above: float) -> Camera:
    """A camera towards a figure, not yet framed. Puppets cut out of drawings are seen straight
    on, without perspective, from wherever one would look.

    Args:
        rig: the figure's.
        aside: radians from its front, towards its own left.
        above: radians.
    """
    heading = rig.body.heading
    if rig.flat:
        return Camera(yaw=heading, pitch=0.0, fov=FLAT_LENS)
    return Camera(yaw=heading + aside, pitch=above)
