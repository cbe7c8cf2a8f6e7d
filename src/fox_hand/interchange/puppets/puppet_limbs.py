"""Limbs of a puppet: two parts, one on the other, that reach for a goal at the tip of the lower."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from fox_hand.core.model.controls import Channel, MirrorRule
from fox_hand.core.puppet.puppet import Puppet, PuppetPart
from fox_hand.interchange.sidecar import LimbNotes, SettingNotes, TargetNotes

SOLID = 96  # alpha from which on a pixel counts as drawn
INSET = 0.94  # of the way from the pivot to the farthest pixel
ASIDE = 0.6  # of a limb's length that its pole stands beside it


@dataclass(frozen=True)
class PuppetLimb:
    """Two parts that reach.

    Args:
        upper, lower: the parts.
        name: of the upper part's node.
        lower_name: of the lower part's.
        body: of the node that all of its view hangs on.
        shrunk: how large that is at rest; views that are not seen are next to nothing.
        partner: name of the other side's upper part's node, where that is a limb, too.
    """

    upper: PuppetPart
    lower: PuppetPart
    name: str
    lower_name: str
    body: str
    shrunk: float
    partner: str | None

    @property
    def tip(self) -> str:
        """The node at its end."""
        return f"{self.lower_name}_tip"

    @property
    def follow(self) -> str:
        """The setting that lets it follow its goal."""
        return f"{self.name}_follow"

    def setting(self) -> SettingNotes:
        """How far it follows the goal; its parts turn by themselves at 0."""
        partner = f"{self.partner}_follow" if self.partner else None
        rule = MirrorRule.SWAP if partner else MirrorRule.KEEP
        return SettingNotes(
            label=f"{self.upper.called} follows its goal", mirror=rule, partner=partner
        )

    def targets(self, scale: float) -> Iterator[tuple[str, TargetNotes]]:
        """The goal and the pole.

        Args:
            scale: metres to a pixel of the canvas.
        """
        label, partner = self.upper.called, self.partner
        goal = TargetNotes("goal", self.tip, f"{label} goal", settings=[self.follow])
        x, y = self._aside()
        offset = (x * scale * self.shrunk, -y * scale * self.shrunk, 0.0)
        pole = TargetNotes("pole", self.lower_name, f"{label} bends to", offset)
        for word, target in (("goal", goal), ("pole", pole)):
            target.under, target.side = self.body, self.upper.side
            target.region, target.channels = self.upper.region, [Channel.MOVE]
            target.locked = ["move.z"]
            target.partner = f"{partner}_{word}" if partner else None
            yield f"{self.name}_{word}", target

    def _aside(self) -> tuple[float, float]:
        """From the lower pivot to where the pole stands, canvas pixels: to the side the limb is
        bent to, upwards where it is straight."""
        start, middle = np.array(self.upper.pivot), np.array(self.lower.pivot)
        end = np.array(tip_of(self.lower))
        along = end - start
        length = float(np.hypot(*along)) or 1.0
        aside = np.array([along[1], -along[0]]) / length
        off = float((middle - start) @ aside)
        if abs(off) < 0.01 * length:
            off = -float(aside[1]) or 1.0  # y downwards: up is negative
        x, y = aside * np.sign(off) * ASIDE * length
        return float(x), float(y)

    def solver(self) -> LimbNotes:
        """What bends it."""
        return LimbNotes(
            self.upper.called,
            self.name,
            self.lower_name,
            self.tip,
            f"{self.name}_goal",
            f"{self.name}_pole",
            blend=self.follow,
        )


def limbs_of(
    puppet: Puppet, node: dict[tuple[str, str], str], hidden: float
) -> tuple[PuppetLimb, ...]:
    """The limbs that were said.

    Args:
        puppet: what is written.
        node: of a part, by view and name.
        hidden: how large a view is that is not seen at rest.
    """
    found = []
    for part in puppet.parts:
        lower = _lower(puppet, part)
        if lower is None:
            continue
        other = None
        if part.partner is not None:
            mine = puppet.part(part.partner, part.view)
            other = None if _lower(puppet, mine) is None else node[part.view, part.partner]
        found.append(
            PuppetLimb(
                part,
                lower,
                node[part.view, part.name],
                node[part.view, lower.name],
                node[part.view, puppet.root(part.view).name],
                1.0 if part.view == puppet.views[0] else hidden,
                other,
            )
        )
    return tuple(found)


def _lower(puppet: Puppet, part: PuppetPart) -> PuppetPart | None:
    """The part that makes a limb with another, if it still hangs on it."""
    if part.lower is None or part.above is None:
        return None
    names = {p.name: p for p in puppet.of_view(part.view)}
    lower = names.get(part.lower)
    return lower if lower is not None and lower.above == part.name else None


def tip_of(part: PuppetPart) -> tuple[float, float]:
    """Near the point of a part that is farthest from its pivot, canvas pixels."""
    drawing = part.seen
    rows, columns = np.nonzero(drawing.pixels()[..., 3] >= SOLID)
    if not len(rows):
        return part.pivot
    places = np.stack([columns + drawing.left + 0.5, rows + drawing.top + 0.5], axis=1)
    away = places - part.pivot
    far = away[int((away**2).sum(1).argmax())] * INSET
    return part.pivot[0] + float(far[0]), part.pivot[1] + float(far[1])
