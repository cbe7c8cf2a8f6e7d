"""Single channels: what they are called, their values, and setting them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from fox_hand.base.language import tr
from fox_hand.core.maths.euler import from_euler
from fox_hand.core.maths.rotations import (
    Array,
    about_axis,
    from_matrix,
    multiply,
    normalise,
    to_matrix,
)
from fox_hand.core.model.controls import Channel
from fox_hand.core.model.state import State
from fox_hand.core.pose.placing import frame_of, put
from fox_hand.core.pose.pose import shown_euler
from fox_hand.core.rig.rig import Rig

AXES = "xyz"


@dataclass(frozen=True)
class ChannelRef:
    """One number of one control, or one setting (``kind`` None, ``axis`` the setting's row)."""

    row: int
    kind: Channel | None
    axis: int

    def label(self, rig: Rig) -> tuple[str, str]:
        """The control's name and the channel's word."""
        control = rig.controls[self.row]
        if self.kind is None:
            return rig.setting_word(self.axis), ""
        if self.kind is Channel.TURN:
            return rig.word(self.row), control.axis_words[self.axis]
        axis = AXES[self.axis]
        moves = self.kind is Channel.MOVE
        return rig.word(self.row), tr("move {axis}", axis=axis) if moves else tr(
            "scale {axis}", axis=axis
        )

    @property
    def unit(self) -> str:
        """What follows the number."""
        return {Channel.TURN: "°", Channel.MOVE: " cm", Channel.SCALE: ""}.get(
            self.kind or Channel.SCALE, ""
        )

    def value(self, rig: Rig, state: State) -> float:
        """As shown: degrees, centimetres, factors, setting values."""
        if self.kind is None:
            return float(state.settings[self.axis])
        if self.kind is Channel.TURN:
            return float(np.degrees(state.shown(rig.orders)[self.row, self.axis]))
        if self.kind is Channel.MOVE:
            return float(state.move[self.row, self.axis] * 100)
        return float(state.scale[self.row, self.axis])

    def rest_value(self, rig: Rig) -> float:
        if self.kind is None:
            return rig.settings[self.axis].default
        return 1.0 if self.kind is Channel.SCALE else 0.0

    def limit(self, rig: Rig) -> tuple[float, float] | None:
        """Lowest and highest value as shown, where the rig sets them for a turn or a move."""
        control = rig.controls[self.row]
        if self.kind is Channel.TURN:
            turn = control.limits[self.axis]
            return None if turn is None else (np.degrees(turn[0]), np.degrees(turn[1]))
        if self.kind is Channel.MOVE:
            move = control.move_limits[self.axis]
            return None if move is None else (move[0] * 100, move[1] * 100)
        return None

    def span(self, rig: Rig) -> tuple[float, float]:
        """The range a bar shows."""
        if self.kind is None:
            setting = rig.settings[self.axis]
            return setting.minimum, setting.maximum
        limit = self.limit(rig)
        if limit is not None:
            return float(limit[0]), float(limit[1])
        if self.kind is Channel.TURN:
            return -120.0, 120.0
        if self.kind is Channel.MOVE:
            reach = rig.height * 50
            return -reach, reach
        return 0.0, 2.0


def channels_of(rig: Rig, rows: Iterable[int], kinds: Sequence[Channel]) -> list[ChannelRef]:
    """Channels of some controls: settings first, then turns, moves and scales as asked."""
    found: list[ChannelRef] = []
    rows = list(rows)
    for row in rows:
        found += [ChannelRef(row, None, s) for s in rig.settings_of[row]]
    for row in rows:
        for kind in kinds:
            if kind in rig.controls[row].channels:
                found += [ChannelRef(row, kind, axis) for axis in range(3)]
    return found


def with_value(rig: Rig, state: State, ref: ChannelRef, value: float) -> State:
    """The state with one channel set to a value as shown; settings stay within their range."""
    if ref.kind is None:
        setting = rig.settings[ref.axis]
        settings = state.settings.copy()
        settings[ref.axis] = setting.nearest(value)
        return state.with_(settings=settings)
    if ref.kind is Channel.MOVE:
        move = state.move.copy()
        move[ref.row, ref.axis] = value / 100
        return state.with_(move=move)
    if ref.kind is Channel.SCALE:
        scale = state.scale.copy()
        scale[ref.row, ref.axis] = value
        return state.with_(scale=scale)
    control = rig.controls[ref.row]
    angles = shown_euler(control, state, ref.row).copy()
    angles[ref.axis] = np.radians(value)
    turn, euler = state.turn.copy(), state.euler.copy()
    turn[ref.row] = from_euler(angles, control.order)
    euler[ref.row] = angles
    return state.with_(turn=turn, euler=euler)


def turned_about_own_axis(
    rig: Rig, state: State, rows: Iterable[int], axis: int, angle: float
) -> State:
    """Controls turned by ``angle`` radians about one of their own axes, as they stand."""
    return _turned(rig, state, {row: about_axis(np.eye(3)[axis], angle) for row in rows}, own=True)


def moved_in_world(
    rig: Rig, state: State, rows: Iterable[int], nodes: Array, step: Array, ground: Array
) -> State:
    """Controls that can be moved shifted by a world vector.

    Args:
        rig, state: whose controls, from which state.
        rows: controls; those below another moved one are carried along, not moved again.
        nodes: world matrices of that state, ``(N, 4, 4)``.
        step: metres, ``(3,)``.
        ground: where the figure stands, ``(4, 4)``.
    """
    chosen = [r for r in rows if Channel.MOVE in rig.controls[r].channels]
    for row in chosen:
        if not any(other in chosen for other in _above(rig, row)):
            place = nodes[rig.controls[row].node, :3, 3] + step
            state = put(rig, state, row, nodes, place, ground=ground)
    return state


def turned_in_world(
    rig: Rig, state: State, rows: Iterable[int], nodes: Array, rotation: Array
) -> State:
    """Controls turned by a world rotation about their own places.

    Args:
        rig, state: whose controls, from which state.
        rows: controls; those below another turned one are carried along, not turned again.
        nodes: world matrices of that state, ``(N, 4, 4)``.
        rotation: world turn, ``(4,)``.
    """
    chosen = list(rows)
    turns = {}
    for row in chosen:
        if any(other in chosen for other in _above(rig, row)):
            continue
        frame = frame_of(rig, state, row, nodes)  # mirrored where the figure hangs on a mirror
        turns[row] = from_matrix(frame.T @ to_matrix(rotation) @ frame)
    return _turned(rig, state, turns, own=False)


def _above(rig: Rig, row: int) -> Iterable[int]:
    row = rig.parents[row]
    while row >= 0:
        yield row
        row = rig.parents[row]


def _turned(rig: Rig, state: State, turns: dict[int, Array], *, own: bool) -> State:
    turn, euler = state.turn.copy(), state.euler.copy()
    for row, delta in turns.items():
        if Channel.TURN not in rig.controls[row].channels:
            continue
        pair = (turn[row], delta) if own else (delta, turn[row])
        turn[row] = normalise(multiply(*pair))
    new = state.with_(turn=turn)
    for row in turns:
        euler[row] = shown_euler(rig.controls[row], new, row)
    return new.with_(euler=euler)


def at_rest(rig: Rig, state: State, rows: Iterable[int]) -> State:
    """The state with all channels of some controls back at rest."""
    rows = list(rows)
    rest = rig.rest
    move, turn, scale = state.move.copy(), state.turn.copy(), state.scale.copy()
    settings, euler = state.settings.copy(), state.euler.copy()
    for mine, theirs in (
        (move, rest.move),
        (turn, rest.turn),
        (scale, rest.scale),
        (euler, rest.euler),
    ):
        mine[rows] = theirs[rows]
    held = [s for row in rows for s in rig.settings_of[row]]
    settings[held] = rest.settings[held]
    return state.with_(move=move, turn=turn, scale=scale, settings=settings, euler=euler)
