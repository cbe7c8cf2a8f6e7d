"""Cards like a pose, over a whole library."""

from __future__ import annotations

import threading
from collections.abc import Collection
from dataclasses import dataclass

from fox_hand.core.animation.clip import Clip
from fox_hand.core.animation.passage import passage, plain
from fox_hand.core.pose.pose import Pose
from fox_hand.core.pose.similarity import Numbers, Table
from fox_hand.library.index.index import Index


@dataclass(frozen=True)
class Alike:
    """A card like the one that was asked about.

    Args:
        item: its number.
        share: how alike it is, 0...1.
    """

    item: int
    share: float


def numbers_of(pose: Pose, clip: Clip | None = None) -> Numbers:
    """What of a pose counts for likeness, or of a clip."""
    if clip is not None:
        return passage(clip)
    held = pose.controls
    return Numbers(
        {name: h.turn for name, h in held.items() if h.turn is not None},
        {name: value for h in held.values() for name, value in h.settings.items()},
    )


class AlikeFinder:
    """Keeps the poses of a library in memory from the first question on.

    Args:
        index: of the library; :meth:`forget` is to be called after it changed.
    """

    def __init__(self, index: Index) -> None:
        self._index = index
        self._tables: list[Table] | None = None
        self._lock = threading.Lock()

    def forget(self) -> None:
        """The index changed: read it again at the next question."""
        with self._lock:
            self._tables = None

    def nearest(self, numbers: Numbers, most: int = 8, only: Collection[str] = ()) -> list[Alike]:
        """The cards most alike, best first. Run it in a job: the first call reads all poses.

        Args:
            numbers: what to look for.
            most: how many are found.
            only: names of the controls and settings that count; none for all that either holds.
        """
        tables = self._read()
        if only:
            names = frozenset(only)

            def counts(name: str) -> bool:
                return plain(name) in names

            narrowed = (table.within(counts) for table in tables)
            tables = [table for table in narrowed if table is not None]
            numbers = numbers.within(counts)
        if not numbers.turns and not numbers.settings:
            return []
        found = [pair for table in tables for pair in table.nearest(numbers, most)]
        found.sort(key=lambda pair: -pair[1])
        return [Alike(item, share) for item, share in found[:most]]

    def twins(self, share: float) -> list[tuple[int, int, float]]:
        """Pairs of cards that hold the same controls and are at least so alike: their numbers
        and how alike they are, most alike first. Run it in a job."""
        found = [pair for table in self._read() for pair in table.twins(share)]
        return sorted(found, key=lambda pair: -pair[2])

    def _read(self) -> list[Table]:
        with self._lock:
            if self._tables is None:
                self._tables = [
                    Table.of(items, shape.turning, shape.settings, turns, values)
                    for number, shape in self._index.shapes().items()
                    for items, turns, values in [
                        self._index.poses(number, len(shape.turning), len(shape.settings))
                    ]
                    if len(items)
                ]
            return self._tables
