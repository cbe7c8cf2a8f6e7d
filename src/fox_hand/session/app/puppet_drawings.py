"""Drawings that come to a puppet and go from it: its own files are changed, as steps with a way
back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import TypeVar

from psygnal import Signal

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.inputs import MOTION, read_file
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.puppets.puppet_adding import with_drawing
from fox_hand.interchange.readers import read_rig
from fox_hand.interchange.sidecar import sidecar_path
from fox_hand.library.files.atomic import write_atomically
from fox_hand.library.format.card import CardDrawing
from fox_hand.library.format.container import read_drawing
from fox_hand.library.format.entry import Entry
from fox_hand.session.figures.cast import Cast, Mark, file_mark
from fox_hand.session.figures.figure import ChangeStep, Figure
from fox_hand.session.puppets.drawing_cards import already_there, fitted
from fox_hand.session.puppets.picture_drawing import drawing_from
from fox_hand.session.runtime.history import History
from fox_hand.session.runtime.jobs import JobRunner

Made = TypeVar("Made")
Exchange = Callable[[Figure, Rig, Mark], object]
Then = Callable[[str, int], None]  # name of the part's control, number of the drawing


@dataclass(frozen=True)
class PuppetFiles:
    """A puppet's model file and its sidecar, as they were or are to be."""

    glb: bytes
    sidecar: bytes


@dataclass(frozen=True)
class _Changed:
    before: PuppetFiles
    after: PuppetFiles
    rig: Rig
    option: str


class PuppetDrawings:
    """At most one change at a time.

    Args:
        cast, history: who is on the stage, and where steps go.
        exchange: gives a figure the rig that was read again.
        files: where files are changed, one after the other.
    """

    changed = Signal()  # something is under way, or over
    told = Signal(str)
    failed = Signal(FoxHandError)

    def __init__(self, cast: Cast, history: History, exchange: Exchange, files: JobRunner) -> None:
        self._cast, self._history, self._exchange, self._files = cast, history, exchange, files
        self.busy = False
        self._writing = 0

    @property
    def writing(self) -> bool:
        """Whether files are on their way into another form."""
        return self._writing > 0

    def add(self, entry: Entry, actor: Figure, row: int, then: Then) -> None:
        """Give a part of a puppet the drawing of a card as one more of its own.

        Args:
            entry: a card that brings a drawing along.
            actor: the puppet.
            row: the part's control.
            then: is given the part and the number of the drawing, also if it had that before.
        """
        self._add(entry.name, partial(read_drawing, entry.path), (actor, row), then)

    def add_picture(self, picture: Path, actor: Figure, row: int, number: int, then: Then) -> None:
        """Give a part of a puppet a picture from a file as one more of its drawings.

        Args:
            picture: a PNG, WebP or SVG file.
            actor: the puppet.
            row: the part's control.
            number: of the drawing in whose place it lies.
            then: as of :meth:`add`.
        """
        reading = partial(drawing_from, picture, actor.rig, row, number)
        self._add(picture.name, reading, (actor, row), then)

    def _add(
        self,
        name: str,
        reading: Callable[[], CardDrawing],
        to: tuple[Figure, int],
        then: Then,
    ) -> None:
        if self.busy:
            self.told.emit(tr("A drawing is being added already; wait until it is there."))
            return
        actor, row = to
        path, rig = actor.path, actor.rig
        control, label = rig.controls[row].name, rig.controls[row].label

        def work(progress: Progress) -> _Changed | int:
            progress.step(0.0, tr("Adding {name}", name=name))
            drawing = reading()
            known = already_there(rig, row, drawing)
            if known is not None:
                return known
            before = _read(path)
            added = with_drawing(path, rig, row, fitted(drawing, rig))
            after = PuppetFiles(added.glb, added.sidecar)
            return _Changed(before, after, _written(path, after, before), added.option)

        def done(found: _Changed | int) -> None:
            self._over()
            if isinstance(found, int):
                then(control, found)
                return
            self._take(path, found.rig)
            self._history.push(
                ChangeStep(
                    tr("{label}: {option} added", label=label, option=found.option),
                    lambda: self._put(path, found.before, found.after),
                    lambda: self._put(path, found.after, found.before),
                )
            )
            swap = found.rig.swaps[found.rig.control_row[control]]
            then(control, swap.names.index(found.option))

        self._begin(work, done)

    def _begin(
        self,
        work: Callable[[Progress], _Changed | int],
        done: Callable[[_Changed | int], None],
    ) -> None:
        self.busy = True
        self.changed.emit()
        self._write(work, done)

    def _write(self, work: Callable[[Progress], Made], done: Callable[[Made], None]) -> None:
        def ended(found: Made) -> None:
            self._writing -= 1
            done(found)

        def failed(error: Exception) -> None:
            self._writing -= 1
            self._not_done(error)

        self._writing += 1
        self._files.run(work, ended, failed)

    def _over(self) -> None:
        self.busy = False
        self.changed.emit()

    def _not_done(self, error: Exception) -> None:
        self._over()
        if not isinstance(error, FoxHandError):
            raise error
        self.failed.emit(error)

    def _put(self, path: Path, files: PuppetFiles, now: PuppetFiles) -> None:
        """The files as they were, or were to be; the figures follow when that is done. Files that
        somebody else has changed meanwhile are left alone."""

        def work(progress: Progress) -> Rig:
            progress.report(0.0)
            if _read(path) != now:
                raise FoxHandError(
                    "puppet.changed_meanwhile",
                    tr("{name} was changed by somebody else meanwhile.", name=path.name),
                    tr("It was left as it is."),
                )
            return _written(path, files, None)

        def done(rig: Rig) -> None:
            self._take(path, rig)

        self._write(work, done)

    def _take(self, path: Path, rig: Rig) -> None:
        mark = file_mark(path)
        for actor in self._cast.actors:
            if actor.path == path:
                self._exchange(actor, rig, mark)


def _read(path: Path) -> PuppetFiles:
    try:
        return PuppetFiles(read_file(path, MOTION), read_file(sidecar_path(path), MOTION))
    except OSError as error:
        raise FoxHandError(
            "puppet.unreadable",
            tr(
                "{name} cannot be read ({strerror}).",
                name=path.name,
                strerror=error.strerror or error,
            ),
            tr("Nothing was changed."),
        ) from error


def _written(path: Path, files: PuppetFiles, before: PuppetFiles | None) -> Rig:
    """Write both files, and read what came of it; if that does not hold together, what was there
    is put back."""
    write_atomically(sidecar_path(path), files.sidecar)
    try:
        write_atomically(path, files.glb)
        return read_rig(path)
    except FoxHandError:
        if before is not None:
            write_atomically(sidecar_path(path), before.sidecar)
            write_atomically(path, before.glb)
        raise
