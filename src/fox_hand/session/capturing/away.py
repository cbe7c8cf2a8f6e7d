"""Which channels and settings are away from where they were, how far, and in which words."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

import numpy as np

from fox_hand.base.language import number_text, tr
from fox_hand.core.animation.curves import KIND_OF, ChannelId, ChannelKind
from fox_hand.core.maths.rotations import Array, angle_between
from fox_hand.core.model.controls import Channel, Side
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig

STILL = 1e-6  # metres, factors and units
STILL_TURN = 1e-4  # radians
Away = Mapping[ChannelId, float]
KIND_WORDS = {
    ChannelKind.MOVE: "move",
    ChannelKind.TURN: "turn",
    ChannelKind.SCALE: "scale",
}


def away_from(rig: Rig, state: State, since: State) -> dict[ChannelId, float]:
    """Channels and settings that differ, and how far: radians, metres, factors and units.

    Args:
        rig: whose.
        state, since: the two poses, of that rig.
    """
    measured: tuple[tuple[Channel, Array, float], ...] = (
        (Channel.MOVE, np.linalg.norm(state.move - since.move, axis=-1), STILL),
        (Channel.TURN, angle_between(state.turn, since.turn), STILL_TURN),
        (Channel.SCALE, np.abs(state.scale - since.scale).max(-1), STILL),
    )
    found = {
        ChannelId(KIND_OF[channel], rig.controls[row].name): float(far[row])
        for channel, far, still in measured
        for row in np.flatnonzero(far > still).tolist()
        if channel in rig.controls[row].channels
    }
    settings = np.abs(state.settings - since.settings)
    for row in np.flatnonzero(settings > STILL).tolist():
        name = rig.settings[row].name
        found[ChannelId(ChannelKind.SETTING, name)] = float(settings[row])
    return found


def farthest_first(rig: Rig, found: Away, only: Iterable[ChannelId]) -> list[ChannelId]:
    """Some of the channels, those that are farthest away first."""

    def weight(channel_id: ChannelId) -> float:
        far = found.get(channel_id, 0.0)
        if channel_id.kind is ChannelKind.MOVE:
            return far / max(rig.height, 1e-9)
        if channel_id.is_setting:
            setting = rig.settings[rig.setting_row[channel_id.name]]
            return far / max(setting.maximum - setting.minimum, 1e-9)
        return far

    return sorted(only, key=lambda channel_id: -weight(channel_id))


def named(rig: Rig, row: int) -> str:
    """A control's name for lists, its side in front."""
    side, word = rig.controls[row].side, rig.word(row)
    if not rig.naming.spoken or side.value in word.lower().split():
        return word
    return {Side.LEFT: "L ", Side.RIGHT: "R "}.get(side, "") + word


def setting_name(rig: Rig, row: int, between: str = " ") -> str:
    """A setting's name with its control's in front, unless it says that itself.

    Args:
        rig, row: whose, and which.
        between: what stands between the two.
    """
    setting = rig.settings[row]
    control = rig.controls[setting.control]
    if not rig.naming.spoken:
        return setting.name
    if setting.label.lower().startswith(f"{control.label.lower()} "):
        return setting.label
    return f"{named(rig, setting.control)}{between}{setting.words}"


def setting_words(rig: Rig, state: State, row: int) -> str:
    """A setting and its value."""
    return f"{setting_name(rig, row)} {number_text(float(state.settings[row]), '.2f')}"


def channel_name(rig: Rig, channel_id: ChannelId) -> str:
    """Such as "Jaw turn", or "Lids L squint" of a setting."""
    if channel_id.is_setting:
        return setting_name(rig, rig.setting_row[channel_id.name])
    return f"{named(rig, rig.control_row[channel_id.name])} {KIND_WORDS[channel_id.kind]}"


def way_words(rig: Rig, state: State, channel_id: ChannelId, far: float) -> str:
    """How far a channel is away, with its name: "Jaw turn 18°", "Jaw move 2.0 cm"; of a setting
    the value it has."""
    name = channel_name(rig, channel_id)
    if channel_id.is_setting:
        row = rig.setting_row[channel_id.name]
        setting, value = rig.settings[row], float(state.settings[row])
        if setting.options and 0 <= round(value) < len(setting.options):
            return f"{name}: {setting.options[round(value)]}"
        return f"{name} {number_text(value, '.2f')}"
    if channel_id.kind is ChannelKind.TURN:
        return f"{name} {np.degrees(far):.{0 if far > np.radians(0.5) else 2}f}°"
    if channel_id.kind is ChannelKind.MOVE:
        return (
            tr("{name} {far:.1f} cm", name=name, far=far * 100)
            if far >= 0.0005
            else tr("{name} {far:.2f} mm", name=name, far=far * 1000)
        )
    sizes = state.scale[rig.control_row[channel_id.name]]
    return f"{name} ×{number_text(float(sizes[np.abs(sizes - 1).argmax()]), '.2f')}"
