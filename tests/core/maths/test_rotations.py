"""Rotations against scipy.spatial.transform, an independent implementation."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.linalg import expm, logm
from scipy.spatial.transform import Rotation, Slerp

from fox_hand.core.maths import euler as e
from fox_hand.core.maths import rotations as r

angles = st.floats(-7, 7, allow_nan=False)
triples = st.tuples(angles, angles, angles).map(np.array)
small = st.tuples(*[st.floats(-1.5, 1.5)] * 3).map(np.array)


def same(q: np.ndarray, reference: Rotation, within: float = 1e-9) -> None:
    assert np.max(r.angle_between(q, reference.as_quat())) < within


@pytest.mark.parametrize("order", e.EULER_ORDERS)
@given(triple=triples)
def test_euler_turns_are_scipys_intrinsic_ones(order: e.EulerOrder, triple: np.ndarray) -> None:
    listed = ["XYZ".index(c) for c in order]
    same(e.from_euler(triple, order), Rotation.from_euler(order, triple[listed]), 1e-7)


@given(rows=st.lists(st.tuples(triples, st.sampled_from(e.EULER_ORDERS)), min_size=1))
def test_rows_of_several_orders_go_together_as_each_alone(
    rows: list[tuple[np.ndarray, e.EulerOrder]],
) -> None:
    given_, orders = np.array([triple for triple, _ in rows]), [order for _, order in rows]
    axes = e.axes_of(orders)
    turns = e.from_euler(given_, axes)
    shown = e.to_euler_near(turns, axes, given_)
    for n, (triple, order) in enumerate(rows):
        listed = ["XYZ".index(c) for c in order]
        same(turns[n], Rotation.from_euler(order, triple[listed]), 1e-7)
        same(turns[n], Rotation.from_euler(order, shown[n, listed]), 1e-6)
        assert np.array_equal(shown[n], e.to_euler_near(turns[n], order, triple))


@pytest.mark.parametrize("order", e.EULER_ORDERS)
@given(triple=triples)
def test_a_typed_euler_triple_is_shown_again(order: e.EulerOrder, triple: np.ndarray) -> None:
    q = e.from_euler(triple, order)
    plain = e.to_euler(q, order)  # no further about than half a turn, the middle one a quarter
    assert np.abs(plain).max() <= np.pi + 1e-9
    assert abs(plain["XYZ".index(order[1])]) <= np.pi / 2 + 1e-9
    assert np.max(r.angle_between(e.from_euler(plain, order), q)) < 1e-6
    shown = e.to_euler_near(q, order, triple)
    assert np.max(r.angle_between(e.from_euler(shown, order), q)) < 1e-6
    middle = triple["XYZ".index(order[1])]
    if abs(np.cos(middle)) > 0.05:  # away from gimbal lock the very same numbers come back
        assert np.allclose(shown, triple, atol=1e-6)


def test_gimbal_lock_still_gives_the_same_rotation() -> None:
    for order in e.EULER_ORDERS:
        for middle in (np.pi / 2, -np.pi / 2):
            triple = np.array([0.4, 0.4, 0.4])
            triple["XYZ".index(order[1])] = middle
            q = e.from_euler(triple, order)
            assert np.max(r.angle_between(e.from_euler(e.to_euler(q, order), order), q)) < 1e-6


@given(a=triples, b=triples)
def test_products_vectors_and_matrices_agree_with_scipy(a: np.ndarray, b: np.ndarray) -> None:
    ra, rb = Rotation.from_rotvec(a), Rotation.from_rotvec(b)
    qa, qb = r.from_vector(a), r.from_vector(b)
    same(r.multiply(qa, qb), ra * rb, 1e-7)
    same(r.inverse(qa), ra.inv(), 1e-7)
    assert np.allclose(r.rotate(qa, b), ra.apply(b), atol=1e-9)
    assert np.allclose(r.to_matrix(qa), ra.as_matrix(), atol=1e-12)
    same(r.from_matrix(ra.as_matrix()), ra, 1e-7)


@pytest.mark.parametrize("shape", [(), (3,), (2, 3)])
def test_a_product_is_that_of_the_left_one_as_a_matrix(shape: tuple[int, ...]) -> None:
    rng = np.random.default_rng(4)
    a, b = (r.normalise(rng.normal(size=(*shape, 4))) for _ in range(2))
    as_matrix = (r.left(a) @ b[..., None])[..., 0]
    assert as_matrix == pytest.approx(r.multiply(a, b), abs=1e-12)
    assert (r.left(a).swapaxes(-1, -2) @ as_matrix[..., None])[..., 0] == pytest.approx(b)


@given(a=triples, b=triples, amount=st.floats(0, 1))
def test_between_is_scipys_slerp_from_0_to_1(a: np.ndarray, b: np.ndarray, amount: float) -> None:
    ends = Rotation.from_rotvec([a, b])
    if (ends[0].inv() * ends[1]).magnitude() > np.pi - 1e-3:
        return  # opposite: every way round is a shortest one
    expected = Slerp([0, 1], ends)(amount)
    same(r.between(r.from_vector(a), r.from_vector(b), amount), expected, 1e-6)


@given(a=small, b=small, amount=st.floats(-0.5, 1.5))
def test_between_past_the_ends_is_the_matrix_power(
    a: np.ndarray, b: np.ndarray, amount: float
) -> None:
    """SciPy's Slerp refuses times outside 0...1; the logarithm of matrices does not."""
    m0, m1 = (Rotation.from_rotvec(v).as_matrix() for v in (a, b))
    step = m0.T @ m1
    if Rotation.from_matrix(step).magnitude() > 2.9:
        return
    expected = m0 @ expm(amount * np.real(logm(step)))
    got = r.to_matrix(r.between(r.from_vector(a), r.from_vector(b), amount))
    assert np.allclose(got, expected, atol=1e-6)
