"""Feet on the ground: where soles are, where the ground is, and when a foot stands on it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from fox_hand.core.maths.rotations import Array
from fox_hand.core.maths.transforms import undone
from fox_hand.core.retarget.figure_motion import (
    FigureMotion,
    below,
    rest_flesh,
    role_nodes,
    sole_level,
)
from fox_hand.core.rig.rig import Rig

Marks = npt.NDArray[np.bool_]
# a foot begins to stand below the first and stops above the second, in lengths of the leg
LOW, HIGH = 0.035, 0.05
SLOW, FAST = 0.20, 0.30  # a second
SHORTEST = 0.06  # seconds that a foot stands at least; shorter gaps between stands are closed
NEAR = 0.02  # of the figure's height: what lies within this of the lowest point is the sole


@dataclass(frozen=True, eq=False)
class Sole:
    """Two points under one foot, fixed to its foot node.

    Args:
        foot: the node of the ankle.
        heel, ball: where they are in that node's own space, ``(3,)``.
        tip: the foremost point, which hangs on the toes.
        toes: the node that ``tip`` is in the space of.
    """

    foot: int
    heel: Array
    ball: Array
    toes: int
    tip: Array

    def points(self, nodes: Array) -> Array:
        """World places ``(F, 3, 3)`` of heel, ball and tip; of nodes ``(F, N, 4, 4)``."""
        foot, toes = nodes[:, self.foot], nodes[:, self.toes]
        places = [
            (at[:, :3, :3] @ point) + at[:, :3, 3]
            for at, point in ((foot, self.heel), (foot, self.ball), (toes, self.tip))
        ]
        return np.stack(places, axis=1)


def soles_of(rig: Rig) -> dict[str, Sole]:
    """The soles of a figure by side, of feet that are known."""
    known, found = role_nodes(rig), dict[str, Sole]()
    for side in ("left", "right"):
        foot = known.get(f"{side}Foot")
        if foot is not None:
            found[side] = _sole(rig, side, foot, known.get(f"{side}Toes", foot))
    return found


def _sole(rig: Rig, side: str, foot: int, toes: int) -> Sole:
    level, body = sole_level(rig, side), rig.body
    places = body.seen(rig.skeleton.rest_world[:, :3, 3])
    ankle = places[foot]
    heel = np.array([ankle[0], level, ankle[2]])
    nodes = below(rig, foot)
    ahead = places[nodes][np.argmax(places[nodes, 2])]
    ball = places[toes] if toes != foot else ahead
    tip = np.array([ahead[0], level, ahead[2]])
    if rig.parts:
        flesh = body.seen(rest_flesh(rig, nodes))
        under = flesh[flesh[:, 1] < level + NEAR * rig.height]
        heel[2] = min(float(under[:, 2].min()), heel[2])
        tip[2] = max(float(under[:, 2].max()), tip[2])
        if toes == foot:
            ball = heel + 0.7 * (tip - heel)
    ball = np.array([ball[0], level, ball[2]])

    def own(node: int, place: Array) -> Array:
        world = body.axes @ place + np.array(body.middle)
        back = undone(rig.skeleton.rest_world[node])
        return np.asarray(back[:3, :3] @ world + back[:3, 3])

    return Sole(foot, own(foot, heel), own(foot, ball), toes, own(toes, tip))


@dataclass(frozen=True, eq=False)
class Stands:
    """When the feet of a figure stand on the ground.

    Args:
        floor: how high the ground is, in the figure's own directions.
        heels, balls: by side whether that point stands, at each frame ``(F,)``.
    """

    floor: float
    heels: Mapping[str, Marks]
    balls: Mapping[str, Marks]

    def feet(self, side: str) -> Marks:
        """Whether any of the foot stands, ``(F,)``."""
        return np.asarray(self.heels[side] | self.balls[side])


def stands_of(motion: FigureMotion, leg: float) -> Stands:
    """When feet stand: low and slow, with hysteresis.

    Args:
        motion: of the figure.
        leg: length of its legs, metres.
    """
    soles = soles_of(motion.rig)
    points = {s: motion.rig.body.seen(sole.points(motion.nodes)) for s, sole in soles.items()}
    speeds = {side: _speeds(p, motion.rate) / leg for side, p in points.items()}
    floor = _floor(points, speeds)
    heels, balls = dict[str, Marks](), dict[str, Marks]()
    for side, place in points.items():
        for number, into in ((0, heels), (1, balls)):
            height = (place[:, number, 1] - floor) / leg
            into[side] = _standing(height, speeds[side][:, number], motion.rate)
    return Stands(floor, heels, balls)


def heights_of(motion: FigureMotion, floor: float) -> dict[str, Array]:
    """By side how high the lower of heel and ball is over the ground, metres ``(F,)``."""
    return {
        side: motion.rig.body.seen(sole.points(motion.nodes))[:, :2, 1].min(1) - floor
        for side, sole in soles_of(motion.rig).items()
    }


def _speeds(points: Array, rate: float) -> Array:
    """Metres a second ``(F, K)``, of both neighbouring frames the slower."""
    if len(points) < 2:
        return np.zeros(points.shape[:2])
    steps = np.asarray(np.linalg.norm(np.diff(points, axis=0), axis=-1) * rate)
    return np.asarray(np.minimum(np.vstack([steps, steps[-1:]]), np.vstack([steps[:1], steps])))


def _floor(points: Mapping[str, Array], speeds: Mapping[str, Array]) -> float:
    """How high the ground is: where feet are that hardly move. A foot that is up for a while is
    not on it, so the lower ones count; a single low frame does not."""
    slow = [place[:, :2, 1][speeds[side][:, :2] < SLOW].ravel() for side, place in points.items()]
    still = np.concatenate(slow) if slow else np.zeros(0)
    everything = np.concatenate([p[:, :2, 1].ravel() for p in points.values()])
    if len(still) < max(0.02 * len(everything), 2):
        return float(everything.min())
    return float(np.percentile(still, 10.0))


def _standing(height: Array, speed: Array, rate: float) -> Marks:
    sure = (height < LOW) & (speed < SLOW)
    maybe = (height < HIGH) & (speed < FAST)
    found = np.zeros(len(height), bool)
    for first, last in runs(maybe):
        if sure[first:last].any():
            found[first:last] = True
    least = max(round(SHORTEST * rate), 1) if len(height) > 1 else 1
    for first, last in runs(~found):
        if first > 0 and last < len(found) and last - first < least:
            found[first:last] = True
    for first, last in runs(found):
        if last - first < least and first > 0 and last < len(found):
            found[first:last] = False
    return found


def runs(marks: Marks) -> list[tuple[int, int]]:
    """First frames of stretches that are marked, and the frames after their last."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], marks, [False]]).astype(np.int8)))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]
