"""Drawings from outside: read, put together on the Assemble screen, written as a puppet."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TypeVar

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QFileDialog, QWidget

from fox_hand.base.language import tr
from fox_hand.base.work import Cancelled, Progress
from fox_hand.core.puppet.puppet import Puppet
from fox_hand.session.puppets.assembly import PuppetAssembly
from fox_hand.session.puppets.making import MadePuppet
from fox_hand.session.puppets.more_drawings import add_drawings, add_view
from fox_hand.session.runtime.jobs import JobRunner
from fox_hand.session.runtime.listed_read import ListedRead
from fox_hand.session.runtime.long_work import LongWork
from fox_hand.ui.stage.stage_bars import StageBars
from fox_hand.ui.widgets.notice import Notice

Result = TypeVar("Result")

LAYERED = ".ora"
OURS = ("library.toml", "project.toml")
PICTURES = (".png", ".webp", ".svg")


def holds_drawings(path: Path) -> bool:
    """Whether a folder or file that was dropped is drawings to be put together."""
    if path.is_dir():
        if any((path / own).exists() for own in OURS):
            return False  # a library may hold pictures, too
        return any(p.suffix.lower() in PICTURES for p in (*path.glob("*"), *path.glob("*/*")))
    return path.suffix.lower() == LAYERED


class DrawingOpener(QObject):
    """Asks for drawings, reads them beside the window, and writes what was made of them."""

    read = Signal(object)  # PuppetAssembly
    making = Signal(object)  # Path that is being written; None when that has ended
    made = Signal(object)  # Path of the puppet
    read_again = Signal(object, object)  # PuppetAssembly and Puppet

    def __init__(
        self,
        window: QWidget,
        jobs: JobRunner,
        long_work: LongWork,
        bars: StageBars,
        notice: Notice,
    ) -> None:
        super().__init__(window)
        self._window, self._jobs, self._bars, self._notice = window, jobs, bars, notice
        self._long_work = long_work
        self._asked = 0  # goes up with everything that is asked for; only the last counts
        self._writing = False

    def ask_folder(self) -> None:
        """Let somebody choose a folder of drawings."""
        name = QFileDialog.getExistingDirectory(self._window, tr("A folder of drawings"))
        if name:
            self.open(Path(name))

    def ask_file(self) -> None:
        """Let somebody choose a layered file."""
        name, _ = QFileDialog.getOpenFileName(
            self._window,
            tr("A layered file"),
            "",
            tr("OpenRaster (*{layered});;All files (*)", layered=LAYERED),
        )
        if name:
            self.open(Path(name))

    def open(self, path: Path) -> None:
        """Read drawings and guess what they make; of several askings the last counts."""
        self._asked += 1
        asked, path = self._asked, path.absolute()
        self._bars.busy(tr("Reading {name} …", name=path.name))

        def work(progress: Progress) -> PuppetAssembly:
            return PuppetAssembly.of(path, progress)

        def done(assembly: PuppetAssembly) -> None:
            if asked == self._asked:
                self._bars.busy("")
                self.read.emit(assembly)

        def failed(error: Exception) -> None:
            if asked == self._asked:
                self._bars.busy("")
                self._notice.tell_error(error)

        self._list(path, work, done, failed)

    def _list(
        self,
        path: Path,
        work: Callable[[Progress], Result],
        done: Callable[[Result], None],
        failed: Callable[[Exception], None],
    ) -> None:
        label = tr("Read {name}", name=path.name)
        ListedRead(
            self._long_work,
            self._jobs,
            label,
            work,
            done,
            failed,
            stopped=lambda: self._bars.busy(""),
        )

    def again(self, assembly: PuppetAssembly) -> None:
        """Read drawings that have changed; what was said of them stays."""
        self._with_more(assembly, lambda _: None)

    def ask_more(self, assembly: PuppetAssembly) -> None:
        """Let somebody choose pictures that become parts, too."""
        kinds = " ".join(f"*{kind}" for kind in PICTURES)
        names, _ = QFileDialog.getOpenFileNames(
            self._window, tr("More drawings"), "", tr("Drawings ({kinds})", kinds=kinds)
        )
        files = [Path(name) for name in names]
        if files:
            self._with_more(assembly, lambda p: add_drawings(assembly.source, files, p))

    def ask_view(self, assembly: PuppetAssembly, view: str) -> None:
        """Let somebody choose the drawings of one more view."""
        name = QFileDialog.getExistingDirectory(
            self._window, tr("The drawings of {view}", view=view)
        )
        if name:
            folder = Path(name)
            self._with_more(assembly, lambda p: add_view(assembly.source, folder, view, p))

    def _with_more(self, assembly: PuppetAssembly, first: Callable[[Progress], object]) -> None:
        """Do something with the drawings on disk, then read them again."""
        self._asked += 1
        asked = self._asked
        self._bars.busy(tr("Reading {name} …", name=assembly.source.name))

        def work(progress: Progress) -> Puppet:
            first(progress)
            return assembly.again(progress)

        def done(puppet: Puppet) -> None:
            self._bars.busy("")
            if asked == self._asked:
                self.read_again.emit(assembly, puppet)

        def failed(error: Exception) -> None:
            self._bars.busy("")
            self._notice.tell_error(error)

        self._list(assembly.source, work, done, failed)

    def make(self, assembly: PuppetAssembly) -> None:
        """Ask where the puppet is to be written, and write it; nothing is asked meanwhile."""
        if self._writing:
            return
        source = assembly.source
        stem = source.name if source.is_dir() else source.stem
        proposed = source.parent / f"{stem}.glb"
        name, _ = QFileDialog.getSaveFileName(
            self._window, tr("Write the puppet"), str(proposed), "Puppet (*.glb)"
        )
        if not name:
            return
        out = Path(name) if Path(name).suffix else Path(f"{name}.glb")
        self._writing = True
        self.making.emit(out)

        def work(progress: Progress) -> MadePuppet:
            return assembly.make(out, progress)

        def ended() -> None:
            self._writing = False
            self.making.emit(None)

        def done(made: MadePuppet) -> None:
            ended()
            self.made.emit(made.glb)
            for note in made.notes:
                self._notice.tell(note)

        def failed(error: Exception) -> None:
            ended()
            if not isinstance(error, Cancelled):
                self._notice.tell_error(error)

        self._jobs.run(work, done, failed)
