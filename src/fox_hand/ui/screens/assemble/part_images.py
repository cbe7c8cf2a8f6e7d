"""Drawings of a puppet as pictures to be shown, unpacked beside the window."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from PySide6.QtCore import QRectF
from PySide6.QtGui import QImage

from fox_hand.base.work import Progress
from fox_hand.core.puppet.drawn import PartDrawing
from fox_hand.session.runtime.jobs import JobRunner

Shrunk = tuple[npt.NDArray[np.uint8], tuple[int, int, int, int]]
LARGEST = 1024  # pixels of the longer side that are shown


@dataclass(frozen=True, eq=False)
class PartImage:
    """What is drawn of a drawing.

    Args:
        image: it, perhaps smaller than it was drawn.
        box: where it lies in the drawing, pixels from the drawing's corner.
    """

    image: QImage
    box: QRectF

    def on_canvas(self, drawing: PartDrawing) -> QRectF:
        """Where it lies on the canvas, pixels."""
        return self.box.translated(drawing.left, drawing.top)


class PartImages:
    """Unpacks drawings one after the other and keeps them.

    Args:
        jobs: where that is done.
        came: called whenever one is there.
    """

    def __init__(self, jobs: JobRunner, came: Callable[[], None]) -> None:
        self._jobs, self._came = jobs, came
        self._images: dict[bytes, PartImage] = {}
        self._asked: set[bytes] = set()

    def image(self, drawing: PartDrawing) -> PartImage | None:
        """A drawing as it can be shown; None where it is not unpacked yet."""
        found = self._images.get(drawing.data)
        if found is None and drawing.data not in self._asked:
            self._asked.add(drawing.data)
            data = drawing.data

            def work(progress: Progress) -> Shrunk:
                progress.step(0.0)
                return _shrunk(drawing)

            def done(shrunk: Shrunk) -> None:
                pixels, box = shrunk
                height, width = pixels.shape[:2]
                image = QImage(pixels.data, width, height, QImage.Format.Format_RGBA8888).copy()
                self._images[data] = PartImage(
                    image.convertToFormat(QImage.Format.Format_ARGB32_Premultiplied), QRectF(*box)
                )
                self._came()

            self._jobs.run(work, done, lambda _error: None)  # it was read once already
        return found

    def forget(self) -> None:
        """Another puppet comes."""
        self._images.clear()
        self._asked.clear()


def _shrunk(drawing: PartDrawing) -> Shrunk:
    from PIL import Image  # noqa: PLC0415 - loading it takes longer than many commands

    pixels = drawing.pixels()
    rows, columns = np.nonzero(pixels[..., 3])
    if not len(rows):
        return np.zeros((1, 1, 4), np.uint8), (0, 0, 1, 1)
    top, left = int(rows.min()), int(columns.min())
    inner = pixels[top : int(rows.max()) + 1, left : int(columns.max()) + 1]
    box = left, top, inner.shape[1], inner.shape[0]
    picture = Image.fromarray(inner, "RGBA")
    picture.thumbnail((LARGEST, LARGEST))
    return np.ascontiguousarray(picture), box
