"""A performance from a file with motion, laid on a character."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.core.animation.performance import Performance
from fox_hand.core.maths.rotations import Array, inverse, multiply, rotate
from fox_hand.core.model.state import State
from fox_hand.core.pose.pose import ChannelFilter, take, world_rotation
from fox_hand.core.retarget.rest_alignment import Stance, stance_of
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.motions import READ, read_performance

SUFFIXES = READ
Told = Callable[[str], Mapping[str, str]]


def performed(
    path: Path, rig: Rig, rate: float | None = None, names: Told | None = None
) -> tuple[State, float]:
    """The frames of a motion file as the character would play them.

    Args:
        path: the file.
        rig: the character.
        rate: frames a second, for files that have none of their own.
        names: by what the file's figure is called, names of its joints with those of the
            character, where they were told.

    Returns:
        a batch of states ``(F, C, ...)``, and frames a second.

    Raises:
        FoxHandError: for files that cannot be read, or of which nothing fits.
    """
    found = read_performance(path, rate)
    told = names(found.rig.name) if names is not None else None
    return laid_on(found, rig, told), found.rate


def laid_on(performance: Performance, rig: Rig, names: Mapping[str, str] | None = None) -> State:
    """A performance on a character.

    Joints are matched by what was told, by name, else by their part of the body. A file of the
    same skeleton is taken as it is, shapes and all; else turns are carried over as poses are
    (:mod:`fox_hand.core.retarget.retarget`), so joint axes and rest stances may differ.

    Raises:
        FoxHandError: ``performance.nothing_fits``.
    """
    source = performance.rig
    pairs = _pairs(source, rig, names or {})
    if not pairs:
        raise FoxHandError(
            "performance.nothing_fits",
            f"No joint of {performance.name} has its like on {rig.name}.",
            "Nothing was changed.",
            "Choose a performance of this character, or let another one act.",
        )
    states = performance.states
    frames = len(performance)
    move, turn, scale, settings, euler = (_many(v, frames) for v in rig.rest.arrays())
    height = rig.height / max(source.height, 1e-9)
    stance = _stance(source, rig, pairs)
    own = stance.own(rig)
    for mine, theirs in pairs:
        if _same_rest(source, theirs, rig, mine):
            turn[:, mine] = states.turn[:, theirs]
            move[:, mine] = states.move[:, theirs]
            scale[:, mine] = states.scale[:, theirs]
            continue
        there = multiply(stance.turns[rig.controls[mine].node], _rest_rotation(rig, mine))
        change = multiply(inverse(_rest_rotation(source, theirs)), there)
        turned = multiply(inverse(change), multiply(states.turn[:, theirs], change))
        turn[:, mine] = multiply(own[mine], turned)
        if rig.skeleton.parents[rig.controls[mine].node] < 0 or _is_root(rig, mine):
            along = rotate(_rest_rotation(source, theirs), states.move[:, theirs])
            move[:, mine] = rotate(inverse(_rest_rotation(rig, mine)), along) * height
    for row, setting in enumerate(rig.settings):
        other = source.setting_row.get(setting.name)
        if other is not None:
            settings[:, row] = states.settings[:, other]
    return State(move, turn, scale, settings, euler)


def _same_rest(source: Rig, theirs: int, rig: Rig, mine: int) -> bool:
    """Whether two joints rest alike, above and all, so that values go over as they are."""
    one, other = source.controls[theirs].node, rig.controls[mine].node
    near = np.abs(source.skeleton.rest_world[one] - rig.skeleton.rest_world[other]).max()
    return bool(near < 1e-4)


def frame_of(batch: State, frame: int) -> State:
    """One frame of a batch."""
    return State(*(values[frame].copy() for values in batch.arrays()))


def _pairs(source: Rig, rig: Rig, names: Mapping[str, str]) -> list[tuple[int, int]]:
    by_role = {c.role: r for r, c in enumerate(source.controls) if c.role}
    told = {mine: theirs for theirs, mine in names.items()}
    found = []
    for row, control in enumerate(rig.controls):
        if not control.moves_node or control.helper:
            continue  # helpers follow by themselves
        theirs = source.control_row.get(told.get(control.name, control.name))
        if theirs is None and control.role:
            theirs = by_role.get(control.role)
        if theirs is not None and source.controls[theirs].moves_node:
            found.append((row, theirs))
    return found


def _is_root(rig: Rig, row: int) -> bool:
    return rig.controls[row].role == "hips"


def _rest_rotation(rig: Rig, row: int) -> Array:
    """World rotation of a control's node at rest, ``(4,)``."""
    return world_rotation(rig.skeleton.rest_world[rig.controls[row].node])


def _stance(source: Rig, rig: Rig, pairs: list[tuple[int, int]]) -> Stance:
    """How the character turns to stand as the file's figure rests."""
    rows = [theirs for _, theirs in pairs]
    rest = take(source, source.rest, ChannelFilter.of(source, rows))
    names = {source.controls[theirs].name: rig.controls[mine].name for mine, theirs in pairs}
    return stance_of(rig, rest, names)


def _many(values: Array, frames: int) -> Array:
    return np.broadcast_to(values, (frames, *values.shape)).copy()
