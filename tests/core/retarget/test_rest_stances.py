"""Standing as another figure rests, and limbs that reach, in worked examples."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from fox_hand.core.maths.rotations import Array, rotate
from fox_hand.core.model.state import State
from fox_hand.core.pose.pose import ChannelFilter, Pose, take
from fox_hand.core.retarget.figure_motion import role_nodes
from fox_hand.core.retarget.reach import ARM, LEG, Reach, turning
from fox_hand.core.retarget.rest_alignment import bone_ways, stance_of, still
from fox_hand.core.rig.rig import Rig
from tests.bodies import Build, Placed, body_rig
from tests.core.naming.test_roles import FAMILIES

NAMES = FAMILIES["up leg"]


def body(**more: object) -> Rig:
    return body_rig(Build(**more), NAMES, Placed())  # type: ignore[arg-type]  # fields of a build


def rest_pose(rig: Rig, leave_out: tuple[str, ...] = ()) -> Pose:
    rows = [r for r, c in enumerate(rig.controls) if not (c.role or "").endswith(leave_out)]
    return take(rig, rig.rest, ChannelFilter.of(rig, rows))


def own_names(pose: Pose) -> dict[str, str]:
    return {name: name for name in pose.controls}


def way(rig: Rig, start: str, end: str) -> Array:
    known, places = role_nodes(rig), rig.skeleton.rest_world[:, :3, 3]
    found = places[known[end]] - places[known[start]]
    return found / np.linalg.norm(found)


def test_arms_are_laid_along_the_other_s_and_what_hangs_on_them_goes_along() -> None:
    hanging, level = body(arms_down=80.0), body(arms_down=0.0)
    pose = rest_pose(level)
    found = stance_of(hanging, pose, own_names(pose))
    known = role_nodes(hanging)
    for side in ("left", "right"):
        upper = known[f"{side}UpperArm"]
        mine = way(hanging, f"{side}UpperArm", f"{side}LowerArm")
        assert rotate(found.turns[upper], mine) == pytest.approx(
            way(level, f"{side}UpperArm", f"{side}LowerArm"), abs=1e-9
        )
        assert found.angles[f"{side} UpperArm"] == pytest.approx(80, abs=1.5)
        # the lower arm is straight there and here: it is only carried along
        assert found.angles[f"{side} LowerArm"] < 2.0
        assert found.turns[known[f"{side}Hand"]] == pytest.approx(
            found.turns[known[f"{side}LowerArm"]]
        )
    assert found.turns[known["head"]] == pytest.approx([0, 0, 0, 1])
    own = found.own(hanging)
    row = next(r for r, c in enumerate(hanging.controls) if c.role == "leftHand")
    assert own[row] == pytest.approx([0, 0, 0, 1], abs=1e-9)  # nothing of its own


def test_only_bones_with_both_ends_known_are_laid() -> None:
    hanging, level = body(arms_down=80.0), body(arms_down=0.0)
    pose = rest_pose(level, ("LowerArm",))
    found = stance_of(hanging, pose, own_names(pose))
    assert not any("Arm" in limb for limb in found.angles)
    assert any("Leg" in limb for limb in found.angles)
    # unless it is said where they point there
    ways = bone_ways(level)
    found = stance_of(hanging, pose, own_names(pose), more={"leftUpperArm": ways["leftUpperArm"]})
    assert found.angles["left UpperArm"] == pytest.approx(80, abs=1.5)
    assert "right UpperArm" not in found.angles
    none = stance_of(hanging, pose, own_names(pose), more={"leftUpperArm": np.zeros(3)})
    assert "left UpperArm" not in none.angles
    assert still(hanging).angles == {}


def test_bones_that_point_the_other_way_are_turned_half_about() -> None:
    rig = body(arms_down=0.0)
    pose = rest_pose(rig)
    more = {"leftUpperArm": -way(rig, "leftUpperArm", "leftLowerArm")}
    found = stance_of(rig, pose, own_names(pose), more=more)
    assert found.angles["left UpperArm"] == pytest.approx(180, abs=1e-3)
    turn = found.turns[role_nodes(rig)["leftUpperArm"]]
    assert np.linalg.norm(turn) == pytest.approx(1.0)
    assert rotate(turn, way(rig, "leftUpperArm", "leftLowerArm")) == pytest.approx(
        more["leftUpperArm"], abs=1e-6
    )


def test_where_bones_point_is_told_for_limbs_and_feet() -> None:
    rig = body()
    found = bone_ways(rig)
    sides = ("left", "right")
    parts = ("UpperArm", "LowerArm", "UpperLeg", "LowerLeg", "Foot")
    assert set(found) == {side + part for side in sides for part in parts}
    for start, end in (("leftFoot", "leftToes"), ("rightLowerArm", "rightHand")):
        assert found[start] / np.linalg.norm(found[start]) == pytest.approx(way(rig, start, end))


def test_feet_stay_flat_unless_one_of_them_points_down() -> None:
    rig = body()
    pose = rest_pose(rig)
    foot, names = role_nodes(rig)["leftFoot"], own_names(pose)
    mine = way(rig, "leftFoot", "leftToes")
    aside = Rotation.from_euler("x", 30, degrees=True).apply(mine)
    assert stance_of(rig, pose, names, more={"leftFoot": aside}).turns[foot] == pytest.approx(
        [0, 0, 0, 1]
    )
    down = Rotation.from_euler("x", 50, degrees=True).apply(mine)
    found = stance_of(rig, pose, names, more={"leftFoot": down}).turns[foot]
    assert rotate(found, mine) == pytest.approx(down, abs=1e-9)
    flat = stance_of(rig, pose, names, more={"leftFoot": np.zeros(3)}).turns[foot]
    assert flat == pytest.approx([0, 0, 0, 1])
    # legs that are spread at rest do not tilt the feet that stand on the ground
    spread = {"leftUpperLeg": np.array([0.3, -1.0, 0.0])}
    assert stance_of(rig, pose, names, more=spread).turns[foot] == pytest.approx([0, 0, 0, 1])
    without = rest_pose(rig, ("Foot", "Toes"))
    assert stance_of(rig, without, own_names(without), more=spread).turns[foot][2] != 0.0


@pytest.mark.parametrize("side", ["left", "right"])
@pytest.mark.parametrize(("parts", "bends"), [(ARM, -1.0), (LEG, 1.0)])
def test_a_limb_reaches_keeps_its_lengths_and_bends_its_own_way(
    side: str, parts: tuple[str, str, str], bends: float
) -> None:
    rig = body()
    limb = Reach.of(rig, side, parts)
    assert limb is not None and limb.bends == (0.0, 0.0, bends)
    count = 3
    state = State(*(np.tile(v, (count, *[1] * v.ndim)) for v in rig.rest.arrays()))
    nodes = rig.evaluate(state).nodes
    places = rig.body.seen(nodes[:, :, :3, 3])
    start, length = places[:, limb.upper], limb.length(places)
    middle, end = places[0, limb.lower], places[0, limb.end]
    assert length == pytest.approx(np.linalg.norm(middle - start[0]) + np.linalg.norm(end - middle))
    out = places[0, limb.end] - start[0]
    goals = start + np.array([0.9, 0.5, 2.0])[:, None] * out
    found = limb.reaching(rig, state, nodes, goals)
    after = rig.evaluate(found).nodes
    at = rig.body.seen(after[:, :, :3, 3])
    assert at[:2, limb.end] == pytest.approx(goals[:2], abs=1e-9)
    far = np.linalg.norm(at[2, limb.end] - start[2])  # too far: nearly stretched towards it
    assert 0.99 * length[0] < far < length[0]
    assert np.cross(at[2, limb.end] - start[2], out) == pytest.approx(0.0, abs=1e-6)
    assert limb.length(at) == pytest.approx(length)
    # what hangs on it keeps its turn in the world
    assert after[:, limb.end, :3, :3] == pytest.approx(nodes[:, limb.end, :3, :3], abs=1e-9)
    knee = at[0, limb.lower] - (start[0] + 0.5 * (at[0, limb.end] - start[0]))
    assert np.sign(knee[2]) == bends


def test_a_limb_that_is_not_whole_reaches_nothing() -> None:
    names = {k: v for k, v in NAMES.items() if k != "leftLowerArm"}
    rig = body_rig(Build(), names, Placed())
    assert Reach.of(rig, "left", ARM) is None
    assert Reach.of(rig, "right", ARM) is not None


def test_the_shortest_turn_takes_one_direction_to_the_other() -> None:
    rng = np.random.default_rng(5)
    one, other = rng.normal(size=(2, 50, 3))
    found = turning(one, other)
    assert np.linalg.det(found) == pytest.approx(1.0)
    turned = (found @ one[..., None])[..., 0]
    units = [v / np.linalg.norm(v, axis=1, keepdims=True) for v in (turned, other, one)]
    assert units[0] == pytest.approx(units[1], abs=1e-9)
    angle = np.arccos(np.clip((units[2] * units[1]).sum(1), -1, 1))
    assert Rotation.from_matrix(found).magnitude() == pytest.approx(angle)
