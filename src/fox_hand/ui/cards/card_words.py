"""What is said about a card in a few words."""

from __future__ import annotations

from fox_hand.core.model.controls import Region
from fox_hand.library.format.entry import Entry

MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
LIMBS = {
    Region.HANDS: "hand",
    Region.ARMS: "arm",
    Region.LEGS: "leg",
    Region.EARS: "ear",
    Region.WINGS: "wing",
    Region.LIMBS: "limb",
}
WHOLES = {Region.HEAD: "face", Region.TORSO: "body"}
SIDES = {"left": "Left ", "right": "Right ", "both": "Both "}


def describe(entry: Entry) -> str:
    """Such as "Left hand, 15 controls, turns only"."""
    word, side = LIMBS.get(entry.region), SIDES.get(entry.side, "")
    if word is not None:
        where = f"{side}{word}{'s' if side == 'Both ' else ''}"
    else:
        where = WHOLES.get(entry.region, entry.region.value)
    kinds = entry.holds
    what = f"{kinds[0]} only" if len(kinds) == 1 else " and ".join(kinds)
    controls = "1 control" if entry.count == 1 else f"{entry.count} controls"
    parts = [f"{where[:1].upper()}{where[1:]}", controls, *([what] if what else [])]
    return ", ".join(parts)


def short_date(text: str) -> str:
    """``2026-11-12T09:00:00Z`` as ``12 Nov``; empty for what is no date."""
    parts = text[:10].split("-")
    if len(parts) != 3 or not all(p.isdigit() for p in parts) or not 1 <= int(parts[1]) <= 12:
        return ""
    return f"{int(parts[2])} {MONTHS[int(parts[1]) - 1]}"


def signed(entry: Entry) -> str:
    """Who and when, such as "Ines B., 12 Nov", or "Ines B., 14 Nov by Tomas R."."""
    when, by = short_date(entry.changed), entry.changed_by
    if when and by and by != entry.author:
        when = f"{when} by {by}"
    return ", ".join(part for part in (entry.author, when) if part)


def counted(number: int, one: str, many: str = "") -> str:
    """``1 card`` or ``3 cards``."""
    return f"{number:,} {one if number == 1 else many or one + 's'}".replace(",", " ")
