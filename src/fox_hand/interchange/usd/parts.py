"""Skinned meshes and blend shapes of a USD stage."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from fox_hand.base.language import tr
from fox_hand.core.maths.measurable import measurable
from fox_hand.core.maths.rotations import Array
from fox_hand.core.maths.transforms import apply
from fox_hand.core.model.mesh import FloatArray, IntArray, Material, MeshPart, smooth_normals
from fox_hand.interchange.usd.usd_stage import column_matrix, damaged, module

INFLUENCES = 8
CLOSE = 1e-6  # a stop nearer than this to 0 or 1 is that


@dataclass(frozen=True)
class Palette:
    """Where the joints of each skeleton lie in the rig's palette.

    Args:
        skeletons: rows of skeletons by prim path.
        first: palette row of each skeleton's first joint.
        names: joint names of each skeleton.
    """

    skeletons: Mapping[str, int]
    first: Sequence[int]
    names: Sequence[Sequence[str]]


@dataclass(frozen=True)
class BlendShape:
    """A weight of shapes, and how it follows another one.

    Args:
        name: what it is called.
        follows: the shape that somebody sets, where this is only one of its stops.
        points: of that shape's weight and this one's, growing.
    """

    name: str
    follows: str | None = None
    points: tuple[tuple[float, float], ...] = ()


class UsdPartReader:
    """Reads every skinned mesh of a stage."""

    def __init__(self, path: Path, stage: Any, palette: Palette) -> None:
        self._path, self._stage, self._palette = path, stage, palette
        self._shapes: list[BlendShape] = []
        self.notes: list[str] = []

    def read(self) -> tuple[list[MeshPart], list[BlendShape]]:
        """The parts, and their blend shapes."""
        skel, usd = module("UsdSkel"), module("Usd")
        cache = skel.Cache()
        parts = []
        for prim in self._stage.Traverse():
            if not prim.IsA(skel.Root):
                continue
            root = skel.Root(prim)
            cache.Populate(root, usd.PrimDefaultPredicate)
            for binding in cache.ComputeSkelBindings(root, usd.PrimDefaultPredicate):
                row = self._palette.skeletons.get(str(binding.GetSkeleton().GetPath()))
                if row is None:
                    continue
                for target in binding.GetSkinningTargets():
                    part = self._part(target, row)
                    if part is not None:
                        parts.append(part)
        return parts, self._shapes

    def _part(self, query: Any, row: int) -> MeshPart | None:
        geom = module("UsdGeom")
        prim = query.GetPrim()
        mesh = geom.Mesh(prim)
        name = prim.GetName()
        if not prim.IsA(geom.Mesh) or not query.HasJointInfluences():
            self.notes.append(tr("{name} follows no joints and is left out.", name=name))
            return None
        raw = np.array(mesh.GetPointsAttr().Get() or [], dtype=np.float64).reshape(-1, 3)
        triangles = self._triangles(mesh, len(raw))
        if not len(raw) or not len(triangles):
            return None
        bind = column_matrix(query.GetGeomBindTransform())
        if not measurable(raw, bind):
            raise damaged(self._path, tr("{name} has points that are no numbers", name=name))
        points = apply(bind, raw).astype(np.float32)
        joints, weights = self._influences(query, row, len(raw))
        targets, settings = self._targets(query, bind, len(raw))
        colours = np.ones((len(raw), 4), np.float32)
        return MeshPart(
            name=name,
            positions=points,
            normals=smooth_normals(points, triangles),
            triangles=triangles,
            joints=joints,
            weights=weights,
            uv=np.zeros((len(raw), 2), np.float32),
            colours=colours,
            material=self._material(mesh),
            targets=targets,
            target_normals=None if targets is None else np.zeros_like(targets),
            target_settings=settings,
        )

    def _triangles(self, mesh: Any, count: int) -> IntArray:
        """Faces as fans of triangles, counter-clockwise from outside."""
        sizes = np.array(mesh.GetFaceVertexCountsAttr().Get() or [], dtype=np.int64)
        corners = np.array(mesh.GetFaceVertexIndicesAttr().Get() or [], dtype=np.int64)
        if sizes.sum() != len(corners) or (len(corners) and corners.max() >= count):
            raise damaged(
                self._path,
                tr("the faces of {getname} do not fit", getname=mesh.GetPrim().GetName()),
            )
        if (sizes < 0).any() or (len(corners) and corners.min() < 0):
            raise damaged(
                self._path,
                tr("the faces of {getname} are negative", getname=mesh.GetPrim().GetName()),
            )
        found = []
        start = 0
        for size in sizes.tolist():
            face = corners[start : start + size]
            start += size
            found += [(face[0], face[k], face[k + 1]) for k in range(1, size - 1)]
        triangles = np.array(found, dtype=np.int32).reshape(-1, 3)
        if mesh.GetOrientationAttr().Get() == module("UsdGeom").Tokens.leftHanded:
            triangles = triangles[:, ::-1].copy()
        return triangles

    def _influences(self, query: Any, row: int, count: int) -> tuple[IntArray, FloatArray]:
        got = query.ComputeVaryingJointInfluences(count)
        if not got:
            raise damaged(
                self._path,
                tr("the weights of {getname} do not fit", getname=query.GetPrim().GetName()),
            )
        width = max(query.GetNumInfluencesPerComponent(), 1)
        joints = np.array(got[0], dtype=np.int64).reshape(count, width)
        weights = np.nan_to_num(np.array(got[1], dtype=np.float64).reshape(count, width))
        mapped = self._mapped(query, row, joints)
        order = np.argsort(-weights, axis=1, kind="stable")[:, :INFLUENCES]
        weights = np.maximum(np.take_along_axis(weights, order, 1), 0.0)
        total = weights.sum(1, keepdims=True)
        weights = np.where(total > 1e-9, weights / np.maximum(total, 1e-9), 0.0)
        weights[total[:, 0] <= 1e-9, 0] = 1.0
        chosen = np.take_along_axis(mapped, order, 1) + self._palette.first[row]
        return chosen.astype(np.int32), weights.astype(np.float32)

    def _mapped(self, query: Any, row: int, joints: np.ndarray) -> np.ndarray:
        """Joint numbers of the skeleton; a mesh may list its joints in an order of its own."""
        names, own = self._palette.names[row], query.GetJointOrder()
        table = np.arange(len(names))
        if own:
            at = {name: i for i, name in enumerate(names)}
            table = np.array([at.get(str(j).rsplit("/", 1)[-1], 0) for j in own])
        if joints.size and (joints.min() < 0 or joints.max() >= len(table)):
            raise damaged(
                self._path,
                tr("{getname} names joints that are not there", getname=query.GetPrim().GetName()),
            )
        return np.asarray(table[joints])

    def _targets(
        self, query: Any, bind: Array, count: int
    ) -> tuple[FloatArray | None, tuple[int, ...]]:
        skel = module("UsdSkel")
        if not query.HasBlendShapes():
            return None, ()
        shapes = skel.BlendShapeQuery(skel.BindingAPI(query.GetPrim()))
        names = [str(n) for n in query.GetBlendShapesAttr().Get() or []]
        offsets, rows = [], []
        for index, name in enumerate(names[: shapes.GetNumBlendShapes()]):
            shape = shapes.GetBlendShape(index)
            at = shape.GetPointIndicesAttr().Get()
            named = self._row(BlendShape(name))
            between = in_betweens(shape)
            stops = sorted({0.0, 1.0, *(weight for weight, _ in between)})
            for weight, given in ((1.0, shape.GetOffsetsAttr().Get()), *between):
                offsets.append(_moved(given, at, count) @ bind[:3, :3].T)
                own = BlendShape(f"{name} at {weight:g}", name, _hat(stops, weight))
                rows.append(self._row(own) if between else named)
        if not offsets:
            return None, ()
        return np.array(offsets, dtype=np.float32), tuple(rows)

    def _row(self, shape: BlendShape) -> int:
        """The row of a shape; several parts that name the same one share it."""
        if shape not in self._shapes:
            self._shapes.append(shape)
        return self._shapes.index(shape)

    def _material(self, mesh: Any) -> Material:
        """The plain colour of a mesh; textures and shaders are left to other programs."""
        colour = mesh.GetDisplayColorAttr().Get()
        if not colour:
            return Material(name=mesh.GetPrim().GetName())
        r, g, b = (float(v) for v in colour[0])
        return Material(name=mesh.GetPrim().GetName(), colour=(r, g, b, 1.0))


def in_betweens(shape: Any) -> list[tuple[float, Any]]:
    """The weights at which a blend shape passes through another one, with offsets (UsdSkel,
    *Inbetween*); 0 and 1 are no such weights."""
    found: dict[float, Any] = {}
    for one in shape.GetInbetweens():
        weight, offsets = one.GetWeight(), one.GetOffsets()
        if weight is None or offsets is None:
            continue
        if np.isfinite(weight) and min(abs(weight), abs(weight - 1.0)) > CLOSE:
            found[float(weight)] = offsets
    return sorted(found.items())


def _hat(stops: Sequence[float], weight: float) -> tuple[tuple[float, float], ...]:
    """1 at one stop, 0 at the stops beside it, straight between: of all stops together the
    shapes on both sides of a weight share it, as UsdSkelBlendShapeQuery has it."""
    at = stops.index(weight)
    near = range(max(at - 1, 0), min(at + 2, len(stops)))
    return tuple((stops[i], 1.0 if i == at else 0.0) for i in near)


def _moved(given: Any, at: Any, count: int) -> Array:
    """Offsets of all points ``(count, 3)`` from those of some."""
    moved = np.zeros((count, 3))
    offsets = np.array(given if given is not None else [], dtype=np.float64).reshape(-1, 3)
    where = np.array(at, dtype=np.int64) if at else np.arange(min(len(offsets), count))
    fits = (where >= 0) & (where < count)
    if len(where) <= len(offsets):
        moved[where[fits]] = offsets[: len(where)][fits]
    return moved
