"""Motion as a glTF animation: on the character's own file, or alone with its skeleton."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np

from fox_hand.core.animation.curves import ChannelKind
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.animation.motion import Curve, Motion
from fox_hand.core.maths.rotations import Array
from fox_hand.interchange.gltf.document import open_document
from fox_hand.interchange.gltf.rigs import node_names
from fox_hand.interchange.gltf.writing import GltfFile

STILL = 1e-7
PATHS = {
    ChannelKind.MOVE: ("translation", "VEC3"),
    ChannelKind.TURN: ("rotation", "VEC4"),
    ChannelKind.SCALE: ("scale", "VEC3"),
}
DEFAULTS = {
    ChannelKind.MOVE: (0.0, 0.0, 0.0),
    ChannelKind.TURN: (0.0, 0.0, 0.0, 1.0),
    ChannelKind.SCALE: (1.0, 1.0, 1.0),
}
INTERPOLATIONS = {Ease.STEP: "STEP", Ease.LINEAR: "LINEAR", Ease.SMOOTH: "CUBICSPLINE"}


def on_character(source: Path, motion: Motion, size: float = 1.0) -> bytes:
    """The character's file with an animation put before those it has.

    Args:
        source: the glTF file the figure was read from.
        motion: what it does.
        size: metres of one unit of the file, where that is not 1.

    Raises:
        FoxHandError: if the file cannot be read any more.
    """
    document, _ = open_document(source)
    numbers = node_names(source, document)
    file = GltfFile.read(source)
    skinned = {i for i, node in enumerate(document.nodes) if node.skin is not None}
    targets: dict[int, list[str]] = {}
    for index in range(len(document.nodes)):
        if names := document.target_names(index):
            targets[index] = names
    moved = {name: index for name, index in numbers.items() if index not in skinned}
    _GltfWriter(file, motion, moved, targets, size).write()
    for index in set(numbers.values()):
        _without_matrix(file.document["nodes"][index], motion, numbers, index, size)
    return file.glb()


def alone(motion: Motion, rest: Motion) -> bytes:
    """The skeleton and its animation without anything to see.

    Args:
        motion: what it does.
        rest: one frame of it at rest.
    """
    file = GltfFile.new()
    children: list[list[int]] = [[] for _ in motion.nodes]
    for index, parent in enumerate(motion.parents):
        if parent >= 0:
            children[parent].append(index)
    nodes = []
    for index, name in enumerate(motion.nodes):
        node = {"name": name, **_first(rest, index)}
        if children[index]:
            node["children"] = children[index]
        nodes.append(node)
    roots = [i for i, p in enumerate(motion.parents) if p < 0]
    file.document.update(nodes=nodes, scenes=[{"nodes": roots}], scene=0)
    numbers = {name: i for i, name in enumerate(motion.nodes)}
    _GltfWriter(file, motion, numbers, {}, 1.0).write()
    return file.glb()


def posed(source: Path, motion: Motion, size: float = 1.0) -> bytes:
    """The character's file with its nodes standing as in the motion's first frame."""
    document, _ = open_document(source)
    numbers = node_names(source, document)
    file = GltfFile.read(source)
    nodes = file.document["nodes"]
    for row, name in enumerate(motion.nodes):
        if name in numbers:
            node = nodes[numbers[name]]
            node.pop("matrix", None)
            node |= _first(motion, row, size)
    known = {name: i for i, name in enumerate(motion.settings)}
    for index in range(len(document.nodes)):
        if names := document.target_names(index):
            nodes[index]["weights"] = [
                float(motion.weights[0, known[n]]) if n in known else 0.0 for n in names
            ]
    return file.glb()


def _without_matrix(
    node: dict[str, Any], motion: Motion, numbers: dict[str, int], index: int, size: float
) -> None:
    """A node that is animated may not be placed by a matrix (glTF 2.0, 3.5.3)."""
    if "matrix" not in node:
        return
    name = next(n for n, i in numbers.items() if i == index)
    if name not in motion.nodes:
        return
    row = motion.nodes.index(name)
    node.pop("matrix")
    node |= _first(motion, row, size)


def _first(motion: Motion, row: int, size: float = 1.0) -> dict[str, Any]:
    """Where a node is in the first frame."""
    unit = 1.0 / size if motion.parents[row] < 0 else 1.0
    return {
        "translation": (motion.move[0, row] * unit).tolist(),
        "rotation": motion.turn[0, row].tolist(),
        "scale": (motion.scale[0, row] * unit).tolist(),
    }


def _together(motion: Motion, names: list[str]) -> Curve | None:
    """The keys of all shapes of a mesh, which glTF writes as one; None where they are not keyed
    alike."""
    curves = [motion.kept.get((ChannelKind.SETTING, name)) for name in names]
    first = curves[0]
    if first is None or len(first.times) < 2:
        return None
    alike = [c for c in curves if c is not None and _keyed_alike(c, first)]
    if len(alike) < len(curves):
        return None
    slopes = [c.slopes for c in alike if c.slopes is not None]
    together = np.concatenate(slopes, axis=2) if slopes else None
    return Curve(
        first.times, np.concatenate([c.values for c in alike], axis=1), first.ease, together
    )


def _keyed_alike(one: Curve, other: Curve) -> bool:
    same = one.ease is other.ease and len(one.times) == len(other.times)
    return same and bool(np.abs(one.times - other.times).max() < STILL)


class _GltfWriter:
    """Collects channels and samplers of one animation."""

    def __init__(
        self,
        file: GltfFile,
        motion: Motion,
        numbers: dict[str, int],
        targets: dict[int, list[str]],
        size: float,
    ) -> None:
        self._file, self._motion, self._numbers = file, motion, numbers
        self._targets, self._size = targets, size
        self._channels: list[dict[str, Any]] = []
        self._samplers: list[dict[str, Any]] = []
        self._inputs: dict[bytes, int] = {}

    def write(self) -> None:
        motion = self._motion
        columns = (
            (ChannelKind.MOVE, motion.move),
            (ChannelKind.TURN, motion.turn),
            (ChannelKind.SCALE, motion.scale),
        )
        for row, name in enumerate(motion.nodes):
            if name not in self._numbers:
                continue  # goals and the like, which the file does not have
            unit = 1.0 / self._size if motion.parents[row] < 0 else 1.0
            for kind, values in columns:
                own = values[:, row]
                still = np.abs(own - own[0]).max() < STILL
                factor = unit if kind is not ChannelKind.TURN else 1.0
                if still and self._rests(self._numbers[name], kind, own[0] * factor):
                    continue
                curve = motion.kept.get((kind, name))
                path, width = PATHS[kind]
                if still:
                    sampler = self._sampler(motion.times[:1], own[:1] * factor, width)
                elif curve is not None:
                    sampler = self._curve(curve, width, factor)
                else:
                    sampler = self._sampler(motion.times, own * factor, width)
                self._channel(self._numbers[name], path, sampler)
        for index, names in self._targets.items():
            self._weights(index, names)
        if self._channels:
            made = {
                "name": motion.name,
                "channels": self._channels,
                "samplers": self._samplers,
            }
            self._file.document.setdefault("animations", []).insert(
                0, made
            )  # what players begin with

    def _rests(self, node: int, kind: ChannelKind, value: Array) -> bool:
        """Whether the file itself has a node like this."""
        written = self._file.document["nodes"][node]
        path, _ = PATHS[kind]
        if "matrix" in written:
            return False
        own = np.array(written.get(path, DEFAULTS[kind]), dtype=np.float64)
        return bool(min(np.abs(own - value).max(), np.abs(own + value).max()) < STILL)

    def _weights(self, index: int, names: list[str]) -> None:
        motion = self._motion
        known = {name: i for i, name in enumerate(motion.settings)}
        table = np.zeros((len(motion), len(names)))
        for column, name in enumerate(names):
            if name in known:
                table[:, column] = motion.weights[:, known[name]]
        curves = _together(motion, names)
        if curves is not None:
            self._channel(index, "weights", self._curve(curves, "SCALAR", 1.0))
            return
        still = np.abs(table - table[0]).max() < STILL
        times = motion.times[:1] if still else motion.times
        rows = table[:1] if still else table
        sampler = self._sampler(times, rows.reshape(-1), "SCALAR")
        self._channel(index, "weights", sampler)

    def _input(self, times: Array) -> int:
        key = np.asarray(times, dtype="<f4").tobytes()
        if key not in self._inputs:
            self._inputs[key] = self._file.floats(times, "SCALAR", bounds=True)
        return self._inputs[key]

    def _sampler(self, times: Array, values: Array, kind: str) -> int:
        self._samplers.append(
            {
                "input": self._input(times),
                "output": self._file.floats(values, kind),
                "interpolation": "LINEAR",
            }
        )
        return len(self._samplers) - 1

    def _curve(self, curve: Curve, kind: str, factor: float) -> int:
        """Keys as they are; of smooth ones each with its tangents around it."""
        values = curve.values * factor
        if curve.ease is Ease.SMOOTH and curve.slopes is not None:
            slopes = curve.slopes * factor
            parts = (slopes[:, 0], values, slopes[:, 1])
            values = np.stack(parts, axis=1).reshape(-1, values.shape[1])
        self._samplers.append(
            {
                "input": self._input(curve.times),
                "output": self._file.floats(values.ravel() if kind == "SCALAR" else values, kind),
                "interpolation": INTERPOLATIONS[curve.ease],
            }
        )
        return len(self._samplers) - 1

    def _channel(self, node: int, path: str, sampler: int) -> None:
        self._channels.append({"sampler": sampler, "target": {"node": node, "path": path}})
