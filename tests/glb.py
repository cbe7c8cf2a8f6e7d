"""Small glTF files as other programs might write them, made with pygltflib."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
import pygltflib as gl

COMPONENTS = {
    np.dtype(np.float32): gl.FLOAT,
    np.dtype(np.uint8): gl.UNSIGNED_BYTE,
    np.dtype(np.uint16): gl.UNSIGNED_SHORT,
}
KINDS = {1: "SCALAR", 2: "VEC2", 3: "VEC3", 4: "VEC4", 16: "MAT4"}


@dataclass
class Maker:
    """Collects arrays and nodes."""

    gltf: gl.GLTF2 = field(default_factory=gl.GLTF2)
    data: bytearray = field(default_factory=bytearray)

    def accessor(self, values: np.ndarray, *, normalized: bool = False, stride: int = 0) -> int:
        """Store an array; ``stride`` spreads its rows out as interleaving programs do."""
        values = np.ascontiguousarray(values)
        width = 1 if values.ndim == 1 else values.shape[1]
        row = values.itemsize * width
        raw = values.tobytes()
        if stride:
            rows = (raw[i : i + row] + b"\xee" * (stride - row) for i in range(0, len(raw), row))
            raw = b"".join(rows)
        self.data += bytes(-len(self.data) % 4)
        view = gl.BufferView(buffer=0, byteOffset=len(self.data), byteLength=len(raw))
        view.byteStride = stride or None
        self.gltf.bufferViews.append(view)
        self.data += raw
        accessor = gl.Accessor(
            bufferView=len(self.gltf.bufferViews) - 1,
            componentType=COMPONENTS[values.dtype],
            count=len(values),
            type=KINDS[width],
            normalized=normalized,
        )
        if width == 3:
            accessor.min, accessor.max = values.min(0).tolist(), values.max(0).tolist()
        self.gltf.accessors.append(accessor)
        return len(self.gltf.accessors) - 1

    def node(self, **values: object) -> int:
        self.gltf.nodes.append(gl.Node(**values))
        return len(self.gltf.nodes) - 1

    def save(self, path: Path) -> Path:
        self.gltf.buffers = [gl.Buffer(byteLength=len(self.data))]
        roots = set(range(len(self.gltf.nodes)))
        for node in self.gltf.nodes:
            roots -= set(node.children or [])
        self.gltf.scenes = [gl.Scene(nodes=sorted(roots))]
        self.gltf.scene = 0
        self.gltf.set_binary_blob(bytes(self.data))
        self.gltf.save_binary(str(path))
        return path


def tube(
    maker: Maker,
    at: float,
    joints: tuple[int, int],
    *,
    bytes_weights: bool = False,
    unit: float = 1.0,
) -> int:
    """A column of 32 triangles weighted from one joint to another; returns the mesh."""
    heights = np.repeat(np.linspace(0, 2, 5), 4)
    corners = np.tile([[0.1, 0.1], [-0.1, 0.1], [-0.1, -0.1], [0.1, -0.1]], (5, 1))
    points = np.stack([corners[:, 0] + at, heights, corners[:, 1]], 1)
    points = (points * unit).astype(np.float32)
    faces = []
    for ring in range(4):
        for k in range(4):
            a, b = ring * 4 + k, ring * 4 + (k + 1) % 4
            faces += [a, a + 4, b, b, a + 4, b + 4]
    share = np.clip(heights / 2, 0, 1)
    weights = np.zeros((20, 4), np.float32)
    weights[:, 0], weights[:, 1] = 1 - share, share
    kind = np.zeros((20, 4), np.uint8)
    kind[:, 0], kind[:, 1] = joints
    attributes = gl.Attributes(POSITION=maker.accessor(points, stride=20))
    attributes.JOINTS_0 = maker.accessor(kind)
    if bytes_weights:
        small = np.zeros((20, 4), np.uint8)
        small[:, 1] = np.round(share * 255)
        small[:, 0] = 255 - small[:, 1]
        attributes.WEIGHTS_0 = maker.accessor(small, normalized=True)
    else:
        attributes.WEIGHTS_0 = maker.accessor(weights)
    indices = maker.accessor(np.array(faces, np.uint16))
    primitive = gl.Primitive(attributes=attributes, indices=indices)
    maker.gltf.meshes.append(gl.Mesh(primitives=[primitive]))
    return len(maker.gltf.meshes) - 1


def skin(maker: Maker, joints: list[int], binds: list[np.ndarray]) -> int:
    columns = np.stack([np.linalg.inv(b).T.reshape(16) for b in binds]).astype(np.float32)
    maker.gltf.skins.append(gl.Skin(joints=joints, inverseBindMatrices=maker.accessor(columns)))
    return len(maker.gltf.skins) - 1


def at(x: float, y: float, z: float) -> np.ndarray:
    m = np.eye(4)
    m[:3, 3] = x, y, z
    return m


def two_skins(path: Path) -> Path:
    """Two tubes drawn in centimetres, each with a skin of its own, under one root without a name
    that makes metres of them; one uses byte weights."""
    maker = Maker()
    tops = [maker.node(name=f"{side}Elbow", translation=[0, 100, 0]) for side in ("Left", "Right")]
    lows = [
        maker.node(name=f"{side}Arm", translation=[x * 100, 0, 0], children=[top])
        for side, x, top in zip(("Left", "Right"), (0.5, -0.5), tops, strict=True)
    ]
    maker.node(scale=[0.01] * 3, children=lows)
    for low, top, x, small in zip(lows, tops, (0.5, -0.5), (False, True), strict=True):
        mesh = tube(maker, x, (0, 1), bytes_weights=small, unit=100.0)
        binds = [at(x * 100, 0, 0), at(x * 100, 100, 0)]
        maker.node(mesh=mesh, skin=skin(maker, [low, top], binds), translation=[9, 9, 9])
    return maker.save(path)


def no_skin(path: Path) -> Path:
    """Nothing to pose: no joints, no meshes, no animation."""
    maker = Maker()
    maker.node(name="thing")
    return maker.save(path)


def rigid(path: Path, *, animated: bool = True) -> Path:
    """A box on an arm, both plain nodes with meshes; the arm may turn in an animation."""
    maker = Maker()
    box = maker.node(name="box", mesh=tube(maker, 0, (0, 0)), translation=[0.0, 2.0, 0.0])
    arm = maker.node(name="arm", mesh=tube(maker, 0, (0, 0)), children=[box])
    for mesh in maker.gltf.meshes:
        attributes = mesh.primitives[0].attributes
        attributes.JOINTS_0 = attributes.WEIGHTS_0 = None
    maker.node(name="world", children=[arm])
    if animated:
        when = maker.accessor(np.array([0.0, 0.5], np.float32))
        maker.gltf.accessors[when].min, maker.gltf.accessors[when].max = [0.0], [0.5]
        half = float(np.sqrt(0.5))
        turns = maker.accessor(np.array([[0, 0, 0, 1], [half, 0, 0, half]], np.float32))
        target = gl.AnimationChannelTarget(node=arm, path="rotation")
        swings = gl.Animation(name="swings")
        swings.samplers.append(gl.AnimationSampler(input=when, output=turns))
        swings.channels.append(gl.AnimationChannel(sampler=0, target=target))
        maker.gltf.animations.append(swings)
    return maker.save(path)


def morphing(path: Path) -> Path:
    """A skinned tube with two named morph targets and a hat hung rigidly on its upper joint."""
    maker = Maker()
    hat = maker.node(name="hat", mesh=tube(maker, 0, (0, 0)), translation=[0, 0.2, 0])
    primitive = maker.gltf.meshes[0].primitives[0]
    primitive.attributes.JOINTS_0 = primitive.attributes.WEIGHTS_0 = None
    head = maker.node(name="head", translation=[0, 1, 0], children=[hat])
    neck = maker.node(name="neck", children=[head])
    mesh = tube(maker, 0, (0, 1))
    blink = np.zeros((20, 3), np.float32)
    blink[16:, 2] = 0.05
    target = gl.Attributes(POSITION=maker.accessor(blink))
    other = gl.Attributes(POSITION=maker.accessor(-blink))
    maker.gltf.meshes[mesh].primitives[0].targets = [target, other]
    maker.gltf.meshes[mesh].extras = {"targetNames": ["blink_L", "blink_R"]}
    maker.node(name="face", mesh=mesh, skin=skin(maker, [neck, head], [at(0, 0, 0), at(0, 1, 0)]))
    return maker.save(path)


def moving(path: Path) -> Path:
    """A skinned tube whose upper joint turns, moves and grows by keys of all three kinds, and whose
    face blinks."""
    maker = Maker()
    head = maker.node(name="head", translation=[0, 1, 0])
    neck = maker.node(name="neck", children=[head])
    mesh = tube(maker, 0, (0, 1))
    blink = np.zeros((20, 3), np.float32)
    blink[16:, 2] = 0.05
    maker.gltf.meshes[mesh].primitives[0].targets = [gl.Attributes(POSITION=maker.accessor(blink))]
    maker.gltf.meshes[mesh].extras = {"targetNames": ["blink"]}
    bound = skin(maker, [neck, head], [at(0, 0, 0), at(0, 1, 0)])
    face = maker.node(name="face", mesh=mesh, skin=bound)
    times = maker.accessor(np.array([0, 0.25, 0.5], np.float32))
    half = float(np.sqrt(0.5))
    turns = np.array([[0, 0, 0, 1], [0, 0, half, half], [half, 0, 0, half]], np.float32)
    steps = np.array([[0, 1, 0], [0, 1.2, 0], [0, 1, 0.1]], np.float32)
    sizes = np.ones((9, 3), np.float32)  # of smooth keys: arriving, value, leaving
    sizes[::3] = sizes[2::3] = 0
    shapes = np.array([0, 1, 0], np.float32)
    made = gl.Animation(name="nod")
    for node, path_, values, kind in (
        (head, "rotation", turns, "LINEAR"),
        (head, "translation", steps, "STEP"),
        (neck, "scale", sizes, "CUBICSPLINE"),
        (face, "weights", shapes, "LINEAR"),
    ):
        sampler = gl.AnimationSampler(
            input=times, output=maker.accessor(values), interpolation=kind
        )
        made.samplers.append(sampler)
        target = gl.AnimationChannelTarget(node=node, path=path_)
        made.channels.append(gl.AnimationChannel(sampler=len(made.samplers) - 1, target=target))
    maker.gltf.animations = [made]
    return maker.save(path)
