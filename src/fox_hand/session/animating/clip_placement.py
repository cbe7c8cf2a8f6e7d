"""Clips being laid in, and blocks being changed: previews first, then one step."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
from psygnal import Signal

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

    def __init__(self, actor: Figure, number: int, block: ClipInstance, *, fresh: bool) -> None:
        self.actor, self.number, self.fresh = actor, number, fresh
        self.before = actor.take
        self.source = block.clip  # as captured
        self.side = Sides.CAPTURED
        self.block = block
        self._show()

    def _show(self) -> None:
        blocks = list(self.before.blocks)
        if self.fresh:
            blocks.append(self.block)
        else:
            blocks[self.number] = self.block
        self.actor.perform(replace(self.before, blocks=tuple(blocks)))
        self.changed.emit()

    def change(self, **fields: Any) -> None:
        """Other values of the block; the figure follows at once."""
        block = replace(self.block, **fields)
        if block.repeats > 0 and 0.05 <= block.speed <= 20.0 and block.start >= 0:
            self.block = block
            self._show()

    def set_side(self, side: Sides) -> None:
        """As captured, on the other side, or on both."""
        if side is not self.side:
            self.side = side
            self.change(clip=mirrored_clip(self.actor.rig, self.source, side))

    def make_seamless(self) -> None:
        """Let the end be the beginning."""
        self.source = self.source.seamless()
        self.change(clip=mirrored_clip(self.actor.rig, self.source, self.side))

    @property
    def seam(self) -> bool:
        """Whether it jumps where it begins again."""
        return bool(self.block.clip.seams())


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

    def begin(self, clip: Clip, origin: Origin) -> ClipPlacement | None:
        """Lay a clip in where we are. What begins and ends at rest is added on top, so that it
        goes over anything; everything else takes the place of what is there."""
        actor = self._cast.acting
        if actor is None:
            return None
        self.keep()
        rate = actor.timing.rate
        fitting = clip if abs(clip.rate - rate) < 1e-6 else clip.retimed(rate)
        quiet = _at_rest(actor.rig, fitting)
        fade = 0.0 if quiet else min(4.0, fitting.length / 4)
        block = ClipInstance(
            fitting,
            origin,
            actor.timing.frame,
            fade_in=round(fade),
            fade_out=round(fade),
            on_top=quiet,
        )
        return self._take_up(ClipPlacement(actor, len(actor.take.blocks), block, fresh=True))

    def take_up(self, number: int) -> ClipPlacement | None:
        """Change a block that lies there."""
        actor = self._cast.acting
        if actor is None or not 0 <= number < len(actor.take.blocks):
            return None
        if self.now is not None and self.now.actor is actor and self.now.number == number:
            return self.now
        self.keep()
        return self._take_up(ClipPlacement(actor, number, actor.take.blocks[number], fresh=False))

    def _take_up(self, placement: ClipPlacement) -> ClipPlacement:
        self.now = placement
        self.changed.emit()
        return placement

    def keep(self) -> None:
        """One step of all that was changed."""
        placement, self.now = self.now, None
        if placement is None:
            return
        actor, name = placement.actor, placement.block.origin.name
        if actor.take.blocks != placement.before.blocks:
            label = f"Lay in {name}" if placement.fresh else f"Change {name}"
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
        label = f"{placement.block.origin.name} as keys"
        self._history.push(KeyStep(actor, placement.before, take, label))
        self.changed.emit()

    def remove(self, number: int) -> None:
        """Take a block away."""
        actor = self._cast.acting
        self.keep()
        if actor is None or not 0 <= number < len(actor.take.blocks):
            return
        before = actor.take
        rest = before.blocks[:number] + before.blocks[number + 1 :]
        actor.perform(replace(before, blocks=rest))
        name = before.blocks[number].origin.name
        self._history.push(KeyStep(actor, before, actor.take, f"Take out {name}"))


def _at_rest(rig: Rig, clip: Clip) -> bool:
    """Whether a clip begins and ends with everything at rest."""
    for lane, line in clip.lines.items():
        if row_of(rig, lane) is None:
            continue
        rest = np.zeros(lane.kind.width)
        if lane.kind is ChannelKind.TURN:
            rest[3] = 1.0
        elif lane.kind is ChannelKind.SCALE:
            rest[:] = 1.0
        elif lane.kind is ChannelKind.SETTING:
            rest[0] = rig.settings[rig.setting_row[lane.name]].default
        for value in (line.values[0], line.values[-1]):
            same = -value if lane.kind is ChannelKind.TURN and value[3] < 0 else value
            if np.abs(same - rest).max() > 1e-4:
                return False
    return True


def keyed(take: Animation, number: int) -> Animation:
    """A take with one block turned into keys: at the frames where its clip has keys, and at its
    ends, with what is shown there."""
    block, rig = take.blocks[number], take.rig
    others = replace(take, blocks=take.blocks[:number] + take.blocks[number + 1 :])
    shown = replace(take, blocks=(*take.blocks[:number], block))
    lanes = [lane for lane in block.clip.lines if row_of(rig, lane) is not None]
    frames = _key_frames(block)
    keys, origin = others.keys.with_origin(block.origin)
    found: dict[ChannelId, list[ChannelCurve]] = {lane: [] for lane in lanes}
    for frame, ease in frames:
        for lane, line in keys_at(rig, shown.at(frame), lanes, frame, ease, origin).items():
            found[lane].append(line)
    fresh = {lane: joined(one) for lane, one in found.items()}
    first, last = frames[0][0], frames[-1][0]
    cleared: Keys = keys
    for lane in lanes:
        there = cleared.lines.get(lane)
        if there is not None:
            inside = there.frames[(there.frames > first) & (there.frames < last)]
            if len(inside):
                cleared = cleared.without({lane: inside})
    return replace(others, keys=replace(cleared, origins=keys.origins).with_lines(fresh))


def _key_frames(block: ClipInstance) -> list[tuple[float, Ease]]:
    """Whole frames of the shot where the block's clip has keys, and how most go on from there."""
    eases: dict[float, list[int]] = {}
    for line in block.clip.lines.values():
        for at, ease in zip(line.frames.tolist(), line.eases.tolist(), strict=True):
            inside = block.clip.length - at if block.backwards else at
            eases.setdefault(inside, []).append(ease)
    found: dict[float, int] = {}
    leads = {0.0, block.lead}
    for begin in block.starts.tolist():
        for inside, known in eases.items():
            for lead in leads:
                frame = float(round(block.start + begin + inside / block.speed - lead))
                if block.start - abs(block.lead) <= frame <= block.end + 0.5:
                    found[frame] = max(set(known), key=known.count)
    for edge in (block.start, block.end):
        found.setdefault(float(round(edge)), int(Ease.SMOOTH))
    if block.fade_in or block.fade_out:
        for frame in (block.start + block.fade_in, block.end - block.fade_out):
            found.setdefault(float(round(frame)), int(Ease.SMOOTH))
    return sorted((f, Ease(e)) for f, e in found.items())
