"""Rigs that are only described: ``<name>.foxrig.json`` with nodes, and no model file.

That is how the control rig of another program can be worked with as it is: its controls, where
they rest and what they hang on, in its own unit and with its own axis up.
"""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.core.maths.rotations import Array, from_vector
from fox_hand.core.maths.transforms import compose, decompose, undone
from fox_hand.core.model.mesh import MeshPart
from fox_hand.core.model.skeleton import Skeleton
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange import gltf
from fox_hand.interchange.fingerprint import fingerprint
from fox_hand.interchange.joint_controls import joint_controls, size_note
from fox_hand.interchange.rig_words import words_of
from fox_hand.interchange.sidecar import MeshNotes, NodeNotes, Sidecar, read_sidecar, rig_stem
from fox_hand.interchange.sidecar_rig import apply_sidecar
from fox_hand.interchange.stick_body import stick_body
from fox_hand.interchange.units import UnitUnknownError

SHORTEST = 1e-6  # a rotation of no length is none, a scale of nothing cannot be undone
UPRIGHT = {"y": 0.0, "z": -np.pi / 2}  # about x


def read_rig(path: Path, metres_per_unit: float | None = None) -> Rig:
    """Read a rig that is described without a model file.

    Args:
        path: the file.
        metres_per_unit: what a person says about the unit; None takes the file's word.

    Raises:
        UnitUnknownError: where nobody says the unit.
        FoxHandError: if the file cannot be read, or describes no rig.
    """
    try:
        sidecar = read_sidecar(path)
    except FoxHandError as error:
        raise _refused(error.code, error.happened) from error
    return shown_rig(sidecar, rig_stem(path), path, metres_per_unit)


def shown_rig(
    sidecar: Sidecar, name: str, source: Path, metres_per_unit: float | None = None
) -> Rig:
    """As :func:`rig_of`, with the mesh that the description names; its file is read."""
    rig = rig_of(sidecar, name, source, metres_per_unit)
    return _shown(rig, sidecar.mesh, source.parent) if sidecar.mesh is not None else rig


def rig_of(sidecar: Sidecar, name: str, source: Path, metres_per_unit: float | None = None) -> Rig:
    """The rig that a description makes, with a body of sticks.

    Args:
        sidecar: the description.
        name: what it is called where it does not say so.
        source: where it comes from, for messages.
        metres_per_unit: as in :func:`read_rig`.

    Raises:
        UnitUnknownError: where nobody says the unit.
        FoxHandError: ``sidecar.no_rig`` without nodes, ``sidecar.nodes`` for nodes that make none.
    """
    words = words_of(sidecar, metres_per_unit)
    nodes = _sorted(sidecar.nodes, source)
    unscaled = _skeleton(nodes, 1.0, 0.0)
    if words.metres_per_unit is None:
        height = float(np.ptp(unscaled.rest_world[:, :3, 3], axis=0).max())
        raise UnitUnknownError(source, height)
    skeleton = _skeleton(nodes, words.metres_per_unit, UPRIGHT[sidecar.up])
    rows = [i for i, node in enumerate(nodes) if node.control]
    found = joint_controls(skeleton, rows, body=words.body)
    rig = Rig(
        name=name.replace("_", " ").title(),
        skeleton=skeleton,
        controls=tuple(found.controls),
        settings=(),
        parts=stick_body(skeleton, rows),
        palette_nodes=np.arange(len(nodes), dtype=np.intp),
        inverse_binds=undone(skeleton.rest_world),
        fingerprint=fingerprint(found.controls, [], skeleton),
        body=found.body,
        source=str(source),
        notes=tuple(found.notes),
    )
    return replace(made := apply_sidecar(rig, sidecar), notes=(*made.notes, *size_note(rig.height)))


def _refused(code: str, happened: str, do: str = "") -> FoxHandError:
    return FoxHandError(code, happened, tr("Nothing that was open has changed."), do)


def _sorted(nodes: list[NodeNotes], source: Path) -> list[NodeNotes]:
    """Parents before their children, else in the file's order.

    Raises:
        FoxHandError: where they make no tree.
    """
    if not nodes:
        raise _refused(
            "sidecar.no_rig",
            tr("{name} describes no rig by itself: it has no nodes.", name=source.name),
            tr("Open the model file that it lies beside."),
        )
    by_name = {node.name: node for node in nodes}
    if len(by_name) < len(nodes):
        raise _wrong(source, tr("two of its nodes have the same name"))
    below: dict[str | None, list[NodeNotes]] = {}
    for node in nodes:
        if node.parent is not None and node.parent not in by_name:
            why = tr(
                "{name} hangs on {parent}, which is not there", name=node.name, parent=node.parent
            )
            raise _wrong(source, why)
        if np.linalg.norm(node.rotation) < SHORTEST:
            raise _wrong(source, tr("the rotation of {name} has no length", name=node.name))
        if min(abs(v) for v in node.scale) < SHORTEST:
            raise _wrong(source, tr("{name} is scaled to nothing", name=node.name))
        below.setdefault(node.parent, []).append(node)
    found = list(below.get(None, ()))
    for node in found:  # grows while it is walked through
        found += below.get(node.name, ())
    if len(found) < len(nodes):
        raise _wrong(source, tr("some of its nodes hang on themselves"))
    return found


def _wrong(source: Path, why: str) -> FoxHandError:
    return _refused(
        "sidecar.nodes",
        tr("{name} describes no rig: {why}.", name=source.name, why=why),
        tr("Correct the file and open it again."),
    )


def _skeleton(nodes: list[NodeNotes], unit: float, turn: float) -> Skeleton:
    """The nodes in metres with +Y up: the roots are scaled and turned, so that what hangs on them
    keeps its own numbers."""
    row = {node.name: i for i, node in enumerate(nodes)}
    parents = tuple(-1 if n.parent is None else row[n.parent] for n in nodes)
    rotation = np.array([n.rotation for n in nodes], dtype=np.float64)
    rotation /= np.linalg.norm(rotation, axis=1, keepdims=True)
    local = compose(
        np.array([n.translation for n in nodes], dtype=np.float64),
        rotation,
        np.array([n.scale for n in nodes], dtype=np.float64),
    )
    upright = compose(np.zeros(3), from_vector(np.array([turn, 0.0, 0.0])), np.full(3, unit))
    roots = [i for i, parent in enumerate(parents) if parent < 0]
    local[roots] = upright @ local[roots]
    return Skeleton(tuple(row), parents, *decompose(local))


def _shown(rig: Rig, mesh: MeshNotes, folder: Path) -> Rig:
    """The rig with the mesh of another file, which its nodes carry; with its sticks where that
    cannot be read, and a note says so."""
    path = folder / mesh.file
    try:
        model = gltf.read_rig(path)
    except (FoxHandError, OSError) as error:
        why = error.happened if isinstance(error, FoxHandError) else str(error.strerror)
        return replace(rig, notes=(*rig.notes, tr("No mesh is shown: {why}", why=why)))
    carriers = np.array(_carriers(rig, model.skeleton, mesh), dtype=np.intp)[model.palette_nodes]
    held = undone(rig.skeleton.rest_world)[carriers]
    binds: Array = held @ model.skeleton.rest_world[model.palette_nodes] @ model.inverse_binds
    parts = tuple(_with_own_settings(part, model, rig, mesh) for part in model.parts)
    return replace(rig, parts=parts, palette_nodes=carriers, inverse_binds=binds)


def _carriers(rig: Rig, model: Skeleton, mesh: MeshNotes) -> list[int]:
    """For each node of a model the row of the node that carries it."""
    row = {name: i for i, name in enumerate(rig.skeleton.names)}
    found: list[int] = []
    for name, parent in zip(model.names, model.parents, strict=True):
        above = found[parent] if parent >= 0 else 0
        found.append(row.get(mesh.joints.get(name, name), above))
    return found


def _with_own_settings(part: MeshPart, model: Rig, rig: Rig, mesh: MeshNotes) -> MeshPart:
    """The part with those of its shapes that a setting drives."""
    if part.targets is None:
        return part
    own = [model.settings[s].name for s in part.target_settings]
    names = [mesh.shapes.get(name, name) for name in own]
    kept = [i for i, name in enumerate(names) if name in rig.setting_row]
    if not kept:
        return replace(part, targets=None, target_normals=None, target_settings=())
    return replace(
        part,
        targets=part.targets[kept],
        target_normals=None if part.target_normals is None else part.target_normals[kept],
        target_settings=tuple(rig.setting_row[names[i]] for i in kept),
    )
