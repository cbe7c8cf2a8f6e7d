"""Rigs, poses and the calculations on them: arrays in, arrays out.

Metres and radians. Quaternions are ``(x, y, z, w)`` of unit length. Matrices act on column
vectors. Y is up, a character faces +Z and its own left is +X (the frame of glTF 2.0).
"""
