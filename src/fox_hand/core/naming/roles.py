"""Humanoid roles of joints from their names: VRM 1.0 humanoid bone names.

The names are those of the VRM 1.0 specification (``VRMC_vrm``, humanoid); which words in joint
names mean them is common practice, no source. What a word means is decided by the chain it stands
in: *hip* is the thigh where *knee* follows, *shoulder* the upper arm where *collar* precedes.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.controls import Side
from fox_hand.core.naming.finger_roles import BONES, FINGER_NAMES, THUMB_BONES, finger_roles
from fox_hand.core.naming.joint_names import BodyPart, Said, read_all

CENTRE = ("hips", "spine", "chest", "upperChest", "neck", "head", "jaw")
SIDED = (
    *("Shoulder", "UpperArm", "LowerArm", "Hand"),
    *("UpperLeg", "LowerLeg", "Foot", "Toes", "Eye"),
)
SPINE = ("spine", "chest", "upperChest")
ARMS = (
    BodyPart.COLLAR,
    BodyPart.SHOULDER,
    BodyPart.UPPER_ARM,
    BodyPart.ARM,
    BodyPart.LOWER_ARM,
    BodyPart.HAND,
)
LEGS = (BodyPart.HIP, BodyPart.THIGH, BodyPart.LEG, BodyPart.SHIN, BodyPart.FOOT, BodyPart.TOES)
SIDES = ((Side.LEFT, "left"), (Side.RIGHT, "right"))


def infer_roles(
    names: Sequence[str],
    sides: Sequence[Side],
    parents: Sequence[int],
    places: Array | None = None,
) -> list[str | None]:
    """Roles of joints; each role is given once.

    Args:
        names, sides, parents: of the joints in topological order, -1 for no parent. Where nothing
            is known of the hierarchy all are -1; then words alone decide.
        places: rest places ``(J, 3)``, where they are known; they tell a metacarpal from a finger.
    """
    said = read_all(names)
    tree = Tree(parents)
    joints = _Joints(said, [s.side or side for s, side in zip(said, sides, strict=True)], tree)
    found: dict[int, str] = {}
    for side, word in SIDES:
        for row, role in (*joints.arm(side), *joints.leg(side), *joints.eye(side)):
            found.setdefault(row, word + role)
        hand = next((r for r, role in found.items() if role == f"{word}Hand"), None)
        rows = [r for r in range(len(names)) if joints.sides[r] is side]
        for row, role in finger_roles(said, rows, tree, places, hand).items():
            found.setdefault(row, word + role)
    for row, role in joints.middle(found):
        found.setdefault(row, role)
    return [found.get(row) for row in range(len(names))]


@dataclass(frozen=True)
class Tree:
    """Which joint hangs on which; -1 for none."""

    parents: Sequence[int]

    @property
    def flat(self) -> bool:
        """Whether nothing is known of what hangs on what."""
        return all(p < 0 for p in self.parents)

    def up(self, row: int) -> list[int]:
        """A joint and all above it, upwards."""
        found = []
        while row >= 0:
            found.append(row)
            row = self.parents[row]
        return found

    def meeting(self, rows: Iterable[int]) -> int:
        """The lowest joint that is all of some or above all of them; -1 for none."""
        ways = [self.up(row)[::-1] for row in rows]
        found = -1
        for steps in zip(*ways, strict=False):
            if len(set(steps)) > 1:
                break
            found = steps[0]
        return found


@dataclass(frozen=True)
class _Joints:
    """The joints of a rig with what their names say."""

    said: Sequence[Said]
    sides: Sequence[Side]
    tree: Tree

    def _rows(self, parts: Iterable[BodyPart], side: Side) -> list[int]:
        """Bones of a side that are called so, from above downwards."""
        known = set(parts)
        return [
            row
            for row, s in enumerate(self.said)
            if s.part in known and self.sides[row] is side and not s.helper
        ]

    def _part(self, row: int) -> BodyPart | None:
        return self.said[row].part

    def _chain(self, parts: Sequence[BodyPart], ends: Sequence[BodyPart], side: Side) -> list[int]:
        """The bones of a limb from above downwards: those above its end, and the end itself."""
        rows = self._rows(parts, side)
        if self.tree.flat:
            return sorted(rows, key=lambda r: parts.index(self.said[r].part or parts[0]))
        ended = [r for r in rows if self._part(r) in ends[:1]]
        if not rows:
            return []
        # without a hand: the longest way down there is
        last = ended[0] if ended else max(rows, key=lambda r: len(self.tree.up(r)))
        above = set(self.tree.up(last))
        below = [r for r in rows if self._part(r) in ends[1:] and last in self.tree.up(r)]
        return [r for r in rows if r in above] + below

    def arm(self, side: Side) -> list[tuple[int, str]]:
        """Shoulder, upper and lower arm, hand."""
        chain = self._chain(ARMS, (BodyPart.HAND,), side)
        hand = self._first(chain, BodyPart.HAND)
        chain = [r for r in chain if self._part(r) is not BodyPart.HAND]
        lower = self._first(chain, BodyPart.LOWER_ARM)
        if lower is None:
            lower = self._second(chain, BodyPart.ARM, BodyPart.UPPER_ARM)
        above = chain[: chain.index(lower)] if lower is not None else chain
        upper = self._first(above, BodyPart.UPPER_ARM, BodyPart.ARM)
        if upper is None:
            shoulders = [r for r in above if self._part(r) is BodyPart.SHOULDER]
            collared = any(self._part(r) is BodyPart.COLLAR for r in above)
            if shoulders and (lower is not None or collared):
                upper = shoulders[-1]
        before = above[: above.index(upper)] if upper is not None else above
        collar = before[-1] if before else None
        return _given(Shoulder=collar, UpperArm=upper, LowerArm=lower, Hand=hand)

    def leg(self, side: Side) -> list[tuple[int, str]]:
        """Upper and lower leg, foot, toes."""
        chain = self._chain(LEGS, (BodyPart.FOOT, BodyPart.TOES), side)
        foot, toes = self._first(chain, BodyPart.FOOT), self._first(chain, BodyPart.TOES)
        chain = [r for r in chain if self._part(r) not in (BodyPart.FOOT, BodyPart.TOES)]
        lower = self._first(chain, BodyPart.SHIN)
        if lower is None:
            legs = [r for r in chain if self._part(r) is BodyPart.LEG]
            others = [r for r in chain if self._part(r) in (BodyPart.THIGH, BodyPart.HIP)]
            if legs and (len(legs) > 1 or others):
                lower = legs[-1] if others or len(legs) < 3 else legs[1]
            else:
                lower = self._second(chain, BodyPart.THIGH)
        above = chain[: chain.index(lower)] if lower is not None else chain
        upper = self._first(above, BodyPart.THIGH, BodyPart.LEG, BodyPart.HIP)
        return _given(UpperLeg=upper, LowerLeg=lower, Foot=foot, Toes=toes)

    def eye(self, side: Side) -> list[tuple[int, str]]:
        return _given(Eye=next(iter(self._rows((BodyPart.EYE,), side)), None))

    def _first(self, rows: Sequence[int], *parts: BodyPart) -> int | None:
        """The topmost bone with the first of some words that any bone has."""
        return next((r for part in parts for r in rows if self._part(r) is part), None)

    def _second(self, rows: Iterable[int], *parts: BodyPart) -> int | None:
        """The lower of two bones with the same word: ``arm_1``, ``arm_2``."""
        same = [r for r in rows if self._part(r) in parts]
        return same[1] if len(same) > 1 else None

    # -- the middle -----------------------------------------------------------------------

    def middle(self, found: dict[int, str]) -> list[tuple[int, str]]:
        """Hips, spine, neck, head and jaw."""
        heads = self._rows((BodyPart.HEAD,), Side.CENTRE)
        head = heads[0] if heads else None
        jaw = next(iter(self._rows((BodyPart.JAW,), Side.CENTRE)), None)
        necks = self._rows((BodyPart.NECK,), Side.CENTRE)
        if head is not None and not self.tree.flat:
            way = self.tree.up(head)
            necks = [r for r in necks if r in way] or necks
        neck = necks[0] if necks else None
        hips = self._hips(found, head)
        given = _given(hips=hips, neck=neck, head=head, jaw=jaw)
        top = neck if neck is not None else head
        return given + [
            (row, role) for row, role in self._spine(hips, top, found) if row not in found
        ]

    def _hips(self, found: dict[int, str], head: int | None) -> int | None:
        named = [
            r
            for r in self._rows((BodyPart.PELVIS, BodyPart.HIP), Side.CENTRE)
            if self._part(r) is BodyPart.PELVIS or not self._rows((BodyPart.PELVIS,), Side.CENTRE)
        ]
        legs = [row for row, role in found.items() if role.endswith("UpperLeg")]
        if self.tree.flat or not legs:
            return named[0] if named else None
        holding = set(self.tree.up(self.tree.meeting(legs)))
        above = [r for r in named if r in holding]
        if above:
            return above[0]
        meeting = self.tree.meeting([*legs, *([head] if head is not None else [])])
        return meeting if meeting >= 0 and len(legs) > 1 else None

    def _spine(
        self, hips: int | None, top: int | None, found: dict[int, str]
    ) -> list[tuple[int, str]]:
        """The chain between hips and neck by place in the chain: its first joint is the spine,
        its last the upper chest if there are three or more, else the chest."""
        if self.tree.flat:
            rows = self._rows((BodyPart.SPINE,), Side.CENTRE)
            chain = (
                sorted(rows, key=lambda r: self.said[r].numbers or (0,)) if top is None else rows
            )
        else:
            above = self.tree.up(top)[1:] if top is not None else self._longest_spine()
            if hips is not None and hips in above:
                above = above[: above.index(hips)]
            else:
                above = [r for r in above if self._part(r) is BodyPart.SPINE]
            chain = [
                r
                for r in reversed(above)
                if self.sides[r] is Side.CENTRE and not self.said[r].helper and r not in found
            ]
        return list(spine_roles(chain))

    def _longest_spine(self) -> list[int]:
        rows = self._rows((BodyPart.SPINE,), Side.CENTRE)
        return max((self.tree.up(r) for r in rows), key=len, default=[])


def spine_roles(chain: Sequence[int]) -> Iterable[tuple[int, str]]:
    """Roles of the joints between hips and neck, from below upwards."""
    if not chain:
        return []
    if len(chain) == 1:
        return [(chain[0], SPINE[0])]
    if len(chain) == 2:
        return [(chain[0], SPINE[0]), (chain[1], SPINE[1])]
    return [(chain[0], SPINE[0]), (chain[-2], SPINE[1]), (chain[-1], SPINE[2])]


def _given(**rows: int | None) -> list[tuple[int, str]]:
    return [(row, role) for role, row in rows.items() if row is not None]


def _all_roles() -> tuple[str, ...]:
    fingers = [
        f"{finger}{bone}"
        for finger in FINGER_NAMES
        for bone in (THUMB_BONES if finger == "Thumb" else BONES)
    ]
    return (*CENTRE, *(word + part for _, word in SIDES for part in (*SIDED, *fingers)))


ALL_ROLES = _all_roles()
