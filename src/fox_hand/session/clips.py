"""Clips from the shot, and for the character that is to play them."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.core.clip import Clip, cut_out, lane_values, mapped
from fox_hand.core.keys import Lane, LaneKind, row_of
from fox_hand.core.pose import BoundPose, Held, Pose, bind
from fox_hand.core.rig import Rig
from fox_hand.core.rotations import Array, angle_between
from fox_hand.core.sides import Sides, sided
from fox_hand.core.timeline import line_of
from fox_hand.core.tracks import Ease, Track
from fox_hand.library.card import Card
from fox_hand.library.entry import Entry
from fox_hand.library.name_map import NameMap
from fox_hand.session.actor import Actor
from fox_hand.session.fit_outcome import foreign
from fox_hand.session.fits import Fits
from fox_hand.session.fitting import FitDraft
from fox_hand.session.take import Take

STILL = 1e-6
Span = tuple[float, float]


def lane_value(rig: Rig, take: Take, lane: Lane, frame: float) -> Array:
    """What a lane shows at a frame, ``(w,)``."""
    state = take.at(frame)
    if lane.kind is LaneKind.SETTING:
        row = rig.setting_row[lane.name]
        return state.settings[row : row + 1]
    column = {LaneKind.MOVE: state.move, LaneKind.TURN: state.turn}.get(lane.kind, state.scale)
    return np.asarray(column[rig.control_row[lane.name]])


def moving(rig: Rig, take: Take, span: Span) -> dict[Lane, float]:
    """Lanes that do not stand still within a span, and how far they go: radians, metres, factors
    or units."""
    first, last = span
    count = max(int(last - first) + 1, 2)
    frames = np.linspace(first, last, count)
    lanes = dict.fromkeys(lane for lane in take.keys if row_of(rig, lane) is not None)
    for block in take.blocks:
        lanes.update(dict.fromkeys(lane for lane in block.clip.lines if row_of(rig, lane)))
    states = [take.at(float(f)) for f in frames] if take.blocks else None
    batch = take.timeline.many(take.base, frames) if states is None else None
    found = {}
    for lane in lanes:
        setting = lane.kind is LaneKind.SETTING
        row = (rig.setting_row if setting else rig.control_row)[lane.name]
        place = list(LaneKind).index(lane.kind)
        if batch is not None:
            values = batch.arrays()[place][:, row]
        else:
            assert states is not None
            values = np.array([s.arrays()[place][row] for s in states])
        if lane.kind is LaneKind.TURN:
            far = float(angle_between(values[0], values).max())
        else:
            far = float(np.ptp(np.atleast_2d(values.T), axis=-1).max())
        if far > STILL:
            found[lane] = far
    return found


def captured_clip(rig: Rig, take: Take, lanes: Iterable[Lane], span: Span, rate: float) -> Clip:
    """The clip of some lanes. Their keys stay as they are; what only blocks move has one key a
    frame."""
    lanes = list(lanes)
    played = {lane for block in take.blocks for lane in block.clip.lines}
    plain = [lane for lane in lanes if lane not in played and lane in take.keys.lines]
    clip = cut_out(take.keys, lambda k, f: lane_value(rig, take, k, f), plain, span, rate)
    first, last = span
    frames = np.arange(first, last + 0.5)
    others = [lane for lane in lanes if lane not in clip.lines]
    lines = dict(clip.lines)
    states = {f: take.at(f) for f in frames.tolist()} if others else {}
    for lane in others:
        place = list(LaneKind).index(lane.kind)
        names = rig.setting_row if lane.kind is LaneKind.SETTING else rig.control_row
        values = np.array([states[f].arrays()[place][names[lane.name]] for f in frames.tolist()])
        lines[lane] = line_of(lane, frames - first, values, Ease.LINEAR)
    return replace(clip, lines=lines)


def clip_for(
    entry: Entry, card: Card, actor: Actor, fits: Fits, told: NameMap | None = None
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
    assert card.clip is not None
    rig, clip = actor.rig, card.clip
    if foreign(card, rig):
        clip = _fitted(card, actor, told or fits.known(entry, card, rig), fits.own_rig(card))
    known = [lane for lane in clip.lines if row_of(rig, lane) is not None]
    if not known:
        raise FoxHandError(
            "clip.nothing_lands",
            f"{card.name} moves nothing that {rig.name} has.",
            "The shot was left as it is.",
            "Choose Fit in the card's menu to say which names belong together.",
        )
    return clip.only(known)


def pose_at(card: Card, frame: float) -> Pose:
    """The pose of a clip card at a frame of its clip, without its rig."""
    assert card.clip is not None
    found = dict(card.pose.controls)
    holder = {s: name for name, held in card.pose.controls.items() for s in held.settings}
    for lane, line in card.clip.lines.items():
        rotation = lane.kind is LaneKind.TURN
        track = Track(line.frames, line.values, line.eases, rotation)
        value = tuple(track.sample([frame])[0].tolist())
        name = holder.get(lane.name) if lane.kind is LaneKind.SETTING else lane.name
        if name is None or name not in found:
            continue
        found[name] = _with(found[name], lane, value)
    return Pose(found)


def _with(held: Held, lane: Lane, value: tuple[float, ...]) -> Held:
    if lane.kind is LaneKind.SETTING:
        return replace(held, settings={**held.settings, lane.name: value[0]}, options={})
    if lane.kind is LaneKind.TURN:
        x, y, z, w = value
        return replace(held, turn=(x, y, z, w), euler=None)
    x, y, z = value
    if lane.kind is LaneKind.MOVE:
        return replace(held, move=(x, y, z))
    return replace(held, scale=(x, y, z))


def _fitted(card: Card, actor: Actor, known: NameMap, own: Rig | None) -> Clip:
    """One fit for every keyed moment."""
    assert card.clip is not None
    poses: list[tuple[float, BoundPose]] = []
    for frame in card.clip.frames.tolist():
        moment = replace(card, pose=pose_at(card, frame), clip=None)
        draft = FitDraft(moment, actor, known, own)
        if draft.lands:
            poses.append((frame, bind(draft.as_card().pose, actor.rig)))
    if not poses:
        return replace(card.clip, lines={})
    columns: dict[Lane, list[tuple[float, Array]]] = {}
    for frame, pose in poses:
        for lane, value, _ in lane_values(actor.rig, pose):
            columns.setdefault(lane, []).append((frame, value))
    lines = {}
    for lane, values in columns.items():
        at = np.array([f for f, _ in values])
        lines[lane] = line_of(lane, at, np.array([v for _, v in values]), Ease.SMOOTH)
    return replace(card.clip, lines=lines)


def mirrored_clip(rig: Rig, clip: Clip, side: Sides) -> Clip:
    """A clip as it goes on the chosen side."""
    if side is Sides.CAPTURED:
        return clip
    return mapped(clip, rig, lambda pose: sided(rig, pose, side))
