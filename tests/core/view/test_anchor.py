"""Cameras that go with a part of the body, against what they see."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.anchor import Anchor, anchor_row
from fox_hand.core.view.camera import Camera
from tests.core.pose.test_blend import random_state

angles = st.floats(-3.0, 3.0)


def moved_by(way: np.ndarray, points: np.ndarray) -> np.ndarray:
    return np.asarray(points @ way[:3, :3].T + way[:3, 3])


@given(angles, st.floats(-1.4, 1.4), angles, angles, angles)
def test_a_moved_camera_sees_a_moved_thing_as_before(
    yaw: float, pitch: float, roll: float, turn: float, tilt: float
) -> None:
    camera = Camera((0.2, 1.1, -0.3), yaw, pitch, 0.9, 0.3, roll, (0.4, -0.2))
    way = np.eye(4)
    way[:3, :3] = Rotation.from_euler("yxz", (turn, tilt, 0.4)).as_matrix()
    way[:3, 3] = 0.3, -0.8, 1.2
    points = np.random.default_rng(2).normal((0.2, 1.1, -0.3), 0.1, (20, 3))
    before = camera.project(points, 300, 300)
    after = camera.moved(way).project(moved_by(way, points), 300, 300)
    np.testing.assert_allclose(after, before, atol=1e-5)


def test_the_way_back_brings_a_hand_to_where_it_was(marrow: Rig) -> None:
    rng = np.random.default_rng(5)
    sizes = marrow.rest.scale  # uneven sizes shear what hangs below, which is then no turn
    states = [random_state(marrow, rng).with_(scale=sizes.copy()) for _ in range(2)]
    then, now = (marrow.evaluate(state).nodes for state in states)
    row = marrow.control_row["hand_L"]
    node = marrow.controls[row].node
    anchor = Anchor.of(marrow, then, row)
    back = anchor.way_back(marrow, now) @ now[node]
    np.testing.assert_allclose(back[:3, 3], then[node, :3, 3], atol=1e-9)
    turned = Rotation.from_matrix(_turn(back)) * Rotation.from_matrix(_turn(then[node])).inv()
    assert turned.magnitude() < 1e-6


def _turn(matrix: np.ndarray) -> np.ndarray:
    return np.asarray(matrix[:3, :3] / np.linalg.norm(matrix[:3, :3], axis=0))


def test_what_carries_some_joints_is_found_on_their_common_way(marrow: Rig) -> None:
    def carries(*names: str) -> str | None:
        row = anchor_row(marrow, [marrow.controls[marrow.control_row[n]].node for n in names])
        return None if row is None else marrow.controls[row].name

    assert carries("finger_index_2_L", "finger_thumb_1_L") == "hand_L"
    assert carries("finger_index_2_L") == "finger_index_2_L"
    assert carries("hand_L", "arm_L") == "arm_L"
    assert carries("eye_L", "jaw") == "head"
    assert carries() is None


def test_mirroring_an_anchor_twice_changes_nothing(marrow: Rig) -> None:
    nodes = marrow.evaluate(random_state(marrow, np.random.default_rng(3))).nodes
    anchor = Anchor.of(marrow, nodes, marrow.control_row["hand_L"])
    other = anchor.mirrored("hand_R")
    assert other.at[0] == -anchor.at[0]
    assert other.mirrored("hand_L") == anchor
