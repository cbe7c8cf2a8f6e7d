"""What can be said of time, and what it is at first."""

from __future__ import annotations

from fox_hand.session.figures.playhead import Playhead


def test_playing_begins_again_and_numbers_stay_in_their_range() -> None:
    time = Playhead()
    assert time.loop
    heard: list[float] = []
    time.changed.connect(lambda: heard.append(time.rate))
    for wanted, kept in ((48.0, 48.0), (1000.0, 240.0), (240.0, 240.0), (0.0, 1.0)):
        time.set_rate(wanted)
        assert time.rate == kept
    assert heard == [48.0, 240.0, 1.0]  # once for each change
    time.set_range(10, 5)
    assert (time.first, time.last) == (10, 11)
    time.set_range(-4, 30)
    assert (time.first, time.last) == (0, 30)


def test_another_frame_is_told_from_the_same_one() -> None:
    playhead = Playhead()
    assert playhead.put(12.0) and playhead.frame == 12.0
    assert not playhead.put(12.0)
    assert playhead.put(12.5) and playhead.put(-3.0) and playhead.frame == 0.0
    assert not playhead.put(-1.0)  # which is the same place
