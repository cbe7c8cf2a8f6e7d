"""What can be known about a rig's evaluation before any value is known."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from fox_hand.core.kinematics.aim_twist import AimSet, TwistSet
from fox_hand.core.kinematics.two_bone_ik import LimbSet
from fox_hand.core.model.skeleton import Index, Skeleton
from fox_hand.core.model.solvers import Aim, Drive, DrivenKind, Limb, Solver, Twist

SolverSet = LimbSet | AimSet | TwistSet


@dataclass(frozen=True, eq=False)
class Levels:
    """Nodes to place, parents before children.

    Args:
        runs: level by level: rows, and their parents' rows.
        rows, parents: the same as two lists, ``(K,)``; parent -1 for roots.
    """

    runs: tuple[tuple[Index | slice, Index], ...]
    rows: Index
    parents: Index


@dataclass(frozen=True, eq=False)
class SolverStep:
    """Solvers that run together, after placing the nodes they look at."""

    place: Levels
    solvers: SolverSet


def placing_order(skeleton: Skeleton, solvers: Sequence[Solver]) -> Index:
    """The nodes ``(J,)`` in the order in which they come to their final places.

    A skeleton renumbered like this can be placed level by level in contiguous stretches.
    """
    stages, last = Planner(skeleton).plan(solvers)
    placed: dict[int, None] = {}
    for levels in (*(stage.place for stage in stages), last):
        for node in levels.rows.tolist():
            placed.pop(node, None)
            placed[node] = None
    return np.array(list(placed), dtype=np.intp)


def renumbered(skeleton: Skeleton, order: Index) -> Skeleton:
    """The skeleton with its nodes in another order ``(J,)``, parents still first."""
    new = np.argsort(order)
    parents = [skeleton.parents[n] for n in order]
    return Skeleton(
        tuple(skeleton.names[n] for n in order),
        tuple(int(new[p]) if p >= 0 else -1 for p in parents),
        skeleton.translation[order],
        skeleton.rotation[order],
        skeleton.scale[order],
    )


def renumbered_solver(solver: Solver, new: Index) -> Solver:
    """The solver with node numbers exchanged: ``new[node]``, ``(J,)``."""
    if isinstance(solver, Limb):
        bones = [int(new[n]) for n in (solver.upper, solver.lower, solver.end)]
        return replace(
            solver,
            upper=bones[0],
            lower=bones[1],
            end=bones[2],
            goal=int(new[solver.goal]),
            pole=int(new[solver.pole]),
        )
    if isinstance(solver, Aim):
        return replace(solver, node=int(new[solver.node]), target=int(new[solver.target]))
    return replace(solver, node=int(new[solver.node]), source=int(new[solver.source]))


def renumbered_drive(drive: Drive, new: Index) -> Drive:
    """The drive with its node number exchanged: ``new[node]``, ``(J,)``."""
    if drive.kind is DrivenKind.SETTING:
        return drive
    return replace(drive, target=int(new[drive.target]))


class Planner:
    """Finds which solvers run together, and which nodes have to be placed before each group."""

    def __init__(self, skeleton: Skeleton) -> None:
        self._skeleton = skeleton
        self._valid: set[int] = set()

    def grouped(self, solvers: Sequence[Solver]) -> list[list[Solver]]:
        """Runs of solvers of one kind that do not depend on each other."""
        groups: list[list[Solver]] = []
        for solver in solvers:
            group = groups[-1] if groups else []
            alike = bool(group) and type(group[0]) is type(solver)
            if alike and not any(self._depends(solver, other) for other in group):
                group.append(solver)
            else:
                groups.append([solver])
        return groups

    def _depends(self, solver: Solver, other: Solver) -> bool:
        moved = self._moved(other)
        return any(node in moved for node in _inputs(solver))

    def _moved(self, solver: Solver) -> set[int]:
        top = solver.upper if isinstance(solver, Limb) else solver.node
        return set(self._skeleton.below(top))

    def plan(self, solvers: Sequence[Solver]) -> tuple[tuple[SolverStep, ...], Levels]:
        """The stages, and what is to be placed after the last of them."""
        stages = tuple(self.stage(group) for group in self.grouped(solvers))
        return stages, self._levels(range(len(self._skeleton)))

    def stage(self, group: Sequence[Solver]) -> SolverStep:
        """One group of solvers with what has to be placed for it."""
        seen = [solver for solver in group if not isinstance(solver, Twist)]
        place = self._levels({n for solver in seen for n in _inputs(solver)})
        for solver in group:
            self._valid -= self._moved(solver)
        return SolverStep(place, _gathered(group, self._skeleton))

    def _levels(self, wanted: Iterable[int]) -> Levels:
        parents = self._skeleton.parents
        todo: set[int] = set()
        for wish in wanted:
            node = wish
            while node >= 0 and node not in self._valid and node not in todo:
                todo.add(node)
                node = parents[node]
        self._valid |= todo
        depth: dict[int, int] = {}
        for node in sorted(todo):
            depth[node] = depth.get(parents[node], -1) + 1
        roots = [n for n in todo if parents[n] < 0]
        levels: list[list[int]] = [roots] if roots else []
        for level in range(max(depth.values(), default=-1) + 1):
            rows = [n for n in sorted(todo) if depth[n] == level and parents[n] >= 0]
            if rows:
                levels.append(rows)
        above = np.asarray(parents, dtype=np.intp)
        everything = np.array([n for rows in levels for n in rows], dtype=np.intp)
        runs = tuple((_run(rows), above[rows]) for rows in levels)
        return Levels(runs, everything, above[everything])


def _run(rows: list[int]) -> Index | slice:
    """A slice where the rows follow each other, which saves copying them."""
    if rows == list(range(rows[0], rows[-1] + 1)):
        return slice(rows[0], rows[-1] + 1)
    return np.array(rows, dtype=np.intp)


def _inputs(solver: Solver) -> list[int]:
    """Nodes a solver reads; twists read locals only."""
    if isinstance(solver, Limb):
        return [solver.upper, solver.lower, solver.end, solver.goal, solver.pole]
    if isinstance(solver, Aim):
        return [solver.node, solver.target]
    return [solver.source]


def _gathered(group: Sequence[Solver], skeleton: Skeleton) -> SolverSet:
    if isinstance(group[0], Limb):
        return LimbSet.of([x for x in group if isinstance(x, Limb)], skeleton)
    if isinstance(group[0], Aim):
        return AimSet.of([x for x in group if isinstance(x, Aim)], skeleton)
    return TwistSet.of([x for x in group if isinstance(x, Twist)], skeleton)
