"""What is said about a card in a few words."""

from __future__ import annotations

from fox_hand.base.language import day_text, tr, tr_n
from fox_hand.core.model.controls import Region
from fox_hand.core.naming.part_words import capital, limb_word, region_word
from fox_hand.library.format.entry import Entry

WHOLES = {Region.HEAD: tr("face"), Region.TORSO: tr("body")}
KINDS = {
    "turns": tr("turns"),
    "moves": tr("moves"),
    "scale": tr("scale"),
    "settings": tr("settings"),
}


def describe(entry: Entry) -> str:
    """Such as "Left hand, 15 controls, turns only"."""
    where = limb_word(entry.region, entry.side)
    if where is None:
        where = WHOLES.get(entry.region) or region_word(entry.region)
    kinds = [KINDS.get(kind, kind) for kind in entry.holds]
    what = tr("{kinds} only", kinds=kinds[0]) if len(kinds) == 1 else tr(" and ").join(kinds)
    controls = tr_n("1 control", "{number} controls", entry.count)
    return ", ".join([capital(where), controls, *([what] if what else [])])


def short_date(text: str) -> str:
    """``2026-11-12T09:00:00Z`` as ``12 Nov``; empty for what is no date."""
    return day_text(text)


def signed(entry: Entry) -> str:
    """Who and when, such as "Ines B., 12 Nov", or "Ines B., 14 Nov by Tomas R."."""
    when, by = short_date(entry.changed), entry.changed_by
    if when and by and by != entry.author:
        when = tr("{when} by {by}", when=when, by=by)
    return ", ".join(part for part in (entry.author, when) if part)
