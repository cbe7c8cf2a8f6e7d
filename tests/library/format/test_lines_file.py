"""Keys in files: what is no line is left out, everything else is kept as it was."""

from __future__ import annotations

import numpy as np
import pytest

from fox_hand.core.animation.curves import ChannelId, ChannelKind
from fox_hand.core.animation.interpolation import Ease
from fox_hand.library.format.lines_file import KeptLine, lines_from

MOVE = ChannelKind.MOVE


@pytest.mark.parametrize(
    ("frames", "values"),
    [
        ([], []),
        ([1.0, 2.0], [[0.0, 0.0, 0.0]]),
        ([1.0], [[0.0, 0.0]]),
        ([1.0, 2.0], [[0.0, 0.0, 0.0], [0.0]]),
        ([float("nan")], [[0.0, 0.0, 0.0]]),
        ([1.0], [[0.0, float("inf"), 0.0]]),
    ],
)
def test_what_is_no_line_is_left_out_and_the_others_are_read(
    frames: list[float], values: list[list[float]]
) -> None:
    bad = KeptLine(MOVE, "arm", frames, values, "s" * len(frames))
    good = KeptLine(MOVE, "leg", [1.0], [[1.0, 2.0, 3.0]], "h")
    found = lines_from([bad, good])
    assert list(found) == [ChannelId(MOVE, "leg")]
    assert found[ChannelId(MOVE, "leg")].eases.tolist() == [Ease.STEP]


def test_keys_out_of_order_are_put_in_order_and_of_two_on_a_frame_the_last_counts() -> None:
    kept = KeptLine(MOVE, "arm", [5.0, 1.0, 5.0], [[5.0] * 3, [1.0] * 3, [6.0] * 3], "hl")
    line = lines_from([kept])[ChannelId(MOVE, "arm")]
    assert line.frames.tolist() == [1.0, 5.0]
    assert line.values[:, 0].tolist() == [1.0, 6.0]
    assert line.eases.tolist() == [Ease.LINEAR, Ease.SMOOTH]  # letters that lack go smoothly
    turn = KeptLine(ChannelKind.TURN, "arm", [0.0], [[0.0, 0.0, 0.0, 2.0]], "s")
    found = lines_from([turn])[ChannelId(ChannelKind.TURN, "arm")]
    assert np.allclose(found.values, [[0, 0, 0, 1]])


@pytest.mark.parametrize(
    ("origins", "kept"), [([3, 0, 5], [3, 0, 5]), ([], [0, 0, 0]), ([3, 5], [0, 0, 0])]
)
def test_keys_know_their_cards_where_there_is_one_for_each(
    origins: list[int], kept: list[int]
) -> None:
    values = [[float(n), 0.0, 0.0] for n in range(3)]
    line = KeptLine(MOVE, "arm", [0.0, 1.0, 2.0], values, "hls", origins)
    found = lines_from([line])[ChannelId(MOVE, "arm")]
    assert found.origins.tolist() == kept
    assert found.eases.tolist() == [0, 1, 2]


def test_slopes_that_do_not_fit_are_left_to_the_neighbours() -> None:
    values = [[float(n), 0.0, 0.0] for n in range(3)]
    whole, empty, odd = [1.0, None, 0.0, 2.0, 0.0, 0.0], list[float](), [1.0, 2.0]
    line = KeptLine(MOVE, "arm", [0.0, 1.0, 2.0], values, "sss", slopes=[whole, empty, odd])
    slopes = lines_from([line])[ChannelId(MOVE, "arm")].slopes
    assert slopes is not None and np.isnan(slopes[1:]).all()
    assert np.isnan(slopes[0, 0, 1]) and slopes[0, 1].tolist() == [2.0, 0.0, 0.0]
    short = KeptLine(MOVE, "arm", [0.0, 1.0, 2.0], values, "sss", slopes=[whole])
    assert lines_from([short])[ChannelId(MOVE, "arm")].slopes is None
