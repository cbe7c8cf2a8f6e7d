"""Values as a host has them, and as a figure stands: turns in degrees by the control's order on
both sides, moves in the host's unit there and in metres here."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from fox_hand.core.maths.euler import from_euler
from fox_hand.core.model.controls import Channel
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig

AXES = "xyz"
SAME = 1e-9  # what arithmetic may do to a number on its way here and back
Values = Mapping[str, Mapping[str, float]]


def state_from(rig: Rig, values: Values, unit: float) -> State:
    """How a rig stands by a host's values; what they do not say is at rest.

    Args:
        rig: made of the host's description.
        values: control -> channel -> number; what the rig does not have is passed over.
        unit: metres of one of the host's units.
    """
    rest = rig.rest
    move, turn, scale = rest.move.copy(), rest.turn.copy(), rest.scale.copy()
    settings, euler = rest.settings.copy(), rest.euler.copy()
    for name, channels in values.items():
        row = rig.control_row.get(name)
        if row is None:
            continue
        for channel, value in channels.items():
            kind, _, axis = channel.partition(".")
            setting = rig.setting_row.get(channel)
            if setting is not None:
                settings[setting] = value
            elif axis in AXES and kind == Channel.MOVE:
                move[row, AXES.index(axis)] = value * unit
            elif axis in AXES and kind == Channel.TURN:
                euler[row, AXES.index(axis)] = np.radians(value)
            elif axis in AXES and kind == Channel.SCALE:
                scale[row, AXES.index(axis)] = value
        if euler[row].any():
            turn[row] = from_euler(euler[row], rig.controls[row].order)
    return rest.with_(move=move, turn=turn, scale=scale, settings=settings, euler=euler)


def values_from(rig: Rig, state: State, unit: float) -> dict[str, dict[str, float]]:
    """The same the other way: all channels and settings that the rig has."""
    shown = np.degrees(state.shown(rig.orders))
    tables = {Channel.MOVE: state.move / unit, Channel.TURN: shown, Channel.SCALE: state.scale}
    found: dict[str, dict[str, float]] = {}
    for row, control in enumerate(rig.controls):
        held = {
            f"{kind.value}.{axis}": float(tables[kind][row, i])
            for kind in Channel
            if kind in control.channels
            for i, axis in enumerate(AXES)
        }
        for setting in rig.settings_of[row]:
            held[rig.settings[setting].name] = float(state.settings[setting])
        if held:
            found[control.name] = held
    return found


def changed_values(before: Values, after: Values) -> dict[str, dict[str, float]]:
    """What of ``after`` is otherwise than in ``before``."""
    found: dict[str, dict[str, float]] = {}
    for control, channels in after.items():
        was = before.get(control, {})
        for channel, value in channels.items():
            if abs(value - was.get(channel, np.inf)) > SAME * max(1.0, abs(value)):
                found.setdefault(control, {})[channel] = value
    return found
