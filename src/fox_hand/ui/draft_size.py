"""How large the quick pictures of the stage are: as large as this machine draws in time."""

from __future__ import annotations

import math
import time

WANTED = 0.030  # seconds from asking for a quick picture until it is there
LEAST = 0.45  # share of the stage's pixels along one edge; smaller is too coarse to judge a pose


class DraftSize:
    """Follows how long the last quick pictures took; the fine one at rest has every pixel."""

    def __init__(self) -> None:
        self.share = 1.0

    @staticmethod
    def now() -> float:
        return time.perf_counter()

    def took(self, seconds: float) -> None:
        """A quick picture has come. Time grows with the number of pixels, so with the square."""
        if seconds > 0:
            fitting = self.share * math.sqrt(WANTED / seconds)
            self.share = min(max(0.5 * (self.share + fitting), LEAST), 1.0)
