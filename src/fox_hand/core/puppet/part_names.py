"""What the names of a puppet's parts say: side, region, what hangs on what.

The words are those that authors of cut-outs commonly use (common practice, no source).
"""

from __future__ import annotations

from collections.abc import Collection, Sequence

from fox_hand.core.model.controls import Region, Side
from fox_hand.core.naming.side_region import region_from_name, side_from_name, side_words, tokens

NEAR, FAR = {"near", "nearer"}, {"far", "behind"}
BODY = ("body", "torso", "trunk", "chest", "belly", "hips", "pelvis")
HEAD = ("head", "face", "skull")
# for each word what it hangs on, the likeliest first; a name takes the row of its last word
HANGS: tuple[tuple[tuple[str, ...], tuple[str, ...]], ...] = (
    (("beak", "bill", "jaw", "mouth", "lips", "nose", "muzzle", "snout", "cheek"), HEAD),
    (("pupil", "iris"), ("eye", *HEAD)),
    (("lid", "eyelid", "lash"), ("eye", *HEAD)),
    (("eye", "eyes", "brow", "brows", "eyebrow", "glasses"), HEAD),
    (("ear", "ears", "hair", "hat", "cap", "horn", "crest", "beard", "moustache"), HEAD),
    (("tongue", "teeth"), ("mouth", "jaw", "beak", *HEAD)),
    (HEAD, ("neck", *BODY)),
    (("neck",), BODY),
    (("collar", "scarf", "tie"), ("neck", *BODY, *HEAD)),
    (("finger", "fingers", "thumb"), ("hand", "forearm", "arm")),
    (("hand", "fist", "paw"), ("forearm", "lowerarm", "arm", *BODY)),
    (("forearm", "lowerarm", "elbow"), ("upperarm", "arm", *BODY)),
    (("upperarm", "arm", "shoulder", "wing", "fin", "flipper"), BODY),
    (("toe", "toes", "claw"), ("foot", "shin", "leg")),
    (("foot", "feet", "shoe", "boot"), ("shin", "lowerleg", "calf", "leg", *BODY)),
    (("shin", "lowerleg", "calf", "knee"), ("thigh", "upperleg", "leg", *BODY)),
    (("thigh", "upperleg", "leg"), BODY),
    (("tail", "belt", "skirt", "coat", "bag"), BODY),
)
ENDS = ("tip", "end", "point")
FACE = {"beak": Region.MOUTH, "bill": Region.MOUTH, "muzzle": Region.MOUTH, "snout": Region.MOUTH}
LIMBS = (
    ({"upperarm", "arm"}, {"forearm", "lowerarm"}),
    ({"thigh", "upperleg"}, {"shin", "lowerleg", "calf"}),
)


def side_of(name: str) -> Side:
    """Near is the figure's left in a view from the side, far its right."""
    words = set(tokens(name))
    if words & NEAR:
        return Side.LEFT
    if words & FAR:
        return Side.RIGHT
    return side_from_name(name) or Side.CENTRE


def region_of(name: str) -> Region | None:
    """The region a name says; None where it says nothing."""
    words = plain_words(name)
    for word in reversed(words):
        if word in FACE:
            return FACE[word]
        if word in BODY:
            return Region.TORSO
    return region_from_name(" ".join(words))


def plain_words(name: str) -> list[str]:
    """Words of a name without those of sides and numbers; *upper arm* is one word."""
    words = [w for w in tokens(name) if w not in NEAR | FAR | side_words() and not w.isdigit()]
    joined: list[str] = []
    for word in words:
        if joined and joined[-1] in ("upper", "lower") and word in ("arm", "leg"):
            joined[-1] += word
        else:
            joined.append(word)
    return joined


def above_by_name(name: str, others: Collection[str]) -> str | None:
    """The part that a name says it hangs on: *near wing tip* on *near wing*, a beak on a head."""
    words = plain_words(name)
    if not words:
        return None
    if words[-1] in ENDS:
        found = _called(others, words[:-1], side_of(name))
        if found is not None:
            return found
    begun = [o for o in others if o != name and name.lower().startswith(o.lower() + " ")]
    if begun:
        return max(begun, key=len)
    for word in reversed(words):
        for these, on in HANGS:
            if word in these:
                wanted = (_called(others, [target], side_of(name), name) for target in on)
                return next((found for found in wanted if found is not None), None)
    return None


def wanted_above(name: str) -> str:
    """What a name would hang on, if it were there: a mouth on a head. Empty where it says
    nothing."""
    for word in reversed(plain_words(name)):
        for these, on in HANGS:
            if word in these:
                return on[0]
    return ""


def _called(others: Collection[str], words: Sequence[str], side: Side, me: str = "") -> str | None:
    """A part whose plain words end like this, of the same side first, or of none."""
    fits = [o for o in others if o != me and plain_words(o)[-len(words) :] == list(words)]
    if not words:
        return None
    same = [o for o in fits if side_of(o) is side]
    middle = [o for o in fits if side_of(o) is Side.CENTRE]
    return next(iter(same or middle), None)


def body_by_name(names: Sequence[str]) -> str | None:
    """The part that is the body."""
    for word in BODY:
        found = [name for name in names if plain_words(name) and plain_words(name)[-1] == word]
        if found:
            return found[0]
    return None


def partner_of(name: str, others: Collection[str]) -> str | None:
    """The part of the other side with the same words."""
    other = {Side.LEFT: Side.RIGHT, Side.RIGHT: Side.LEFT}.get(side_of(name))
    if other is None:
        return None
    fits = [o for o in others if side_of(o) is other and plain_words(o) == plain_words(name)]
    return fits[0] if len(fits) == 1 else None


def makes_limb(upper: str, lower: str) -> bool:
    """Whether two parts, one on the other, are a limb: an arm and a forearm, a wing and its tip."""
    above, below = plain_words(upper), plain_words(lower)
    if not above or not below or side_of(upper) is not side_of(lower):
        return False
    if below[:-1] == above and below[-1] in ENDS:
        return region_of(upper) in (Region.ARMS, Region.WINGS, Region.LEGS, Region.TAIL)
    return any(above[-1] in these and below[-1] in those for these, those in LIMBS)
