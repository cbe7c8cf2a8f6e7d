"""Translation, rotation and scale to matrices and back; poses between rigs."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from fox_hand.core.maths.euler import from_euler
from fox_hand.core.maths.rotations import from_vector
from fox_hand.core.maths.transforms import apply, compose, decompose, undone
from fox_hand.core.model.controls import Channel
from fox_hand.core.model.skeleton import Skeleton
from fox_hand.core.pose.pose import ChannelFilter, bind, take
from fox_hand.core.rig.rig import Rig

vectors = st.tuples(*[st.floats(-3, 3)] * 3).map(np.array)
sizes = st.tuples(*[st.floats(0.05, 20)] * 3).map(np.array)


@given(t=vectors, r=vectors, s=sizes)
def test_trs_comes_back_from_its_matrix(t: np.ndarray, r: np.ndarray, s: np.ndarray) -> None:
    """glTF 2.0, 3.5.3: M = T R S."""
    m = compose(t, from_vector(r), s)
    expected = np.eye(4)
    expected[:3, :3] = Rotation.from_rotvec(r).as_matrix() @ np.diag(s)
    expected[:3, 3] = t
    assert np.allclose(m, expected, atol=1e-9)
    again = compose(*decompose(m))
    assert np.allclose(again, m, atol=1e-7)
    assert np.allclose(apply(m, [1.0, 2.0, 3.0]), (expected @ [1, 2, 3, 1])[:3])


@given(t=vectors, r=vectors, s=sizes)
def test_a_mirrored_matrix_keeps_a_proper_rotation(
    t: np.ndarray, r: np.ndarray, s: np.ndarray
) -> None:
    m = compose(t, from_vector(r), s * [1, -1, 1])
    translation, rotation, scale = decompose(m)
    assert np.allclose(np.linalg.norm(rotation), 1)
    assert np.prod(scale) < 0
    assert np.allclose(compose(translation, rotation, scale), m, atol=1e-7)


def test_a_flattened_axis_is_no_division_by_zero() -> None:
    m = compose(np.zeros(3), from_vector(np.array([0.2, 0.1, 0.4])), np.array([1.0, 0.0, 2.0]))
    translation, rotation, scale = decompose(m)
    assert np.isfinite(rotation).all()
    assert np.allclose(compose(translation, rotation, scale), m, atol=1e-9)


def test_a_skeleton_must_name_parents_first() -> None:
    quarter = np.tile([0, 0, 0, 1.0], (2, 1))
    try:
        Skeleton(("a", "b"), (1, -1), np.zeros((2, 3)), quarter, np.ones((2, 3)))
    except ValueError as error:
        assert "before its parent" in str(error)
    else:
        raise AssertionError("a child before its parent was accepted")


def test_a_card_taken_in_another_euler_order_lands_as_the_same_rotation(marrow: Rig) -> None:
    """Stored rotation kind and order never matter: the quaternion is what counts."""
    row = marrow.control_row["head"]
    angles = np.radians([31.0, -12.0, 55.0])
    turn, euler = marrow.rest.turn.copy(), marrow.rest.euler.copy()
    turn[row], euler[row] = from_euler(angles, "XYZ"), angles
    state = marrow.rest.with_(turn=turn, euler=euler)
    pose = take(marrow, state, ChannelFilter.of(marrow, [row], (Channel.TURN,)))
    held = pose.controls["head"]
    assert held.order == "ZXY"  # as the rig shows it
    assert held.euler is not None
    shown = Rotation.from_euler("ZXY", np.array(held.euler)[[2, 0, 1]])
    assert (shown.inv() * Rotation.from_quat(turn[row])).magnitude() < 1e-9
    bound = bind(pose, marrow)
    assert np.array_equal(bound.turn[0], turn[row])


def test_a_pose_remembers_where_its_controls_stood(marrow: Rig) -> None:
    row = marrow.control_row["forearm_L"]
    held = take(marrow, marrow.rest, ChannelFilter.of(marrow, [row])).controls["forearm_L"]
    assert held.rest is not None
    assert held.rest.parent == "arm_L"
    world = decompose(marrow.skeleton.rest_world[marrow.controls[row].node])
    assert np.allclose(held.rest.world_rotation, world[1])
    holder = marrow.control_row["mouth"]
    pose = take(marrow, marrow.rest, ChannelFilter.of(marrow, [holder]))
    assert set(pose.controls["mouth"].settings) == {
        "jaw_open",
        "mouth_pucker",
        "mouth_round",
        "mouth_press",
        "lip_lower_in",
    }
    assert pose.controls["mouth"].rest is None


@given(t=vectors, r=vectors, s=sizes, flat=st.sampled_from([(0.0, 1, 1), (1, 0.0, 0.0), (0, 0, 0)]))
def test_matrices_are_undone_also_beside_ones_without_a_size(
    t: np.ndarray, r: np.ndarray, s: np.ndarray, flat: tuple[float, float, float]
) -> None:
    """NumPy's inverse, and its pseudo-inverse (Moore-Penrose) where there is none."""
    whole, hidden = (compose(t, from_vector(r), s * size) for size in (np.ones(3), np.array(flat)))
    found = undone(np.stack([whole, hidden]))
    assert np.allclose(found[0], np.linalg.inv(whole), atol=1e-6)
    assert np.allclose(found[1, :3, :3], np.linalg.pinv(hidden[:3, :3]), atol=1e-6)
    assert np.allclose(undone(whole), found[0], atol=1e-12)
