"""Humanoid roles of joints from their names: VRM 1.0 humanoid bone names.

The names are those of the VRM 1.0 specification (``VRMC_vrm``, humanoid); which words in joint
names mean them is common practice, no source.
"""

from __future__ import annotations

from collections.abc import Sequence

from fox_hand.core.model.controls import Side
from fox_hand.core.naming.side_region import side_words, tokens

CENTRE_ROLES: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("hips", ("hips", "hip", "pelvis")),
    ("head", ("head",)),
    ("neck", ("neck",)),
    ("jaw", ("jaw",)),
)
SIDE_ROLES: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("Shoulder", ("clavicle", "clav", "collar", "shoulder")),
    ("LowerArm", ("forearm", "lowerarm", "elbow", "lower arm", "fore arm")),
    ("UpperArm", ("upperarm", "arm", "upper arm", "humerus")),
    ("Hand", ("hand", "wrist")),
    ("LowerLeg", ("shin", "calf", "lowerleg", "lower leg", "knee")),
    ("UpperLeg", ("thigh", "upperleg", "upleg", "upper leg", "up leg")),
    ("Foot", ("foot", "ankle")),
    ("Toes", ("toe", "toes", "ball", "toe base")),
    ("Eye", ("eye",)),
)
FINGERS = {
    "thumb": "Thumb",
    "index": "Index",
    "middle": "Middle",
    "ring": "Ring",
    "pinky": "Little",
    "pinkie": "Little",
    "little": "Little",
}
BONES = ("Proximal", "Intermediate", "Distal")
THUMB_BONES = ("Metacarpal", "Proximal", "Distal")
SPINE = ("spine", "chest", "upperChest")
NOT_BONES = {"twist", "roll", "ik", "pole", "goal", "target", "end", "tip", "nub", "helper"}


def infer_roles(
    names: Sequence[str], sides: Sequence[Side], parents: Sequence[int]
) -> list[str | None]:
    """Roles of joints; each role is given once, to the joint highest up.

    Args:
        names, sides, parents: of the joints in topological order, -1 for no parent.
    """
    found: list[str | None] = [None] * len(names)
    taken: set[str] = set()
    for row, (name, side) in enumerate(zip(names, sides, strict=True)):
        role = _role(name, side, _finger_depth(names, parents, row))
        if role is not None and role not in taken:
            found[row] = role
            taken.add(role)
    for row, role in _spine_roles(sides, parents, found):
        found[row] = role
    return found


def _words(name: str) -> list[str]:
    return [w for w in tokens(name) if w not in side_words() and not w.isdigit()]


def _role(name: str, side: Side, depth: int) -> str | None:
    words = _words(name)
    if not words or NOT_BONES & set(words):
        return None
    joined = " ".join(words)
    prefix = {Side.LEFT: "left", Side.RIGHT: "right"}.get(side)
    if prefix is None:
        return next((role for role, known in CENTRE_ROLES if joined in known), None)
    finger = next((FINGERS[w] for w in words if w in FINGERS), None)
    if finger is not None:
        bones = THUMB_BONES if finger == "Thumb" else BONES
        return f"{prefix}{finger}{bones[depth]}" if depth < 3 else None
    role = next((role for role, known in SIDE_ROLES if joined in known), None)
    return None if role is None else prefix + role


def _finger_depth(names: Sequence[str], parents: Sequence[int], row: int) -> int:
    """How many joints of the same finger lie above a joint."""
    mine = {w for w in _words(names[row]) if w in FINGERS}
    depth, above = 0, parents[row]
    while above >= 0 and mine & set(_words(names[above])):
        depth, above = depth + 1, parents[above]
    return depth


def _spine_roles(
    sides: Sequence[Side],
    parents: Sequence[int],
    found: Sequence[str | None],
) -> list[tuple[int, str]]:
    """The chain between hips and neck: its first joint is the spine, its last the upper chest
    if there are three or more, else the chest."""
    neck = next((i for i, role in enumerate(found) if role == "neck"), None)
    hips = next((i for i, role in enumerate(found) if role == "hips"), None)
    if neck is None or hips is None:
        return []
    chain, row = [], parents[neck]
    while row >= 0 and row != hips:
        if sides[row] is Side.CENTRE and found[row] is None:
            chain.append(row)
        row = parents[row]
    if row != hips or not chain:
        return []
    chain.reverse()
    if len(chain) == 1:
        return [(chain[0], "spine")]
    given = [(chain[0], SPINE[0]), (chain[1] if len(chain) == 2 else chain[-2], SPINE[1])]
    return given + ([(chain[-1], SPINE[2])] if len(chain) > 2 else [])


def _all_roles() -> tuple[str, ...]:
    parts = [r for r, _ in SIDE_ROLES] + [
        f"{finger}{bone}"
        for finger in dict.fromkeys(FINGERS.values())
        for bone in (THUMB_BONES if finger == "Thumb" else BONES)
    ]
    sided = [side + part for side in ("left", "right") for part in parts]
    return (*(r for r, _ in CENTRE_ROLES), *SPINE, *sided)


ALL_ROLES = _all_roles()
