"""What the names of parts say (common practice, no source)."""

from __future__ import annotations

import pytest

from fox_hand.core.model.controls import Region, Side
from fox_hand.core.puppet.part_names import (
    above_by_name,
    body_by_name,
    makes_limb,
    partner_of,
    region_of,
    side_of,
)

PARTS = [
    *("Body", "Neck", "Head", "Left eye", "Right eye", "Left pupil", "Mouth", "Tail"),
    *("near upper arm", "near forearm", "near hand", "far upper arm", "far forearm"),
    *("L_thigh", "L_shin", "L_foot", "near wing", "near wing tip", "Scarf", "Scarf end"),
]


@pytest.mark.parametrize(
    ("name", "above"),
    [
        ("Head", "Neck"),
        ("Neck", "Body"),
        ("Left eye", "Head"),
        ("Left pupil", "Left eye"),
        ("Mouth", "Head"),
        ("near hand", "near forearm"),
        ("near forearm", "near upper arm"),
        ("far forearm", "far upper arm"),
        ("far upper arm", "Body"),
        ("L_foot", "L_shin"),
        ("L_shin", "L_thigh"),
        ("near wing tip", "near wing"),
        ("Scarf end", "Scarf"),
        ("Scarf", "Neck"),
        ("Ticket", None),
    ],
)
def test_a_name_says_what_it_hangs_on(name: str, above: str | None) -> None:
    assert above_by_name(name, PARTS) == above


def test_a_hand_of_the_other_side_hangs_on_no_arm_of_this_one() -> None:
    assert above_by_name("far hand", ["near forearm", "Body"]) == "Body"
    assert above_by_name("far hand", ["near forearm"]) is None


def test_sides_regions_partners_and_the_body() -> None:
    assert [side_of(n) for n in ("near wing", "far wing", "wing_R", "Body")] == [
        Side.LEFT,
        Side.RIGHT,
        Side.RIGHT,
        Side.CENTRE,
    ]
    regions = [region_of(n) for n in ("Beak", "far wing", "Torso", "near shoe", "Ticket", "Chest")]
    assert regions[:3] == [Region.MOUTH, Region.WINGS, Region.TORSO]
    assert regions[4:] == [None, Region.TORSO]
    assert partner_of("near upper arm", PARTS) == "far upper arm"
    assert partner_of("near hand", PARTS) is None
    assert body_by_name(["Head", "Left hip", "Body"]) == "Body"
    assert body_by_name(["Head", "Ticket"]) is None


def test_limbs_are_two_parts_of_one_side() -> None:
    assert makes_limb("near upper arm", "near forearm")
    assert makes_limb("near wing", "near wing tip")
    assert not makes_limb("near upper arm", "far forearm")
    assert not makes_limb("Scarf", "Scarf end")
    assert not makes_limb("L_shin", "L_foot")
