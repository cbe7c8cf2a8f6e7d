"""Which control mirrors to which: found by name, confirmed by where they stand at rest."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from fox_hand.base.language import tr
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.controls import Side
from fox_hand.core.naming.side_region import partner_name, side_from_name
from fox_hand.core.rig.rig import Rig

SAME_PLACE = 0.002  # of the height: how far a partner may be from the mirror image of the other
NEAR_MIDDLE = 0.01  # of the height: how far a control of the middle may be from it


class FoundBy(StrEnum):
    """How a partner was found."""

    BOTH = "name and place"
    NAME = "name"
    PLACE = "place"
    HAND = "by hand"
    MIDDLE = "middle"
    ALONE = "alone"

    @property
    def word(self) -> str:
        """What people read."""
        return _FOUND_BY_WORDS[self]


_FOUND_BY_WORDS = {
    FoundBy.BOTH: tr("name and place"),
    FoundBy.NAME: tr("name"),
    FoundBy.PLACE: tr("place"),
    FoundBy.HAND: tr("by hand"),
    FoundBy.MIDDLE: tr("middle"),
    FoundBy.ALONE: tr("alone"),
}


@dataclass(frozen=True)
class Pair:
    """A control and its partner.

    Args:
        row, other: control rows; the same for a control of the middle or one that is alone.
        found: how.
        off: metres between one and the mirror image of the other at rest.
    """

    row: int
    other: int
    found: FoundBy
    off: float


@dataclass(frozen=True)
class Doubt:
    """Something a person should look at; the first choice counts until then.

    Args:
        row: the control.
        text: what is strange about it.
        choices: what can be chosen: a word and the partner's name (the own name for the middle,
            empty for alone).
    """

    row: int
    text: str
    choices: tuple[tuple[str, str], ...]


def rest_places(rig: Rig) -> Array:
    """Rest places of the controls' handles as the figure has them, own left +X, ``(C, 3)``."""
    return rig.body.seen(rig.handle_places(rig.skeleton.rest_world))


def nearest_by_place(places: Array, kinds: Sequence[object]) -> tuple[np.ndarray, Array]:
    """For each control the one nearest to its mirror image among those of its kind.

    Returns:
        rows ``(C,)`` and distances in metres ``(C, C)``; other kinds are infinitely far.
    """
    if not len(places):
        return np.zeros(0, dtype=np.intp), np.zeros((0, 0))
    image = places * (-1.0, 1.0, 1.0)
    far = np.linalg.norm(image[:, None] - places[None], axis=-1)
    alike = np.array([[a == b for b in kinds] for a in kinds], dtype=bool).reshape(far.shape)
    far = np.where(alike, far, np.inf)
    return far.argmin(1), far


def infer_partners(
    names: Sequence[str], sides: Sequence[Side], places: Array, height: float
) -> list[str | None]:
    """Partner names: by name, else by place where that is mutual and exact enough.

    Args:
        names, sides: of the controls.
        places: rest places ``(C, 3)``.
        height: of the figure.
    """
    known = frozenset(names)
    nearest, far = nearest_by_place(places, [0] * len(names))
    found: list[str | None] = []
    for row, (name, side) in enumerate(zip(names, sides, strict=True)):
        partner = partner_name(name, known) if side is not Side.CENTRE else name
        other = int(nearest[row]) if len(names) else row
        mutual = int(nearest[other]) == row and far[row, other] < SAME_PLACE * height
        if partner is None and mutual and other != row and side_from_name(name) is None:
            partner = names[other]
        found.append(partner)
    return found


def pairs_of(rig: Rig) -> list[Pair]:
    """Every control once: the own left one with its partner, then the middle, then the lonely."""
    places = rest_places(rig)
    _, far = nearest_by_place(places, [c.kind for c in rig.controls])
    tolerance = SAME_PLACE * rig.height
    found: list[Pair] = []
    for row, control in enumerate(rig.controls):
        if control.helper:
            continue
        other = rig.control_row.get(control.partner or "", -1)
        off = float(far[row, other]) if other >= 0 else float(abs(places[row, 0]) * 2)
        if other < 0:
            found.append(Pair(row, row, FoundBy.ALONE, off))
        elif other == row:
            found.append(Pair(row, row, FoundBy.MIDDLE, off))
        elif control.side is not Side.RIGHT or rig.controls[other].side is Side.RIGHT:
            if control.side is Side.RIGHT and row > other:
                continue
            found.append(Pair(row, other, _how(rig, row, other, off, tolerance), off))
    order = {FoundBy.MIDDLE: 1, FoundBy.ALONE: 2}
    return sorted(found, key=lambda p: order.get(p.found, 0))


def _how(rig: Rig, row: int, other: int, off: float, tolerance: float) -> FoundBy:
    one, two = rig.controls[row], rig.controls[other]
    if one.paired_by_hand or two.paired_by_hand:
        return FoundBy.HAND
    known = frozenset(c.name for c in rig.controls)
    by_name = partner_name(one.name, known) == two.name
    if by_name:
        return FoundBy.BOTH if off <= tolerance else FoundBy.NAME
    return FoundBy.PLACE


def doubts_of(rig: Rig) -> list[Doubt]:
    """Where name and place disagree, or a control off the middle has no partner."""
    places = rest_places(rig)
    nearest, far = nearest_by_place(places, [c.kind for c in rig.controls])
    tolerance, found = SAME_PLACE * rig.height, []
    for pair in pairs_of(rig):
        control = rig.controls[pair.row]
        near = int(nearest[pair.row])
        if control.paired_by_hand or pair.found in (FoundBy.BOTH, FoundBy.HAND):
            continue
        if pair.found is FoundBy.ALONE and abs(places[pair.row, 0]) > NEAR_MIDDLE * rig.height:
            text = tr(
                "no partner by name; lies {mm} off the middle", mm=_mm(abs(places[pair.row, 0]))
            )
            choices = [(tr("Stays alone"), "")]
            if near != pair.row:
                choices.append((rig.controls[near].name, rig.controls[near].name))
            found.append(Doubt(pair.row, text, tuple(choices)))
        elif pair.found is FoundBy.NAME:
            other = rig.controls[pair.other].name
            nearer = float(far[pair.row, near])
            if near not in (pair.other, pair.row) and nearer < 0.5 * pair.off:
                text = tr(
                    "by name {other}; by place {name} is {mm} off",
                    other=other,
                    name=rig.controls[near].name,
                    mm=_mm(nearer),
                )
                choices = [(other, other), (rig.controls[near].name, rig.controls[near].name)]
            elif pair.off > 4 * tolerance:
                text = tr("pair by name, but {mm} out of place at rest", mm=_mm(pair.off))
                choices = [(tr("Right so"), other), (tr("Not a pair"), "")]
            else:
                continue
            found.append(Doubt(pair.row, text, tuple(choices)))
    return found


def _mm(metres: float) -> str:
    return tr("{metres:.0f} mm", metres=metres * 1000)
