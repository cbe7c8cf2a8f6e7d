"""Setting, moving and changing keys of the figure that acts; each is one undo step."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from psygnal import Signal

from fox_hand.base.language import tr, tr_n
from fox_hand.core.animation.curves import (
    ChannelCurve,
    ChannelId,
    Keys,
    channel_ids_of,
    keys_at,
    row_of,
    with_lanes,
)
from fox_hand.core.animation.inbetween import in_between, spanning
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.maths.rotations import Array
from fox_hand.library.format.entry import Entry
from fox_hand.session.animating.following import Newer, followed
from fox_hand.session.animating.key_edits import held, stretched
from fox_hand.session.animating.key_groups import KeyGroup
from fox_hand.session.applying.card_origin import settled
from fox_hand.session.figures.animation import Keyed
from fox_hand.session.figures.cast import Cast
from fox_hand.session.figures.figure import Edit, Figure, KeyStep, pose_step
from fox_hand.session.figures.selection import Selection
from fox_hand.session.runtime.history import History

Picked = Mapping[ChannelId, Array]


@dataclass(frozen=True)
class Copied:
    """Keys that were copied, counted from the first of them."""

    lines: Mapping[ChannelId, ChannelCurve]
    origins: Keys
    first: float


class KeyDrag:
    """A change of keys under way: previews first, then one step or none."""

    def __init__(self, actor: Figure, history: History) -> None:
        self._actor, self._history = actor, history
        self.before = actor.take

    @property
    def actor(self) -> Figure:
        return self._actor

    def preview(self, keys: Keys) -> None:
        """Show other keys; nothing is remembered yet."""
        self._actor.perform(self.before.with_keys(keys))

    def commit(self, label: str) -> None:
        """What is shown becomes one step."""
        if self._actor.take.keys is not self.before.keys:
            self._history.push(KeyStep(self._actor, self.before, self._actor.take, label))

    def cancel(self) -> None:
        self._actor.perform(self.before)


class Keying:
    """Works on the keys of the member that acts.

    Args:
        cast, selection, history: the workspace's.
    """

    told = Signal(str)

    def __init__(self, cast: Cast, selection: Selection, history: History) -> None:
        self._cast, self._selection, self._history = cast, selection, history
        self.copied: Copied | None = None

    @property
    def actor(self) -> Figure | None:
        return self._cast.acting

    def channel_ids(self) -> list[ChannelId]:
        """What a key is set for: of the selected controls everything; without a selection what
        has keys already or is away from rest."""
        actor = self.actor
        if actor is None:
            return []
        rig = actor.rig
        if len(self._selection):
            return channel_ids_of(rig, self._selection.rows)
        rows = set(np.flatnonzero(actor.differs()).tolist())
        found = dict.fromkeys(
            channel_id for channel_id in actor.keys if row_of(rig, channel_id) is not None
        )
        found.update(dict.fromkeys(channel_ids_of(rig, sorted(rows))))
        return list(found)

    def key(self, *, everything: bool = False) -> int:
        """Set keys where we are; returns how many channels got one."""
        actor = self.actor
        if actor is None:
            return 0
        rig, timing = actor.rig, actor.timing
        controls = sorted(actor.listed)
        channel_ids = channel_ids_of(rig, controls) if everything else self.channel_ids()
        if not channel_ids:
            self.told.emit(tr("Nothing to key: select controls, or pose the figure first."))
            return 0
        how = Keyed(timing.frame, timing.ease, channel_ids)
        step = pose_step(
            actor, actor.take.at(timing.frame), tr("Key frame {frame:g}", frame=timing.frame), how
        )
        if step is not None:
            self._history.push(step)
        return len(channel_ids)

    # -- changing -------------------------------------------------------------------------

    def drag(self) -> KeyDrag | None:
        """Begin to move keys; None where nobody acts, or the keys are another program's."""
        actor = self.actor
        if actor is not None and actor.host:
            self.told.emit(tr("These keys lie in {host}: change them there.", host=actor.host))
            return None
        return KeyDrag(actor, self._history) if actor is not None else None

    def change(self, keys: Keys, label: str) -> None:
        """Exchange the keys, as one step."""
        drag = self.drag()
        if drag is not None:
            drag.preview(keys)
            drag.commit(label)

    def delete(self, picked: Picked) -> None:
        """Take keys away."""
        actor = self.actor
        if actor is not None and picked:
            self.change(actor.keys.without(picked), _counted("Delete", picked))

    def ease(self, picked: Picked, ease: Ease) -> None:
        """How it goes on from some keys; without any, from those to come."""
        actor = self.actor
        if not picked:
            self._cast.timing.work_with(ease=ease)
        elif actor is not None:
            words = {Ease.STEP: tr("Hold"), Ease.LINEAR: tr("Straight"), Ease.SMOOTH: tr("Smooth")}
            self.change(actor.keys.eased(picked, ease), words[ease])

    def shift(self, picked: Picked, by: float) -> None:
        """Slide keys in time."""
        actor = self.actor
        if actor is not None and picked and by:
            keys = actor.keys.carried(picked, lambda f: f + by)
            self.change(keys, _counted(tr("Move"), picked))

    def stretch(self, picked: Picked, pivot: float, factor: float) -> None:
        """Scale keys in time about a frame; they land on whole frames."""
        actor = self.actor
        if actor is not None and picked:
            keys = stretched(actor.keys, picked, pivot, factor)
            self.change(keys, _counted(tr("Retime"), picked))

    def copy(self, picked: Picked) -> int:
        """Remember keys; returns how many."""
        actor = self.actor
        if actor is None or not picked:
            return 0
        lines = actor.keys.picked(picked)
        if not lines:
            return 0
        first = min(float(line.frames[0]) for line in lines.values())
        self.copied = Copied(lines, actor.keys, first)
        return sum(map(len, lines.values()))

    def paste(self) -> dict[ChannelId, Array]:
        """Lay the copied keys in, the first where we are; on another figure by name. Returns what
        was laid in."""
        actor, copied = self.actor, self.copied
        if actor is None or copied is None:
            return {}
        by = actor.timing.frame - copied.first
        keys, lines = actor.keys, {}
        for channel_id, line in copied.lines.items():
            if row_of(actor.rig, channel_id) is None:
                continue
            origins = line.origins.copy()
            for number in np.unique(origins).tolist():
                keys, new = keys.with_origin(copied.origins.origins.get(number))
                origins[line.origins == number] = new
            lines[channel_id] = replace(line, frames=line.frames + by, origins=origins)
        if not lines:
            self.told.emit(tr("None of the copied keys has a place on {name}.", name=actor.name))
            return {}
        self.change(keys.with_lines(lines), tr("Paste keys"))
        return {channel_id: line.frames for channel_id, line in lines.items()}

    def hold(self, key_group: KeyGroup, until: float) -> None:
        """Hold a key group until a frame; back to its own frame ends the hold."""
        actor = self.actor
        if actor is not None:
            self.change(held(actor.keys, key_group, until), tr("Hold"))

    # -- in between -----------------------------------------------------------------------

    def between_lanes(self) -> list[ChannelId]:
        """Channels of the selected controls, else of all, that lie between two keys here."""
        actor = self.actor
        if actor is None:
            return []
        rows = set(self._selection.rows)
        chosen: Iterable[ChannelId] = actor.keys
        if rows:
            chosen = [
                channel_id for channel_id in actor.keys if row_of(actor.rig, channel_id) in rows
            ]
        chosen = [channel_id for channel_id in chosen if row_of(actor.rig, channel_id) is not None]
        return spanning(actor.keys, chosen, actor.timing.frame)

    def between(self) -> Between | None:
        """Begin a pose between two; None where nothing lies between keys."""
        actor, channel_ids = self.actor, self.between_lanes()
        if actor is None or not channel_ids:
            self.told.emit(tr("Nothing of it lies between two keys here."))
            return None
        return Between(actor, self._history, channel_ids)

    # -- going ----------------------------------------------------------------------------

    def key_frames(self) -> Array:
        """Frames with keys: of the selected controls if they have any, else of the figure."""
        actor = self.actor
        if actor is None:
            return np.zeros(0)
        if len(self._selection):
            found = actor.keys.frames(channel_ids_of(actor.rig, self._selection.rows))
            if len(found):
                return found
        return actor.keys.frames()

    def next_key(self, way: int) -> float | None:
        """The nearest keyed frame before (-1) or after (1) this one."""
        frames, here = self.key_frames(), self._cast.timing.frame
        further = frames[frames > here + 1e-6] if way > 0 else frames[frames < here - 1e-6]
        if not len(further):
            return None
        return float(further[0] if way > 0 else further[-1])

    # -- newer cards ----------------------------------------------------------------------

    def follow(
        self, newer: Sequence[Newer], label: str, *, over_hand: bool = False
    ) -> tuple[ChannelId, ...]:
        """Let the keys of cards follow their newest revisions, as one step.

        Returns:
            channels that were changed by hand and stay.
        """
        actor, by_hand = self.actor, dict[ChannelId, None]()
        if actor is None:
            return ()
        keys = actor.keys
        for one in newer:
            if one.number not in keys.origins:
                continue
            found = followed(
                actor, keys, one.number, one.pose, before=one.before, over_hand=over_hand
            )
            by_hand.update(dict.fromkeys(found.by_hand))
            keys = found.keys
            if one.number in keys.origins:
                origin = settled(keys.origins[one.number], one.entry)
                keys = replace(keys, origins={**keys.origins, one.number: origin})
        self.change(keys, label)
        return tuple(by_hand)

    def keep_old(self, number: int, entry: Entry) -> None:
        """The keys of a card stay as they are, and nobody asks again before it changes anew."""
        actor = self.actor
        if actor is not None and number in actor.keys.origins:
            origin = settled(actor.keys.origins[number], entry)
            keys = replace(actor.keys, origins={**actor.keys.origins, number: origin})
            self.change(keys, tr("Keep {name} as it was", name=origin.name))


class Between:
    """A pose between two keys, pulled until it is kept."""

    def __init__(self, actor: Figure, history: History, channel_ids: Collection[ChannelId]) -> None:
        self.actor, self._history, self.channel_ids = actor, history, list(channel_ids)
        self._edit = Edit(actor, history, tr("In between"), free=True)
        self._take, self.frame = actor.take, actor.timing.frame
        self.part = 0.5
        self._below = self._edit.before

    def pull(self, part: float) -> None:
        """0 is the key before, 1 the one after, whatever blocks lie over them."""
        self.part = part
        rig, take, before = self.actor.rig, self._take, self._edit.before
        shown = in_between(rig, take.keys, before, self.channel_ids, self.frame, part)
        if take.instances:
            ground = take.keyed_at(self.frame)
            self._below = in_between(rig, take.keys, ground, self.channel_ids, self.frame, part)
            lines = keys_at(rig, self._below, self.channel_ids, self.frame, Ease.SMOOTH)
            over = take.with_keys(take.keys.with_lines(lines)).at(self.frame)
            shown = with_lanes(rig, before, over, self.channel_ids)
        self._edit.preview(shown)

    def keep(self) -> None:
        """Set keys here, as one step."""
        timing = self.actor.timing
        below = self._below if self._take.instances else None
        how = Keyed(self.frame, timing.ease, self.channel_ids, below=below)
        label = tr("In between, {part:.0f} %", part=self.part * 100)
        step = pose_step(self.actor, self._edit.before, label, how)
        if step is not None:
            self._history.push(step)

    def put_back(self) -> None:
        self._edit.cancel()


def _counted(word: str, picked: Picked) -> str:
    frames = {float(f) for values in picked.values() for f in values}
    return tr_n("{word} keys", "{word} keys of {number} frames", len(frames), word=word)
