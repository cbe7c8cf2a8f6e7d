"""Two-bone inverse kinematics with a pole, for many limbs and frames at once.

The triangle is solved by the law of cosines. Everything is measured from the rest pose: with goal
and pole where they stand at rest, the solution is the rest pose, whatever the joint axes are.
Arrays have the shapes of :mod:`fox_hand.core.kinematics.batched`: ``(K, ..., F)``, frames last.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from fox_hand.core.kinematics.batched import (
    TINY,
    across,
    apply,
    around,
    basis,
    column_lengths,
    cross,
    directions,
    dot,
    frames_last,
    length,
    product,
    rotations,
    some_perpendicular,
    turned_back,
    unit,
)
from fox_hand.core.maths.rotations import Array, from_matrix, power
from fox_hand.core.model.skeleton import Index, Skeleton
from fox_hand.core.model.solvers import Limb

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
        before_upper: nodes above, -1 for none.
        before_next: nodes the lower ones and then the ends hang on, ``(2 L,)``.
        pole_sine, pole_cosine: from the pole's direction to the elbow's at rest, ``(L, 1, 1)``.
        bases: of the upper and then the lower bones, in their own frames, ``(2 L, 3, 3, 1)``.
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
    before_next: Index
    pole_sine: Array
    pole_cosine: Array
    bases: Array
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
            parents[np.concatenate((lower, end))],
            dot(cross(pole_way, elbow_way), along),
            dot(pole_way, elbow_way),
            np.concatenate(bases),
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
        fk = axes(world[self.bones, :3, :3])
        own = self.bases if rigid else self._own_bases(world, fk)
        a, b, c, normal = self._triangle(world, fk, rigid)
        rolled = _rolled(np.concatenate((b - a, c - b)), normal, self._rolls(settings))
        bones = product(rolled, own.swapaxes(1, 2))
        ends = product(axes(world[self.goal, :3, :3]), self.end_offset)
        above = self._above(axes(world[self.before_upper, :3, :3]))
        frames = np.concatenate((above, self._carried(axes, world, bones, fk)))
        turns = turned_back(frames, np.concatenate((bones, ends)))
        everything = np.concatenate((amount, amount, amount))
        _write(local, self.moved, turns, everything, rigid)

    @cached_property
    def bones(self) -> Index:
        """The upper and then the lower bones, ``(2 L,)``."""
        return np.concatenate((self.upper, self.lower))

    @cached_property
    def moved(self) -> Index:
        """Upper bones, lower bones and ends, ``(3 L,)``."""
        return np.concatenate((self.bones, self.end))

    @cached_property
    def _joined(self) -> bool:
        """Whether no node lies between any two bones."""
        return bool((self.bones == self.before_next).all())

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

    def _carried(
        self, axes: Callable[[Array], Array], world: Array, turn: Array, was: Array
    ) -> Array:
        """The frames the lower bones and the ends hang in after the bones above have turned;
        nodes between are carried along rigidly. All ``(2 L, 3, 3, F)``."""
        if self._joined:
            return turn
        between = turned_back(was, axes(world[self.before_next, :3, :3]))
        return product(turn, between)

    def _triangle(self, world: Array, fk: Array, rigid: bool) -> tuple[Array, Array, Array, Array]:
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
        way = self._way(pole - a, along, fk, first + second)
        elbow = a + first * (cosine * along + sine * way)
        return a, elbow, a + reach * along, cross(along, way)

    def _way(self, to_pole: Array, along: Array, fk: Array, size: Array) -> Array:
        """Unit direction in which the limb bends, across ``along``."""
        aside = across(to_pole, along)
        near = 1.0 - length(aside) / np.maximum(POLE_NEAR * size, TINY)
        if near.max(initial=0.0) > 0:
            own = apply(fk[: len(along)], self.bases[: len(along), :, 1])
            bend = unit(cross(own, along), _perpendicular_to(along))
            aside = aside + np.maximum(near, 0.0) * POLE_NEAR * size * bend
        way = unit(aside, _perpendicular_to(along))
        return around(way, along, self.pole_sine, self.pole_cosine)

    def own_bases(self, world: Array) -> tuple[Array, Array]:
        """Bone bases in the bones' own frames as the joints are placed now, of upper and lower
        bones ``(L, 3, 3, F)`` each; they differ from those at rest only where a joint has been
        moved along its bone's side.

        Args:
            world: world matrices ``(J, 3, 4, F)``, metres.
        """
        found = self._own_bases(world, directions(world[self.bones, :3, :3]))
        return found[: len(self.limbs)], found[len(self.limbs) :]

    def _own_bases(self, world: Array, fk: Array) -> Array:
        gap = world[self.moved[len(self.limbs) :], :3, 3] - world[self.bones, :3, 3]
        along = unit(apply(fk.swapaxes(1, 2), gap), lambda: self.bases[:, :, 0])
        normal = unit(across(self.bases[:, :, 1], along), _perpendicular_to(along))
        return basis(along, normal)

    def _rolls(self, settings: Array) -> Array:
        """Rolls of the bones in radians, ``(2 L, 1, F)``."""
        found = np.zeros((2, len(self.limbs), 1, settings.shape[-1]))
        for i, limb in enumerate(self.limbs):
            for which, row in enumerate((limb.twist_upper, limb.twist_lower)):
                if row is not None:
                    found[which, i, 0] = settings[row]
        found *= np.pi / 180
        return found.reshape(2 * len(self.limbs), 1, -1)


def _as_it_is(matrix: Array) -> Array:
    return matrix


def _rolled(bones: Array, normal: Array, angle: Array) -> Array:
    """Bases of the upper and then the lower bones, which bend about the same axis."""
    normal = np.concatenate((normal, normal))
    along = unit(bones, _perpendicular_to(normal))
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
    size = np.ones((1, 1, 1, 1)) if rigid else column_lengths(before)
    if not everything:
        own = before / np.maximum(size, TINY)
        # the difference is a proper rotation even where a node is mirrored
        way = product(turn, own.swapaxes(1, 2))
        arc = from_matrix(np.moveaxis(way, -1, 0))
        part = rotations(frames_last(power(arc, amount.T[..., None])))
        whole, none = (amount == 1)[:, None, None], (amount == 0)[:, None, None]
        turn = np.where(whole, turn, np.where(none, own, product(part, own)))
    local[node, :3, :3] = turn * size
