"""Motion as UsdSkel: a skeleton, the skinned mesh with its blend shapes, and an animation."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.core.animation.motion import Motion
from fox_hand.core.maths.rotations import Array
from fox_hand.core.maths.transforms import compose, undone
from fox_hand.core.model.mesh import MeshPart
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.usd.usd_stage import module

SUFFIXES = (".usda", ".usdc", ".usd")


def write_usd(path: Path, rig: Rig, motion: Motion, *, mesh: bool = True) -> None:
    """Write a stage in metres with Y up.

    Args:
        path: ``.usda``, ``.usdc`` or ``.usd``.
        rig: the figure.
        motion: what it does.
        mesh: whether the figure goes in, or the skeleton and its animation only.

    Raises:
        FoxHandError: ``usd.missing``, ``file.write``.
    """
    usd = module("Usd")
    try:
        stage = usd.Stage.CreateNew(str(path))
    except module("Tf").ErrorException as error:
        raise FoxHandError(
            "file.write",
            tr("{name} could not be written as USD.", name=path.name),
            tr("What was there before is untouched."),
            tr("Choose another name or folder."),
        ) from error
    _StageWriter(stage, rig, motion).write(mesh=mesh)
    stage.GetRootLayer().Save()


class _StageWriter:
    def __init__(self, stage: Any, rig: Rig, motion: Motion) -> None:
        self._stage, self._rig, self._motion = stage, rig, motion
        self._gf, self._vt, self._skel = module("Gf"), module("Vt"), module("UsdSkel")
        self._geom = module("UsdGeom")
        self._joints = self._paths()
        # a joint is bound where the first skin that it carries says
        self._bind = np.array(rig.skeleton.rest_world)
        for row in reversed(range(len(rig.palette_nodes))):
            self._bind[rig.palette_nodes[row]] = undone(rig.inverse_binds[row])

    def write(self, *, mesh: bool) -> None:
        """Everything, in the order in which it refers to each other."""
        stage, motion = self._stage, self._motion
        self._geom.SetStageUpAxis(stage, self._geom.Tokens.y)
        self._geom.SetStageMetersPerUnit(stage, 1.0)
        stage.SetTimeCodesPerSecond(motion.rate)
        stage.SetFramesPerSecond(motion.rate)
        stage.SetStartTimeCode(0)
        stage.SetEndTimeCode(len(motion) - 1)
        root = self._skel.Root.Define(stage, "/figure")
        stage.SetDefaultPrim(root.GetPrim())
        skeleton = self._skel.Skeleton.Define(stage, "/figure/skeleton")
        skeleton.CreateJointsAttr(self._joints)
        skeleton.CreateBindTransformsAttr(self._matrices(self._bind))
        rest = self._rig.skeleton
        local = compose(rest.translation, rest.rotation, rest.scale)
        skeleton.CreateRestTransformsAttr(self._matrices(local))
        shapes = self._shapes() if mesh else []
        self._animate(shapes)
        binding = self._skel.BindingAPI.Apply(skeleton.GetPrim())
        binding.CreateAnimationSourceRel().SetTargets(["/figure/animation"])
        if mesh:
            for number, part in enumerate(self._rig.parts):
                self._mesh(number, part)

    def _paths(self) -> list[str]:
        """Joint paths: names that USD allows, each below its parent's."""
        tf = module("Tf")
        found: list[str] = []
        taken: set[str] = set()
        for name, parent in zip(self._motion.nodes, self._motion.parents, strict=True):
            own = tf.MakeValidIdentifier(name)
            path = f"{found[parent]}/{own}" if parent >= 0 else own
            while path in taken:
                path += "_"
            taken.add(path)
            found.append(path)
        return found

    def _matrices(self, matrices: Array) -> Any:
        return self._vt.Matrix4dArray([self._gf.Matrix4d(m.T.tolist()) for m in matrices])

    def _shapes(self) -> list[str]:
        used = {row for p in self._rig.parts if p.targets is not None for row in p.target_settings}
        return [self._rig.settings[row].name for row in sorted(used)]

    def _animate(self, shapes: list[str]) -> None:
        motion, vt = self._motion, self._vt
        anim = self._skel.Animation.Define(self._stage, "/figure/animation")
        anim.CreateJointsAttr(self._joints)
        moves, turns, scales = (
            anim.CreateTranslationsAttr(),
            anim.CreateRotationsAttr(),
            anim.CreateScalesAttr(),
        )
        if shapes:
            tf = module("Tf")
            anim.CreateBlendShapesAttr([tf.MakeValidIdentifier(s) for s in shapes])
        weights = anim.CreateBlendShapeWeightsAttr() if shapes else None
        columns = [list(motion.settings).index(s) for s in shapes]
        for frame in range(len(motion)):
            moves.Set(vt.Vec3fArray.FromNumpy(motion.move[frame].astype(np.float32)), frame)
            # numpy knows no half floats of three; quaternions are real part first
            turns.Set(
                vt.QuatfArray(
                    [
                        self._gf.Quatf(float(w), float(x), float(y), float(z))
                        for x, y, z, w in motion.turn[frame]
                    ]
                ),
                frame,
            )
            scales.Set(
                vt.Vec3hArray([self._gf.Vec3h(*map(float, s)) for s in motion.scale[frame]]), frame
            )
            if weights is not None:
                row = motion.weights[frame, columns].astype(np.float32)
                weights.Set(vt.FloatArray.FromNumpy(row), frame)

    def _mesh(self, number: int, part: MeshPart) -> None:
        vt, rig = self._vt, self._rig
        name = module("Tf").MakeValidIdentifier(f"{part.name}_{number}")
        mesh = self._geom.Mesh.Define(self._stage, f"/figure/{name}")
        count = len(part.triangles)
        mesh.CreatePointsAttr(vt.Vec3fArray.FromNumpy(part.positions.astype(np.float32)))
        mesh.CreateFaceVertexCountsAttr(vt.IntArray([3] * count))
        mesh.CreateFaceVertexIndicesAttr(
            vt.IntArray.FromNumpy(part.triangles.astype(np.int32).ravel())
        )
        mesh.CreateSubdivisionSchemeAttr(self._geom.Tokens.none)
        low, high = part.positions.min(0), part.positions.max(0)
        mesh.CreateExtentAttr([self._gf.Vec3f(*map(float, low)), self._gf.Vec3f(*map(float, high))])
        binding = self._skel.BindingAPI.Apply(mesh.GetPrim())
        binding.CreateSkeletonRel().SetTargets(["/figure/skeleton"])
        nodes = rig.palette_nodes[part.joints].astype(np.int32)
        width = nodes.shape[1]
        binding.CreateJointIndicesPrimvar(False, width).Set(vt.IntArray.FromNumpy(nodes.ravel()))
        binding.CreateJointWeightsPrimvar(False, width).Set(
            vt.FloatArray.FromNumpy(part.weights.astype(np.float32).ravel())
        )
        used = int(part.joints.ravel()[np.argmax(part.weights.ravel())])
        place = self._bind[rig.palette_nodes[used]] @ rig.inverse_binds[used]
        binding.CreateGeomBindTransformAttr(self._gf.Matrix4d(place.T.tolist()))
        if part.targets is not None and len(part.target_settings):
            self._targets(mesh, binding, part)

    def _targets(self, mesh: Any, binding: Any, part: MeshPart) -> None:
        tf, names, paths = module("Tf"), [], []
        assert part.targets is not None
        for row, offsets in zip(part.target_settings, part.targets, strict=True):
            name = tf.MakeValidIdentifier(self._rig.settings[row].name)
            shape = self._skel.BlendShape.Define(self._stage, f"{mesh.GetPath()}/{name}")
            moved = np.flatnonzero(np.abs(offsets).max(1) > 1e-9)
            shape.CreateOffsetsAttr(
                self._vt.Vec3fArray.FromNumpy(offsets[moved].astype(np.float32))
            )
            shape.CreatePointIndicesAttr(self._vt.IntArray.FromNumpy(moved.astype(np.int32)))
            names.append(name)
            paths.append(str(shape.GetPath()))
        binding.CreateBlendShapesAttr(names)
        binding.CreateBlendShapeTargetsRel().SetTargets(paths)
