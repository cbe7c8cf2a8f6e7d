"""Weighted means of rotations: the intrinsic (Karcher) mean.

The mean is the rotation whose weighted sum of squared geodesic distances to the given ones is
least; there the weighted sum of logarithms vanishes, which is what is iterated for (Karcher 1977,
Comm. Pure Appl. Math. 30; Manton 2004, ICARCV). For two rotations it lies on the geodesic between
them, unlike the chordal mean.
"""

from __future__ import annotations

import numpy as np

from fox_hand.core.maths.rotations import NOTHING, Array, from_vector, left, normalise

STEPS = 32
CLOSE = 1e-9  # radians; the next step would be far below it


def weighted_mean(turns: Array, weights: Array) -> Array:
    """Intrinsic means of some rotations.

    Args:
        turns: unit quaternions ``(n, k, 4)``.
        weights: zero or more, ``(n, k)``; of each ``k`` at least one is above zero.

    Returns:
        unit quaternions ``(k, 4)``. Where one weight is all there is, that rotation bit for bit.
        Where some lie further than a quarter turn from it there may be several such places;
        then the one that is reached from the chordal mean, on the side of the heaviest.
    """
    share = weights / weights.sum(0)
    heaviest = np.argmax(share, axis=0)
    columns = np.arange(turns.shape[1])
    lead = turns[heaviest, columns]
    same_half = np.where((turns * lead).sum(-1, keepdims=True) < 0, -turns, turns)
    found = normalise((share[..., None] * same_half).sum(0))
    alone = share[heaviest, columns] == 1.0
    going = np.flatnonzero(~alone)
    # the columns in front, so that each step is a few small matrix products
    columns_first, shares = np.moveaxis(turns, 0, -1), share.T
    for _ in range(STEPS):
        if not len(going):
            break
        product = left(found[going])
        step = _step(product.swapaxes(1, 2) @ columns_first[going], shares[going])
        found[going] = normalise((product @ from_vector(step)[..., None])[..., 0])
        going = going[np.abs(step).max(-1) > CLOSE]
    return np.asarray(np.where(alone[:, None], lead, found))


def _step(away: Array, share: Array) -> Array:
    """The way from the present to the next place, ``(k, 3)`` radians.

    The sum of the logarithms is divided by the second derivative of half the squared distance in
    its direction: that of one rotation is ``h cot h`` across the way to it and 1 along it, ``h``
    half the angle (Manton 2004). That halves the number of steps; held above 0.5 it makes none
    wild.

    Args:
        away: the rotations as seen from the present place, ``(k, 4, n)``.
        share: their weights, ``(k, n)``, with the sum 1.
    """
    vector, w = away[:, :3], away[:, 3]
    sine = np.maximum(np.sqrt((vector * vector).sum(1)), NOTHING)
    ratio = np.arctan2(sine, np.abs(w)) / sine
    total = (vector @ (2.0 * ratio * np.copysign(share, w))[..., None])[..., 0]
    curved = ratio * np.abs(w)
    far = np.maximum(np.sqrt((total * total).sum(1, keepdims=True)), NOTHING)
    along = ((total / far)[:, None] @ vector)[:, 0] / sine
    along *= along
    bend = (share * (curved + (1.0 - curved) * along)).sum(1, keepdims=True)
    return np.asarray(total / np.maximum(bend, 0.5))
