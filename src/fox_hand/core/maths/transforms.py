"""Translation, rotation and scale to 4x4 matrices and back."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from fox_hand.core.maths.rotations import Array, from_matrix, to_matrix

FLAT = 1e-24  # volume of a unit cube below which a matrix has no inverse worth the name


def compose(translation: npt.ArrayLike, rotation: npt.ArrayLike, scale: npt.ArrayLike) -> Array:
    """``T R S`` as glTF 2.0 (3.5.3 Transformations) defines it.

    Args:
        translation: ``(..., 3)`` metres.
        rotation: ``(..., 4)`` unit quaternions.
        scale: ``(..., 3)``.

    Returns:
        Matrices ``(..., 4, 4)``.
    """
    translation = np.asarray(translation, dtype=np.float64)
    m = np.zeros((*translation.shape[:-1], 4, 4))
    m[..., :3, :3] = to_matrix(rotation) * np.asarray(scale, dtype=np.float64)[..., None, :]
    m[..., :3, 3] = translation
    m[..., 3, 3] = 1.0
    return m


def decompose(m: npt.ArrayLike) -> tuple[Array, Array, Array]:
    """The inverse of :func:`compose` for matrices without shear.

    A mirrored matrix gets a negative x scale. Shear, which T R S cannot express, is dropped by
    orthonormalising x, then y. A column of zero length keeps its axis from the other two.

    Returns:
        translation ``(..., 3)``, rotation ``(..., 4)``, scale ``(..., 3)``.
    """
    m = np.asarray(m, dtype=np.float64)
    basis = m[..., :3, :3]
    scale = np.linalg.norm(basis, axis=-2)
    flip = np.where(np.linalg.det(basis) < 0, -1.0, 1.0)
    scale = scale * np.stack([flip, np.ones_like(flip), np.ones_like(flip)], -1)
    safe = np.where(np.abs(scale) > 1e-12, scale, 1.0)
    axes = np.where(np.abs(scale)[..., None, :] > 1e-12, basis / safe[..., None, :], np.eye(3))
    x, y, z = (axes[..., :, k] for k in range(3))
    flat = np.abs(scale) <= 1e-12
    x = np.where(flat[..., 0:1], np.cross(y, z), x)
    y = np.where(flat[..., 1:2], np.cross(z, x), y)
    x = _unit(x)
    y = _unit(y - (x * y).sum(-1, keepdims=True) * x)
    rotation = from_matrix(np.stack([x, y, np.cross(x, y)], -1))
    return m[..., :3, 3].copy(), rotation, scale


def undone(m: npt.ArrayLike) -> Array:
    """Inverses of affine matrices ``(..., 4, 4)``. Where a scale is zero, as of joints that hide
    what hangs on them, the axes without length are left out (Moore-Penrose)."""
    m = np.asarray(m, dtype=np.float64)
    basis = m[..., :3, :3]
    flat = np.abs(np.linalg.det(basis)) < FLAT
    safe = np.where(flat[..., None, None], np.eye(3), basis)
    found = np.zeros_like(m)
    found[..., :3, :3] = np.linalg.inv(safe)
    if flat.any():
        found[flat, :3, :3] = np.linalg.pinv(basis[flat])
    found[..., :3, 3] = -(found[..., :3, :3] @ m[..., :3, 3, None])[..., 0]
    found[..., 3, 3] = 1.0
    return found


def directions(basis: npt.ArrayLike) -> Array:
    """Columns of ``(..., 3, 3)`` of length one: a basis without its scale, mirrored if it was."""
    basis = np.asarray(basis, dtype=np.float64)
    return np.asarray(basis / np.maximum(np.linalg.norm(basis, axis=-2, keepdims=True), 1e-12))


def _unit(v: Array) -> Array:
    return np.asarray(v / np.maximum(np.linalg.norm(v, axis=-1, keepdims=True), 1e-12))


def apply(matrix: npt.ArrayLike, points: npt.ArrayLike) -> Array:
    """Points ``(..., 3)`` through matrices ``(..., 4, 4)``."""
    matrix = np.asarray(matrix, dtype=np.float64)
    points = np.asarray(points, dtype=np.float64)
    return np.asarray((matrix[..., :3, :3] @ points[..., None])[..., 0] + matrix[..., :3, 3])
