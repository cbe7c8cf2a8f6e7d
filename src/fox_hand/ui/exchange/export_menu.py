"""Taking out of the window: motion, poses, pictures, contact sheets and packs; and packs in."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import TypeVar

from PySide6.QtCore import QObject
from PySide6.QtGui import QActionGroup
from PySide6.QtWidgets import QFileDialog, QInputDialog, QMenu, QWidget

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr, tr_n
from fox_hand.base.work import Progress
from fox_hand.core.view.render_request import Standing
from fox_hand.library.format.container import read_card
from fox_hand.library.format.entry import Entry
from fox_hand.library.store.contact_sheet import write_sheet
from fox_hand.library.store.pack import SUFFIX as PACK
from fox_hand.library.store.pack import Offer, TakeIn, offers, write_pack
from fox_hand.library.store.pack_extras import NO_EXTRAS, Extras
from fox_hand.session.animating.clips import clip_for
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.charts.chart_board import MOST_COLUMNS, ChartBoard
from fox_hand.session.exporting.layers_export import write_layers
from fox_hand.session.exporting.motion_export import (
    clip_motion,
    keep_what_is_open,
    shot_motion,
    write_motion,
    write_pose,
)
from fox_hand.session.exporting.picture_export import PictureSequence, write_drawn
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.session.libraries.packing import own_card, take_pack
from fox_hand.ui.browser.sheets_panel import SheetsPanel
from fox_hand.ui.commands.actions import Actions
from fox_hand.ui.exchange.pack_dialog import PackDialog
from fox_hand.ui.exchange.work_bar import WorkBar
from fox_hand.ui.services.picture_port import Drawing
from fox_hand.ui.stage.stage_view import Stage
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.notice import Notice

Result = TypeVar("Result")
MOTION = "glTF (*.glb);;UsdSkel (*.usda *.usdc);;BVH (*.bvh)"
RATES = (12, 15, 24, 25, 30, 48, 50, 60, 120)  # frames a second
SIDES = 24  # pictures of a turntable, unless somebody says otherwise


class ExportMenu(QObject):
    """Asks for a name, does the work beside the window, says what came of it.

    Args:
        window, theme: of dialogs.
        workspace, stage, sheets: what is taken out.
        notice, work_bar: where it is told of.
        drawing: draws in a job, and runs jobs.
    """

    def __init__(
        self,
        window: QWidget,
        theme: Theme,
        workspace: Workspace,
        stage: Stage,
        sheets: SheetsPanel,
        notice: Notice,
        work_bar: WorkBar,
        drawing: Drawing,
    ) -> None:
        super().__init__(window)
        self._window, self._theme, self._workspace = window, theme, workspace
        self._stage, self._sheets = stage, sheets
        self._notice, self._bar, self._drawing = notice, work_bar, drawing
        self.rate: float | None = None  # frames a second of motion; None as it is kept

    def menu(self, menu: QMenu, table: Actions) -> None:
        """Fill a menu with all of it."""
        table.fill(menu, "motion", "motion_alone", "pose")
        self._rates(menu.addMenu(tr("Frames a second of motion")))
        table.fill(menu, "", "picture", "puppet_layers", "pictures", "moving_picture", "turntable")
        table.fill(menu, "", "contact_sheet", "pack")

    def _rates(self, menu: QMenu) -> None:
        """How densely motion is sampled, until the program is closed."""
        group = QActionGroup(menu)
        more = () if self.rate is None or self.rate in RATES else (self.rate,)
        for rate in (None, *sorted({*RATES, *more})):
            word = tr("As it is kept") if rate is None else f"{rate:g}"
            action = menu.addAction(word, partial(self._sample_at, rate))
            action.setCheckable(True)
            action.setChecked(rate == self.rate)
            group.addAction(action)
        menu.addSeparator()
        menu.addAction(tr("Another …"), self._ask_rate)

    def _sample_at(self, rate: float | None) -> None:
        self.rate = rate

    def _ask_rate(self) -> None:
        now = self.rate or self._workspace.timing.rate
        rate, given = QInputDialog.getDouble(
            self._window,
            tr("Frames a second of motion"),
            tr("Frames a second"),
            now,
            1.0,
            1000.0,
            3,
        )
        if given:
            self.rate = rate

    def _ask(self, title: str, name: str, kinds: str) -> Path | None:
        """Where to write; the kind of file chosen decides the ending."""
        found, kind = QFileDialog.getSaveFileName(self._window, title, name, kinds)
        if not found:
            return None
        path = Path(found)
        if not path.suffix:
            ending = (kind or kinds).partition("*")[2].partition(")")[0].split(" ")[0]
            path = path.with_name(path.name + ending)
            if path.is_file():  # the dialog asked about the name without its ending
                self._notice.tell(
                    tr("{name} is there already and was left. Choose it by name.", name=path.name)
                )
                return None
        workspace = self._workspace
        try:
            keep_what_is_open(path, [a.path for a in workspace.cast.actors], workspace.shots.path)
        except FoxHandError as problem:
            self._notice.tell_error(problem)
            return None
        return path

    def _run(
        self,
        label: str,
        work: Callable[[Progress], Result],
        done: Callable[[Result], None],
    ) -> None:
        bar, long_work = self._bar, self._workspace.long_work

        def ended(result: Result) -> None:
            bar.end()
            long_work.end(shown, worked=1)
            done(result)

        def failed(error: Exception) -> None:
            bar.end()
            long_work.fail(shown, error)
            self._notice.tell_error(error)

        def report(share: float, item: str) -> None:
            bar.show_work(label, share)
            long_work.report(shown, share, item)

        def stop() -> None:
            token.cancel()
            bar.end()
            long_work.end(shown, left=1)

        shown = long_work.begin(label, stop)
        token = self._drawing.jobs.run(work, ended, failed, report)
        bar.follow(label, stop)

    def _said(self, path: Path, notes: Sequence[str] = ()) -> None:
        self._notice.tell(" ".join([tr("{name} is written.", name=path.name), *notes]))

    # -- motion ---------------------------------------------------------------------------

    def motion(self, *, alone: bool) -> None:
        """What the acting figure does in the shot."""
        actor, timing = self._workspace.actor, self._workspace.timing
        if actor is None:
            return
        self._workspace.keep_mix()
        path = self._ask(tr("Take motion out"), f"{self._shot_name()}_{actor.prefix}.glb", MOTION)
        if path is None:
            return
        take, rig, span = actor.take, actor.rig, (float(timing.first), float(timing.last))
        own, rate, name = timing.rate, self.rate, f"{self._shot_name()} {actor.prefix}"

        def work(progress: Progress) -> tuple[str, ...]:
            motion = shot_motion(take, name, span, own, rate, progress)
            return write_motion(path, rig, motion, alone=alone)

        self._run(tr("Write {name}", name=path.name), work, partial(self._said, path))

    def clip(self, entry: Entry, *, alone: bool) -> None:
        """What a clip card does, on the acting figure."""
        workspace, rate = self._workspace, self.rate
        actor, fits = workspace.actor, workspace.mix_commands.fits
        if actor is None:
            return
        path = self._ask(tr("Take motion out"), f"{entry.name}.glb", MOTION)
        if path is None:
            return

        def work(progress: Progress) -> tuple[str, ...]:
            progress.step(0.0)
            clip = clip_for(entry, read_card(entry.path)[0], actor, fits)
            motion = clip_motion(clip, entry.name, actor.rig, rate)
            return write_motion(path, actor.rig, motion, alone=alone)

        self._run(tr("Write {name}", name=path.name), work, partial(self._said, path))

    def _shot_name(self) -> str:
        return self._workspace.shots.name or "shot"

    def pose(self) -> None:
        """The character's file standing as it stands here."""
        actor = self._workspace.actor
        if actor is None:
            return
        path = self._ask(tr("Take the pose out"), f"{actor.prefix}_pose.glb", "glTF (*.glb)")
        if path is not None:
            rig, state = actor.rig, actor.state
            self._run(
                tr("Write {name}", name=path.name),
                lambda _: write_pose(path, rig, state),
                lambda _: self._said(path),
            )

    # -- pictures -------------------------------------------------------------------------

    def _sequence(self, frames: Sequence[int], turntable: int = 0) -> PictureSequence:
        """As the stage sees it."""
        workspace, stage = self._workspace, self._stage
        takes = [(actor, actor.take) for actor in workspace.cast.actors]
        # loose changes belong to the frame they were made at, wherever somebody looks meanwhile
        now, at = {actor: actor.state for actor, _ in takes}, workspace.timing.frame

        def standing(frame: float) -> tuple[Standing, ...]:
            return tuple(
                actor.standing_in(now[actor] if frame == at else take.at(frame))
                for actor, take in takes
            )

        size = (max(stage.width(), 64), max(stage.height(), 64))
        return PictureSequence(
            standing,
            frames,
            workspace.timing.rate,
            turntable,
            *size,
            workspace.settings.clear_ground,
            stage.camera,
            workspace.backdrops.standing,
        )

    def layers(self) -> None:
        """The acting puppet as it stands, a layer for each part."""
        actor = self._workspace.actor
        if actor is None:
            return
        path = self._ask(tr("The puppet as layers"), f"{actor.prefix}.ora", "OpenRaster (*.ora)")
        if path is None:
            return
        standing, draw = actor.standing, self._drawing.draw

        def done(count: int) -> None:
            self._notice.tell(
                tr(
                    "{name} is written. {counted}.",
                    name=path.name,
                    counted=tr_n("{number:,} layer", "{number:,} layers", count),
                )
            )

        self._run(
            tr("Write {name}", name=path.name),
            lambda work: write_layers(path, standing, draw, work),
            done,
        )

    def _draw(self, path: Path, sequence: PictureSequence) -> None:
        draw = self._drawing.draw

        def work(progress: Progress) -> int:
            return write_drawn(path, sequence, draw, progress)

        def done(count: int) -> None:
            said = tr("{name} is written.", name=path.name)
            if count > 1:
                drawn = tr_n("{number:,} picture", "{number:,} pictures", count)
                said = tr("{name} is written. {drawn}.", name=path.name, drawn=drawn)
            self._notice.tell(said)

        self._run(tr("Draw {name}", name=path.name), work, done)

    def picture(self) -> None:
        """The stage as it is."""
        frame = round(self._workspace.timing.frame)
        name = f"{self._shot_name()}_{frame:04d}.png"
        path = self._ask(tr("Take a picture out"), name, "PNG (*.png);;WebP (*.webp)")
        if path is not None:
            self._draw(path, self._sequence([frame]))

    def pictures(self) -> None:
        """A folder with a picture of every frame."""
        folder = QFileDialog.getExistingDirectory(self._window, tr("The folder for the pictures"))
        if folder:
            self._draw(Path(folder) / self._shot_name(), self._sequence(self._frames()))

    def moving(self) -> None:
        """All frames in one file that plays."""
        name = f"{self._shot_name()}.webp"
        path = self._ask(tr("Take a moving picture out"), name, "WebP (*.webp);;GIF (*.gif)")
        if path is not None:
            self._draw(path, self._sequence(self._frames()))

    def around(self) -> None:
        """The cast from all sides at this frame."""
        count, given = QInputDialog.getInt(
            self._window, tr("Once around"), tr("Pictures"), SIDES, 2, 720
        )
        if not given:
            return
        name = f"{self._shot_name()}_around.webp"
        path = self._ask(tr("Take a turn around out"), name, "WebP (*.webp);;GIF (*.gif)")
        if path is not None:
            frame = round(self._workspace.timing.frame)
            self._draw(path, self._sequence([frame], count))

    def _frames(self) -> range:
        timing = self._workspace.timing
        return range(timing.first, timing.last + 1)

    # -- cards ----------------------------------------------------------------------------

    def chosen(self) -> list[Entry]:
        """The ticked cards, else all that are shown."""
        view = self._sheets.view
        if view.choice.ticked:
            return list(view.chosen())
        keys = [int(k) for section in view.shown for k in section.keys.tolist()]
        self._workspace.open_libraries.fetch(keys)
        found = (self._workspace.open_libraries.entry(k) for k in keys)
        return [entry for entry in found if entry is not None]

    def contact_sheet(self) -> None:
        """Cards side by side."""
        entries = self.chosen()
        path = self._ask(tr("Take a contact sheet out"), "cards.pdf", "PDF (*.pdf);;PNG (*.png)")
        if path is not None:
            title = path.stem
            self._run(
                tr("Write {name}", name=path.name),
                lambda progress: write_sheet(path, entries, title, progress=progress),
                lambda _: self._said(path),
            )

    def chart_sheet(self, board: ChartBoard) -> None:
        """A chart with its gaps, a line for each character."""
        kinds = "PDF (*.pdf);;PNG (*.png)"
        path = self._ask(tr("Take the chart out"), f"{board.chart.name}.pdf", kinds)
        shown, title = board.sheet(), board.sheet_title()
        if path is not None:
            columns = min(len(board.chart.slots), MOST_COLUMNS)
            self._run(
                tr("Write {name}", name=path.name),
                lambda progress: write_sheet(
                    path, shown, title, columns=columns, progress=progress
                ),
                lambda _: self._said(path),
            )

    def pack(self, *, whole: bool = False) -> None:
        """Cards as one file for somebody else.

        Args:
            whole: with what was said about names, and the descriptions of the rigs on the stage.
        """
        self._pack(self.chosen(), "cards", whole=whole)

    def pack_sheet(self, place: OpenLibrary, sheet: str) -> None:
        """All cards of a sheet and of those in it, with what was said of it all."""
        open_libraries = self._workspace.open_libraries
        entries = open_libraries.entries_of(open_libraries.keys_in(place, sheet))
        self._pack(entries, sheet.replace("/", " "), whole=True)

    def _pack(self, entries: Sequence[Entry], name: str, *, whole: bool) -> None:
        author = self._workspace.settings.author
        rigs = dict.fromkeys(actor.path for actor in self._workspace.cast.actors)
        extras = Extras.of_rigs(tuple(rigs)) if whole else NO_EXTRAS
        path = self._ask(tr("Pack the cards"), f"{name}{PACK}", tr("Packs (*{pack})", pack=PACK))
        if path is not None:
            self._run(
                tr("Pack {name}", name=path.name),
                lambda progress: write_pack(
                    path, path.stem, entries, author=author, extras=extras, progress=progress
                ),
                lambda count: self._said(
                    path,
                    [
                        tr(
                            "{counted} in it.",
                            counted=tr_n("{number:,} card", "{number:,} cards", count),
                        )
                    ],
                ),
            )

    def ask_pack(self) -> None:
        """Choose a pack to take in."""
        name, _ = QFileDialog.getOpenFileName(
            self._window, tr("Take in a pack"), "", tr("Packs (*{pack});;All files (*)", pack=PACK)
        )
        if name:
            self.open_pack(Path(name))

    def open_pack(self, path: Path) -> None:
        """Show what of a pack is new."""
        workspace = self._workspace
        place = workspace.open_libraries.target
        if place is None or not place.writable:
            self._notice.tell(tr("Open a library of your own first: the pack goes into it."))
            return

        def work(progress: Progress) -> list[Offer]:
            progress.step(0.0)
            return offers(path, partial(own_card, workspace.open_libraries, place))

        self._run(tr("Read {name}", name=path.name), work, partial(self._show_pack, path, place))

    def _show_pack(self, path: Path, place: OpenLibrary, found: list[Offer]) -> None:
        dialog = PackDialog(self._theme, self._window, path, found)
        dialog.chosen.connect(partial(self._take_pack, path, place))
        dialog.open()

    def _take_pack(
        self, path: Path, place: OpenLibrary, chosen: list[tuple[Offer, TakeIn]]
    ) -> None:
        workspace = self._workspace
        count = take_pack(workspace.file_jobs, workspace.open_libraries, place, path, chosen)
        if not count:
            self._notice.tell(tr("Nothing of {name} was taken in.", name=path.name))
