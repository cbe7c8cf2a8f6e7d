"""Which files belong to a character: what is read with it must not be written over."""

from __future__ import annotations

from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.interchange import gltf, usd
from fox_hand.interchange.sidecar import is_description, read_sidecar, sidecar_path


def files_of(path: Path) -> tuple[Path, ...]:
    """The file itself, its sidecar, and what it names beside it."""
    found = list(dict.fromkeys((path, sidecar_path(path))))
    kind = path.suffix.lower()
    try:
        if kind == ".gltf":
            found += gltf.named_files(path)
        elif kind in (".usd", ".usda", ".usdc"):
            found += usd.layers(path)
        elif is_description(path) and (mesh := read_sidecar(path).mesh) is not None:
            found.append(path.parent / mesh.file)
    except FoxHandError:
        pass  # a file that cannot be read names nothing; who reads it says why
    return tuple(found)
