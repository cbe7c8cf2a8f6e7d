"""Collects turns, moves and settings of a rig and gives the state."""

from __future__ import annotations

import numpy as np

from cast.bones import frame
from fox_hand.core.maths.euler import from_euler
from fox_hand.core.maths.rotations import Array, from_matrix, inverse, multiply
from fox_hand.core.maths.transforms import decompose
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig


class Poser:
    """Collects turns of one rig and gives the state. Angles are (bend, twist, sway) degrees,
    written for the left; on the right twist and sway change sign by themselves."""

    def __init__(self, rig: Rig) -> None:
        self.rig = rig
        self._state = rig.rest

    @classmethod
    def of(cls, rig: Rig, state: State) -> Poser:
        """Go on from a state."""
        poser = cls(rig)
        poser._state = state
        return poser

    @property
    def state(self) -> State:
        return self._state

    def turn(self, name: str, bend: float = 0, twist: float = 0, sway: float = 0) -> Poser:
        row = self.rig.control_row[name]
        sign = -1 if name.endswith("_R") else 1
        euler = np.radians([bend, twist * sign, sway * sign])
        return self._set(row, from_euler(euler, self.rig.controls[row].order), euler)

    def aim(self, name: str, along: tuple[float, ...], towards: tuple[float, ...]) -> Poser:
        """Turn a joint so that its bone points along a world direction."""
        row = self.rig.control_row[name]
        node = self.rig.controls[row].node
        parent = self.rig.skeleton.parents[node]
        at = self.rig.evaluate(self._state).nodes
        above = decompose(at[parent])[1]
        frame_now = multiply(above, self.rig.skeleton.rotation[node])
        return self._set(
            row, multiply(inverse(frame_now), from_matrix(frame(along, towards))), None
        )

    def move(self, name: str, x: float, y: float, z: float) -> Poser:
        """Move a joint by metres along its own rest axes."""
        move = self._state.move.copy()
        move[self.rig.control_row[name]] = (x, y, z)
        self._state = self._state.with_(move=move)
        return self

    def raised(self, name: str, height: float) -> Poser:
        """Move a joint up on the stage, by metres."""
        row = self.rig.control_row[name]
        parent = self.rig.skeleton.parents[self.rig.controls[row].node]
        axes = self.rig.evaluate(self._state).nodes[parent][:3, :3]
        move = self._state.move.copy()
        move[row] = np.round(move[row] + np.linalg.solve(axes, [0.0, height, 0.0]), 5)
        self._state = self._state.with_(move=move)
        return self

    def setting(self, name: str, value: float) -> Poser:
        settings = self._state.settings.copy()
        for full in (name, f"{name}_L", f"{name}_R"):
            if full in self.rig.setting_row:
                settings[self.rig.setting_row[full]] = value
        self._state = self._state.with_(settings=settings)
        return self

    def _set(self, row: int, rotation: Array, euler: Array | None) -> Poser:
        turn, hints = self._state.turn.copy(), self._state.euler.copy()
        turn[row] = rotation
        if euler is not None:
            hints[row] = euler
        self._state = self._state.with_(turn=turn, euler=hints)
        return self
