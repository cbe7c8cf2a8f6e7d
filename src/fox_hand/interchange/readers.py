"""Which module reads which kind of file."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.core.rig import Rig
from fox_hand.interchange import gltf
from fox_hand.interchange.sidecar import read_sidecar, sidecar_path
from fox_hand.interchange.sidecar_rig import apply_sidecar

RIG_READERS = {".glb": gltf.read_rig, ".gltf": gltf.read_rig}


def read_rig(path: Path) -> Rig:
    """Read a rig and the sidecar beside it, if there is one.

    A sidecar that cannot be read does not stop the rig; the rig's notes say so.

    Raises:
        FoxHandError: if the rig file itself cannot be read.
    """
    reader = RIG_READERS.get(path.suffix.lower())
    if reader is None:
        known = ", ".join(sorted(RIG_READERS))
        raise FoxHandError(
            "rig.unknown_kind",
            f"Fox Hand does not read {path.suffix or 'such'} files as rigs.",
            "Nothing that was open has changed.",
            f"It reads {known}.",
        )
    rig = reader(path)
    beside = sidecar_path(path)
    if not beside.is_file():
        return rig
    try:
        return apply_sidecar(rig, read_sidecar(beside))
    except FoxHandError as error:
        return replace(rig, notes=(*rig.notes, error.sentence()))
