"""What a setting of a face does, from its name: which part, which way, on which side.

The words are those that rigs and programs commonly use for shapes of a face (common practice, no
source). The expressions and mouth shapes of VRM have their names from VRM 0.x
(``VRM.blendShapeMaster``, presetName) and 1.0 (``VRMC_vrm.expressions``, preset); which of the old
ones became which of the new ones is said there as well (from memory).
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from fox_hand.core.model.controls import Side
from fox_hand.core.naming.joint_names import LEFT, RIGHT, read, split

BROW, EYE, JAW, MOUTH = "brow", "eye", "jaw", "mouth"
CHEEK, NOSE, TONGUE, VISEME, FACE = "cheek", "nose", "tongue", "viseme", "face"
PARTS: dict[str, frozenset[str]] = {
    BROW: frozenset({"brow", "brows", "eyebrow", "eyebrows"}),
    CHEEK: frozenset({"cheek", "cheeks"}),
    NOSE: frozenset({"nose", "nostril", "nostrils"}),
    TONGUE: frozenset({"tongue"}),
    JAW: frozenset({"jaw"}),
    MOUTH: frozenset({"mouth", "lip", "lips"}),
    EYE: frozenset({"eye", "eyes", "lid", "lids", "eyelid", "eyelids"}),
}
# of each part what it does, the more exact words first; all words of a phrase have to be there
ACTIONS: dict[str, tuple[tuple[str, tuple[str, ...]], ...]] = {
    BROW: (
        ("inner up", ("inner up", "inner raise", "inner raiser", "in up")),
        ("outer up", ("outer up", "outer raise", "outer raiser", "out up")),
        ("down", ("down", "lower", "lowerer", "furrow", "frown")),
        ("up", ("up", "raise", "raiser", "raised")),
        ("in", ("in", "squeeze", "together")),
    ),
    EYE: (
        ("look up", ("look up",)),
        ("look down", ("look down",)),
        ("look in", ("look in",)),
        ("look out", ("look out",)),
        ("shut", ("blink", "wink", "shut", "close", "closed", "closure")),
        ("squint", ("squint", "narrow", "tighten", "tightener")),
        ("wide", ("wide", "widen", "open")),
    ),
    JAW: (
        ("open", ("open", "drop")),
        ("forward", ("forward", "forwards", "thrust")),
        ("back", ("back", "backward", "backwards")),
        ("shut", ("clench", "clencher")),
    ),
    MOUTH: (
        ("upper up", ("upper up", "upper raise", "upper raiser")),
        ("lower down", ("lower down", "lower depress", "lower depressor")),
        ("upper in", ("roll upper", "upper in", "upper suck", "upper roll")),
        ("lower in", ("roll lower", "lower in", "lower suck", "lower roll")),
        ("upper shrug", ("shrug upper",)),
        ("lower shrug", ("shrug lower",)),
        ("corner up", ("smile", "corner up", "corners up", "corner puller", "grin")),
        ("corner down", ("frown", "corner down", "corners down", "corner depressor")),
        ("dimple", ("dimple", "dimpler")),
        ("wide", ("stretch", "stretcher", "wide")),
        ("pucker", ("pucker", "puckerer", "kiss")),
        ("round", ("funnel", "funneler", "round")),
        ("press", ("press", "pressor", "tight", "tightener")),
        ("seal", ("close", "closed", "seal", "sealed")),
        ("open", ("open",)),
    ),
    CHEEK: (
        ("puff", ("puff",)),
        ("suck", ("suck",)),
        ("up", ("squint", "up", "raise", "raiser")),
    ),
    NOSE: (("sneer", ("sneer", "wrinkle", "wrinkler")), ("flare", ("flare", "flarer"))),
    TONGUE: (("out", ("out",)), ("up", ("up",)), ("down", ("down",))),
}
# words that say part and action by themselves
ALONE = {
    "blink": (EYE, "shut"),
    "wink": (EYE, "shut"),
    "smile": (MOUTH, "corner up"),
    "pucker": (MOUTH, "pucker"),
    "funnel": (MOUTH, "round"),
    "sneer": (NOSE, "sneer"),
    "squint": (EYE, "squint"),
}
SAME = {(MOUTH, "open"): (JAW, "open")}  # for most faces it is one
VOWELS = {
    **{"aa": "aa", "a": "aa", "ah": "aa"},
    **{"ih": "ih", "i": "ih"},
    **{"ou": "ou", "u": "ou", "uw": "ou"},
    **{"ee": "ee", "e": "ee", "eh": "ee"},
    **{"oh": "oh", "o": "oh", "ow": "oh"},
}
CONSONANTS = ("sil", "pp", "ff", "th", "dd", "kk", "ch", "ss", "nn", "rr")
SPOKEN = frozenset({"viseme", "vis", "v", "phoneme", "phon", "mouth", "lip", "lips", "mth"})
EXPRESSIONS = {
    **{"happy": "happy", "joy": "happy", "angry": "angry", "anger": "angry"},
    **{"sad": "sad", "sorrow": "sad", "relaxed": "relaxed", "fun": "relaxed"},
    **{"surprised": "surprised", "surprise": "surprised", "neutral": "neutral"},
}
LOOKS = {"look up": "look up", "lookup": "look up", "look down": "look down"}
LOOKS |= {"lookdown": "look down"}


@dataclass(frozen=True)
class FaceRole:
    """What a setting of a face does.

    Args:
        part: such as ``mouth``; ``viseme`` for whole mouth shapes, ``face`` for expressions.
        action: such as ``corner up``.
        side: of the character; centre where it does it on both, or has none.
    """

    part: str
    action: str
    side: Side = Side.CENTRE


def face_role(name: str) -> FaceRole | None:
    """What a setting of this name does; None where the name does not say it."""
    side = read(name).side or Side.CENTRE
    words = [word for word in split(name) if word not in LEFT | RIGHT]
    found = _whole(words, side) or _part(words, side)
    if found is None:
        return None
    part, action = SAME.get(found, found)
    return FaceRole(part, action, side)


def _whole(words: list[str], side: Side) -> tuple[str, str] | None:
    """A mouth shape, an expression, or a look of both eyes: names that say nothing else."""
    if " ".join(words) in LOOKS:
        return EYE, LOOKS[" ".join(words)]
    if words == ["look"] and side is not Side.CENTRE:
        return EYE, "look aside"
    rest = [word for word in words if word not in SPOKEN]
    spoken = len(rest) < len(words)
    if len(rest) != 1:
        return None
    (word,) = rest
    if word in EXPRESSIONS and not spoken:
        return FACE, EXPRESSIONS[word]
    if word in VOWELS:
        return VISEME, VOWELS[word]
    return (VISEME, word) if spoken and word in CONSONANTS else None


def _part(words: list[str], side: Side) -> tuple[str, str] | None:
    known = set(words)
    for part, names in PARTS.items():
        if names & known:
            action = _action(part, known)
            if action is None and side is not Side.CENTRE and part in (JAW, MOUTH):
                action = "aside" if known <= names else None
            if action is not None:
                return part, action
    alone = [ALONE[word] for word in words if word in ALONE]
    return alone[0] if len(alone) == 1 else None


def _action(part: str, words: set[str]) -> str | None:
    for action, phrases in ACTIONS[part]:
        if any(set(phrase.split()) <= words for phrase in phrases):
            return action
    return None


def face_roles(names: Iterable[str]) -> dict[str, FaceRole]:
    """The roles of all names that say one."""
    found = ((name, face_role(name)) for name in names)
    return {name: role for name, role in found if role is not None}
