"""``python -m cast.mark RIG SVG``: the application's mark, the outline of a hand making the fox."""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np

from cast.fingers import hand_shape
from cast.poser import Poser
from fox_hand.core.maths.rotations import Array
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Contour, Quality, Standing, View
from fox_hand.interchange.readers import read_rig
from fox_hand.render.engine import Engine

WIDTH, HEIGHT, TRACED = 24.0, 28.0, 900


def outline(rig: Rig) -> Array:
    """The longest contour of the raised hand, ``(N, 2)`` in picture pixels."""
    poser = Poser(rig).aim("arm_L", (0.5, -1, 0.1), (0, 0, 1))
    poser.aim("forearm_L", (0.5, 0.35, 1), (0, 1, 0)).aim("hand_L", (0.0, 1, 0.1), (-0.1, -0.2, 1))
    state = hand_shape(poser, "Fox", "L").state
    names = rig.skeleton.names
    hand = frozenset(
        i
        for i, n in enumerate(names)
        if n == "hand_L" or (n.startswith("finger_") and n.endswith("_L"))
    )
    at = rig.evaluate(state)
    camera = Camera(yaw=0.05, pitch=0.0).framing(rig.flesh(at, hand), 1.0, 1.05)
    standing = Standing(rig, at)
    contour = Contour("hand", standing, hand)
    view = View((standing,), camera, TRACED, TRACED, Quality.DRAFT, False, (contour,))
    return max(Engine().draw(view).contours["hand"], key=len)


def svg(line: Array) -> str:
    """The outline as one filled path that fills the mark's box."""
    low, high = line.min(0), line.max(0)
    scale = float((np.array([WIDTH, HEIGHT]) / (high - low)).min())
    offset = (np.array([WIDTH, HEIGHT]) - (low + high) * scale) / 2
    points = (line * scale + offset)[::4]
    path = "L".join(f"{x:.2f} {y:.2f}" for x, y in points.tolist())
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH:.0f} {HEIGHT:.0f}" '
        f'fill="currentColor"><path d="M{path}Z"/></svg>\n'
    )


if __name__ == "__main__":
    Path(sys.argv[2]).write_text(svg(outline(read_rig(Path(sys.argv[1])))), "utf-8")
