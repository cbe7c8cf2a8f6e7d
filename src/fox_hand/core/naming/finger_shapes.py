"""Which finger is which, from where they begin and how they lie beside each other.

Fingers lie in a row; the thumb is at one end of it, begins nearer to the wrist and points aside.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from fox_hand.core.maths.rotations import Array
from fox_hand.core.naming.finger_roles import BONES, FINGER_NAMES, THUMB_BONES

FEWEST = 3  # fingers that make a hand
PLAIN = 0.15  # by how much one end of the row must be more of a thumb than the other


def finger_shapes(
    chains: Sequence[Sequence[int]], hand: int, elbow: int, places: Array
) -> dict[str, int]:
    """Rows by role, without their side; nothing where no thumb is plain.

    Args:
        chains: what hangs on the wrist, each from there outwards.
        hand, elbow: rows of these joints.
        places: rest places of all joints ``(J, 3)``.
    """
    fingers = [chain for chain in chains if len(chain) > 1]
    if not FEWEST <= len(fingers) <= len(FINGER_NAMES):
        return {}
    along = places[hand] - places[elbow]
    along = along / max(float(np.linalg.norm(along)), 1e-9)
    row = _in_a_row(fingers, hand, along, places)
    bare = [_without_palm(chain, hand, places) for chain in row]
    first, last = (_thumbness(bare[i], bare, hand, along, places) for i in (0, -1))
    if abs(first - last) < PLAIN:
        return {}
    if last > first:
        row = row[::-1]
    found: dict[str, int] = {}
    for name, chain in zip(FINGER_NAMES, row, strict=False):
        thumb = name == FINGER_NAMES[0]
        bones = THUMB_BONES[-min(len(chain), 3) :] if thumb else BONES
        own = chain if thumb else _without_palm(chain, hand, places)
        found |= {name + bone: joint for bone, joint in zip(bones, own, strict=False)}
    return found


def _in_a_row(
    fingers: Sequence[Sequence[int]], hand: int, along: Array, places: Array
) -> list[Sequence[int]]:
    """In the order in which they lie across the hand."""
    middles = np.array([places[chain[len(chain) // 2]] - places[hand] for chain in fingers])
    flat = middles - (middles @ along)[:, None] * along
    flat = flat - flat.mean(0)
    across = np.linalg.svd(flat)[2][0]
    return [fingers[i] for i in np.argsort(flat @ across)]


def _thumbness(
    chain: Sequence[int], row: Sequence[Sequence[int]], hand: int, along: Array, places: Array
) -> float:
    """How much nearer to the wrist than the others a finger begins, and how far it points aside
    from them; both about 0 for a finger and 1 for a thumb."""
    starts = np.array([(places[c[0]] - places[hand]) @ along for c in row])
    own = float((places[chain[0]] - places[hand]) @ along)
    early = 1.0 - own / max(float(np.median(starts)), 1e-9)
    ways = np.array([places[c[-1]] - places[c[0]] for c in row])
    ways /= np.maximum(np.linalg.norm(ways, axis=1, keepdims=True), 1e-9)
    mine = places[chain[-1]] - places[chain[0]]
    mine = mine / max(float(np.linalg.norm(mine)), 1e-9)
    aside = 1.0 - float(np.median(ways @ mine))
    return float(np.clip(early, -1.0, 1.0)) + min(aside, 1.0)


def _without_palm(chain: Sequence[int], hand: int, places: Array) -> Sequence[int]:
    """A finger without the bone in the palm, which is longer than it is far from the wrist."""
    if len(chain) < len(BONES) + 1:
        return chain
    to_wrist = float(np.linalg.norm(places[chain[0]] - places[hand]))
    long = float(np.linalg.norm(places[chain[1]] - places[chain[0]]))
    return chain[1:] if to_wrist < long else chain
