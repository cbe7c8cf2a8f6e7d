"""Goals where nothing is corrected: placed as each part of the body sees them."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.controls import ControlKind
from fox_hand.core.model.state import State
from fox_hand.core.pose.pose import ChannelFilter, take
from fox_hand.core.retarget.retarget import FitOptions, Fitted, fit
from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.readers import read_rig
from tests.core.retarget.test_anywhere import PLACES, elsewhere, moved
from tests.core.retarget.test_hands_on_body import flesh, poses

PLAIN = FitOptions(correct=False)
WHERE = ("belly", "head", "thigh", "together")


@pytest.fixture(scope="module")
def pim() -> Rig:
    return read_rig(shipped() / "cast" / "pim.glb")


def landed(source: Rig, state: State, rig: Rig, options: FitOptions = PLAIN) -> Fitted:
    rows = range(len(source.controls))
    pose = take(source, state, ChannelFilter.of(source, rows))
    names = {n: n for n in pose.controls if n in rig.control_row}
    settings = {s.name: (s.name,) for s in source.settings if s.name in rig.setting_row}
    return fit(pose, rig, names, settings, options, (source, state))


def pulled(rig: Rig, state: State) -> dict[str, Array]:
    """Where everything is that pulls or is looked at."""
    nodes = rig.evaluate(state).nodes
    kinds = (ControlKind.GOAL, ControlKind.POLE, ControlKind.LOOK)
    return {c.name: nodes[c.node, :3, 3] for c in rig.controls if c.kind in kinds}


@pytest.mark.parametrize("where", PLACES)
@pytest.mark.parametrize("name", WHERE)
def test_on_the_same_figure_elsewhere_goals_are_where_they_were(
    marrow: Rig, name: str, where: tuple[float, tuple[float, float, float]]
) -> None:
    state, way = poses(marrow)[name], moved(*where)
    turn = state.turn.copy()
    for limb in marrow.limbs:  # hands and feet that are turned, too
        turn[marrow.row_of_node[limb.goal]] = Rotation.from_euler("xyz", (0.3, 0.5, -0.2)).as_quat()
    state = state.with_(turn=turn)
    found = landed(marrow, state, elsewhere(marrow, way))
    there = pulled(marrow, state)
    target = elsewhere(marrow, way)
    for goal, place in pulled(target, found.state).items():
        wanted = way[:3, :3] @ there[goal] + way[:3, 3]
        assert place == pytest.approx(wanted, abs=2e-3), goal
    # and turned as they were, about where the figure looks
    one, two = marrow.evaluate(state).nodes, target.evaluate(found.state).nodes
    goals = [limb.goal for limb in marrow.limbs]
    assert two[goals, :3, :3] == pytest.approx(way[:3, :3] @ one[goals, :3, :3], abs=1e-6)


@pytest.mark.parametrize("name", WHERE)
def test_a_hand_on_the_body_is_as_near_on_another_body(marrow: Rig, pim: Rig, name: str) -> None:
    state = poses(marrow)[name]
    found = landed(marrow, state, pim)
    there, here = pulled(marrow, state), pulled(pim, found.state)
    goals = [limb.goal for limb in marrow.limbs if "hand" in marrow.skeleton.names[limb.goal]]
    names = [c.name for c in marrow.controls if c.node in goals]
    assert len(names) == 2
    for goal in names:
        a = np.linalg.norm(flesh(marrow, state) - there[goal], axis=1).min() / marrow.height
        b = np.linalg.norm(flesh(pim, found.state) - here[goal], axis=1).min() / pim.height
        if a < 0.06:
            assert b == pytest.approx(a, abs=0.02), goal
        assert abs(b - a) < 0.2, goal


def test_a_figure_without_flesh_has_hands_where_its_landmarks_say(marrow: Rig, pim: Rig) -> None:
    """Nothing can be touched where one of the two has no surface; the place stays as it is seen."""
    state, bare = poses(marrow)["belly"], replace(pim, parts=())
    goals = [marrow.controls[marrow.row_of_node[limb.goal]].name for limb in marrow.limbs]
    found = pulled(bare, landed(marrow, state, bare).state)
    other = pulled(pim, landed(replace(marrow, parts=()), state, pim).state)
    for goal in goals:
        assert np.isfinite(found[goal]).all()
        assert found[goal] == pytest.approx(other[goal], abs=2e-3), goal
    touching = pulled(pim, landed(marrow, state, pim).state)
    assert max(np.abs(touching[g] - found[g]).max() for g in goals) > 3e-3


def test_feet_go_as_far_as_legs_are_longer(marrow: Rig, pim: Rig) -> None:
    foot = next(
        c for c in marrow.controls if c.kind is ControlKind.GOAL and c.name.startswith("foot")
    )
    row = marrow.control_row[foot.name]
    move = marrow.rest.move.copy()
    move[row] = (0.02, 0.11, 0.23)
    state = marrow.rest.with_(move=move)
    rest = pulled(pim, pim.rest)[foot.name]
    wide = pulled(marrow, state)[foot.name] - pulled(marrow, marrow.rest)[foot.name]
    found = landed(marrow, state, pim)
    assert found.legs != pytest.approx(1.0, abs=0.05)
    assert pulled(pim, found.state)[foot.name] - rest == pytest.approx(wide * found.legs, abs=1e-6)
    as_far = landed(marrow, state, pim, FitOptions(correct=False, stretch=False))
    assert as_far.legs == 1.0
    assert pulled(pim, as_far.state)[foot.name] - rest == pytest.approx(wide, abs=1e-6)


def test_what_is_looked_at_is_seen_from_the_head(marrow: Rig, pim: Rig) -> None:
    look = next(c for c in marrow.controls if c.kind is ControlKind.LOOK)
    row, head = marrow.control_row[look.name], "head"
    move = marrow.rest.move.copy()
    move[row] = (0.4, 0.2, -0.1)
    state = marrow.rest.with_(move=move)
    found = landed(marrow, state, pim)
    ways = []
    for rig, worn in ((marrow, state), (pim, found.state)):
        node = next(c.node for c in rig.controls if c.role == head)
        at = rig.evaluate(worn).nodes[node, :3, 3]
        ways.append((pulled(rig, worn)[look.name] - at) / rig.height)
    assert ways[1] == pytest.approx(ways[0], abs=1e-6)
