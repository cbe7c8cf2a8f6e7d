"""A performance from a motion file, laid on a character of its kind."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.core.pose import world_rotation
from fox_hand.core.rig import Rig
from fox_hand.core.rotations import Array, inverse, multiply, rotate
from fox_hand.core.state import State
from fox_hand.interchange.bvh import read_motion

SUFFIXES = (".bvh",)
UNIT = 0.01  # any will do: only proportions count, moves are scaled to the character


def read_performance(path: Path, rig: Rig) -> tuple[State, float]:
    """The frames of a motion file as the character would play them.

    Joints are matched by name, else by their part of the body. Turns are carried over as the
    change of direction in the world, so joint axes may differ; the rest stances must be alike.

    Returns:
        a batch of states ``(F, C, ...)``, and frames a second.

    Raises:
        FoxHandError: for files that cannot be read, or of which nothing fits.
    """
    motion = read_motion(path, UNIT)
    source = motion.rig
    pairs = _pairs(source, rig)
    if not pairs:
        raise FoxHandError(
            "performance.nothing_fits",
            f"No joint of {path.name} has its like on {rig.name}.",
            "Nothing was changed.",
            "Choose a performance of this character, or let another one act.",
        )
    frames = motion.states.turn.shape[0]
    turn, move = _many(rig.rest.turn, frames), _many(rig.rest.move, frames)
    scale = rig.height / max(source.height, 1e-9)
    for mine, theirs in pairs:
        change = _world_change(source, theirs, motion.states.turn[:, theirs])
        turn[:, mine] = _own_change(rig, mine, change)
        if rig.skeleton.parents[rig.controls[mine].node] < 0 or _is_root(rig, mine):
            along = rotate(_rest_rotation(source, theirs), motion.states.move[:, theirs])
            move[:, mine] = rotate(inverse(_rest_rotation(rig, mine)), along) * scale
    others = (_many(v, frames) for v in (rig.rest.scale, rig.rest.settings, rig.rest.euler))
    batch = State(move, turn, *others)
    return batch, 1.0 / max(motion.frame_time, 1e-6)


def frame_of(batch: State, frame: int) -> State:
    """One frame of a batch."""
    return State(*(values[frame].copy() for values in batch.arrays()))


def _pairs(source: Rig, rig: Rig) -> list[tuple[int, int]]:
    by_role = {c.role: r for r, c in enumerate(source.controls) if c.role}
    found = []
    for row, control in enumerate(rig.controls):
        if not control.moves_node:
            continue
        theirs = source.control_row.get(control.name)
        if theirs is None and control.role:
            theirs = by_role.get(control.role)
        if theirs is not None:
            found.append((row, theirs))
    return found


def _is_root(rig: Rig, row: int) -> bool:
    return rig.controls[row].role == "hips"


def _rest_rotation(rig: Rig, row: int) -> Array:
    """World rotation of a control's node at rest, ``(4,)``."""
    return world_rotation(rig.skeleton.rest_world[rig.controls[row].node])


def _world_change(rig: Rig, row: int, turn: Array) -> Array:
    rest = _rest_rotation(rig, row)
    return multiply(multiply(rest, turn), inverse(rest))


def _own_change(rig: Rig, row: int, change: Array) -> Array:
    rest = _rest_rotation(rig, row)
    return multiply(multiply(inverse(rest), change), rest)


def _many(values: Array, frames: int) -> Array:
    return np.broadcast_to(values, (frames, *values.shape)).copy()
