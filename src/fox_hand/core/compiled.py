"""The two loops of evaluation that thousands of frames spend their time in, compiled.

They do what :mod:`fox_hand.core.evaluation` does with NumPy for single frames; the tests hold the
two to each other. Numba is imported when a batch is evaluated for the first time and keeps the
machine code on disk, so starting the window does not pay for it.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache

import numpy as np

from fox_hand.core.rotations import Array
from fox_hand.core.skeleton import Index

FEWEST = 64  # frames from which on compiled loops are worth their call


@dataclass(frozen=True)
class Kernels:
    """Compiled loops over arrays with the frames last.

    Args:
        fill: ``(local, nodes, frames, turn, scale, slots, driven)``: writes the turned and
            scaled bases of control nodes into ``local (N, 3, 4, F)``. ``frames (J, 3, 3)`` are
            rest turns, ``turn (J, 4, F)``, ``scale (J, 3, F or 1)``; ``slots (J,)`` are rows of
            ``driven (K, 3, F)``, Euler XYZ turns in radians, or -1.
        place: ``(world, local, rows, parents)``: places nodes in the given order; both
            ``(N, 3, 4, F)``, parent -1 for roots.
    """

    fill: Callable[[Array, Index, Array, Array, Array, Index, Array], None]
    place: Callable[[Array, Array, Index, Index], None]


@cache
def kernels() -> Kernels:
    """Compile, or load what was compiled before."""
    import numba  # noqa: PLC0415 - two seconds that only batches pay

    compiled = numba.njit(cache=True, nogil=True, error_model="numpy", fastmath=False)
    return Kernels(compiled(_fill), compiled(_place))


def _fill(
    local: Array,
    nodes: Index,
    frames: Array,
    turn: Array,
    scale: Array,
    slots: Index,
    driven: Array,
) -> None:
    # everything in plain numbers, row by row of the result, so that the inner loops run over
    # neighbouring frames with the processor's wide registers
    count = turn.shape[2]
    varies = scale.shape[2] > 1
    frame = np.empty((3, 3, count))
    for j in range(len(nodes)):
        node, slot = nodes[j], slots[j]
        x, y, z, w = turn[j, 0], turn[j, 1], turn[j, 2], turn[j, 3]
        if slot >= 0:
            # rest turn times intrinsic X, Y, Z turns
            for f in range(count):
                a, b, c = driven[slot, 0, f], driven[slot, 1, f], driven[slot, 2, f]
                sa, ca, sb, cb, sc, cc = 0.0, 1.0, 0.0, 1.0, 0.0, 1.0
                # most drives turn about one axis only, and sines are dear
                if a != 0:
                    sa, ca = np.sin(a), np.cos(a)
                if b != 0:
                    sb, cb = np.sin(b), np.cos(b)
                if c != 0:
                    sc, cc = np.sin(c), np.cos(c)
                for i in range(3):
                    g0, g1, g2 = frames[j, i, 0], frames[j, i, 1], frames[j, i, 2]
                    first = g1 * (ca * sc + sa * sb * cc) + g2 * (sa * sc - ca * sb * cc)
                    second = g1 * (ca * cc - sa * sb * sc) + g2 * (sa * cc + ca * sb * sc)
                    frame[i, 0, f] = g0 * cb * cc + first
                    frame[i, 1, f] = second - g0 * cb * sc
                    frame[i, 2, f] = g0 * sb - g1 * sa * cb + g2 * ca * cb
        for i in range(3):
            g0, g1, g2 = frames[j, i, 0], frames[j, i, 1], frames[j, i, 2]
            for f in range(count):
                if slot >= 0:
                    g0, g1, g2 = frame[i, 0, f], frame[i, 1, f], frame[i, 2, f]
                xx, yy, zz = x[f] * x[f], y[f] * y[f], z[f] * z[f]
                xy, xz, yz = x[f] * y[f], x[f] * z[f], y[f] * z[f]
                wx, wy, wz = w[f] * x[f], w[f] * y[f], w[f] * z[f]
                at = f if varies else 0
                s0, s1, s2 = scale[j, 0, at], scale[j, 1, at], scale[j, 2, at]
                one = g0 * (1 - 2 * (yy + zz)) + g1 * 2 * (xy + wz) + g2 * 2 * (xz - wy)
                two = g0 * 2 * (xy - wz) + g1 * (1 - 2 * (xx + zz)) + g2 * 2 * (yz + wx)
                three = g0 * 2 * (xz + wy) + g1 * 2 * (yz - wx) + g2 * (1 - 2 * (xx + yy))
                local[node, i, 0, f] = one * s0
                local[node, i, 1, f] = two * s1
                local[node, i, 2, f] = three * s2


def _place(world: Array, local: Array, rows: Index, parents: Index) -> None:
    count = world.shape[3]
    for n in range(len(rows)):
        row, parent = rows[n], parents[n]
        if parent < 0:
            world[row] = local[row]
            continue
        for i in range(3):
            for k in range(4):
                for f in range(count):
                    value = world[parent, i, 0, f] * local[row, 0, k, f]
                    value += world[parent, i, 1, f] * local[row, 1, k, f]
                    value += world[parent, i, 2, f] * local[row, 2, k, f]
                    if k == 3:
                        value += world[parent, i, 3, f]
                    world[row, i, k, f] = value
