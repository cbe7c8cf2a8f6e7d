"""Clips from the shot, and for the character that is to play them."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.core.animation.clip import Clip, cut_out, mapped, of_moments
from fox_hand.core.animation.curves import ChannelId, ChannelKind, place_of, row_of, values_in
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.animation.sampler import line_of
from fox_hand.core.maths.rotations import Array, angle_between
from fox_hand.core.pose.pose import BoundPose, Held, Pose, bind
from fox_hand.core.pose.sides import Sides, sided
from fox_hand.core.rig.rig import Rig
from fox_hand.library.format.card import Card
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.name_map import NameMap
from fox_hand.session.animating.card_rig import card_rig
from fox_hand.session.animating.clip_transfer import ClipFeet, ClipTransfer
from fox_hand.session.applying.fit_draft import NOTHING, FitDraft
from fox_hand.session.applying.fit_result import foreign
from fox_hand.session.applying.preparation import Preparation
from fox_hand.session.figures.animation import Animation
from fox_hand.session.figures.figure import Figure

STILL = 1e-6
Span = tuple[float, float]


def moving(rig: Rig, take: Animation, span: Span) -> dict[ChannelId, float]:
    """Channels that do not stand still within a span, and how far they go: radians, metres, factors
    or units."""
    first, last = span
    count = max(int(last - first) + 1, 2)
    frames = np.linspace(first, last, count)
    channel_ids = dict.fromkeys(
        channel_id for channel_id in take.keys if row_of(rig, channel_id) is not None
    )
    for instance in take.instances:
        channel_ids.update(
            dict.fromkeys(
                channel_id
                for channel_id in instance.clip.lines
                if row_of(rig, channel_id) is not None
            )
        )
    batch, found = take.many(frames), {}
    for channel_id in channel_ids:
        values = values_in(batch, channel_id.kind)[:, place_of(rig, channel_id)]
        if channel_id.kind is ChannelKind.TURN:
            far = float(angle_between(values[0], values).max())
        else:
            far = float(np.ptp(np.atleast_2d(values.T), axis=-1).max())
        if far > STILL:
            found[channel_id] = far
    return found


def captured_clip(
    rig: Rig, take: Animation, channel_ids: Iterable[ChannelId], span: Span, rate: float
) -> Clip:
    """The clip of some channels. Their keys stay as they are; what only blocks move has one key a
    frame."""
    channel_ids = list(channel_ids)
    played = {channel_id for instance in take.instances for channel_id in instance.clip.lines}
    plain = [
        channel_id
        for channel_id in channel_ids
        if channel_id not in played and channel_id in take.keys.lines
    ]
    ends = {frame: take.at(frame) for frame in span}

    def shown(channel_id: ChannelId, frame: float) -> Array:
        return np.atleast_1d(values_in(ends[frame], channel_id.kind)[place_of(rig, channel_id)])

    clip = cut_out(take.keys, shown, plain, span, rate)
    others = [channel_id for channel_id in channel_ids if channel_id not in clip.lines]
    if not others:
        return clip
    first, last = span
    frames = np.arange(first, last + 0.5)
    batch, lines = take.many(frames), dict(clip.lines)
    for channel_id in others:
        values = values_in(batch, channel_id.kind)[:, place_of(rig, channel_id)]
        lines[channel_id] = line_of(channel_id, frames - first, values, Ease.LINEAR)
    return replace(clip, lines=lines)


def keep_to_view(entry: Entry, clip: Clip, actor: Figure) -> None:
    """Refuse a clip of a view of a puppet that is not seen. One that keys the view turns to it.

    Raises:
        FoxHandError: ``clip.other_view``.
    """
    rig = actor.rig
    if rig.views.view is None or rig.settings[rig.views.view].name in {c.name for c in clip.lines}:
        return
    rows = {row for row in (_control(rig, channel_id) for channel_id in clip.lines) if row >= 0}
    drawn = rig.views.only(rows)
    if drawn is None or drawn == actor.view:
        return
    names = rig.views.names
    raise FoxHandError(
        "clip.other_view",
        tr(
            "{name} is drawn for {names}, and {name_2} is seen in {names_2}.",
            name=entry.name,
            names=names[drawn],
            name_2=rig.name,
            names_2=names[actor.view],
        ),
        tr("Nothing was changed."),
        tr("See {name} in {names} first.", name=rig.name, names=names[drawn]),
    )


def _control(rig: Rig, channel_id: ChannelId) -> int:
    """Row of the control that a channel is of; -1 where the rig has none such."""
    if not channel_id.is_setting:
        return rig.control_row.get(channel_id.name, -1)
    row = rig.setting_row.get(channel_id.name)
    return -1 if row is None else rig.settings[row].control


def clip_for(
    entry: Entry, card: Card, actor: Figure, fits: Preparation, told: NameMap | None = None
) -> Clip:
    """A card's clip as a character plays it: fitted moment by moment where it is another's.

    Args:
        entry, card: the card.
        actor: who plays it.
        fits: knows what was said about the two rigs.
        told: what was said just now, instead.

    Raises:
        FoxHandError: ``clip.nothing_lands``.
    """
    return played_clip(entry, card, actor, fits, told)[0]


def played_clip(
    entry: Entry, card: Card, actor: Figure, fits: Preparation, told: NameMap | None = None
) -> tuple[Clip, ClipFeet | None]:
    """The same, and what its feet do where they hold the ground."""
    names, own = NOTHING, None
    if foreign(card, actor.rig):
        names, own = told or fits.known(entry, card, actor.rig), fits.own_rig(card)
    return _played(card, actor, names, own)


def clip_on(card: Card, actor: Figure, names: NameMap = NOTHING, own: Rig | None = None) -> Clip:
    """What a character plays of a card, with what is known about the two rigs.

    Args:
        card: one with a clip.
        actor: who plays it.
        names: what was said about the names; others are matched.
        own: the card's rig, if it is at hand.

    Raises:
        FoxHandError: ``clip.nothing_lands``.
    """
    return _played(card, actor, names, own)[0]


def _played(
    card: Card, actor: Figure, names: NameMap, own: Rig | None
) -> tuple[Clip, ClipFeet | None]:
    assert card.clip is not None
    rig, clip, feet = actor.rig, card.clip, None
    if foreign(card, rig):
        source = own or card_rig(card)
        transfer = ClipTransfer(card, rig, source, names.names) if source is not None else None
        if transfer is not None and transfer.able and transfer.dense:
            clip, feet = transfer.whole()
        else:
            clip = _fitted(card, actor, names, own)
            if transfer is not None and transfer.able:
                clip, feet = transfer.with_feet(clip)
    known = [channel_id for channel_id in clip.lines if row_of(rig, channel_id) is not None]
    if not known:
        raise FoxHandError(
            "clip.nothing_lands",
            tr("{name} moves nothing that {name_2} has.", name=card.name, name_2=rig.name),
            tr("The shot was left as it is."),
            tr("Choose Fit in the card's menu to say which names belong together."),
        )
    if feet is not None:
        feet = feet.map(lambda one: one.only(known))
        return feet.held, feet
    return clip.only(known), None


def lost_of_clip(card: Card, actor: Figure, names: NameMap = NOTHING) -> tuple[str, ...]:
    """Controls of a clip card that a character does not play."""
    assert card.clip is not None
    rig, moment = actor.rig, pose_at(card, float(card.clip.frames[0]))
    if foreign(card, rig):
        draft = FitDraft(replace(card, pose=moment, clip=None), actor, names)
        return tuple(r.source for r in draft.rows if r.source not in draft.taken_names)
    return tuple(name for name in moment.controls if name not in rig.control_row)


def pose_at(card: Card, frame: float) -> Pose:
    """The pose of a clip card at a frame of its clip, without its rig."""
    assert card.clip is not None
    found = dict(card.pose.controls)
    holder = {s: name for name, held in card.pose.controls.items() for s in held.settings}
    for channel_id, line in card.clip.lines.items():
        value = tuple(line.track.sample([frame])[0].tolist())
        name = (
            holder.get(channel_id.name)
            if channel_id.kind is ChannelKind.SETTING
            else channel_id.name
        )
        if name is None or name not in found:
            continue
        found[name] = _with(found[name], channel_id, value)
    return Pose(found)


def _with(held: Held, channel_id: ChannelId, value: tuple[float, ...]) -> Held:
    if channel_id.kind is ChannelKind.SETTING:
        return replace(held, settings={**held.settings, channel_id.name: value[0]}, options={})
    if channel_id.kind is ChannelKind.TURN:
        x, y, z, w = value
        return replace(held, turn=(x, y, z, w), euler=None)
    x, y, z = value
    if channel_id.kind is ChannelKind.MOVE:
        return replace(held, move=(x, y, z))
    return replace(held, scale=(x, y, z))


def _fitted(card: Card, actor: Figure, known: NameMap, own: Rig | None) -> Clip:
    """One fit for every keyed moment."""
    assert card.clip is not None
    poses: list[tuple[float, BoundPose]] = []
    for frame in card.clip.frames.tolist():
        moment = replace(card, pose=pose_at(card, frame), clip=None)
        draft = FitDraft(moment, actor, known, own)
        if draft.lands:
            poses.append((frame, bind(draft.as_card().pose, actor.rig)))
    return of_moments(card.clip, actor.rig, poses)


def mirrored_clip(rig: Rig, clip: Clip, side: Sides) -> Clip:
    """A clip as it goes on the chosen side."""
    if side is Sides.CAPTURED:
        return clip
    return mapped(clip, rig, lambda pose: sided(rig, pose, side))
