"""A hand that is laid on the body in a performance lies on other bodies, too."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from fox_hand.core.animation.performance import Performance
from fox_hand.core.maths.rotations import Array, between
from fox_hand.core.model.state import State
from fox_hand.core.retarget.figure_motion import role_nodes
from fox_hand.core.retarget.transfer import FollowOptions, follow
from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.readers import read_rig
from tests.core.retarget.test_hands_on_body import flesh, held, poses
from tests.core.retarget.test_transfer import pairs

COUNT, THERE = 41, slice(16, 25)  # frames, and those on which the hand lies


@pytest.fixture(scope="module")
def cast() -> dict[str, Rig]:
    names = ("pim", "quill", "brandle")
    return {name: read_rig(shipped() / "cast" / f"{name}.glb") for name in names}


def laid(rig: Rig, where: str) -> Performance:
    """From rest to a pose, held there, and back."""
    pose = held(rig, poses(rig)[where], joints=True)[0]
    way = np.concatenate([np.linspace(0, 1, 17), np.ones(8), np.linspace(1, 0, 17)[1:]])
    count, rest = len(way), rig.rest
    start = np.repeat(rest.turn[None], count, 0).reshape(-1, 4)
    end = np.repeat(pose.turn[None], count, 0).reshape(-1, 4)
    part = np.repeat(way, len(rig.controls))[:, None]
    turn = between(start, end, part).reshape(count, -1, 4)
    others = [np.repeat(v[None], count, 0) for v in pose.arrays()]
    states = State(others[0], turn, *others[2:])
    return Performance(where, rig, states, 24.0)


def gaps(rig: Rig, states: State) -> Array:
    """How far the left wrist is from the body on each frame, in heights."""
    node, found = role_nodes(rig)["leftHand"], []
    for frame in range(len(states.turn)):
        one = State(*(v[frame] for v in states.arrays()))
        wrist = rig.evaluate(one).nodes[node, :3, 3]
        found.append(np.linalg.norm(flesh(rig, one) - wrist, axis=1).min() / rig.height)
    return np.array(found)


@pytest.mark.parametrize("where", ["belly", "head", "thigh"])
def test_it_touches_what_it_touched_and_is_free_elsewhere(
    marrow: Rig, cast: dict[str, Rig], where: str
) -> None:
    performance = laid(marrow, where)
    assert len(performance) == COUNT
    theirs, missed = gaps(marrow, performance.states), 0.0
    wanted = theirs[THERE]
    for name, rig in cast.items():
        made, free = (
            follow(performance, rig, pairs(marrow, rig), FollowOptions(feet=False, hands=hands))
            for hands in (True, False)
        )
        seen = gaps(rig, made.state)
        assert seen[THERE] == pytest.approx(wanted, abs=0.01), name
        loose = gaps(rig, free.state)
        missed = max(missed, np.abs(loose[THERE] - wanted).max())
        # where nothing is touched the arms alone count
        assert np.abs(seen - loose)[theirs > 0.11].max(initial=0.0) < 1e-6, name
        assert np.abs(np.diff(seen)).max() < 3 * np.abs(np.diff(loose)).max() + 0.02, name
    assert missed > 0.013  # of the height: what the arms alone would miss it by


def test_without_flesh_nothing_is_known_of_touching(marrow: Rig, cast: dict[str, Rig]) -> None:
    performance = laid(marrow, "belly")
    bare = replace(performance, rig=replace(marrow, parts=()))
    pim = cast["pim"]
    found = follow(bare, pim, pairs(marrow, pim), FollowOptions(feet=False))
    plain = follow(bare, pim, pairs(marrow, pim), FollowOptions(feet=False, hands=False))
    assert np.array_equal(found.state.turn, plain.state.turn)


def test_long_performances_are_looked_at_here_and_there(marrow: Rig, cast: dict[str, Rig]) -> None:
    """Six times as long, the hand lies as near: what lies between is drawn straight."""
    performance, pim = laid(marrow, "belly"), cast["pim"]
    frames = np.repeat(np.arange(COUNT), 6)
    slow = replace(performance, states=State(*(v[frames] for v in performance.states.arrays())))
    options = FollowOptions(feet=False)
    one = follow(performance, pim, pairs(marrow, pim), options)
    two = follow(slow, pim, pairs(marrow, pim), options)
    node = role_nodes(pim)["leftHand"]
    places = [pim.evaluate(m.state).nodes[:, node, :3, 3] for m in (one, two)]
    inside = slice(THERE.start * 6, THERE.stop * 6)
    off = np.linalg.norm(places[1][inside] - places[0][frames[inside]], axis=1)
    assert off.max() < 0.01 * pim.height
