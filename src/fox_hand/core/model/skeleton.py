"""The node hierarchy of a rig and its forward kinematics."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
import numpy.typing as npt

from fox_hand.core.maths.cached import WithoutCaches
from fox_hand.core.maths.rotations import Array
from fox_hand.core.maths.transforms import compose, decompose

Index = npt.NDArray[np.intp]


@dataclass(frozen=True, eq=False)
class Skeleton(WithoutCaches):
    """Nodes in topological order (a parent always comes before its children).

    Args:
        names: one unique name per node.
        parents: index of each node's parent, -1 for a root.
        translation, rotation, scale: rest transforms in the parent's frame,
            ``(N, 3)``, ``(N, 4)``, ``(N, 3)``.
    """

    names: tuple[str, ...]
    parents: tuple[int, ...]
    translation: Array
    rotation: Array
    scale: Array
    _levels: list[tuple[Index, Index]] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        depth = np.zeros(len(self.parents), dtype=int)
        for i, parent in enumerate(self.parents):
            if parent >= i:
                raise ValueError(f"node {i} comes before its parent {parent}")
            depth[i] = 0 if parent < 0 else depth[parent] + 1
        parents = np.asarray(self.parents, dtype=np.intp)
        levels = [np.flatnonzero(depth == d) for d in range(1, int(depth.max(initial=0)) + 1)]
        object.__setattr__(self, "_levels", [(rows, parents[rows]) for rows in levels])

    def __len__(self) -> int:
        return len(self.names)

    def rest_locals(self) -> Array:
        """Rest matrices in the parents' frames, ``(N, 4, 4)``."""
        return compose(self.translation, self.rotation, self.scale)

    def world(self, local: Array) -> Array:
        """World matrices from local ones by ``W = W_parent L``, ``(..., N, 4, 4)``."""
        world = np.array(local, dtype=np.float64)
        for rows, parents in self._levels:
            world[..., rows, :, :] = world[..., parents, :, :] @ local[..., rows, :, :]
        return world

    @cached_property
    def rest_world(self) -> Array:
        """World matrices at rest, ``(N, 4, 4)``."""
        return self.world(self.rest_locals())

    @cached_property
    def rest_turns(self) -> Array:
        """World rotations at rest, unit quaternions ``(N, 4)``."""
        return decompose(self.rest_world)[1]

    def below(self, node: int) -> list[int]:
        """The node and all its descendants, in topological order."""
        found = {node}
        for i in range(node + 1, len(self.parents)):
            if self.parents[i] in found:
                found.add(i)
        return sorted(found)
