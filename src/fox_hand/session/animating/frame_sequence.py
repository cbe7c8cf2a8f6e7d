"""Frames to look through and to capture from: a performance, or a set of stepped poses."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace

import numpy as np
from psygnal import Signal

from fox_hand.core.animation.curves import ChannelCurve, ChannelId, ChannelKind
from fox_hand.core.animation.interpolation import Ease, Track
from fox_hand.core.animation.key_poses import held_frames, joint_speeds, key_poses
from fox_hand.core.animation.performance import FileKeys
from fox_hand.core.animation.sampler import line_of
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.state import State
from fox_hand.session.animating.motion_import import frame_of
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.frame_name import FrameName

WHOLE = 1e-3  # frames: what is nearer to a whole one stands on it
SAME = 1e-5  # metres, factors and quaternion numbers that keys may be off what was read
STILL = 1e-7  # off rest by less is no reason for keys


class FrameSequence:
    """Frames of one figure. Looking at a frame shows it on the figure; closing puts the figure
    back as it stood, bit for bit.

    Args:
        actor: the figure.
        states: a batch ``(F, C, ...)``.
        rate: frames a second.
        name: where it comes from.
        words: sentences about what stays out and what was changed on the way.
        loose: the same frames without feet that hold the ground; None where none do.
        keys: where the keys of the file stand, from the first frame on, by channel.
        ground: how far feet or hips are moved for feet to hold the ground, metres ``(F,)``.
    """

    changed = Signal()

    def __init__(
        self,
        actor: Figure,
        states: State,
        rate: float,
        name: str,
        words: tuple[str, ...] = (),
        loose: State | None = None,
        keys: Mapping[ChannelId, FileKeys] | None = None,
        ground: Array | None = None,
    ) -> None:
        self.actor, self.states, self.rate, self.name = actor, states, rate, name
        self.words, self._keys, self._ground = words, keys or {}, ground
        self._held, self._loose, self.feet_hold = states, loose, True
        self.before = actor.state
        self.frame: int | None = None
        self.marks: set[int] = set()
        self.names: dict[int, FrameName] = {}  # nobody has said any of a performance
        self._speed = joint_speeds(actor.rig, states)

    def __len__(self) -> int:
        return int(self.states.turn.shape[0])

    def at(self, frame: int) -> State:
        """The pose at a frame, without touching the figure."""
        return frame_of(self.states, frame)

    def show(self, frame: int) -> None:
        """Look at a frame."""
        frame = min(max(frame, 0), len(self) - 1)
        if frame != self.frame:
            self.frame = frame
            self.actor.show(self.at(frame))
            self.changed.emit()

    @property
    def can_hold(self) -> bool:
        """Whether there are feet that hold the ground, or may not."""
        return self._loose is not None

    @property
    def ground(self) -> Array | None:
        """How far feet or hips were moved, metres ``(F,)``; None where nothing was."""
        return self._ground if self._loose is not None and self.feet_hold else None

    def hold_feet(self, on: bool) -> None:
        """Feet hold the ground, or go as the file's legs do; marks stay."""
        if self._loose is None or on == self.feet_hold:
            return
        self.feet_hold = on
        self.states = self._held if on else self._loose
        if self.frame is not None:
            self.actor.show(self.at(self.frame))
        self.changed.emit()

    @staticmethod
    def number(frame: int) -> int:
        """What a frame is called: they are counted from 1."""
        return frame + 1

    def close(self) -> None:
        """The figure stands again as it did."""
        if self.frame is not None:
            self.actor.show(self.before)

    def mark(self, frames: Iterable[int], on: bool | None = None) -> None:
        """Mark frames that are worth keeping, or take the marks away; None exchanges."""
        for frame in frames:
            wanted = frame not in self.marks if on is None else on
            if wanted:
                self.marks.add(frame)
            else:
                self.marks.discard(frame)
        self.changed.emit()

    def propose(self) -> tuple[int, ...]:
        """Mark the key poses of a performance, at least half a second apart; returns them."""
        found = key_poses(self._speed, apart=max(round(self.rate / 2), 1))
        self.marks = set(found)
        self.changed.emit()
        return found

    def mark_held(self) -> tuple[int, ...]:
        """Mark every pose of a stepped set; returns them."""
        found = held_frames(self.states)
        self.marks = set(found)
        self.changed.emit()
        return found

    def lines(self, start: float, rate: float) -> dict[ChannelId, ChannelCurve]:
        """The frames as keys of a shot, of all that moves or stands away from rest: where the
        file has its keys if these say the same of every frame, else one a frame.

        Args:
            start: the shot's frame of the first one.
            rate: the shot's frames a second; other rates are sampled anew.
        """
        rig, states = self.actor.rig, self.states
        own = np.arange(len(self), dtype=np.float64) * rate / self.rate
        frames = np.arange(int(own[-1] + 1e-6) + 1, dtype=np.float64)
        found = {}
        for kind, values, rest in zip(
            ChannelKind, states.arrays(), rig.rest.arrays(), strict=False
        ):
            for row in range(values.shape[1]):
                columns = values[:, row].reshape(len(self), -1)
                if np.abs(columns - np.atleast_1d(rest[row])).max() < STILL:
                    continue
                setting = kind is ChannelKind.SETTING
                name = rig.settings[row].name if setting else rig.controls[row].name
                eases = np.full(len(own), Ease.LINEAR, np.uint8)
                track = Track(own, columns, eases, kind is ChannelKind.TURN)
                channel_id = ChannelId(kind, name)
                line = self._as_filed(channel_id, track, rate / self.rate)
                if line is None:
                    line = line_of(channel_id, frames, track.sample(frames), Ease.LINEAR)
                found[channel_id] = replace(line, frames=line.frames + start)
        return found

    def _as_filed(self, channel_id: ChannelId, track: Track, stretch: float) -> ChannelCurve | None:
        """The file's own keys of a channel, where they stand on whole frames of the shot and all
        frames are as they say; None where they are not, as where feet were held."""
        filed, last = self._keys.get(channel_id), len(self) - 1
        if filed is None or not len(filed.frames):
            return None
        inside = filed.frames[(filed.frames > -WHOLE) & (filed.frames < last + WHOLE)]
        ends = np.concatenate([[0.0], inside, [last]])  # keys outside may count within
        for own in (inside, np.unique(ends.round(3))):
            frames = own * stretch
            if not len(own) or max(_off_whole(own), _off_whole(frames)) > WHOLE:
                continue
            values = track.values[own.round().astype(np.intp)]
            line = line_of(channel_id, frames.round(), values, filed.ease)
            line = replace(line, slopes=_slopes_at(filed, own, values, stretch))
            off = np.abs(line.track.sample(track.frames) - track.values).max()
            if off < SAME:
                return line
        return None

    @property
    def stepped(self) -> bool:
        """Whether poses are held for several frames, so that this is a set of poses."""
        return len(held_frames(self.states)) * 2 <= len(self)


def _slopes_at(filed: FileKeys, own: Array, values: Array, stretch: float) -> Array | None:
    """The file's slopes at some of its frames ``(K,)``, in frames of the shot ``(K, 2, w)``; NaN
    where it has no key. The values ``(K, w)`` beside them may be written the other way."""
    if filed.slopes is None or filed.values is None:
        return None
    at = np.minimum(np.searchsorted(filed.frames, own - WHOLE), len(filed.frames) - 1)
    slopes = filed.slopes[at] / stretch
    slopes[np.abs(filed.frames[at] - own) > WHOLE] = np.nan
    if values.shape[1] == ChannelKind.TURN.width:
        slopes[(filed.values[at] * values).sum(-1) < 0] *= -1
    return slopes


def _off_whole(frames: Array) -> float:
    return float(np.abs(frames - frames.round()).max(initial=0.0))
