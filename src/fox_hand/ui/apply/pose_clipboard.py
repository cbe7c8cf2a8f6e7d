"""Poses on the clipboard: from the figure, onto the figure, here and in other windows.

A copied pose is a card file in the user's cache folder, so that it can be pasted into a sheet, a
message or a folder just as well.
"""

from __future__ import annotations

import shutil
from pathlib import Path

from PySide6.QtCore import QMimeData, QUrl
from PySide6.QtWidgets import QApplication

from fox_hand.base.files.scratch import lasting_scratch
from fox_hand.base.language import tr, tr_n
from fox_hand.base.work import Progress
from fox_hand.library.files.atomic import write_atomically
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import card_bytes
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.head import read_head
from fox_hand.library.format.names import file_stem
from fox_hand.library.format.schema import SUFFIX
from fox_hand.session.app.needs import Copying
from fox_hand.session.capturing.draft import CaptureDraft
from fox_hand.session.runtime.jobs import JobRunner
from fox_hand.ui.cards.card_drag import card_files_in
from fox_hand.ui.widgets.notice import Notice

KEPT = 8  # copied poses whose files stay


class PoseClipboard:
    """Copies what is posed and puts on what was copied.

    Args:
        workspace, jobs, notice: what it works with.
    """

    def __init__(self, workspace: Copying, jobs: JobRunner, notice: Notice) -> None:
        self._workspace, self._jobs, self._notice = workspace, jobs, notice
        self._folder = workspace.places.cache / "copied"
        self._asked: object = None  # of several copies only the last one counts

    def copy(self) -> None:
        """What is selected of the figure, else what is away from rest, as a card."""
        workspace, actor = self._workspace, self._workspace.actor
        if actor is None:
            self._notice.tell(tr("There is no figure on the stage to copy from. Open one first."))
            return
        draft = CaptureDraft(actor, workspace.selection.rows)
        draft.name, draft.author = tr("{name}, copied", name=actor.name), workspace.settings.author
        card, asked = draft.card(), object()
        self._asked = asked

        def work(progress: Progress) -> Path:
            progress.step(0.0)
            return self._written(card)

        def done(path: Path) -> None:
            if self._asked is asked:
                mime = QMimeData()
                mime.setUrls([QUrl.fromLocalFile(str(path))])
                QApplication.clipboard().setMimeData(mime)
                self._notice.tell(
                    tr(
                        "The pose of {counted} is on the clipboard. Ctrl+V puts it on a figure "
                        "or into a sheet.",
                        counted=tr_n(
                            "{number:,} control", "{number:,} controls", len(card.pose.controls)
                        ),
                    )
                )

        self._jobs.run(work, done, self._notice.tell_error)

    def _written(self, card: Card) -> Path:
        try:
            path = self._in_folder(card)
        except OSError:  # no cache folder, or no room in it: as long as this program runs, then
            self._folder = lasting_scratch()
            path = self._in_folder(card)
        others = sorted(self._folder.iterdir(), key=lambda one: one.stat().st_mtime)
        for old in others[:-KEPT]:
            shutil.rmtree(old, ignore_errors=True)
        return path

    def _in_folder(self, card: Card) -> Path:
        folder = self._folder / card.identity
        folder.mkdir(parents=True, exist_ok=True)
        path = folder / f"{file_stem(card.name)}{SUFFIX}"
        write_atomically(path, card_bytes(card, None))
        return path

    def paste(self) -> None:
        """The card that was copied last, on the one who acts."""
        files = card_files_in(QApplication.clipboard().mimeData())
        if not files:
            self._notice.tell(
                tr(
                    "There is no pose on the clipboard. Ctrl+C copies what is selected on the "
                    "figure."
                )
            )
            return

        def work(progress: Progress) -> Entry:
            progress.step(0.0)
            return read_head(files[0], "").entry

        def done(entry: Entry) -> None:
            if entry.error is not None:
                self._notice.tell_error(entry.error)
            else:
                self._workspace.applying.put_on(entry)

        self._jobs.run(work, done, self._notice.tell_error)
