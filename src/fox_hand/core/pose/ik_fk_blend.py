"""Putting a pose of the joints on a limb that follows its goal, and the other way round.

A pose that holds an arm's joints says nothing to an arm that follows its goal, although both say
where the arm is. So the limb is handed over first, the pose goes on, and the limb is handed back:
it looks as the pose says and still follows what it followed.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from fox_hand.core.model.solvers import Limb
from fox_hand.core.model.state import State
from fox_hand.core.pose.ik_fk_matching import goal_from_joints, joints_from_goal
from fox_hand.core.pose.pose import BoundPose
from fox_hand.core.rig.rig import Rig


@dataclass(frozen=True, eq=False)
class IkFkBlend:
    """Limbs that are handed over while poses go on.

    Args:
        to_joints: follow their goals now, and the poses hold their joints.
        to_goals: follow their joints now, and the poses hold their goals.
    """

    rig: Rig
    to_joints: tuple[Limb, ...]
    to_goals: tuple[Limb, ...]

    @staticmethod
    def of(rig: Rig, state: State, poses: list[BoundPose]) -> IkFkBlend:
        """What has to be handed over. A limb whose blend a pose holds itself is left to the pose;
        so is one that is partly both.

        Args:
            rig: the figure's.
            state: how it stands.
            poses: all that are put on together.
        """
        turned = {rig.controls[r].node for p in poses for r in p.turn_rows.tolist()}
        moved = {rig.controls[r].node for p in poses for r in (*p.move_rows, *p.turn_rows)}
        held = {int(s) for p in poses for s in p.setting_rows}
        to_joints, to_goals = [], []
        for limb in rig.limbs:
            if limb.blend is None or limb.blend in held:
                continue
            amount, bones = state.settings[limb.blend], {limb.upper, limb.lower, limb.end}
            joints, goals = bool(bones & turned), bool({limb.goal, limb.pole} & moved)
            if joints and not goals and amount >= 1:
                to_joints.append(limb)
            elif goals and not joints and amount <= 0:
                to_goals.append(limb)
        return IkFkBlend(rig, tuple(to_joints), tuple(to_goals))

    @property
    def limbs(self) -> tuple[Limb, ...]:
        return (*self.to_joints, *self.to_goals)

    def handed_over(self, state: State) -> State:
        """The same stance, with the limbs following what the poses hold."""
        for limb in self.to_joints:
            state = joints_from_goal(self.rig, state, limb)
        for limb in self.to_goals:
            state = goal_from_joints(self.rig, state, limb)
        return state

    def handed_back(self, state: State) -> State:
        """The same stance, with the limbs following what they did."""
        for limb in self.to_joints:
            state = goal_from_joints(self.rig, state, limb)
        for limb in self.to_goals:
            state = joints_from_goal(self.rig, state, limb)
        return state

    def around(self, put: Callable[[State], State], start: State) -> State:
        """``put`` done to what :meth:`handed_over` gave, and handed back."""
        return self.handed_back(put(start)) if self.limbs else put(start)
