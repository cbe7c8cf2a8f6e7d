"""Clips laid in as blocks: repeated, retimed, blended in and out, over the keys of a figure."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from fox_hand.core.animation.clip import Clip, Player, player_of
from fox_hand.core.animation.curves import Origin
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.controls import Side
from fox_hand.core.model.state import State
from fox_hand.core.pose.additive import layer
from fox_hand.core.pose.blend import blend
from fox_hand.core.rig.rig import Rig

FINE = 400  # steps of what is drawn of a block


@dataclass(frozen=True, eq=False)
class ClipInstance:
    """One clip in a shot.

    Args:
        clip: what is played.
        origin: the card it came from.
        start: the shot's frame of the clip's first.
        repeats: how often; parts of a time are possible.
        speed: 2 is twice as fast.
        backwards: played from its end.
        gap: frames of rest between two times, with the values of the end.
        lead, lead_side: frames that one side of the body is ahead.
        fade_in, fade_out: frames over which it comes in and goes out.
        strength: how much of it, 1 is all.
        on_top: added to what is there instead of taking its place.
        jitter: frames by which each time may come earlier or later.
        doubles: share of the times that come twice in a row.
        seed: which of the many ways of jitter and doubles.
    """

    clip: Clip
    origin: Origin
    start: float
    repeats: float = 1.0
    speed: float = 1.0
    backwards: bool = False
    gap: float = 0.0
    lead: float = 0.0
    lead_side: Side = Side.LEFT
    fade_in: float = 0.0
    fade_out: float = 0.0
    strength: float = 1.0
    on_top: bool = False
    jitter: float = 0.0
    doubles: float = 0.0
    seed: int = 1

    @property
    def once(self) -> float:
        """Frames that one time takes."""
        return self.clip.length / self.speed

    @cached_property
    def starts(self) -> Array:
        """Frames ``(N,)`` at which each time begins, counted from the instance's start; the same
        for a seed ever after."""
        count = max(int(np.ceil(self.repeats - 1e-9)), 1)
        if self.jitter <= 0 and self.doubles <= 0:
            return np.asarray(np.arange(count) * (self.once + self.gap))
        chance = np.random.default_rng(self.seed)
        found: list[float] = []
        at = 0.0
        for number in range(count):
            shift = float(np.round(chance.uniform(-self.jitter, self.jitter))) if number else 0.0
            begin = max(at + shift, (found[-1] + self.once) if found else 0.0)
            found.append(begin)
            if chance.random() < self.doubles:
                found.append(begin + self.once + 1.0)
            at = at + self.once + self.gap
        return np.array(found)

    @cached_property
    def length(self) -> float:
        """Frames from its start to its end."""
        rest = self.repeats - int(self.repeats + 1e-9)
        last = float(self.starts[-1])
        if rest > 1e-6:
            return last + rest * self.once
        return last + self.once

    @property
    def end(self) -> float:
        return self.start + self.length

    def clip_frames(self, at: Array) -> Array:
        """The clip's frames ``(N,)`` that are played some frames after the block's start.

        Args:
            at: frames after it, ``(N,)`` or a single one.
        """
        number = np.searchsorted(self.starts, at + 1e-9, side="right") - 1
        inside = (at - self.starts[np.maximum(number, 0)]) * self.speed
        inside = np.clip(inside, 0.0, self.clip.length)
        return np.asarray(self.clip.length - inside if self.backwards else inside)

    def clip_frame(self, at: float) -> float:
        """The same for one."""
        return float(self.clip_frames(np.asarray(at)))

    def weights(self, at: Array) -> Array:
        """How strongly it counts some frames after its start, ``(N,)`` like ``at``."""
        rise = np.minimum(at / self.fade_in, 1.0) if self.fade_in > 0 else np.ones_like(at)
        left = self.length - at
        fall = np.minimum(left / self.fade_out, 1.0) if self.fade_out > 0 else np.ones_like(at)
        inside = (at >= -1e-9) & (at <= self.length + 1e-9)
        return np.where(inside, self.strength * smooth(rise) * smooth(fall), 0.0)

    def weight(self, at: float) -> float:
        """The same for one."""
        return float(self.weights(np.asarray(at, dtype=np.float64)))

    @cached_property
    def envelope(self) -> Array:
        """How much moves along its way and counts, 0 to 1, ``(FINE + 1,)`` at even steps."""
        profile, high = np.array(self.clip.profile), max(abs(self.strength), 1.0)
        at = self.length * np.arange(FINE + 1) / FINE
        along = self.clip_frames(at) / max(self.clip.length, 1e-9)
        moved = profile[np.rint(along * (len(profile) - 1)).astype(np.intp)]
        return np.asarray(moved * np.maximum(self.weights(at), 0.0) / high)


def smooth(part: Array) -> Array:
    """From 0 to 1 without a jolt at either end, ``(N,)`` like ``part``."""
    part = np.clip(part, 0.0, 1.0)
    return np.asarray(part * part * (3.0 - 2.0 * part))


class ClipInstancePlayer:
    """Plays the blocks of one figure over its keys.

    The keys come first, then the blocks in the order in which they begin, of those that begin
    together the one laid in first; each works on what those before it left.

    Args:
        rig: the figure's rig.
        blocks: in the order in which they were laid in.
    """

    def __init__(self, rig: Rig, instances: tuple[ClipInstance, ...]) -> None:
        self._rig = rig
        order = sorted(range(len(instances)), key=lambda i: (instances[i].start, i))
        self._played = [(instances[i], player_of(rig, instances[i].clip)) for i in order]

    def over(self, state: State, frame: float) -> State:
        """A figure at a frame with the blocks on it."""
        for instance, player in self._played:
            at = frame - instance.start
            if not instance.lead:
                state = self._laid(state, instance, player, at, None)
            else:
                state = self._laid(state, instance, player, at, instance.lead_side, others=True)
                state = self._laid(state, instance, player, at + instance.lead, instance.lead_side)
        return state

    def _laid(
        self,
        state: State,
        instance: ClipInstance,
        player: Player,
        at: float,
        side: Side | None,
        *,
        others: bool = False,
    ) -> State:
        weight = instance.weight(at)
        if weight == 0.0:
            return state
        frame = instance.clip_frame(at)
        pose = player.but(frame, side) if others and side is not None else player.at(frame, side)
        rules = self._rig.setting_rules
        if instance.on_top:
            return layer(state, pose, self._rig.rest, weight, rules)
        return blend(state, pose, weight, rules)
