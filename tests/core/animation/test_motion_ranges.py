"""The demo cast's joint limits against normal ranges of motion.

Source: American Academy of Orthopaedic Surgeons, "Joint Motion: Method of Measuring and
Recording" (1965), the ranges that handbooks of goniometry print; values from memory, degrees.
"""

from __future__ import annotations

import numpy as np
import pytest

from fox_hand.core.pose.pose import bind, shown_euler
from fox_hand.core.rig.locks_limits import within
from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.readers import read_rig
from fox_hand.library.format.container import read_card

# joint: extension (negative) and flexion; limits may be tighter, and looser by the play that a
# drawn figure needs at its stops
AAOS = {
    "forearm": (0, 150),
    "hand": (-70, 80),
    "finger_index_1": (-45, 90),
    "finger_index_2": (0, 100),
    "finger_index_3": (0, 90),
    "shin": (0, 135),
    "toe": (-45, 70),
}
PLAY = 10.0


@pytest.fixture(scope="module", params=["marrow", "pim", "brandle"])
def member(request: pytest.FixtureRequest) -> Rig:
    return read_rig(shipped() / "cast" / f"{request.param}.glb")


def test_hinges_bend_as_far_as_people_do(member: Rig) -> None:
    for name, (least, most) in AAOS.items():
        for side in "LR":
            limit = member.controls[member.control_row[f"{name}_{side}"]].limits[0]
            assert limit is not None, name
            low, high = np.degrees(limit)
            assert least - PLAY <= low <= 0, name
            assert 0.8 * most <= high <= most + PLAY, name


def test_neck_and_head_together_reach_the_neck_s_range(member: Rig) -> None:
    """Cervical spine: flexion and extension 45, rotation 60, lateral bending 45."""
    rows = [member.controls[member.control_row[n]] for n in ("neck", "head")]
    for axis, most in ((0, 45), (1, 60), (2, 45)):
        reach = sum(np.degrees(c.limits[axis][1]) for c in rows)
        assert 0.8 * most <= reach <= 1.4 * most


def test_quill_has_the_same_ranges_about_its_own_axes() -> None:
    marrow, quill = (read_rig(shipped() / "cast" / f"{n}.glb") for n in ("marrow", "quill"))
    shin = marrow.controls[marrow.control_row["shin_L"]].limits[0]
    assert quill.controls[quill.control_row["LeftShin"]].limits[1] == shin


def test_every_card_of_the_demo_stands_within_the_limits(marrow: Rig) -> None:
    for path in sorted((shipped() / "library").rglob("*.foxcard")):
        pose = bind(read_card(path)[0].pose, marrow)
        turn = marrow.rest.turn.copy()
        turn[pose.turn_rows] = pose.turn
        euler = marrow.rest.euler.copy()
        euler[pose.turn_rows] = pose.euler
        state = marrow.rest.with_(turn=turn, euler=euler)
        after = within(marrow, (), marrow.rest, state)
        moved = np.flatnonzero(np.abs(after.turn - turn).max(1) > 1e-6)
        said = [
            (marrow.controls[r].name, np.degrees(shown_euler(marrow.controls[r], state, int(r))))
            for r in moved
        ]
        assert not said, (path.name, said)
