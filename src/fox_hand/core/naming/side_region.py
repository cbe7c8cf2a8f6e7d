"""Side, region and mirror partner of a control, from its name and from where it stands at rest.

The words are those rigs commonly use (common practice, no source).
"""

from __future__ import annotations

import re
from collections.abc import Sequence

import numpy as np

from fox_hand.base.language import tr
from fox_hand.base.words import plain_name
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.controls import Region, Side
from fox_hand.core.naming.joint_names import LEFT, RIGHT, affixes, read, split, stripped
from fox_hand.core.naming.part_words import side_word

_REGION_WORDS: tuple[tuple[Region, tuple[str, ...]], ...] = (
    (Region.HANDS, ("finger", "thumb", "index", "middle", "ring", "pinky", "pinkie", "little")),
    (Region.HANDS, ("hand", "wrist", "palm", "metacarp", "carpal", "grip")),
    (Region.EYES, ("eye", "brow", "lid", "blink", "squint", "look", "pupil", "lash")),
    (Region.MOUTH, ("jaw", "mouth", "lip", "tongue", "teeth", "tooth", "chin", "corner", "smile")),
    (Region.MOUTH, ("pucker", "viseme", "frown", "puff")),
    (Region.HEAD, ("head", "neck", "skull", "cheek", "nose", "sneer", "hair", "hat")),
    (Region.LEGS, ("thigh", "leg", "knee", "shin", "calf", "foot", "feet", "ankle", "toe", "ball")),
    (Region.ARMS, ("forearm", "arm", "elbow", "shoulder", "clavicle", "clav", "collar", "sleeve")),
    (Region.TORSO, ("spine", "chest", "hip", "pelvis", "torso", "waist", "belly", "root", "back")),
)


# these count at the beginning of a word only: a swing is no wing, the rear no ear
_REGION_STARTS: tuple[tuple[Region, tuple[str, ...]], ...] = (
    (Region.WINGS, ("wing", "feather", "pinion")),
    (Region.TAIL, ("tail",)),
    (Region.EARS, ("ear",)),
    (Region.LIMBS, ("tentacle", "feeler", "antenna", "pincer", "flipper")),
    (Region.HEAD, ("face",)),
)
NOWHERE = 1e-9  # metres


def tokens(name: str) -> list[str]:
    """Lower-case words of a name, see :func:`fox_hand.core.naming.joint_names.split`."""
    return split(name)


def side_words() -> set[str]:
    """Words that say a side."""
    return LEFT | RIGHT


def side_from_name(name: str) -> Side | None:
    """The side a name says, or None where it says nothing or both."""
    return read(name).side


def _says(word: str, known: str) -> bool:
    """Short words count at either end (``upperarm``), longer ones anywhere."""
    return word.startswith(known) or word.endswith(known) or (len(known) > 3 and known in word)


def region_from_name(name: str) -> Region | None:
    """The region a name says, or None."""
    words = tokens(name)
    for region, known in _REGION_STARTS:
        if any(word.startswith(known) for word in words):
            return region
    for region, known in _REGION_WORDS:
        if any(_says(word, k) for word in words for k in known):
            return region
    return None


def partner_name(name: str, known: frozenset[str]) -> str | None:
    """The name with its side exchanged, if such a control is known."""
    swaps = [("left", "right"), ("lft", "rgt"), ("lt", "rt"), ("l", "r")]
    for a, b in swaps:
        for one, other in ((a, b), (b, a)):
            for match in re.finditer(one, name, re.IGNORECASE):
                swapped = name[: match.start()] + _like(match.group(), other) + name[match.end() :]
                is_side = side_from_name(name) != side_from_name(swapped)
                if swapped in known and swapped != name and is_side:
                    return swapped
    return None


def _like(model: str, word: str) -> str:
    if model.isupper():
        return word.upper()
    return word.capitalize() if model[0].isupper() else word


def infer_sides(names: Sequence[str], places: Array, height: float) -> tuple[list[Side], list[str]]:
    """Sides of controls from names, else from which side of the middle they stand on.

    Args:
        names: control names.
        places: rest positions ``(C, 3)``; own left is +X.
        height: of the figure, for "near the middle".

    Returns:
        sides, and sentences about names and places that disagree.
    """
    front, back = affixes(names)
    sides, notes = [], []
    for name, place in zip(names, places, strict=True):
        near = abs(place[0]) < 0.01 * height
        by_place = Side.CENTRE if near else (Side.LEFT if place[0] > 0 else Side.RIGHT)
        named = side_from_name(stripped(name, front, back))
        if named is not None and by_place is not Side.CENTRE and named is not by_place:
            notes.append(
                tr(
                    "{name} is {value} by its name but stands on the {value_2}.",
                    name=name,
                    value=side_word(named),
                    value_2=side_word(by_place),
                )
            )
        sides.append(named or by_place)
    return sides, notes


def infer_regions(names: Sequence[str], parents: Sequence[int], places: Array) -> list[Region]:
    """Regions from names; nameless controls follow their parent or their place on the body.

    Args:
        names, parents: controls in topological order, -1 for no parent.
        places: rest positions ``(C, 3)``, Y up.
    """
    low = float(places[:, 1].min(initial=0.0))
    height = max(float(places[:, 1].max(initial=0.0)) - low, NOWHERE)
    reach = max(float(np.abs(places[:, 0]).max(initial=0.0)), 1e-9)
    front, back = affixes(names)
    regions: list[Region] = []
    for i, name in enumerate(names):
        named = region_from_name(stripped(name, front, back))
        if named is not None:
            regions.append(named)
            continue
        above = regions[parents[i]] if parents[i] >= 0 else None
        if above is not None and above not in (Region.TORSO, Region.ARMS):
            regions.append(above)
        else:
            up, out = (places[i, 1] - low) / height, abs(places[i, 0])
            regions.append(_region_from_place(float(up), float(out), height, reach))
    return regions


def _region_from_place(up: float, out: float, height: float, reach: float) -> Region:
    if height <= NOWHERE:
        return Region.TORSO  # all of it in one place says nothing
    if out < 0.05 * height:
        return Region.HEAD if up > 0.85 else Region.TORSO if up > 0.4 else Region.LEGS
    if up < 0.45 and out < 0.5 * reach:
        return Region.LEGS
    return Region.HANDS if out > 0.85 * reach else Region.ARMS


def label_of(name: str) -> str:
    """A readable label: side words out, first letter large, ``finger_index_1_L`` -> ``Index 1``."""
    name = plain_name(name)
    words = [w for w in tokens(name) if w not in LEFT | RIGHT]
    if len(words) > 1 and words[0] in ("finger", "hand") and not words[1].isdigit():
        words = words[1:]
    return " ".join(words).capitalize() or name


def sided_label(name: str) -> str:
    """The same with the side in front, where both sides stand in one list: ``L brow down``."""
    side = side_from_name(name)
    letter = {Side.LEFT: "L", Side.RIGHT: "R"}.get(side) if side is not None else None
    label = label_of(name)
    return label if letter is None else f"{letter} {label.lower()}"
