"""Interpolation against the glTF 2.0 specification's formulas and SciPy."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.interpolate import CubicHermiteSpline, PchipInterpolator
from scipy.spatial.transform import Rotation, Slerp

from fox_hand.core.animation.interpolation import Ease, Track, aligned, smooth_tangents
from fox_hand.core.maths.rotations import angle_between

seeds = st.integers(0, 5000)


def made(seed: int, ease: Ease, *, rotation: bool = False, count: int = 6) -> Track:
    rng = np.random.default_rng(seed)
    frames = np.cumsum(rng.uniform(0.5, 12, count))
    if rotation:
        values = Rotation.from_rotvec(rng.normal(0, 0.7, (count, 3))).as_quat()
        values *= rng.choice([-1.0, 1.0], (count, 1))  # the same rotations, written either way
    else:
        values = rng.normal(0, 1, (count, 3))
    return Track(frames, values, np.full(count, ease, np.uint8), rotation)


def inside(track: Track, seed: int) -> np.ndarray:
    rng = np.random.default_rng(seed)
    return rng.uniform(track.frames[0], track.frames[-1], 40)


@given(seed=seeds)
def test_straight_lines_and_steps(seed: int) -> None:
    track = made(seed, Ease.LINEAR)
    at = inside(track, seed)
    wanted = [np.interp(at, track.frames, track.values[:, i]) for i in range(3)]
    assert np.allclose(track.sample(at).T, wanted, atol=1e-12)
    stepped = Track(track.frames, track.values, np.zeros(6, np.uint8))
    for frame, found in zip(at, stepped.sample(at), strict=True):
        assert np.array_equal(found, track.values[track.frames <= frame][-1])
    ends = track.sample([track.frames[0] - 5, track.frames[-1] + 5])
    assert np.array_equal(ends, track.values[[0, -1]])
    assert np.array_equal(track.sample(track.frames), track.values)


@given(seed=seeds)
def test_rotations_go_as_scipys_slerp_the_shortest_way(seed: int) -> None:
    track = made(seed, Ease.LINEAR, rotation=True)
    at = inside(track, seed)
    wanted = Slerp(track.frames, Rotation.from_quat(track.values))(at).as_quat()
    assert angle_between(track.sample(at), wanted).max() < 1e-6


@given(seed=seeds)
def test_smooth_keys_are_the_hermite_spline_of_their_tangents(seed: int) -> None:
    track = made(seed, Ease.SMOOTH)
    at = inside(track, seed)
    tangents = smooth_tangents(track.frames, track.values)
    wanted = CubicHermiteSpline(track.frames, track.values, tangents)(at)
    assert np.allclose(track.sample(at), wanted, atol=1e-9)
    slopes = PchipInterpolator(track.frames, track.values).derivative()(track.frames)
    assert np.allclose(tangents[1:-1], slopes[1:-1], atol=1e-9)
    for i in range(5):  # between two keys nothing goes beyond them
        found = track.sample(np.linspace(track.frames[i], track.frames[i + 1], 60))
        low, high = track.values[i : i + 2].min(0), track.values[i : i + 2].max(0)
        assert ((found >= low - 1e-9) & (found <= high + 1e-9)).all()


@given(seed=seeds)
def test_imported_tangents_give_gltfs_polynomial(seed: int) -> None:
    """Appendix C.5 of the specification, written out for one segment."""
    rng = np.random.default_rng(seed)
    t0, t1 = 2.0, 2.0 + float(rng.uniform(0.5, 20))
    v, a, b = rng.normal(0, 1, (3, 2, 4))
    v /= np.linalg.norm(v, axis=1, keepdims=True)
    v[1] *= np.sign(v[0] @ v[1])
    track = Track(np.array([t0, t1]), v, np.full(2, Ease.SMOOTH, np.uint8), True, a, b)
    part = float(rng.uniform(0.01, 0.99))
    td, t = t1 - t0, part
    wanted = (
        (2 * t**3 - 3 * t**2 + 1) * v[0]
        + td * (t**3 - 2 * t**2 + t) * b[0]
        + (-2 * t**3 + 3 * t**2) * v[1]
        + td * (t**3 - t**2) * a[1]
    )
    found = track.sample(t0 + part * td)[0]
    assert np.allclose(found, wanted / np.linalg.norm(wanted), atol=1e-9)


@given(seed=seeds)
def test_smooth_rotations_pass_their_keys_without_a_jump(seed: int) -> None:
    track = made(seed, Ease.SMOOTH, rotation=True)
    assert angle_between(track.sample(track.frames), track.values).max() < 1e-9
    near = track.frames[1:-1]
    sides = track.sample(near - 1e-7), track.sample(near + 1e-7)
    assert angle_between(*sides).max() < 1e-5
    fine = track.sample(np.linspace(track.frames[0], track.frames[-1], 2000))
    assert angle_between(fine[1:], fine[:-1]).max() < 0.2
    assert ((aligned(track.values)[1:] * aligned(track.values)[:-1]).sum(-1) >= 0).all()


@given(seed=seeds)
def test_the_sign_in_which_a_turn_is_written_changes_nothing(seed: int) -> None:
    """q and -q are one rotation; the smooth way between them never goes the long way round."""
    track = made(seed, Ease.SMOOTH, rotation=True)
    signs = np.where(np.random.default_rng(seed).random(len(track.values)) < 0.5, -1.0, 1.0)
    signs[1] = -signs[0]
    arrive, leave = track.tangents()
    plain = replace(track, arrive=arrive, leave=leave, values=aligned(track.values))
    turned = [signs[:, None] * values for values in (plain.values, arrive, leave)]
    other = replace(plain, values=turned[0], arrive=turned[1], leave=turned[2])
    at = inside(track, seed)
    assert angle_between(other.sample(at), plain.sample(at)).max() < 1e-9


def test_each_key_has_its_own_ease() -> None:
    eases = np.array([Ease.STEP, Ease.LINEAR, Ease.SMOOTH, Ease.STEP], np.uint8)
    track = Track(np.array([0.0, 10, 20, 30]), np.array([[0.0], [1], [3], [3]]), eases)
    found = track.sample([5, 9.999, 15, 25])[:, 0]
    assert found[:2].tolist() == [0.0, 0.0]
    assert found[2] == pytest.approx(2.0)
    assert found[3] == pytest.approx(3.0)  # a hold does not swing


@pytest.mark.parametrize("frames", [[], [1.0, 1.0], [2.0, 1.0]])
def test_keys_out_of_order_are_refused(frames: list[float]) -> None:
    with pytest.raises(ValueError, match=r"track"):
        Track(np.array(frames), np.zeros((len(frames), 1)), np.zeros(len(frames), np.uint8))


def test_the_middle_of_three_keys_has_the_harmonic_mean_of_both_slopes() -> None:
    frames, values = np.array([0.0, 10.0, 20.0]), np.array([[0.0], [1.0], [4.0]])
    tangents = smooth_tangents(frames, values)
    wanted = PchipInterpolator(frames, values).derivative()(frames)
    assert tangents[1] == pytest.approx(wanted[1]) and tangents[1, 0] == pytest.approx(0.15)
    assert tangents[0] == tangents[2] == 0.0  # flat at the ends
    assert not smooth_tangents(frames[:2], values[:2]).any()
