"""Which files belong to a character: what is read with it must not be written over."""

from __future__ import annotations

from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.interchange import gltf, usd
from fox_hand.interchange.sidecar import sidecar_path


def files_of(path: Path) -> tuple[Path, ...]:
    """The file itself, its sidecar, and what it names beside it."""
    found = [path, sidecar_path(path)]
    kind = path.suffix.lower()
    try:
        if kind == ".gltf":
            found += gltf.named_files(path)
        elif kind in (".usd", ".usda", ".usdc"):
            found += usd.layers(path)
    except FoxHandError:
        pass  # a file that cannot be read names nothing; who reads it says why
    return tuple(found)
