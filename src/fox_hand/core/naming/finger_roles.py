"""Which bone of which finger: by words, by numbers, by what hangs on what and by how it lies."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Protocol

import numpy as np

from fox_hand.core.maths.rotations import Array
from fox_hand.core.naming.joint_names import BodyPart, Said

FINGER_NAMES = ("Thumb", "Index", "Middle", "Ring", "Little")
BONES = ("Proximal", "Intermediate", "Distal")
THUMB_BONES = ("Metacarpal", "Proximal", "Distal")


class Hierarchy(Protocol):
    """What hangs on what."""

    def up(self, row: int) -> list[int]:
        """A joint and all above it, upwards."""
        ...


def finger_roles(
    said: Sequence[Said],
    rows: Iterable[int],
    tree: Hierarchy,
    places: Array | None,
    hand: int | None,
) -> dict[int, str]:
    """Roles, without their side, of the joints of one hand.

    Args:
        said: what all names say.
        rows: joints of this side.
        tree: what hangs on what.
        places: rest places of all joints ``(J, 3)``; None where they are not known.
        hand: the wrist, if it is there.
    """
    fingers: dict[str, list[int]] = {}
    for row in rows:
        if said[row].part is BodyPart.FINGER and not said[row].helper:
            fingers.setdefault(said[row].finger, []).append(row)
    found: dict[int, str] = {}
    for name, joints in _named(fingers).items():
        chain = _in_order(joints, said, tree, places, hand)
        for row, bone in _bones(name, chain, said, places, hand).items():
            found[row] = name + bone
    return found


def _named(fingers: Mapping[str, list[int]]) -> dict[str, list[int]]:
    """Fingers that have only numbers are counted from the thumb, if there are five."""
    numbers = sorted(name for name in fingers if name.isdigit())
    named = {name: rows for name, rows in fingers.items() if not name.isdigit()}
    if len(numbers) == len(FINGER_NAMES) and not named:
        return {FINGER_NAMES[i]: fingers[number] for i, number in enumerate(numbers)}
    return named


def _in_order(
    joints: Sequence[int],
    said: Sequence[Said],
    tree: Hierarchy,
    places: Array | None,
    hand: int | None,
) -> list[int]:
    """The joints of a finger from the wrist outwards."""

    def key(row: int) -> tuple[float, ...]:
        depth = sum(r in joints for r in tree.up(row))
        bone = said[row].bone
        number = said[row].numbers[-1] if said[row].numbers else 0
        far = 0.0
        if places is not None and hand is not None:
            far = float(np.linalg.norm(places[row] - places[hand]))
        return (depth, bone if bone is not None else -1, number, far)

    return sorted(joints, key=key)


def _bones(
    finger: str,
    chain: Sequence[int],
    said: Sequence[Said],
    places: Array | None,
    hand: int | None,
) -> dict[int, str]:
    thumb = finger == "Thumb"
    if all(said[row].bone is not None for row in chain):
        return _by_words(chain, said, thumb=thumb)
    if not thumb and _starts_in_the_palm(chain, said, places, hand):
        chain = chain[1:]
    names = THUMB_BONES if thumb else BONES
    return dict(zip(chain, names, strict=False))


def _by_words(chain: Sequence[int], said: Sequence[Said], *, thumb: bool) -> dict[int, str]:
    found: dict[int, str] = {}
    for row in chain:
        bone = said[row].bone or 0
        if thumb:
            # VRM's thumb has a metacarpal, a proximal and a distal bone; three bones that are
            # called as those of other fingers are these three
            plain = all((said[r].bone or 0) > 0 for r in chain)
            place = bone - 1 if plain and len(chain) > 2 else {0: 0, 1: 1, 2: 1, 3: 2}[bone]
            name = THUMB_BONES[place]
        elif bone == 0:
            continue
        else:
            name = BONES[bone - 1]
        if name not in found.values():
            found[row] = name
    return found


def _starts_in_the_palm(
    chain: Sequence[int], said: Sequence[Said], places: Array | None, hand: int | None
) -> bool:
    """Whether the first joint is the metacarpal: nearer to the wrist than it is long. Where
    nothing is known of places, four joints counted from 0 begin with it."""
    if said[chain[0]].bone == 0:
        return True
    if len(chain) != 4:
        return len(chain) > 4  # three bones and their end are four
    if places is not None and hand is not None:
        to_wrist = float(np.linalg.norm(places[chain[0]] - places[hand]))
        return to_wrist < float(np.linalg.norm(places[chain[1]] - places[chain[0]]))
    return bool(said[chain[0]].numbers) and said[chain[0]].numbers[-1] == 0
