"""USD files against UsdSkel itself (usd-core) on the same file, 1e-5 of the height."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from pxr import Gf, Usd, UsdGeom, UsdSkel, Vt
from scipy.spatial.transform import Rotation

from fox_hand.base.errors import FoxHandError
from fox_hand.core.kinematics.skinning import skinned
from fox_hand.core.maths.rotations import Array, inverse, multiply
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.readers import read_rig
from fox_hand.interchange.usd import layers
from fox_hand.interchange.usd.usd_stage import open_stage

JOINTS = ("Hips", "Hips/Chest", "Hips/Chest/LeftArm", "Hips/Chest/RightArm")
PLACES = np.array([[0, 0, 90], [0, 2, 130], [20, 0, 140], [-20, 0, 140]], dtype=float)  # Z up


def matrix(m: Array) -> Gf.Matrix4d:
    return Gf.Matrix4d(np.asarray(m).T.tolist())


def stage_with_skin(path: Path, *, centimetres: bool = True) -> Usd.Stage:
    """A Z-up figure in centimetres: a skeleton that stands aside, two skinned meshes (one with
    its own joint order and bind transform), one of them with a sparse blend shape."""
    stage = Usd.Stage.CreateNew(str(path))
    UsdGeom.SetStageUpAxis(stage, UsdGeom.Tokens.z)
    if centimetres:
        UsdGeom.SetStageMetersPerUnit(stage, 0.01)
    UsdSkel.Root.Define(stage, "/hero")
    aside = UsdGeom.Xform.Define(stage, "/hero/aside")
    aside.AddTranslateOp().Set(Gf.Vec3d(5, -3, 0))
    skeleton = UsdSkel.Skeleton.Define(stage, "/hero/aside/rig")
    skeleton.CreateJointsAttr(list(JOINTS))
    turns = Rotation.random(4, rng=np.random.default_rng(3)).as_matrix()
    world = np.tile(np.eye(4), (4, 1, 1))
    world[:, :3, :3], world[:, :3, 3] = turns, PLACES
    parents = [-1, 0, 1, 1]
    local = [
        w if p < 0 else np.linalg.inv(world[p]) @ w for w, p in zip(world, parents, strict=True)
    ]
    skeleton.CreateBindTransformsAttr(Vt.Matrix4dArray([matrix(m) for m in world]))
    skeleton.CreateRestTransformsAttr(Vt.Matrix4dArray([matrix(m) for m in local]))
    animation = UsdSkel.Animation.Define(stage, "/hero/aside/rig/wave")
    animation.CreateJointsAttr(list(JOINTS))
    animation.SetTransforms(Vt.Matrix4dArray([matrix(m) for m in _posed(local)]))
    UsdSkel.BindingAPI.Apply(skeleton.GetPrim()).CreateAnimationSourceRel().SetTargets(
        [animation.GetPath()]
    )
    for name, order in (("body", None), ("coat", (3, 2, 1, 0))):
        _mesh(stage, skeleton, name, order)
    stage.GetRootLayer().Save()
    return stage


def _posed(local: list[Array]) -> list[Array]:
    rng = np.random.default_rng(8)
    found = []
    for m in local:
        turned = np.array(m)
        turned[:3, :3] = m[:3, :3] @ Rotation.from_rotvec(rng.normal(0, 0.5, 3)).as_matrix()
        found.append(turned)
    return found


def _mesh(
    stage: Usd.Stage, skeleton: UsdSkel.Skeleton, name: str, order: tuple[int, ...] | None
) -> None:
    rng = np.random.default_rng(len(name))
    points = rng.normal(0, 20, (24, 3)) + (0, 0, 120)
    mesh = UsdGeom.Mesh.Define(stage, f"/hero/aside/{name}")
    mesh.CreatePointsAttr(Vt.Vec3fArray.FromNumpy(points.astype(np.float32)))
    mesh.CreateFaceVertexCountsAttr([4] * 6)
    mesh.CreateFaceVertexIndicesAttr(list(range(24)))
    api = UsdSkel.BindingAPI.Apply(mesh.GetPrim())
    api.CreateSkeletonRel().SetTargets([skeleton.GetPath()])
    indices = rng.integers(0, 4, (24, 3))
    weights = rng.dirichlet(np.ones(3), 24)
    api.CreateJointIndicesPrimvar(False, 3).Set(
        Vt.IntArray.FromNumpy(indices.ravel().astype(np.int32))
    )
    api.CreateJointWeightsPrimvar(False, 3).Set(
        Vt.FloatArray.FromNumpy(weights.ravel().astype(np.float32))
    )
    if order is not None:
        api.CreateJointsAttr().Set([JOINTS[i] for i in order])
        bind = np.eye(4)
        bind[:3, 3] = (1, 2, 3)
        api.CreateGeomBindTransformAttr().Set(matrix(bind))
        return
    shape = UsdSkel.BlendShape.Define(stage, f"/hero/aside/{name}/smile_L")
    shape.CreateOffsetsAttr([Gf.Vec3f(0, 3, 1)])
    shape.CreatePointIndicesAttr([7])
    api.CreateBlendShapesAttr().Set(["smile_L"])
    api.CreateBlendShapeTargetsRel().SetTargets([shape.GetPath()])


def usd_points(stage: Usd.Stage, name: str) -> Array:
    """World points of a skinned mesh as UsdSkel computes them, in metres with Y up."""
    cache = UsdSkel.Cache()
    root = UsdSkel.Root(stage.GetPrimAtPath("/hero"))
    cache.Populate(root, Usd.PrimDefaultPredicate)
    (binding,) = cache.ComputeSkelBindings(root, Usd.PrimDefaultPredicate)
    query = cache.GetSkelQuery(binding.GetSkeleton())
    skinning = query.ComputeSkinningTransforms(Usd.TimeCode.Default())
    for target in binding.GetSkinningTargets():
        if target.GetPrim().GetName() == name:
            points = UsdGeom.Mesh(target.GetPrim()).GetPointsAttr().Get()
            assert target.ComputeSkinnedPoints(skinning, points, Usd.TimeCode.Default())
            places = np.array(points, dtype=float) + (5, -3, 0)
            return places @ np.array([[1, 0, 0], [0, 0, -1], [0, 1, 0]], dtype=float) * 0.01
    raise AssertionError(name)


def as_animated(rig: Rig, stage: Usd.Stage) -> Array:
    """Turns of the controls that give the animation's locals."""
    animation = UsdSkel.Animation(stage.GetPrimAtPath("/hero/aside/rig/wave"))
    turns = rig.rest.turn.copy()
    for joint, q in zip(JOINTS, animation.GetRotationsAttr().Get(), strict=True):
        row = rig.control_row[joint.rsplit("/", 1)[-1]]
        wanted = np.array([*q.GetImaginary(), q.GetReal()], dtype=float)
        wanted /= np.linalg.norm(wanted)
        turns[row] = multiply(inverse(rig.skeleton.rotation[rig.controls[row].node]), wanted)
    return turns


@pytest.mark.parametrize("suffix", [".usda", ".usdc"])
def test_skinned_points_are_those_of_usdskel(tmp_path: Path, suffix: str) -> None:
    path = tmp_path / f"hero{suffix}"
    stage = stage_with_skin(path)
    rig = read_rig(path)
    assert not rig.notes
    at = rig.evaluate(rig.rest.with_(turn=as_animated(rig, stage)))
    for part in rig.parts:
        got = skinned(part, at.palette, at.settings)
        error = np.linalg.norm(got - usd_points(stage, part.name), axis=-1).max()
        assert error < 1e-5 * rig.height


def test_unit_axis_shapes_and_partners_are_read(tmp_path: Path) -> None:
    path = tmp_path / "hero.usda"
    stage_with_skin(path)
    rig = read_rig(path)
    hips = rig.skeleton.rest_world[rig.controls[rig.control_row["Hips"]].node]
    assert hips[:3, 3] == pytest.approx([0.05, 0.9, 0.03])
    arm = rig.controls[rig.control_row["LeftArm"]]
    assert (arm.side.value, arm.partner, arm.role) == ("left", "RightArm", "leftUpperArm")
    (smile,) = rig.settings
    assert smile.name == "smile_L"
    settings = rig.rest.settings.copy()
    settings[0] = 1.0
    body = next(p for p in rig.parts if p.name == "body")
    rest = rig.evaluate(rig.rest)
    smiling = rig.evaluate(rig.rest.with_(settings=settings))
    moved = skinned(body, smiling.palette, smiling.settings) - skinned(
        body, rest.palette, rest.settings
    )
    assert np.flatnonzero(np.abs(moved).max(1) > 1e-9).tolist() == [7]
    assert moved[7] == pytest.approx([0, 0.01, -0.03], abs=1e-7)


def with_in_betweens(stage: Usd.Stage) -> None:
    """The body's smile passes through two other shapes, and a frown through none; the coat smiles,
    too, by another way."""
    smile = UsdSkel.BlendShape(stage.GetPrimAtPath("/hero/aside/body/smile_L"))
    for number, weight in enumerate((0.75, 0.3)):
        between = smile.CreateInbetween(f"stop{number}")
        between.SetWeight(weight)
        between.SetOffsets([Gf.Vec3f(4, -2 * number, 5 * weight)])
    frown = UsdSkel.BlendShape.Define(stage, "/hero/aside/body/frown")
    frown.CreateOffsetsAttr([Gf.Vec3f(0, -1, 0)])
    frown.CreatePointIndicesAttr([3])
    coat = UsdSkel.BlendShape.Define(stage, "/hero/aside/coat/smile_L")
    coat.CreateOffsetsAttr([Gf.Vec3f(1, 0, 0)])
    coat.CreatePointIndicesAttr([5])
    for name, shapes in (("body", (smile, frown)), ("coat", (coat,))):
        api = UsdSkel.BindingAPI(stage.GetPrimAtPath(f"/hero/aside/{name}"))
        api.CreateBlendShapesAttr().Set([s.GetPrim().GetName() for s in shapes])
        api.CreateBlendShapeTargetsRel().SetTargets([s.GetPrim().GetPath() for s in shapes])
    stage.GetRootLayer().Save()


def deformed(stage: Usd.Stage, name: str, weights: list[float]) -> Array:
    """Points of a mesh as UsdSkel's own query blends its shapes, before skinning."""
    prim = stage.GetPrimAtPath(f"/hero/aside/{name}")
    query = UsdSkel.BlendShapeQuery(UsdSkel.BindingAPI(prim))
    sub_weights, shapes, sub_shapes = query.ComputeSubShapeWeights(weights)
    points = UsdGeom.Mesh(prim).GetPointsAttr().Get()
    assert query.ComputeDeformedPoints(
        sub_weights,
        shapes,
        sub_shapes,
        query.ComputeBlendShapePointIndices(),
        query.ComputeSubShapePointOffsets(),
        points,
    )
    return np.array(points, dtype=float)


def test_shapes_pass_through_others_on_their_way_as_usdskel_has_it(tmp_path: Path) -> None:
    stage = stage_with_skin(tmp_path / "hero.usda")
    with_in_betweens(stage)
    rig = read_rig(tmp_path / "hero.usda")
    assert [s.name for s in rig.settings if not s.helper] == ["smile_L", "frown"]
    for smile in (0.0, 0.1, 0.3, 0.5, 0.75, 0.9, 1.0):
        settings = rig.rest.settings.copy()
        settings[rig.setting_row["smile_L"]], settings[rig.setting_row["frown"]] = smile, 0.4
        at = rig.evaluate(rig.rest.with_(settings=settings))
        for name, weights in (("body", [smile, 0.4]), ("coat", [smile])):
            part = next(p for p in rig.parts if p.name == name)
            targets = np.asarray(part.targets, dtype=float)
            got = np.einsum("t,tvk->vk", at.settings[list(part.target_settings)], targets)
            wanted = deformed(stage, name, weights) - deformed(stage, name, [0.0] * len(weights))
            assert np.abs(got - wanted).max() < 1e-4, (name, smile)


def test_a_stage_that_says_no_unit_is_centimetres_and_that_is_said(tmp_path: Path) -> None:
    path = tmp_path / "hero.usda"
    stage_with_skin(path, centimetres=False)
    assert any("does not say its unit" in n for n in read_rig(path).notes)
    assert read_rig(path, 1.0).height > 50
    assert not any("does not say" in n for n in read_rig(path, 0.01).notes)


def test_stages_without_a_skeleton_and_broken_ones_get_a_sentence(tmp_path: Path) -> None:
    empty = tmp_path / "empty.usda"
    empty.write_text("#usda 1.0\n")
    with pytest.raises(FoxHandError, match="no skeleton"):
        read_rig(empty)
    for name, data in (("a.usda", b"#usda 1.0\n{"), ("b.usdc", b"PXR-USDC"), ("c.usdz", b"")):
        (tmp_path / name).write_bytes(data)
        with pytest.raises(FoxHandError, match="cannot be read as USD"):
            read_rig(tmp_path / name)


def test_without_usd_core_the_reader_says_what_to_install(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "hero.usda"
    path.write_text("#usda 1.0\n")

    def missing(name: str) -> None:
        raise ImportError(name)

    monkeypatch.setattr("fox_hand.interchange.usd.usd_stage.importlib.import_module", missing)
    with pytest.raises(FoxHandError, match="needs the package usd-core"):
        read_rig(path)


@pytest.mark.parametrize(
    "line",
    [
        "(\n    subLayers = [@{0}@]\n)\n",
        '\ndef SkelRoot "a" (\n    prepend references = @{0}@\n)\n{{\n}}\n',
        '\ndef SkelRoot "a" (\n    payload = @{0}@</x>\n)\n{{\n}}\n',
        '\ndef "a" (\n    variants = {{\n        string v = "one"\n    }}\n'
        '    prepend variantSets = "v"\n)\n{{\n    variantSet "v" = {{\n        "one" {{\n'
        '            def "b" (\n                references = @{0}@\n            )\n'
        "            {{\n            }}\n        }}\n    }}\n}}\n",
    ],
)
def test_a_stage_is_made_of_files_beside_it_and_below_only(tmp_path: Path, line: str) -> None:
    folder = tmp_path / "sent"
    (folder / "below").mkdir(parents=True)
    secret = '#usda 1.0\ndef Xform "x"\n{\n}\n'
    (tmp_path / "secret.usda").write_text(secret)
    (folder / "below" / "part.usda").write_text(secret)
    (folder / "link.usda").symlink_to(tmp_path / "secret.usda")
    stage = folder / "stage.usda"
    for name in ("../secret.usda", str(tmp_path / "secret.usda"), "./link.usda"):
        stage.write_text("#usda 1.0\n" + line.format(name))
        with pytest.raises(FoxHandError) as caught:
            open_stage(stage)
        assert caught.value.code == "usd.outside", name
    stage.write_text("#usda 1.0\n" + line.format("./below/part.usda"))
    assert len(layers(stage)) == 2
    # a layer of a layer, too
    (folder / "below" / "part.usda").write_text("#usda 1.0\n" + line.format("../../secret.usda"))
    with pytest.raises(FoxHandError, match="outside"):
        open_stage(stage)
