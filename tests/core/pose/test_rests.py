"""Whether the joints of a pose rest as those of a rig do, to the bounds that are promised."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from fox_hand.core.pose.pose import Held, Pose, RestFrame, rests_otherwise
from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import shipped
from fox_hand.library.format.container import read_card


def arm(pose: Pose) -> tuple[Held, RestFrame]:
    held = pose.controls["arm_L"]
    assert held.rest is not None
    return held, held.rest


def with_rest(pose: Pose, rest: RestFrame | None) -> Pose:
    held, _ = arm(pose)
    return Pose({"arm_L": replace(held, rest=rest)})


@pytest.mark.parametrize(("share", "other"), [(0.0, False), (0.9, False), (1.1, True)])
def test_joints_may_rest_a_little_elsewhere(marrow: Rig, share: float, other: bool) -> None:
    pose = read_card(shipped() / "library" / "Marrow" / "Body" / "Wave.foxcard")[0].pose
    assert not rests_otherwise(pose, marrow)
    _, rest = arm(pose)
    for axis in range(3):
        moved = np.array(rest.translation)
        moved[axis] += share * 0.002 * marrow.height
        there = replace(rest, translation=tuple(moved.tolist()))
        assert rests_otherwise(with_rest(pose, there), marrow) is other
        turn = Rotation.from_rotvec(np.eye(3)[axis] * np.radians(0.1) * share)
        world = (turn * Rotation.from_quat(rest.world_rotation)).as_quat()
        turned = replace(rest, world_rotation=tuple(world.tolist()))
        assert rests_otherwise(with_rest(pose, turned), marrow) is other


def test_what_says_nothing_of_its_rest_or_is_not_there_is_no_other_rest(marrow: Rig) -> None:
    pose = read_card(shipped() / "library" / "Marrow" / "Body" / "Wave.foxcard")[0].pose
    held, rest = arm(pose)
    away = replace(rest, translation=(9.0, 9.0, 9.0))
    assert rests_otherwise(with_rest(pose, away), marrow)
    assert not rests_otherwise(with_rest(pose, None), marrow)
    assert not rests_otherwise(Pose({"wing_L": replace(held, rest=away)}), marrow)
    later = Pose({"wing_L": held, "head": Held(), "arm_L": replace(held, rest=away)})
    assert rests_otherwise(later, marrow)  # those before it do not end the search
