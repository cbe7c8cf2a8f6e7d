"""Parts whose drawings take turns: a choice brings out one by letting the others shrink."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from fox_hand.core.model.controls import Control, Setting, SettingKind
from fox_hand.core.model.solvers import Drive, DrivenKind
from fox_hand.core.rig.views import VIEW

OPACITY = "_opacity"  # ends the name of what says how solid a part's drawings are
OUT = 100.0  # how many times larger a drawing is when it is seen


@dataclass(frozen=True)
class Swap:
    """A part that swaps drawings.

    Args:
        control: row of the part's control.
        setting: row of the choice.
        names: of the drawings.
        nodes: the node of each drawing.
    """

    control: int
    setting: int
    names: tuple[str, ...]
    nodes: tuple[int, ...]


def swaps_of(
    controls: Sequence[Control],
    settings: Sequence[Setting],
    drives: Sequence[Drive],
    parents: Sequence[int],
) -> dict[int, Swap]:
    """For each control that swaps drawings what it swaps. A choice counts if every option of it
    brings out a node that hangs on the control's own.

    Args:
        controls, settings, drives: the rig's.
        parents: of each node the one above.
    """
    found: dict[int, Swap] = {}
    for row, setting in enumerate(settings):
        control = controls[setting.control]
        if setting.name == VIEW:
            continue  # brings out whole bodies
        if setting.kind is not SettingKind.CHOICE or not control.moves_node:
            continue
        out = {_seen_at(d): d.target for d in drives if d.source == row and _brings_out(d)}
        nodes = [out.get(number) for number in range(len(setting.options))]
        shown = tuple(n for n in nodes if n is not None and parents[n] == control.node)
        if shown and len(shown) == len(setting.options):
            found[setting.control] = Swap(setting.control, row, setting.options, shown)
    return found


def opacities_of(
    controls: Sequence[Control], settings: Sequence[Setting], parents: Sequence[int]
) -> dict[int, int]:
    """For each node that hangs on a part the setting that says how solid what is drawn there is.

    Args:
        controls, settings: the rig's.
        parents: of each node the one above.
    """
    by_node = {}
    for row, setting in enumerate(settings):
        control = controls[setting.control]
        if control.moves_node and setting.name == f"{control.name}{OPACITY}":
            by_node[control.node] = row
    return {node: by_node[above] for node, above in enumerate(parents) if above in by_node}


def _brings_out(drive: Drive) -> bool:
    outputs = [out for _, out in drive.points]
    return drive.kind is DrivenKind.SCALE and max(outputs) > OUT * min(outputs) > 0


def _seen_at(drive: Drive) -> int:
    return round(max(drive.points, key=lambda point: point[1])[0])
