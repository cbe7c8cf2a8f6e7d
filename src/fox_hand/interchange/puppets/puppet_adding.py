"""One more drawing for a part of a puppet, in its model file and its sidecar."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

import msgspec
import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.core.model.controls import Channel, SettingKind
from fox_hand.core.model.solvers import DrivenKind
from fox_hand.core.rig.rig import Rig
from fox_hand.core.rig.swaps import Swap
from fox_hand.interchange.gltf.writing import GltfFile
from fox_hand.interchange.puppets.puppet_file import HIDDEN
from fox_hand.interchange.puppets.puppet_quads import drawing_mesh
from fox_hand.interchange.sidecar import (
    ControlNotes,
    DriveNotes,
    SettingNotes,
    Sidecar,
    read_sidecar,
    sidecar_path,
    write_sidecar,
)

ADDED = "__added_"  # in the names of drawings that were not among those it was made of
AXES: tuple[Literal["x", "y", "z"], ...] = ("x", "y", "z")


@dataclass(frozen=True)
class NewDrawing:
    """What is added.

    Args:
        name: of the drawing.
        data: its picture as a PNG or WebP file.
        width, height: pixels.
        pivot: pixels from its upper left corner.
        pixel: metres that one pixel is on this puppet.
    """

    name: str
    data: bytes
    width: int
    height: int
    pivot: tuple[float, float]
    pixel: float


@dataclass(frozen=True)
class Added:
    """The files with one more drawing.

    Args:
        glb, sidecar: what is to be written.
        setting: the choice among the part's drawings.
        option: what the new one is called there.
    """

    glb: bytes
    sidecar: bytes
    setting: str
    option: str


def is_added(node: str) -> bool:
    """Whether a node shows a drawing that came to a puppet after it was made."""
    return ADDED in node


def check_puppet(path: Path, rig: Rig) -> None:
    """Refuse what is no puppet of files that can be added to.

    Args:
        path: the model file.
        rig: as it was read from there.

    Raises:
        FoxHandError: ``puppet.no_puppet``.
    """
    if not rig.flat or path.suffix.lower() != ".glb" or not sidecar_path(path).is_file():
        raise FoxHandError(
            "puppet.no_puppet",
            tr("{name} is not a puppet whose drawings can be added to.", name=rig.name),
            tr("Nothing was changed."),
            tr("Puppets are made on the Assemble screen or by fox-hand puppet make."),
        )


def with_drawing(path: Path, rig: Rig, row: int, drawing: NewDrawing) -> Added:
    """A puppet's files with one more drawing of a part.

    Args:
        path: the model file.
        rig: as it was read from there.
        row: the part's control.
        drawing: what is added.

    Raises:
        FoxHandError: ``puppet.no_puppet`` for figures that are not cut out of drawings and for
            files that cannot be added to; else if they cannot be read.
    """
    side = sidecar_path(path)
    check_puppet(path, rig)
    notes, file = read_sidecar(side), GltfFile.read(path)
    control = rig.controls[row].name
    swap = rig.swaps.get(row)
    nodes = file.document["nodes"]
    above = next((n for n, node in enumerate(nodes) if node.get("name") == control), None)
    if above is None or control not in notes.controls:
        raise FoxHandError(
            "puppet.no_part",
            tr("{name} has no part called {control}.", name=path.name, control=control),
            tr("Nothing was changed."),
        )
    node = _free(control, {str(one.get("name")) for one in nodes})
    nodes.append(
        {
            "name": node,
            "mesh": drawing_mesh(file, drawing.data, _corners(drawing), node),
            "scale": [HIDDEN] * 3,
        }
    )
    nodes[above].setdefault("children", []).append(len(nodes) - 1)
    setting, option = _choose(notes, rig, row, swap, drawing.name)
    count = len(notes.settings[setting].options or []) - 1
    label = rig.controls[row].label
    notes.controls[node] = ControlNotes(
        label=label, region=rig.controls[row].region, channels=[Channel.SCALE], helper=True
    )
    out = [(float(n), 1.0) for n in range(count)] + [(float(count), 1.0 / HIDDEN)]
    notes.drives += [DriveNotes(setting, DrivenKind.SCALE, node, out, axis) for axis in AXES]
    return Added(file.glb(), write_sidecar(notes), setting, option)


def _corners(drawing: NewDrawing) -> np.ndarray:
    """From the pivot, metres, ``(4, 3)``: lower left, lower right, upper right, upper left."""
    x, y = drawing.pivot
    left, right = -x * drawing.pixel, (drawing.width - x) * drawing.pixel
    low, high = (y - drawing.height) * drawing.pixel, y * drawing.pixel
    return np.array([[left, low, 0], [right, low, 0], [right, high, 0], [left, high, 0]])


def _choose(notes: Sidecar, rig: Rig, row: int, swap: Swap | None, name: str) -> tuple[str, str]:
    """The choice, with one more option; made where the part had one drawing only."""
    control = rig.controls[row].name
    if swap is not None:
        setting = rig.settings[swap.setting].name
        if setting not in notes.settings:
            raise FoxHandError(
                "puppet.no_part",
                tr("The sidecar says nothing of {setting}.", setting=setting),
                tr("Nothing was changed."),
            )
        said = notes.settings[setting]
        options = list(said.options or swap.names)
        option = _unused(name, options)
        more = {"options": [*options, option], "maximum": float(len(options))}
        notes.settings[setting] = msgspec.structs.replace(said, **more)
        number = float(len(options))
        for drive in notes.drives:
            if drive.source == setting and drive.onto is DrivenKind.SCALE:
                drive.points = [*drive.points, (number, min(out for _, out in drive.points))]
        return setting, option
    setting, first = f"{control}_drawing", "first"
    option = _unused(name, [first])
    notes.settings[setting] = SettingNotes(
        label=f"{rig.controls[row].label} drawing",
        maximum=1.0,
        kind=SettingKind.CHOICE,
        options=[first, option],
    )
    held = notes.controls[control]
    notes.controls[control] = msgspec.structs.replace(held, settings=[setting, *held.settings])
    points = [(0.0, 1.0), (1.0, HIDDEN)]
    for node in _drawn(rig, row):
        notes.drives += [DriveNotes(setting, DrivenKind.SCALE, node, points, axis) for axis in AXES]
    return setting, option


def _drawn(rig: Rig, row: int) -> Iterator[str]:
    """Controls of the drawings that a part has."""
    node = rig.controls[row].node
    for control in rig.controls:
        if control.helper and rig.skeleton.parents[control.node] == node:
            yield control.name


def _free(control: str, taken: set[str]) -> str:
    number = 0
    while f"{control}{ADDED}{number}" in taken:
        number += 1
    return f"{control}{ADDED}{number}"


def _unused(name: str, taken: list[str]) -> str:
    found, number = name or "drawing", 2
    while found in taken:
        found, number = f"{name} {number}", number + 1
    return found
