"""Frames of a figure worked out a few at a time while somebody goes through them.

One frame by itself takes ten times as long as one of sixteen: see ``bench/shot.py``.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from fox_hand.core.kinematics.evaluation import Evaluation
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.state import State
from fox_hand.session.figures.animation import Animation

TOGETHER = 16  # frames at once
NEAR = 4.0  # frames; who goes further jumps, and gets that one frame only


class SampleCache:
    """Remembers the frames that were worked out last."""

    def __init__(self) -> None:
        self._known: dict[float, tuple[State, Evaluation]] = {}
        self._of: tuple[Animation, bytes] | None = None
        self._last: float | None = None

    def get(self, take: Animation, ground: Array, frame: float) -> tuple[State, Evaluation | None]:
        """How a figure stands at a frame, and where everything is if that is known already.

        Args:
            take: what the figure does.
            ground: where it stands, metres ``(3,)``.
            frame: which frame.
        """
        key = take, ground.tobytes()
        if self._of is None or self._of[0] is not take or self._of[1] != key[1]:
            self._known, self._of = {}, key
        last, self._last = self._last, frame
        if frame in self._known:
            return self._known[frame]
        step = frame - last if last is not None else 0.0
        if not 0 < abs(step) <= NEAR or not take.moves:
            return take.at(frame), None
        self._known = {}
        self._fill(take, ground, frame + step * np.arange(TOGETHER, dtype=np.float64))
        return self._known[frame]

    def _fill(self, take: Animation, ground: Array, frames: Array) -> None:
        batch = take.many(frames)
        at = take.rig.evaluate(batch)
        nodes = at.nodes
        if ground.any():
            nodes = nodes.copy()
            nodes[..., :3, 3] += ground
        for number, frame in enumerate(frames.tolist()):
            values = (v[number] for v in batch.arrays())
            one = replace(at, nodes=nodes[number], settings=at.settings[number])
            self._known[frame] = State(*values), one
