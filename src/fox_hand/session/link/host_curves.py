"""Curves as a host has them, one for each number, and keys as we have them, one for each channel;
both ways."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

import numpy as np

from fox_hand.core.animation.curves import (
    ChannelCurve,
    ChannelId,
    ChannelKind,
    Keys,
    row_of,
)
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.maths.euler import from_euler, to_euler_near
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.link.messages import CurveSaid, KeySaid
from fox_hand.session.link.own_terms import AXES, Values

EASES = {"step": Ease.STEP, "line": Ease.LINEAR, "curve": Ease.SMOOTH}
HALVINGS = 40  # of a span, in the search for the place of a frame on a curve
NEAR = 1e-3  # frames on each side of a key, to see how steep it is there
TRUE = 0.25  # degrees that a turn may be off in the middle between two keys
CLOSE = 1.5  # frames; keys that lie closer get none between them
States = Callable[[Array], State]


def value_at(keys: Sequence[KeySaid], frame: float) -> float:
    """The value of a host's curve at a frame, held before the first and after the last key; with
    handles it is a cubic Bezier curve, as :doc:`docs/format/link.md` says."""
    after = next((i for i, key in enumerate(keys) if key.frame > frame), len(keys))
    if after in (0, len(keys)):
        return keys[min(after, len(keys) - 1)].value
    start, end = keys[after - 1], keys[after]
    span = end.frame - start.frame
    if start.ease == "step":
        return start.value
    share = (frame - start.frame) / span
    if start.ease == "line":
        return start.value + share * (end.value - start.value)
    out = start.after or (span / 3, 0.0)
    into = end.before or (-span / 3, 0.0)
    times = (0.0, out[0] / span, 1.0 + into[0] / span, 1.0)
    low, high = 0.0, 1.0
    for _ in range(HALVINGS):
        middle = (low + high) / 2
        low, high = (middle, high) if _bezier(times, middle) < share else (low, middle)
    values = (start.value, start.value + out[1], end.value + into[1], end.value)
    return _bezier(values, (low + high) / 2)


def _bezier(points: tuple[float, float, float, float], t: float) -> float:
    a, b, c, d = points
    s = 1.0 - t
    return s * s * s * a + 3 * s * s * t * b + 3 * s * t * t * c + t * t * t * d


# -- from there to here -----------------------------------------------------------------------


def keys_from(rig: Rig, curves: Iterable[CurveSaid], values: Values, unit: float) -> Keys:
    """A host's curves as keys of ours: at every frame where any of a channel's numbers has a key.
    What lies between them is near to what the host shows, no more; its values are what counts.

    Args:
        rig: made of the host's description.
        curves: of all layers, the lowest first; those above are added.
        values: numbers that no curve moves.
        unit: metres of one of the host's units.
    """
    known: dict[tuple[str, str], list[CurveSaid]] = {}
    for curve in curves:
        kind, _, axis = curve.channel.partition(".")
        moved = axis in AXES and kind in ("move", "turn", "scale")
        if curve.keys and curve.control in rig.control_row:
            if moved:
                known.setdefault((curve.control, kind), []).append(curve)
            elif curve.channel in rig.setting_row:
                known.setdefault((curve.channel, "setting"), []).append(curve)
    return Keys().with_lines(
        {
            ChannelId(ChannelKind(kind), name): _line(rig, name, kind, found, values, unit)
            for (name, kind), found in known.items()
        }
    )


def _line(
    rig: Rig, name: str, kind: str, curves: list[CurveSaid], values: Values, unit: float
) -> ChannelCurve:
    frames = np.unique([key.frame for curve in curves for key in curve.keys]).astype(np.float64)
    at: dict[float, list[str]] = {}
    for curve in curves:
        for key in curve.keys:
            at.setdefault(key.frame, []).append(key.ease)
    eases = np.array([EASES[max(set(at[f]), key=at[f].count)] for f in frames], np.uint8)
    origins = np.zeros(len(frames), np.intp)
    if kind == "setting":
        numbers = np.array([[_sum(curves, f)] for f in frames.tolist()])
        return ChannelCurve(frames, numbers, eases, origins)
    three = np.empty((len(frames), 3))
    for i, axis in enumerate(AXES):
        own = [c for c in curves if c.channel == f"{kind}.{axis}"]
        rest = 1.0 if kind == "scale" else 0.0
        still = values.get(name, {}).get(f"{kind}.{axis}", rest)
        three[:, i] = [_sum(own, f) if own else still for f in frames.tolist()]
    if kind == "turn":
        angles = np.radians(three)
        order = rig.controls[rig.control_row[name]].order
        return ChannelCurve(frames, from_euler(angles, order), eases, origins, angles)
    return ChannelCurve(frames, three * unit if kind == "move" else three, eases, origins)


def _sum(curves: Iterable[CurveSaid], frame: float) -> float:
    return sum(value_at(curve.keys, frame) for curve in curves)


# -- from here to there -----------------------------------------------------------------------


@dataclass(frozen=True)
class _Way:
    """What the numbers of a channel go through.

    Args:
        names: of the numbers, as the host has them.
        at: frames ``(F,)`` -> numbers ``(F, N)``.
        turn: whether they are angles.
    """

    names: tuple[str, ...]
    at: Callable[[Array], Array]
    turn: bool


def curves_from(
    rig: Rig, lines: Mapping[ChannelId, ChannelCurve], states: States, unit: float
) -> list[CurveSaid]:
    """Our keys as a host's curves, with handles as steep as our motion is there. Where three angles
    would leave our turn by more than ``TRUE`` degrees, keys come between.

    Args:
        rig: made of the host's description.
        lines: the keys.
        states: frames ``(F,)`` -> how the figure stands there, a batch.
        unit: metres of one of the host's units.
    """
    found: list[CurveSaid] = []
    known: dict[bytes, State] = {}  # many channels have keys at the same frames

    def once(frames: Array) -> State:
        word = frames.tobytes()
        if word not in known:
            known[word] = states(frames)
        return known[word]

    for channel_id, line in lines.items():
        row = row_of(rig, channel_id)
        if row is None or not len(line):
            continue
        way = _way(rig, channel_id, row, once, unit)
        frames, eases = line.frames, dict(zip(line.frames.tolist(), line.eases, strict=True))
        keys = _keys(way, frames, eases)
        if way.turn:
            frames = _closer(way, keys, frames, eases)
            keys = _keys(way, frames, eases)
        control = rig.controls[row].name
        found += [
            CurveSaid(control, name, own) for name, own in zip(way.names, keys, strict=True) if own
        ]
    return found


def _way(rig: Rig, channel_id: ChannelId, row: int, states: States, unit: float) -> _Way:
    if channel_id.is_setting:
        place = rig.setting_row[channel_id.name]
        return _Way((channel_id.name,), lambda f: states(f).settings[:, [place]], turn=False)
    kind = channel_id.kind
    names = tuple(f"{kind.value}.{axis}" for axis in AXES)
    if kind is ChannelKind.TURN:
        order = rig.controls[row].order

        def angles(frames: Array) -> Array:
            shown = states(frames)
            found, near = np.empty((len(frames), 3)), shown.euler[0, row]
            for i, turn in enumerate(shown.turn[:, row]):
                found[i] = near = to_euler_near(turn, order, near)
            return np.degrees(found)

        return _Way(names, angles, turn=True)
    if kind is ChannelKind.MOVE:
        return _Way(names, lambda f: states(f).move[:, row] / unit, turn=False)
    return _Way(names, lambda f: states(f).scale[:, row], turn=False)


def _keys(way: _Way, frames: Array, eases: Mapping[float, int]) -> list[list[KeySaid]]:
    """Keys of each of the numbers."""
    around = np.stack([frames - NEAR, frames, frames + NEAR], axis=1)
    near = way.at(around.ravel()).reshape(len(frames), 3, -1)
    into, out = (near[:, 1] - near[:, 0]) / NEAR, (near[:, 2] - near[:, 1]) / NEAR
    into[0], out[-1] = out[0], into[-1]  # what lies beyond the ends is not ours
    before = np.diff(frames, prepend=frames[0] - 1.0) / 3
    after = np.diff(frames, append=frames[-1] + 1.0) / 3
    found: list[list[KeySaid]] = []
    for n in range(near.shape[2]):
        own: list[KeySaid] = []
        for i, frame in enumerate(frames.tolist()):
            ease = eases.get(frame, int(Ease.SMOOTH))
            word: Literal["step", "curve"] = "step" if ease == Ease.STEP else "curve"
            own.append(
                KeySaid(
                    frame,
                    float(near[i, 1, n]),
                    "line" if ease == Ease.LINEAR and not way.turn else word,
                    (float(-before[i]), float(-before[i] * into[i, n])),
                    (float(after[i]), float(after[i] * out[i, n])),
                )
            )
        found.append(own)
    return found


def _closer(
    way: _Way, keys: list[list[KeySaid]], frames: Array, eases: Mapping[float, int]
) -> Array:
    """The frames, and more where the middle between two is too far off."""
    spans = [
        (start, end)
        for start, end in pairwise(frames.tolist())
        if end - start > CLOSE and eases.get(start) != Ease.STEP
    ]
    more: list[float] = []
    while spans:
        middles = np.array([float(round((start + end) / 2)) for start, end in spans])
        wanted = way.at(np.concatenate([frames[:1], middles]))[1:]
        shown = np.array([[value_at(own, m) for own in keys] for m in middles.tolist()])
        far = np.abs(wanted - shown).max(-1) > TRUE
        halves = [(m, s) for m, s, off in zip(middles.tolist(), spans, far, strict=True) if off]
        more += [middle for middle, _ in halves]
        keys = _keys(way, np.unique(np.concatenate([frames, more])), eases)
        spans = [
            half
            for middle, (start, end) in halves
            for half in ((start, middle), (middle, end))
            if half[1] - half[0] > CLOSE
        ]
    return np.unique(np.concatenate([frames, more]))
