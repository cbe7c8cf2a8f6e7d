"""The loops of evaluation that thousands of frames spend their time in, compiled.

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
            ``driven (K, 3, 3, F)``, which replace the rest turns, or -1.
        driven: ``(out, frames, angles)``: ``out (K, 3, 3, F)`` becomes ``frames (K, 3, 3)`` times
            intrinsic X, Y, Z turns ``angles (K, 3, F)`` in radians.
        place: ``(world, local, rows, parents)``: places nodes in the given order; both
            ``(N, 3, 4, F)``, parent -1 for roots.
        product: ``(out, a, b, back)``: ``out (K, 3, n, F)`` becomes ``a (K, 3, 3, F or 1)`` times
            ``b (K, 3, n, F or 1)``; with ``back`` the transposed ``a``.
        give_out: ``(out, world, order)``: ``world (N, 3, 4, F)`` to whole matrices
            ``out (F, N, 4, 4)``, with the nodes in ``order``.
    """

    fill: Callable[[Array, Index, Array, Array, Array, Index, Array], None]
    driven: Callable[[Array, Array, Array], None]
    place: Callable[[Array, Array, Index, Index], None]
    product: Callable[[Array, Array, Array, bool], None]
    give_out: Callable[[Array, Array, Index], None]


@cache
def kernels() -> Kernels:
    """Compile, or load what was compiled before."""
    import numba  # noqa: PLC0415 - two seconds that only batches pay

    compiled = numba.njit(cache=True, nogil=True, error_model="numpy", fastmath=False)
    return Kernels(*(compiled(f) for f in (_fill, _driven, _place, _product, _give_out)))


def _driven(out: Array, frames: Array, angles: Array) -> None:
    for j in range(len(frames)):
        for f in range(angles.shape[2]):
            a, b, c = angles[j, 0, f], angles[j, 1, f], angles[j, 2, f]
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
                out[j, i, 0, f] = g0 * cb * cc + first
                out[j, i, 1, f] = second - g0 * cb * sc
                out[j, i, 2, f] = g0 * sb - g1 * sa * cb + g2 * ca * cb


def _fill(
    local: Array,
    nodes: Index,
    frames: Array,
    turn: Array,
    scale: Array,
    slots: Index,
    driven: Array,
) -> None:
    # row by row of the result and without branches in the inner loops, so that these run over
    # neighbouring frames with the processor's wide registers
    count = turn.shape[2]
    frame, size = np.empty((3, 3, count)), np.empty((3, count))
    for j in range(len(nodes)):
        q, to = turn[j], local[nodes[j]]
        for i in range(3):
            size[i] = scale[j, i]
            for k in range(3):
                if slots[j] >= 0:
                    frame[i, k] = driven[slots[j], i, k]
                else:
                    frame[i, k] = frames[j, i, k]
        for i in range(3):
            g, row = frame[i], to[i]
            for f in range(count):
                x, y, z, w = q[0, f], q[1, f], q[2, f], q[3, f]
                one = g[0, f] * (1 - 2 * (y * y + z * z)) + g[1, f] * 2 * (x * y + w * z)
                row[0, f] = (one + g[2, f] * 2 * (x * z - w * y)) * size[0, f]
            for f in range(count):
                x, y, z, w = q[0, f], q[1, f], q[2, f], q[3, f]
                two = g[0, f] * 2 * (x * y - w * z) + g[1, f] * (1 - 2 * (x * x + z * z))
                row[1, f] = (two + g[2, f] * 2 * (y * z + w * x)) * size[1, f]
            for f in range(count):
                x, y, z, w = q[0, f], q[1, f], q[2, f], q[3, f]
                three = g[0, f] * 2 * (x * z + w * y) + g[1, f] * 2 * (y * z - w * x)
                row[2, f] = (three + g[2, f] * (1 - 2 * (x * x + y * y))) * size[2, f]


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


def _product(out: Array, a: Array, b: Array, back: bool) -> None:
    rows, columns, count = out.shape[0], out.shape[2], out.shape[3]
    # an operand that is the same in all frames is read once
    fixed_a, fixed_b = a.shape[3] == 1, b.shape[3] == 1
    for r in range(rows):
        for i in range(3):
            x = a[r, 0, i] if back else a[r, i, 0]
            y = a[r, 1, i] if back else a[r, i, 1]
            z = a[r, 2, i] if back else a[r, i, 2]
            for n in range(columns):
                u, v, w = b[r, 0, n], b[r, 1, n], b[r, 2, n]
                if fixed_a:
                    for f in range(count):
                        out[r, i, n, f] = x[0] * u[f] + y[0] * v[f] + z[0] * w[f]
                elif fixed_b:
                    for f in range(count):
                        out[r, i, n, f] = x[f] * u[0] + y[f] * v[0] + z[f] * w[0]
                else:
                    for f in range(count):
                        out[r, i, n, f] = x[f] * u[f] + y[f] * v[f] + z[f] * w[f]


def _give_out(out: Array, world: Array, order: Index) -> None:
    # written out in full: twice as fast here as loops over the entries
    for n in range(len(order)):
        m = world[order[n]]
        for f in range(world.shape[3]):
            to = out[f, n]
            to[0, 0], to[0, 1], to[0, 2], to[0, 3] = m[0, 0, f], m[0, 1, f], m[0, 2, f], m[0, 3, f]
            to[1, 0], to[1, 1], to[1, 2], to[1, 3] = m[1, 0, f], m[1, 1, f], m[1, 2, f], m[1, 3, f]
            to[2, 0], to[2, 1], to[2, 2], to[2, 3] = m[2, 0, f], m[2, 1, f], m[2, 2, f], m[2, 3, f]
            to[3, 0], to[3, 1], to[3, 2], to[3, 3] = 0.0, 0.0, 0.0, 1.0
