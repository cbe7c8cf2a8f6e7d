"""The rows of the strip: one for each part of the body, opened a row for each keyed channel."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, field, replace

import numpy as np

from fox_hand.core.blocks import Block
from fox_hand.core.controls import Region, Side
from fox_hand.core.keys import Keys, Lane, LaneKind, Line, row_of
from fox_hand.core.rig import Rig
from fox_hand.core.rotations import Array, to_vector
from fox_hand.session.actor import Actor
from fox_hand.session.chips import ROWS, Chip, chips_of, label_of, lanes_in

CLIPS = "Clips"
LEVEL = 24  # pixels of a block where several lie below each other
TALL, LOW = 36, 24  # pixels of a part's row, and of a channel's


@dataclass(frozen=True)
class StripRow:
    """One row.

    Args:
        key: what tells it from others.
        title: as shown.
        icon: of a part of the body; empty for a channel.
        regions: what a card that is dropped here goes on.
        lanes: what is keyed in it.
        chips: its keys.
        top, height: pixels from the top of all rows.
        controls: how many controls have keys.
        open: whether its channels are shown below it.
        side: of a channel, L, R or nothing.
        value: of a channel, what is shown now.
        channel: whether it is one channel.
        curve: of a channel, its values from 0 to 1 at its keys.
        blocks, levels: of the row of clips, what lies in it and how far down.
    """

    key: str
    title: str
    icon: str
    regions: frozenset[Region]
    lanes: tuple[Lane, ...]
    chips: tuple[Chip, ...]
    top: int = 0
    height: int = TALL
    controls: int = 0
    open: bool = False
    side: str = ""
    value: str = ""
    channel: bool = False
    curve: tuple[float, ...] = field(default=())
    blocks: tuple[Block, ...] = ()
    levels: tuple[int, ...] = ()


class RowBook:
    """Builds the rows and remembers what did not change."""

    def __init__(self) -> None:
        self.opened: set[str] = set()
        self._parts: dict[str, tuple[Keys, Rig, tuple[Lane, ...], tuple[Chip, ...]]] = {}

    def toggle(self, key: str) -> None:
        """Open a part's channels, or close them."""
        self.opened ^= {key}

    def rows(self, actor: Actor | None) -> list[StripRow]:
        """All rows from top to bottom."""
        found: list[StripRow] = []
        top = 0
        for title, icon, regions in ROWS:
            lanes, chips = self._part(actor, title, regions)
            row = StripRow(
                title,
                title,
                icon,
                regions,
                lanes,
                chips,
                top,
                controls=_controls(actor, lanes),
                open=title in self.opened and bool(lanes),
            )
            found.append(row)
            top += row.height
            if row.open and actor is not None:
                for channel in _channels(actor, row, top):
                    found.append(channel)
                    top += channel.height
        blocks = actor.take.blocks if actor is not None else ()
        levels = _levels(blocks)
        tall = TALL if not any(levels) else 4 + LEVEL * (max(levels) + 1)
        clips = StripRow(CLIPS, CLIPS, "film", frozenset(), (), (), top, tall)
        found.append(replace(clips, controls=len(blocks), blocks=blocks, levels=levels))
        return found

    def _part(
        self, actor: Actor | None, title: str, regions: Collection[Region]
    ) -> tuple[tuple[Lane, ...], tuple[Chip, ...]]:
        if actor is None:
            return (), ()
        known = self._parts.get(title)
        if known is None or known[0] is not actor.keys or known[1] is not actor.rig:
            lanes = lanes_in(actor.rig, actor.keys, regions)
            known = actor.keys, actor.rig, lanes, chips_of(actor.keys, lanes)
            self._parts[title] = known
        return known[2], known[3]


def _levels(blocks: tuple[Block, ...]) -> tuple[int, ...]:
    """How far down each block lies, so that none covers another."""
    ends: list[float] = []
    found = [0] * len(blocks)
    for number in sorted(range(len(blocks)), key=lambda i: blocks[i].start):
        block = blocks[number]
        level = next((i for i, end in enumerate(ends) if end <= block.start + 1e-6), len(ends))
        ends[level:] = [block.end, *ends[level + 1 :]]
        found[number] = level
    return tuple(found)


def _controls(actor: Actor | None, lanes: Collection[Lane]) -> int:
    return len({row_of(actor.rig, lane) for lane in lanes}) if actor is not None else 0


def _channels(actor: Actor, part: StripRow, top: int) -> list[StripRow]:
    rig, found = actor.rig, []

    def place(lane: Lane) -> tuple[int, str, str]:
        return row_of(rig, lane) or 0, lane.kind.value, lane.name

    for lane in sorted(part.lanes, key=place):
        row = row_of(rig, lane)
        control = rig.controls[row] if row is not None else None
        label, kind = label_of(rig, lane)
        side = {Side.LEFT: "L", Side.RIGHT: "R"}.get(control.side, "") if control else ""
        line = actor.keys.lines[lane]
        found.append(
            StripRow(
                f"{lane.kind}:{lane.name}",
                label if kind in ("", "turn") else f"{label} {kind}",
                "",
                part.regions,
                (lane,),
                chips_of(actor.keys, (lane,)),
                top,
                LOW,
                side=side,
                value=_value(actor, lane),
                channel=True,
                curve=_curve(lane, line),
            )
        )
        top += LOW
    return found


def _curve(lane: Lane, line: Line) -> tuple[float, ...]:
    """One number for each key, 0...1 over what the channel goes through: of a turn how far along
    the way on which its keys differ most."""
    values = to_vector(line.values) if lane.kind is LaneKind.TURN else line.values
    along = _main_direction(values)
    low, high = float(along.min()), float(along.max())
    if high - low < 1e-9:
        return (0.5,) * len(line)
    return tuple(((along - low) / (high - low)).tolist())


def _main_direction(values: Array) -> Array:
    if values.shape[1] == 1:
        return values[:, 0]
    spread = values - values.mean(0)
    axis = np.linalg.svd(spread, full_matrices=False)[2][0]
    axis = axis if axis[np.argmax(np.abs(axis))] > 0 else -axis
    return np.asarray(spread @ axis)


def _value(actor: Actor, lane: Lane) -> str:
    """What a channel stands at now."""
    rig, state = actor.rig, actor.state
    if lane.kind is LaneKind.SETTING:
        setting = rig.settings[rig.setting_row[lane.name]]
        value = float(state.settings[rig.setting_row[lane.name]])
        if setting.options and 0 <= round(value) < len(setting.options):
            return setting.options[round(value)]
        return f"{value:.2f}"
    row = rig.control_row[lane.name]
    if lane.kind is LaneKind.TURN:
        angle = float(np.degrees(np.linalg.norm(to_vector(state.turn[row]))))
        return f"{angle:.1f}°"
    if lane.kind is LaneKind.MOVE:
        return f"{float(np.linalg.norm(state.move[row])) * 100:.1f} cm"
    return f"{float(state.scale[row].mean()):.2f}"
