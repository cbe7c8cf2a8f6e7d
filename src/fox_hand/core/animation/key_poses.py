"""Finding the key poses of a performance: where the body comes to rest between moves."""

from __future__ import annotations

import numpy as np

from fox_hand.core.maths.rotations import Array, angle_between
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig

SLOW = 0.35  # of the speed of a lively moment, below which a pose counts as held
LIVELY = 90  # percentile that stands for a lively moment
STILL = 1e-4  # radians a frame; slower than this nothing moves


def joint_speeds(rig: Rig, states: State) -> Array:
    """How fast a figure moves at each frame, radians a frame, ``(F,)``.

    The speed of every joint is weighted by how much of the body hangs from it, so that the spine
    says more than a finger. A frame's speed is the mean of the steps before and after it.
    """
    frames = states.turn.shape[0]
    if frames < 2:
        return np.zeros(frames)
    rows = [r for r, c in enumerate(rig.controls) if c.moves_node and not c.helper]
    weights = np.array([_hanging(rig, rig.controls[r].node) for r in rows], dtype=np.float64)
    step = angle_between(states.turn[:-1, rows], states.turn[1:, rows])
    height = max(rig.height, 1e-9)
    step += np.linalg.norm(np.diff(states.move[:, rows], axis=0), axis=-1) / height
    total = step @ (weights / weights.sum())
    padded = np.concatenate([total[:1], total, total[-1:]])
    return np.asarray((padded[:-1] + padded[1:]) / 2)


def _hanging(rig: Rig, node: int) -> int:
    """A node and all below it."""
    parents = rig.skeleton.parents
    below = {node}
    for child in range(node + 1, len(parents)):
        if parents[child] in below:
            below.add(child)
    return len(below)


def key_poses(speed: Array, *, slow: float = SLOW, apart: int = 6) -> tuple[int, ...]:
    """Frames where the speed has a local minimum below a threshold.

    Args:
        speed: of each frame, ``(F,)``.
        slow: threshold, as a part of the speed of a lively moment.
        apart: fewest frames from one to the next; of two that are nearer the slower one counts.

    Returns:
        frame numbers from 0, in order. In a stretch that stands still it is the middle.
    """
    count = len(speed)
    if count == 0:
        return ()
    limit = max(slow * float(np.percentile(speed, LIVELY)), STILL)
    found = [(float(speed[i]), i) for i in _minima(speed) if speed[i] <= limit]
    chosen: list[int] = []
    for _, frame in sorted(found):
        if all(abs(frame - other) >= apart for other in chosen):
            chosen.append(frame)
    return tuple(sorted(chosen))


def _minima(speed: Array) -> list[int]:
    """Middles of the stretches that are lower than what is on both sides of them."""
    found, start, count = [], 0, len(speed)
    for i in range(1, count + 1):
        if i < count and abs(speed[i] - speed[start]) <= STILL:
            continue
        lower_before = start == 0 or speed[start - 1] > speed[start]
        lower_after = i == count or speed[i] > speed[i - 1]
        if lower_before and lower_after:
            found.append((start + i - 1) // 2)
        start = i
    return found


def held_frames(states: State) -> tuple[int, ...]:
    """Of a set of stepped poses the first frame of each: those that differ from the one before."""
    frames = states.turn.shape[0]
    if frames < 2:
        return tuple(range(frames))
    changed = np.zeros(frames - 1, dtype=bool)
    for values in states.arrays()[:4]:
        changed |= (np.abs(np.diff(values, axis=0)) > 1e-9).reshape(frames - 1, -1).any(axis=1)
    return (0, *(np.flatnonzero(changed) + 1).tolist())
