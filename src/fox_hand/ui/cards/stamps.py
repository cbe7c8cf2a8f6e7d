"""What takes long to draw is drawn once and stamped after that."""

from __future__ import annotations

import math
import time
from collections.abc import Callable, Hashable

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QPainter, QPixmap

from fox_hand.ui.cards.kept_images import KeptImages

NOTHING = QColor(Qt.GlobalColor.transparent)


class Stamps:
    """Those of one list. Drawing many for the first time does not hold the window.

    Args:
        budget: seconds for new ones in one paint; the others follow in the next.
        clock: seconds.
    """

    def __init__(self, budget: float, clock: Callable[[], float] = time.perf_counter) -> None:
        self._budget, self._clock = budget, clock
        self._kept = KeptImages[QPixmap]()
        self._began = 0.0
        self.late = False  # whether some did not come in this paint

    def begin(self) -> None:
        """A paint begins."""
        self._began, self.late = self._clock(), False

    def make_room(self, seen: int, size: tuple[float, float], ratio: float) -> None:
        """So many are in sight, of this size in logical pixels."""
        self._kept.make_room(seen, round(size[0] * size[1] * ratio * ratio * 4))

    def get(
        self,
        key: Hashable,
        size: tuple[float, float],
        ratio: float,
        draw: Callable[[QPainter], None],
        ground: QColor = NOTHING,
    ) -> QPixmap | None:
        """A stamp; None where enough was drawn for one paint.

        Args:
            key: all that it looks like, beside size and ground.
            size: logical pixels.
            ratio: pixels of the screen for each.
            draw: draws it, its corner at 0, 0.
            ground: what it lies on, if it covers that: letters look better on it than on nothing.
        """
        whole = key, size, ratio, ground.rgba()
        stamp = self._kept.get(whole)
        if stamp is None and self._clock() - self._began <= self._budget:
            stamp = _drawn(size, ratio, draw, ground)
            self._kept.put(whole, stamp)
        self.late = self.late or stamp is None
        return stamp


def _drawn(
    size: tuple[float, float], ratio: float, draw: Callable[[QPainter], None], ground: QColor
) -> QPixmap:
    stamp = QPixmap(math.ceil(size[0] * ratio), math.ceil(size[1] * ratio))
    stamp.setDevicePixelRatio(ratio)
    stamp.fill(ground)  # on scales such as 1.25 to the end of a pixel of which a part is ours
    painter = QPainter(stamp)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    draw(painter)
    painter.end()
    return stamp
