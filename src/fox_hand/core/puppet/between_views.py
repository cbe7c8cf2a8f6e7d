"""A pose of one view of a puppet on the parts of another: by what parts are called and by their
sides."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from fox_hand.core.model.controls import Side
from fox_hand.core.pose.pose import Held, Pose
from fox_hand.core.puppet.part_names import plain_words
from fox_hand.core.rig.rig import Rig

SAME_WAY = 0.05  # of its height: a part drawn nearer to its pivot lies on no side of it
Key = tuple[tuple[str, ...], Side]


@dataclass(frozen=True)
class InView:
    """A pose as another view wears it.

    Args:
        pose: what lands.
        lost: names of controls that have no counterpart there.
    """

    pose: Pose
    lost: tuple[str, ...]


def view_of_pose(rig: Rig, pose: Pose) -> int | None:
    """The view that a pose is drawn for; None if it is for none, for several, or turns to one by
    itself."""
    view = rig.views.view
    if view is None:
        return None
    name = rig.settings[view].name
    if any(name in held.settings for held in pose.controls.values()):
        return None
    return rig.views.only({rig.control_row[n] for n in pose.controls if n in rig.control_row})


def in_view(rig: Rig, pose: Pose, view: int) -> InView:
    """A pose on the parts of another view.

    Args:
        rig: the puppet.
        pose: of one of its views.
        view: number of the other.
    """
    there = {_key(rig, row): row for row in _rows(rig, view)}
    found: dict[str, Held] = {}
    lost = []
    for name, held in pose.controls.items():
        row = rig.control_row.get(name)
        other = None if row is None else there.get(_key(rig, row))
        if row is None or rig.views.of_control[row] < 0:
            found[name] = held  # what is in all views, or in none
        elif other is None:
            lost.append(name)
        else:
            worn = _worn(rig, held, row, other)
            if not worn.empty:
                found[rig.controls[other].name] = worn
    return InView(Pose(found), tuple(lost))


def _rows(rig: Rig, view: int) -> list[int]:
    of = rig.views.of_control
    return [row for row, c in enumerate(rig.controls) if of[row] == view and not c.helper]


def _key(rig: Rig, row: int) -> Key:
    """Near wing and left wing are the same, and so are an eye and eyes."""
    control = rig.controls[row]
    words = tuple(w.removesuffix("s") for w in plain_words(control.label))
    return words, control.side


def _worn(rig: Rig, held: Held, row: int, other: int) -> Held:
    """What is held of a part, for its counterpart: turned the other way where that is drawn on the
    other side of its pivot. Where it stands on its canvas stays its own."""
    turned = _reach(rig, row) * _reach(rig, other) < 0
    sign = -1.0 if turned else 1.0
    turn, euler = held.turn, held.euler
    if turn is not None and turned:
        turn = (-turn[0], -turn[1], -turn[2], turn[3])
        euler = None if euler is None else (-euler[0], -euler[1], -euler[2])
    move = None if held.move is None else (sign * held.move[0], held.move[1], held.move[2])
    settings, options = _settings(rig, held, row, other)
    return replace(
        held, move=move, turn=turn, euler=euler, settings=settings, options=options, rest=None
    )


def _reach(rig: Rig, row: int) -> float:
    """How far beside its pivot a part is drawn, metres; 0 for next to nothing. The mean of its
    drawings, as a folded wing lies otherwise than one that is spread."""
    node = rig.controls[row].node
    shown = [part for part in rig.parts if _hangs(rig, part.joints[0, 0], node)]
    if not shown:
        return 0.0
    middles = [float(part.positions[:, 0].mean()) for part in shown]
    far = float(np.mean(middles))
    return far if abs(far) > SAME_WAY * rig.height else 0.0


def _hangs(rig: Rig, palette: int, node: int) -> bool:
    """Whether a drawing is one of a part's own."""
    return rig.skeleton.parents[int(rig.palette_nodes[palette])] == node


def _settings(
    rig: Rig, held: Held, row: int, other: int
) -> tuple[Mapping[str, float], Mapping[str, str]]:
    """Drawings by their names, and what else is called alike; what is not there is left out."""
    values: dict[str, float] = {}
    options: dict[str, str] = {}
    mine, theirs = rig.swaps.get(row), rig.swaps.get(other)
    own = None if mine is None else rig.settings[mine.setting].name
    for name, value in held.settings.items():
        if name == own and mine is not None:
            word = held.options.get(name) or mine.names[round(value)]
            if theirs is not None and word in theirs.names:
                target = rig.settings[theirs.setting].name
                values[target] = float(theirs.names.index(word))
                options[target] = word
            continue
        suffix = name.removeprefix(rig.controls[row].name)
        target = f"{rig.controls[other].name}{suffix}"
        if suffix != name and target in rig.setting_row:
            values[target] = value
    return values, options
