"""Clips being laid in, and blocks being changed: previews first, then one step."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
from psygnal import Signal

from fox_hand.base.language import tr
from fox_hand.core.animation.clip import Clip
from fox_hand.core.animation.clip_instances import ClipInstance
from fox_hand.core.animation.curves import (
    ChannelCurve,
    ChannelId,
    ChannelKind,
    Keys,
    Origin,
    joined,
    keys_at,
    row_of,
)
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.pose.sides import Sides
from fox_hand.core.rig.rig import Rig
from fox_hand.session.animating.clip_transfer import ClipFeet
from fox_hand.session.animating.clips import mirrored_clip
from fox_hand.session.figures.animation import Animation
from fox_hand.session.figures.cast import Cast
from fox_hand.session.figures.figure import Figure, KeyStep
from fox_hand.session.runtime.history import History


class ClipPlacement:
    """One block under the hand.

    Args:
        actor: whose.
        number: which of its blocks it is, or is to be.
        block: as it begins.
        fresh: whether it is new.
    """

    changed = Signal()

    def __init__(self, actor: Figure, number: int, instance: ClipInstance, *, fresh: bool) -> None:
        self.actor, self.number, self.fresh = actor, number, fresh
        self.before = actor.take
        self.source = instance.clip  # as captured
        self.feet = feet_of(instance.clip)
        self.side = Sides.CAPTURED
        self.instance = instance
        self._show()

    def _show(self) -> None:
        instances = list(self.before.instances)
        if self.fresh:
            instances.append(self.instance)
        else:
            instances[self.number] = self.instance
        self.actor.perform(replace(self.before, instances=tuple(instances)))
        self.changed.emit()

    def change(self, **fields: Any) -> None:
        """Other values of the block; the figure follows at once."""
        instance = replace(self.instance, **fields)
        if instance.repeats > 0 and 0.05 <= instance.speed <= 20.0 and instance.start >= 0:
            self.instance = instance
            self._show()

    def set_side(self, side: Sides) -> None:
        """As captured, on the other side, or on both."""
        if side is not self.side:
            self.side = side
            self.change(clip=self._sided(self.source))

    def make_seamless(self) -> None:
        """Let the end be the beginning."""
        held = self.feet_hold
        if self.feet is not None:
            self.feet = self.feet.map(Clip.seamless)
            self.source = self.feet.held if held else self.feet.loose
        else:
            self.source = self.source.seamless()
        self.change(clip=self._sided(self.source))

    @property
    def feet_hold(self) -> bool:
        """Whether feet hold the ground that might not."""
        return self.feet is not None and self.source is self.feet.held

    def hold_feet(self, on: bool) -> None:
        """Feet hold the ground, or go as the legs do; nothing where none of them stands."""
        if self.feet is not None and on != self.feet_hold:
            self.source = self.feet.held if on else self.feet.loose
            self.change(clip=self._sided(self.source))

    def _sided(self, clip: Clip) -> Clip:
        """A clip on the chosen side, which knows what its feet do."""
        found = mirrored_clip(self.actor.rig, clip, self.side)
        if self.feet is not None and found is not clip:
            hold = self.feet_hold
            other = self.feet.loose if hold else self.feet.held
            mirrored = mirrored_clip(self.actor.rig, other, self.side)
            pair = (found, mirrored) if hold else (mirrored, found)
            remember_feet(ClipFeet(*pair, self.feet.ground))
        elif self.feet is not None:
            remember_feet(self.feet)
        return found

    @property
    def seam(self) -> bool:
        """Whether it jumps where it begins again."""
        return bool(self.instance.clip.seams())


def feet_of(clip: Clip) -> ClipFeet | None:
    """What the feet of a clip do that was fitted in this window, as far as it is known."""
    known = vars(clip).get("_feet")
    return known if isinstance(known, ClipFeet) else None


def remember_feet(feet: ClipFeet) -> None:
    """Both clips know it from now on, for as long as they are there."""
    vars(feet.held)["_feet"] = vars(feet.loose)["_feet"] = feet


class ClipPlacements:
    """At most one block under the hand, on the member that acts.

    Args:
        cast, history: the workspace's.
    """

    changed = Signal()

    def __init__(self, cast: Cast, history: History) -> None:
        self._cast, self._history = cast, history
        self.now: ClipPlacement | None = None

    def settled(self, actor: Figure) -> Animation:
        """What a figure does without the block under the hand."""
        placement = self.now
        return (
            placement.before if placement is not None and placement.actor is actor else actor.take
        )

    def begin(
        self, clip: Clip, origin: Origin, feet: ClipFeet | None = None
    ) -> ClipPlacement | None:
        """Lay a clip in where we are. What begins and ends at rest is added on top, so that it
        goes over anything; everything else takes the place of what is there. ``feet`` says what the
        clip's feet do."""
        actor = self._cast.acting
        if actor is None:
            return None
        self.keep()
        rate = actor.timing.rate
        fitting = clip
        if abs(clip.rate - rate) > 1e-6:
            feet = feet.map(lambda one: one.retimed(rate)) if feet is not None else None
            fitting = clip.retimed(rate) if feet is None else feet.held
        if feet is not None:
            remember_feet(feet)
        quiet = _at_rest(actor.rig, fitting)
        fade = 0.0 if quiet else min(4.0, fitting.length / 4)
        instance = ClipInstance(
            fitting,
            origin,
            actor.timing.frame,
            fade_in=round(fade),
            fade_out=round(fade),
            on_top=quiet,
        )
        return self._take_up(ClipPlacement(actor, len(actor.take.instances), instance, fresh=True))

    def take_up(self, number: int) -> ClipPlacement | None:
        """Change a block that lies there."""
        actor = self._cast.acting
        if actor is None or not 0 <= number < len(actor.take.instances):
            return None
        if self.now is not None and self.now.actor is actor and self.now.number == number:
            return self.now
        self.keep()
        return self._take_up(
            ClipPlacement(actor, number, actor.take.instances[number], fresh=False)
        )

    def _take_up(self, placement: ClipPlacement) -> ClipPlacement:
        self.now = placement
        self.changed.emit()
        return placement

    def keep(self) -> None:
        """One step of all that was changed."""
        placement, self.now = self.now, None
        if placement is None:
            return
        actor, name = placement.actor, placement.instance.origin.name
        if actor.host and actor.take.instances != placement.before.instances:
            take = keyed(actor.take, placement.number)  # another program knows no clips of ours
            actor.perform(take)
            label = tr("Lay in {name}", name=name)
            self._history.push(KeyStep(actor, placement.before, take, label))
        elif actor.take.instances != placement.before.instances:
            label = (
                tr("Lay in {name}", name=name)
                if placement.fresh
                else tr("Change {name}", name=name)
            )
            self._history.push(KeyStep(actor, placement.before, actor.take, label))
        self.changed.emit()

    def put_back(self) -> None:
        """As if nothing had been changed."""
        placement, self.now = self.now, None
        if placement is not None:
            placement.actor.perform(placement.before)
            self.changed.emit()

    def as_keys(self) -> None:
        """The block becomes keys, as one step."""
        placement, self.now = self.now, None
        if placement is None:
            return
        actor = placement.actor
        take = keyed(actor.take, placement.number)
        actor.perform(take)
        label = tr("{name} as keys", name=placement.instance.origin.name)
        self._history.push(KeyStep(actor, placement.before, take, label))
        self.changed.emit()

    def remove(self, number: int) -> None:
        """Take a block away."""
        actor = self._cast.acting
        self.keep()
        if actor is None or not 0 <= number < len(actor.take.instances):
            return
        before = actor.take
        rest = before.instances[:number] + before.instances[number + 1 :]
        actor.perform(replace(before, instances=rest))
        name = before.instances[number].origin.name
        self._history.push(KeyStep(actor, before, actor.take, tr("Take out {name}", name=name)))


def _at_rest(rig: Rig, clip: Clip) -> bool:
    """Whether a clip begins and ends with everything at rest."""
    for channel_id, line in clip.lines.items():
        if row_of(rig, channel_id) is None:
            continue
        rest = np.zeros(channel_id.kind.width)
        if channel_id.kind is ChannelKind.TURN:
            rest[3] = 1.0
        elif channel_id.kind is ChannelKind.SCALE:
            rest[:] = 1.0
        elif channel_id.kind is ChannelKind.SETTING:
            rest[0] = rig.settings[rig.setting_row[channel_id.name]].default
        for value in (line.values[0], line.values[-1]):
            same = -value if channel_id.kind is ChannelKind.TURN and value[3] < 0 else value
            if np.abs(same - rest).max() > 1e-4:
                return False
    return True


def keyed(take: Animation, number: int) -> Animation:
    """A take with one block turned into keys: at the frames where its clip has keys, and at its
    ends, with what is shown there."""
    instance, rig = take.instances[number], take.rig
    others = replace(take, instances=take.instances[:number] + take.instances[number + 1 :])
    shown = replace(take, instances=(*take.instances[:number], instance))
    channel_ids = [
        channel_id for channel_id in instance.clip.lines if row_of(rig, channel_id) is not None
    ]
    frames = _key_frames(instance)
    keys, origin = others.keys.with_origin(instance.origin)
    found: dict[ChannelId, list[ChannelCurve]] = {channel_id: [] for channel_id in channel_ids}
    for frame, ease in frames:
        for channel_id, line in keys_at(
            rig, shown.at(frame), channel_ids, frame, ease, origin
        ).items():
            found[channel_id].append(line)
    fresh = {channel_id: joined(one) for channel_id, one in found.items()}
    first, last = frames[0][0], frames[-1][0]
    cleared: Keys = keys
    for channel_id in channel_ids:
        there = cleared.lines.get(channel_id)
        if there is not None:
            inside = there.frames[(there.frames > first) & (there.frames < last)]
            if len(inside):
                cleared = cleared.without({channel_id: inside})
    return replace(others, keys=replace(cleared, origins=keys.origins).with_lines(fresh))


def _key_frames(instance: ClipInstance) -> list[tuple[float, Ease]]:
    """Whole frames of the shot where the block's clip has keys, and how most go on from there."""
    eases: dict[float, list[int]] = {}
    for line in instance.clip.lines.values():
        for at, ease in zip(line.frames.tolist(), line.eases.tolist(), strict=True):
            inside = instance.clip.length - at if instance.backwards else at
            eases.setdefault(inside, []).append(ease)
    found: dict[float, int] = {}
    leads = {0.0, instance.lead}
    for begin in instance.starts.tolist():
        for inside, known in eases.items():
            for lead in leads:
                frame = float(round(instance.start + begin + inside / instance.speed - lead))
                if instance.start - abs(instance.lead) <= frame <= instance.end + 0.5:
                    found[frame] = max(set(known), key=known.count)
    for edge in (instance.start, instance.end):
        found.setdefault(float(round(edge)), int(Ease.SMOOTH))
    if instance.fade_in or instance.fade_out:
        for frame in (instance.start + instance.fade_in, instance.end - instance.fade_out):
            found.setdefault(float(round(frame)), int(Ease.SMOOTH))
    return sorted((f, Ease(e)) for f, e in found.items())
