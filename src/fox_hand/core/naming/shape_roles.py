"""Humanoid roles from how joints hang and lie, where their names say nothing.

A body is symmetrical: pairs of like branches hang on a chain in the middle. Of the long pairs the
one nearer the root, or without a hand at its end, are the legs; where both stand on the ground it
is an animal on four legs. In a limb the two longest bones in a row are its upper and lower one.
What else is long hangs down as a limb or does not as a wing; from the hips a tail hangs.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise

import numpy as np

from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.controls import Region
from fox_hand.core.naming.finger_shapes import finger_shapes
from fox_hand.core.naming.roles import spine_roles

ALIKE = 0.12  # share by which two branches of a pair may differ in length
LONG = 0.22  # of the figure's size: a pair that reaches this far is a limb
ALONG = 0.9  # cosine: pairs of legs hang as nearly the same way
HANGS = 0.5  # cosine: a limb that hangs less down is a wing
TAIL = 0.4  # of a leg: a chain on the hips that is so long and no part of the body is a tail
HAND = 3  # branches at the end of a limb that make it an arm


@dataclass(frozen=True)
class ShapeRoles:
    """What the shape says.

    Args:
        roles: row by role.
        pairs: rows that belong together, own left first.
        sure: how sure it is, 0 to 1.
        four_legged: whether it is an animal on four legs.
        parts: regions of rows that have no role: tails, wings, further limbs.
    """

    roles: Mapping[str, int] = field(default_factory=dict)
    pairs: tuple[tuple[int, int], ...] = ()
    sure: float = 0.0
    four_legged: bool = False
    parts: Mapping[int, Region] = field(default_factory=dict)


@dataclass(frozen=True)
class _Limb:
    """Two like branches.

    Args:
        at: the joint they hang on.
        one, other: the chains of joints, from there outwards.
        length: of the chain.
        ends: how many branches it has at its end.
    """

    at: int
    one: tuple[int, ...]
    other: tuple[int, ...]
    length: float
    ends: int


NOTHING = ShapeRoles()


def shape_roles(parents: Sequence[int], places: Array) -> ShapeRoles:
    """Roles of joints by their shape.

    Args:
        parents: in topological order, -1 for no parent.
        places: rest places ``(J, 3)``.
    """
    if len(parents) < 8:
        return NOTHING
    figure = _Figure(parents, places)
    limbs = sorted(figure.limbs(), key=lambda limb: -limb.length)
    if len(limbs) < 2:
        return NOTHING
    legs, arms, four = figure.told_apart(figure.carrying(limbs))
    if legs.at == arms.at:
        return NOTHING  # no back between them: a hand, or something else
    found = figure.named(legs, arms, four_legged=four)
    more = [limb for limb in limbs if limb is not legs and limb is not arms]
    return figure.with_parts(found, legs, more)


class _Figure:
    def __init__(self, parents: Sequence[int], places: Array) -> None:
        self.parents, self.places = parents, places
        self.children: list[list[int]] = [[] for _ in parents]
        for row, parent in enumerate(parents):
            if parent >= 0:
                self.children[parent].append(row)
        self.size = max(float(np.ptp(places, axis=0).max()), 1e-9)
        self.far, self.leaves = np.zeros(len(parents)), np.ones(len(parents), dtype=np.intp)
        for row in reversed(range(len(parents))):
            if self.children[row]:
                self.far[row] = max(self.far[c] + self.step(c) for c in self.children[row])
                self.leaves[row] = sum(self.leaves[c] for c in self.children[row])
        self.middle: list[int] = []

    def step(self, row: int) -> float:
        """How long the bone to a joint is."""
        parent = self.parents[row]
        return float(np.linalg.norm(self.places[row] - self.places[parent])) if parent >= 0 else 0.0

    def limbs(self) -> list[_Limb]:
        """Pairs of long branches on the chain in the middle."""
        found = []
        waiting = [row for row, parent in enumerate(self.parents) if parent < 0]
        while waiting:
            row = waiting.pop()
            self.middle.append(row)
            left = list(self.children[row])
            while (pair := self._pair(left)) is not None:
                one, other = pair
                left = [c for c in left if c not in pair]
                length = self.far[one] + self.step(one)
                if length > LONG * self.size:
                    chain = self.chain(one)
                    ends = max(len(self.children[r]) for r in chain)
                    found.append(_Limb(row, chain, self.chain(other), float(length), ends))
            waiting += left
        return found

    def _pair(self, rows: Sequence[int]) -> tuple[int, int] | None:
        """The two most alike of some branches."""
        best: tuple[float, int, int] | None = None
        for i, one in enumerate(rows):
            for other in rows[i + 1 :]:
                lengths = [self.far[r] + self.step(r) for r in (one, other)]
                off = abs(lengths[0] - lengths[1]) / max(*lengths, 1e-9)
                apart = np.linalg.norm(self.places[one] - self.places[other])
                like = self.leaves[one] == self.leaves[other]
                if like and off < ALIKE and apart > 0.01 * self.size and max(lengths) > 0:
                    rank = off - max(lengths) / self.size
                    if best is None or rank < best[0]:
                        best = rank, one, other
        return None if best is None else best[1:]

    def chain(self, row: int) -> tuple[int, ...]:
        """A joint and those below it, each time the one that reaches furthest."""
        found = [row]
        while self.children[found[-1]]:
            found.append(max(self.children[found[-1]], key=lambda c: self.far[c] + self.step(c)))
        return tuple(found)

    def depth(self, row: int) -> int:
        """How many joints lie above."""
        found = 0
        while self.parents[row] >= 0:
            row, found = self.parents[row], found + 1
        return found

    def carrying(self, limbs: Sequence[_Limb]) -> list[_Limb]:
        """The two pairs that are legs and arms, of some with the longest first: of several those
        that hang side by side, as four legs do, or the one with hands and the one that hangs
        nearest the root; else the longest."""
        for number, one in enumerate(limbs):
            for other in limbs[number + 1 :]:
                plain = max(one.ends, other.ends) < HAND and one.at != other.at
                if plain and float(self._way(one) @ self._way(other)) > ALONG:
                    return [one, other]
        handed = [limb for limb in limbs if limb.ends >= HAND]
        others = [limb for limb in limbs if limb.ends < HAND]
        if len(limbs) > 2 and handed and others:
            return [handed[0], min(others, key=lambda limb: self.depth(limb.at))]
        return list(limbs[:2])

    def with_parts(self, found: ShapeRoles, legs: _Limb, more: Sequence[_Limb]) -> ShapeRoles:
        """With the regions of wings, further limbs and tails, and which of them are pairs."""
        down, parts, pairs = self._way(legs), dict[int, Region](), list(found.pairs)
        across = self.places[found.roles["leftUpperLeg"]]
        across = across - self.places[found.roles["rightUpperLeg"]]
        for limb in more:
            hangs = float(self._way(limb) @ down) > HANGS or limb.ends >= HAND
            region = Region.LIMBS if hangs else Region.WINGS
            one, other = limb.one, limb.other
            if float((self.places[one[0]] - self.places[other[0]]) @ across) < 0:
                one, other = other, one
            pairs += zip(one, other, strict=False)
            parts |= dict.fromkeys([*self._below(one[0]), *self._below(other[0])], region)
        for row in self._tails(legs, set(found.roles.values())):
            parts |= dict.fromkeys(self._below(row), Region.TAIL)
        return replace(found, pairs=tuple(pairs), parts=parts)

    def _tails(self, legs: _Limb, roles: set[int]) -> list[int]:
        """First joints of long chains in the middle on the hips, or above them in the hierarchy,
        that lead to no part of the body."""
        found, row = list[int](), legs.at
        while row >= 0:
            for child in self.children[row]:
                long = self.far[child] + self.step(child) > TAIL * legs.length
                rows = set(self._below(child))
                if child in self.middle and long and len(rows) > 1 and not rows & roles:
                    found.append(child)
            row = self.parents[row]
        return found

    def _below(self, row: int) -> list[int]:
        """A joint and all that hang on it."""
        found = [row]
        for above in found:
            found.extend(self.children[above])
        return found

    def told_apart(self, limbs: Sequence[_Limb]) -> tuple[_Limb, _Limb, bool]:
        """Legs and arms, or the hind and the front legs of an animal."""
        one, other = sorted(limbs, key=lambda limb: self.depth(limb.at))
        hands = [limb.ends >= HAND for limb in (one, other)]
        if hands == [True, False]:
            one, other = other, one
        ways = [self._way(limb) for limb in (one, other)]
        along = self.places[other.at] - self.places[one.at]
        far = float(np.linalg.norm(along))
        level = far > 0 and abs(float(along @ ways[0])) < 0.6 * far
        four = not any(hands) and level and float(ways[0] @ ways[1]) > 0.7
        return one, other, four

    def _way(self, limb: _Limb) -> Array:
        ends = self.places[[limb.one[-1], limb.other[-1]]].mean(0)
        way = ends - self.places[limb.at]
        return np.asarray(way / max(float(np.linalg.norm(way)), 1e-9))

    # -- names ----------------------------------------------------------------------------

    def named(self, legs: _Limb, arms: _Limb, *, four_legged: bool) -> ShapeRoles:
        up = -self._way(legs)
        number = int(np.argmax(np.abs(up)))
        up = np.eye(3)[number] * np.sign(up[number])
        lower = self.bones(legs.one, hand=False), self.bones(legs.other, hand=False)
        upper = (
            self.bones(arms.one, hand=not four_legged),
            self.bones(arms.other, hand=not four_legged),
        )
        across = self.places[legs.one[0]] - self.places[legs.other[0]]
        ahead, toes = self._ahead(lower, up)
        if four_legged:
            ahead, toes = self.places[arms.at] - self.places[legs.at], True
        left_first = float(np.cross(up, ahead) @ across) > 0
        found: dict[str, int] = {}
        pairs: list[tuple[int, int]] = []
        for (one, other), parts in ((lower, "Leg"), (upper, "Arm")):
            same = float((self.places[one["Upper"]] - self.places[other["Upper"]]) @ across) > 0
            first, second = (one, other) if left_first is same else (other, one)
            for key in first:
                role = key + parts if key in ("Upper", "Lower") else key
                found[f"left{role}"] = first[key]
                if key in second:
                    found[f"right{role}"] = second[key]
                    pairs.append((first[key], second[key]))
        if not four_legged:
            found |= self._fingers(found)
        found |= self._trunk(legs.at, arms.at, up, four_legged=four_legged)
        sure = 0.8 if toes else 0.55
        return ShapeRoles(found, tuple(pairs), sure, four_legged)

    def _fingers(self, arms: Mapping[str, int]) -> dict[str, int]:
        """Fingers at the ends of both arms."""
        found: dict[str, int] = {}
        for side in ("left", "right"):
            hand, elbow = arms.get(f"{side}Hand"), arms.get(f"{side}LowerArm")
            if hand is not None and elbow is not None:
                chains = [self.chain(child) for child in self.children[hand]]
                shapes = finger_shapes(chains, hand, elbow, self.places)
                found |= {side + role: row for role, row in shapes.items()}
        return found

    def bones(self, chain: Sequence[int], *, hand: bool) -> dict[str, int]:
        """Upper and lower bone, the end, and what stands before and behind them."""
        steps = [self.step(b) for _, b in pairwise(chain)]
        best = 0
        if hand:
            ends = [i for i, r in enumerate(chain) if len(self.children[r]) >= HAND]
            best = max((ends[0] if ends else 2) - 2, 0)
        if not hand or best + 1 >= len(steps):
            scores = [a + b if min(a, b) > 0.35 * max(a, b) else 0.0 for a, b in pairwise(steps)]
            best = int(np.argmax(scores)) if scores else 0
        found = {"Upper": chain[best]}
        names = ("Lower", "Hand") if hand else ("Lower", "Foot", "Toes")
        found |= dict(zip(names, chain[best + 1 :], strict=False))
        if hand and best > 0:
            found["Shoulder"] = chain[best - 1]
        return found

    def _ahead(self, legs: tuple[dict[str, int], dict[str, int]], up: Array) -> tuple[Array, bool]:
        """From ankles to toes; where there are none, +Z or what is most like it."""
        for leg in legs:
            if "Toes" in leg:
                way = self.places[leg["Toes"]] - self.places[leg["Foot"]]
                way = way - (way @ up) * up
                if np.linalg.norm(way) > 0.01 * self.size:
                    return way, True
        return np.array([0.0, 0.0, 1.0] if abs(up[2]) < 0.5 else [0.0, -1.0, 0.0]), False

    def _trunk(self, hips: int, chest: int, up: Array, *, four_legged: bool) -> dict[str, int]:
        found = {"hips": hips}
        chain: list[int] = []
        row = chest
        while row >= 0 and row != hips:
            chain.append(row)
            row = self.parents[row]
        if row == hips:
            found |= {role: r for r, role in spine_roles(chain[::-1])}
        head = self._head(chest, up, four_legged=four_legged)
        return found | head

    def _head(self, chest: int, up: Array, *, four_legged: bool) -> dict[str, int]:
        """Neck and head: the chain in the middle above the shoulders."""
        above = [c for c in self.children[chest] if c in self.middle]
        if not above:
            return {}
        key = self.far if four_legged else (self.places - self.places[chest]) @ up
        chain = list(self.chain(max(above, key=lambda c: float(key[c] + self.far[c]))))
        fork = next((i for i, r in enumerate(chain) if len(self.children[r]) > 1), None)
        if fork is None:
            last = len(chain) - 1
            # the end of a head lies further off than its neck is long
            fork = last - 1 if last > 1 and self.step(chain[last]) > self.step(chain[-2]) else last
        found = {"head": chain[fork]}
        if fork > 0:
            found["neck"] = chain[0]
        return found
