"""The card of a clip moves while the pointer is over it."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QObject, QTimer
from PySide6.QtGui import QImage

from fox_hand.base.errors import FoxHandError
from fox_hand.base.work import Progress
from fox_hand.library.format.container import read_motion
from fox_hand.library.format.entry import Entry
from fox_hand.session.runtime.jobs import JobRunner
from fox_hand.ui.browser.sheets_view import SheetsView
from fox_hand.ui.cards.card_pictures import reduced
from fox_hand.ui.services.picture_files import READY, frames_in

SHORTEST = 16  # milliseconds of a frame
Frames = list[tuple[QImage, int]]


class MovingCard(QObject):
    """Reads the moving picture beside the window and shows its frames one after the other.

    Args:
        view: whose cards.
        jobs: where pictures are read.
    """

    def __init__(self, view: SheetsView, jobs: JobRunner) -> None:
        super().__init__(view)
        self._view, self._jobs = view, jobs
        self._wanted: Entry | None = None
        self._frames: Frames = []
        self._number = 0
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._next)
        view.hovered.connect(self._point)

    def _point(self, entry: Entry | None) -> None:
        self._timer.stop()
        self._wanted, self._frames, self._number = entry, [], 0
        self._view.show_moving(None)
        if entry is None or entry.kind != "clip":
            return
        pixels = round(self._view.card_size * self._view.devicePixelRatioF())
        self._jobs.run(partial(_read, entry, pixels), partial(self._begin, entry), lambda _: None)

    def _begin(self, entry: Entry, frames: Frames) -> None:
        if entry is self._wanted and frames:
            self._frames = frames
            self._next()

    def _next(self) -> None:
        if not self._frames:
            return
        image, time = self._frames[self._number % len(self._frames)]
        self._number += 1
        self._view.show_moving(image)
        self._timer.start(max(time, SHORTEST))


def _read(entry: Entry, pixels: int, progress: Progress) -> Frames:
    """All frames with how long each is shown; what is wrong with a file its card says itself."""
    progress.step(0.0)
    try:
        data = read_motion(entry.path)
    except FoxHandError:
        return []
    if data is None:
        return []
    return [
        (reduced(image, pixels).convertToFormat(READY), time) for image, time in frames_in(data)
    ]
