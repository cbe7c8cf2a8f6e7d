"""Which drawings of a rig are seen in a pose, in which order, and how much of a picture they take
up: of all drawings at once, since a puppet may have hundreds."""

from __future__ import annotations

import numpy as np

from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.mesh import MeshPart

SEEN = 0.01  # scale from which on a drawing is seen


class DrawnParts:
    """The parts of a rig that are drawings.

    Args:
        parts: of the rig, those that are drawings.
    """

    def __init__(self, parts: list[MeshPart]) -> None:
        count = len(parts)
        self._joints = np.array([p.joints[0, 0] for p in parts], dtype=np.intp)
        self._middles, self._normals = np.zeros((2, count, 3))
        self._boxes = np.zeros((count, 8, 3))
        for row, part in enumerate(parts):
            self._middles[row] = part.positions.mean(0, dtype=np.float64)
            self._normals[row] = part.normals[0]
            corners = np.stack([part.positions.min(0), part.positions.max(0)])
            at = np.indices((2, 2, 2)).reshape(3, 8).T  # each corner of the box once
            self._boxes[row] = corners[at, np.arange(3)]

    def seen(self, palette: Array, eye: Array | None = None) -> list[int]:
        """Rows of the drawings that are seen.

        Args:
            palette: matrices of a pose, ``(P, 4, 4)``.
            eye: from where, ``(3,)`` metres; what is farther away comes first. Drawings of a
                puppet lie one before the other in parallel planes, so what counts is how far
                before the others they lie, not how far away their middles are.
        """
        if not len(self._joints):
            return []
        matrices = palette[self._joints]
        # of the drawings of a part all but one are shrunk to nothing
        rows = np.flatnonzero(np.abs(matrices[:, :3, :3]).max((1, 2)) >= SEEN)
        if eye is None or not len(rows):
            return [int(row) for row in rows]
        turned, moved = matrices[rows, :3, :3], matrices[rows, :3, 3]
        places = np.einsum("nij,nj->ni", turned, self._middles[rows]) + moved
        ahead = turned[0] @ self._normals[rows[0]]
        ahead /= max(float(np.linalg.norm(ahead)), 1e-12)
        if ahead @ (eye - places[0]) < 0:
            ahead = -ahead  # seen from behind
        return [int(row) for row in rows[np.argsort(places @ ahead, kind="stable")]]

    def shares(self, rows: list[int], palette: Array, to_clip: Array) -> Array:
        """How much of a picture the frames of some drawings take up: a bound, 0 to 1, ``(N,)``.

        Args:
            rows: of the drawings.
            palette: matrices of a pose, ``(P, 4, 4)``.
            to_clip: ``(4, 4)``.
        """
        matrices = to_clip @ palette[self._joints[rows]]
        clip = np.einsum("nij,nkj->nki", matrices[:, :, :3], self._boxes[rows])
        clip += matrices[:, None, :, 3]
        depth = clip[..., 3:]
        flat = np.clip(clip[..., :2] / np.maximum(depth, 1e-9), -1.0, 1.0)
        found = np.prod(np.ptp(flat, axis=1), axis=-1) / 4.0
        return np.where((depth <= 0).any((1, 2)), 1.0, found)
