"""What may not change: locked channels, and channels with limits."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np

from fox_hand.core.controls import NO_LIMITS, Channel, Limits
from fox_hand.core.pose import shown_euler
from fox_hand.core.rig import Rig
from fox_hand.core.rotations import Array, from_euler
from fox_hand.core.state import State


@dataclass(frozen=True)
class Lock:
    """One locked channel by name, so that it outlives a changed rig.

    Args:
        control: control name.
        channel: kind of channel; None for a setting.
        axis: 0, 1 or 2; 0 for a setting.
        setting: setting name, empty for a channel.
    """

    control: str
    channel: Channel | None = None
    axis: int = 0
    setting: str = ""


def built_in(rig: Rig) -> frozenset[Lock]:
    """The locks the rig's builder has set."""
    return frozenset(
        Lock(control.name, channel, axis)
        for control in rig.controls
        for channel, axis in control.locked
    )


def within(rig: Rig, locks: Collection[Lock], before: State, after: State) -> State:
    """``after`` with locked channels as they were ``before``, and changed channels that have
    limits inside them.

    A value that already stood outside its limits may stay or come back, but not go further.
    """
    if after is before:
        return after
    move = _kept(rig, locks, Channel.MOVE, before.move, after.move)
    scale = _kept(rig, locks, Channel.SCALE, before.scale, after.scale)
    turn, euler = _turns(rig, locks, before, after)
    settings = after.settings
    held = [rig.setting_row[x.setting] for x in locks if x.setting in rig.setting_row]
    if held:
        settings = settings.copy()
        settings[held] = before.settings[held]
    return after.with_(move=move, scale=scale, turn=turn, euler=euler, settings=settings)


def _locked_axes(rig: Rig, locks: Collection[Lock], kind: Channel) -> dict[int, list[int]]:
    found: dict[int, list[int]] = {}
    for lock in locks:
        row = rig.control_row.get(lock.control)
        if lock.channel is kind and row is not None:
            found.setdefault(row, []).append(lock.axis)
    return found


def _kept(rig: Rig, locks: Collection[Lock], kind: Channel, before: Array, after: Array) -> Array:
    found = after.copy()
    for row, axes in _locked_axes(rig, locks, kind).items():
        found[row, axes] = before[row, axes]
    if kind is Channel.MOVE:
        for row, control in enumerate(rig.controls):
            if control.move_limits != NO_LIMITS:
                found[row] = _clamped(control.move_limits, before[row], found[row])
    return found


def _turns(rig: Rig, locks: Collection[Lock], before: State, after: State) -> tuple[Array, Array]:
    """Turns within locks and limits; only controls whose turn has changed are looked at."""
    turn, euler = after.turn.copy(), after.euler.copy()
    locked = _locked_axes(rig, locks, Channel.TURN)
    bounded = {row for row, c in enumerate(rig.controls) if c.limits != NO_LIMITS}
    changed = np.flatnonzero((before.turn != after.turn).any(-1))
    for row in (bounded | set(locked)) & set(changed.tolist()):
        control, axes = rig.controls[row], locked.get(row, [])
        if len(axes) == 3:
            turn[row], euler[row] = before.turn[row], before.euler[row]
            continue
        was = shown_euler(control, before, row)
        now = shown_euler(control, after, row)
        kept = _clamped(control.limits, was, now)
        kept[axes] = was[axes]
        if (kept != now).any():
            turn[row], euler[row] = from_euler(kept, control.order), kept
    return turn, euler


def _clamped(limits: Limits, before: Array, after: Array) -> Array:
    found = np.array(after)
    for axis, limit in enumerate(limits):
        if limit is not None:
            low, high = min(limit[0], before[axis]), max(limit[1], before[axis])
            found[axis] = min(max(after[axis], low), high)
    return found
