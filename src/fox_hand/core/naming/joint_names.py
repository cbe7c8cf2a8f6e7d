"""What joints' names say: a side, a part of the body, a number; whatever stands around it.

Rigs put a prefix or a suffix onto all their names, with a separator or glued on. Which one it is
follows from the names themselves: what many of them share, and what is left to be understood when
it is gone. The words are those rigs commonly use (common practice, no source).
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache

from fox_hand.core.model.controls import Side


class BodyPart(StrEnum):
    """What a word means. *Shoulder*, *arm*, *hip* and *leg* mean one bone or another, depending on
    which words stand above and below them."""

    PELVIS = "pelvis"
    SPINE = "spine"
    NECK = "neck"
    HEAD = "head"
    JAW = "jaw"
    EYE = "eye"
    COLLAR = "collar"
    SHOULDER = "shoulder"
    UPPER_ARM = "upper arm"
    ARM = "arm"
    LOWER_ARM = "lower arm"
    HAND = "hand"
    HIP = "hip"
    THIGH = "thigh"
    LEG = "leg"
    SHIN = "shin"
    FOOT = "foot"
    TOES = "toes"
    FINGER = "finger"


_WORDS: dict[BodyPart, str] = {
    BodyPart.PELVIS: "hips pelvis",
    BodyPart.SPINE: "spine back backbone torso chest upperchest lowerchest abdomen belly stomach "
    "waist rib ribs ribcage thorax lumbar upperback lowerback midback spinelower spineupper "
    "spinemid lowerspine upperspine midspine upperbody",
    BodyPart.NECK: "neck neckbase lowerneck upperneck necklower neckupper",
    BodyPart.HEAD: "head skull",
    BodyPart.JAW: "jaw lowerjaw mandible",
    BodyPart.EYE: "eye eyeball",
    BodyPart.COLLAR: "clavicle clav collar collarbone scapula shoulderblade",
    BodyPart.SHOULDER: "shoulder shldr shoulderjoint",
    BodyPart.UPPER_ARM: "upperarm uparm armupper armup humerus bicep uprarm",
    BodyPart.ARM: "arm",
    BodyPart.LOWER_ARM: "forearm lowerarm loarm lowarm armlower armlow elbow lwrarm armfore foream",
    BodyPart.HAND: "hand wrist",
    BodyPart.HIP: "hip hipjoint",
    BodyPart.THIGH: "thigh upleg upperleg legupper legup femur uprleg",
    BodyPart.LEG: "leg",
    BodyPart.SHIN: "shin calf knee lowerleg loleg lowleg leglower leglow tibia shank lwrleg",
    BodyPart.FOOT: "foot ankle",
    BodyPart.TOES: "toe toes toebase ball toeball football forefoot foottoe",
}
WORDS = {word: part for part, words in _WORDS.items() for word in words.split()}
FINGERS = {
    "thumb": "Thumb",
    "index": "Index",
    "pointer": "Index",
    "middle": "Middle",
    "mid": "Middle",
    "ring": "Ring",
    "pinky": "Little",
    "pinkie": "Little",
    "pink": "Little",
    "little": "Little",
    "small": "Little",
}
BONES = {
    "metacarpal": 0,
    "carpal": 0,
    "meta": 0,
    "proximal": 1,
    "prox": 1,
    "intermediate": 2,
    "inter": 2,
    "medial": 2,
    "distal": 3,
    "dist": 3,
}
LEFT = {"l", "lt", "lf", "lft", "left"}
RIGHT = {"r", "rt", "rgt", "right"}
# what hangs on bones without being one
HELPERS = {
    *(
        "twist",
        "twst",
        "roll",
        "ik",
        "pole",
        "goal",
        "target",
        "end",
        "tip",
        "nub",
        "helper",
        "site",
    ),
    *("effector", "socket", "attach", "prop", "ctrl", "corrective", "volume", "bendy", "stretch"),
    *("holder", "weapon", "offset", "nul", "null"),
}
FILLERS = {
    *("jnt", "joint", "jt", "bone", "bn", "b", "j", "bind", "def", "deform", "skin", "sk", "skel"),
    *("rig", "char", "drv", "main", "env", "c", "m", "cn", "ctr", "center", "centre", "cen"),
    *("f", "fk", "a", "d", "e"),
}


@dataclass(frozen=True)
class Said:
    """What one name says.

    Args:
        side: as said, None where it says none.
        part: what of the body; None where nothing was understood.
        finger: which, as roles call it; empty for others.
        bone: of a finger, 0 for the metacarpal to 3 for the last, where a word says it.
        numbers: all numbers in it, in order.
        helper: whether it is no bone, such as a twist or an end.
    """

    side: Side | None = None
    part: BodyPart | None = None
    finger: str = ""
    bone: int | None = None
    numbers: tuple[int, ...] = ()
    helper: bool = False

    @property
    def understood(self) -> bool:
        return self.part is not None


def split(name: str) -> list[str]:
    """Lower-case words of a name: split at separators, capitals and digits; everything before a
    colon or a bar is a prefix. ``mixer:LeftHandIndex1`` gives ``left hand index 1``."""
    bare = re.split(r"[:|]", name)[-1]
    spaced = re.sub(r"(?<=[a-z0-9])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])", " ", bare)
    return [t.lower() for t in re.findall(r"[A-Za-z]+|\d+", spaced)]


@lru_cache(maxsize=8192)
def read(name: str) -> Said:
    """What a name says, taken by itself."""
    words = split(name)
    digits = [w[:6] for w in words if w.isdigit()]
    words = [w for w in words if not w.isdigit()]
    side = _side(words)
    helper = bool(HELPERS & set(words))
    rest = [w for w in words if w not in LEFT | RIGHT]
    finger = _finger(rest, digits)
    if finger is None and side is None:
        side, rest = _glued(rest)
        finger = _finger(rest, digits)
    if finger is not None:
        bone = next((BONES[w] for w in rest if w in BONES), None)
        if finger.isdigit():  # "Finger21": the first of the third finger
            digits = [digits[0][1:] or "0", *digits[1:]] if len(digits) == 1 else digits[1:]
        return Said(side, BodyPart.FINGER, finger, bone, _numbers(digits), helper)
    known = [w for w in rest if w not in HELPERS]
    part = _part(known)
    if part is None and (fewer := [w for w in known if w not in FILLERS]) != known:
        part = _part(fewer)
    return Said(side, part, numbers=_numbers(digits), helper=helper)


def _numbers(digits: Iterable[str]) -> tuple[int, ...]:
    return tuple(int(d) for d in digits)


def _side(words: Iterable[str]) -> Side | None:
    found = set(words)
    left, right = bool(found & LEFT), bool(found & RIGHT)
    if left == right:
        return None
    return Side.LEFT if left else Side.RIGHT


def _part(words: Sequence[str]) -> BodyPart | None:
    return WORDS.get("".join(words))


def _finger(words: Sequence[str], digits: Sequence[str]) -> str | None:
    """Which finger; ``"0"`` ... for those that only have a number; None for no finger."""
    found = next((FINGERS[w] for w in words if w in FINGERS), None)
    others = {w for w in words if w not in FINGERS and w not in FILLERS and w not in BONES}
    if others - HELPERS - {"hand", "finger", "fingers", "fing"}:
        return None
    if found is not None:
        # "middle" and "little" are no fingers by themselves
        return found if len(words) > 1 or digits or words[0] not in ("mid", "small") else None
    return digits[0][0] if {"finger", "fing"} & set(words) and digits else None


def _glued(words: Sequence[str]) -> tuple[Side | None, list[str]]:
    """A side that is part of a word: ``lthigh``, ``handr``, ``leftupleg``."""
    text = "".join(words)
    for word in (*sorted(LEFT | RIGHT, key=len, reverse=True),):
        side = Side.LEFT if word in LEFT else Side.RIGHT
        for rest in (text.removeprefix(word), text.removesuffix(word)):
            if rest != text and (rest in WORDS or rest in FINGERS):
                return side, [rest]
    return None, list(words)


# -- what all names of a rig share ------------------------------------------------------------

SHARES = (1.0, 0.9, 0.75, 0.6)
LONGEST = 24
LOOKED_AT = 80  # names, to find out which affixes a rig uses


def read_all(names: Sequence[str]) -> list[Said]:
    """What the names of one rig say, once what they share at both ends is taken off."""
    front, back = affixes(names)
    return [read(stripped(name, front, back)) for name in names]


def stripped(name: str, front: str, back: str) -> str:
    """A name without what all names share, where it has it and something is left.

    Args:
        name: the name.
        front, back: a prefix and a suffix, see :func:`affixes`.
    """
    if front and name.startswith(front) and len(name) > len(front):
        name = name[len(front) :]
    if back and name.endswith(back) and len(name) > len(back):
        name = name[: -len(back)]
    return name


def affixes(names: Sequence[str]) -> tuple[str, str]:
    """The prefix and the suffix without which most names are understood; the shortest do."""
    if len(names) < 3:
        return "", ""
    step = max(len(names) // LOOKED_AT, 1)
    some = list(names[::step])
    best, found = _understood(some, "", ""), ("", "")
    for front in ("", *_shared(some)):
        for back in ("", *(s[::-1] for s in _shared([n[::-1] for n in some]))):
            score = _understood(some, front, back)
            if score > best:
                best, found = score, (front, back)
    return found


def _understood(names: Iterable[str], front: str, back: str) -> int:
    return sum(read(stripped(name, front, back)).understood for name in names)


def _shared(names: Sequence[str]) -> list[str]:
    """Beginnings that many names have, the shortest first."""
    counts: dict[str, int] = {}
    for name in names:
        for end in range(1, min(len(name), LONGEST)):
            counts[name[:end]] = counts.get(name[:end], 0) + 1
    found: set[str] = set()
    for share in SHARES:
        enough = [text for text, count in counts.items() if count >= share * len(names)]
        longest = max(enough, key=len, default="")
        found |= {longest, *(longest[:end] for end in _borders(longest))}
    return sorted(found - {""}, key=len)


def _borders(text: str) -> list[int]:
    """Where a shared beginning may end: after a separator, before a capital."""
    return [i for i in range(1, len(text)) if not text[i - 1].isalnum() or text[i].isupper()]
