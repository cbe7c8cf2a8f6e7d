"""What parts of the body and their sides are called."""

from __future__ import annotations

from fox_hand.base.language import tr
from fox_hand.core.model.controls import Region, Side

REGIONS = {
    Region.HEAD: tr("head"),
    Region.EYES: tr("eyes"),
    Region.MOUTH: tr("mouth"),
    Region.TORSO: tr("torso"),
    Region.ARMS: tr("arms"),
    Region.HANDS: tr("hands"),
    Region.LEGS: tr("legs"),
    Region.EARS: tr("ears"),
    Region.WINGS: tr("wings"),
    Region.TAIL: tr("tail"),
    Region.LIMBS: tr("limbs"),
}
SIDES = {"left": tr("left"), "right": tr("right"), "centre": tr("centre"), "both": tr("both sides")}
# languages bend the word of the side, so that every pair is a text of its own
LIMBS = {
    Region.ARMS: (tr("arm"), tr("left arm"), tr("right arm"), tr("both arms")),
    Region.HANDS: (tr("hand"), tr("left hand"), tr("right hand"), tr("both hands")),
    Region.LEGS: (tr("leg"), tr("left leg"), tr("right leg"), tr("both legs")),
    Region.EARS: (tr("ear"), tr("left ear"), tr("right ear"), tr("both ears")),
    Region.WINGS: (tr("wing"), tr("left wing"), tr("right wing"), tr("both wings")),
    Region.LIMBS: (tr("limb"), tr("left limb"), tr("right limb"), tr("both limbs")),
}
_PLACE = {"left": 1, "right": 2, "both": 3}


def region_word(region: Region) -> str:
    """A part of the body: ``hands``."""
    return REGIONS[region]


def region_title(region: Region) -> str:
    """The same at the beginning of a line."""
    return capital(REGIONS[region])


def side_word(side: Side | str) -> str:
    """A side, or how a card lies on both: ``left``, ``both sides``; of anything else itself."""
    return SIDES.get(str(side), str(side))


def limb_word(region: Region, side: Side | str = "") -> str | None:
    """A limb with its side: ``left hand``; None for a region that is no limb."""
    words = LIMBS.get(region)
    return None if words is None else words[_PLACE.get(str(side), 0)]


def limb_title(region: Region, side: Side | str = "") -> str | None:
    """The same at the beginning of a line."""
    word = limb_word(region, side)
    return None if word is None else capital(word)


def capital(text: str) -> str:
    """A text at the beginning of a line; what follows stays, as some languages write nouns with
    capitals."""
    return text[:1].upper() + text[1:]
