"""Blending, mixing, mirroring and carrying over on rigs of any shape, axes, orders and sizes."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from fox_hand.core.maths.rotations import angle_between, inverse, multiply, rotate, to_matrix
from fox_hand.core.model.skeleton import Skeleton
from fox_hand.core.model.state import State
from fox_hand.core.pose.additive import layer
from fox_hand.core.pose.blend import blend
from fox_hand.core.pose.mirror import mirror
from fox_hand.core.pose.pose import ChannelFilter, bind, take
from fox_hand.core.pose.sides import Sides, sided
from fox_hand.core.pose.weighted_blend import mix
from fox_hand.core.retarget.retarget import FitOptions, fit
from fox_hand.core.rig.rig import Rig
from tests.random_rig import places_of, posed, random_rig

seeds = st.integers(0, 5000)
FLIP = np.array([-1.0, 1.0, 1.0])


def whole(rig: Rig, state: State):
    return take(rig, state, ChannelFilter.of(rig, range(len(rig.controls))))


def other_orders(rig: Rig) -> Rig:
    """The same rig whose controls are shown in other Euler orders."""
    turned = {"XYZ": "ZYX", "XZY": "YXZ", "YXZ": "ZXY", "YZX": "XYZ", "ZXY": "XZY", "ZYX": "YZX"}
    return replace(rig, controls=tuple(replace(c, order=turned[c.order]) for c in rig.controls))


@given(seed=seeds, scaled=st.booleans())
def test_a_pose_is_what_was_captured_whatever_the_orders_are(seed: int, scaled: bool) -> None:
    rig = random_rig(seed, scaled=scaled)
    state = posed(rig, seed)
    other = other_orders(rig)
    found = blend(other.rest, bind(whole(rig, state), other), 1.0, other.setting_rules)
    assert np.array_equal(found.turn, state.turn)
    assert np.array_equal(places_of(rig, state), places_of(other, found))
    assert np.array_equal(found.settings, state.settings)


@given(seed=seeds, amount=st.floats(-0.5, 1.5), scaled=st.booleans())
def test_blending_starts_and_ends_exactly_and_never_drifts(
    seed: int, amount: float, scaled: bool
) -> None:
    rig = random_rig(seed, scaled=scaled)
    before, pose = posed(rig, seed), bind(whole(rig, posed(rig, seed + 1)), rig)
    rules, holders = rig.setting_rules, np.zeros(2, dtype=np.intp)
    even = np.full((1, len(rig.controls)), amount)
    once = mix(before, [pose], even, rules, holders)
    assert once.same_bits(blend(before, pose, amount, rules))
    assert blend(before, pose, 0.0, rules) is before
    whole_angle = angle_between(before.turn, pose.turn)
    part = angle_between(before.turn, once.turn)
    small = whole_angle * max(abs(amount), 1) < 3.1  # beyond half a turn angles come back
    assert np.allclose(part[small], (abs(amount) * whole_angle)[small], atol=1e-6)
    laid = layer(before, pose, before, amount, rules)  # measured from the figure itself: the same
    assert np.allclose(laid.move, once.move, atol=1e-12)
    assert angle_between(laid.turn, once.turn).max() < 1e-6


@given(seed=seeds)
def test_mirroring_reflects_every_joint_whatever_the_axes_are(seed: int) -> None:
    rig = random_rig(seed)
    state = posed(rig, seed)
    mirrored = mirror(rig, state)
    partner = [rig.control_row[c.partner] for c in rig.controls]
    there, here = places_of(rig, state), places_of(rig, mirrored)
    assert np.abs(here[partner] - there * FLIP).max() < 1e-9
    again = mirror(rig, mirrored)
    assert np.abs(places_of(rig, again) - there).max() < 1e-9
    assert angle_between(again.turn, state.turn).max() < 1e-6
    pose = bind(whole(rig, state), rig)
    other = blend(rig.rest, sided(rig, pose, Sides.OTHER), 1.0, rig.setting_rules)
    assert np.abs(places_of(rig, other)[partner] - there * FLIP).max() < 1e-9


def with_axes(rig: Rig, seed: int) -> Rig:
    """The same joints at the same places with other axes."""
    rng = np.random.default_rng(seed)
    old, count = rig.skeleton, len(rig.skeleton)
    extra = rng.normal(0, 1, (count, 4))
    extra /= np.linalg.norm(extra, axis=1, keepdims=True)
    translation, rotation = old.translation.copy(), old.rotation.copy()
    for node, parent in enumerate(old.parents):
        above = extra[parent] if parent >= 0 else np.array([0.0, 0.0, 0.0, 1.0])
        translation[node] = rotate(inverse(above), old.translation[node])
        rotation[node] = multiply(inverse(above), multiply(old.rotation[node], extra[node]))
    return replace(rig, skeleton=Skeleton(old.names, old.parents, translation, rotation, old.scale))


@given(seed=seeds, axes=seeds)
def test_a_rig_with_other_axes_stands_at_the_same_places(seed: int, axes: int) -> None:
    rig = random_rig(seed)
    other = with_axes(rig, axes)
    state = posed(rig, seed)
    pose = whole(rig, state)
    names = {name: name for name in pose.controls}
    settings = {s.name: (s.name,) for s in rig.settings}
    found = fit(pose, other, names, settings, FitOptions())
    assert np.abs(places_of(rig, state) - places_of(other, found.state)).max() < 1e-9
    mine = rig.evaluate(state).nodes[:, :3, :3]
    theirs = other.evaluate(found.state).nodes[:, :3, :3]
    rests = (to_matrix(r.skeleton.rest_turns).swapaxes(-1, -2) for r in (rig, other))
    turned = [now @ rest for now, rest in zip((mine, theirs), rests, strict=True)]
    assert np.abs(turned[0] - turned[1]).max() < 1e-9  # every joint has turned alike
    assert np.array_equal(found.state.settings, state.settings)
