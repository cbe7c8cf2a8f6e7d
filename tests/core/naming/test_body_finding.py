"""Which way a figure stands, and mirroring across its own plane wherever that is."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from fox_hand.core.maths.rotations import angle_between
from fox_hand.core.model.controls import Region, Side
from fox_hand.core.model.state import State
from fox_hand.core.pose.mirror import mirror
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.joint_controls import joint_controls
from tests.bodies import Build, Placed, body_rig, skeleton_of
from tests.core.naming.test_roles import FAMILIES

NAMES = FAMILIES["thigh and calf"]


def wild(rig: Rig, seed: int) -> State:
    rng = np.random.default_rng(seed)
    count = len(rig.controls)
    turns = Rotation.from_rotvec(rng.normal(0, 0.5, (count, 3))).as_quat()
    return rig.rest.with_(turn=turns, move=rng.normal(0, 0.02, (count, 3)))


@pytest.mark.parametrize("yaw", [0.0, 90.0, 180.0, -90.0, 37.0])
@pytest.mark.parametrize("at", [(0.0, 0.0, 0.0), (2.5, 0.3, -1.0)])
def test_facing_sides_and_regions_are_the_figures_own(
    yaw: float, at: tuple[float, float, float]
) -> None:
    rig = body_rig(Build(), NAMES, Placed(yaw, at, axes=5))
    turn = Rotation.from_euler("y", yaw, degrees=True)
    assert np.allclose(rig.body.ahead, turn.apply([0, 0, 1]), atol=1e-6)
    assert rig.body.up == (0.0, 1.0, 0.0)
    for control in rig.controls:
        wanted = {"_l": Side.LEFT, "_r": Side.RIGHT}.get(control.name[-2:], Side.CENTRE)
        assert control.side is wanted, control.name
    plain = body_rig(Build(), NAMES)
    assert [c.region for c in rig.controls] == [c.region for c in plain.controls]
    hands = {c.name for c in rig.controls if c.region is Region.HANDS}
    assert {"hand_l", "hand_r", "index_01_l"} <= hands


@given(
    seed=st.integers(0, 500),
    yaw=st.floats(-180, 180),
    scale=st.sampled_from([0.01, 1.0, 30.0]),
    flips=st.booleans(),
)
def test_a_mirrored_body_is_the_mirror_image_wherever_it_stands(
    seed: int, yaw: float, scale: float, flips: bool
) -> None:
    rng = np.random.default_rng(seed)
    place = tuple(rng.uniform(-3, 3, 3).tolist())
    rig = body_rig(Build(), NAMES, Placed(yaw, place, scale, axes=seed, flips=flips))
    state = wild(rig, seed)
    mirrored = mirror(rig, state)
    there, here = (rig.evaluate(s).nodes[:, :3, 3] for s in (state, mirrored))
    row = {c.name: i for i, c in enumerate(rig.controls)}
    partner = [row[c.partner or c.name] for c in rig.controls]
    # reflected by hand: across the plane through the figure's place, at right angles to its left
    left = Rotation.from_euler("y", yaw, degrees=True).apply([1, 0, 0])
    image = there - 2 * ((there - place) @ left)[:, None] * left
    assert np.abs(here - image[partner]).max() < 1e-5 * 1.7
    twice = mirror(rig, mirrored)
    assert angle_between(twice.turn, state.turn).max() < 1e-6
    assert np.abs(twice.move - state.move).max() < 1e-8


def test_a_figure_lying_along_another_axis_is_found_so() -> None:
    rig = body_rig(Build(), NAMES)
    for turn, up in (("x", (0.0, 0.0, 1.0)), ("z", (-1.0, 0.0, 0.0))):
        lying = Rotation.from_euler(turn, 90, degrees=True)
        places = lying.apply(rig.skeleton.rest_world[:, :3, 3])
        found = joint_controls(skeleton_of(rig.skeleton, places), range(len(places))).body
        assert np.allclose(found.up, up, atol=1e-9)
        assert np.allclose(found.ahead, lying.apply([0, 0, 1]), atol=1e-6)
