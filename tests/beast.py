"""An invented animal of boxes: four legs, a tail, ears and wings, each part a node of its own."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pygltflib as gl

from tests.glb import Maker

Vector = tuple[float, float, float]


def box(maker: Maker, size: Vector, middle: Vector) -> int:
    """A mesh of six sides."""
    points, faces = [], []
    for axis in range(3):
        u, v = (i for i in range(3) if i != axis)
        for sign in (-1, 1):
            first = len(points)
            for a, b in ((-1, -1), (1, -1), (1, 1), (-1, 1)):
                corner = np.zeros(3)
                corner[[axis, u, v]] = sign, a, b
                points.append(np.array(middle) + corner * size / 2)
            turn = [0, 1, 2, 0, 2, 3]
            faces += [first + i for i in (turn if (axis == 1) != (sign == 1) else turn[::-1])]
    indices = maker.accessor(np.array(faces, np.uint16))
    where = gl.Attributes(POSITION=maker.accessor(np.array(points, np.float32)))
    mesh = gl.Mesh(primitives=[gl.Primitive(attributes=where, indices=indices)])
    maker.gltf.meshes.append(mesh)
    return len(maker.gltf.meshes) - 1


def parts() -> list[tuple[str, str, Vector, Vector, Vector]]:
    """Name, what it hangs on, where, how large, and where its box ends."""
    found = [
        ("hips", "", (0, 0.7, -0.4), (0.25, 0.25, 0.5), (0, 0.7, 0)),
        ("spine", "hips", (0, 0.72, 0), (0.25, 0.28, 0.4), (0, 0.75, 0.35)),
        ("chest", "spine", (0, 0.75, 0.35), (0.28, 0.3, 0.2), (0, 0.78, 0.5)),
        ("neck", "chest", (0, 0.85, 0.5), (0.14, 0.3, 0.14), (0, 1.05, 0.6)),
        ("head", "neck", (0, 1.1, 0.6), (0.18, 0.2, 0.35), (0, 1.1, 0.85)),
    ]
    for side, x in (("L", 1.0), ("R", -1.0)):
        ear, wing = (0.07 * x, 1.2, 0.62), (0.14 * x, 0.85, 0.3)
        found.append((f"ear_{side}", "head", ear, (0.03, 0.15, 0.06), (0.09 * x, 1.32, 0.62)))
        found.append((f"wing_{side}", "chest", wing, (0.03, 0.2, 0.5), (0.25 * x, 1.0, 0.0)))
        for names, top, z in (
            (("upperarm", "forearm", "hand"), "chest", 0.4),
            (("thigh", "shin", "foot"), "hips", -0.4),
        ):
            above = top
            for name, high, low in zip(names, (0.68, 0.36, 0.06), (0.36, 0.06, 0.03), strict=True):
                ahead = z + (0.1 if low == 0.03 else 0.0)
                size = (0.1, max(high - low, 0.06), 0.12)
                at, end = (0.12 * x, high, z), (0.12 * x, low, ahead)
                found.append((f"{name}_{side}", above, at, size, end))
                above = f"{name}_{side}"
    above = "hips"
    for i in range(3):
        y, z = 0.75 + 0.05 * i, -0.42 - 0.18 * i
        found.append(
            (f"tail_{i + 1}", above, (0, y, z), (0.06, 0.06, 0.18), (0, y + 0.05, z - 0.18))
        )
        above = f"tail_{i + 1}"
    return found


def beast(path: Path) -> Path:
    """Written as a glTF file without a skin."""
    maker, node, places = Maker(), dict[str, int](), {"": np.zeros(3)}
    for name, above, at, size, end in parts():
        places[name] = np.array(at)
        middle = tuple(((np.array(end) - np.array(at)) / 2).tolist())
        local = (places[name] - places[above]).tolist()
        node[name] = maker.node(name=name, translation=local, mesh=box(maker, size, middle))
        if above:
            parent = maker.gltf.nodes[node[above]]
            parent.children = [*(parent.children or []), node[name]]
    return maker.save(path)
