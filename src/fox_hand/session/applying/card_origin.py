"""What is written down with keys that a card set, and whether the card is another since."""

from __future__ import annotations

from dataclasses import replace

from fox_hand.core.animation.curves import Origin
from fox_hand.core.model.controls import Region
from fox_hand.core.model.state import State
from fox_hand.core.pose.blend import blend
from fox_hand.core.pose.pose import Pose, bind, take
from fox_hand.core.pose.sides import Sides, choice_of_bound
from fox_hand.core.rig.rig import Rig
from fox_hand.library.format.entry import Entry
from fox_hand.session.applying.application import Application, How, Part, Way, Weights


def origin_of(entry: Entry, name: str, putting: Application, how: How, weight: Weights) -> Origin:
    """All that is needed for the keys of one card to follow it later.

    Args:
        entry, name: the card.
        putting: it on the figure.
        how, weight: the choices it went on with.
    """
    rig = putting.actor.rig
    selected = sorted(how.selected) if how.part is Part.SELECTED else []
    regions = sorted(how.regions) if how.part is Part.REGIONS else []
    return Origin(
        entry.identity,
        name,
        entry.revision,
        round(weight.whole, 4),
        how.side.value,
        content=entry.content,
        way=how.way.value,
        regions=tuple(region.value for region in regions),
        controls=tuple(rig.controls[row].name for row in selected),
        amounts=tuple((region.value, amount) for region, amount in sorted(weight.regions.items())),
        base=None if _covers(how, weight) else _before(putting),
    )


def _covers(how: How, weight: Weights) -> bool:
    """Whether nothing of what was there before shows through."""
    return how.way is Way.REPLACE and weight.even and abs(weight.whole - 1.0) < 1e-6


def _before(putting: Application) -> Pose:
    found = take(putting.actor.rig, putting.base, choice_of_bound(putting.active[0]))
    # it goes back onto this very figure, so how its controls rest need not be said
    return Pose({name: replace(held, rest=None) for name, held in found.controls.items()})


def how_of(rig: Rig, origin: Origin) -> tuple[How, Weights]:
    """The choices that a card went on with, as far as the rig still knows them."""
    rows = frozenset(rig.control_row[n] for n in origin.controls if n in rig.control_row)
    regions = frozenset(region for region in Region if region.value in origin.regions)
    part = Part.SELECTED if origin.controls else Part.REGIONS if regions else Part.ALL
    how = How(Sides(origin.side), part, Way(origin.way), rows, regions)
    return how, Weights(origin.amount, {Region(name): amount for name, amount in origin.amounts})


def base_of(rig: Rig, origin: Origin, state: State) -> State:
    """How the figure stood before the card went on, given how it stands."""
    if origin.base is None:
        return state
    return blend(state, bind(origin.base, rig), 1.0, rig.setting_rules)


def is_stale(origin: Origin, entry: Entry) -> bool:
    """Whether any value of a card is another since it went on; other words do not count."""
    if origin.content and entry.content:
        return entry.revision > origin.revision and entry.content != origin.content
    return entry.revision > origin.revision


def settled(origin: Origin, entry: Entry) -> Origin:
    """The origin as of the card's present revision."""
    return replace(
        origin, revision=entry.revision, content=entry.content, name=entry.name or origin.name
    )
