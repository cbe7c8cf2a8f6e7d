"""Poses as plain values: control, channel, number; and as the rig's own nodes have them."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.core.animation.motion import motion_of
from fox_hand.core.maths.euler import to_euler
from fox_hand.core.model.controls import Channel
from fox_hand.core.model.state import State
from fox_hand.core.pose.pose import ChannelFilter, Pose, shown_euler, take
from fox_hand.core.rig.rig import Rig
from fox_hand.session.figures.channels import ChannelRef, with_value
from fox_hand.session.figures.pose_conversion import choice_of, state_of

AXES = "xyz"
DIGITS = 9
SLACK = 1e-9  # what writing a number down and reading it again may do to it
Values = Mapping[str, Mapping[str, float]]


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
    controls, orders = channel_values(rig, state, pose)
    return {
        "rig": rig.name,
        "relative_to": "rest",
        "controls": controls,
        "orders": orders,
        "nodes": moved_nodes(rig, state),
    }


def channel_values(
    rig: Rig, state: State, pose: Pose
) -> tuple[dict[str, dict[str, float]], dict[str, str]]:
    """Control -> channel -> value of :func:`values_of`, and the orders of the turns."""
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
    return controls, orders


def _three(channel: Channel, values: np.ndarray) -> dict[str, float]:
    return {f"{channel.value}.{a}": _plain(v) for a, v in zip(AXES, values, strict=True)}


def _plain(value: float) -> float:
    return round(float(value), DIGITS) + 0.0  # no minus zero


def moved_nodes(rig: Rig, state: State) -> dict[str, dict[str, list[float]]]:
    """The nodes of the file that stand otherwise than at rest; see :func:`values_of`."""
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


def with_values(rig: Rig, state: State, values: Values, *, limits: bool = True) -> State:
    """A state with some of its values set.

    Args:
        rig, state: who stands how.
        values: control -> channel -> value, as :func:`values_of` gives them; every one counts.
        limits: refuse what locks and limits do not allow. Settings have a range in any case.

    Raises:
        FoxHandError: ``api.no_control``, ``api.no_channel``, ``api.no_number`` or
            ``api.out_of_range``.
    """
    for name, channels in values.items():
        row = rig.control_row.get(name)
        if row is None:
            raise _refused(
                "api.no_control", tr("{rig} has no control {name}.", rig=rig.name, name=name)
            )
        for channel, value in channels.items():
            if isinstance(value, str) or not math.isfinite(value):
                said = tr("{name} {channel} is no number.", name=name, channel=channel)
                raise _refused("api.no_number", said)
            ref = _channel(rig, row, channel)
            if limits or ref.kind is None:
                _check(rig, ref, channel, value)
            shown = value * 100 if ref.kind is Channel.MOVE else value  # as people type it
            state = with_value(rig, state, ref, shown)
    return state


def _refused(code: str, said: str) -> FoxHandError:
    return FoxHandError(code, said, tr("Nothing was changed."))


def _channel(rig: Rig, row: int, channel: str) -> ChannelRef:
    control = rig.controls[row]
    setting = rig.setting_row.get(channel)
    if setting is not None and rig.settings[setting].control == row:
        return ChannelRef(row, None, setting)
    kind, _, axis = channel.partition(".")
    if kind in {c.value for c in control.channels} and len(axis) == 1 and axis in AXES:
        return ChannelRef(row, Channel(kind), AXES.index(axis))
    known = [f"{c.value}.{a}" for c in Channel if c in control.channels for a in AXES]
    known += [rig.settings[s].name for s in rig.settings_of[row]]
    raise _refused(
        "api.no_channel",
        tr(
            "{control} has no channel {channel}; it has {known}.",
            control=control.name,
            channel=channel,
            known=", ".join(known) or tr("none"),
        ),
    )


def _check(rig: Rig, ref: ChannelRef, channel: str, value: float) -> None:
    """Raises for a value that a lock or a limit does not allow."""
    control = rig.controls[ref.row]
    low, high = -math.inf, math.inf
    if ref.kind is None:
        setting = rig.settings[ref.axis]
        low, high = setting.minimum, setting.maximum
        if setting.discrete and value != round(value):
            said = tr("{channel} is a switch or a choice: a whole number.", channel=channel)
            raise _refused("api.out_of_range", said)
    elif (ref.kind, ref.axis) in control.locked:
        said = tr("{control} {channel} is locked.", control=control.name, channel=channel)
        raise _refused("api.out_of_range", said)
    elif ref.kind is Channel.TURN and (turn := control.limits[ref.axis]) is not None:
        low, high = (float(np.degrees(v)) for v in turn)
    elif ref.kind is Channel.MOVE and (move := control.move_limits[ref.axis]) is not None:
        low, high = move
    if not low - SLACK <= value <= high + SLACK:
        raise _refused(
            "api.out_of_range",
            tr(
                "{control} {channel} goes from {low:g} to {high:g}; {value:g} is not within.",
                control=control.name,
                channel=channel,
                low=low,
                high=high,
                value=value,
            ),
        )


def pose_with(rig: Rig, pose: Pose, values: Values, *, limits: bool = True) -> Pose:
    """A pose with some of its values set, and with what it did not hold until now.

    Args:
        rig: whose names and orders they are.
        pose: what is held before.
        values, limits: as for :func:`with_values`.

    Raises:
        FoxHandError: as :func:`with_values`.
    """
    state = with_values(rig, state_of(rig, pose), values, limits=limits)
    held = choice_of(rig, pose)
    channels, settings = dict(held.channels), set(held.settings)
    for name, own in values.items():
        row = rig.control_row[name]
        for channel in own:
            ref = _channel(rig, row, channel)
            if ref.kind is None:
                settings.add(ref.axis)
            else:
                channels[row] = channels.get(row, frozenset()) | {ref.kind}
    found = take(rig, state, ChannelFilter(channels, frozenset(settings)))
    strange = {name: one for name, one in pose.controls.items() if name not in found.controls}
    return Pose({**found.controls, **strange})  # what the rig does not have stays as it was
