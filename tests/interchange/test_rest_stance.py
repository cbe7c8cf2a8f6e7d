"""Characters that were written in a pose: what the skin was bound in counts as rest.

The check is the definition in glTF 2.0, 3.7.3.1: at the bound stance every joint matrix is the
same, so the skinned mesh is the mesh as it lies in the file, only placed.
"""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from pxr import Sdf, UsdSkel, Vt
from scipy.spatial.transform import Rotation
from typer.testing import CliRunner

from fox_hand.cli import make_app
from fox_hand.core.kinematics.skinning import skinned
from fox_hand.core.maths.rotations import angle_between
from fox_hand.core.maths.transforms import compose
from fox_hand.core.pose.pose import ChannelFilter, take
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.motions import read_performance
from fox_hand.interchange.readers import read_rig
from fox_hand.interchange.sidecar import sidecar_path
from fox_hand.library.format.card import Card
from fox_hand.session.app.headless import Laid, card_on, worn
from fox_hand.session.applying.fit_result import foreign
from fox_hand.session.exporting.motion_export import write_pose
from fox_hand.session.figures.figure import Figure
from tests.conftest import MARROW
from tests.core.pose.test_blend import random_state
from tests.glb import Maker, skin, tube
from tests.interchange.test_usd import JOINTS, matrix, stage_with_skin
from tests.random_rig import random_rig

LYING = compose([0.0, 0.0, 0.0], [-np.sqrt(0.5), 0, 0, np.sqrt(0.5)], [0.01] * 3)
ASIDE = compose([0.4, 0.1, -0.2], Rotation.from_euler("y", 30, degrees=True).as_quat(), [1.0] * 3)


def written(path: Path, seed: int, convention: str, posed: bool) -> Path:
    """A rig by chance as programs write it: its skin bound in the world, in the space of a node
    that makes metres and Y up of something else, or in the space of its mesh. In the last case its
    root stays, or nothing would tell that space from the world."""
    skeleton, rng = random_rig(seed).skeleton, np.random.default_rng(seed)
    above = {"world": np.eye(4), "armature": LYING, "mesh": np.eye(4)}[convention]
    maker, children = Maker(), [list[int]() for _ in skeleton.names]
    for node, parent in enumerate(skeleton.parents):
        if parent >= 0:
            children[parent].append(node)
    local = skeleton.rest_locals()
    for root in (n for n, p in enumerate(skeleton.parents) if p < 0):
        local[root] = np.linalg.solve(above, local[root])
    binds = skeleton.world(local)  # in the space of the node above
    if posed:
        turns = Rotation.from_rotvec(rng.normal(0, 0.5, (len(local), 3))).as_matrix()
        if convention == "mesh":
            turns[0] = np.eye(3)
        else:
            local[0, :3, 3] += np.linalg.inv(above[:3, :3]) @ [0.1, -0.2, 0.3]
        local[:, :3, :3] = local[:, :3, :3] @ turns
    maker.gltf.nodes = []
    for node, name in enumerate(skeleton.names):
        kept = local[node].T.reshape(-1).tolist()
        maker.node(name=name, matrix=kept, children=children[node])
    mesh = tube(maker, 0.0, (0, 1))
    bound_in = ASIDE if convention == "mesh" else np.eye(4)
    number = skin(maker, list(range(len(binds))), [np.linalg.solve(bound_in, b) for b in binds])
    body = maker.node(name="body", mesh=mesh, skin=number, matrix=bound_in.T.reshape(-1).tolist())
    if convention == "armature":
        roots = [n for n, p in enumerate(skeleton.parents) if p < 0]
        maker.node(name="armature", matrix=LYING.T.reshape(-1).tolist(), children=[*roots, body])
    return maker.save(path)


@pytest.mark.parametrize("convention", ["world", "armature", "mesh"])
@pytest.mark.parametrize("seed", range(6))
def test_a_rig_written_in_a_pose_rests_as_it_was_bound(
    tmp_path: Path, convention: str, seed: int
) -> None:
    bound = read_rig(written(tmp_path / "bound.glb", seed, convention, posed=False))
    posed = read_rig(written(tmp_path / "posed.glb", seed, convention, posed=True))
    assert (bound.rest_from, posed.rest_from) == (None, "skin")
    away = np.abs(bound.skeleton.rest_world - posed.skeleton.rest_world)[..., :3, :]
    assert away.max() < 2e-5
    assert posed.fingerprint == bound.fingerprint
    assert "written in a pose" in posed.notes[0]
    at = posed.evaluate(posed.rest)
    assert np.abs(at.palette - at.palette[0]).max() < 1e-5  # the definition
    own = read_rig(tmp_path / "bound.glb")
    flat = skinned(own.parts[0], own.evaluate(own.rest).palette, own.rest.settings)
    assert np.allclose(skinned(posed.parts[0], at.palette, at.settings), flat, atol=1e-5)


def test_the_pose_it_was_written_in_is_not_lost(tmp_path: Path, marrow: Rig) -> None:
    state = random_state(marrow, 4).with_(
        scale=marrow.rest.scale.copy(), settings=marrow.rest.settings.copy()
    )
    out = tmp_path / "frame_12.glb"
    write_pose(out, marrow, state)
    sidecar_path(out).write_bytes(sidecar_path(MARROW).read_bytes())
    rig = read_rig(out)
    assert rig.fingerprint == marrow.fingerprint
    assert np.abs(rig.skeleton.rest_world - marrow.skeleton.rest_world).max() < 1e-5
    frames = read_performance(out)
    assert len(frames) == 1
    stands = frames.rig.evaluate(frames.states).nodes[0]
    names = {name: node for node, name in enumerate(frames.rig.skeleton.names)}
    wanted = marrow.evaluate(state).nodes
    rows = [r for r in marrow.moving_rows if marrow.controls[r].name in names]
    gaps = [
        np.abs(stands[names[marrow.controls[r].name]] - wanted[marrow.controls[r].node]).max()
        for r in rows
    ]
    assert len(gaps) > 60
    assert max(gaps) < 1e-4


def test_cards_land_on_it_as_on_the_rig_at_rest_whatever_counts_as_rest(
    tmp_path: Path, marrow: Rig
) -> None:
    """The turn that a card gives is a turn from rest; a rest that differs is corrected for."""
    posed = tmp_path / "posed.glb"
    bend = marrow.rest.turn.copy()
    row = marrow.control_row["forearm_L"]
    bend[row] = Rotation.from_euler("x", -70, degrees=True).as_quat()
    write_pose(posed, marrow, marrow.rest.with_(turn=bend))
    plain = tmp_path / "plain.glb"
    plain.write_bytes(MARROW.read_bytes())
    source = read_rig(plain)
    worn_there = source.rest.turn.copy()
    for name, degrees in (("upper_arm_L", 40), ("arm_L", 40), ("forearm_L", -50), ("hand_L", 20)):
        if name in source.control_row:
            turned = Rotation.from_euler("y", degrees, degrees=True).as_quat()
            worn_there[source.control_row[name]] = turned
    wears = source.rest.with_(turn=worn_there)
    rows = [r for r, c in enumerate(source.controls) if c.name.endswith("_L") and c.moves_node]
    card = Card(
        "Bent",
        take(source, wears, ChannelFilter.of(source, rows)),
        character=source.name,
        fingerprint=source.fingerprint,
    )
    wanted = source.evaluate(wears).nodes
    for rest_from in ("skin", "nodes"):
        beside = {"format": "fox-hand rig sidecar", "version": 2, "rest_from": rest_from}
        sidecar_path(posed).write_text(json.dumps(beside))
        rig = read_rig(posed)
        assert rig.rest_from == rest_from
        assert foreign(card, rig) == (rest_from == "nodes")
        old = Card("Bent", card.pose, fingerprint=card.fingerprint.partition(".")[0])
        assert foreign(old, rig) == (rest_from == "nodes")
        actor = Figure(rig, posed)
        state = worn(card_on(card, actor, tmp_path / "Bent.foxcard"), actor, Laid())
        got = rig.evaluate(state).nodes
        node = rig.skeleton.names.index("hand_L")
        gap = angle_between(
            Rotation.from_matrix(got[node, :3, :3]).as_quat(),
            Rotation.from_matrix(wanted[node, :3, :3]).as_quat(),
        )
        assert np.degrees(gap) < 0.5, rest_from


def test_usd_rest_transforms_that_are_a_pose_give_way_to_the_bind_transforms(
    tmp_path: Path,
) -> None:
    stage_with_skin(tmp_path / "bound.usda")
    stage = stage_with_skin(tmp_path / "posed.usda")
    skeleton = UsdSkel.Skeleton(stage.GetPrimAtPath(Sdf.Path("/hero/aside/rig")))
    rest = [np.array(m).T for m in skeleton.GetRestTransformsAttr().Get()]
    for number, turn in enumerate(Rotation.random(len(JOINTS), rng=np.random.default_rng(2))):
        rest[number][:3, :3] = rest[number][:3, :3] @ turn.as_matrix()
    skeleton.GetRestTransformsAttr().Set(Vt.Matrix4dArray([matrix(m) for m in rest]))
    stage.GetRootLayer().Save()
    bound, posed = (read_rig(tmp_path / f"{name}.usda") for name in ("bound", "posed"))
    assert (bound.rest_from, posed.rest_from) == (None, "skin")
    assert np.allclose(bound.skeleton.rest_world, posed.skeleton.rest_world, atol=1e-6)
    filed = posed.as_filed()
    assert filed is not None
    topology = UsdSkel.Topology(skeleton.GetJointsAttr().Get())
    placed = UsdSkel.ConcatJointTransforms(topology, Vt.Matrix4dArray([matrix(m) for m in rest]))
    world = np.array([np.array(m).T for m in placed])
    root = posed.skeleton.rest_world[posed.skeleton.parents.index(-1)]
    mine = posed.evaluate(filed).nodes[posed.moving_nodes]
    assert np.allclose(mine, root @ world, atol=1e-5)


def test_it_is_told_by_rig_inspect_and_the_sidecar_decides(tmp_path: Path) -> None:
    path = written(tmp_path / "hero.glb", 3, "armature", posed=True)
    app = make_app(lambda _: 0)
    said = CliRunner().invoke(app, ["rig", "inspect", str(path)]).output
    assert "The file was written in a pose" in said
    assert 'rest_from: "nodes"' in said
    beside = {"format": "fox-hand rig sidecar", "version": 2, "rest_from": "nodes"}
    sidecar_path(path).write_text(json.dumps(beside))
    assert (
        "Its own stance counts as rest"
        in CliRunner().invoke(app, ["rig", "inspect", str(path)]).output
    )
