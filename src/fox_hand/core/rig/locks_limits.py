"""What may not change: locked channels, and channels with limits."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np

from fox_hand.core.maths.euler import from_euler, to_euler_near
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.controls import Channel
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig

# what would leave the plane of a drawing
DEPTH = {(Channel.TURN, 0), (Channel.TURN, 1), (Channel.MOVE, 2), (Channel.SCALE, 2)}


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


def out_of_plane(rig: Rig) -> frozenset[Lock]:
    """Of a puppet cut out of drawings the locks that keep it in its plane: nobody wants to see
    them, or to undo them."""
    if not rig.flat:
        return frozenset()
    return frozenset(lock for lock in built_in(rig) if (lock.channel, lock.axis) in DEPTH)


def within(rig: Rig, locks: Collection[Lock], before: State, after: State) -> State:
    """``after`` with locked channels as they were ``before``, and changed channels that have
    limits inside them.

    A value that already stood outside its limits may stay or come back, but not go further.

    Args:
        rig: the figure's.
        locks: which channels and settings stay.
        before, after: two states of it.
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
    if kind is Channel.MOVE and len(rig.bounds.moving):
        rows = rig.bounds.moving
        low, high = rig.bounds.moves
        found[rows] = _clamped(low[rows], high[rows], before[rows], found[rows])
    for row, axes in _locked_axes(rig, locks, kind).items():
        found[row, axes] = before[row, axes]
    return found


def _turns(rig: Rig, locks: Collection[Lock], before: State, after: State) -> tuple[Array, Array]:
    """Turns within locks and limits; only controls whose turn has changed are looked at."""
    turn, euler = after.turn.copy(), after.euler.copy()
    locked = _locked_axes(rig, locks, Channel.TURN)
    changed = (before.turn != after.turn).any(-1)
    watched = np.zeros(len(changed), dtype=bool)
    watched[rig.bounds.turning] = True
    watched[list(locked)] = True
    rows = np.flatnonzero(changed & watched)
    if len(rows):
        axes, (low, high) = rig.bounds.axes[rows], rig.bounds.turns
        was = before.shown(rig.orders)[rows]
        now = to_euler_near(after.turn[rows], axes, after.euler[rows])
        kept = _clamped(low[rows], high[rows], was, now)
        for i, row in enumerate(rows.tolist() if locked else ()):
            if row in locked:
                kept[i, locked[row]] = was[i, locked[row]]
        other = (kept != now).any(-1)
        turn[rows[other]], euler[rows[other]] = from_euler(kept[other], axes[other]), kept[other]
    whole = [row for row, axes in locked.items() if len(set(axes)) == 3]
    turn[whole], euler[whole] = before.turn[whole], before.euler[whole]
    return turn, euler


def _clamped(low: Array, high: Array, before: Array, after: Array) -> Array:
    """Inside the limits, or no further outside than before."""
    low, high = np.minimum(low, before), np.maximum(high, before)
    return np.asarray(np.minimum(np.maximum(after, low), high))
