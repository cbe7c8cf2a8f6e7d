"""Which settings have a say in a shape, along drives of all kinds."""

from __future__ import annotations

import pytest

from fox_hand.core.model.controls import Channel
from fox_hand.core.model.solvers import Aim, Drive, DrivenKind
from fox_hand.core.pose.pose import ChannelFilter
from fox_hand.session.figures.depends import settings_behind
from tests.limb_rig import NAMES, limb_rig

FOLLOW, ROLL_UPPER, ROLL_LOWER = range(3)
LINE = ((0.0, 0.0), (1.0, 1.0))
TIP = NAMES.index("tip")


def chosen(*names: str, settings: tuple[int, ...] = ()) -> ChannelFilter:
    turns = frozenset({Channel.TURN})
    return ChannelFilter({NAMES.index(n): turns for n in names}, frozenset(settings))


@pytest.mark.parametrize(
    ("drive", "picked", "behind"),
    [
        # what turns a joint, and what drives a setting
        (Drive(ROLL_UPPER, DrivenKind.TURN, TIP, 0, LINE), chosen("tip"), {ROLL_UPPER}),
        (Drive(ROLL_UPPER, DrivenKind.TURN, TIP, 0, LINE), chosen("goal"), set()),
        (
            Drive(ROLL_UPPER, DrivenKind.SETTING, ROLL_LOWER, 0, LINE),
            chosen(settings=(ROLL_LOWER,)),
            {ROLL_UPPER},
        ),
        # a node and a setting of the same number are two things
        (Drive(ROLL_UPPER, DrivenKind.SETTING, FOLLOW, 0, LINE), chosen("root"), set()),
        (Drive(ROLL_UPPER, DrivenKind.TURN, 2, 0, LINE), chosen(settings=(2,)), set()),
        # what is multiplied counts for both
        (
            Drive(ROLL_UPPER, DrivenKind.MOVE, TIP, 0, LINE, times=ROLL_LOWER),
            chosen("tip"),
            {ROLL_UPPER, ROLL_LOWER},
        ),
        (
            Drive(ROLL_UPPER, DrivenKind.MOVE, TIP, 0, LINE, times=ROLL_LOWER),
            chosen(settings=(ROLL_UPPER,)),
            {ROLL_LOWER},
        ),
    ],
)
def test_what_drives_a_shape_lies_behind_it(
    drive: Drive, picked: ChannelFilter, behind: set[int]
) -> None:
    assert settings_behind(limb_rig(solvers=(), drives=(drive,)), picked) == behind


def test_drives_are_followed_from_one_to_the_next() -> None:
    drives = (
        Drive(FOLLOW, DrivenKind.SETTING, ROLL_UPPER, 0, LINE),
        Drive(ROLL_UPPER, DrivenKind.SETTING, ROLL_LOWER, 0, LINE),
        Drive(ROLL_LOWER, DrivenKind.SCALE, TIP, 0, LINE),
    )
    rig = limb_rig(solvers=(), drives=drives)
    assert settings_behind(rig, chosen("tip")) == {FOLLOW, ROLL_UPPER, ROLL_LOWER}


@pytest.mark.parametrize("name", ["upper", "lower", "end", "goal", "pole"])
def test_how_far_a_limb_follows_lies_behind_all_that_it_moves(name: str) -> None:
    assert settings_behind(limb_rig(), chosen(name)) == {FOLLOW}
    assert settings_behind(limb_rig(), chosen("tip")) == set()


def test_a_look_depends_on_how_far_it_follows() -> None:
    aim = Aim("Look", TIP, NAMES.index("goal"), blend=ROLL_UPPER)
    rig = limb_rig(solvers=(aim,))
    for name in ("tip", "goal"):
        assert settings_behind(rig, chosen(name)) == {ROLL_UPPER}
    assert settings_behind(rig, chosen("upper")) == set()
