"""The rows of the strip: one for each part of the body, opened a row for each keyed channel."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from fox_hand.base.language import number_text, tr
from fox_hand.core.animation.clip_instances import ClipInstance
from fox_hand.core.animation.curves import (
    NO_KEYS,
    ChannelCurve,
    ChannelId,
    ChannelKind,
    Keys,
    row_of,
)
from fox_hand.core.maths.rotations import Array, to_vector
from fox_hand.core.model.controls import Region, Side
from fox_hand.core.rig.rig import Rig
from fox_hand.session.animating.key_groups import (
    ROWS,
    KeyedPart,
    KeyGroup,
    key_groups_of,
    keyed_parts,
    label_of,
)
from fox_hand.session.figures.figure import Figure

CLIPS, LAYERS = tr("Clips"), tr("Its layers")
LAYER = 16  # pixels of a layer of a host
LEVEL = 24  # pixels of a block where several lie below each other
MOST_PLACES = 2000  # at which a spline is drawn
TALL, LOW = 36, 24  # pixels of a part's row, and of a channel's


class Content:
    """Keys as a row shows them, worked out when they first come into sight."""

    def __init__(self, keys: Keys, channel_ids: tuple[ChannelId, ...]) -> None:
        self.keys, self.channel_ids = keys, channel_ids

    @property
    def ready(self) -> bool:
        """Whether that has been done."""
        return not self.channel_ids or "key_groups" in vars(self)

    @cached_property
    def key_groups(self) -> tuple[KeyGroup, ...]:
        """By frame."""
        return key_groups_of(self.keys, self.channel_ids)

    @cached_property
    def curve(self) -> tuple[float, ...]:
        """Of a channel, its values from 0 to 1 at its keys."""
        line, passed = self.keys.lines[self.channel_ids[0]], dict(self.way)
        return tuple(passed[f] for f in line.frames.tolist())

    @cached_property
    def way(self) -> tuple[tuple[float, float], ...]:
        """Frames of a channel and its values there from 0 to 1: those of its keys, and more between
        them where keys have slopes of their own."""
        channel_id = self.channel_ids[0]
        line = self.keys.lines[channel_id]
        frames, values = line.frames, line.values
        if self.steep:
            more = np.linspace(frames[0], frames[-1], min(4 * int(np.ptp(frames)), MOST_PLACES) + 1)
            frames = np.unique(np.concatenate([frames, more]))
            values = line.track.sample(frames)
        return tuple(zip(frames.tolist(), _curve(channel_id, values), strict=True))

    @property
    def steep(self) -> bool:
        """Whether keys of a channel have slopes of their own."""
        slopes = self.keys.lines[self.channel_ids[0]].slopes
        return slopes is not None and not bool(np.isnan(slopes).all())


NOTHING = Content(NO_KEYS, ())


@dataclass(frozen=True)
class LayerSpan:
    """A layer of a host, from where to where it has keys, and whether keys go there."""

    name: str
    first: float
    last: float
    chosen: bool


@dataclass(frozen=True)
class StripRow:
    """One row.

    Args:
        key: what tells it from others.
        title: as shown.
        icon: of a part of the body; empty for a channel.
        regions: what a card that is dropped here goes on.
        content: its keys.
        top, height: pixels from the top of all rows.
        controls: how many controls have keys.
        open: whether its channels are shown below it.
        side: of a channel, L, R or nothing.
        channel: whether it is one channel.
        drawings: whether nothing lies between two of its keys.
        blocks, levels: of the row of clips, what lies in it and how far down.
        layers: of the row of a host's layers.
    """

    key: str
    title: str
    icon: str
    regions: frozenset[Region]
    content: Content = NOTHING
    top: int = 0
    height: int = TALL
    controls: int = 0
    open: bool = False
    side: str = ""
    channel: bool = False
    drawings: bool = False
    instances: tuple[ClipInstance, ...] = ()
    levels: tuple[int, ...] = ()
    layers: tuple[LayerSpan, ...] = ()

    @property
    def channel_ids(self) -> tuple[ChannelId, ...]:
        """What is keyed in it."""
        return self.content.channel_ids

    @property
    def key_groups(self) -> tuple[KeyGroup, ...]:
        """Its keys, by frame."""
        return self.content.key_groups


class RowBook:
    """Builds the rows and remembers what did not change."""

    def __init__(self) -> None:
        self.opened: set[str] = set()
        self._parts: tuple[Rig, Keys, list[tuple[KeyedPart, Content]]] | None = None
        self._channels: dict[ChannelId, tuple[ChannelCurve, Content]] = {}

    def toggle(self, key: str) -> None:
        """Open a part's channels, or close them."""
        self.opened ^= {key}

    def rows(self, actor: Figure | None, layers: tuple[LayerSpan, ...] = ()) -> list[StripRow]:
        """All rows from top to bottom; ``layers`` are those of its host."""
        found: list[StripRow] = []
        top = 0
        for part, content in self._keyed(actor):
            title = part.title
            row = StripRow(
                title,
                title,
                part.icon,
                part.regions,
                content,
                top,
                controls=_controls(actor, content.channel_ids),
                open=title in self.opened and bool(content.channel_ids),
                drawings=part.drawings,
            )
            found.append(row)
            top += row.height
            if row.open and actor is not None:
                channels = self._opened(actor, row, top)
                found += channels
                top += LOW * len(channels)
        instances = actor.take.instances if actor is not None else ()
        if layers and not instances:
            tall = 6 + LAYER * len(layers)
            row = StripRow(LAYERS, LAYERS, "layers", frozenset(), NOTHING, top, max(tall, TALL))
            return [*found, replace(row, controls=len(layers), layers=layers)]
        levels = _levels(instances)
        tall = TALL if not any(levels) else 4 + LEVEL * (max(levels) + 1)
        clips = StripRow(CLIPS, CLIPS, "film", frozenset(), NOTHING, top, tall)
        found.append(replace(clips, controls=len(instances), instances=instances, levels=levels))
        return found

    def _keyed(self, actor: Figure | None) -> Sequence[tuple[KeyedPart, Content]]:
        if actor is None:
            return [(KeyedPart(*row, ()), NOTHING) for row in ROWS]
        known = self._parts
        if known is None or known[0] is not actor.rig or known[1] is not actor.keys:
            parts = keyed_parts(actor.rig, actor.keys)
            rows = [(part, Content(actor.keys, part.channel_ids)) for part in parts]
            known = self._parts = actor.rig, actor.keys, rows
        return known[2]

    def _opened(self, actor: Figure, part: StripRow, top: int) -> list[StripRow]:
        """A row for each keyed channel of a part."""
        rig = actor.rig

        def place(channel_id: ChannelId) -> tuple[int, str, str]:
            return row_of(rig, channel_id) or 0, channel_id.kind.value, channel_id.name

        return [
            _channel(
                rig,
                part,
                channel_id,
                self._channel_keys(actor.keys, channel_id),
                top + LOW * number,
            )
            for number, channel_id in enumerate(sorted(part.channel_ids, key=place))
        ]

    def _channel_keys(self, keys: Keys, channel_id: ChannelId) -> Content:
        known = self._channels.get(channel_id)
        if known is None or known[0] is not keys.lines[channel_id]:
            known = keys.lines[channel_id], Content(keys, (channel_id,))
            self._channels[channel_id] = known
        return known[1]


def _levels(instances: tuple[ClipInstance, ...]) -> tuple[int, ...]:
    """How far down each block lies, so that none covers another."""
    ends: list[float] = []
    found = [0] * len(instances)
    for number in sorted(range(len(instances)), key=lambda i: instances[i].start):
        instance = instances[number]
        level = next((i for i, end in enumerate(ends) if end <= instance.start + 1e-6), len(ends))
        ends[level:] = [instance.end, *ends[level + 1 :]]
        found[number] = level
    return tuple(found)


def _controls(actor: Figure | None, channel_ids: Collection[ChannelId]) -> int:
    return (
        len({row_of(actor.rig, channel_id) for channel_id in channel_ids})
        if actor is not None
        else 0
    )


def _channel(
    rig: Rig, part: StripRow, channel_id: ChannelId, content: Content, top: int
) -> StripRow:
    row = row_of(rig, channel_id)
    control = rig.controls[row] if row is not None else None
    label, kind = label_of(rig, channel_id)
    return StripRow(
        f"{channel_id.kind}:{channel_id.name}",
        label if kind in ("", "turn") else f"{label} {kind}",
        "",
        part.regions,
        content,
        top,
        LOW,
        side={Side.LEFT: "L", Side.RIGHT: "R"}.get(control.side, "") if control else "",
        channel=True,
    )


def _curve(channel_id: ChannelId, values: Array) -> tuple[float, ...]:
    """One number for each of some values, 0...1 over what the channel goes through: of a turn how
    far along the way on which they differ most."""
    values = to_vector(values) if channel_id.kind is ChannelKind.TURN else values
    along = _main_direction(values)
    low, high = float(along.min()), float(along.max())
    if high - low < 1e-9:
        return (0.5,) * len(values)
    return tuple(((along - low) / (high - low)).tolist())


def _main_direction(values: Array) -> Array:
    if values.shape[1] == 1:
        return values[:, 0]
    spread = values - values.mean(0)
    axis = np.linalg.svd(spread, full_matrices=False)[2][0]
    axis = axis if axis[np.argmax(np.abs(axis))] > 0 else -axis
    return np.asarray(spread @ axis)


def value_now(actor: Figure, channel_id: ChannelId) -> str:
    """What a channel stands at now."""
    rig, state = actor.rig, actor.state
    if channel_id.kind is ChannelKind.SETTING:
        setting = rig.settings[rig.setting_row[channel_id.name]]
        value = float(state.settings[rig.setting_row[channel_id.name]])
        if setting.options and 0 <= round(value) < len(setting.options):
            return setting.options[round(value)]
        return number_text(value, ".2f")
    row = rig.control_row[channel_id.name]
    if channel_id.kind is ChannelKind.TURN:
        angle = float(np.degrees(np.linalg.norm(to_vector(state.turn[row]))))
        return number_text(angle, ".1f") + "°"
    if channel_id.kind is ChannelKind.MOVE:
        return tr("{norm:.1f} cm", norm=float(np.linalg.norm(state.move[row])) * 100)
    return number_text(float(state.scale[row].mean()), ".2f")
