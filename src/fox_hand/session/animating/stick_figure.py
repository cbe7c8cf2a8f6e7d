"""The figure of a performance as lines beside the character that follows it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from fox_hand.core.animation.performance import Performance
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.controls import ControlKind, Side
from fox_hand.core.retarget.figure_motion import FigureMotion, role_nodes
from fox_hand.core.retarget.transfer import Transferred
from fox_hand.core.rig.rig import Rig
from fox_hand.session.animating.motion_import import frame_of


@dataclass(frozen=True, eq=False)
class StickFigure:
    """Joints of a performance where the character's would be were it built like that.

    Args:
        places: of its joints, as large as the character and on its ground, metres
            ``(F, K, 3)`` in the world around the character.
        above: for each joint the one it hangs on, -1 for none.
        sides: of the joints.
        feet: by side which joint the foot is.
    """

    places: npt.NDArray[np.float32]
    above: tuple[int, ...]
    sides: tuple[Side, ...]
    feet: dict[str, int]


def stick_of(performance: Performance, rig: Rig, made: Transferred, *, ahead: bool) -> StickFigure:
    """The lines of a performance.

    Args:
        performance: on a rig that rests standing.
        rig, made: the character, and what it does.
        ahead: whether it was turned to look ahead.
    """
    source = performance.rig
    motion = FigureMotion.of(source, performance.states, performance.rate)
    if ahead:
        motion = motion.turned(-made.facing)
    rows = _drawn(source)
    nodes = [source.controls[row].node for row in rows]
    seen = motion.places[:, nodes] * made.legs
    seen += _moved(motion, rig, made) - np.array([0.0, _floor(made) * made.legs, 0.0])
    places = seen @ rig.body.axes.T + np.array(rig.body.middle)
    number = {row: i for i, row in enumerate(rows)}
    above = tuple(_above(source, row, number) for row in rows)
    roles = {source.controls[row].role: i for i, row in enumerate(rows)}
    feet = {s: roles[f"{s}Foot"] for s in ("left", "right") if f"{s}Foot" in roles}
    sides = tuple(source.controls[row].side for row in rows)
    return StickFigure(places.astype(np.float32), above, sides, feet)


def _drawn(source: Rig) -> list[int]:
    """Joints that are drawn: all but those that carry the hips, and are nowhere on the body."""
    hips = next((r for r, c in enumerate(source.controls) if c.role == "hips"), None)
    over = set[int]()
    at = source.parents[hips] if hips is not None else -1
    while at >= 0:
        over.add(at)
        at = source.parents[at]
    return [
        r
        for r, c in enumerate(source.controls)
        if c.kind is ControlKind.JOINT and not c.helper and r not in over
    ]


def _above(source: Rig, row: int, number: dict[int, int]) -> int:
    at = source.parents[row]
    while at >= 0 and at not in number:
        at = source.parents[at]
    return number.get(at, -1)


def _floor(made: Transferred) -> float:
    return made.stands.floor if made.stands is not None else 0.0


def _moved(motion: FigureMotion, rig: Rig, made: Transferred) -> Array:
    """From the source's place, made as large, to the character's as it begins, ``(3,)``: the
    hips over the same spot, the ground at the same height."""
    here, there = role_nodes(rig).get("hips"), role_nodes(motion.rig).get("hips")
    found = np.zeros(3)
    if here is not None and there is not None:
        first = rig.evaluate(frame_of(made.state, 0)).nodes[here, :3, 3]
        found = rig.body.seen(first) - motion.places[0, there] * made.legs
    found[1] = float(rig.body.seen(np.stack(rig.rest_bounds))[:, 1].min())
    return np.asarray(found)
