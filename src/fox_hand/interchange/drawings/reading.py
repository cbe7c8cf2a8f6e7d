"""Drawings of a flat puppet out of a folder or a layered file."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.core.puppet.drawn import DrawnFigure
from fox_hand.interchange.drawings.drawing_folder import read_folder
from fox_hand.interchange.drawings.layers import KEPT
from fox_hand.interchange.drawings.open_raster import read_open_raster

DRAWING_READERS: dict[str, Callable[[Path, Progress], DrawnFigure]] = {".ora": read_open_raster}


def read_drawings(path: Path, progress: Progress | None = None) -> DrawnFigure:
    """Everything that is drawn in a folder, or in an OpenRaster file.

    Args:
        path: the folder or file.
        progress: of long reading.

    Raises:
        FoxHandError: with a sentence, for what cannot be read or holds no drawings.
        Cancelled: by the progress.
    """
    progress = progress or Progress()
    try:
        if path.is_dir():
            return read_folder(path, progress)
        reader = DRAWING_READERS.get(path.suffix.lower())
        if reader is None:
            raise FoxHandError(
                "drawings.kind",
                tr("{name} is no folder of drawings and no OpenRaster file.", name=path.name),
                KEPT,
                tr("Choose a folder with PNG, WebP or SVG drawings, or an .ora file."),
            )
        return reader(path, progress)
    except OSError as error:
        raise FoxHandError(
            "drawings.unreadable",
            tr(
                "{name} cannot be read ({strerror}).",
                name=path.name,
                strerror=error.strerror or tr("the system gives no reason"),
            ),
            KEPT,
        ) from error
