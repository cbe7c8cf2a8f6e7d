"""Partners as they are shown: how each was found, what is doubtful, and what can be chosen."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from fox_hand.core.model.controls import Control, ControlKind, Region, Side
from fox_hand.core.naming.mirror_partners import (
    FoundBy,
    doubts_of,
    infer_partners,
    nearest_by_place,
    pairs_of,
    rest_places,
)
from fox_hand.core.naming.side_region import (
    infer_regions,
    infer_sides,
    label_of,
    partner_name,
    region_from_name,
)
from fox_hand.core.rig.rig import Rig
from tests.limb_rig import limb_rig


def figure(**places: tuple[float, float, float]) -> Rig:
    """A rig of loose joints at some places, partners by name or place."""
    base = limb_rig()
    names = list(places)
    world = np.array([places[n] for n in names])
    skeleton = type(base.skeleton)(
        tuple(names),
        tuple(-1 for _ in names),
        world,
        np.tile([0.0, 0, 0, 1], (len(names), 1)),
        np.ones((len(names), 3)),
    )
    sides, _ = infer_sides(names, world, 2.0)
    partners = infer_partners(names, sides, world, 2.0)
    controls = tuple(
        Control(n, n, ControlKind.JOINT, i, side=sides[i], partner=partners[i])
        for i, n in enumerate(names)
    )
    return replace(
        base,
        skeleton=skeleton,
        controls=controls,
        settings=(),
        solvers=(),
        drives=(),
        palette_nodes=np.zeros(0, np.intp),
        inverse_binds=np.zeros((0, 4, 4)),
    )


HEIGHT = {"foot": (0.0, 0.0, 0.0), "top": (0.0, 2.0, 0.0)}


def test_each_control_is_listed_once_with_how_its_partner_was_found() -> None:
    rig = figure(
        **HEIGHT,
        arm_L=(0.5, 1.4, 0.0),
        arm_R=(-0.5, 1.4, 0.0),
        leg_L=(0.2, 0.8, 0.0),
        leg_R=(-0.2, 0.8, 0.05),
        a=(0.3, 1.0, 0.1),
        b=(-0.3, 1.0, 0.1),
        lamp=(0.6, 1.0, 0.5),
    )
    pairs = pairs_of(rig)
    names = {rig.controls[p.row].name: (rig.controls[p.other].name, p.found) for p in pairs}
    assert names == {
        "arm_L": ("arm_R", FoundBy.BOTH),
        "leg_L": ("leg_R", FoundBy.NAME),
        "a": ("b", FoundBy.PLACE),
        "foot": ("foot", FoundBy.MIDDLE),
        "top": ("top", FoundBy.MIDDLE),
        "lamp": ("lamp", FoundBy.ALONE),
    }
    order = [p.found for p in pairs]
    assert order[-1] is FoundBy.ALONE and order[-3:-1] == [FoundBy.MIDDLE] * 2
    off = {rig.controls[p.row].name: p.off for p in pairs}
    assert off["leg_L"] == pytest.approx(0.05) and off["lamp"] == pytest.approx(1.2)
    hand = rig.controls[rig.control_row["arm_R"]]
    said = replace(rig, controls=tuple(replace(c, paired_by_hand=c is hand) for c in rig.controls))
    assert next(p for p in pairs_of(said) if said.controls[p.row].name == "arm_L").found is (
        FoundBy.HAND
    )
    helped = replace(rig, controls=tuple(replace(c, helper=c.name == "lamp") for c in rig.controls))
    assert not any(p.found is FoundBy.ALONE for p in pairs_of(helped))


def test_what_is_strange_is_said_with_what_can_be_chosen() -> None:
    rig = figure(
        **HEIGHT,
        arm_L=(0.5, 1.4, 0.0),
        arm_R=(-0.5, 1.0, 0.0),  # by place another is nearer
        other=(-0.5, 1.395, 0.0),
        leg_L=(0.2, 0.8, 0.0),
        leg_R=(-0.2, 0.8, 0.05),
        fist_L=(0.7, 1.0, 0.0),
        fist_R=(-0.7, 1.0, 0.006),
        lamp=(0.6, 1.0, 0.5),
    )
    doubts = {rig.controls[d.row].name: d for d in doubts_of(rig)}
    assert set(doubts) == {"arm_L", "leg_L", "lamp", "other"}
    assert doubts["arm_L"].text == "by name arm_R; by place other is 5 mm off"
    assert doubts["arm_L"].choices == (("arm_R", "arm_R"), ("other", "other"))
    assert doubts["leg_L"].text == "pair by name, but 50 mm out of place at rest"
    assert doubts["leg_L"].choices == (("Right so", "leg_R"), ("Not a pair", ""))
    assert doubts["lamp"].text == "no partner by name; lies 600 mm off the middle"
    assert doubts["lamp"].choices[0] == ("Stays alone", "") and len(doubts["lamp"].choices) == 2


def test_partners_by_place_are_mutual_and_exact() -> None:
    places = np.array([[0.5, 1, 0], [-0.5, 1, 0], [-0.5, 1.001, 0], [0.1, 0, 0], [-0.1, 0, 0.2]])
    names = ["a", "b", "c", "d", "e"]
    sides, notes = infer_sides(names, places, 2.0)
    assert [s.value for s in sides] == ["left", "right", "right", "left", "right"] and not notes
    assert infer_partners(names, sides, places, 2.0) == ["b", "a", None, None, None]
    nearest, far = nearest_by_place(places, [0, 0, 1, 0, 0])
    assert nearest[0] == 1 and np.isinf(far[0, 2]) and far[0, 1] == 0.0
    empty, none = nearest_by_place(np.zeros((0, 3)), [])
    assert len(empty) == 0 and none.shape == (0, 0)
    wrong, notes = infer_sides(["arm_L", "spine"], np.array([[-0.5, 1, 0], [0.001, 1, 0]]), 2.0)
    assert wrong == [Side.LEFT, Side.CENTRE]
    assert notes == ["arm_L is left by its name but stands on the right."]


@pytest.mark.parametrize(
    ("name", "others", "partner"),
    [
        ("arm_L", ["arm_R"], "arm_R"),
        ("ARM_LEFT", ["ARM_RIGHT"], "ARM_RIGHT"),
        ("LeftArm", ["RightArm"], "RightArm"),
        ("lftArm", ["rgtArm"], "rgtArm"),
        ("l_elbow", ["r_elbow", "l_erbow"], "r_elbow"),
        ("arm_L", ["arm_X"], None),
        ("pillar", ["pirlar"], None),
    ],
)
def test_a_partner_s_name_has_the_other_side(
    name: str, others: list[str], partner: str | None
) -> None:
    assert partner_name(name, frozenset([name, *others])) == partner


def test_regions_by_words_else_by_where_it_hangs_and_stands() -> None:
    words = {
        "LeftHandThumb1": Region.HANDS,
        "brow_inner_up_L": Region.EYES,
        "jaw": Region.MOUTH,
        "mouthFrown": Region.MOUTH,
        "neck_01": Region.HEAD,
        "calf.R": Region.LEGS,
        "clavicle_r": Region.ARMS,
        "Spine2": Region.TORSO,
        "thing": None,
    }
    assert {name: region_from_name(name) for name in words} == words
    names = ["root", "x", "hand_L", "y", "z", "w", "v"]
    parents = [-1, 0, 1, 2, 0, 0, 0]
    places = np.array(
        [
            [0, 0, 0],
            [0, 1.95, 0],
            [0.9, 1.4, 0],
            [0.95, 1.4, 0],
            [0.3, 0.3, 0],
            [0.6, 1.4, 0],
            [0.9, 1.4, 0],
        ]
    )
    assert infer_regions(names, parents, places) == [
        Region.TORSO,
        Region.HEAD,
        Region.HANDS,
        Region.HANDS,
        Region.LEGS,
        Region.ARMS,
        Region.HANDS,
    ]
    flat = np.zeros((2, 3))
    assert infer_regions(["x", "y"], [-1, 0], flat) == [Region.TORSO, Region.TORSO]
    first = np.array([[0.0, 0.0, 0.0], [0.0, 1.9, 0.0]])  # a hand alone; what hangs on it is hand
    assert infer_regions(["hand_L", "y"], [-1, 0], first) == [Region.HANDS, Region.HANDS]


def test_labels_are_readable() -> None:
    labels = {
        "finger_index_1_L": "Index 1",
        "hand_L": "Hand",
        "LeftUpperArm": "Upper arm",
        "L": "L",
        "hand_2_L": "Hand 2",
    }
    assert {name: label_of(name) for name in labels} == labels


def test_the_casts_own_places_mirror(marrow: Rig) -> None:
    places = rest_places(marrow)
    for pair in pairs_of(marrow):
        if pair.found in (FoundBy.BOTH, FoundBy.PLACE):
            image = places[pair.other] * (-1.0, 1.0, 1.0)
            assert np.linalg.norm(places[pair.row] - image) == pytest.approx(pair.off, abs=1e-9)
            assert pair.off <= 0.002 * marrow.height
    assert doubts_of(marrow) == []
