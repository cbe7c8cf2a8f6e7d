"""Which module reads which kind of file."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.core.maths.transforms import compose, decompose
from fox_hand.core.model.skeleton import Skeleton
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange import bvh, described, gltf, usd
from fox_hand.interchange.fingerprint import fingerprint
from fox_hand.interchange.rig_words import RigWords, words_of
from fox_hand.interchange.sidecar import SUFFIX, Sidecar, kind_of, read_sidecar, sidecar_path
from fox_hand.interchange.sidecar_rig import apply_sidecar

# what a person has said about unit and rest is given along; files that say it themselves ignore it
RigReader = Callable[[Path, RigWords], Rig]


def _read_gltf(path: Path, words: RigWords) -> Rig:
    """glTF promises metres, so another unit scales what it says."""
    rig = gltf.read_rig(path, words=words)
    if words.metres_per_unit in (None, 1.0):
        return rig
    assert words.metres_per_unit is not None
    return _scaled(rig, words.metres_per_unit)


RIG_READERS: dict[str, RigReader] = {
    ".glb": _read_gltf,
    ".gltf": _read_gltf,
    ".vrm": _read_gltf,
    ".usd": usd.read_rig,
    ".usda": usd.read_rig,
    ".usdc": usd.read_rig,
    ".usdz": usd.read_rig,
    ".bvh": bvh.read_rig,
}
RIG_KINDS = (*RIG_READERS, SUFFIX)  # what rigs are read from


def read_rig(path: Path, metres_per_unit: float | None = None) -> Rig:
    """Read a rig and the sidecar beside it, if there is one.

    A sidecar that cannot be read does not stop the rig; the rig's notes say so.

    Args:
        path: the file.
        metres_per_unit: what a person says about the unit; None takes the sidecar's word, then
            the file's.

    Raises:
        UnitUnknownError: where nobody says the unit.
        FoxHandError: if the rig file itself cannot be read.
    """
    kind = kind_of(path)
    if kind not in RIG_KINDS:
        known = ", ".join(sorted(RIG_KINDS))
        raise FoxHandError(
            "rig.unknown_kind",
            tr("Fox Hand does not read {suffix} files as rigs.", suffix=path.suffix or tr("such")),
            tr("Nothing that was open has changed."),
            tr("It reads {known}.", known=known),
        )
    try:
        if kind == SUFFIX:
            return described.read_rig(path, metres_per_unit)
        return _read(path, RIG_READERS[kind], metres_per_unit)
    except OSError as error:
        raise FoxHandError(
            "file.read",
            tr(
                "{name} cannot be read ({strerror}).",
                name=path.name,
                strerror=error.strerror or tr("the system gives no reason"),
            ),
            tr("Nothing that was open has changed."),
            tr("Look whether it is still there, and whether you may read it."),
        ) from error


def _read(path: Path, reader: RigReader, metres_per_unit: float | None) -> Rig:
    sidecar, problem = _sidecar(path)
    rig = reader(path, words_of(sidecar, metres_per_unit))
    if sidecar is not None:
        rig = apply_sidecar(rig, sidecar)
    return replace(rig, notes=(*rig.notes, *problem))


def _sidecar(path: Path) -> tuple[Sidecar | None, tuple[str, ...]]:
    beside = sidecar_path(path)
    if not beside.is_file():
        return None, ()
    try:
        return read_sidecar(beside), ()
    except FoxHandError as error:
        return None, (error.sentence(),)


def _scaled(rig: Rig, size: float) -> Rig:
    """The rig with its roots scaled."""
    moved = _larger(rig.skeleton, size)
    notes = tuple(n for n in rig.notes if "metres_per_unit" not in n)
    x, y, z = (size * v for v in rig.body.middle)
    return replace(
        rig,
        skeleton=moved,
        body=replace(rig.body, middle=(x, y, z)),
        filed=None if rig.filed is None else _larger(rig.filed, size),
        fingerprint=fingerprint(rig.controls, rig.settings, moved),
        notes=notes,
    )


def _larger(skeleton: Skeleton, size: float) -> Skeleton:
    local = compose(skeleton.translation, skeleton.rotation, skeleton.scale)
    up = np.diag([size, size, size, 1.0])
    roots = [i for i, p in enumerate(skeleton.parents) if p < 0]
    local[roots] = up @ local[roots]
    return Skeleton(skeleton.names, skeleton.parents, *decompose(local))
