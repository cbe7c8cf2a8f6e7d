"""Mirroring against the reflected mesh: no ready reference exists, so the definition is checked.

A mirrored pose's skinned vertices must be the mirror image of the pose's, whatever the rig's
joint axes are; doing it twice must change nothing.
"""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial import cKDTree

from fox_hand.core.kinematics.skinning import skinned
from fox_hand.core.maths.rotations import Array, from_vector
from fox_hand.core.model.state import State
from fox_hand.core.pose.mirror import mirror
from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.readers import read_rig

CAST = ("marrow", "pim", "quill", "brandle")
seeds = st.integers(0, 10_000)


@pytest.fixture(scope="module")
def cast() -> dict[str, Rig]:
    return {name: read_rig(shipped() / "cast" / f"{name}.glb") for name in CAST}


def wild(rig: Rig, seed: int) -> State:
    """Every kind of channel away from rest, limbs on and off their goals."""
    rng = np.random.default_rng(seed)
    count = len(rig.controls)
    low, high = rig.setting_rules.low, rig.setting_rules.high
    values = rng.uniform(np.maximum(low, -2), np.minimum(high, 2))
    values = np.where(rig.setting_rules.discrete, np.round(values), values)
    for limb in rig.limbs:
        values[limb.blend] = rng.integers(0, 2)
    return rig.rest.with_(
        move=rng.normal(0, 0.03, (count, 3)),
        turn=from_vector(rng.normal(0, 0.4, (count, 3))),
        scale=np.exp(rng.normal(0, 0.05, (count, 1)) * np.ones(3)),
        settings=values,
    )


def mesh(rig: Rig, state: State) -> Array:
    at = rig.evaluate(state)
    return np.concatenate([skinned(p, at.palette, at.settings) for p in rig.parts])


@pytest.mark.parametrize("name", CAST)
@pytest.mark.parametrize("seed", [1, 2])
def test_the_mirrored_mesh_is_the_mirror_image(cast: dict[str, Rig], name: str, seed: int) -> None:
    rig = cast[name]
    state = wild(rig, seed)
    rest = mesh(rig, rig.rest)
    # vertices that have a twin on the other side at rest (hats and hair are not symmetric)
    gap, twin = cKDTree(rest).query(rest * (-1, 1, 1))
    paired = gap < 1e-5 * rig.height
    assert paired.mean() > 0.5
    image = mesh(rig, state)[twin] * (-1, 1, 1)
    far = np.linalg.norm(mesh(rig, mirror(rig, state)) - image, axis=-1)[paired]
    assert np.percentile(far, 99) < 2e-5 * rig.height
    nodes = rig.evaluate(state).nodes[:, :3, 3]
    flipped = rig.evaluate(mirror(rig, state)).nodes[:, :3, 3]
    expected = nodes[rig.mirror_table.partners] * (-1, 1, 1)
    assert np.abs(flipped - expected).max() < 1e-6 * rig.height


@given(seed=seeds)
@settings(max_examples=20)
def test_mirroring_twice_changes_nothing(cast: dict[str, Rig], seed: int) -> None:
    for rig in cast.values():
        state = wild(rig, seed)
        twice = mirror(rig, mirror(rig, state))
        assert np.abs(twice.move - state.move).max() < 1e-6
        assert np.abs(twice.scale - state.scale).max() < 1e-6
        assert np.abs((twice.turn * state.turn).sum(-1)).min() > 1 - 1e-9
        assert np.allclose(twice.settings, state.settings)


def test_one_side_onto_the_other_leaves_the_first_alone(cast: dict[str, Rig]) -> None:
    rig = cast["quill"]
    state = wild(rig, 4)
    onto = [r for r, c in enumerate(rig.controls) if c.name.startswith("Right")]
    after = mirror(rig, state, onto)
    others = [r for r in range(len(rig.controls)) if r not in onto]
    assert after.turn[others].tobytes() == state.turn[others].tobytes()
    assert after.move[others].tobytes() == state.move[others].tobytes()
    whole = mirror(rig, state)
    assert np.allclose(after.turn[onto], whole.turn[onto])
