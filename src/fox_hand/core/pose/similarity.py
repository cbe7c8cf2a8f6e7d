"""How alike two poses are, and the nearest of very many.

The distance of two poses is the sum of the geodesic angles of all turns that either holds, where
one that is absent counts as at rest, and of a quarter turn for each whole unit that a setting
differs. Two poses are as alike as this sum is small beside the way that both of them have gone
from rest: equal poses are 1, and by the triangle inequality no pair is below 0.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.skeleton import Index

QUARTER = np.pi / 2
# A unit of a setting as far as a quarter turn is between unit quaternions.
UNIT = float(np.linalg.norm(np.array([np.sin(np.pi / 4), np.cos(np.pi / 4)]) - [0.0, 1.0]))
CANDIDATES = 400
LINES, NEIGHBOURS = 3, 12  # for finding twins
Singles = NDArray[np.float32]


@dataclass(frozen=True, eq=False)
class Numbers:
    """Turns ``{control: (x, y, z, w)}``, unit quaternions relative to rest, and settings."""

    turns: Mapping[str, Sequence[float]]
    settings: Mapping[str, float]

    def within(self, counts: Callable[[str], bool]) -> Numbers:
        """Only some of it."""
        turns = {name: turn for name, turn in self.turns.items() if counts(name)}
        return Numbers(turns, {n: value for n, value in self.settings.items() if counts(n)})

    def way(self) -> float:
        """How far the pose is from rest, radians."""
        turns = np.array(list(self.turns.values())).reshape(-1, 4)
        values = np.array(list(self.settings.values()))
        return float(_gone(turns).sum() + QUARTER * np.abs(values).sum())


@dataclass(frozen=True, eq=False)
class Table:
    """Many poses that hold the same controls and settings.

    Args:
        items: whatever numbers they have outside, ``(N,)``.
        turning, settings: names of the columns.
        flat: turns with w >= 0 and scaled settings side by side, ``(N, 4 K + S)``; laid out
            for one matrix-vector product.
        squares: squared lengths of its rows, ``(N,)``.
    """

    items: Index
    turning: tuple[str, ...]
    settings: tuple[str, ...]
    flat: Singles
    squares: Singles

    @staticmethod
    def of(
        items: Index,
        turning: Sequence[str],
        settings: Sequence[str],
        turns: Array | Singles,
        values: Array | Singles,
    ) -> Table:
        """From turns and setting values.

        Args:
            items: numbers of the cards, ``(N,)``.
            turning, settings: names of the controls and settings.
            turns: x, y, z, w with w >= 0, ``(N, K, 4)``.
            values: of the settings, ``(N, S)``.
        """
        scaled = np.asarray(values, dtype=np.float32) * np.float32(UNIT)
        flat = np.concatenate(
            [np.asarray(turns, dtype=np.float32).reshape(len(items), 4 * len(turning)), scaled],
            axis=1,
        )
        return Table(
            items, tuple(turning), tuple(settings), flat, np.einsum("ij,ij->i", flat, flat)
        )

    def within(self, counts: Callable[[str], bool]) -> Table | None:
        """Only some of its columns; None where none of them counts."""
        turning = [i for i, name in enumerate(self.turning) if counts(name)]
        settings = [i for i, name in enumerate(self.settings) if counts(name)]
        if not turning and not settings:
            return None
        at, width = np.array(turning, dtype=np.intp), len(self.turning) * 4
        columns = [*(at[:, None] * 4 + np.arange(4)).ravel(), *(width + i for i in settings)]
        flat = np.ascontiguousarray(self.flat[:, columns])
        return Table(
            self.items,
            tuple(self.turning[i] for i in turning),
            tuple(self.settings[i] for i in settings),
            flat,
            np.einsum("ij,ij->i", flat, flat),
        )

    def nearest(self, pose: Numbers, most: int) -> list[tuple[int, float]]:
        """The most alike poses: (number, likeness 0...1), best first.

        A first pass over all rows compares quaternions as points, which orders near poses as
        the angles do; the best of them are then measured exactly.
        """
        if not len(self.items):
            return []
        wanted = self._row(pose)
        far = self.squares - 2 * (self.flat @ wanted)
        count = min(max(CANDIDATES, most), len(far))
        best = np.argpartition(far, count - 1)[:count]
        found = self._likeness(best, pose, wanted)
        order = np.argsort(-found, kind="stable")[:most]
        return [(int(self.items[best[i]]), float(found[i])) for i in order]

    def twins(self, share: float) -> list[tuple[int, int, float]]:
        """Pairs of poses at least so alike: two numbers and the likeness, most alike first.

        Rows that are alike lie near each other along any line through their space. Neighbours
        along a few lines are measured, not all pairs, so of many thousand poses a pair that is
        only just alike enough may be missed; equal poses never are. Most pairs are left out by
        their straight distance: its square is at most a quarter of the sum of squared angles, so
        at most pi / 4 of the sum of angles that the likeness allows.
        """
        count = len(self.items)
        if count < 2:
            return []
        lines = np.random.default_rng(7).normal(size=(self.flat.shape[1], LINES))
        along = self.flat @ lines.astype(np.float32)
        pairs, way = set[tuple[int, int]](), self._ways()
        for line in range(LINES):
            order = np.argsort(along[:, line], kind="stable")
            for step in range(1, min(NEIGHBOURS, count - 1) + 1):
                a, b = order[:-step], order[step:]
                apart = ((self.flat[a] - self.flat[b]) ** 2).sum(-1)
                near = apart <= np.pi / 4 * (1 - share) * (way[a] + way[b]) + 1e-9
                pairs.update(zip(*np.sort([a[near], b[near]], axis=0).tolist(), strict=True))
        found = [(i, j, self._pair(i, j)) for i, j in pairs]
        found.sort(key=lambda pair: -pair[2])
        return [(int(self.items[i]), int(self.items[j]), s) for i, j, s in found if s >= share]

    def _ways(self) -> Array:
        """How far every row is from rest, radians, ``(N,)``."""
        width = len(self.turning) * 4
        values = np.abs(self.flat[:, width:]).sum(-1).astype(np.float64) / UNIT
        turns = self.flat[:, :width].reshape(len(self.flat), -1, 4).astype(np.float64)
        turned = _gone(turns).sum(-1)
        return np.asarray(turned + QUARTER * values)

    def _pair(self, i: int, j: int) -> float:
        width = len(self.turning) * 4
        turns = self.flat[j, :width].reshape(-1, 4).astype(np.float64)
        values = self.flat[j, width:].astype(np.float64) / UNIT
        pose = Numbers(
            dict(zip(self.turning, turns, strict=True)),
            dict(zip(self.settings, values, strict=True)),
        )
        return float(self._likeness(np.array([i]), pose, self.flat[j])[0])

    def _row(self, pose: Numbers) -> Singles:
        turns = np.tile([0.0, 0.0, 0.0, 1.0], (len(self.turning), 1))
        for i, name in enumerate(self.turning):
            if name in pose.turns:
                q = np.asarray(pose.turns[name], dtype=np.float64)
                turns[i] = -q if q[3] < 0 else q
        values = [pose.settings.get(name, 0.0) * UNIT for name in self.settings]
        return np.concatenate([turns.ravel(), values]).astype(np.float32)

    def _likeness(self, rows: Index, pose: Numbers, wanted: Singles) -> Array:
        width = len(self.turning) * 4
        turns = self.flat[rows, :width].reshape(len(rows), -1, 4)
        values = self.flat[rows, width:].astype(np.float64) / UNIT
        asked = wanted[:width].reshape(-1, 4)
        apart = _between(turns, asked).sum(-1, dtype=np.float64)
        apart += QUARTER * np.abs(values - wanted[width:].astype(np.float64) / UNIT).sum(-1)
        way = _gone(turns).sum(-1, dtype=np.float64) + QUARTER * np.abs(values).sum(-1)
        outside = Numbers(
            {n: q for n, q in pose.turns.items() if n not in self.turning},
            {n: v for n, v in pose.settings.items() if n not in self.settings},
        )
        together = way + pose.way()
        found = 1.0 - (apart + outside.way()) / np.maximum(together, 1e-9)
        return np.where(together < 1e-6, 1.0, np.clip(found, 0.0, 1.0))


def likeness(a: Numbers, b: Numbers) -> float:
    """How alike two poses are, 0...1."""
    turning, settings = sorted(b.turns), sorted(b.settings)
    turns = np.array([b.turns[n] for n in turning], dtype=np.float64).reshape(1, -1, 4)
    turns = np.where(turns[..., 3:] < 0, -turns, turns)
    values = np.array([b.settings[n] for n in settings], dtype=np.float64).reshape(1, -1)
    table = Table.of(np.zeros(1, dtype=np.int64), turning, settings, turns, values)
    return table.nearest(a, 1)[0][1]


def _gone(turns: Array | Singles) -> Array:
    """Angles 0...pi from rest of quaternions ``(..., 4)``. By the tangent, as the cosine of a
    small angle says nothing about it in single precision."""
    ways = turns[..., :3]
    far = np.sqrt(np.einsum("...i,...i->...", ways, ways))
    return np.asarray(2 * np.arctan2(far, np.abs(turns[..., 3])))


def _between(turns: Singles, others: Singles) -> Array:
    """Angles 0...pi between quaternions ``(N, K, 4)`` and ``(K, 4)``, by the chord for the same
    reason."""
    signs = np.copysign(np.float32(1), np.einsum("nki,ki->nk", turns, others))
    apart = turns - signs[..., None] * others
    chord = np.sqrt(np.einsum("nki,nki->nk", apart, apart))
    return np.asarray(4 * np.arcsin(np.minimum(chord / 2, 1.0)))
