"""Controls as they go into a card together: by region and side."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from fox_hand.base.language import tr
from fox_hand.core.model.controls import ControlKind, Region, Side
from fox_hand.core.model.state import State
from fox_hand.core.naming.part_words import limb_title, region_title
from fox_hand.core.rig.rig import Rig


@dataclass(frozen=True)
class CaptureGroup:
    """Controls that go in or stay out together.

    Args:
        label: such as "Left hand, fingers".
        rows: its controls.
        own_turn: the top control of a hand, whose turn is rarely meant.
    """

    label: str
    rows: tuple[int, ...]
    own_turn: bool = False


def groups_of(rig: Rig, state: State | None = None) -> tuple[CaptureGroup, ...]:
    """All controls that are listed in a state, in groups from head to toe; at rest if None."""
    listed = rig.listed(rig.rest if state is None else state)
    found: list[CaptureGroup] = []
    for region in Region:
        for side in (Side.CENTRE, Side.LEFT, Side.RIGHT):
            rows = [
                i
                for i, c in enumerate(rig.controls)
                if c.region is region and c.side is side and i in listed
            ]
            if rows:
                found += _split(rig, region, side, rows)
    return tuple(found)


def _split(rig: Rig, region: Region, side: Side, rows: list[int]) -> list[CaptureGroup]:
    limb = limb_title(region, "" if side is Side.CENTRE else side)
    if limb is not None:
        name = limb
    elif side is Side.CENTRE:
        name = region_title(region)
    else:
        name = (tr("{part}, left side") if side is Side.LEFT else tr("{part}, right side")).format(
            part=region_title(region)
        )
    top = [r for r in rows if rig.parents[r] not in rows]
    below = [r for r in rows if r not in top]
    joints_only = all(rig.controls[r].kind is ControlKind.JOINT for r in top)
    if region is Region.HANDS and side is not Side.CENTRE and below and joints_only:
        return [
            CaptureGroup(tr("{name}, fingers", name=name), tuple(below)),
            CaptureGroup(tr("{name}, its own turn", name=name), tuple(top), own_turn=True),
        ]
    return [CaptureGroup(name, tuple(rows))]


def without_own_turn(rig: Rig, rows: Collection[int]) -> set[int]:
    """The controls of a card: of a hand shape the hand's own turn is left out, a body has its
    wrists."""
    wanted = set(rows)
    if not all(rig.controls[row].region is Region.HANDS for row in wanted):
        return wanted
    fingers = wanted - {r for group in groups_of(rig) if group.own_turn for r in group.rows}
    return fingers or wanted
