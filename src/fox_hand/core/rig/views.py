"""Views of a flat puppet: the same character drawn from several sides, one of them seen at a time.

A choice called ``view`` brings out one body by letting the others shrink to nothing; a choice
called ``facing`` turns over the bodies that look aside. Both are told by what they drive, so any
sidecar can have them.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

import numpy as np

from fox_hand.core.model.controls import Control, Setting, SettingKind
from fox_hand.core.model.skeleton import Skeleton
from fox_hand.core.model.solvers import Drive, DrivenKind
from fox_hand.core.model.state import State

VIEW, FACING = "view", "facing"
AS_DRAWN, TURNED = 0.0, 1.0  # values of the choice ``facing``
COMMON = -1  # what belongs to no view alone


@dataclass(frozen=True, eq=False)
class RigViews:
    """Which control belongs to which view.

    Args:
        names: of the views; one empty name where there are none.
        view: row of the choice; None where there is one view only.
        facing: row of the choice; None where nothing looks aside.
        of_control: for each control the number of its view, :data:`COMMON` for what is in all.
        bodies: for each view the node that all of it hangs on; none where nothing tells it.
        aside: for each body whether it looks aside, so that its mirror image looks the other way.
    """

    names: tuple[str, ...]
    view: int | None
    facing: int | None
    of_control: tuple[int, ...]
    bodies: tuple[int, ...]
    aside: tuple[bool, ...]

    @staticmethod
    def of(
        skeleton: Skeleton,
        controls: Sequence[Control],
        settings: Sequence[Setting],
        drives: Sequence[Drive],
    ) -> RigViews:
        """Look what the two choices drive.

        Args:
            skeleton, controls, settings, drives: the rig's.
        """
        view, facing = (_choice(settings, name) for name in (VIEW, FACING))
        turned = [d.target for d in drives if d.source == facing and _turns(d)]
        seen = [d for d in drives if d.source == view and d.kind is DrivenKind.SCALE]
        bodies = {round(_largest(d)): d.target for d in seen}
        names = ("",) if view is None else settings[view].options
        if view is None or set(bodies) != set(range(len(names))):
            view, names, bodies = None, ("",), dict(enumerate(turned[:1]))
        of_node = _below(skeleton, {node: number for number, node in bodies.items()})
        nodes = tuple(bodies[number] for number in sorted(bodies))
        of_control = tuple(of_node[c.node] if c.moves_node else COMMON for c in controls)
        aside = tuple(node in turned for node in nodes)
        return RigViews(names, view, facing if any(aside) else None, of_control, nodes, aside)

    def seen(self, state: State) -> int:
        """The number of the view that is seen."""
        return 0 if self.view is None else round(float(state.settings[self.view]))

    def shown(self, state: State, row: int) -> bool:
        """Whether a control is of what is seen."""
        return self.of_control[row] in (COMMON, self.seen(state))

    def only(self, rows: Collection[int]) -> int | None:
        """The view that all of some controls belong to; None where they are of none or of
        several, or there is one view only."""
        found = {self.of_control[row] for row in rows} - {COMMON}
        return found.pop() if len(found) == 1 and len(self.names) > 1 else None

    def upright(self, row: int, node: int) -> bool:
        """Whether a control stands above what a mirror image turns over, or is it."""
        return self.of_control[row] == COMMON or node in self.bodies

    def is_own(self, setting: int) -> bool:
        """Whether a setting is one of the two choices."""
        return setting in (self.view, self.facing)


def _choice(settings: Sequence[Setting], name: str) -> int | None:
    for row, setting in enumerate(settings):
        if setting.name == name and setting.kind is SettingKind.CHOICE:
            return row
    return None


def _turns(drive: Drive) -> bool:
    """Whether something is turned over."""
    return drive.kind is DrivenKind.SCALE and min(out for _, out in drive.points) < 0


def _largest(drive: Drive) -> float:
    """The value at which something is seen."""
    return max(drive.points, key=lambda point: point[1])[0]


def _below(skeleton: Skeleton, bodies: dict[int, int]) -> list[int]:
    """For each node the number of the body it hangs on."""
    found = np.full(len(skeleton), COMMON, dtype=np.intp)
    for node, parent in enumerate(skeleton.parents):
        found[node] = bodies.get(node, found[parent] if parent >= 0 else COMMON)
    return [int(number) for number in found]
