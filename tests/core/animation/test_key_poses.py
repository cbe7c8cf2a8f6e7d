"""Key poses of a performance, what differs between poses, turned pictures, names by a pattern."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.core.animation.key_poses import held_frames, joint_speeds, key_poses
from fox_hand.core.maths.rotations import about_axis
from fox_hand.core.model.state import State
from fox_hand.core.pose.difference import difference
from fox_hand.core.pose.pose import Held, Pose
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera
from fox_hand.library.index.picture_cache import PictureCache
from fox_hand.session.capturing.batch import named_by


def swinging(rig: Rig, angles: np.ndarray) -> State:
    """The chest turned by an angle at each frame."""
    rest, count = rig.rest, len(angles)
    many = [np.broadcast_to(v, (count, *v.shape)).copy() for v in rest.arrays()]
    row = rig.control_row["chest"]
    many[1][:, row] = [about_axis((1, 0, 0), float(a)) for a in angles]
    return State(*many)


def test_key_poses_lie_where_a_swing_turns_back(marrow: Rig) -> None:
    """A cosine stands still at its ends: every half period, and nowhere else."""
    frames = np.arange(121)
    states = swinging(marrow, 0.5 * np.cos(frames * np.pi / 30))
    speed = joint_speeds(marrow, states)
    assert key_poses(speed, apart=6) == (0, 30, 60, 90, 120)
    assert key_poses(speed, apart=31) in ((0, 60, 120), (0, 60, 90), (30, 90), (0, 60))
    assert key_poses(np.zeros(0)) == ()


def test_a_pose_that_is_held_is_found_once_in_its_middle(marrow: Rig) -> None:
    ease = np.linspace(0, 1, 11)
    angles = np.concatenate([ease, np.ones(20), 1 - ease, np.zeros(9)])
    found = key_poses(joint_speeds(marrow, swinging(marrow, angles)), apart=6)
    assert any(11 <= f <= 30 for f in found)
    assert sum(11 <= f <= 30 for f in found) == 1


def test_stepped_poses_are_found_at_their_first_frame(marrow: Rig) -> None:
    angles = np.repeat([0.0, 0.4, -0.2, 0.4], [5, 3, 7, 2])
    assert held_frames(swinging(marrow, angles)) == (0, 5, 8, 15)
    assert held_frames(swinging(marrow, angles[:1])) == (0,)  # a file with one pose in it


def test_differences_are_in_degrees_and_metres_the_largest_first() -> None:
    turned = tuple(about_axis((0, 1, 0), np.radians(30)).tolist())
    a = Pose({"jaw": Held(turn=(0, 0, 0, 1)), "hips": Held(move=(0, 0, 0)), "same": Held()})
    b = Pose(
        {
            "jaw": Held(turn=turned),
            "hips": Held(move=(0.03, 0.0, 0.04)),
            "mouth": Held(settings={"wide": 0.9}),
        }
    )
    found = difference(a, b)
    assert [d.control for d in found] == ["mouth", "jaw", "hips"]
    assert found[1].angle == pytest.approx(30)
    assert found[2].distance == pytest.approx(0.05)
    assert found[0].settings == {"wide": (0.0, 0.9)}
    assert [d.control for d in difference(b, a)] == [d.control for d in found]
    assert difference(a, a) == ()
    minus = tuple(-x for x in turned)
    assert difference(Pose({"jaw": Held(turn=turned)}), Pose({"jaw": Held(turn=minus)})) == ()


def test_a_turned_picture_is_the_same_picture_turned_about_its_middle() -> None:
    camera = Camera(yaw=0.4, pitch=0.2, distance=3.0).cut_out(300, 200, 150, 800, 600)
    points = np.array([[0.1, 1.1, 0.2], [-0.2, 0.9, 0.1], [0.0, 1.3, 0.0]])
    before = camera.project(points, 100, 100)[:, :2] - 50
    after = camera.turned(0.5).project(points, 100, 100)[:, :2] - 50
    c, s = np.cos(0.5), np.sin(0.5)
    assert np.allclose(after, before @ np.array([[c, -s], [s, c]]).T)
    back = camera.turned(0.5).turned(-0.5)
    assert np.allclose([back.roll, *back.shift], [camera.roll, *camera.shift])


def test_names_follow_a_pattern_and_what_it_does_not_know_is_said() -> None:
    values: dict[str, str | int] = {"sheet": "Deck", "n": 7, "frame": 43}
    assert named_by("{sheet} {n:02}", values) == "Deck 07"
    assert named_by("{frame}: {n}", values) == "43: 7"
    assert named_by("plain", values) == "plain"
    for pattern in ("{oops}", "{n:zz}", "{", "", "  "):
        with pytest.raises(FoxHandError) as caught:
            named_by(pattern, values)
        assert caught.value.code == "pattern.unknown"
        assert caught.value.kept == "Nothing was taken."


def test_small_pictures_are_kept_and_the_oldest_make_room(tmp_path: Path) -> None:
    cache = PictureCache(tmp_path / "pictures")
    assert cache.get("a") is None
    for number in range(10):
        cache.put(f"card {number}", bytes([number]) * 1000)
    assert cache.get("card 3") == b"\x03" * 1000
    assert cache.make_room(room=20_000, spare=10_000) == 0
    assert cache.make_room(room=9_000, spare=5_000) == 5
    assert sum(cache.get(f"card {n}") is not None for n in range(10)) == 5
    blocked = PictureCache(tmp_path / "pictures" / "file")
    (tmp_path / "pictures" / "file").write_text("a file stands here")
    blocked.put("x", b"1")  # not kept, and nothing is lost: the picture is in the card
    assert blocked.get("x") is None
