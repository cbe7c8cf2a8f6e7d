"""Drawings as large as they were drawn: one of their pixels is one of the picture's."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from fox_hand.core.kinematics.evaluation import Evaluation
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera

LENS = float(np.radians(0.05))  # what lies one before the other is not a tenth of a pixel larger
SEEN = 0.01  # scale from which on a drawing is seen


@dataclass(frozen=True)
class TrueSize:
    """How large drawings were drawn.

    Args:
        fine: pixels of theirs to a metre, of the finest.
        corner: where a corner of one lies, x and y, metres.
    """

    fine: float
    corner: tuple[float, float]


def true_size(rig: Rig, at: Evaluation) -> TrueSize | None:
    """How large the drawings are that are seen; None where there are none.

    Args:
        rig: a puppet.
        at: how it stands.
    """
    found: TrueSize | None = None
    for part in rig.parts:
        packed, matrix = part.material.drawing, at.palette[int(part.joints[0, 0])]
        scale = float(np.linalg.norm(matrix[:3, 0]))
        wide = float(np.ptp(part.positions[:, 0])) * scale
        if packed is None or scale <= SEEN or wide <= 1e-9:
            continue
        fine = packed.width / wide
        if found is None or fine > found.fine * (1 + 1e-6):
            x, y, _ = matrix[:3, :3] @ part.positions[0] + matrix[:3, 3]
            found = TrueSize(fine, (float(x), float(y)))
    return found


def at_true_size(camera: Camera, size: tuple[int, int], drawn: TrueSize) -> Camera:
    """A camera that looks straight on, from where a pixel of a drawing is a pixel of the picture,
    moved by less than one so that they lie on each other.

    Args:
        camera: from where now; its middle stays.
        size: width and height of the picture, pixels.
        drawn: how large the drawings are.
    """
    (x, y, z), fine = camera.target, drawn.fine
    places = []
    for now, corner, side in ((x, drawn.corner[0], size[0]), (y, drawn.corner[1], size[1])):
        off = (corner - now) * fine + side / 2  # where the corner lies, pixels
        places.append(now + (off - round(off)) / fine)
    distance = size[1] / fine / 2 / float(np.tan(LENS / 2))
    return replace(camera, target=(places[0], places[1], z), distance=distance, fov=LENS)
