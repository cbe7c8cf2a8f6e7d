"""Hands that lie on the body lie on it on other figures, too: by goals, by joints, and where the
pose's own rig is away."""

from __future__ import annotations

import shutil
from pathlib import Path

import numpy as np
import pytest

from fox_hand.core.matching.name_match import match_by_kind
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.controls import ControlKind, Region
from fox_hand.core.model.state import State
from fox_hand.core.pose.ik_fk_matching import goal_from_joints, joints_from_goal
from fox_hand.core.pose.placing import put
from fox_hand.core.pose.pose import ChannelFilter, Pose, take
from fox_hand.core.retarget.arm_places import hand_length
from fox_hand.core.retarget.carried import carried_of
from fox_hand.core.retarget.figure_motion import role_nodes
from fox_hand.core.retarget.pose_changes import roles_of
from fox_hand.core.retarget.retarget import FitOptions, Fitted, fit
from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.readers import read_rig
from fox_hand.library.format.carried_file import carried_file, carried_from

BODY = (Region.TORSO, Region.LEGS, Region.HEAD, Region.MOUTH, Region.EYES)
CAST = ("marrow", "pim", "quill", "brandle")


@pytest.fixture(scope="module")
def cast(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Rig]:
    """The demo's figures, and two of them as joints alone, as another program would have them."""
    folder = tmp_path_factory.mktemp("bare")
    found = {name: read_rig(shipped() / "cast" / f"{name}.glb") for name in CAST}
    for name in ("quill", "pim"):
        copied = shutil.copy(shipped() / "cast" / f"{name}.glb", folder / f"{name}.glb")
        found[f"{name}, joints"] = read_rig(Path(copied))
    return found


def flesh(rig: Rig, state: State) -> Array:
    joints = (c for c in rig.controls if c.kind is ControlKind.JOINT and c.region in BODY)
    return rig.flesh(rig.evaluate(state), {c.node for c in joints})


def reaching(rig: Rig, places: dict[str, Array]) -> State:
    """A figure at rest with its arms on goals, wrists at some places."""
    state = rig.rest
    for limb in rig.limbs:
        role = rig.controls[rig.row_of_node[limb.end]].role or ""
        if role.removesuffix("Hand") in places:
            state = goal_from_joints(rig, state, limb)
            row = rig.row_of_node[limb.goal]
            nodes = rig.evaluate(state).nodes
            state = put(rig, state, row, nodes, places[role.removesuffix("Hand")])
    return state


def poses(rig: Rig) -> dict[str, State]:
    """Hands on the belly, at the side of the head, near each other in the open, and one on a
    thigh."""
    at, height = flesh(rig, rig.rest), rig.height
    known = role_nodes(rig)
    belly_y = rig.skeleton.rest_world[known["spine"], 1, 3]
    front = at[(np.abs(at[:, 1] - belly_y) < 0.03) & (np.abs(at[:, 0]) < 0.06)]
    belly = front[np.argmax(front[:, 2])] + [0, 0, 0.025 * height]
    head_y = rig.skeleton.rest_world[known["head"], 1, 3] + 0.06 * height
    side = at[np.abs(at[:, 1] - head_y) < 0.03]
    cheek = side[np.argmax(side[:, 0])] + [0.02 * height, 0, 0]
    thigh_y = rig.skeleton.rest_world[known["leftUpperLeg"], 1, 3] - 0.05
    legs = at[(np.abs(at[:, 1] - thigh_y) < 0.03) & (at[:, 0] > 0)]
    thigh = legs[np.argmax(legs[:, 0] + legs[:, 2])] + [0.02, 0, 0.02]
    chest = rig.skeleton.rest_world[known["chest"], :3, 3] + [0, 0, 0.28 * height]
    return {
        "belly": reaching(rig, {"left": belly}),
        "head": reaching(rig, {"left": cheek}),
        "thigh": reaching(rig, {"left": thigh}),
        "together": reaching(rig, {"left": chest + [0.02, 0, 0], "right": chest - [0.02, 0, 0]}),
    }


def held(rig: Rig, state: State, *, joints: bool) -> tuple[State, Pose]:
    """The whole pose; with ``joints`` the arms follow their joints, and no goals are held."""
    rows = list(range(len(rig.controls)))
    if joints:
        for limb in rig.limbs:
            if (rig.controls[rig.row_of_node[limb.end]].role or "").endswith("Hand"):
                state = joints_from_goal(rig, state, limb)
        rows = [r for r in rows if rig.controls[r].kind is ControlKind.JOINT]
    return state, take(rig, state, ChannelFilter.of(rig, rows))


def fitted(source: Rig, state: State, pose: Pose, rig: Rig, *, away: bool) -> Fitted:
    free = {c.name for c in source.controls if c.kind in (ControlKind.GOAL, ControlKind.POLE)}
    matches = match_by_kind(list(pose.controls), rig, None, None, roles_of(pose), free)
    names = {m.source: m.target for m in matches if m.target is not None}
    settings = {s.name: (s.name,) for s in source.settings if s.name in rig.setting_row}
    carried = carried_from(carried_file(carried_of(source, state, pose)))
    if away:
        return fit(pose, rig, names, settings, FitOptions(), None, carried)
    return fit(pose, rig, names, settings, FitOptions(), (source, state))


@pytest.mark.parametrize("away", [False, True])
@pytest.mark.parametrize("joints", [False, True])
@pytest.mark.parametrize("where", ["belly", "head", "thigh", "together"])
def test_a_hand_touches_what_it_touched(
    cast: dict[str, Rig], where: str, joints: bool, away: bool
) -> None:
    marrow = cast["marrow"]
    state, pose = held(marrow, poses(marrow)[where], joints=joints)
    wrist = {
        s: marrow.evaluate(state).nodes[role_nodes(marrow)[f"{s}Hand"], :3, 3]
        for s in ("left", "right")
    }
    gap = np.linalg.norm(flesh(marrow, state) - wrist["left"], axis=1).min() / marrow.height
    for name, rig in cast.items():
        if name == "marrow":
            continue
        found = fitted(marrow, state, pose, rig, away=away)
        nodes = rig.evaluate(found.state).nodes
        here = {s: nodes[role_nodes(rig)[f"{s}Hand"], :3, 3] for s in ("left", "right")}
        if where == "together":
            apart = np.linalg.norm(here["left"] - here["right"])
            wanted = np.linalg.norm(wrist["left"] - wrist["right"])
            wanted *= hand_length(rig) / hand_length(marrow)
            assert apart == pytest.approx(wanted, abs=0.01 * rig.height), name
            continue
        seen = np.linalg.norm(flesh(rig, found.state) - here["left"], axis=1).min() / rig.height
        assert seen == pytest.approx(gap, abs=0.01), name


@pytest.mark.parametrize("away", [False, True])
@pytest.mark.parametrize("source", ["pim", "quill", "brandle"])
def test_contact_is_kept_between_all_of_the_cast(
    cast: dict[str, Rig], source: str, away: bool
) -> None:
    """Within 1 % of the height, from everybody to everybody, with the card's own rig at hand and
    without it; from Marrow above."""
    rig = cast[source]
    for where, pose_state in poses(rig).items():
        state, pose = held(rig, pose_state, joints=True)
        nodes, known = rig.evaluate(state).nodes, role_nodes(rig)
        left, right = (nodes[known[f"{s}Hand"], :3, 3] for s in ("left", "right"))
        gap = np.linalg.norm(flesh(rig, state) - left, axis=1).min() / rig.height
        for name in set(CAST) - {source}:
            target = cast[name]
            found = fitted(rig, state, pose, target, away=away)
            at, nodes_of = target.evaluate(found.state).nodes, role_nodes(target)
            one, other = (at[nodes_of[f"{s}Hand"], :3, 3] for s in ("left", "right"))
            if where == "together":
                wanted = np.linalg.norm(left - right) * hand_length(target) / hand_length(rig)
                off = np.linalg.norm(one - other) - wanted
                assert abs(off) < 0.01 * target.height, (where, name)
            else:
                seen = np.linalg.norm(flesh(target, found.state) - one, axis=1).min()
                assert seen / target.height == pytest.approx(gap, abs=0.01), (where, name)


@pytest.mark.parametrize("away", [False, True])
def test_arms_on_goals_arrive_on_a_rig_of_joints(cast: dict[str, Rig], away: bool) -> None:
    """Within half a degree, in the open."""
    marrow = cast["marrow"]
    shoulder = marrow.skeleton.rest_world[role_nodes(marrow)["leftUpperArm"], :3, 3]
    state = reaching(marrow, {"left": shoulder + [0.12, 0.2, 0.33]})
    state, pose = held(marrow, state, joints=False)
    pose = Pose(
        {
            n: h
            for n, h in pose.controls.items()
            if "goal_L" in n
            or "elbow_L" in n
            or marrow.controls[marrow.control_row[n]].kind is ControlKind.HOLDER
        }
    )
    for name in ("quill, joints", "pim, joints"):
        rig = cast[name]
        found = fitted(marrow, state, pose, rig, away=away)
        assert "hand_goal_L" in found.by_joints
        for limb in (("leftUpperArm", "leftLowerArm"), ("leftLowerArm", "leftHand")):
            ways = []
            for one, worn in ((marrow, state), (rig, found.state)):
                a, b = (one.evaluate(worn).nodes[role_nodes(one)[r], :3, 3] for r in limb)
                ways.append((b - a) / np.linalg.norm(b - a))
            assert np.degrees(np.arccos(np.clip(ways[0] @ ways[1], -1, 1))) < 0.5
