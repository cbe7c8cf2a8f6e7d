"""Weights of several poses from one place on a pad between them."""

from __future__ import annotations

import numpy as np


def shares_of_pad(at: tuple[float, float], count: int) -> list[float]:
    """Weights of the cards around a pad for a place on it; they add to 1.

    Args:
        at: from the left and from the top, 0...1.
        count: two lie left and right, three at the corners of a triangle, four at those of the
            pad, more on a circle.
    """
    x, y = at
    if count == 2:
        return [1 - x, x]
    if count == 4:
        return [(1 - x) * (1 - y), x * (1 - y), (1 - x) * y, x * y]
    corners = pad_corners(count)
    if count == 3:
        matrix = np.array([[cx, cy, 1.0] for cx, cy in corners]).T
        found = np.maximum(np.linalg.solve(matrix, [x, y, 1.0]), 0.0)
    else:
        gaps = np.array([(x - cx) ** 2 + (y - cy) ** 2 for cx, cy in corners])
        near = gaps.min() < 1e-9
        found = (gaps == gaps.min()).astype(float) if near else 1 / gaps
    return [float(v) for v in found / found.sum()]


def pad_corners(count: int) -> list[tuple[float, float]]:
    """Where the cards of a pad have all the weight."""
    if count == 2:
        return [(0.0, 0.5), (1.0, 0.5)]
    if count == 3:
        return [(0.0, 0.0), (1.0, 0.0), (0.5, 1.0)]
    if count == 4:
        return [(0.0, 0.0), (1.0, 0.0), (0.0, 1.0), (1.0, 1.0)]
    angles = [2 * np.pi * i / count - np.pi / 2 for i in range(count)]
    return [(float(0.5 + 0.5 * np.cos(a)), float(0.5 + 0.5 * np.sin(a))) for a in angles]
