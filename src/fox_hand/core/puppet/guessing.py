"""From drawings to a puppet: what hangs on what, where it turns, whose partner it is.

Names are believed; what they do not say is guessed from how the drawings lie on each other, and
every such guess is named.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.core.model.controls import Region, Side
from fox_hand.core.puppet.drawn import DrawnFigure, DrawnPart
from fox_hand.core.puppet.part_names import (
    above_by_name,
    body_by_name,
    makes_limb,
    partner_of,
    region_of,
    side_of,
    wanted_above,
)
from fox_hand.core.puppet.puppet import Guess, GuessKind, Puppet, PuppetPart

FINE = 384  # pixels of the longer side of the canvas that shapes are compared at
SOLID = 96  # alpha from which on a pixel counts as drawn
LONG = {Region.WINGS, Region.ARMS, Region.LEGS, Region.TAIL, Region.LIMBS}
INSET = 0.85  # of the way from the middle to an end
ALIKE = 0.86  # share of two outlines that lie on each other, of partners
Mask = npt.NDArray[np.bool_]


@dataclass(frozen=True, eq=False)
class Silhouette:
    """Where a part is drawn, on a coarse canvas.

    Args:
        mask: ``(rows, columns)``.
        scale: coarse pixels to one of the canvas.
    """

    mask: Mask
    scale: float

    @property
    def area(self) -> int:
        return int(self.mask.sum())

    def middle(self, mask: Mask | None = None) -> tuple[float, float]:
        """The middle of what is drawn, or of some of it, canvas pixels."""
        rows, columns = np.nonzero(self.mask if mask is None else mask)
        if not len(rows):
            return 0.0, 0.0
        return (
            float(columns.mean() + 0.5) / self.scale,
            float(rows.mean() + 0.5) / self.scale,
        )

    def ends(self) -> tuple[tuple[float, float], tuple[float, float]]:
        """Two points near the ends of its long axis, canvas pixels."""
        rows, columns = np.nonzero(self.mask)
        if len(rows) < 3:
            return self.middle(), self.middle()
        points = np.stack([columns, rows], axis=1).astype(np.float64) + 0.5
        middle = points.mean(0)
        _, _, axes = np.linalg.svd(points - middle, full_matrices=False)
        along = (points - middle) @ axes[0]
        low, high = INSET * along.min(), INSET * along.max()
        first, second = ((middle + far * axes[0]) / self.scale for far in (low, high))
        return (float(first[0]), float(first[1])), (float(second[0]), float(second[1]))


def shape_of(part: DrawnPart, figure: DrawnFigure) -> Silhouette:
    """Where the drawing that is seen lies."""
    from PIL import Image  # noqa: PLC0415 - loading it takes longer than many commands

    drawing = part.seen
    scale = min(1.0, FINE / max(figure.width, figure.height))
    width, height = max(round(figure.width * scale), 1), max(round(figure.height * scale), 1)
    alpha = Image.fromarray(drawing.pixels()[..., 3])
    small = alpha.resize(
        (max(round(drawing.width * scale), 1), max(round(drawing.height * scale), 1)),
        Image.Resampling.BOX,
    )
    canvas = Image.new("L", (width, height))
    canvas.paste(small, (round(drawing.left * scale), round(drawing.top * scale)))
    return Silhouette(np.asarray(canvas) >= SOLID, scale)


def guessed(figure: DrawnFigure, progress: Progress | None = None) -> Puppet:
    """A puppet as far as names and places say; see :class:`Guess` for what a person should look
    at.

    Raises:
        OSError, SyntaxError, ValueError: if a drawing cannot be decoded.
        Cancelled: by the progress.
    """
    progress = progress or Progress()
    parts: list[PuppetPart] = []
    guesses: list[Guess] = []
    for number, view in enumerate(figure.views):
        drawn = figure.of_view(view)
        shapes = {}
        for at, part in enumerate(drawn):
            share = (number + at / len(drawn)) / len(figure.views)
            progress.step(share, tr("Looking how drawings lie on each other"))
            shapes[part.name] = shape_of(part, figure)
        one = _View(drawn, shapes)
        parts += one.parts()
        guesses += one.guesses
    return Puppet(
        figure.name, figure.width, figure.height, tuple(parts), tuple(guesses), figure.notes
    )


class _View:
    """The parts of one view."""

    def __init__(self, drawn: Sequence[DrawnPart], shapes: Mapping[str, Silhouette]) -> None:
        self._drawn, self._shapes = drawn, shapes
        self._names = [part.name for part in drawn]
        self.guesses: list[Guess] = []
        self._hung: dict[str, str | None] = {}
        self._body = body_by_name(self._names) or max(
            self._names, key=lambda name: (shapes[name].area, -self._names.index(name))
        )

    def parts(self) -> list[PuppetPart]:
        above = self._hung = self._above()
        pivots = {name: self._pivot(name, above[name]) for name in self._names}
        partners = dict(self._partners())
        lower = _limbs(above)
        return [
            PuppetPart(
                part.name,
                part.drawings,
                part.view,
                part.shown,
                above[part.name],
                pivots[part.name],
                side_of(part.name),
                self._region(part.name, above),
                partners.get(part.name),
                free=above[part.name] is None,
                lower=lower.get(part.name),
            )
            for part in self._drawn
        ]

    def _say(self, kind: GuessKind, part: str, words: str, why: str) -> None:
        self.guesses.append(Guess(kind, part, words, why, self._drawn[0].view))

    # -- what hangs on what ---------------------------------------------------------------

    def _above(self) -> dict[str, str | None]:
        found: dict[str, str | None] = {}
        groups = {part.name: part.within for part in self._drawn}
        for name in self._names:
            if name == self._body:
                found[name] = None
                continue
            said = above_by_name(name, self._names)
            if said is None and groups[name] in self._names and groups[name] != name:
                said = groups[name]  # the group around it is called as a part is
            found[name] = said or self._lies_on(name)
        return self._without_circles(found)

    def _lies_on(self, name: str) -> str:
        """What is behind it and under most of it; else what it touches most."""
        mine = self._shapes[name]
        at = self._names.index(name)
        shares: list[tuple[float, int, str]] = []
        for other in self._names:
            if other == name:
                continue
            common = int((mine.mask & self._shapes[other].mask).sum())
            behind = self._names.index(other) > at
            larger = self._shapes[other].area >= mine.area
            counts = 1.0 if behind and larger else 0.25
            shares.append((common * counts, self._shapes[other].area, other))
        best = max(shares, default=(0.0, 0, self._body))
        wanted = wanted_above(name)
        why = (
            tr("no part is called {wanted}", wanted=wanted)
            if wanted
            else tr("its name says nothing")
        )
        if best[0] <= 0:
            words = tr("{name} hangs on {body}", name=name, body=self._body)
            self._say(
                GuessKind.HANGS, name, words, tr("{why}, and it lies on no other part", why=why)
            )
            return self._body
        words = tr("{name} hangs on {best}", name=name, best=best[2])
        self._say(GuessKind.HANGS, name, words, tr("{why}; it lies on it", why=why))
        return best[2]

    def _without_circles(self, above: dict[str, str | None]) -> dict[str, str | None]:
        for name in self._names:
            way, at = {name}, above[name]
            while at is not None and at not in way:
                way.add(at)
                at = above[at]
            if at is not None:  # it came back to itself
                above[name] = self._body if name != self._body else None
        return above

    # -- pivots ---------------------------------------------------------------------------

    def _pivot(self, name: str, above: str | None) -> tuple[float, float]:
        mine = self._shapes[name]
        if above is None:
            return mine.middle()
        other = self._shapes[above]
        common = mine.mask & other.mask
        share = common.sum() / max(mine.area, 1)
        if share >= 0.9:
            if self._region(name, self._hung) in LONG:
                return self._inner_end(name, above)
            return mine.middle()  # an eye on a head: about itself
        if share > 0:
            if share > 0.45:
                words = tr("{name} turns where it lies on {above}", name=name, above=above)
                self._say(
                    GuessKind.PIVOT,
                    name,
                    words,
                    tr("no mark in the drawing, and much of it lies there"),
                )
            return mine.middle(common)
        words = tr("{name} turns at the edge nearest to {above}", name=name, above=above)
        self._say(GuessKind.PIVOT, name, words, tr("the two do not touch"))
        return _nearest(mine, other)

    def _inner_end(self, name: str, above: str) -> tuple[float, float]:
        """Of something long that lies on another part the end away from what hangs on it, or else
        the one nearer to that part's middle."""
        mine = self._shapes[name]
        ends = mine.ends()
        carried = [n for n in self._names if self._hung[n] == name]
        if carried:
            away = self._shapes[carried[0]].middle()
            best = max(ends, key=lambda end: float(np.hypot(*np.subtract(end, away))))
        else:
            towards = self._shapes[above].middle()
            best = min(ends, key=lambda end: float(np.hypot(*np.subtract(end, towards))))
        words = tr("{name} turns at its inner end", name=name)
        self._say(GuessKind.PIVOT, name, words, tr("all of it lies on {above}", above=above))
        return best

    # -- sides, partners, regions ---------------------------------------------------------

    def _partners(self) -> Iterator[tuple[str, str]]:
        told = {name: partner_of(name, self._names) for name in self._names}
        yield from ((name, other) for name, other in told.items() if other is not None)
        free = [n for n in self._names if told[n] is None and side_of(n) is not Side.CENTRE]
        for name in free:
            for other in free:
                sides = side_of(name), side_of(other)
                if sides == (Side.LEFT, Side.RIGHT):
                    share = _alike(self._shapes[name], self._shapes[other])
                    if share >= ALIKE:
                        words = tr("{other} is the partner of {name}", other=other, name=name)
                        why = tr("same outline within {share:.0f} %", share=100 - share * 100)
                        self._say(GuessKind.PARTNER, other, words, why)
                        yield name, other
                        yield other, name

    def _region(self, name: str, above: Mapping[str, str | None]) -> Region:
        at: str | None = name
        while at is not None:
            said = region_of(at)
            if said is not None:
                return said
            at = above[at]
        return Region.TORSO


def _limbs(above: Mapping[str, str | None]) -> dict[str, str]:
    """Of every upper part of a limb the lower one."""
    found: dict[str, str] = {}
    for name, on in above.items():
        if on is not None and on not in found and makes_limb(on, name):
            found[on] = name
    return found


def _nearest(mine: Silhouette, other: Silhouette) -> tuple[float, float]:
    """The point of a shape that is nearest to another one."""
    rows = np.argwhere(mine.mask)
    others = np.argwhere(other.mask)
    if not len(rows) or not len(others):
        return mine.middle()
    rows, others = rows[:: max(len(rows) // 800, 1)], others[:: max(len(others) // 800, 1)]
    apart = ((rows[:, None] - others[None]) ** 2).sum(-1).min(1)
    row, column = rows[int(apart.argmin())]
    return (float(column) + 0.5) / mine.scale, (float(row) + 0.5) / mine.scale


def _alike(a: Silhouette, b: Silhouette) -> float:
    """How much of two outlines is the same when one lies on the other, 0...1."""
    boxes = []
    for shape in (a, b):
        rows, columns = np.nonzero(shape.mask)
        if not len(rows):
            return 0.0
        boxes.append(shape.mask[rows.min() : rows.max() + 1, columns.min() : columns.max() + 1])
    one, other = boxes
    height = max(one.shape[0], other.shape[0])
    width = max(one.shape[1], other.shape[1])
    both = [np.zeros((height, width), dtype=bool) for _ in boxes]
    for canvas, box in zip(both, boxes, strict=True):
        top, left = (height - box.shape[0]) // 2, (width - box.shape[1]) // 2
        canvas[top : top + box.shape[0], left : left + box.shape[1]] = box
    return float((both[0] & both[1]).sum() / max((both[0] | both[1]).sum(), 1))


def told(puppet: Puppet, guess: Guess) -> Puppet:
    """The same with one guess that a person has looked at."""
    return replace(puppet, guesses=tuple(g for g in puppet.guesses if g != guess))
