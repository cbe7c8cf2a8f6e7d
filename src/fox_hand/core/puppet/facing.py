"""Whether a view looks aside or at us: what its mirror image is follows from that."""

from __future__ import annotations

from fox_hand.core.naming.side_region import tokens
from fox_hand.core.puppet.part_names import FAR, NEAR
from fox_hand.core.puppet.puppet import Puppet, PuppetPart

ASIDE, AT_US = ("Side", "Half"), ("Front", "Back")


def looks_aside(puppet: Puppet, view: str) -> bool:
    """A view from the side or from half in front looks aside. Where no view is named, near and
    far parts say so, or partners that do not stand on both sides of the body; so does a figure
    without any partners, as its mirror image can only look the other way."""
    if view in ASIDE or view in AT_US:
        return view in ASIDE
    parts = {part.name: part for part in puppet.of_view(view)}
    if any(set(tokens(name)) & (NEAR | FAR) for name in parts):
        return True
    pairs = [(p, parts[p.partner]) for p in parts.values() if p.partner in parts]
    middle = puppet.root(view).pivot[0]
    return not any(_on_both_sides(one, other, middle) for one, other in pairs)


def _on_both_sides(one: PuppetPart, other: PuppetPart, middle: float) -> bool:
    x, y = one.pivot[0] - middle, other.pivot[0] - middle
    return abs(x + y) < abs(x - y)
