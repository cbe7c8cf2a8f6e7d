"""A stage may be made of files beside it and below, and of no others: its layers are looked at
before any of them is composed."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.inputs import MOTION, open_file
from fox_hand.base.language import tr

MOST_LAYERS = 1000
KEPT = tr("Nothing that was open has changed.")


def check_layers(path: Path, sdf: Any) -> None:
    """Walk through all layers that a stage would be composed of.

    Args:
        path: the stage.
        sdf: the module ``pxr.Sdf``.

    Raises:
        FoxHandError: ``file.read`` for what is no regular file or too large, ``usd.outside``.
    """
    folder = path.absolute().parent.resolve()
    todo, seen, total = [path.absolute()], set[Path](), 0
    while todo:
        file = todo.pop().resolve()
        if file in seen:
            continue
        seen.add(file)
        if not file.is_relative_to(folder):
            raise outside(path, file)
        total += _size(path, file)
        if total > MOTION or len(seen) > MOST_LAYERS:
            raise FoxHandError(
                "usd.too_large", tr("{name} is made of too many files.", name=path.name), KEPT
            )
        layer = sdf.Layer.OpenAsAnonymous(str(file))  # as it lies on disk now
        if layer is not None:
            todo += _named(path, file, layer)


def _size(path: Path, file: Path) -> int:
    try:
        with open_file(file, MOTION):
            return file.stat().st_size
    except OSError as error:
        name = file.name if file != path else path.name
        reason = error.strerror or tr("the system gives no reason")
        raise FoxHandError(
            "file.read", tr("{name} cannot be read ({reason}).", name=name, reason=reason), KEPT
        ) from error


def _named(path: Path, file: Path, layer: Any) -> list[Path]:
    """Files that a layer names; what is not there is left to the library, which goes on without."""
    found, folder = list[Path](), path.absolute().parent.resolve()
    for asset in (*layer.GetCompositionAssetDependencies(), *layer.GetExternalAssetDependencies()):
        place = (file.parent / asset).resolve()  # as USD's own resolver does
        if not place.is_relative_to(folder):
            raise outside(path, Path(asset))
        if place.exists():
            found.append(place)
    return found


def outside(path: Path, file: Path) -> FoxHandError:
    """The error for a stage that names a file elsewhere."""
    return FoxHandError(
        "usd.outside",
        tr("{name} names {file}, which lies outside of its folder.", name=path.name, file=file),
        tr("That file was not opened. {kept}", kept=KEPT),
        tr("Put what it needs beside it, or below."),
    )
