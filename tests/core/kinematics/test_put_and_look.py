"""Controls put at a place, in a turn or both; eyes that follow a target as far as they are told."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from fox_hand.core.maths.transforms import directions
from fox_hand.core.model.solvers import Aim
from fox_hand.core.pose.placing import put
from fox_hand.core.rig.rig import Rig


def test_a_place_alone_leaves_the_turn_and_a_turn_alone_the_place(marrow: Rig) -> None:
    rig, row = marrow, marrow.control_row["head"]
    node, nodes = rig.controls[row].node, rig.evaluate(rig.rest).nodes
    place = nodes[node, :3, 3] + (0.02, 0.05, -0.03)
    turn = Rotation.from_euler("YX", [0.4, -0.2]).as_matrix() @ directions(nodes[node, :3, :3])
    moved = put(rig, rig.rest, row, nodes, place)
    assert moved.turn[row] == pytest.approx(rig.rest.turn[row])
    assert rig.evaluate(moved).nodes[node, :3, 3] == pytest.approx(place)
    turned = put(rig, rig.rest, row, nodes, turn=turn)
    at = rig.evaluate(turned).nodes[node]
    assert directions(at[:3, :3]) == pytest.approx(turn, abs=1e-9)
    assert at[:3, 3] == pytest.approx(nodes[node, :3, 3])
    assert turned.move[row] == pytest.approx(rig.rest.move[row])
    both = put(rig, rig.rest, row, nodes, place, turn)
    at = rig.evaluate(both).nodes[node]
    assert at[:3, 3] == pytest.approx(place)
    assert directions(at[:3, :3]) == pytest.approx(turn, abs=1e-9)
    assert np.abs(both.euler[row]).max() > 0.1  # shown as what it is turned by


@pytest.mark.parametrize("amount", [0.0, 0.5, 1.0])
def test_eyes_follow_by_the_amount_of_their_own_setting(marrow: Rig, amount: float) -> None:
    rig = marrow
    looks = [s for s in rig.solvers if isinstance(s, Aim)]
    assert looks and all(look.blend is not None for look in looks)
    target = next(r for r, c in enumerate(rig.controls) if c.kind.value == "look")
    nodes = rig.evaluate(rig.rest).nodes
    there = nodes[rig.controls[target].node, :3, 3] + (0.6, 0.0, 0.0)
    settings = rig.rest.settings.copy()
    for look in looks:
        settings[look.blend] = amount
    state = put(rig, rig.rest.with_(settings=settings), target, nodes, there)
    at = rig.evaluate(state).nodes
    off = [
        (
            Rotation.from_matrix(directions(at[look.node, :3, :3]))
            * Rotation.from_matrix(directions(nodes[look.node, :3, :3])).inv()
        ).magnitude()
        for look in looks
    ]
    whole = put(
        rig, rig.rest.with_(settings=np.where(settings, 1.0, settings)), target, nodes, there
    )
    assert (max(off) > 0.05) == (amount > 0)
    if amount == 0.5:
        full = rig.evaluate(whole).nodes
        for look, own in zip(looks, off, strict=True):
            turned = (
                Rotation.from_matrix(directions(full[look.node, :3, :3]))
                * Rotation.from_matrix(directions(nodes[look.node, :3, :3])).inv()
            )
            assert own == pytest.approx(turned.magnitude() / 2, rel=1e-3)
