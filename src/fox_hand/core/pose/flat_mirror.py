"""Mirroring flat puppets.

A view that looks aside is turned over as a whole: its picture is the flipped picture, and what was
near is near again, which makes it the other side of the character. Parts alone are exchanged, near
with far: they turn the same way, as both swing in the plane of the picture. In a view from in
front the sides are exchanged across the middle, as of any other figure.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping

from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig
from fox_hand.core.rig.views import AS_DRAWN, COMMON, TURNED


def aside_rows(rig: Rig, state: State, rows: Collection[int]) -> set[int]:
    """Of some controls those that belong to views that look aside.

    Args:
        rig, state: the figure.
        rows: the controls. What is in all views counts to the only one that the others belong to,
            or to the one that is seen.
    """
    views = rig.views
    only = views.only(rows)
    usual = views.seen(state) if only is None else only
    numbers = {row: views.of_control[row] for row in rows}
    return {row for row, n in numbers.items() if views.aside[usual if n == COMMON else n]}


def is_whole(rig: Rig, rows: Collection[int]) -> bool:
    """Whether some controls are so much of a view that looks aside that all of it is meant: its
    body is among them."""
    views = rig.views
    turned = {node for node, aside in zip(views.bodies, views.aside, strict=True) if aside}
    return any(rig.controls[row].moves_node and rig.controls[row].node in turned for row in rows)


def turned_over(rig: Rig, state: State, rows: Collection[int]) -> State:
    """All of a view that looks aside, looking the other way.

    Args:
        rig, state: the figure.
        rows: its controls; only the body and what is above it turn otherwise than before.
    """
    facing = rig.views.facing
    assert facing is not None
    settings, move = state.settings.copy(), state.move.copy()
    turn, euler = state.turn.copy(), state.euler.copy()
    settings[facing] = AS_DRAWN if settings[facing] else TURNED
    upright = [row for row in rows if rig.views.upright(row, rig.controls[row].node)]
    move[upright, 0] *= -1.0
    turn[upright, :3] *= -1.0  # about z and nothing else
    euler[upright] *= -1.0
    return state.with_(settings=settings, move=move, turn=turn, euler=euler)


def exchanged(state: State, sources: Mapping[int, int], settings: Array) -> State:
    """Parts that take over how their partners stand, all in the same direction.

    Args:
        state: the figure.
        sources: for each control that changes the one it takes over from.
        settings: all settings as they are then, ``(S,)``.
    """
    move, turn, scale, euler = (
        values.copy() for values in (state.move, state.turn, state.scale, state.euler)
    )
    rows, from_ = list(sources), list(sources.values())
    for values in (move, turn, scale, euler):
        values[rows] = values[from_]
    return state.with_(move=move, turn=turn, scale=scale, euler=euler, settings=settings)
