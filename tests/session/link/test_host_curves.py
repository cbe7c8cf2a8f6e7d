"""A host's curves as our keys and back: against SciPy's polynomials, and against our own motion."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.interpolate import BPoly

from fox_hand.core.animation.curves import ChannelCurve, ChannelId, ChannelKind, Keys
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.maths.euler import from_euler
from fox_hand.interchange.link.messages import CurveSaid, KeySaid
from fox_hand.session.figures.animation import Animation
from fox_hand.session.link.host_curves import curves_from, keys_from, value_at
from fox_hand.session.link.own_terms import state_from, values_from
from tests.described import ARM, described_rig

NUMBER = st.floats(-50, 50)


@settings(max_examples=60, deadline=None)
@given(NUMBER, NUMBER, NUMBER, NUMBER, st.floats(2, 30), st.floats(0, 1))
def test_a_curve_with_handles_is_a_cubic_bezier(
    start: float, end: float, out: float, into: float, span: float, share: float
) -> None:
    """Handles a third of the way long are the Bernstein form that SciPy's BPoly evaluates."""
    keys = [
        KeySaid(10.0, start, "curve", None, (span / 3, out)),
        KeySaid(10.0 + span, end, "curve", (-span / 3, into), None),
    ]
    bernstein = BPoly([[start], [start + out], [end + into], [end]], [10.0, 10.0 + span])
    frame = 10.0 + share * span
    assert value_at(keys, frame) == pytest.approx(float(bernstein(frame)), abs=1e-6)


def test_steps_and_lines_and_what_lies_beyond_the_ends() -> None:
    keys = [KeySaid(1.0, 2.0, "step"), KeySaid(5.0, 4.0, "line"), KeySaid(9.0, 8.0)]
    asked = (-3.0, 1.0, 4.999, 5.0, 6.0, 9.0, 40.0)
    assert [value_at(keys, f) for f in asked] == [2.0, 2.0, 2.0, 4.0, 5.0, 8.0, 8.0]


def test_numbers_of_one_channel_become_one_key_and_other_numbers_stay() -> None:
    rig = described_rig(ARM)
    name = next(c.name for c in rig.controls if "turn" in c.channels)
    order = rig.controls[rig.control_row[name]].order
    curves = [
        CurveSaid(name, "turn.x", [KeySaid(1.0, 0.0), KeySaid(9.0, 40.0)], "Base"),
        CurveSaid(name, "turn.y", [KeySaid(5.0, 12.0, "step")], "Base"),
        CurveSaid(name, "turn.x", [KeySaid(1.0, 3.0)], "Above"),
        CurveSaid("nobody", "turn.x", [KeySaid(1.0, 3.0)], "Base"),
    ]
    keys = keys_from(rig, curves, {name: {"turn.z": 7.0}}, 0.01)
    ((channel, line),) = keys.lines.items()
    assert channel == ChannelId(ChannelKind.TURN, name)
    assert line.frames.tolist() == [1.0, 5.0, 9.0]
    wanted = np.radians([[3.0, 12.0, 7.0], [23.0, 12.0, 7.0], [43.0, 12.0, 7.0]])
    assert np.allclose(line.values, from_euler(wanted, order))
    assert line.eases.tolist() == [Ease.LINEAR, Ease.STEP, Ease.LINEAR]


def test_our_motion_goes_there_frame_by_frame() -> None:
    """A turn the long way round about a slanted axis, where three angles wander from ours."""
    rig = described_rig(ARM)
    row = next(i for i, c in enumerate(rig.controls) if "turn" in c.channels)
    name, order = rig.controls[row].name, rig.controls[row].order
    frames = np.array([1.0, 13.0, 40.0])
    angles = np.radians([[0.0, 0.0, 0.0], [70.0, -50.0, 35.0], [-40.0, 75.0, 120.0]])
    eases = np.full(3, int(Ease.SMOOTH), np.uint8)
    turns = from_euler(angles, order)
    line = ChannelCurve(frames, turns, eases, np.zeros(3, np.intp), angles)
    channel = ChannelId(ChannelKind.TURN, name)
    take = Animation(rig, rig.rest, Keys({channel: line}))
    curves = curves_from(rig, {channel: line}, take.many, 0.01)
    assert [c.channel for c in curves] == ["turn.x", "turn.y", "turn.z"]
    for frame in np.arange(1.0, 40.5, 0.5).tolist():
        shown = {name: {c.channel: value_at(c.keys, frame) for c in curves}}
        there = state_from(rig, shown, 0.01).turn[row]
        away = 2 * np.degrees(np.arccos(min(abs(float(there @ take.at(frame).turn[row])), 1.0)))
        assert away < (1e-5 if frame in (1.0, 13.0, 40.0) else 0.6)
    again = keys_from(rig, curves, values_from(rig, rig.rest, 0.01), 0.01)
    assert set(frames.tolist()) <= set(again.lines[channel].frames.tolist())
