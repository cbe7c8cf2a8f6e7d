"""Hands with nails: one mesh each, fingers kept apart so that every one of them bends clean."""

from __future__ import annotations

import numpy as np

from cast.bones import Bones
from cast.piece import Piece, make_piece, other_side
from cast.proportions import FINGERS, THUMB_RADII, Build
from cast.sdf import Array, Field, capsule, ellipsoid, union, unit
from cast.surface import mesh_field


def _joints(bones: Bones, name: str, size: float) -> list[Array]:
    places = [bones.at(f"finger_{name}_{i}_L") for i in (1, 2, 3)] + [
        bones.tips[f"finger_{name}_3_L"]
    ]
    return [bones.to_hand(p, size) for p in places]


def hand_field(build: Build, bones: Bones) -> Field:
    """The left hand. Fingers meet by a plain minimum, so they never melt into each other."""
    size = build.hand
    flat = ((0, 0, 1), 0.80)
    chains = {name: _joints(bones, name, size) for name in ("thumb", *FINGERS)}

    def palm(q: Array) -> Array:
        d = union(
            0.10,
            capsule(q, (0.085, 0.14, 0), (0.11, 0.42, -0.005), 0.105, 0.085, flat),
            capsule(q, (-0.03, 0.14, 0), (-0.02, 0.43, -0.01), 0.105, 0.088, flat),
            capsule(q, (-0.085, 0.15, 0.01), (-0.125, 0.38, 0.01), 0.085, 0.072, ((0, 0, 1), 0.85)),
        )
        d = union(0.10, d, capsule(q, (0, -0.20, 0), (0, 0.12, 0), 0.125, 0.115, flat))
        return union(0.09, d, ellipsoid(q, (0.10, 0.24, 0.06), (0.085, 0.14, 0.07)))

    def finger(q: Array, name: str) -> Array:
        points = chains[name]
        back = unit(points[3] - points[2])
        if name == "thumb":
            radii, short, fillet = list(THUMB_RADII), 0.05, 0.03
        else:
            r0, r1 = FINGERS[name][3]
            radii = [r0 + (r1 - r0) * i / 3 for i in range(4)]
            short, fillet = r1 * 0.7, 0.02
        ends = [points[1], points[2], points[3] - back * short]
        parts = [capsule(q, points[i], ends[i], radii[i], radii[i + 1]) for i in range(3)]
        return union(fillet, *parts)

    def field(p: Array) -> Array:
        q = bones.to_hand(p, size)
        base = palm(q)
        d = base
        for name in FINGERS:
            d = np.minimum(d, union(0.055, base, finger(q, name)))
        return np.minimum(d, union(0.085, base, finger(q, "thumb"))) * size

    return field


def hands(build: Build, bones: Bones) -> tuple[list[Piece], Field]:
    """Both hands with their nails, and the left hand's field."""
    size, field = build.hand, hand_field(build, bones)
    fingers = [f"finger_{n}_{i}_L" for n in ("thumb", *FINGERS) for i in (1, 2, 3)]
    places = np.array([bones.at(n) for n in fingers] + [bones.tips[n] for n in fingers])
    places = np.vstack([places, bones.at("hand_L") - bones.hand_axes[:, 1] * 0.12])
    reach = 0.085 * size + 0.03
    low, high = places.min(0) - reach, places.max(0) + reach
    surface = mesh_field(field, low, high, 0.0165 * size, 1360)
    wide = bones.radii["forearm_twist_L"]
    bones.radii["forearm_twist_L"] = wide * 0.7
    on = ["forearm_twist_L", "hand_L", *fingers]
    left = make_piece(
        "hand_L",
        surface,
        bones,
        on,
        build.colours.skin,
        material="skin",
        spread=0.036 * size,
    )
    bones.radii["forearm_twist_L"] = wide
    pieces = [left, other_side(left, surface, bones)]
    for name in ("thumb", *FINGERS):
        pieces += _nail(build, bones, name)
    return pieces, field


def _nail(build: Build, bones: Bones, name: str) -> list[Piece]:
    size = build.hand
    bone = f"finger_{name}_3_L"
    axes = bones.world[bones.row(bone)][:3, :3]
    back = axes[:, 2]  # away from the palm side: flexing turns Y towards +Z
    radius = (THUMB_RADII[3] if name == "thumb" else FINGERS[name][3][1]) * size
    tip, at = bones.tips[bone], bones.at(bone)
    centre = at + (tip - at) * 0.64 - back * radius * 0.93

    def field(p: Array) -> Array:
        local = (p - centre) @ axes
        return ellipsoid(local, (0, 0, 0), (radius * 0.58, radius * 0.78, radius * 0.30))

    surface = mesh_field(field, centre - radius, centre + radius, radius * 0.12, 40)
    left = make_piece(f"nail_{name}_L", surface, bones, [bone], build.colours.nail, material="skin")
    return [left, other_side(left, surface, bones)]
