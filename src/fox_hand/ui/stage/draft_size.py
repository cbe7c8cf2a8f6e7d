"""How large the quick pictures of the stage are: as large as this machine draws in time."""

from __future__ import annotations

import math
import time

WANTED = 0.030  # seconds from asking for a quick picture until it is there
STEPS = 20
LEAST = 0.45  # share of the stage's pixels along one edge; smaller is too coarse to judge a pose


class DraftSize:
    """Follows how long the last quick pictures took; the fine one at rest has every pixel."""

    def __init__(self) -> None:
        self._fitting = 1.0

    @property
    def share(self) -> float:
        """Of the stage's edges; in steps, so that not every picture has a size of its own."""
        return round(self._fitting * STEPS) / STEPS

    @staticmethod
    def now() -> float:
        return time.perf_counter()

    def took(self, seconds: float) -> None:
        """A quick picture has come. Time grows with the number of pixels, so with the square."""
        if seconds > 0:
            fitting = self.share * math.sqrt(WANTED / seconds)
            self._fitting = min(max(0.5 * (self._fitting + fitting), LEAST), 1.0)
