"""Nameless animals: which joints are legs, and which a tail, wings or further limbs. Invented."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from fox_hand.core.model.controls import Region, Side
from fox_hand.core.model.skeleton import Skeleton
from fox_hand.core.naming.shape_roles import shape_roles
from fox_hand.interchange.joint_controls import joint_controls
from tests.beast import parts


def beast_joints(
    wing: float, *, more_legs: bool = False
) -> tuple[list[str], list[int], np.ndarray]:
    """Joints of an animal on four legs with a tail and wings of some length in three joints, or
    with a third pair of legs instead of the wings."""
    found = [(n, above, at) for n, above, at, _, _ in parts() if not n.startswith("wing")]
    for side, x in (("L", 1.0), ("R", -1.0)):
        above = "chest"
        for i in range(4):
            out = np.array([x, 0.35, -0.6]) * wing * i / 3
            place = np.array([0.14 * x, 0.85, 0.3]) + out
            if more_legs:
                place = np.array([0.14 * x, 0.6 - 0.19 * i, 0.05])
            found.append((f"wing_{i}_{side}", above if i else "spine", tuple(place)))
            above = f"wing_{i}_{side}"
    names = [n for n, _, _ in found]
    parents = [names.index(above) if above else -1 for _, above, _ in found]
    return names, parents, np.array([at for _, _, at in found])


@pytest.mark.parametrize("yaw", [0.0, 115.0])
@pytest.mark.parametrize("wing", [0.4, 1.5])
def test_tails_and_wings_of_nameless_animals_are_told_from_legs(wing: float, yaw: float) -> None:
    names, parents, places = beast_joints(wing)
    places = Rotation.from_euler("y", yaw, degrees=True).apply(places) + (3, 0, 1)
    found = shape_roles(parents, places)
    assert found.four_legged and found.sure == 0.8
    by_role = {role: names[row] for role, row in found.roles.items()}
    assert (by_role["leftUpperLeg"], by_role["rightUpperArm"]) == ("thigh_L", "upperarm_R")
    assert (by_role["hips"], by_role["head"]) == ("hips", "head")
    told = {names[row]: region for row, region in found.parts.items()}
    tail = {n: Region.TAIL for n in names if n.startswith("tail")}
    assert told == tail | {n: Region.WINGS for n in names if n.startswith("wing")}
    together = {(names[one], names[other]) for one, other in found.pairs}
    assert {(f"wing_{i}_L", f"wing_{i}_R") for i in range(4)} <= together
    skeleton = Skeleton(
        tuple(f"n{i}" for i in range(len(names))),
        tuple(parents),
        places - np.array([places[p] if p >= 0 else np.zeros(3) for p in parents]),
        np.tile([0.0, 0.0, 0.0, 1.0], (len(names), 1)),
        np.ones((len(names), 3)),
    )
    controls = joint_controls(skeleton, range(len(names))).controls
    known = {names[i]: (c.region, c.side) for i, c in enumerate(controls)}
    assert known["tail_2"] == (Region.TAIL, Side.CENTRE)
    assert known["wing_3_R"] == (Region.WINGS, Side.RIGHT)
    assert controls[names.index("wing_2_L")].partner == f"n{names.index('wing_2_R')}"


def test_a_third_pair_of_legs_is_a_further_limb() -> None:
    names, parents, places = beast_joints(0.5, more_legs=True)
    found = shape_roles(parents, places)
    assert found.four_legged
    told = {names[row]: region for row, region in found.parts.items()}
    limbs = sorted(name for name, region in told.items() if region is Region.LIMBS)
    assert [name[:-1] for name in limbs[::2]] == [name[:-1] for name in limbs[1::2]]
    assert len(limbs) >= 6 and not any(name.startswith(("ear", "tail")) for name in limbs)
    legs = {"leftUpperLeg", "rightUpperLeg", "leftUpperArm", "rightUpperArm"}
    assert not {names[found.roles[role]] for role in legs} & set(limbs)
    assert {n for n, r in told.items() if r is Region.TAIL} == {"tail_1", "tail_2", "tail_3"}
