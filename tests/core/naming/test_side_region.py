"""Sides, regions and partners from names and geometry; the camera."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pxr import Gf

from fox_hand.core.model.controls import Region, Side
from fox_hand.core.naming.side_region import (
    infer_regions,
    infer_sides,
    partner_name,
    region_from_name,
    side_from_name,
)
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera


@pytest.mark.parametrize(
    ("name", "side", "region", "partner"),
    [
        ("finger_index_1_L", Side.LEFT, Region.HANDS, "finger_index_1_R"),
        ("LeftHandThumb2", Side.LEFT, Region.HANDS, "RightHandThumb2"),
        ("r_forearm", Side.RIGHT, Region.ARMS, "l_forearm"),
        ("hero:upperarm.R", Side.RIGHT, Region.ARMS, "hero:upperarm.L"),
        ("calf_l", Side.LEFT, Region.LEGS, "calf_r"),
        ("Ctrl.Eyelid.Rt", Side.RIGHT, Region.EYES, "Ctrl.Eyelid.Lt"),
        ("J_Bip_L_Foot", Side.LEFT, Region.LEGS, "J_Bip_R_Foot"),
        ("lowerJaw", None, Region.MOUTH, None),
        ("spine_02", None, Region.TORSO, None),
        ("Collar", None, Region.ARMS, None),
        ("ctlfootbone", None, Region.LEGS, None),
    ],
)
def test_sides_regions_and_partners_come_from_common_names(
    name: str, side: Side | None, region: Region, partner: str | None
) -> None:
    """Common practice, no source."""
    assert side_from_name(name) is side
    assert region_from_name(name) is region
    known = frozenset({name, partner} if partner else {name})
    assert partner_name(name, known) == partner


def test_names_without_a_side_are_placed_by_where_they_stand() -> None:
    places = np.array([[0.4, 1, 0], [-0.4, 1, 0], [0.001, 1, 0], [-0.3, 1, 0]])
    sides, notes = infer_sides(["b1", "b2", "b3", "arm_L"], places, 1.7)
    assert sides == [Side.LEFT, Side.RIGHT, Side.CENTRE, Side.LEFT]
    assert notes == ["arm_L is left by its name but stands on the right."]


def test_names_that_say_nothing_lie_where_they_stand() -> None:
    """Head above, legs below, hands far out; what hangs on a hand or a leg belongs to it."""
    places = np.array(
        [
            *([0, 1.0, 0.3], [0, 1.75, 0.1], [0.1, 0.6, 0.2], [0.8, 1.4, 0.0], [0.45, 1.4, 0.0]),
            *([0.12, 0.0, 0.4], [0.83, 1.35, 0.3]),
        ]
    )
    names = ["hips", "b1", "thigh_L", "hand_L", "b4", "b5", "b6"]
    found = infer_regions(names, [-1, 0, 0, 4, 0, 2, 3], places)
    assert found == [
        *(Region.TORSO, Region.HEAD, Region.LEGS, Region.HANDS, Region.ARMS, Region.LEGS),
        Region.HANDS,
    ]


def test_marrows_pairs_are_complete(marrow: Rig) -> None:
    for control in marrow.controls:
        if control.side is Side.CENTRE:
            assert control.partner == control.name
        else:
            assert control.partner is not None
            other = marrow.controls[marrow.control_row[control.partner]]
            assert other.partner == control.name
            assert other.side is control.side.other


cameras = st.builds(
    Camera,
    target=st.tuples(*[st.floats(-2, 2)] * 3),
    yaw=st.floats(-3, 3),
    pitch=st.floats(-1.4, 1.4),
    distance=st.floats(0.3, 30),
)


@given(camera=cameras, seed=st.integers(0, 1000))
def test_points_are_seen_where_usds_camera_sees_them(camera: Camera, seed: int) -> None:
    """Gf.Frustum of usd-core: another projection of the same points."""
    frustum = Gf.Frustum()
    frustum.SetPerspective(float(np.degrees(camera.fov)), True, 800 / 600, 0.01, 1000)
    view = Gf.Matrix4d(1).SetLookAt(
        Gf.Vec3d(*camera.eye), Gf.Vec3d(*camera.target), Gf.Vec3d(0, 1, 0)
    )
    both = np.array(view * frustum.ComputeProjectionMatrix()).T  # USD writes row vectors
    points = np.random.default_rng(seed).normal(0, 0.5, (20, 3))
    clip = np.c_[points, np.ones(20)] @ both.T
    front = clip[:, 3] > 0.05
    expected = (clip[front, :2] / clip[front, 3:] * [1, -1] + 1) / 2 * [800, 600]
    assert np.allclose(camera.project(points, 800, 600)[front, :2], expected, atol=1e-4)


@given(camera=cameras, seed=st.integers(0, 1000))
def test_framing_brings_every_point_into_the_picture_and_no_farther(
    camera: Camera, seed: int
) -> None:
    points = np.random.default_rng(seed).normal(0, 0.4, (30, 3))
    framed = camera.framing(points, 4 / 3, 1.0)
    seen = framed.project(points, 800, 600)
    off = np.abs(seen[:, :2] - [400, 300]) / [400, 300]
    assert off.max() <= 1 + 1e-6
    assert off.max() > 0.8


@given(camera=cameras, x=st.floats(100, 700), y=st.floats(100, 500), side=st.floats(40, 200))
def test_a_cut_out_shows_exactly_its_square(
    camera: Camera, x: float, y: float, side: float
) -> None:
    """The picture of a card is what its frame on the stage showed, pixel for pixel."""
    cut = camera.cut_out(x, y, side, 800, 600)
    points = np.random.default_rng(1).normal(0, 1, (20, 3))
    points = points[camera.project(points, 800, 600)[:, 2] > 0.1]
    large = camera.project(points, 800, 600)
    small = cut.project(points, side, side)
    assert np.allclose(small[:, :2], large[:, :2] - [x - side / 2, y - side / 2], atol=1e-4)
