"""Linear blend skinning and morph targets on the CPU.

The stage skins on the GPU; this is for measuring, framing, picking and checking.
"""

from __future__ import annotations

import numpy as np

from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.mesh import MeshPart


def morphed(part: MeshPart, settings: Array) -> Array:
    """Rest positions plus weighted morph offsets, ``(V, 3)``; only active targets are touched.

    glTF 2.0, 3.7.2.2: ``p + sum_i w_i t_i``.
    """
    points = part.positions.astype(np.float64)
    if part.targets is None:
        return points
    weights = settings[list(part.target_settings)]
    for target in np.flatnonzero(weights):
        points += weights[target] * part.targets[target]
    return points


def skinned(part: MeshPart, palette: Array, settings: Array) -> Array:
    """World positions of a part's vertices, ``(V, 3)``.

    glTF 2.0, 3.7.3.3: each vertex is moved by the weighted sum of its joints' matrices. The
    weights form a sparse matrix (vertices x palette), so all joint matrices are blended in one
    product with the palette written as rows of twelve numbers.

    Args:
        part: the geometry.
        palette: joint matrices (world times inverse bind), ``(P, 4, 4)``.
        settings: values of the rig's settings, which drive the morph targets.
    """
    weights = part.sparse_weights
    rows = palette[: weights.shape[1], :3, :].reshape(-1, 12)
    blended = (weights @ rows).reshape(-1, 3, 4)
    points = morphed(part, settings)
    return np.asarray(
        (blended[:, :, :3] * points[:, None, :]).sum(-1) + blended[:, :, 3], dtype=np.float64
    )
