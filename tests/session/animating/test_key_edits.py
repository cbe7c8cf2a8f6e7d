"""Holding keys."""

from __future__ import annotations

import numpy as np
import pytest

from fox_hand.core.animation.curves import NO_KEYS, ChannelId, ChannelKind, Keys
from fox_hand.session.animating.key_edits import held
from fox_hand.session.animating.key_groups import KeyGroup, key_groups_of
from tests.core.animation.test_curves import line

MOVE = ChannelId(ChannelKind.MOVE, "arm")


def group(keys: Keys, frame: float) -> KeyGroup:
    return next(g for g in key_groups_of(keys, [MOVE]) if g.frame == frame)


@pytest.mark.parametrize("until", [7.0, 9.0, 10.0])
def test_a_hold_takes_the_place_of_the_keys_inside_it(until: float) -> None:
    keys = NO_KEYS.with_lines({MOVE: line(2, 4, 6, 12)})
    found = held(keys, group(keys, 2.0), until)
    assert found.lines[MOVE].frames.tolist() == [2, until, 12]
    assert found.lines[MOVE].values[:, 0].tolist() == [2, 2, 12]
    assert group(found, 2.0).held
    shorter = held(found, group(found, 2.0), 5.0)
    assert shorter.lines[MOVE].frames.tolist() == [2, 5, 12]
    ended = held(shorter, group(shorter, 2.0), 2.0)
    assert ended.lines[MOVE].frames.tolist() == [2, 12]
    assert np.array_equal(keys.lines[MOVE].frames, [2, 4, 6, 12])
