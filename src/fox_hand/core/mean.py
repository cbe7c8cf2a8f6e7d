"""Weighted means of rotations: the intrinsic (Karcher) mean.

The mean is the rotation whose weighted sum of squared geodesic distances to the given ones is
least; there the weighted sum of logarithms vanishes, which is what is iterated for (Karcher 1977,
Comm. Pure Appl. Math. 30; Manton 2004, ICARCV). For two rotations it lies on the geodesic between
them, unlike the chordal mean.
"""

from __future__ import annotations

import numpy as np

from fox_hand.core.rotations import Array, from_vector, inverse, multiply, normalise, to_vector

STEPS = 32
CLOSE = 1e-10  # radians; the next step would be far below it


def weighted_mean(turns: Array, weights: Array) -> Array:
    """Intrinsic means of some rotations.

    Args:
        turns: unit quaternions ``(n, k, 4)``.
        weights: zero or more, ``(n, k)``; of each ``k`` at least one is above zero.

    Returns:
        unit quaternions ``(k, 4)``. Where one weight is all there is, that rotation bit for bit.
        For rotations spread over half a turn and more the mean nearest to the heaviest.
    """
    share = weights / weights.sum(0)
    heaviest = np.argmax(share, axis=0)
    columns = np.arange(turns.shape[1])
    lead = turns[heaviest, columns]
    same_half = np.where((turns * lead).sum(-1, keepdims=True) < 0, -turns, turns)
    found = normalise((share[..., None] * same_half).sum(0))
    going = np.flatnonzero(share[heaviest, columns] < 1.0)
    for _ in range(STEPS):
        if not len(going):
            break
        steps = to_vector(multiply(inverse(found[going]), turns[:, going]))
        step = (share[:, going, None] * steps).sum(0)
        found[going] = normalise(multiply(found[going], from_vector(step)))
        going = going[np.abs(step).max(-1) > CLOSE]
    alone = share[heaviest, columns] == 1.0
    return np.asarray(np.where(alone[:, None], lead, found))
