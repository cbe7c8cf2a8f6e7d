"""Pictures of cards that come from files: read, cropped, and given to a card or a capture."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QStandardPaths
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QFileDialog, QWidget

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.inputs import CARD, open_file
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.thumb import Square, cropped
from fox_hand.session.app.needs import Capturing
from fox_hand.session.libraries.card_commands import CardCommands
from fox_hand.session.runtime.jobs import JobRunner
from fox_hand.ui.capture.crop_popup import CropPopup
from fox_hand.ui.services.picture_files import SUFFIXES, decoded
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.notice import Notice


class OwnPictures:
    """Asks for a picture file and which square of it is meant.

    Args:
        theme, workspace, card_commands, jobs, notice: what it works with.
        window: where it asks.
        over: what the question opens above.
    """

    def __init__(
        self,
        theme: Theme,
        workspace: Capturing,
        card_commands: CardCommands,
        jobs: JobRunner,
        notice: Notice,
        over: QWidget,
    ) -> None:
        self._theme, self._workspace, self._jobs, self._notice = theme, workspace, jobs, notice
        self._card_commands, self._over = card_commands, over
        self._asked: object = None  # of several files only the last one is asked about

    def choose(self, entry: Entry | None) -> None:
        """Ask for a file, for a card or for the capture that is open."""
        kinds = " ".join(f"*{suffix}" for suffix in sorted(SUFFIXES))
        start = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.PicturesLocation)
        path, _ = QFileDialog.getOpenFileName(
            self._over.window(),
            tr("A picture for the card"),
            start,
            tr("Pictures ({kinds})", kinds=kinds),
        )
        if path:
            self.take(Path(path), entry)

    def take(self, path: Path, entry: Entry | None) -> None:
        """Read a picture file, then ask which part of it is meant."""
        asked = self._asked = object()
        draft = self._workspace.capturing.draft

        def work(progress: Progress) -> tuple[bytes, QImage]:
            progress.step(0.0)
            return _read(path)

        def done(found: tuple[bytes, QImage]) -> None:
            data, image = found
            if self._asked is not asked or (entry is None and draft is None):
                return
            name = entry.name if entry is not None else tr("the new card")
            popup = CropPopup(self._theme, self._over.window(), image, name)
            popup.agreed.connect(lambda square: self._give(data, square, entry))
            popup.open_above(self._over)

        self._jobs.run(work, done, self._notice.tell_error)

    def _give(self, data: bytes, square: Square, entry: Entry | None) -> None:
        if entry is not None:
            self._card_commands.set_picture(entry, data, square)
            return
        draft = self._workspace.capturing.draft

        def work(progress: Progress) -> tuple[bytes, bytes]:
            progress.step(0.0)
            return cropped(data, square)

        def done(pictures: tuple[bytes, bytes]) -> None:
            if draft is not None and self._workspace.capturing.draft is draft:
                draft.set_own_picture(pictures)

        self._jobs.run(work, done, self._notice.tell_error)


def _read(path: Path) -> tuple[bytes, QImage]:
    try:
        with open_file(path, CARD) as file:
            data = file.read()
    except OSError as error:
        raise FoxHandError(
            "picture.unreadable",
            tr(
                "{name} cannot be read ({strerror}).",
                name=path.name,
                strerror=error.strerror or error,
            ),
            tr("The card has the picture it had."),
        ) from error
    image = decoded(data)
    if image.isNull():
        raise FoxHandError(
            "picture.unreadable",
            tr("{name} is no picture that can be read.", name=path.name),
            tr("The card has the picture it had."),
            tr("Choose a PNG, JPEG or WebP file."),
        )
    return data, image
