"""The camera turned, moved and brought nearer by hand."""

from __future__ import annotations

import numpy as np
import pytest

from fox_hand.core.view.camera import Camera


def test_orbiting_keeps_target_and_distance_and_stops_short_of_the_poles() -> None:
    camera = Camera(yaw=0.3, pitch=0.2)
    turned = camera.orbit(0.5, -0.4)
    assert (turned.yaw, turned.pitch) == pytest.approx((0.8, -0.2))
    assert (turned.target, turned.distance) == (camera.target, camera.distance)
    assert camera.orbit(0.0, 9.0).pitch == pytest.approx(np.radians(88))
    assert camera.orbit(0.0, -9.0).pitch == pytest.approx(np.radians(-88))


@pytest.mark.parametrize("yaw", [0.0, 1.1])
def test_panning_carries_what_is_under_the_pointer_along(yaw: float) -> None:
    """A pull by some pixels moves the target's picture by as many."""
    camera = Camera(yaw=yaw, pitch=0.3)
    moved = camera.pan(40.0, -25.0, 480.0)
    before = camera.project(np.array([camera.target]), 640, 480)[0]
    after = moved.project(np.array([camera.target]), 640, 480)[0]
    assert after[:2] - before[:2] == pytest.approx([40.0, -25.0], abs=1e-6)
    assert moved.distance == camera.distance


def test_a_pixel_is_as_large_as_its_depth_makes_it() -> None:
    camera = Camera()
    size = camera.metres_per_pixel(400.0)
    right = camera.view()[0, :3]
    places = np.array([camera.target, np.array(camera.target) + right * size])
    seen = camera.project(places, 400.0, 400.0)
    assert seen[1, 0] - seen[0, 0] == pytest.approx(1.0, rel=1e-6)
    assert camera.metres_per_pixel(400.0, 2 * camera.distance) == pytest.approx(2 * size)
    assert camera.metres_per_pixel(800.0) == pytest.approx(size / 2)


def test_zooming_keeps_within_its_limits() -> None:
    camera = Camera(distance=2.0)
    assert camera.zoom(0.5).distance == 1.0 and camera.zoom(2.0).distance == 4.0
    assert camera.zoom(1e-9).distance == 0.05 and camera.zoom(1e9).distance == 100.0
    assert camera.zoom(0.1, smallest=1.5).distance == 1.5
