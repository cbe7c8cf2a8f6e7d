"""A figure through time, seen in its own directions, so that another one can follow it."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from fox_hand.core.maths.rotations import Array
from fox_hand.core.maths.transforms import directions
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig

LOOKS = 0.2  # of one: who looks less along the ground than this looks up or down


@dataclass(frozen=True, eq=False)
class FigureMotion:
    """Frames of a rig, all solvers done.

    Args:
        rig: whose.
        nodes: world matrices ``(F, N, 4, 4)``.
        rate: frames a second.
    """

    rig: Rig
    nodes: Array
    rate: float

    @staticmethod
    def of(rig: Rig, states: State, rate: float) -> FigureMotion:
        """Evaluate some frames.

        Args:
            rig: whose.
            states: a batch ``(F, C, ...)``.
            rate: frames a second.
        """
        return FigureMotion(rig, rig.evaluate(states).nodes, rate)

    def __len__(self) -> int:
        return len(self.nodes)

    def changes(self, nodes: list[int]) -> Array:
        """How nodes are turned away from rest, in the figure's own directions, as rotation
        matrices ``(F, K, 3, 3)``. Being changes, they do not depend on the axes of joints; being
        measured in the world, they hold what all joints above have done."""
        axes = self.rig.body.axes
        rest = directions(self.rig.skeleton.rest_world[nodes, :3, :3])
        change = directions(self.nodes[:, nodes, :3, :3]) @ rest.swapaxes(-1, -2)
        return np.asarray(axes.T @ change @ axes)

    def facing(self, frame: int) -> float:
        """Radians by which the hips, or what carries the whole figure, look to its left of ahead
        on a frame; 0 where it lies or hangs head down."""
        node = role_nodes(self.rig).get("hips", 0)
        ahead = self.changes([node])[frame, 0, :, 2]
        flat = float(np.hypot(ahead[0], ahead[2]))
        return float(np.arctan2(ahead[0], ahead[2])) if flat > LOOKS else 0.0

    def turned(self, angle: float) -> FigureMotion:
        """All of it turned to the left about the figure's upright axis, by radians."""
        body = self.rig.body
        sine, cosine = np.sin(angle), np.cos(angle)
        own = np.array([[cosine, 0.0, sine], [0.0, 1.0, 0.0], [-sine, 0.0, cosine]])
        way = np.eye(4)
        way[:3, :3] = body.axes @ own @ body.axes.T
        middle = np.array(body.middle)
        way[:3, 3] = middle - way[:3, :3] @ middle
        return FigureMotion(self.rig, way @ self.nodes, self.rate)

    @cached_property
    def places(self) -> Array:
        """Where nodes are, to the figure's left, up and ahead, ``(F, N, 3)``."""
        return self.rig.body.seen(self.nodes[:, :, :3, 3])

    @cached_property
    def rest_places(self) -> Array:
        """The same at rest, ``(N, 3)``."""
        return self.rig.body.seen(self.rig.skeleton.rest_world[:, :3, 3])


def role_nodes(rig: Rig) -> dict[str, int]:
    """The nodes of joints by humanoid role."""
    return {c.role: c.node for c in rig.controls if c.role is not None and c.moves_node}


@dataclass(frozen=True)
class LegMeasure:
    """The mean of both legs of a figure, in metres.

    Args:
        bones: thigh and shin.
        ankle: how high the ankle is over the sole.
    """

    bones: float
    ankle: float

    @property
    def whole(self) -> float:
        """From the hip joint along the bones to the sole."""
        return self.bones + self.ankle


def leg_length(rig: Rig) -> float | None:
    """From the hip joint along the bones to the sole, in metres; None for figures whose legs are
    not known."""
    leg = leg_measure(rig)
    return None if leg is None else leg.whole


def leg_measure(rig: Rig) -> LegMeasure | None:
    """How long a figure's legs are; None for figures whose legs are not known."""
    known, found = role_nodes(rig), []
    places = rig.body.seen(rig.skeleton.rest_world[:, :3, 3])
    for side in ("left", "right"):
        line = [known.get(f"{side}{part}") for part in ("UpperLeg", "LowerLeg", "Foot")]
        if any(node is None for node in line):
            continue
        upper, lower, foot = (places[node] for node in line if node is not None)
        bones = np.linalg.norm(lower - upper) + np.linalg.norm(foot - lower)
        found.append((float(bones), max(float(foot[1]) - sole_level(rig, side), 0.0)))
    if not found or min(bones for bones, _ in found) < 1e-9:
        return None
    bones, ankle = np.mean(found, axis=0).tolist()
    return LegMeasure(bones, ankle)


def sole_level(rig: Rig, side: str) -> float:
    """How high the lowest point of a foot lies at rest in the figure's own directions: of its
    flesh, or of its joints where there is none. The foot has to be known."""
    foot = role_nodes(rig)[f"{side}Foot"]
    nodes = below(rig, foot)
    places = rig.body.seen(rig.skeleton.rest_world[:, :3, 3])
    level = float(places[nodes, 1].min())
    if rig.parts:
        level = min(level, float(rig.body.seen(rest_flesh(rig, nodes))[:, 1].min()))
    return level


def rest_flesh(rig: Rig, nodes: list[int]) -> Array:
    """World places ``(V, 3)`` at rest of what mainly follows some nodes."""
    return rig.flesh(rig.evaluate(rig.rest), nodes)


def below(rig: Rig, node: int) -> list[int]:
    """A node and all that hang on it."""
    found = {node}
    for child, parent in enumerate(rig.skeleton.parents):
        if parent in found:
            found.add(child)
    return sorted(found)
