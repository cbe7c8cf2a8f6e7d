"""The other side of a card: its pose, its picture, its word."""

from __future__ import annotations

import numpy as np
import pytest

from fox_hand.core.model.body_frame import BodyFrame, vector
from fox_hand.core.model.controls import Channel
from fox_hand.core.pose.pose import Held, Pose
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera
from fox_hand.session.figures.pose_conversion import (
    choice_of,
    mirrored_camera,
    side_after,
    state_of,
)


@pytest.mark.parametrize("angle", [0.0, np.pi, np.pi / 2, 0.7])
def test_the_mirrored_camera_sees_the_mirrored_figure_the_other_way_round(angle: float) -> None:
    ahead = vector(np.array([np.sin(angle), 0.0, np.cos(angle)]))
    body = BodyFrame(ahead=ahead, middle=(0.3, 0.0, -0.2))
    camera = Camera((0.2, 1.3, 0.1), 0.6, 0.3, 2.5, 0.4, 0.25, (0.3, -0.2))
    points = np.random.default_rng(3).normal(0, 0.3, (40, 3)) + [0.2, 1.2, 0.0]
    image = body.reflection
    seen = camera.project(points, 200.0, 200.0)
    found = mirrored_camera(camera, body).project(points @ image[:3, :3].T + image[:3, 3], 200, 200)
    assert found[:, 0] == pytest.approx(200.0 - seen[:, 0], abs=1e-6)
    assert found[:, 1:] == pytest.approx(seen[:, 1:], abs=1e-6)
    again = mirrored_camera(mirrored_camera(camera, body), body)
    assert again.project(points, 200.0, 200.0) == pytest.approx(seen, abs=1e-6)


def test_of_a_pose_what_the_rig_has_is_chosen(marrow: Rig) -> None:
    held = Held(turn=(0.0, 0.6, 0.0, 0.8), settings={"jaw_open": 0.5, "nothing": 1.0})
    pose = Pose({"head": held, "nobody": held, "jaw": Held(move=(0.01, 0.0, 0.0))})
    choice = choice_of(marrow, pose)
    row = marrow.control_row
    assert choice.channels == {
        row["head"]: frozenset({Channel.TURN}),
        row["jaw"]: frozenset({Channel.MOVE}),
    }
    assert choice.settings == frozenset({marrow.setting_row["jaw_open"]})
    state = state_of(marrow, pose)
    assert state.turn[row["head"]].tolist() == pytest.approx([0.0, 0.6, 0.0, 0.8])
    assert state.settings[marrow.setting_row["jaw_open"]] == 0.5
    assert np.array_equal(state.turn[row["neck"]], marrow.rest.turn[row["neck"]])


def test_the_word_for_the_side() -> None:
    assert [side_after(s, both=False) for s in ("left", "right", "both", "centre")] == [
        "right",
        "left",
        "both",
        "centre",
    ]
    assert [side_after(s, both=True) for s in ("left", "right", "both", "centre")] == [
        "both",
        "both",
        "both",
        "centre",
    ]
