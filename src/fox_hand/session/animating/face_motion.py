"""The settings of a performance on a character: its face, and what else is no joint."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from fox_hand.core.animation.performance import Performance
from fox_hand.core.matching.name_match import MatchSource
from fox_hand.core.matching.setting_match import SettingMatch, match_settings
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.solvers import Aim
from fox_hand.core.rig.rig import Rig

MOVES = 1e-3  # units: a setting that goes less far stands still


@dataclass(frozen=True)
class FaceMotion:
    """Which settings follow which.

    Args:
        matches: of every setting of the file that moves, and of those that keep their value.
        given: by row of the character's setting the rows of the file's; of several the mean.
    """

    matches: tuple[SettingMatch, ...]
    given: Mapping[int, tuple[int, ...]]

    def values(self, performance: Performance, before: Array) -> Array:
        """Settings of the character, ``(F, S)``."""
        found = before.copy()
        for row, rows in self.given.items():
            found[:, row] = performance.states.settings[:, rows].mean(1)
        return found


def face_motion(
    performance: Performance,
    rig: Rig,
    names: Mapping[str, str | None] | None,
    *,
    same: bool = False,
) -> FaceMotion:
    """Which settings of a performance land on a character.

    Args:
        performance, rig: what goes on whom.
        names: what was told about names.
        same: whether it is the same skeleton, of which everything is taken as it is. Else what a
            limb or a look follows by stays: goals and targets are not in a performance.
    """
    source, given = performance.rig, dict[int, list[int]]()
    matches = match_settings([s.name for s in source.settings], rig, names)
    if same:
        own = {s.name for s in rig.settings}
        matches = [
            SettingMatch(m.source, (m.source,), MatchSource.EXACT) if m.source in own else m
            for m in matches
        ]
    pulling = frozenset[int]() if same else _pulling(rig)
    for match in matches:
        for target in match.targets:
            row = rig.setting_row[target]
            if row not in pulling:
                given.setdefault(row, []).append(source.setting_row[match.source])
    return FaceMotion(tuple(matches), {row: tuple(rows) for row, rows in given.items()})


def _pulling(rig: Rig) -> frozenset[int]:
    """Settings by which limbs and looks follow what pulls them."""
    found = set[int | None]()
    for solver in rig.limbs:
        found |= {solver.blend, solver.twist_upper, solver.twist_lower}
    found |= {s.blend for s in rig.solvers if isinstance(s, Aim)}
    return frozenset(row for row in found if row is not None)


def moving_settings(performance: Performance) -> dict[str, float]:
    """Settings of a file that move, and how far."""
    values = performance.states.settings
    far = np.ptp(values, axis=0) if len(values) else np.zeros(values.shape[1])
    names = [s.name for s in performance.rig.settings]
    return {name: float(f) for name, f in zip(names, far, strict=True) if f > MOVES}
