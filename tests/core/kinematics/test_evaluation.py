"""Joint transforms, skinning and morphs against UsdSkel (usd-core) and glTF's own formulas."""

from __future__ import annotations

import numpy as np
import pytest
from pxr import Gf, Sdf, Usd, UsdSkel, Vt

from fox_hand.core.kinematics.evaluation import TOGETHER
from fox_hand.core.kinematics.skinning import morphed, skinned
from fox_hand.core.maths.rotations import from_vector
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig


def posed(rig: Rig, seed: int) -> State:
    rng = np.random.default_rng(seed)
    count = len(rig.controls)
    return rig.rest.with_(
        move=rng.normal(0, 0.02, (count, 3)),
        turn=from_vector(rng.normal(0, 0.6, (count, 3))),
        scale=np.exp(rng.normal(0, 0.15, (count, 3))),
        settings=rng.uniform(-0.3, 1.2, len(rig.settings)),
    )


def usd_matrix(m: np.ndarray) -> Gf.Matrix4d:
    return Gf.Matrix4d(m.T.tolist())  # USD writes row vectors


def usd_skeleton(rig: Rig, stage: Usd.Stage) -> tuple[UsdSkel.Skeleton, list[int], list[str]]:
    """The rig's joints as a UsdSkel skeleton; order and paths of the joints come back."""
    nodes = sorted(set(rig.joint_nodes.tolist()))
    paths: dict[int, str] = {}
    for node in nodes:
        parent = rig.skeleton.parents[node]
        name = Sdf.Path(f"/{rig.skeleton.names[node]}").name
        paths[node] = f"{paths[parent]}/{name}" if parent in paths else name
    skeleton = UsdSkel.Skeleton.Define(stage, "/root/skeleton")
    skeleton.CreateJointsAttr(list(paths.values()))
    binds = [usd_matrix(rig.skeleton.rest_world[n]) for n in nodes]
    skeleton.CreateBindTransformsAttr(Vt.Matrix4dArray(binds))
    rest = [usd_matrix(m) for m in rig.skeleton.rest_locals()[nodes]]
    skeleton.CreateRestTransformsAttr(Vt.Matrix4dArray(rest))
    return skeleton, nodes, list(paths.values())


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_joint_transforms_and_skinned_points_match_usdskel(marrow: Rig, seed: int) -> None:
    """UsdSkel schema: ComputeJointWorldTransforms and ComputeSkinnedPoints, 1e-5 of the height."""
    state = posed(marrow, seed)
    at = marrow.evaluate(state)
    stage = Usd.Stage.CreateInMemory()
    UsdSkel.Root.Define(stage, "/root")
    skeleton, nodes, paths = usd_skeleton(marrow, stage)
    placed = at.nodes  # solvers have the last word, so locals come from what was evaluated
    above = [marrow.skeleton.parents[n] for n in nodes]
    parents = np.array([placed[p] if p >= 0 else np.eye(4) for p in above])
    local = [usd_matrix(m) for m in np.linalg.solve(parents, placed[nodes])]
    topology = UsdSkel.Topology(skeleton.GetJointsAttr().Get())
    world = UsdSkel.ConcatJointTransforms(topology, Vt.Matrix4dArray(local), usd_matrix(np.eye(4)))
    got = np.array([np.array(m).T for m in world])
    assert np.allclose(at.nodes[nodes], got, atol=1e-9)

    row = {node: i for i, node in enumerate(nodes)}
    binds = skeleton.GetBindTransformsAttr().Get()
    skinning = Vt.Matrix4dArray([binds[i].GetInverse() * m for i, m in enumerate(world)])
    for part in marrow.parts:
        points = Vt.Vec3fArray.FromNumpy(morphed(part, at.settings).astype(np.float32))
        joints = np.array([row[int(n)] for n in marrow.palette_nodes])[part.joints]
        width = part.joints.shape[1]
        done = UsdSkel.SkinPointsLBS(
            Gf.Matrix4d(1),
            skinning,
            Vt.IntArray.FromNumpy(joints.ravel().astype(np.int32)),
            Vt.FloatArray.FromNumpy(part.weights.ravel()),
            width,
            points,
        )
        assert done, part.name
        error = np.abs(np.array(points) - skinned(part, at.palette, at.settings)).max()
        assert error < 1e-5 * marrow.height
    assert len(paths) == 69


def test_skinning_is_the_specifications_sum(marrow: Rig) -> None:
    """glTF 2.0, 3.7.3.3: v' = sum_i w_i (global_i inverseBind_i) v, for some vertices."""
    state = posed(marrow, 7)
    at = marrow.evaluate(state)
    part = next(p for p in marrow.parts if p.targets is not None)
    got = skinned(part, at.palette, at.settings)
    base = morphed(part, at.settings)
    for vertex in range(0, len(got), 97):
        total = np.zeros(4)
        for joint, weight in zip(part.joints[vertex], part.weights[vertex], strict=True):
            node = at.nodes[marrow.palette_nodes[joint]]
            total += weight * (node @ marrow.inverse_binds[joint] @ np.append(base[vertex], 1))
        assert np.allclose(got[vertex], total[:3], atol=1e-7)


def test_morphs_are_the_specifications_sum(marrow: Rig) -> None:
    """glTF 2.0, 3.7.2.2: p + sum_i w_i t_i."""
    state = posed(marrow, 8)
    part = next(p for p in marrow.parts if p.targets is not None)
    assert part.targets is not None
    weights = state.settings[list(part.target_settings)]
    expected = part.positions + np.einsum("m,mvi->vi", weights, part.targets.astype(np.float64))
    assert np.allclose(morphed(part, state.settings), expected, atol=1e-6)


def test_many_frames_at_once_are_the_frames_one_by_one(marrow: Rig) -> None:
    states = [posed(marrow, seed) for seed in range(TOGETHER + 6)]  # two runs
    batch = State(*(np.stack(arrays) for arrays in zip(*(s.arrays() for s in states), strict=True)))
    together = marrow.evaluate(batch)
    for i, state in enumerate(states):
        # a hand twisted by almost half a turn magnifies the last digits in its helper
        assert np.allclose(together.palette[i], marrow.evaluate(state).palette, atol=1e-7)


def test_flesh_is_the_skinned_surface_where_nothing_morphs(marrow: Rig) -> None:
    state = posed(marrow, 4).with_(settings=marrow.rest.settings.copy())
    at = marrow.evaluate(state)
    whole = np.concatenate([skinned(p, at.palette, at.settings) for p in marrow.parts])
    assert np.allclose(marrow.flesh(at), whole, atol=1e-6)
    hand = {i for i, n in enumerate(marrow.skeleton.names) if "finger" in n and n.endswith("_L")}
    fingers = marrow.flesh(at, hand)
    assert 100 < len(fingers) < len(whole) / 5
