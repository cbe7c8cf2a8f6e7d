"""Fingers of nameless hands are told apart by how they lie."""

from __future__ import annotations

import numpy as np
import pytest

from fox_hand.core.naming.finger_shapes import finger_shapes

ELBOW, HAND = 0, 1


def hand(early: float, aside: float, fingers: int = 4) -> tuple[list[list[int]], np.ndarray]:
    """A hand far from the middle that points along +X, its thumb last in the row.

    Args:
        early: by how much nearer to the wrist than the others the thumb begins.
        aside: radians by which it points away from them.
        fingers: beside the thumb.
    """
    places = [(-0.3, 0.0, 0.0), (0.0, 0.0, 0.0)]
    chains = []
    for number in range(fingers + 1):
        thumb = number == fingers
        begins = np.array([0.1 * (1 - early if thumb else 1), 0.0, 0.02 * number])
        way = np.array([np.cos(aside), 0.0, np.sin(aside)]) if thumb else np.array([1.0, 0, 0])
        chains.append(list(range(len(places), len(places) + 3)))
        places += [tuple(begins + way * 0.03 * bone) for bone in range(3)]
    return chains, np.array(places) + [0.5, 5.0, -2.0]


@pytest.mark.parametrize(("early", "aside"), [(0.5, 0.0), (0.0, 1.0), (0.3, 0.6)])
def test_the_thumb_begins_early_or_points_aside(early: float, aside: float) -> None:
    chains, places = hand(early, aside)
    found = finger_shapes(chains, HAND, ELBOW, places)
    assert found["ThumbMetacarpal"] == chains[-1][0] and found["ThumbDistal"] == chains[-1][2]
    assert found["IndexProximal"] == chains[3][0] and found["LittleDistal"] == chains[0][2]
    assert len(found) == 15


def test_where_no_thumb_is_plain_nothing_is_said() -> None:
    assert finger_shapes(*_told(hand(0.0, 0.0))) == {}
    assert finger_shapes(*_told(hand(0.5, 0.0, fingers=1))) == {}  # a claw of two is no hand


def _told(
    made: tuple[list[list[int]], np.ndarray],
) -> tuple[list[list[int]], int, int, np.ndarray]:
    return made[0], HAND, ELBOW, made[1]
