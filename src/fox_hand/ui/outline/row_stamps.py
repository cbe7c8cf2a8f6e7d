"""Rows of the outline, drawn once and kept."""

from __future__ import annotations

import math
import time
from collections.abc import Callable, Hashable

from PySide6.QtGui import QColor, QPainter, QPixmap

from fox_hand.ui.cards.kept_images import KeptImages
from fox_hand.ui.outline.outline_paint import OutlineLook
from fox_hand.ui.outline.outline_rows import TALL, OutlineContent, OutlineRow

BUDGET = 0.006  # seconds for new rows in one paint; the others follow in the next


class RowStamps:
    """Drawing a row takes a third of a millisecond, and pointing at one draws them all anew.

    Args:
        clock: seconds.
    """

    def __init__(self, clock: Callable[[], float] = time.perf_counter) -> None:
        self._clock = clock
        self._kept = KeptImages[QPixmap]()
        self._began = 0.0
        self.late = False  # whether some did not come in this paint

    def begin(self, seen: int, width: int, ratio: float) -> None:
        """A paint begins; so many rows are in sight."""
        self._began, self.late = self._clock(), False
        self._kept.make_room(seen, round(width * TALL * ratio * ratio * 4))

    def get(
        self,
        key: Hashable,
        size: tuple[int, int],
        ratio: float,
        ground: QColor,
        draw: Callable[[QPainter], None],
    ) -> QPixmap | None:
        """A row; None where enough was drawn for one paint.

        Args:
            key: all that it looks like.
            size: logical pixels.
            ratio: pixels of the screen for each.
            ground: what it lies on: letters look better on it than on nothing.
            draw: draws it, its corner at 0, 0.
        """
        whole = key, size, ratio, ground.rgba()
        stamp = self._kept.get(whole)
        if stamp is None and self._clock() - self._began <= BUDGET:
            stamp = _drawn(size, ratio, ground, draw)
            self._kept.put(whole, stamp)
        self.late = self.late or stamp is None
        return stamp


def _drawn(
    size: tuple[int, int], ratio: float, ground: QColor, draw: Callable[[QPainter], None]
) -> QPixmap:
    stamp = QPixmap(math.ceil(size[0] * ratio), math.ceil(size[1] * ratio))
    stamp.setDevicePixelRatio(ratio)
    stamp.fill(ground)  # on scales such as 1.25 to the end of a pixel of which a part is ours
    painter = QPainter(stamp)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    draw(painter)
    painter.end()
    return stamp


def looks_like(row: OutlineRow, content: OutlineContent, look: OutlineLook) -> Hashable:
    """All that a row's painting follows."""
    node = row.node
    of_sheet = (node.count, node.new, node.regions) if node is not None else None
    of_all = (len(content.searches), content.sheets, content.cards) if row.heading else None
    where = row.kind, row.words, row.indent, row.folded, row.waiting
    face = look.face.cacheKey() if look.face is not None else 0
    pointer = look.pointed, look.focus, look.target, look.before, look.locked
    return where, of_sheet, of_all, pointer, look.chosen, look.away, look.count, face, look.colour
