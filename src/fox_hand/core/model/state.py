"""The channel values of one figure at one moment."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from fox_hand.core.maths.euler import EulerOrder, axes_of, to_euler_near
from fox_hand.core.maths.rotations import Array


def _frozen(values: Array) -> Array:
    values.flags.writeable = False
    return values


@dataclass(frozen=True, eq=False, repr=False)
class State:
    """Values relative to rest for the controls of a rig; leading axes are frames.

    Args:
        move: metres along the rest axes, ``(..., C, 3)``.
        turn: unit quaternions, ``(..., C, 4)``.
        scale: factors, ``(..., C, 3)``.
        settings: ``(..., S)``.
        euler: the turns as they were last typed or shown, radians ``(..., C, 3)``. Only a hint
            for choosing among equal Euler triples; the quaternion is what counts.
    """

    move: Array
    turn: Array
    scale: Array
    settings: Array
    euler: Array
    _shown: list[tuple[tuple[EulerOrder, ...], Array]] = field(default_factory=list, init=False)

    def __repr__(self) -> str:
        return f"<State of {self.turn.shape[-2]} controls, {self.settings.shape[-1]} settings>"

    @staticmethod
    def neutral(controls: int, defaults: Array) -> State:
        """Every control at rest, settings at their defaults ``(S,)``."""
        turn = np.zeros((controls, 4))
        turn[:, 3] = 1.0
        return State(
            _frozen(np.zeros((controls, 3))),
            _frozen(turn),
            _frozen(np.ones((controls, 3))),
            _frozen(defaults.copy()),
            _frozen(np.zeros((controls, 3))),
        )

    def with_(
        self,
        *,
        move: Array | None = None,
        turn: Array | None = None,
        scale: Array | None = None,
        settings: Array | None = None,
        euler: Array | None = None,
    ) -> State:
        """A copy with some arrays, of the same shape ``(C, ...)``, exchanged; the given arrays are
        frozen, the rest shared.

        Args:
            move, turn, scale, settings, euler: of the shapes they have here; None for as it is.
        """
        given = {"move": move, "turn": turn, "scale": scale, "settings": settings, "euler": euler}
        changes: dict[str, Any] = {k: _frozen(v) for k, v in given.items() if v is not None}
        return replace(self, **changes)

    def same_bits(self, other: State) -> bool:
        """Whether every value is bit for bit the same."""
        return all(
            mine.tobytes() == theirs.tobytes()
            for mine, theirs in zip(self.arrays(), other.arrays(), strict=True)
        )

    def shown(self, orders: tuple[EulerOrder, ...]) -> Array:
        """Turns as Euler angles ``(C, 3)`` in radians, each in its own order and near to how it
        was last shown. Computed once: a list of channels asks for every number of it."""
        for known, angles in self._shown:
            if known is orders:
                return angles
        angles = to_euler_near(self.turn, axes_of(orders), self.euler)
        self._shown[:] = [(orders, _frozen(angles))]
        return angles

    def arrays(self) -> tuple[Array, Array, Array, Array, Array]:
        """Move ``(C, 3)``, turn ``(C, 4)``, scale ``(C, 3)``, settings ``(S,)`` and euler
        ``(C, 3)``."""
        return self.move, self.turn, self.scale, self.settings, self.euler

    def differs_from(self, other: State, settings_of: tuple[tuple[int, ...], ...]) -> np.ndarray:
        """For each control whether any of its values differs from ``other``'s, ``(C,)`` bool.

        Turns are compared as rotations (q and -q are the same).
        """
        dot = np.abs((self.turn * other.turn).sum(-1))
        changed = (
            (np.abs(self.move - other.move) > 1e-6).any(-1)
            | (dot < 1 - 1e-9)
            | (np.abs(self.scale - other.scale) > 1e-6).any(-1)
        )
        moved = np.abs(self.settings - other.settings) > 1e-6
        for row, held in enumerate(settings_of):
            if held and moved[list(held)].any():
                changed[row] = True
        return np.asarray(changed)
