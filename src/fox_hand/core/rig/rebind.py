"""Carrying a figure's values over to a changed rig, by name."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from fox_hand.core.maths.rotations import Array, normalise
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig

Triple = tuple[float, float, float]
Quaternion = tuple[float, float, float, float]


@dataclass(frozen=True)
class Values:
    """Everything of a figure that is away from rest, by control and setting name: metres,
    quaternions ``(x, y, z, w)``, radians, factors."""

    move: dict[str, Triple]
    turn: dict[str, Quaternion]
    euler: dict[str, Triple]
    scale: dict[str, Triple]
    settings: dict[str, float]

    @property
    def names(self) -> set[str]:
        """Controls and settings that have a value."""
        return {*self.move, *self.turn, *self.euler, *self.scale, *self.settings}


NOTHING = Values({}, {}, {}, {}, {})


def values_of(rig: Rig, state: State) -> Values:
    """What differs from rest."""
    rest = rig.rest
    return Values(
        {n: (v[0], v[1], v[2]) for n, v in _changed(rig, state.move, rest.move)},
        {n: (v[0], v[1], v[2], v[3]) for n, v in _changed(rig, state.turn, rest.turn)},
        {n: (v[0], v[1], v[2]) for n, v in _changed(rig, state.euler, rest.euler)},
        {n: (v[0], v[1], v[2]) for n, v in _changed(rig, state.scale, rest.scale)},
        {
            s.name: float(v)
            for s, v, d in zip(rig.settings, state.settings, rest.settings, strict=True)
            if v != d
        },
    )


def _changed(rig: Rig, mine: Array, theirs: Array) -> Iterator[tuple[str, list[float]]]:
    for row in np.flatnonzero((mine != theirs).any(-1)):
        yield rig.controls[row].name, mine[row].tolist()


def with_values(rig: Rig, values: Values) -> tuple[State, Values]:
    """The rig standing with some values, and what it has no place for."""
    rest = rig.rest
    move, turn, scale = rest.move.copy(), rest.turn.copy(), rest.scale.copy()
    euler, settings = rest.euler.copy(), rest.settings.copy()
    spare = Values({}, {}, {}, {}, {})
    columns = (
        (move, values.move, spare.move),
        (euler, values.euler, spare.euler),
        (scale, values.scale, spare.scale),
    )
    for array, known, left in columns:
        for name, triple in known.items():
            row = rig.control_row.get(name)
            if row is None:
                left[name] = triple
            else:
                array[row] = triple
    for name, quaternion in values.turn.items():
        row = rig.control_row.get(name)
        if row is None:
            spare.turn[name] = quaternion
        else:
            turn[row] = quaternion
            if abs(float(np.linalg.norm(turn[row])) - 1.0) > 1e-6:
                turn[row] = normalise(turn[row])
    for name, value in values.settings.items():
        row = rig.setting_row.get(name)
        if row is None:
            spare.settings[name] = value
        else:
            settings[row] = (
                rig.settings[row].nearest(value) if rig.settings[row].discrete else value
            )
    return rest.with_(move=move, turn=turn, scale=scale, settings=settings, euler=euler), spare


def merged(first: Values, second: Values) -> Values:
    """Both; where both have a value the second wins."""
    return Values(
        {**first.move, **second.move},
        {**first.turn, **second.turn},
        {**first.euler, **second.euler},
        {**first.scale, **second.scale},
        {**first.settings, **second.settings},
    )
