"""Poses as plain values: control, channel, number; and as the rig's own nodes have them."""

from __future__ import annotations

from typing import Any

import numpy as np

from fox_hand.core.animation.motion import motion_of
from fox_hand.core.maths.euler import to_euler
from fox_hand.core.model.controls import Channel
from fox_hand.core.model.state import State
from fox_hand.core.pose.pose import Pose, shown_euler
from fox_hand.core.rig.rig import Rig

AXES = "xyz"
DIGITS = 9


def values_of(rig: Rig, state: State, pose: Pose) -> dict[str, Any]:
    """How a rig stands, as far as a pose holds it.

    Args:
        rig, state: who stands how.
        pose: which controls, channels and settings are asked for, by the rig's names.

    Returns:
        ``controls``: control -> channel -> value, relative to rest: ``move.x`` in metres,
        ``turn.x`` in degrees by the control's own order (``orders``), ``scale.x`` as a factor, and
        settings by name. ``nodes``: every node of the file that stands otherwise than at rest, with
        ``translation``, ``rotation`` (x, y, z, w) and ``scale`` in its parent's frame, as glTF has
        them; goals and solvers are worked out in them.
    """
    controls: dict[str, dict[str, float]] = {}
    orders: dict[str, str] = {}
    for name, held in pose.controls.items():
        row = rig.control_row.get(name)
        if row is None:
            continue
        channels = controls.setdefault(name, {})
        if held.move is not None:
            channels |= _three(Channel.MOVE, state.move[row])
        if held.turn is not None:
            angles = np.degrees(shown_euler(rig.controls[row], state, row))
            channels |= _three(Channel.TURN, angles)
            orders[name] = rig.controls[row].order
        if held.scale is not None:
            channels |= _three(Channel.SCALE, state.scale[row])
        for setting in held.settings:
            if setting in rig.setting_row:
                channels[setting] = _plain(state.settings[rig.setting_row[setting]])
    return {
        "rig": rig.name,
        "relative_to": "rest",
        "controls": controls,
        "orders": orders,
        "nodes": _nodes(rig, state),
    }


def _three(channel: Channel, values: np.ndarray) -> dict[str, float]:
    return {f"{channel.value}.{a}": _plain(v) for a, v in zip(AXES, values, strict=True)}


def _plain(value: float) -> float:
    return round(float(value), DIGITS) + 0.0  # no minus zero


def _nodes(rig: Rig, state: State) -> dict[str, dict[str, list[float]]]:
    both = State(*(np.stack(pair) for pair in zip(rig.rest.arrays(), state.arrays(), strict=True)))
    moves = motion_of("values", rig, both, 24.0)
    found = {}
    for row, name in enumerate(moves.nodes):
        parts = (moves.move[:, row], moves.turn[:, row], moves.scale[:, row])
        if max(float(np.abs(p[1] - p[0]).max()) for p in parts) < 1e-9:
            continue
        words = ("translation", "rotation", "scale")
        found[name] = {w: [_plain(v) for v in p[1]] for w, p in zip(words, parts, strict=True)}
    return found


def held_values(pose: Pose) -> dict[str, dict[str, float]]:
    """What a pose holds, without any rig: control -> channel -> value as :func:`values_of`, angles
    by the order they were authored in."""
    found: dict[str, dict[str, float]] = {}
    for name, held in pose.controls.items():
        channels = found.setdefault(name, {})
        if held.move is not None:
            channels |= _three(Channel.MOVE, np.array(held.move))
        if held.turn is not None:
            euler = held.euler or to_euler(np.array(held.turn), held.order or "XYZ")
            channels |= _three(Channel.TURN, np.degrees(np.asarray(euler)))
        if held.scale is not None:
            channels |= _three(Channel.SCALE, np.array(held.scale))
        channels |= {setting: _plain(value) for setting, value in held.settings.items()}
    return found
