"""Selection sets that people make: stored with the stage, or in the rig's sidecar."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from pathlib import Path

from fox_hand.base.language import tr
from fox_hand.interchange.sidecar import (
    FORMAT,
    VERSION,
    Sidecar,
    read_sidecar,
    sidecar_path,
    write_sidecar,
)
from fox_hand.library.files.atomic import write_atomically
from fox_hand.session.app.needs import Posing
from fox_hand.session.figures.figure import ChangeStep, Figure

Sets = dict[str, tuple[str, ...]]


def make_set(workspace: Posing, name: str, rows: Iterable[int]) -> None:
    """A set of some controls; one of the same name is updated."""
    actor = workspace.actor
    if actor is not None:
        members = tuple(actor.rig.controls[r].name for r in rows)
        _change(workspace, actor, tr("Set {name}", name=name), lambda sets: {**sets, name: members})


def rename_set(workspace: Posing, name: str, new: str) -> None:
    """Another name in the same place."""
    actor = workspace.actor
    if actor is not None and new not in actor.sets:
        _change(
            workspace,
            actor,
            tr("Rename set {name}", name=name),
            lambda sets: {new if k == name else k: v for k, v in sets.items()},
        )


def delete_set(workspace: Posing, name: str) -> None:
    actor = workspace.actor
    if actor is not None:
        _change(
            workspace,
            actor,
            tr("Delete set {name}", name=name),
            lambda sets: {k: v for k, v in sets.items() if k != name},
        )


def move_set(workspace: Posing, name: str, step: int) -> None:
    """Earlier (-1) or later (1) in the row."""
    actor = workspace.actor
    if actor is None or name not in actor.sets:
        return
    names = list(actor.sets)
    at = names.index(name)
    to = min(max(at + step, 0), len(names) - 1)
    names.insert(to, names.pop(at))
    _change(
        workspace, actor, tr("Move set {name}", name=name), lambda sets: {k: sets[k] for k in names}
    )


def keep_in_rig(actor: Figure, name: str) -> Path:
    """Write a set into the rig's sidecar, so that it is there wherever the rig is used. The
    rig is read again soon after, and then the set is the rig's own.

    Raises:
        FoxHandError: if the sidecar that is there cannot be read, or cannot be written.
    """
    path = sidecar_path(actor.path)
    sidecar = read_sidecar(path) if path.is_file() else Sidecar(FORMAT, VERSION)
    sidecar.sets[name] = list(actor.sets[name])
    write_atomically(path, write_sidecar(sidecar))
    return path


def set_rows(actor: Figure, name: str) -> list[int]:
    """Controls of a set that the rig has."""
    rows = actor.rig.control_row
    return [rows[n] for n in actor.sets.get(name, ()) if n in rows]


def _change(workspace: Posing, actor: Figure, label: str, change: Callable[[Sets], Sets]) -> None:
    before, after = actor.sets, change(actor.sets)
    if list(before.items()) == list(after.items()):
        return

    def show(sets: Sets) -> None:
        actor.sets = sets
        actor.changed.emit()

    show(after)
    workspace.history.push(ChangeStep(label, lambda: show(before), lambda: show(after)))
