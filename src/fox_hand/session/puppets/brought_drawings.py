"""Drawings that came to a puppet by cards: they stay when it is made anew from its drawings."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.scratch import scratch_folder
from fox_hand.base.language import tr
from fox_hand.interchange.puppets.puppet_adding import check_puppet, is_added, with_drawing
from fox_hand.interchange.readers import read_rig
from fox_hand.interchange.sidecar import read_sidecar, sidecar_path
from fox_hand.library.files.atomic import write_atomically
from fox_hand.library.format.card import CardDrawing
from fox_hand.library.format.container import read_drawing
from fox_hand.session.puppets.drawing_cards import already_there, drawing_of, fitted, own_nodes

Brought = tuple[str, CardDrawing]  # name of the part's control, and the drawing


@dataclass(frozen=True)
class GivenDrawing:
    """What a part has now.

    Args:
        name: of the drawing among the part's.
        new: whether it was not there before.
    """

    name: str
    new: bool


def add_to_files(card: Path, puppet: Path, part: str) -> GivenDrawing:
    """Give a part of a puppet the drawing of a card, in the puppet's own files.

    Args:
        card: a card's file.
        puppet: the model file.
        part: name of the part's control.

    Raises:
        FoxHandError: ``puppet.no_part`` with what parts there are; or if the files cannot be read
            or written, which are untouched then.
    """
    drawing, rig = read_drawing(card), read_rig(puppet)
    check_puppet(puppet, rig)
    row = rig.control_row.get(part)
    if row is None or not own_nodes(rig, row):
        parts = [c.name for n, c in enumerate(rig.controls) if own_nodes(rig, n)]
        raise FoxHandError(
            "puppet.no_part",
            tr("{name} has no part called {part}.", name=puppet.name, part=part),
            tr("Nothing was changed."),
            tr("It has {names}.", names=", ".join(parts)),
        )
    known = already_there(rig, row, drawing)
    if known is not None:
        return GivenDrawing(rig.swaps[row].names[known], new=False)
    added = with_drawing(puppet, rig, row, fitted(drawing, rig))
    write_atomically(sidecar_path(puppet), added.sidecar)
    write_atomically(puppet, added.glb)
    return GivenDrawing(added.option, new=True)


def brought_to(path: Path) -> tuple[Brought, ...]:
    """What cards brought to a puppet that is about to be made anew, in the order they came.

    Args:
        path: the model file; there may be none, or one of another kind, which has none.
    """
    try:
        if not path.is_file() or not _any(path):
            return ()
        rig = read_rig(path)
    except FoxHandError:
        return ()  # a file that cannot be read is written over as any other
    found = []
    for row, swap in rig.swaps.items():
        for number, node in enumerate(swap.nodes):
            drawing = drawing_of(rig, row, number)
            if drawing is not None and is_added(rig.skeleton.names[node]):
                found.append((rig.controls[row].name, drawing))
    return tuple(found)


def _any(path: Path) -> bool:
    side = sidecar_path(path)
    return side.is_file() and any(is_added(name) for name in read_sidecar(side).controls)


def with_brought(
    glb: bytes, sidecar: bytes, brought: tuple[Brought, ...]
) -> tuple[bytes, bytes, tuple[str, ...]]:
    """A puppet's new files with what cards had brought to it.

    Args:
        glb, sidecar: as they were made from the drawings.
        brought: what they are given.

    Returns:
        the two files, and sentences about drawings whose part is not there any more.

    Raises:
        OSError: if there is no room for the files meanwhile.
    """
    notes = []
    with scratch_folder() as folder:
        path = folder / "puppet.glb"
        for control, drawing in brought:
            path.write_bytes(glb)
            sidecar_path(path).write_bytes(sidecar)
            rig = read_rig(path)
            row = rig.control_row.get(control)
            if row is None:
                notes.append(
                    tr(
                        "{name} came by a card to a part that is not drawn any more; it is "
                        "left out. The card has it still.",
                        name=drawing.name,
                    )
                )
            elif already_there(rig, row, drawing) is None:
                added = with_drawing(path, rig, row, fitted(drawing, rig))
                glb, sidecar = added.glb, added.sidecar
    return glb, sidecar, tuple(notes)
