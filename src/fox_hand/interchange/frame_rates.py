"""The rate a file was made at, from where its keys stand, and frames at another rate."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

import numpy as np

from fox_hand.core.animation.performance import Performance
from fox_hand.core.maths.rotations import Array, between
from fox_hand.core.model.state import State

USUAL = 24.0
# those people work at, the commonest first; NTSC rates are 1000/1001 of whole ones (SMPTE ST 170)
RATES = (
    *(24.0, 30.0, 25.0, 60.0, 50.0, 48.0, 24_000 / 1001, 30_000 / 1001, 60_000 / 1001),
    *(12.0, 15.0, 20.0, 90.0, 100.0, 120.0, 240.0),
)
MANY = 8  # keys at an even step are one for every frame
NEAR = 0.02  # of a frame: how far keys may stand from whole frames


def rate_of(times: Iterable[Array]) -> float:
    """The rate at which all keys stand on whole frames: that of keys that come one after another
    at an even step, else the first of the usual ones; where none fits, that of the middle step.

    Args:
        times: of the keys of each channel in seconds, ``(K,)``.
    """
    known = [np.asarray(t, dtype=np.float64) for t in times if len(t)]
    if not known:
        return USUAL
    every = np.unique(np.concatenate(known))
    for rate in (*_even(known), *RATES):
        frames = every * rate
        if np.abs(frames - np.round(frames)).max() < NEAR:
            return rate
    steps = np.concatenate([np.diff(t) for t in known if len(t) > 1] or [np.zeros(0)])
    steps = steps[steps > 1e-4]
    return float(1.0 / np.median(steps)) if len(steps) else USUAL


def _even(known: Sequence[Array]) -> list[float]:
    """The rate of channels with a key on every frame, the usual one nearest to it."""
    found = []
    for times in known:
        if len(times) < MANY:
            continue
        steps = np.diff(times)
        step = float(np.median(steps))
        if step > 1e-4 and np.abs(steps - step).max() < NEAR * step:
            rate = 1.0 / step
            near = min(RATES, key=lambda usual: abs(usual - rate))
            found.append(near if abs(near - rate) < 1e-3 * rate else rate)
    return sorted(set(found), reverse=True)


def usual_rate(rate: float) -> float:
    """The rate people work at that a file means which writes it with few digits."""
    near = min(RATES, key=lambda usual: abs(usual - rate))
    return near if abs(near - rate) < 2e-4 * rate else rate


def frame_count(last: float) -> int:
    """How many frames there are up to the last key, at a frame that need not be whole; the last
    key is never cut off."""
    return int(np.ceil(last - NEAR)) + 1


def at_rate(performance: Performance, rate: float | None) -> Performance:
    """The same motion at another rate; what is between two frames goes straight."""
    if rate is None or abs(rate - performance.rate) < 1e-6 or len(performance) < 2:
        return performance
    count = frame_count((len(performance) - 1) * rate / performance.rate)
    at = np.minimum(np.arange(count) * performance.rate / rate, len(performance) - 1.0)
    first = np.minimum(at.astype(np.intp), len(performance) - 2)
    part = at - first
    states = performance.states
    plain = (states.move, states.scale, states.settings, states.euler)
    move, scale, settings, euler = (_straight(v, first, part) for v in plain)
    shares = np.broadcast_to(part[:, None], (count, states.turn.shape[1])).reshape(-1, 1)
    start, end = (states.turn[first + i].reshape(-1, 4) for i in (0, 1))
    turn = between(start, end, shares).reshape(count, -1, 4)
    made = State(move, turn, scale, settings, euler)
    return replace(performance, states=made, rate=rate, keys={})


def _straight(values: Array, first: Array, part: Array) -> Array:
    rows = first.astype(np.intp)
    share = part.reshape(-1, *[1] * (values.ndim - 1))
    return np.asarray(values[rows] + share * (values[rows + 1] - values[rows]))
