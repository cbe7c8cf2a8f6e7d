"""Two bones that reach for a place: legs and arms of joints, many frames at once."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.controls import Channel
from fox_hand.core.model.state import State
from fox_hand.core.retarget.figure_motion import role_nodes
from fox_hand.core.retarget.turning import turned
from fox_hand.core.rig.rig import Rig

FULL = 0.9995  # of both bones' length: how far they reach
LEG, ARM = ("UpperLeg", "LowerLeg", "Foot"), ("UpperArm", "LowerArm", "Hand")


@dataclass(frozen=True)
class Reach:
    """The controls and nodes of one leg or arm.

    Args:
        rows: of the upper and the lower bone and of what hangs on them.
        upper, lower, end: their nodes.
        bends: where a straight one bends to, in the figure's own directions.
    """

    rows: tuple[int, int, int]
    upper: int
    lower: int
    end: int
    bends: tuple[float, float, float]

    @staticmethod
    def of(rig: Rig, side: str, parts: tuple[str, str, str]) -> Reach | None:
        """A limb of a figure; None where it is not whole, or cannot be turned.

        Args:
            rig: the figure's.
            side: ``left`` or ``right``.
            parts: the roles of its three joints, without the side.
        """
        known = role_nodes(rig)
        nodes = [known[f"{side}{part}"] for part in parts if f"{side}{part}" in known]
        if len(nodes) < 3:
            return None
        upper, lower, end = nodes
        rows = (rig.row_of_node[upper], rig.row_of_node[lower], rig.row_of_node[end])
        if any(Channel.TURN not in rig.controls[row].channels for row in rows):
            return None
        ahead = 1.0 if parts == LEG else -1.0  # knees bend ahead, elbows behind
        return Reach(rows, upper, lower, end, (0.0, 0.0, ahead))

    def length(self, places: Array) -> Array:
        """Of both bones ``(F,)``, of places of nodes ``(F, N, 3)``."""
        upper = np.linalg.norm(places[:, self.lower] - places[:, self.upper], axis=1)
        lower = np.linalg.norm(places[:, self.end] - places[:, self.lower], axis=1)
        return np.asarray(upper + lower)

    def reaching(self, rig: Rig, state: State, nodes: Array, goals: Array) -> State:
        """The limb with its end at some places, bent to the same side as it is; what hangs on it
        keeps its turn in the world.

        Args:
            rig: the figure's.
            state: a batch of frames.
            nodes: world matrices of that batch, ``(F, N, 4, 4)``.
            goals: where to, in the figure's own directions, ``(F, 3)``.
        """
        axes = rig.body.axes
        world = goals @ axes.T + np.array(rig.body.middle)
        a, b, c = (nodes[:, n, :3, 3] for n in (self.upper, self.lower, self.end))
        middle, end = _bent(a, b, c, world, axes @ np.array(self.bends))
        first = turning(b - a, middle - a)
        second = turning((first @ (c - b)[..., None])[..., 0], end - middle) @ first
        keep = np.tile(np.eye(3), (len(nodes), 1, 1))
        turn = state.turn.copy()
        upper, lower, last = self.rows
        turn[:, upper] = turned(rig, upper, state.turn[:, upper], nodes, keep, first)
        turn[:, lower] = turned(rig, lower, state.turn[:, lower], nodes, first, second)
        turn[:, last] = turned(rig, last, state.turn[:, last], nodes, second, keep)
        return state.with_(turn=turn)


def _bent(a: Array, b: Array, c: Array, goal: Array, plain: Array) -> tuple[Array, Array]:
    """The middle and the end ``(F, 3)`` of a limb from ``a`` that reaches for a goal."""
    upper = np.linalg.norm(b - a, axis=1)
    lower = np.linalg.norm(c - b, axis=1)
    way = goal - a
    far = np.linalg.norm(way, axis=1)
    reach = np.clip(far, np.abs(upper - lower) * 1.0001 + 1e-9, (upper + lower) * FULL)
    along = way / np.maximum(far, 1e-9)[:, None]
    before = unit(c - a)
    aside = (b - a) - ((b - a) * before).sum(1, keepdims=True) * before
    straight = np.linalg.norm(aside, axis=1) < 1e-3 * (upper + lower)
    aside = (turning(before, along) @ aside[..., None])[..., 0]
    usual = plain - (along @ plain)[:, None] * along
    aside = unit(np.where(straight[:, None], usual, aside))
    cosine = np.clip((upper**2 + reach**2 - lower**2) / (2 * upper * reach), -1.0, 1.0)
    sine = np.sqrt(1 - cosine**2)
    middle = a + upper[:, None] * (cosine[:, None] * along + sine[:, None] * aside)
    return middle, a + along * reach[:, None]


def unit(v: Array) -> Array:
    """Directions of length one, ``(..., 3)``."""
    return np.asarray(v / np.maximum(np.linalg.norm(v, axis=-1, keepdims=True), 1e-12))


def turning(one: Array, other: Array) -> Array:
    """The shortest rotations ``(F, 3, 3)`` from directions to directions ``(F, 3)``."""
    a, b = unit(one), unit(other)
    axis, cosine = np.cross(a, b), (a * b).sum(-1)
    skew = np.zeros((len(a), 3, 3))
    skew[:, 0, 1], skew[:, 0, 2], skew[:, 1, 2] = -axis[:, 2], axis[:, 1], -axis[:, 0]
    skew -= skew.swapaxes(-1, -2)
    share = 1.0 / np.maximum(1.0 + cosine, 1e-9)
    return np.asarray(np.eye(3) + skew + (skew @ skew) * share[:, None, None])
