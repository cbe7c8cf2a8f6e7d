"""A drawing in ink: lines where the way a surface faces, or its lightness, jumps."""

from __future__ import annotations

import numpy as np
from scipy.ndimage import gaussian_filter, sobel

from fox_hand.core.maths.rotations import Array
from fox_hand.core.view.render_request import Pixels

INK = np.array([27.0, 42.0, 51.0])
PAPER = np.array([246.0, 240.0, 229.0])
STARTS, FULL = 0.55, 1.5  # strength of a jump at which a line begins, and is as dark as can be
TONE = 0.16  # how much of a surface's darkness is laid under the lines


def ink_drawing(facing: Pixels, *, paper: bool) -> Pixels:
    """Turn a picture of directions into a drawing.

    Args:
        facing: red and green say where a surface faces, blue how light it is, alpha where there
            is one, ``(height, width, 4)``.
        paper: put it on paper; without, what is outside the figure is transparent.

    Returns:
        premultiplied RGBA of the same shape.
    """
    values = facing.astype(np.float64) / 255.0
    inside = values[..., 3]
    lines = np.clip((_jumps(values) - STARTS) / (FULL - STARTS), 0.0, 1.0)
    tone = 1.0 - TONE * (1.0 - values[..., 2])
    fill = PAPER * tone[..., None] * inside[..., None] + PAPER * (1.0 - inside[..., None])
    drawn = fill * (1.0 - lines[..., None]) + INK * lines[..., None]
    alpha = np.ones_like(inside) if paper else np.maximum(inside, lines)
    found = np.concatenate([drawn * alpha[..., None], alpha[..., None] * 255.0], axis=-1)
    drawing: Pixels = np.clip(np.rint(found), 0, 255).astype(np.uint8)
    return drawing


def _jumps(values: Array) -> Array:
    """How much neighbours differ, ``(height, width)``."""
    total = np.zeros(values.shape[:2])
    for channel, weight in ((0, 1.0), (1, 1.0), (2, 1.3), (3, 2.0)):
        smooth = gaussian_filter(values[..., channel], 0.8)
        total += weight * np.hypot(sobel(smooth, 0), sobel(smooth, 1))
    return total
