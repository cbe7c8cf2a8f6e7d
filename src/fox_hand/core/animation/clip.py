"""Clips: keys of chosen channels over a span of frames, to be laid in anywhere."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from fox_hand.core.animation.curves import ChannelCurve, ChannelId, ChannelKind, Keys, place_of
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.animation.sampler import Sampler
from fox_hand.core.maths.rotations import (
    Array,
    angle_between,
    inverse,
    multiply,
    normalise,
    power,
    to_vector,
)
from fox_hand.core.model.controls import Side
from fox_hand.core.pose.pose import BoundPose
from fox_hand.core.rig.rig import Rig

PROFILE = 33  # places at which a drawing of a clip looks at it
SOON = 1e-4  # frames beside a key at which its slopes are measured
SEAM = 1e-4  # radians, metres or setting units that a seam may be off


@dataclass(frozen=True, eq=False)
class Clip:
    """Keys counted from frame 0.

    Args:
        lines: by channel.
        length: frames from the first to the last; after so many it repeats.
        rate: frames a second it was made for.
    """

    lines: Mapping[ChannelId, ChannelCurve]
    length: float
    rate: float = 24.0

    @cached_property
    def keys(self) -> Keys:
        """Its keys, without knowing any card."""
        return Keys(self.lines)

    @property
    def frames(self) -> Array:
        """All keyed frames, ascending, ``(K,)``."""
        return self.keys.frames()

    @cached_property
    def profile(self) -> tuple[float, ...]:
        """How far it is from its beginning along the way, 0...1 at even distances: what a drawing
        of it shows."""
        at = np.linspace(0.0, self.length, PROFILE)
        total = np.zeros(PROFILE)
        for channel_id, line in self.lines.items():
            values = line.track.sample(at)
            if channel_id.kind is ChannelKind.TURN:
                total += angle_between(values[0], values) ** 2
            else:
                total += ((values - values[0]) ** 2).sum(-1)
        total = np.sqrt(total)
        return tuple((total / max(float(total.max()), 1e-9)).tolist())

    def map(self, to: Callable[[ChannelCurve], ChannelCurve]) -> Clip:
        """Every line exchanged."""
        return replace(
            self, lines={channel_id: to(line) for channel_id, line in self.lines.items()}
        )

    def only(self, channel_ids: Iterable[ChannelId]) -> Clip:
        """Only some channels; those it does not have are passed over."""
        return replace(
            self,
            lines={
                channel_id: self.lines[channel_id]
                for channel_id in channel_ids
                if channel_id in self.lines
            },
        )

    def retimed(self, rate: float) -> Clip:
        """For another rate: the same lengths of time, keys on whole frames.

        A key that would fall onto its neighbour takes the next free frame, so that a blink at 30
        frames a second keeps its closed frames at 24.
        """
        factor = rate / self.rate

        def to(line: ChannelCurve) -> ChannelCurve:
            frames = np.round(line.frames * factor)
            for i in range(1, len(frames)):
                frames[i] = max(frames[i], frames[i - 1] + 1)
            return line.at_frames(frames)

        found = replace(self.map(to), rate=rate)
        last = max((float(line.frames[-1]) for line in found.lines.values()), default=0.0)
        return replace(found, length=max(round(self.length * factor), last))

    def reversed(self) -> Clip:
        """Backwards; how it goes on from a key is how it came to it before."""

        def to(line: ChannelCurve) -> ChannelCurve:
            order = np.arange(len(line))[::-1]
            turned = line.taken(order)
            eases = np.append(line.eases[:-1][::-1], line.eases[-1:]).astype(np.uint8)
            return replace(turned.at_frames(self.length - turned.frames), eases=eases)

        return self.map(to)

    # -- seams ----------------------------------------------------------------------------

    def seams(self) -> dict[ChannelId, float]:
        """Channels whose end is not their beginning, and how far they are off: radians, metres,
        factors or units of the setting."""
        found = {}
        for channel_id, line in self.lines.items():
            if channel_id.kind is ChannelKind.TURN:
                off = float(angle_between(line.values[0], line.values[-1]))
            else:
                off = float(np.abs(line.values[-1] - line.values[0]).max())
            if off > SEAM:
                found[channel_id] = off
        return found

    def seamless(self, *, spread: bool = True) -> Clip:
        """The end made equal to the beginning.

        Args:
            spread: take the drift back little by little over the whole clip; else only the last
                key becomes the first.
        """

        return self.map(lambda line: _closed(line, spread=spread))


def _closed(line: ChannelCurve, *, spread: bool) -> ChannelCurve:
    """A line whose last value is its first; its own slopes go with the values."""
    if len(line) < 2:
        return line
    span = line.frames[-1] - line.frames[0]
    share = (line.frames - line.frames[0]) / span if spread else np.zeros(len(line))
    share[-1] = 1.0
    drifts = 1.0 / span if spread else 0.0
    slopes = line.slopes
    if line.values.shape[1] == 4:
        drift = multiply(inverse(line.values[-1]), line.values[0])
        back = power(drift, share[:, None])
        values = multiply(line.values, back)
        if slopes is not None:
            turning = multiply(values, np.append(to_vector(drift) / 2, 0.0)) * drifts
            slopes = multiply(slopes, back[:, None]) + turning[:, None]
        values = normalise(values)
    else:
        drift = line.values[0] - line.values[-1]
        values = line.values + share[:, None] * drift
        slopes = slopes + drift * drifts if slopes is not None else None
    values[0] = values[-1] = line.values[0]
    euler = line.euler.copy() if line.euler is not None else None
    if euler is not None:
        euler[-1] = euler[0]
    return replace(line, values=values, euler=euler, slopes=slopes)


@dataclass(frozen=True, eq=False)
class _Played:
    rig: Rig
    player: Player


def player_of(rig: Rig, clip: Clip) -> Player:
    """A player of a clip. A clip remembers its last one: while a block is pulled along, all blocks
    are put together anew at every movement."""
    known = vars(clip).get("_played")
    if not isinstance(known, _Played) or known.rig is not rig:
        known = vars(clip)["_played"] = _Played(rig, Player(rig, clip))
    return known.player


class Player:
    """Samples a clip on one rig."""

    def __init__(self, rig: Rig, clip: Clip) -> None:
        self.rig, self.clip = rig, clip
        seams = clip.seams()
        self._timeline = Sampler(
            rig,
            Keys(
                {
                    channel_id: line if channel_id in seams else _around(line, clip.length)
                    for channel_id, line in clip.lines.items()
                }
            ),
        )
        rows: dict[ChannelKind, list[int]] = {kind: [] for kind in ChannelKind}
        self.missing: list[str] = []
        for channel_id in clip.lines:
            row = place_of(rig, channel_id)
            if row is not None:
                rows[channel_id.kind].append(row)
            else:
                self.missing.append(channel_id.name)
        self._rows = {kind: np.array(found, dtype=np.intp) for kind, found in rows.items()}

    def at(self, frame: float, side: Side | None = None) -> BoundPose:
        """Values at a frame; with ``side`` only of the controls on that side."""
        state = self._timeline.at(self.rig.rest, frame)
        rows = self._rows
        pose = BoundPose(
            rows[ChannelKind.MOVE],
            state.move[rows[ChannelKind.MOVE]],
            rows[ChannelKind.TURN],
            state.turn[rows[ChannelKind.TURN]],
            state.euler[rows[ChannelKind.TURN]],
            rows[ChannelKind.SCALE],
            state.scale[rows[ChannelKind.SCALE]],
            rows[ChannelKind.SETTING],
            state.settings[rows[ChannelKind.SETTING]],
            tuple(self.missing),
            len(self.clip.lines),
        )
        if side is None:
            return pose
        return pose.only(self.rig, [r for r, c in enumerate(self.rig.controls) if c.side is side])

    def but(self, frame: float, side: Side) -> BoundPose:
        """Values of everything that is not on a side."""
        rows = [r for r, c in enumerate(self.rig.controls) if c.side is not side]
        return self.at(frame).only(self.rig, rows)


def _around(line: ChannelCurve, length: float) -> ChannelCurve:
    """A line that ends as it begins, with a key of the time before and of the time after, so that
    it goes through its ends as smoothly as through its middle."""
    if len(line) < 3 or line.frames[0] > SEAM or line.frames[-1] < length - SEAM:
        return line
    before, after = line.taken(np.array([len(line) - 2])), line.taken(np.array([1]))
    before = replace(before, frames=before.frames - length)
    after = replace(after, frames=after.frames + length)
    return before.merged(line).merged(after)


def cut_out(
    keys: Keys,
    sample: Callable[[ChannelId, float], Array],
    channel_ids: Iterable[ChannelId],
    span: tuple[float, float],
    rate: float,
) -> Clip:
    """The clip of some channels between two frames.

    Lines that have no key at the ends get one there, with what is shown, so that the clip is the
    same by itself.

    Args:
        keys: the figure's keys.
        sample: the value of a channel at a frame, ``(w,)``.
        channels: what goes in.
        span: first and last frame.
        rate: frames a second.
    """
    first, last = span
    lines = {}
    for channel_id in channel_ids:
        line = keys.lines.get(channel_id)
        if line is None:
            continue
        inside = line.taken(np.flatnonzero((line.frames >= first) & (line.frames <= last)))
        for frame in (first, last):
            if inside.at(frame) is None:
                before = max(int(np.searchsorted(line.frames, frame, side="right")) - 1, 0)
                one = line.taken(np.array([before]))
                value = np.asarray(sample(channel_id, frame))[None]
                one = replace(one, frames=np.array([frame]), values=value, slopes=None)
                inside = inside.merged(one)
        origins = np.zeros(len(inside), np.intp)
        lines[channel_id] = replace(inside, frames=inside.frames - first, origins=origins)
    return Clip(lines, last - first, rate)


def mapped(clip: Clip, rig: Rig, change: Callable[[BoundPose], BoundPose]) -> Clip:
    """A clip with every keyed moment changed as a pose: mirrored, or fitted to another character.

    Channels keep their own keys where the changed pose has a channel of the same name, or of the
    partner's; others are keyed at all moments.

    Args:
        clip: what is changed.
        rig: what its channels are sampled on.
        change: poses in, poses out, on ``rig``.
    """
    player, frames = Player(rig, clip), clip.frames.tolist()

    def beside(by: float) -> Clip:
        return of_moments(clip, rig, [(f, change(player.at(f + by))) for f in frames])

    found = beside(0.0)
    if all(line.slopes is None for line in clip.lines.values()):
        return found
    before, after = beside(-SOON).lines, beside(SOON).lines
    lines = {c: _with_slopes(c, line, before[c], after[c]) for c, line in found.lines.items()}
    return replace(found, lines=lines)


def _with_slopes(
    channel_id: ChannelId, line: ChannelCurve, before: ChannelCurve, after: ChannelCurve
) -> ChannelCurve:
    """A line with slopes of its own, from what it is just before and just after its keys."""
    values, sides = line.values, [before.values, after.values]
    if channel_id.kind is ChannelKind.TURN:
        sides = [np.where((v * values).sum(-1, keepdims=True) < 0, -v, v) for v in sides]
    slopes = np.stack([values - sides[0], sides[1] - values], axis=1) / SOON
    smooth = line.eases == Ease.SMOOTH  # of steps and straight ways nothing is kept
    slopes[np.append(True, ~smooth[:-1]), 0] = slopes[~smooth, 1] = np.nan
    return replace(line, slopes=slopes)


def of_moments(clip: Clip, rig: Rig, poses: Iterable[tuple[float, BoundPose]]) -> Clip:
    """A clip with other channels: poses at keyed frames of it, going on as most of its channels do.

    Args:
        clip: gives length, rate and how it goes on.
        rig: what the poses are bound to.
        poses: by frame, ascending.
    """
    columns: dict[ChannelId, list[tuple[float, Array, Array | None]]] = {}
    for frame, pose in poses:
        for channel_id, value, euler in channel_values(rig, pose):
            columns.setdefault(channel_id, []).append((frame, value, euler))
    ease_at = _eases(clip)
    lines = {}
    for channel_id, found in columns.items():
        at = np.array([f for f, _, _ in found])
        euler = None
        if channel_id.kind is ChannelKind.TURN:
            euler = np.array([np.zeros(3) if e is None else e for _, _, e in found])
        lines[channel_id] = ChannelCurve(
            at,
            np.array([v for _, v, _ in found]),
            np.array([ease_at[f] for f in at.tolist()], np.uint8),
            np.zeros(len(at), np.intp),
            euler,
        )
    return replace(clip, lines=lines)


def _eases(clip: Clip) -> dict[float, int]:
    """How most channels go on from each keyed frame."""
    found: dict[float, list[int]] = {}
    for line in clip.lines.values():
        for frame, ease in zip(line.frames.tolist(), line.eases.tolist(), strict=True):
            found.setdefault(frame, []).append(ease)
    return {f: max(set(eases), key=eases.count) for f, eases in found.items()}


def channel_values(rig: Rig, pose: BoundPose) -> list[tuple[ChannelId, Array, Array | None]]:
    """Of every channel and setting that a pose holds its id, its value ``(w,)`` relative to rest
    (metres, quaternion x, y, z, w, factor, setting), and of turns the Euler angles ``(3,)`` in
    radians."""
    found: list[tuple[ChannelId, Array, Array | None]] = []
    for kind, rows, values in (
        (ChannelKind.MOVE, pose.move_rows, pose.move),
        (ChannelKind.SCALE, pose.scale_rows, pose.scale),
    ):
        for row, value in zip(rows.tolist(), values, strict=True):
            found.append((ChannelId(kind, rig.controls[row].name), value, None))
    for row, value, euler in zip(pose.turn_rows.tolist(), pose.turn, pose.euler, strict=True):
        found.append((ChannelId(ChannelKind.TURN, rig.controls[row].name), value, euler))
    for row, setting in zip(pose.setting_rows.tolist(), pose.settings, strict=True):
        found.append(
            (ChannelId(ChannelKind.SETTING, rig.settings[row].name), np.array([setting]), None)
        )
    return found
