"""Switching a limb between its joints and its goal without the figure moving."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fox_hand.core.kinematics.two_bone_ik import LimbSet
from fox_hand.core.maths.rotations import Array
from fox_hand.core.maths.transforms import directions
from fox_hand.core.model.solvers import Limb
from fox_hand.core.model.state import State
from fox_hand.core.pose.placing import put, with_setting
from fox_hand.core.rig.rig import Rig

STRAIGHT = 1e-4


def joints_from_goal(rig: Rig, state: State, limb: Limb) -> State:
    """The joints take over: they get the turns the limb has now, and the blend goes to 0.

    Exact for limbs whose bones are controls with all turns.

    Args:
        rig, state: the figure and how it stands.
        limb: one of its limbs.
    """
    at = rig.evaluate(state).nodes
    found = state
    for node in (limb.upper, limb.lower, limb.end):
        row = rig.row_of_node.get(node)
        if row is not None:
            found = put(rig, found, row, at, turn=directions(at[node, :3, :3]))
    return with_setting(found, limb.blend, 0.0)


def goal_from_joints(rig: Rig, state: State, limb: Limb) -> State:
    """The goal takes over: goal, pole and rolls get the values that give the limb as it stands
    now, and the blend goes to 1.

    Exact for limbs that have both roll settings; without them the bones' own roll is lost.

    Args:
        rig, state: the figure and how it stands.
        limb: one of its limbs.
    """
    stance = _Stance.of(rig, limb, rig.evaluate(state).nodes)
    at, found = stance.nodes, state
    turn = directions(at[limb.end, :3, :3]) @ stance.solver.end_offset[0, :, :, 0].T
    goal, pole = rig.row_of_node.get(limb.goal), rig.row_of_node.get(limb.pole)
    if goal is not None:
        found = put(rig, found, goal, at, at[limb.end, :3, 3], turn)
    if pole is not None:
        found = put(rig, found, pole, at, stance.pole_place(rig))
    found = with_setting(found, limb.twist_upper, stance.roll(0))
    found = with_setting(found, limb.twist_lower, stance.roll(1))
    return with_setting(found, limb.blend, 1.0)


@dataclass(frozen=True, eq=False)
class _Stance:
    """A limb as it stands.

    Args:
        limb, solver: the limb and its rest measures.
        nodes: world matrices ``(N, 4, 4)``.
        along: unit vector from shoulder to hand.
        way: unit vector from that line to the elbow.
    """

    limb: Limb
    solver: LimbSet
    nodes: Array
    along: Array
    way: Array

    @staticmethod
    def of(rig: Rig, limb: Limb, nodes: Array) -> _Stance:
        solver = LimbSet.of([limb], rig.skeleton)
        a, b, c = (nodes[n, :3, 3] for n in (limb.upper, limb.lower, limb.end))
        size = float(np.linalg.norm(b - a) + np.linalg.norm(c - b))
        along = _unit(c - a if np.linalg.norm(c - a) > STRAIGHT * size else b - a)
        aside = _across(b - a, along)
        if np.linalg.norm(aside) > STRAIGHT * size:
            return _Stance(limb, solver, nodes, along, _unit(aside))
        own = solver.own_bases(nodes[..., None])[0][0, :, 1, 0]
        bend = directions(nodes[limb.upper, :3, :3]) @ own
        return _Stance(limb, solver, nodes, along, _unit(np.cross(_across(bend, along), along)))

    def pole_place(self, rig: Rig) -> Array:
        """Beside the elbow, as far from the line as the pole stands at rest."""
        limb, rest = self.limb, rig.skeleton.rest_world[:, :3, 3]
        a, b, c = (self.nodes[n, :3, 3] for n in (limb.upper, limb.lower, limb.end))
        line = _unit(rest[limb.end] - rest[limb.upper])
        far = float(np.linalg.norm(_across(rest[limb.pole] - rest[limb.upper], line)))
        size = float(np.linalg.norm(b - a) + np.linalg.norm(c - b))
        sine, cosine = self.solver.pole_sine.item(), self.solver.pole_cosine.item()
        back = self.way * cosine - np.cross(self.along, self.way) * sine
        foot = a + self.along * float((b - a) @ self.along)
        return np.asarray(foot + back * max(far, 0.2 * size))

    def roll(self, which: int) -> float:
        """Degrees from the bend axis to the upper (0) or lower (1) bone's own, about the bone."""
        limb = self.limb
        node, following = ((limb.upper, limb.lower), (limb.lower, limb.end))[which]
        basis = self.solver.own_bases(self.nodes[..., None])[which][0, :, :, 0]
        own = directions(self.nodes[node, :3, :3]) @ basis[:, 1]
        bone = _unit(self.nodes[following, :3, 3] - self.nodes[node, :3, 3])
        flat = _unit(_across(np.cross(self.along, self.way), bone))
        return float(np.degrees(np.arctan2(np.cross(flat, own) @ bone, flat @ own)))


def _unit(v: Array) -> Array:
    return np.asarray(v / max(float(np.linalg.norm(v)), 1e-12))


def _across(v: Array, along: Array) -> Array:
    return np.asarray(v - (v @ along) * along)
