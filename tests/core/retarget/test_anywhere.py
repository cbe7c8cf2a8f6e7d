"""It does not matter where a figure stands at rest, nor which way it looks there."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from fox_hand.core.animation.performance import Performance
from fox_hand.core.matching.name_match import match_by_kind
from fox_hand.core.maths.rotations import Array, multiply
from fox_hand.core.model.body_frame import BodyFrame, vector
from fox_hand.core.model.controls import ControlKind
from fox_hand.core.model.state import State
from fox_hand.core.pose.mirror import mirror
from fox_hand.core.pose.pose import ChannelFilter, take
from fox_hand.core.retarget.carried import carried_of
from fox_hand.core.retarget.pose_changes import roles_of
from fox_hand.core.retarget.retarget import FitOptions, Fitted, fit
from fox_hand.core.retarget.transfer import FollowOptions, follow
from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.readers import read_rig
from fox_hand.library.format.container import read_card
from fox_hand.session.animating.motion_import import pairs_of
from fox_hand.session.figures.pose_conversion import state_of
from tests.bodies import Build, Placed, body_rig
from tests.core.naming.test_roles import FAMILIES
from tests.core.retarget.test_hands_on_body import held, poses
from tests.motions import performed

PLACES = [(0.0, (0.7, 0.0, -0.4)), (np.pi, (0.0, 0.0, 0.0)), (np.pi / 2, (-0.3, 0.0, 1.1))]


def moved(yaw: float, place: tuple[float, float, float]) -> Array:
    way = np.eye(4)
    way[:3, :3] = Rotation.from_euler("y", yaw).as_matrix()
    way[:3, 3] = place
    return way


def elsewhere(rig: Rig, way: Array) -> Rig:
    """The same figure, its roots moved and turned, mesh and all."""
    skeleton = rig.skeleton
    turn, at = skeleton.rotation.copy(), skeleton.translation.copy()
    spin = Rotation.from_matrix(way[:3, :3]).as_quat()
    for node, parent in enumerate(skeleton.parents):
        if parent < 0:
            turn[node] = multiply(spin, turn[node])
            at[node] = way[:3, :3] @ at[node] + way[:3, 3]
    body = BodyFrame(
        vector(way[:3, :3] @ np.array(rig.body.up)),
        vector(way[:3, :3] @ np.array(rig.body.ahead)),
        vector(way[:3, :3] @ np.array(rig.body.middle) + way[:3, 3]),
    )
    return replace(
        rig,
        name=f"{rig.name} elsewhere",
        skeleton=replace(skeleton, rotation=turn, translation=at),
        body=body,
        fingerprint="elsewhere",
    )


@pytest.fixture(scope="module")
def pim() -> Rig:
    return read_rig(shipped() / "cast" / "pim.glb")


def fitted(source: Rig, state: State, rig: Rig, *, joints: bool, at_hand: bool) -> Fitted:
    state, pose = held(source, state, joints=joints)
    free = {c.name for c in source.controls if c.kind in (ControlKind.GOAL, ControlKind.POLE)}
    matches = match_by_kind(list(pose.controls), rig, None, None, roles_of(pose), free)
    names = {m.source: m.target for m in matches if m.target is not None}
    settings = {s.name: (s.name,) for s in source.settings if s.name in rig.setting_row}
    if at_hand:
        return fit(pose, rig, names, settings, FitOptions(), (source, state))
    return fit(pose, rig, names, settings, FitOptions(), None, carried_of(source, state, pose))


def test_the_moved_figure_is_the_figure_moved(marrow: Rig) -> None:
    way = moved(0.7, (0.2, 0.0, 0.5))
    other = elsewhere(marrow, way)
    state = state_of(marrow, read_card(shipped() / "library/Marrow/Body/Wave.foxcard")[0].pose)
    one, two = marrow.evaluate(state).nodes, other.evaluate(state).nodes
    assert two == pytest.approx(way @ one, abs=1e-9)


@pytest.mark.parametrize("at_hand", [False, True])
@pytest.mark.parametrize("joints", [False, True])
@pytest.mark.parametrize("where", PLACES)
def test_cards_land_the_same_on_a_figure_elsewhere(
    marrow: Rig,
    pim: Rig,
    where: tuple[float, tuple[float, float, float]],
    joints: bool,
    at_hand: bool,
) -> None:
    way = moved(*where)
    target, source = elsewhere(pim, way), elsewhere(marrow, way)
    for state in (poses(marrow)["belly"], poses(marrow)["together"]):
        plain = fitted(marrow, state, pim, joints=joints, at_hand=at_hand)
        there = fitted(marrow, state, target, joints=joints, at_hand=at_hand)
        one, two = pim.evaluate(plain.state).nodes, target.evaluate(there.state).nodes
        assert two[:, :3, 3] == pytest.approx((way @ one)[:, :3, 3], abs=2e-3)
        own = fitted(source, state, pim, joints=joints, at_hand=at_hand)
        three = pim.evaluate(own.state).nodes
        assert three[:, :3, 3] == pytest.approx(one[:, :3, 3], abs=2e-3)


@pytest.mark.parametrize("where", PLACES)
def test_motion_is_followed_the_same_elsewhere(
    marrow: Rig, where: tuple[float, tuple[float, float, float]]
) -> None:
    names = FAMILIES["by joint"]
    rig = body_rig(Build(arms_down=0, legs=0.5), names, Placed())
    walk = performed(rig, {v: k for k, v in names.items()}, "walk")
    way = moved(*where)
    pairs = pairs_of(rig, marrow, {})
    options = FollowOptions(starts=True)
    plain = follow(walk, marrow, pairs, options)
    target = elsewhere(marrow, way)
    there = follow(walk, target, pairs, options)
    one, two = (r.evaluate(f.state).nodes for r, f in ((marrow, plain), (target, there)))
    assert two[..., :3, 3] == pytest.approx((way @ one)[..., :3, 3], abs=1e-4)
    source = elsewhere(rig, way)
    own = follow(Performance("walk", source, walk.states, walk.rate), marrow, pairs, options)
    three = marrow.evaluate(own.state).nodes
    assert three[..., :3, 3] == pytest.approx(one[..., :3, 3], abs=1e-4)
    assert own.stands is not None and plain.stands is not None
    for side in ("left", "right"):
        assert np.array_equal(own.stands.feet(side), plain.stands.feet(side))


@pytest.mark.parametrize("where", PLACES)
def test_the_mirror_image_is_the_same_elsewhere(
    marrow: Rig, where: tuple[float, tuple[float, float, float]]
) -> None:
    way = moved(*where)
    other = elsewhere(marrow, way)
    card = read_card(shipped() / "library/Marrow/Body/Point across.foxcard")[0]
    state = state_of(marrow, card.pose)
    one = marrow.evaluate(mirror(marrow, state)).nodes
    two = other.evaluate(mirror(other, state)).nodes
    joints = marrow.joint_nodes
    assert two[joints, :3, 3] == pytest.approx((way @ one)[joints, :3, 3], abs=1e-5)
    choice = ChannelFilter.of(marrow, range(len(marrow.controls)))
    assert set(take(other, state, choice).controls) == set(take(marrow, state, choice).controls)
