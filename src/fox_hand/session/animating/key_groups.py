"""Keys as they are seen on the strip: those of one row that came together are one key group."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from fox_hand.base.language import tr
from fox_hand.core.animation.curves import (
    BY_HAND,
    ChannelCurve,
    ChannelId,
    ChannelKind,
    Keys,
    row_of,
)
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.controls import BODY_REGIONS, FACE_REGIONS, ControlKind, Region
from fox_hand.core.rig.rig import Rig

FACE, BODY = FACE_REGIONS, BODY_REGIONS
HANDS = frozenset({Region.HANDS})
ROWS = (
    (tr("Body"), "person-standing", BODY),
    (tr("Face"), "smile", FACE),
    (tr("Hands"), "hand", HANDS),
)


@dataclass(frozen=True)
class KeyGroup:
    """Keys of one row at one frame that came from one card, or from none.

    Args:
        frame: where they are.
        end: where the second, equal keys of a hold are; ``frame`` where nothing is held.
        origin: number of the card, 0 for keys by hand.
        channels: what is keyed.
        ease: how it goes on.
        tail: whether these are the second keys of a hold.
    """

    frame: float
    end: float
    origin: int
    channel_ids: tuple[ChannelId, ...]
    ease: Ease
    tail: bool = False

    @property
    def held(self) -> bool:
        return self.end > self.frame

    def picked(self, *, whole: bool = True) -> dict[ChannelId, Array]:
        """Its keys; with ``whole`` those at the end of its hold too."""
        frames = [self.frame, self.end] if whole and self.held else [self.frame]
        return {channel_id: np.array(frames) for channel_id in self.channel_ids}


def channel_ids_in(rig: Rig, keys: Keys, regions: Iterable[Region]) -> tuple[ChannelId, ...]:
    """Keyed channels of some regions."""
    wanted = frozenset(regions)
    rows = {row for row in range(len(rig.controls)) if part_of(rig, row) in wanted}
    return tuple(channel_id for channel_id in keys.lines if row_of(rig, channel_id) in rows)


@dataclass(frozen=True)
class KeyedPart:
    """What a row of the strip is about.

    Args:
        title, icon: as shown.
        regions: what a card that is dropped there goes on.
        channel_ids: what is keyed of it.
        drawings: whether it only says which drawing is seen, so nothing lies between two keys.
    """

    title: str
    icon: str
    regions: frozenset[Region]
    channel_ids: tuple[ChannelId, ...]
    drawings: bool = False


def keyed_parts(rig: Rig, keys: Keys) -> tuple[KeyedPart, ...]:
    """The rows of the strip: body, face and hands; of a puppet how it stands, which view is seen,
    and one for every part whose drawing is keyed. Parts of the same name in other views are one."""
    if not rig.flat:
        return tuple(
            KeyedPart(title, icon, regions, channel_ids_in(rig, keys, regions))
            for title, icon, regions in ROWS
        )
    chosen: dict[str, list[ChannelId]] = {}
    regions: dict[str, set[Region]] = {}
    for row in (rig.views.view, rig.views.facing, *(s.setting for s in rig.swaps.values())):
        if row is None or (at := _keyed_setting(rig, keys, row)) is None:
            continue
        setting = rig.settings[row]
        title = tr("View") if rig.views.is_own(row) else rig.setting_word(row)
        chosen.setdefault(title, []).append(at)
        own = set(Region) if rig.views.is_own(row) else {rig.controls[setting.control].region}
        regions.setdefault(title, set()).update(own)
    taken = {channel_id for ids in chosen.values() for channel_id in ids}
    others = tuple(x for x in keys.lines if x not in taken and row_of(rig, x) is not None)
    drawn = (
        KeyedPart(title, "layers", frozenset(regions[title]), tuple(ids), drawings=True)
        for title, ids in chosen.items()
    )
    return (KeyedPart(tr("Stances"), "person-standing", frozenset(Region), others), *drawn)


def _keyed_setting(rig: Rig, keys: Keys, row: int) -> ChannelId | None:
    channel_id = ChannelId(ChannelKind.SETTING, rig.settings[row].name)
    return channel_id if channel_id in keys.lines else None


def option_at(rig: Rig, keys: Keys, key_group: KeyGroup) -> str:
    """What a choice is set to by a key; empty where it is no choice."""
    for channel_id in key_group.channel_ids:
        row = rig.setting_row.get(channel_id.name) if channel_id.is_setting else None
        if row is not None and rig.settings[row].options:
            line = keys.lines[channel_id]
            at = int(np.abs(line.frames - key_group.frame).argmin())
            number = round(float(line.values[at, 0]))
            options = rig.settings[row].options
            return options[min(max(number, 0), len(options) - 1)]
    return ""


def part_of(rig: Rig, row: int) -> Region:
    """The region a control is shown with: the head itself moves with the body, and where the face
    is made of settings so does whatever else sits on it."""
    control = rig.controls[row]
    if control.region is not Region.HEAD or control.kind is not ControlKind.JOINT:
        return control.region
    made = any(c.kind is ControlKind.HOLDER and c.region in FACE for c in rig.controls)
    return Region.TORSO if made or control.role in ("head", "neck") else control.region


def key_groups_of(keys: Keys, channel_ids: Sequence[ChannelId]) -> tuple[KeyGroup, ...]:
    """The key groups of a row, by frame."""
    if not channel_ids:
        return ()
    lines = [keys.lines[channel_id] for channel_id in channel_ids]
    which = np.repeat(np.arange(len(lines)), [len(line) for line in lines])
    frames = np.concatenate([line.frames for line in lines])
    origins = np.concatenate([line.origins for line in lines])
    eases = np.concatenate([line.eases for line in lines])
    following = np.concatenate([_held_until(line) for line in lines])
    order = np.lexsort((origins, frames))
    cuts = np.flatnonzero((np.diff(frames[order]) > 1e-6) | (np.diff(origins[order]) != 0)) + 1
    tails: dict[tuple[float, int], set[ChannelId]] = {}
    found = []
    for group in np.split(order, cuts):
        frame, origin = float(frames[group[0]]), int(origins[group[0]])
        ends = following[group]
        names = tuple(channel_ids[i] for i in which[group].tolist())
        tail = tails.get((frame, origin), set()) >= set(names)
        held = not tail and np.isfinite(ends).all() and np.ptp(ends) < 1e-6  # holds are pairs
        end = float(ends[0]) if held else frame
        if held:
            tails.setdefault((end, origin), set()).update(names)
        ease = Ease(int(np.bincount(eases[group]).argmax()))
        found.append(KeyGroup(frame, end, origin, names, ease, tail))
    return tuple(found)


def _held_until(line: ChannelCurve) -> Array:
    """For each key the frame of the next one if that is the same, else infinity."""
    found = np.full(len(line), np.inf)
    if len(line) > 1:
        same = (np.abs(np.diff(line.values, axis=0)).max(1) < 1e-9) & (np.diff(line.origins) == 0)
        found[:-1][same] = line.frames[1:][same]
    return found


def title_of(keys: Keys, key_group: KeyGroup) -> str:
    """What is written on a key group."""
    if key_group.origin == BY_HAND:
        return ""
    origin = keys.origins.get(key_group.origin)
    if origin is None:
        return ""
    amount = "" if abs(origin.amount - 1.0) < 1e-6 else f" {origin.amount * 100:.0f} %"
    return f"{origin.name}{amount}"


def label_of(rig: Rig, channel_id: ChannelId) -> tuple[str, str]:
    """What a channel is called, and the kind of channel where a control has several."""
    row = row_of(rig, channel_id)
    if channel_id.kind is ChannelKind.SETTING:
        setting = rig.setting_row.get(channel_id.name)
        return (rig.setting_word(setting) if setting is not None else channel_id.name), ""
    return (rig.word(row) if row is not None else channel_id.name), channel_id.kind.value
