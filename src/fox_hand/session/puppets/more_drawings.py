"""More drawings, and more views, into a folder of drawings; what is there is never written over."""

from __future__ import annotations

import shutil
from collections.abc import Sequence
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.interchange.drawings.drawing_folder import PICTURES

ALL_VIEWS = ("Side", "Half", "Front", "Back")


def add_drawings(source: Path, files: Sequence[Path], progress: Progress) -> int:
    """Copy pictures into a folder of drawings, each as a part of its own; returns how many.

    Args:
        source: the folder.
        files: pictures.
        progress: of long work.

    Raises:
        FoxHandError: ``drawings.layered`` for layered files, ``drawings.there`` for names that are
            taken, ``file.write``; pictures that were copied before stay.
        Cancelled: by the progress.
    """
    _is_folder(source)
    for number, file in enumerate(files):
        progress.step(number / max(len(files), 1), tr("Copying {name}", name=file.name))
        _copied(file, source / file.name)
    return len(files)


def add_view(source: Path, drawings: Path, view: str, progress: Progress) -> int:
    """Copy a folder of drawings as another view; returns how many.

    Args:
        source: the folder that gets it.
        drawings: the folder that is copied.
        view: one of :data:`ALL_VIEWS`.
        progress: of long work.

    Raises:
        FoxHandError: as :func:`add_drawings`; ``drawings.inside`` for a folder within the other.
        Cancelled: by the progress.
    """
    _is_folder(source)
    drawings, source = drawings.absolute(), source.absolute()
    if drawings == source or source in drawings.parents or drawings in source.parents:
        raise FoxHandError(
            "drawings.inside",
            tr("{name} and {name_2} lie in each other.", name=drawings.name, name_2=source.name),
            tr("Nothing was copied."),
            tr("Choose a folder elsewhere."),
        )
    files = [p for p in sorted(drawings.rglob("*")) if p.suffix.lower() in PICTURES and p.is_file()]
    for number, file in enumerate(files):
        progress.step(number / max(len(files), 1), tr("Copying {name}", name=file.name))
        _copied(file, source / view / file.relative_to(drawings))
    return len(files)


def _is_folder(source: Path) -> None:
    if not source.is_dir():
        raise FoxHandError(
            "drawings.layered",
            tr("{name} is a layered file.", name=source.name),
            tr("Nothing was changed."),
            tr("Draw more layers in it; it is read again when it has changed."),
        )


def _copied(file: Path, target: Path) -> None:
    if target.exists():
        raise FoxHandError(
            "drawings.there",
            tr("{name} is there already.", name=target.name),
            tr("It was left as it is."),
            tr("Give the new picture another name."),
        )
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        shutil.copyfile(file, target)
    except OSError as error:
        raise FoxHandError(
            "file.write",
            tr(
                "{name} could not be copied ({strerror}).",
                name=file.name,
                strerror=error.strerror or error,
            ),
            tr("The drawings that were there are untouched."),
        ) from error
