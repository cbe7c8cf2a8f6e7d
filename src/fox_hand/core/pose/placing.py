"""Giving controls a place and a turn in the world: channel values out of world transforms."""

from __future__ import annotations

import numpy as np

from fox_hand.core.maths.rotations import Array, from_matrix, to_matrix
from fox_hand.core.maths.transforms import directions, undone
from fox_hand.core.model.state import State
from fox_hand.core.pose.pose import shown_euler
from fox_hand.core.rig.rig import Rig

GROUND = np.eye(4)
GROUND.flags.writeable = False


def frame_of(rig: Rig, state: State, row: int, nodes: Array, ground: Array = GROUND) -> Array:
    """The world axes a control's turn is measured in, ``(3, 3)``: its parent's, its rest turn
    and what drives give.

    Args:
        rig, state: whose control, in which state.
        row: a control with a node of its own.
        nodes: world matrices of that state, ``(N, 4, 4)``.
        ground: where the figure stands, ``(4, 4)``.
    """
    node = rig.controls[row].node
    parent = rig.skeleton.parents[node]
    above = directions((nodes[parent] if parent >= 0 else ground)[:3, :3])
    return np.asarray(above @ _own_frame(rig, state, row))


def _own_frame(rig: Rig, state: State, row: int) -> Array:
    node = rig.controls[row].node
    local = directions(rig.locals_of(state)[node, :3, :3])
    sign = np.sign(rig.skeleton.scale[node] * state.scale[row])
    return np.asarray(local * sign @ to_matrix(state.turn[row]).T)


def put(
    rig: Rig,
    state: State,
    row: int,
    nodes: Array,
    place: Array | None = None,
    turn: Array | None = None,
    ground: Array = GROUND,
) -> State:
    """The state with one control at a world place and in a world orientation.

    Args:
        rig, state: whose control, from which state.
        row: a control with a node of its own.
        nodes: world matrices of that state, ``(N, 4, 4)``; only the parent's is used.
        place: ``(3,)`` metres; None leaves the moves alone.
        turn: rotation matrix ``(3, 3)`` of the node's axes; None leaves the turn alone.
        ground: where the figure stands, ``(4, 4)``.
    """
    node = rig.controls[row].node
    parent = rig.skeleton.parents[node]
    above = nodes[parent] if parent >= 0 else ground
    own = rig.locals_of(state)[node]
    move, turns, euler = state.move.copy(), state.turn.copy(), state.euler.copy()
    if turn is not None:
        sign = np.sign(rig.skeleton.scale[node] * state.scale[row])
        wanted = directions(above[:3, :3]).T @ turn
        turns[row] = from_matrix(_own_frame(rig, state, row).T @ wanted * sign)
    if place is not None:
        local = undone(above)[:3, :3] @ (np.asarray(place) - above[:3, 3])
        rest = to_matrix(rig.skeleton.rotation[node])
        units = float(rig.units_of(np.array([node]))[0])
        move[row] = state.move[row] + rest.T @ (local - own[:3, 3]) * units
    after = state.with_(move=move, turn=turns)
    if turn is not None:
        euler[row] = shown_euler(rig.controls[row], after, row)
    return after.with_(euler=euler)


def with_setting(state: State, row: int | None, value: float) -> State:
    """The state with one setting changed.

    Args:
        state: before.
        row: of the setting; None changes nothing.
        value: its new value.
    """
    if row is None:
        return state
    settings = state.settings.copy()
    settings[row] = value
    return state.with_(settings=settings)
