"""Turns and transforms of arrays: quaternions ``(x, y, z, w)``, Euler angles, affine matrices.
Knows nothing of characters; everything above computes with it.

- ``cached``: WithoutCaches
- ``euler``: axes_of, from_euler, to_euler, to_euler_near
- ``measurable``: measurable
- ``rotation_mean``: weighted_mean
- ``rotations``: normalise, multiply, left, inverse, rotate, to_matrix, from_matrix, shortest,
  to_vector, from_vector, power, between, angle_between, about_axis
- ``transforms``: compose, decompose, undone, directions, apply
"""
