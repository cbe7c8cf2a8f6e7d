"""``python -m cast.gull OUT``: the gull, a flat puppet cut out of drawings.

Every part is a coloured shape in the plane of the picture; some parts have several drawings, of
which a choice shows one by letting the others shrink to nothing.
"""

from __future__ import annotations

import sys
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

from cast.binary import ELEMENTS, FLOAT, UBYTE, USHORT, VERTICES, Binary, write_chunks
from fox_hand.core.model.controls import Channel, MirrorRule, Region, SettingKind
from fox_hand.core.model.solvers import DrivenKind
from fox_hand.interchange.sidecar import (
    FORMAT,
    VERSION,
    ControlNotes,
    DriveNotes,
    HolderNotes,
    SettingNotes,
    Sidecar,
    sidecar_path,
    write_sidecar,
)

Points = list[tuple[float, float]]
HIDDEN = 0.001  # how large a drawing is that is not shown
SMOOTH = 6  # points between two of a curve
INK = "#2b2a2a"


@dataclass
class Joint:
    """A pivot: where it is in the plane, and what it hangs on."""

    name: str
    parent: str | None
    at: tuple[float, float]


@dataclass
class Shape:
    """A closed, rounded outline of one colour.

    Args:
        joint: what it hangs on.
        points: centimetres, from the middle of the feet.
        colour: sRGB hex.
        depth: the higher the nearer, millimetres.
        round_: whether it is rounded, or has corners.
    """

    joint: str
    points: Points
    colour: str
    depth: float
    round_: bool = True


JOINTS = [
    Joint("root", None, (0, 0)),
    Joint("body", "root", (0, 22)),
    Joint("tail", "body", (-16, 20)),
    Joint("neck", "body", (11, 28)),
    Joint("head", "neck", (14, 38)),
    Joint("beak", "head", (20, 40)),
    Joint("eye", "head", (16, 42.5)),
    Joint("wing", "body", (3, 28)),
    Joint("wing_far", "body", (6, 29)),
    Joint("leg", "body", (-1, 13)),
    Joint("leg_far", "body", (4, 13)),
    Joint("perch", "root", (0, 0)),
]
DRAWINGS = {
    "beak": ("closed", "open", "squawk"),
    "eye": ("open", "half", "shut"),
    "wing": ("folded", "up", "down"),
    "perch": ("none", "rail"),
}


def circle(x: float, y: float, r: float, squash: float = 1.0) -> Points:
    turns = np.linspace(0, 2 * np.pi, 14, endpoint=False)
    return [(x + r * np.cos(a), y + r * squash * np.sin(a)) for a in turns]


WOOD, POST = "#8a5a3c", "#6d4630"
WHITE, SHADE, GREY, DARK = "#f4f1ea", "#dcd6c8", "#8c99a4", "#39424d"
YELLOW, ORANGE, RED, PINK = "#e9b23c", "#d98a2b", "#8e2f33", "#d9917e"
SHAPES = [
    Shape("perch_rail", [(-46, -40), (-40, -40), (-40, -2), (-46, -2)], POST, -7, False),
    Shape("perch_rail", [(36, -40), (42, -40), (42, -2), (36, -2)], POST, -7, False),
    Shape("perch_rail", [(-56, -26), (54, -26), (54, -22), (-56, -22)], POST, -8, False),
    Shape("perch_rail", [(-60, -5), (58, -5), (58, 0), (-60, 0)], WOOD, -6, False),
    Shape("wing_far", [(4, 31), (10, 27), (6, 20), (-8, 13), (-17, 11), (-8, 20)], DARK, -4),
    Shape(
        "leg_far",
        [(3.4, 14), (4.6, 14), (4.8, 1.5), (8, 0), (3, 0), (3.6, 1.5)],
        "#c97f6d",
        -3,
        False,
    ),
    Shape("tail", [(-12, 24), (-28, 20), (-34, 14), (-26, 14), (-12, 17)], SHADE, -2),
    Shape("body", [(-16, 22), (-8, 29), (6, 33), (15, 30), (15, 21), (7, 13), (-6, 12)], WHITE, 0),
    Shape("body", [(-10, 15), (2, 12.4), (9, 15), (2, 16.5)], SHADE, 0.3),
    Shape(
        "leg", [(-1.8, 14), (-0.6, 14), (-0.4, 1.5), (3, 0), (-3, 0), (-1.6, 1.5)], PINK, 1, False
    ),
    Shape("neck", [(5, 28), (8, 37), (13, 41), (19, 38), (17, 30), (12, 26)], WHITE, 1.5),
    Shape("head", circle(14.5, 41, 6.6, 0.92), WHITE, 2),
    Shape("beak_closed", [(19, 43), (27, 41), (30, 37.5), (26, 38.4), (19, 38.4)], YELLOW, 3),
    Shape("beak_closed", [(26, 38.6), (28, 38.2), (28.6, 37), (26.6, 37.4)], ORANGE, 3.3),
    Shape("beak_open", [(19, 43.4), (27, 43), (30.5, 40), (26, 40.6), (19, 40)], YELLOW, 3.2),
    Shape("beak_open", [(19, 40), (26, 37.6), (27, 36), (22, 35.6), (19, 37.4)], ORANGE, 3),
    Shape("beak_open", [(19, 40.2), (25, 40.2), (24.6, 38), (19, 38.4)], RED, 2.8),
    Shape("beak_squawk", [(19, 44), (27, 46.5), (31, 44.5), (26, 43.4), (19, 41)], YELLOW, 3.2),
    Shape("beak_squawk", [(19, 38.6), (25, 33), (25.4, 31), (21, 31.6), (18.6, 36)], ORANGE, 3),
    Shape("beak_squawk", [(18.8, 41.6), (25.6, 43.2), (24, 34), (18.8, 37)], RED, 2.8),
    Shape("beak_squawk", [(20, 38), (24, 38), (23.6, 35), (20.6, 35.6)], PINK, 2.9),
    Shape("eye_open", circle(16, 42.5, 2.1), "#ffffff", 4),
    Shape("eye_open", circle(16.5, 42.5, 1.0), INK, 4.3),
    Shape("eye_half", circle(16, 42.5, 2.1), "#ffffff", 4),
    Shape("eye_half", circle(16.5, 42.1, 1.0), INK, 4.3),
    Shape(
        "eye_half", [(13.8, 42.6), (14.2, 44.4), (16, 45), (17.8, 44.4), (18.2, 42.6)], SHADE, 4.6
    ),
    Shape("eye_shut", circle(16, 42.5, 2.1), SHADE, 4),
    Shape("eye_shut", [(13.9, 42.6), (16, 41.6), (18.1, 42.6), (16, 42.1)], INK, 4.3),
    Shape(
        "wing_folded",
        [(6, 31), (9, 26), (2, 19), (-14, 12), (-22, 11), (-12, 22), (-3, 30)],
        GREY,
        5,
    ),
    Shape("wing_folded", [(-10, 14.5), (-22, 11), (-27, 8), (-20, 15), (-12, 19)], DARK, 5.3),
    Shape(
        "wing_up", [(7, 29), (1, 26), (-8, 34), (-18, 48), (-17, 56), (-5, 47), (4, 36)], GREY, 5
    ),
    Shape("wing_up", [(-12, 41), (-18, 48), (-21, 58), (-17, 61), (-13, 55), (-8, 49)], DARK, 5.3),
    Shape(
        "wing_down", [(7, 30), (8, 25), (2, 14), (-10, 4), (-14, 6), (-8, 18), (-1, 29)], GREY, 5
    ),
    Shape("wing_down", [(-4, 9), (-10, 4), (-16, 1), (-17, 5), (-11, 12), (-6, 15)], DARK, 5.3),
]


def rounded(points: Points) -> npt.NDArray[np.float64]:
    """A closed curve through some points (Catmull and Rom 1974), ``(n, 2)``."""
    p = np.array(points)
    before, after, further = np.roll(p, 1, 0), np.roll(p, -1, 0), np.roll(p, -2, 0)
    found = [
        0.5
        * (
            2 * p
            + (after - before) * t
            + (2 * before - 5 * p + 4 * after - further) * t**2
            + (3 * p - before - 3 * after + further) * t**3
        )
        for t in np.linspace(0, 1, SMOOTH, endpoint=False)
    ]
    return np.asarray(np.stack(found, axis=1).reshape(-1, 2))


def triangulated(ring: npt.NDArray[np.float64]) -> list[tuple[int, int, int]]:
    """A simple polygon cut into triangles, ear by ear (Meisters 1975)."""
    area = float(
        (ring[:, 0] * np.roll(ring[:, 1], -1) - np.roll(ring[:, 0], -1) * ring[:, 1]).sum()
    )
    order = list(range(len(ring))) if area > 0 else list(range(len(ring)))[::-1]
    found = []
    while len(order) > 3:
        for i in range(len(order)):
            a, b, c = order[i - 1], order[i], order[(i + 1) % len(order)]
            if _cross(ring[a], ring[b], ring[c]) <= 0:
                continue
            inside = any(
                _within(ring[k], ring[a], ring[b], ring[c]) for k in order if k not in (a, b, c)
            )
            if not inside:
                found.append((a, b, c))
                del order[i]
                break
        else:
            del order[0]  # three points on a line
    return [*found, (order[0], order[1], order[2])]


def _cross(a: Any, b: Any, c: Any) -> float:
    return float((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]))


def _within(p: Any, a: Any, b: Any, c: Any) -> bool:
    return min(_cross(a, b, p), _cross(b, c, p), _cross(c, a, p)) >= 0


@dataclass
class Built:
    """All shapes together."""

    positions: list[npt.NDArray[np.float64]] = field(default_factory=list)
    colours: list[npt.NDArray[np.float64]] = field(default_factory=list)
    joints: list[npt.NDArray[np.uint8]] = field(default_factory=list)
    triangles: list[npt.NDArray[np.int64]] = field(default_factory=list)
    count: int = 0


def joints() -> list[Joint]:
    """The pivots, and a joint for every drawing."""
    places = {j.name: j.at for j in JOINTS}
    drawn = [
        Joint(f"{part}_{word}", part, places[part])
        for part, words in DRAWINGS.items()
        for word in words
    ]
    return [*JOINTS, *drawn]


def built(rows: dict[str, int]) -> Built:
    found = Built()
    for shape in SHAPES:
        ring = rounded(shape.points) if shape.round_ else np.array(shape.points, dtype=float)
        triangles = np.array(triangulated(ring))
        z = np.full((len(ring), 1), shape.depth * 0.001)
        found.positions.append(np.concatenate([ring * 0.01, z], axis=1))
        found.colours.append(np.tile(_linear(shape.colour), (len(ring), 1)))
        found.joints.append(np.full(len(ring), rows[shape.joint], np.uint8))
        found.triangles.append(triangles + found.count)
        found.count += len(ring)
    return found


def _linear(colour: str) -> npt.NDArray[np.float64]:
    """sRGB to linear (IEC 61966-2-1)."""
    c = np.array([int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)])
    return np.where(c <= 0.04045, c / 12.92, ((c + 0.055) / 1.055) ** 2.4)


def write(path: Path) -> None:
    """The GLB file."""
    bones = joints()
    rows = {j.name: i for i, j in enumerate(bones)}
    binary, flat = Binary(), built(rows)
    at = np.array([[*j.at, 0.0] for j in bones]) * 0.01
    nodes: list[dict[str, Any]] = []
    for i, joint in enumerate(bones):
        above = at[rows[joint.parent]] if joint.parent else np.zeros(3)
        children = [k for k, other in enumerate(bones) if other.parent == joint.name]
        node: dict[str, Any] = {"name": joint.name, "translation": (at[i] - above).tolist()}
        if children:
            node["children"] = children
        nodes.append(node)
    inverse = np.tile(np.eye(4), (len(bones), 1, 1))
    inverse[:, :3, 3] = -at
    skin = {
        "name": "gull",
        "joints": list(range(len(bones))),
        "skeleton": 0,
        "inverseBindMatrices": binary.accessor(
            inverse.transpose(0, 2, 1).reshape(-1, 16).astype(np.float32), "MAT4", FLOAT
        ),
    }
    points = np.concatenate(flat.positions).astype(np.float32)
    normals = np.tile(np.array([0, 0, 1], np.float32), (len(points), 1))
    rgb = np.round(np.concatenate(flat.colours) * 65535).astype(np.uint16)
    rgba = np.concatenate([rgb, np.full((len(rgb), 1), 65535, np.uint16)], axis=1)
    four = np.zeros((len(points), 4), np.uint8)
    four[:, 0] = np.concatenate(flat.joints)
    weights = np.zeros((len(points), 4), np.float32)
    weights[:, 0] = 1.0
    primitive = {
        "attributes": {
            "POSITION": binary.accessor(points, "VEC3", FLOAT, target=VERTICES, bounds=True),
            "NORMAL": binary.accessor(normals, "VEC3", FLOAT, target=VERTICES),
            "COLOR_0": binary.accessor(rgba, "VEC4", USHORT, target=VERTICES, normalized=True),
            "JOINTS_0": binary.accessor(four, "VEC4", UBYTE, target=VERTICES),
            "WEIGHTS_0": binary.accessor(weights, "VEC4", FLOAT, target=VERTICES),
        },
        "indices": binary.accessor(
            np.concatenate(flat.triangles).reshape(-1).astype(np.uint16),
            "SCALAR",
            USHORT,
            target=ELEMENTS,
        ),
        "material": 0,
    }
    document = {
        "asset": {"version": "2.0", "generator": "Fox Hand cast builder"},
        "scene": 0,
        "scenes": [{"name": "Gull", "nodes": [0, len(nodes)]}],
        "nodes": [*nodes, {"name": "drawings", "mesh": 0, "skin": 0}],
        "skins": [skin],
        "meshes": [{"name": "drawings", "primitives": [primitive]}],
        "materials": [
            {
                "name": "paper",
                "doubleSided": True,
                "pbrMetallicRoughness": {"metallicFactor": 0, "roughnessFactor": 0.95},
            }
        ],
        "accessors": binary.accessors,
        "bufferViews": binary.views,
        "buffers": [{"byteLength": len(binary.data) + (-len(binary.data) % 4)}],
    }
    write_chunks(path, document, bytes(binary.data))


REGIONS = {
    "root": Region.TORSO,
    "body": Region.TORSO,
    "tail": Region.TORSO,
    "neck": Region.HEAD,
    "head": Region.HEAD,
    "beak": Region.MOUTH,
    "eye": Region.EYES,
    "wing": Region.ARMS,
    "wing_far": Region.ARMS,
    "leg": Region.LEGS,
    "leg_far": Region.LEGS,
    "perch": Region.TORSO,
}


def _channels(name: str, drawn: bool) -> list[Channel]:
    if drawn:
        return [Channel.SCALE]
    return [Channel.TURN, Channel.MOVE] if name in ("root", "body") else [Channel.TURN]


def sidecar() -> Sidecar:
    """What turns and moves, and which drawings there are."""
    controls = {}
    for joint in joints():
        drawn = joint.name not in REGIONS
        controls[joint.name] = ControlNotes(
            label=joint.name.replace("_", " ").capitalize(),
            region=REGIONS[joint.name.split("_")[0]] if drawn else REGIONS[joint.name],
            order="XYZ",
            channels=_channels(joint.name, drawn),
            axis_labels=("tip", "spin", "turn"),
            helper=drawn,
        )
    settings, drives = {}, []
    for part, words in DRAWINGS.items():
        settings[f"{part}_drawing"] = SettingNotes(
            label=f"{part.capitalize()} drawing",
            maximum=float(len(words) - 1),
            mirror=MirrorRule.KEEP,
            kind=SettingKind.CHOICE,
            options=list(words),
        )
        for number, word in enumerate(words):
            points = [(float(i), 1.0 if i == number else HIDDEN) for i in range(len(words))]
            drives += [
                DriveNotes(f"{part}_drawing", DrivenKind.SCALE, f"{part}_{word}", points, axis)
                for axis in ("x", "y", "z")
            ]
    holders = {
        "drawings": HolderNotes(
            "Drawings", "head", (0.0, 0.08, 0.0), list(settings), region=Region.HEAD
        )
    }
    return Sidecar(
        FORMAT,
        VERSION,
        "Gull",
        controls=controls,
        settings=settings,
        holders=holders,
        drives=drives,
    )


def main() -> None:
    path = Path(sys.argv[1]) / "gull.glb"
    write(path)
    sidecar_path(path).write_bytes(write_sidecar(sidecar()))
    count = sum(map(len, built({j.name: 0 for j in joints()}).triangles))
    print(f"{path}: {count} triangles")


if __name__ == "__main__":
    main()
