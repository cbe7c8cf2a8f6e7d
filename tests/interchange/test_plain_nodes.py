"""Nodes that are no joints: faces without a skeleton, props that move, what is called a control."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pygltflib as gl
import pytest
from scipy.interpolate import CubicHermiteSpline

from fox_hand.core.model.controls import Region, Side
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.motions import read_performance
from fox_hand.interchange.readers import read_rig
from tests.glb import Maker, at, skin, tube

TIMES = np.array([0.0, 0.5, 1.25], np.float32)


def plain_mesh(maker: Maker, *targets: str) -> int:
    mesh = tube(maker, 0, (0, 0))
    primitive = maker.gltf.meshes[mesh].primitives[0]
    primitive.attributes.JOINTS_0 = primitive.attributes.WEIGHTS_0 = None
    if targets:
        offsets = [np.full((20, 3), 0.1 * (i + 1), np.float32) for i in range(len(targets))]
        primitive.targets = [gl.Attributes(POSITION=maker.accessor(o)) for o in offsets]
        maker.gltf.meshes[mesh].extras = {"targetNames": list(targets)}
    return mesh


def animate(maker: Maker, node: int, kind: str, values: np.ndarray, way: str = "LINEAR") -> None:
    when = maker.accessor(TIMES)
    maker.gltf.accessors[when].min, maker.gltf.accessors[when].max = [0.0], [1.25]
    sampler = gl.AnimationSampler(
        input=when, output=maker.accessor(values.astype(np.float32)), interpolation=way
    )
    channel = gl.AnimationChannel(sampler=0, target=gl.AnimationChannelTarget(node=node, path=kind))
    maker.gltf.animations.append(gl.Animation(name=kind, samplers=[sampler], channels=[channel]))


def moves() -> np.ndarray:
    return np.array([[0, 0, 0], [1, 0, 0], [1, 2, 0]])


def names(rig: Rig) -> list[str]:
    return [c.name for c in rig.controls]


def test_a_face_of_shapes_alone_is_a_rig_and_its_splines_are_splines(tmp_path: Path) -> None:
    maker = Maker()
    face = maker.node(name="Face", mesh=plain_mesh(maker, "smile", "jawOpen"))
    table = np.random.default_rng(2).normal(0, 1, (len(TIMES), 3, 2))  # arrive, value, leave
    animate(maker, face, "weights", table.ravel(), "CUBICSPLINE")
    path = maker.save(tmp_path / "face.glb")
    rig = read_rig(path)
    assert names(rig)[0] == "Face" and [s.name for s in rig.settings] == ["smile", "jawOpen"]
    assert rig.controls[0].region is Region.HEAD and len(rig.parts) == 1
    found = read_performance(path, 24.0)
    # glTF 2.0, appendix C.5: Hermite splines, of weights too
    seconds = np.arange(len(found)) / 24.0
    for first, last in ((0, 1), (1, 2)):
        inside = (seconds >= TIMES[first]) & (seconds <= TIMES[last])
        for shape in range(2):
            ends = [table[first, 1, shape], table[last, 1, shape]]
            slopes = [table[first, 2, shape], table[last, 0, shape]]
            spline = CubicHermiteSpline(TIMES[[first, last]], ends, slopes)
            seen = found.states.settings[inside, shape]
            assert inside.sum() > 5
            assert seen == pytest.approx(spline(seconds[inside]), abs=1e-5)


def test_what_moves_does_not_hide_what_stands_beside_it(tmp_path: Path) -> None:
    maker = Maker()
    body = maker.node(name="body", mesh=plain_mesh(maker))
    lamp = maker.node(name="lamp", mesh=plain_mesh(maker))
    maker.node(name="robot", children=[body, lamp])
    face = maker.node(name="mask", mesh=plain_mesh(maker, "grin"))
    ground = maker.node(name="ground", mesh=plain_mesh(maker))
    animate(maker, lamp, "translation", moves())
    rig = read_rig(maker.save(tmp_path / "robot.glb"))
    assert {"body", "lamp", "mask"} <= set(names(rig)) and "ground" not in names(rig)
    assert {p.name for p in rig.parts} == {"body", "lamp", "mask"}
    assert [s.name for s in rig.settings] == ["grin"]
    assert (face, ground) == (3, 4)


def skinned(maker: Maker) -> tuple[int, int]:
    hand = maker.node(name="hand_L", translation=[0.0, 1.0, 0.0])
    arm = maker.node(name="arm_L", children=[hand])
    bound = skin(maker, [arm, hand], [at(0, 0, 0), at(0, 1, 0)])
    maker.node(name="sleeve", mesh=tube(maker, 0, (0, 1)), skin=bound)
    return arm, hand


def test_props_that_move_and_what_is_called_a_control_are_controls(tmp_path: Path) -> None:
    maker = Maker()
    arm, hand = skinned(maker)
    left = maker.node(name="hand_L_ctrl", translation=[0.3, 1.0, 0.0])
    right = maker.node(name="handCtrl.R", translation=[-0.3, 1.0, 0.0])
    cup = maker.node(name="cup", mesh=plain_mesh(maker))
    still = maker.node(name="table", mesh=plain_mesh(maker))
    maker.node(name="Armature", children=[arm])
    animate(maker, cup, "translation", moves())
    path = maker.save(tmp_path / "props.glb")
    rig = read_rig(path)
    assert set(names(rig)) == {"arm_L", "hand_L", "hand_L_ctrl", "handCtrl.R", "cup"}
    assert {p.name for p in rig.parts} == {"sleeve", "cup"}  # the table is scenery
    by_name = {c.name: c for c in rig.controls}
    assert by_name["hand_L_ctrl"].side is Side.LEFT and by_name["handCtrl.R"].side is Side.RIGHT
    assert by_name["hand_L_ctrl"].region is Region.HANDS
    # what moves a hand from outside is not the hand
    assert by_name["hand_L_ctrl"].role is None and by_name["cup"].role is None
    assert by_name["cup"].partner == "cup" and by_name["cup"].side is Side.CENTRE
    rows = [c.node for c in rig.controls]
    assert rows == sorted(rows)
    assert (hand, left, right, still) == (0, 3, 4, 6)
    found = read_performance(path)
    cup_at = rig.evaluate(found.states).nodes[:, by_name["cup"].node, :3, 3]
    assert cup_at[0] == pytest.approx([0, 0, 0]) and cup_at[-1] == pytest.approx([1, 2, 0])


def test_what_joints_hang_on_stays_theirs_unless_it_is_called_a_control(tmp_path: Path) -> None:
    for name, wanted in (("Armature", False), ("main_control", True)):
        maker = Maker()
        arm, _ = skinned(maker)
        above = maker.node(name=name, children=[arm])
        animate(maker, above, "translation", moves())
        path = maker.save(tmp_path / f"{name}.glb")
        found = read_performance(path)
        assert (name in names(found.rig)) is wanted
        nodes = found.rig.evaluate(found.states).nodes
        arm_at = nodes[:, found.rig.skeleton.names.index("arm_L"), :3, 3]
        assert arm_at[-1] - arm_at[0] == pytest.approx([1, 2, 0], abs=1e-6)
