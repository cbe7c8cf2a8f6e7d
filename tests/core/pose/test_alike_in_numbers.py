"""How alike poses are: worked examples, in angles that can be added by hand."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from fox_hand.core.pose.similarity import QUARTER, Numbers, Table, likeness


def bent(degrees: float) -> list[float]:
    return Rotation.from_euler("x", degrees, degrees=True).as_quat().tolist()


def numbers(settings: dict[str, float] | None = None, **degrees: float) -> Numbers:
    return Numbers({name: bent(angle) for name, angle in degrees.items()}, settings or {})


def table(*poses: Numbers, first: int = 10) -> Table:
    turning, settings = tuple(poses[0].turns), tuple(poses[0].settings)
    turns = np.array([[p.turns[n] for n in turning] for p in poses]).reshape(len(poses), -1, 4)
    values = np.array([[p.settings[n] for n in settings] for p in poses]).reshape(len(poses), -1)
    items = np.arange(first, first + len(poses))
    return Table.of(items, turning, settings, turns, values)


def test_the_way_from_rest_adds_angles_and_quarter_turns() -> None:
    pose = numbers({"smile": 0.5, "frown": -0.5}, hand=40, arm=20)
    assert pose.way() == pytest.approx(np.radians(60) + QUARTER)
    assert numbers().way() == 0.0
    assert Numbers({"a": [-v for v in bent(30)]}, {}).way() == pytest.approx(np.radians(30))


def test_alike_is_what_two_ways_have_in_common() -> None:
    # 30 of 60 apart, of 60 + 90 gone: 1 - 30 / 150
    assert likeness(numbers(hand=60), numbers(hand=90)) == pytest.approx(1 - 30 / 150)
    # what only one of them holds counts as at rest in the other, whichever it is
    both, one = numbers(hand=60, arm=20), numbers(hand=60)
    assert likeness(both, one) == pytest.approx(1 - 20 / 140)
    assert likeness(one, both) == pytest.approx(1 - 20 / 140)
    assert likeness(numbers(hand=60), numbers(hand=-60)) == pytest.approx(0.0, abs=1e-6)
    half, full = numbers({"smile": 0.5}, hand=45), numbers({"smile": 1.0}, hand=45)
    assert likeness(half, full) == pytest.approx(1 - 45 / (90 + 135))
    alone = numbers({"smile": 1.0})
    assert likeness(alone, numbers(hand=45)) == pytest.approx(0.0, abs=1e-6)
    assert likeness(numbers(), numbers()) == 1.0  # both at rest


def test_a_turn_is_the_same_with_all_signs_changed() -> None:
    other = Numbers({"hand": [-v for v in bent(60)]}, {})
    assert likeness(other, numbers(hand=60)) == pytest.approx(1.0, abs=1e-6)
    assert likeness(numbers(hand=60), other) == pytest.approx(1.0, abs=1e-6)


def test_only_some_columns_can_count() -> None:
    poses = table(
        numbers({"smile": 0.0, "squint": 1.0}, hand=60, arm=0),
        numbers({"smile": 1.0, "squint": 0.0}, hand=0, arm=60),
    )
    hand = poses.within(lambda name: name == "hand")
    assert hand is not None and hand.turning == ("hand",) and hand.settings == ()
    assert hand.nearest(numbers(hand=60), 2) == [
        (10, pytest.approx(1.0, abs=1e-6)),
        (11, pytest.approx(0.0, abs=1e-6)),
    ]
    squint = poses.within(lambda name: name == "squint")
    assert squint is not None and squint.turning == () and squint.settings == ("squint",)
    found = squint.nearest(numbers({"squint": 1.0}), 2)
    assert found == [(10, pytest.approx(1.0, abs=1e-6)), (11, pytest.approx(0.0, abs=1e-6))]
    some = poses.within(lambda name: name in ("arm", "smile"))
    assert some is not None
    assert some.nearest(numbers({"smile": 1.0}, arm=60), 1) == [(11, pytest.approx(1.0, abs=1e-6))]
    assert poses.within(set().__contains__) is None
    pose = numbers({"smile": 1.0, "squint": 0.5}, hand=60, arm=20)
    kept = pose.within(lambda name: name in ("arm", "squint"))
    assert set(kept.turns) == {"arm"} and kept.settings == {"squint": 0.5}


def test_the_most_alike_come_first_and_only_as_many_as_asked() -> None:
    poses = table(*(numbers(hand=angle) for angle in (10, 80, 55, 61, 5)))
    found = poses.nearest(numbers(hand=60), 3)
    assert [number for number, _ in found] == [13, 12, 11]
    assert [round(s, 3) for _, s in found] == [
        round(1 - abs(60 - a) / (60 + a), 3) for a in (61, 55, 80)
    ]
    assert len(table(numbers(hand=10)).nearest(numbers(hand=10), 5)) == 1
    none = Table.of(np.zeros(0, int), ("hand",), (), np.zeros((0, 1, 4)), np.zeros((0, 0)))
    assert none.nearest(numbers(hand=10), 5) == [] and none.twins(0.9) == []


def test_twins_are_those_that_share_enough_most_alike_first() -> None:
    angles = (60, 20, 62, 60, 100)
    poses = table(*(numbers({"smile": 0.0}, hand=a, arm=5) for a in angles))

    def share(a: float, b: float) -> float:
        return 1 - abs(a - b) / (a + b + 10)

    found = poses.twins(0.9)
    pairs = {(10, 13): share(60, 60), (10, 12): share(60, 62), (12, 13): share(60, 62)}
    assert {(a, b): s for a, b, s in found} == pytest.approx(pairs, abs=1e-6)
    assert found[0][:2] == (10, 13)
    near = {(10, 14), (12, 14), (13, 14)}
    assert near <= {(a, b) for a, b, _ in poses.twins(0.7)}
    assert poses.twins(1.5) == [] and table(numbers(hand=3)).twins(0.1) == []


@pytest.mark.parametrize("axis", ["x", "y", "z"])
def test_every_axis_counts_alike(axis: str) -> None:
    def about(degrees: float) -> list[float]:
        return Rotation.from_euler(axis, degrees, degrees=True).as_quat().tolist()

    pose = Numbers({"a": about(30), "b": about(-20)}, {})
    assert pose.way() == pytest.approx(np.radians(50))
    near, far = (
        Numbers({"a": about(32), "b": about(-20)}, {}),
        Numbers({"a": about(-30), "b": about(20)}, {}),
    )
    assert likeness(pose, near) == pytest.approx(1 - 2 / 102)
    assert likeness(pose, far) == pytest.approx(1 - 100 / 100)
    found = table(near, far, pose).nearest(pose, 3)
    assert [item for item, _ in found] == [12, 10, 11]
