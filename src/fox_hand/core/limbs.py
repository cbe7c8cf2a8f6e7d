"""Two-bone inverse kinematics with a pole, for many limbs and frames at once.

The triangle is solved by the law of cosines. Everything is measured from the rest pose: with goal
and pole where they stand at rest, the solution is the rest pose, whatever the joint axes are.
Arrays have the shapes of :mod:`fox_hand.core.frames`: ``(K, ..., F)``, frames last.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np

from fox_hand.core.frames import (
    TINY,
    across,
    apply,
    around,
    basis,
    column_lengths,
    cross,
    directions,
    dot,
    length,
    product,
    some_perpendicular,
    turned_back,
    unit,
)
from fox_hand.core.rotations import Array, from_matrix, power, to_matrix
from fox_hand.core.skeleton import Index, Skeleton
from fox_hand.core.solvers import Limb

# a pole nearer to the line than this share of the limb hands over to the joints' own bend axis
POLE_NEAR = 1e-3
# a limb whose elbow stands nearer to the line than this share of it has no bend of its own
STRAIGHT = 0.004
DOWN = np.array([[[0.0], [-1.0], [0.0]]])


def _perpendicular_to(v: Array) -> Callable[[], Array]:
    return lambda: some_perpendicular(v)


@dataclass(frozen=True, eq=False)
class LimbSet:
    """Limbs that can be solved together, with what is known from the rest pose.

    Args:
        limbs: what they were made from.
        upper, lower, end, goal, pole: skeleton nodes, ``(L,)``.
        before_upper, before_lower, before_end: their parent nodes, -1 for none.
        pole_sine, pole_cosine: from the pole's direction to the elbow's at rest, ``(L, 1, 1)``.
        upper_basis, lower_basis: bone bases in the bones' own frames, ``(L, 3, 3, 1)``.
        end_offset: turn of the end seen from the goal at rest, ``(L, 3, 3, 1)``.
        lengths: of the two bones at rest, ``(2, L, 1, 1)``.
    """

    limbs: tuple[Limb, ...]
    upper: Index
    lower: Index
    end: Index
    goal: Index
    pole: Index
    before_upper: Index
    before_lower: Index
    before_end: Index
    pole_sine: Array
    pole_cosine: Array
    upper_basis: Array
    lower_basis: Array
    end_offset: Array
    lengths: Array

    @staticmethod
    def of(limbs: Sequence[Limb], skeleton: Skeleton) -> LimbSet:
        """Measure some limbs at rest."""

        def nodes(values: list[int]) -> Index:
            return np.array(values, dtype=np.intp)

        upper, lower = nodes([x.upper for x in limbs]), nodes([x.lower for x in limbs])
        end, goal = nodes([x.end for x in limbs]), nodes([x.goal for x in limbs])
        pole = nodes([x.pole for x in limbs])
        parents = np.asarray(skeleton.parents, dtype=np.intp)
        world = skeleton.rest_world[..., None]
        a, b, c, p = (world[n, :3, 3] for n in (upper, lower, end, pole))
        along = unit(c - a, lambda: unit(b - a, lambda: DOWN))
        pole_way = unit(across(p - a, along), _perpendicular_to(along))
        to_elbow = across(b - a, along)
        size = length(b - a) + length(c - b)
        bent = length(to_elbow) > STRAIGHT * size
        elbow_way = np.where(bent, unit(to_elbow, lambda: pole_way), pole_way)
        normal = cross(along, elbow_way)
        bases = []
        for node, bone in ((upper, b - a), (lower, c - b)):
            on = unit(bone, lambda: along)
            flat = unit(across(normal, on), _perpendicular_to(on))
            bases.append(turned_back(directions(world[node, :3, :3]), basis(on, flat)))
        goal_turn, end_turn = (directions(world[n, :3, :3]) for n in (goal, end))
        return LimbSet(
            tuple(limbs),
            upper,
            lower,
            end,
            goal,
            pole,
            parents[upper],
            parents[lower],
            parents[end],
            dot(cross(pole_way, elbow_way), along),
            dot(pole_way, elbow_way),
            bases[0],
            bases[1],
            turned_back(goal_turn, end_turn),
            np.stack([length(b - a), length(c - b)]),
        )

    def solve(self, local: Array, world: Array, settings: Array, rigid: bool) -> None:
        """Write the locals of the three bones so that the ends reach their goals.

        Args:
            local: local matrices of all nodes ``(N, 3, 4, F)``, changed in place.
            world: world matrices by forward kinematics, ``(N, 3, 4, F)``.
            settings: effective setting values ``(S, F)``.
            rigid: no node is scaled and none but goals and poles moved away from rest, which
                saves measuring the bones again.
        """
        amount = self._amount(settings)
        if not amount.any():
            return
        axes = _as_it_is if rigid else directions
        fk = [axes(world[n, :3, :3]) for n in (self.upper, self.lower)]
        own = (self.upper_basis, self.lower_basis) if rigid else self._own_bases(world, fk)
        a, b, c, normal = self._triangle(world, fk[0], rigid)
        rolls = self._rolls(settings)
        upper = product(_rolled(b - a, normal, rolls[0]), own[0].swapaxes(1, 2))
        lower = product(_rolled(c - b, normal, rolls[1]), own[1].swapaxes(1, 2))
        end = product(axes(world[self.goal, :3, :3]), self.end_offset)
        frames = (
            self._above(axes(world[self.before_upper, :3, :3])),
            self._carried(axes, world, self.upper, self.before_lower, upper, fk[0]),
            self._carried(axes, world, self.lower, self.before_end, lower, fk[1]),
        )
        for node, frame, turn in zip(
            (self.upper, self.lower, self.end), frames, (upper, lower, end), strict=True
        ):
            _write(local, node, turned_back(frame, turn), amount, rigid)

    def _amount(self, settings: Array) -> Array:
        """How much each limb follows its goal, 0...1, ``(L, F)``."""
        rows = [x.blend for x in self.limbs]
        found = np.ones((len(rows), settings.shape[-1]))
        for i, row in enumerate(rows):
            if row is not None:
                found[i] = settings[row]
        return np.clip(found, 0.0, 1.0, out=found)

    def _above(self, found: Array) -> Array:
        if (self.before_upper < 0).any():
            found[self.before_upper < 0] = np.eye(3)[..., None]
        return found

    @staticmethod
    def _carried(
        axes: Callable[[Array], Array],
        world: Array,
        bone: Index,
        parent: Index,
        turn: Array,
        was: Array,
    ) -> Array:
        """The frame a bone hangs in after the one above it has turned; nodes between the two are
        carried along rigidly."""
        if (bone == parent).all():
            return turn
        between = turned_back(was, axes(world[parent, :3, :3]))
        return product(turn, between)

    def _triangle(
        self, world: Array, fk_upper: Array, rigid: bool
    ) -> tuple[Array, Array, Array, Array]:
        """Places of shoulder, elbow and end, and the bend axis, all ``(L, 3, F)``."""
        a, b, c, goal, pole = (
            world[n, :3, 3] for n in (self.upper, self.lower, self.end, self.goal, self.pole)
        )
        first, second = self.lengths if rigid else (length(b - a), length(c - b))
        far = length(goal - a)
        along = unit(goal - a, lambda: unit(c - a, lambda: unit(b - a, lambda: DOWN)))
        reach = np.minimum(np.maximum(far, np.abs(first - second)), first + second)
        cosine = (first**2 + reach**2 - second**2) / np.maximum(2 * first * reach, TINY)
        cosine = np.minimum(np.maximum(cosine, -1.0), 1.0)
        sine = np.sqrt(1.0 - cosine**2)
        way = self._way(pole - a, along, fk_upper, first + second)
        elbow = a + first * (cosine * along + sine * way)
        return a, elbow, a + reach * along, cross(along, way)

    def _way(self, to_pole: Array, along: Array, fk_upper: Array, size: Array) -> Array:
        """Unit direction in which the limb bends, across ``along``."""
        aside = across(to_pole, along)
        near = 1.0 - length(aside) / np.maximum(POLE_NEAR * size, TINY)
        if near.max(initial=0.0) > 0:
            own = apply(fk_upper, self.upper_basis[:, :, 1])
            bend = unit(cross(own, along), _perpendicular_to(along))
            aside = aside + np.maximum(near, 0.0) * POLE_NEAR * size * bend
        way = unit(aside, _perpendicular_to(along))
        return around(way, along, self.pole_sine, self.pole_cosine)

    def own_bases(self, world: Array) -> tuple[Array, Array]:
        """Bone bases in the bones' own frames as the joints are placed now; they differ from
        those at rest only where a joint has been moved along its bone's side."""
        turns = [directions(world[n, :3, :3]) for n in (self.upper, self.lower)]
        return self._own_bases(world, turns)

    def _own_bases(self, world: Array, fk: Sequence[Array]) -> tuple[Array, Array]:
        found = []
        for node, following, rest, frame in (
            (self.upper, self.lower, self.upper_basis, fk[0]),
            (self.lower, self.end, self.lower_basis, fk[1]),
        ):
            gap = world[following, :3, 3] - world[node, :3, 3]
            along = unit(apply(frame.swapaxes(1, 2), gap), partial(_column, rest, 0))
            normal = unit(across(rest[:, :, 1], along), _perpendicular_to(along))
            found.append(basis(along, normal))
        return found[0], found[1]

    def _rolls(self, settings: Array) -> tuple[Array, Array]:
        """Rolls of the bones in radians, ``(L, 1, F)``."""
        found = np.zeros((2, len(self.limbs), 1, settings.shape[-1]))
        for i, limb in enumerate(self.limbs):
            for which, row in enumerate((limb.twist_upper, limb.twist_lower)):
                if row is not None:
                    found[which, i, 0] = settings[row]
        found *= np.pi / 180
        return found[0], found[1]


def _column(matrix: Array, column: int) -> Array:
    return matrix[:, :, column]


def _as_it_is(matrix: Array) -> Array:
    return matrix


def _rolled(bone: Array, normal: Array, angle: Array) -> Array:
    along = unit(bone, _perpendicular_to(normal))
    if angle.any():
        normal = around(normal, along, np.sin(angle), np.cos(angle))
    return basis(along, normal)


def _write(local: Array, node: Index, turn: Array, amount: Array, rigid: bool) -> None:
    """Put rotations into locals, keeping their scale; part-way along the shortest arc."""
    everything = bool((amount == 1).all())
    if rigid and everything:
        local[node, :3, :3] = turn
        return
    before = local[node, :3, :3]
    size = column_lengths(before)
    if not everything:
        own = before / np.maximum(size, TINY)
        # the difference is a proper rotation even where a node is mirrored
        way = product(turn, own.swapaxes(1, 2))
        arc = from_matrix(np.moveaxis(way, -1, 0))
        part = np.moveaxis(to_matrix(power(arc, amount.T[..., None])), 0, -1)
        whole, none = (amount == 1)[:, None, None], (amount == 0)[:, None, None]
        turn = np.where(whole, turn, np.where(none, own, product(part, own)))
    local[node, :3, :3] = turn * size
