"""Jacket, trousers, boots, collar, buttons: layered closed parts with crisp colour borders."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np
from scipy.spatial import cKDTree

from cast.bones import Bones
from cast.piece import Piece, make_piece, other_side
from cast.proportions import Build
from cast.sdf import (
    Array,
    Field,
    capsule,
    common,
    cylinder,
    ellipsoid,
    mirrored,
    smoothstep,
    torus,
    union,
    unit,
)
from cast.surface import Surface, bone_weights, mesh_field


class Tailor:
    """Fields and pieces of the clothing of one figure."""

    def __init__(self, build: Build, bones: Bones) -> None:
        self.build, self.bones = build, bones
        self.shoulder, self.elbow = bones.at("arm_L"), bones.at("forearm_L")
        self.wrist, self.hips = bones.at("hand_L"), bones.at("hips")
        self.neck = bones.at("neck")
        self.along = unit(self.wrist - self.elbow)
        self.sleeve_end = self.wrist - self.along * 0.05
        self.hem = float(self.hips[1] + build.hem)
        self.boot_top = 0.17 + build.hip * 0.17

    def torso(self, p: Array) -> Array:
        """The jacket's body without sleeves."""
        b = self.build
        belly_y = self.hips[1] + b.torso * 0.28
        d = union(
            0.22,
            ellipsoid(p, (0, self.bones.at("chest")[1] + 0.02, -0.02), b.chest),
            ellipsoid(p, (0, belly_y, b.belly_forward), b.belly),
        )
        squash = b.pelvis[2] * 1.05 / b.pelvis[0]
        low, high = (0, self.hem - 0.15, 0), (0, self.hips[1] + 0.12, 0)
        skirt = cylinder(
            p * np.array([1, 1, 1 / squash]),
            low,
            high,
            b.pelvis[0] * 1.27,
            0.05,
            b.pelvis[0] * 0.96,
        )
        d = union(0.20, d, skirt * min(1.0, squash))
        yoke = (0.03, self.neck[1] - 0.08, -0.02), self.shoulder + np.array([-0.03, 0, 0])
        return union(0.16, d, capsule(mirrored(p), *yoke, 0.10, b.sleeve[0] * 0.92))

    def sleeves(self, p: Array) -> Array:
        q, s = mirrored(p), self.build.sleeve
        end = self.sleeve_end + self.along * 0.2
        d = union(
            0.06,
            capsule(q, self.shoulder, self.elbow, s[0], s[1]),
            capsule(q, self.elbow, end, s[1], s[2]),
        )
        return common(0.02, d, (q - self.sleeve_end) @ self.along)

    def jacket(self, p: Array) -> Array:
        d = union(0.13, self.torso(p), self.sleeves(p))
        return common(0.025, d, self.hem - p[:, 1])

    def trousers(self, p: Array) -> Array:
        b, q = self.build, mirrored(p)
        hip, knee, ankle = (self.bones.at(n) for n in ("thigh_L", "shin_L", "foot_L"))
        end = np.array([ankle[0], self.boot_top + 0.02, ankle[2]])
        legs = union(
            0.05,
            capsule(q, hip, knee, b.leg[0], b.leg[1]),
            capsule(q, knee, end, b.leg[1], b.boot * 0.74),
        )
        legs = common(0.02, legs, (self.boot_top - 0.10) - p[:, 1])
        seat = np.array([0.86, 1.0, 0.86]) * np.array(b.pelvis)
        return union(0.10, legs, ellipsoid(p, self.hips + (0, -0.02, 0), seat))

    def boot(self, p: Array) -> Array:
        w = self.build.boot
        ankle, ball = self.bones.at("foot_L"), self.bones.at("toe_L")
        toe = self.bones.tips["toe_L"]
        shaft = (ankle[0], 0.12, ankle[2]), (ankle[0], self.boot_top + 0.06, ankle[2])
        heel, front = (ankle[0], 0.10, ankle[2] - 0.01), ball + (0, 0.045, -0.02)
        cap = np.array([0.92, 0.74, 1.05]) * w
        d = union(
            0.09,
            cylinder(p, *shaft, w * 0.92, 0.02, w * 1.08),
            capsule(p, heel, front, w * 0.78, w * 0.80),
            ellipsoid(p, toe + (0, 0.045, -0.08), cap),
        )
        return common(0.03, d, 0.03 - p[:, 1])


def _both(*names: str) -> list[str]:
    return [f"{n}_{side}" for side in "LR" for n in names]


def dress(build: Build, bones: Bones) -> tuple[list[Piece], list[Field]]:
    """All clothing, and the fields that darken what is under them."""
    tailor = Tailor(build, bones)
    jacket = _jacket(tailor)
    pieces = [jacket, *_jacket_trim(tailor, jacket), _collar(tailor), _trousers(tailor)]
    pieces += _boots(tailor)
    return pieces, [
        tailor.jacket,
        tailor.trousers,
        lambda p: tailor.boot(mirrored(p)),
    ]


def _jacket(t: Tailor) -> Piece:
    b = t.build
    front = max(b.chest[2], b.belly[2] + b.belly_forward, b.pelvis[2]) + 0.1
    low = (-t.wrist[0] - 0.1, t.hem - 0.02, -front)
    high = (t.wrist[0] + 0.1, t.neck[1] + 0.12, front)
    surface = mesh_field(t.jacket, low, high, 0.026, 2100)
    names = ["hips", "spine_1", "spine_2", "chest"]
    names += _both("collar", "arm", "arm_twist", "forearm", "forearm_twist")
    weights = bone_weights(surface, t.bones, names, 0.075)
    weights = _skirt_follows_thighs(t, surface.points, weights)
    names += _both("thigh")
    x = np.abs(surface.points[:, 0])
    x = np.where(surface.points[:, 2] < 0, np.maximum(x, 0.25), x)
    uv = np.stack([x / 1.6, 1 - (surface.points[:, 1] - t.hem) / 1.4], 1)
    return make_piece(
        "jacket",
        surface,
        t.bones,
        names,
        b.colours.jacket,
        material="jacket",
        weights=weights,
        uv=np.clip(uv, 0.002, 0.998),
    )


def _skirt_follows_thighs(t: Tailor, p: Array, weights: Array) -> Array:
    """Below the hips the jacket gives way to a raised thigh instead of being pierced by it."""
    below = smoothstep(t.hips[1] + 0.16, t.hem, p[:, 1]) * (np.abs(p[:, 0]) < 0.5)
    left = 1 / (1 + np.exp(-p[:, 0] / 0.07))
    share = 0.62 * below * (0.55 + 0.45 * smoothstep(-0.05, 0.25, p[:, 2]))
    thighs = np.stack([share * left, share * (1 - left)], 1)
    return np.concatenate([weights * (1 - share)[:, None], thighs], 1)


def _like(piece: Piece, points: Array, jacket: Piece, single: bool) -> None:
    """Take the weights of the nearest jacket vertex, so that trim never leaves the cloth."""
    tree = cKDTree(jacket.points)
    at = np.tile(points.mean(0), (len(points), 1)) if single else points
    nearest = tree.query(at)[1]
    piece.joints, piece.weights = jacket.joints[nearest], jacket.weights[nearest]


def _front(field: Field, x: float, y: float) -> float:
    """z of the surface at the front."""
    z = 0.9
    for _ in range(60):
        z -= 0.8 * float(field(np.array([[x, y, z]]))[0])
    return z


def _jacket_trim(t: Tailor, jacket: Piece) -> Iterator[Piece]:
    b, colours = t.build, t.build.colours
    cuff = mesh_field(
        lambda p: cylinder(
            p,
            t.sleeve_end - t.along * 0.075,
            t.sleeve_end + t.along * 0.02,
            b.sleeve[2] * 1.16,
            0.028,
        ),
        t.sleeve_end - 0.22,
        t.sleeve_end + 0.22,
        0.02,
        240,
    )
    left = make_piece("cuff_L", cuff, t.bones, ["forearm_L", "forearm_twist_L"], colours.trim)
    yield left
    yield other_side(left, cuff, t.bones)
    top, bottom = t.neck[1] - 0.16, t.hem + 0.10
    for i in range(4):
        y = top - (top - bottom) * i / 3
        centre = np.array([0, y, _front(t.torso, 0, y) + 0.028])
        surface = mesh_field(
            partial(ellipsoid, centre=centre, radii=(0.032, 0.032, 0.015)),
            centre - 0.035,
            centre + 0.035,
            0.010,
            44,
        )
        button = make_piece(f"button_{i}", surface, t.bones, ["chest"], colours.button)
        button.material = "shiny"
        _like(button, surface.points, jacket, single=True)
        yield button
    yield from _pockets(t, jacket)


def _pockets(t: Tailor, jacket: Piece) -> Iterator[Piece]:
    b = t.build
    y = t.hips[1] + b.torso * 0.13
    x = b.pelvis[0] * 0.60

    def flap(p: Array) -> Array:
        q = mirrored(p)
        plate = np.maximum(np.abs(q[:, 0] - x) - 0.085, np.abs(p[:, 1] - y) - 0.032)
        return common(0.015, np.abs(t.torso(p)) - 0.026, common(0.02, plate, -p[:, 2]))

    front = b.belly[2] + b.belly_forward + 0.12
    surface = mesh_field(flap, (x - 0.12, y - 0.05, 0.02), (x + 0.12, y + 0.05, front), 0.013, 110)
    left = make_piece("pocket_L", surface, t.bones, ["chest"], b.colours.trim)
    _like(left, surface.points, jacket, single=False)
    yield left
    yield other_side(left, surface, t.bones)


def _collar(t: Tailor) -> Piece:
    def field(p: Array) -> Array:
        low = torus(p, t.neck + (0, -0.015, 0.0), (0, 1, -0.12), 0.165, 0.062)
        return union(0.02, low, torus(p, t.neck + (0, 0.055, 0.012), (0, 1, -0.15), 0.153, 0.055))

    low, high = t.neck - (0.27, 0.1, 0.27), t.neck + (0.27, 0.15, 0.28)
    surface = mesh_field(field, low, high, 0.014, 700)
    return make_piece(
        "collar", surface, t.bones, ["chest", "neck"], t.build.colours.sweater, spread=0.07
    )


def _trousers(t: Tailor) -> Piece:
    b = t.build
    reach = b.pelvis[0] + 0.12
    low = (-reach, t.boot_top - 0.14, -b.pelvis[2] - 0.1)
    high = (reach, t.hips[1] + 0.3, b.pelvis[2] + 0.1)
    surface = mesh_field(t.trousers, low, high, 0.026, 1240)
    names = ["hips", *_both("thigh", "thigh_twist", "shin")]
    return make_piece("trousers", surface, t.bones, names, b.colours.trousers, spread=0.075)


def _boots(t: Tailor) -> Iterator[Piece]:
    b, w = t.build, t.build.boot
    ankle, toe = t.bones.at("foot_L"), t.bones.tips["toe_L"]
    low = np.array([ankle[0] - w * 1.5, 0, ankle[2] - w * 1.4])
    high = np.array([toe[0] + w * 1.5, t.boot_top + 0.08, toe[2] + w * 1.2])
    rim_at = np.array([ankle[0], t.boot_top + 0.05, ankle[2]])

    def sole(p: Array) -> Array:
        flat = t.boot(p * np.array([1, 0, 1]) + np.array([0, 0.07, 0])) - 0.018
        return common(0.01, common(0.01, flat, p[:, 1] - 0.055), -p[:, 1])

    def rim(p: Array) -> Array:
        return torus(p, rim_at, (0, 1, 0), w * 1.04, 0.032)

    spread = np.array([0.03, 0, 0.03])
    parts = (
        ("boot", mesh_field(t.boot, low, high, 0.022, 620), ["shin_L", "foot_L", "toe_L"]),
        ("rim", mesh_field(rim, rim_at - 0.25, rim_at + 0.25, 0.018, 190), ["shin_L"]),
        ("sole", _sole(sole, low - spread, high + spread), ["foot_L", "toe_L"]),
    )
    for name, surface, on in parts:
        colour = b.colours.sole if name == "sole" else b.colours.boots
        material = "cloth" if name == "sole" else "shiny"
        left = make_piece(
            f"{name}_L", surface, t.bones, on, colour, material=material, spread=0.055
        )
        yield left
        yield other_side(left, surface, t.bones)


def _sole(field: Field, low: Array, high: Array) -> Surface:
    return mesh_field(field, low, np.array([high[0], 0.08, high[2]]), 0.018, 260)
