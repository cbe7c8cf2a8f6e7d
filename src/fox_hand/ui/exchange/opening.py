"""Opening characters, casts and libraries beside the window."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import TypeVar

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QFileDialog, QInputDialog, QWidget

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.core.rig.rig import RestFrom, Rig
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.figures.cast import Absent, Mark, Member, file_mark
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.gathering import Arrival, gather
from fox_hand.session.figures.rig_files import (
    RIG_KINDS,
    UNITS,
    USUAL_HEIGHT,
    UnitUnknownError,
    keep_rest,
    keep_unit,
    read_rig,
    unit_word,
)
from fox_hand.session.figures.snapshot import KeptMember
from fox_hand.session.figures.snapshot_keys import KeptTime, wake_time
from fox_hand.session.runtime.listed_read import ListedRead
from fox_hand.ui.browser.sheets_panel import SheetsPanel
from fox_hand.ui.services.services import Services
from fox_hand.ui.stage.stage_bars import StageBars
from fox_hand.ui.widgets.notice import Notice

Result = TypeVar("Result")

LATER = 50  # milliseconds
STAGE_SEEN = 150  # milliseconds in which the stage is laid out and painted
WATCH = 2000  # milliseconds between two looks at the rig files
Then = Callable[[], None]


class Opener(QObject):
    """Reads files in jobs and hands them to the workspace."""

    boards_found = Signal(object)
    newcomer = Signal(object)  # Figure that stands on the stage for the first time

    def __init__(
        self,
        window: QWidget,
        workspace: Workspace,
        services: Services,
        bars: StageBars,
        notice: Notice,
        sheets: SheetsPanel,
    ) -> None:
        super().__init__(window)
        self._window, self._workspace, self._services = window, workspace, services
        self._bars, self._notice, self._sheets = bars, notice, sheets
        self._looking = False
        self._turn = 0  # goes up with every stage that is asked for
        self._watch = QTimer(self)
        self._watch.setInterval(WATCH)
        self._watch.timeout.connect(self.look_for_changed_rigs)
        self._watch.timeout.connect(workspace.shots.look_at_file)
        self._watch.start()

    # -- characters -----------------------------------------------------------------------

    def open_rig(self, path: Path) -> None:
        """Read a rig and put it on the stage, beside those who stand there."""
        path, turn = path.absolute(), self._turn
        self._bars.busy(tr("Opening {name} …", name=path.name))
        known = self._workspace.cast.rigs()  # one more of these shares the rig

        def done(arrivals: tuple[Arrival, ...]) -> None:
            if turn != self._turn:  # it was meant for a stage that is gone
                self._notice.tell(
                    tr("{name} was not put on: another stage came meanwhile.", name=path.name)
                )
                return
            self._bars.busy("")
            arrival = arrivals[0]
            if isinstance(arrival.error, UnitUnknownError) and self.ask_unit(arrival.error):
                self.open_rig(path)
                return
            if arrival.actor is not None:
                self._workspace.welcome(arrival.actor)
                self._tell_notes(arrival.actor)
                self.newcomer.emit(arrival.actor)
            else:
                self._place(arrival)

        def failed(error: Exception) -> None:
            self._bars.busy("")
            self._notice.tell_error(error)

        self._list(
            tr("Open {name}", name=path.name),
            partial(gather, [(path, None)], known=known),
            done,
            failed,
            lambda: self._bars.busy(""),
        )

    def _list(
        self,
        label: str,
        work: Callable[[Progress], Result],
        done: Callable[[Result], None],
        failed: Callable[[Exception], None],
        stopped: Then,
    ) -> None:
        long_work, jobs = self._workspace.long_work, self._services.jobs
        ListedRead(long_work, jobs, label, work, done, failed, stopped=stopped)

    def ask_unit(self, error: UnitUnknownError) -> bool:
        """Ask for a file's unit and write it into its sidecar; False if nobody says.

        Where the preferences have a unit for such files, that is taken, and told.
        """
        usual = self._workspace.settings.new_unit
        if usual in UNITS:
            self._notice.tell(
                tr(
                    "{name} does not say its unit: {unit}, as in the preferences. It is kept "
                    "in the sidecar.",
                    name=error.path.name,
                    unit=unit_word(usual),
                )
            )
            return self._keep_unit(error.path, UNITS[usual])
        words = {
            tr(
                "{name} (the figure is {height:.2f} m tall)",
                name=unit_word(name),
                height=error.height * size,
            ): size
            for name, size in UNITS.items()
        }
        likely = min(words.values(), key=lambda size: abs(error.height * size - USUAL_HEIGHT))
        text, said = QInputDialog.getItem(
            self._window,
            tr("Which unit?"),
            tr("{name} does not say its unit. It is kept in the sidecar.", name=error.path.name),
            list(words),
            list(words.values()).index(likely),
            False,
        )
        return said and self._keep_unit(error.path, words[text])

    def _keep_unit(self, path: Path, size: float) -> bool:
        try:
            keep_unit(path, size)
        except FoxHandError as problem:
            self._notice.tell_error(problem)
            return False
        return True

    def choose_rest(self, actor: Figure, rest_from: RestFrom) -> None:
        """Say in the sidecar what counts as rest; the file is read again at once."""
        try:
            keep_rest(actor.path, rest_from)
        except FoxHandError as problem:
            self._notice.tell_error(problem)
            return
        self.look_for_changed_rigs()

    def stand_as_filed(self, actor: Figure) -> None:
        """Put a figure into the pose its file was written in."""
        state = actor.rig.as_filed()
        if state is not None:
            self._workspace.act(actor)
            self._workspace.keep_mix()
            self._workspace.apply(tr("Stand as the file was written"), state)

    def _tell_notes(self, actor: Figure) -> None:
        if actor.spare.names:
            gone = ", ".join(sorted(actor.spare.names)[:4])
            self._notice.tell(
                tr(
                    "{name} has changed: {gone} no longer exist. Their values are kept.",
                    name=actor.name,
                    gone=gone,
                )
            )
        elif actor.rig.notes:
            self._notice.tell(" ".join(actor.rig.notes[:3]))

    def open_cast(self, key: str, newcomers: tuple[Path, ...], then: Then | None = None) -> None:
        """Everybody who was on a stage, standing as they stood; on a new stage the newcomers."""
        workspace = self._workspace
        workspace.settings.stage, workspace.settings.shot = key, ""
        if len(workspace.cast):
            workspace.save_figure()
        kept = workspace.shots.kept_at(workspace.shots.seat_at(key), self._notice.tell_error)
        members = list(kept.members) if kept is not None else []
        known = {m.path for m in members}
        paths: list[tuple[Path, KeptMember | None]] = [(Path(m.path), m) for m in members]
        if not members or key == "desk":
            paths += [(p, None) for p in newcomers if str(p) not in known]
        acting = kept.acting if kept is not None else ""
        asked = newcomers if not members or key == "desk" else ()
        wanted = next((str(p) for p in asked), "")  # who was asked for acts

        def begin() -> None:
            workspace.clear_stage()
            workspace.shots.leave(key)
            self.boards_found.emit(list(kept.boards) if kept is not None else [])
            workspace.shots.hold(kept.at_hand if kept is not None else [])
            workspace.backdrops.show(list(kept.backdrops) if kept is not None else [])
            wake_time(workspace.timing, (kept.time if kept is not None else None) or KeptTime())

        turn = self.next_turn()

        def done(arrivals: tuple[Arrival, ...]) -> None:
            self.set_stage(turn, arrivals, begin, acting, wanted)
            if then is not None:
                QTimer.singleShot(STAGE_SEEN, then)  # which computes beside the window

        def failed(error: Exception) -> None:
            self.not_opened(turn)
            self._notice.tell_error(error)

        self._list(
            tr("Open the stage"),
            partial(gather, paths),
            done,
            failed,
            lambda: self.not_opened(turn),
        )

    def next_turn(self) -> int:
        """Another stage is asked for: what was asked for before and is not there yet stays away."""
        self._turn += 1
        self._bars.busy(tr("Opening …"))
        return self._turn

    def stay(self) -> None:
        """Another stage has come in another way; what was asked for before stays away."""
        self._turn += 1
        self._bars.busy("")

    def set_stage(
        self,
        turn: int,
        arrivals: Sequence[Arrival],
        begin: Then,
        acting: str,
        wanted: str = "",
    ) -> bool:
        """Everybody at once, after all have been read: there is no half a stage that could be
        saved, written down or mixed with another.

        Args:
            turn: which stage it is; one that came too late is left out.
            arrivals: who was read.
            begin: makes the stage theirs.
            acting, wanted: prefix, or file, of the one who acts afterwards.

        Returns:
            whether it was set.
        """
        if turn != self._turn:
            return False
        self._bars.busy("")
        self._workspace.shots.sleeping = True
        begin()
        for arrival in arrivals:
            self._place(arrival, acts=False)
        self._workspace.shots.sleeping = False
        self._act_first(acting, wanted)
        for arrival in arrivals:
            if isinstance(arrival.error, UnitUnknownError) and self.ask_unit(arrival.error):
                self._again(arrival)
        return True

    def not_opened(self, turn: int) -> None:
        """A stage that was asked for cannot be set; what stands there stays."""
        if turn == self._turn:
            self._bars.busy("")
            self._workspace.shots.sleeping = False

    def _place(self, arrival: Arrival, *, acts: bool = True) -> None:
        if arrival.actor is not None:
            self._workspace.arrive(arrival, acts=acts)
            self._tell_notes(arrival.actor)
        elif arrival.kept is not None:
            there = arrival.path.exists() if os.access(arrival.path.parent, os.X_OK) else True
            reason = arrival.error if there else None
            self._notice.tell(self._workspace.place_absent(arrival.kept, reason).why)
        elif arrival.error is not None:
            self._notice.tell_error(arrival.error)

    def _again(self, arrival: Arrival) -> None:
        """The unit of a file was said: its character comes."""
        absent = [
            m for m in self._workspace.cast if isinstance(m, Absent) and m.kept is arrival.kept
        ]
        if absent:
            self.bring_back(absent[0], arrival.path)
        else:
            self.open_rig(arrival.path)

    def _act_first(self, prefix: str, path: str) -> None:
        actors = self._workspace.cast.actors
        found = [a for a in actors if str(a.path) == path] or [
            a for a in actors if a.prefix == prefix
        ]
        if found or actors:
            self._workspace.begin_with((found or list(actors))[0])

    def find_file(self, member: Member) -> None:
        """Say where the file of an absent character is now."""
        kinds = " ".join(f"*{k}" for k in RIG_KINDS)
        path, _ = QFileDialog.getOpenFileName(
            self._window,
            tr("Where is {name}?", name=member.name),
            "",
            tr("Figures ({kinds});;All files (*)", kinds=kinds),
        )
        if path and isinstance(member, Absent):
            self.bring_back(member, Path(path))

    def bring_back(self, member: Absent, path: Path) -> None:
        """Read an absent character's file; it stands as it stood."""

        def work(progress: Progress) -> Figure:
            progress.step(0.0)
            return Figure(read_rig(path), path, member.prefix)

        def done(actor: Figure) -> None:
            self._workspace.bring_back(member, actor)
            if actor in self._workspace.cast.actors:
                self._tell_notes(actor)

        self._list(
            tr("Open {name}", name=path.name), work, done, self._notice.tell_error, lambda: None
        )

    def look_for_changed_rigs(self) -> None:
        """Read rig files that changed on disk again; characters whose files came back return."""
        cast = self._workspace.cast
        if self._looking or not len(cast) or self._workspace.puppet_drawings.writing:
            return  # what we write ourselves is taken over when it is whole
        self._looking = True

        def work(progress: Progress) -> tuple[list[Reading], tuple[Absent, ...]]:
            progress.step(0.0)
            return [_read_again(a) for a in cast.changed_on_disk()], cast.found_again()

        def done(result: tuple[list[Reading], tuple[Absent, ...]]) -> None:
            self._looking = False
            for actor, mark, rig, error in result[0]:
                self._read_again(actor, mark, rig, error)
            for member in result[1]:
                self.bring_back(member, member.path)

        def failed(error: Exception) -> None:
            self._looking = False
            self._notice.tell_error(error)

        self._services.jobs.run(work, done, failed)

    def _read_again(
        self, actor: Figure, mark: Mark, rig: Rig | None, error: FoxHandError | None
    ) -> None:
        cast = self._workspace.cast
        if actor not in cast.actors or cast.knows(actor, mark):
            return  # it went, or has been taken over already
        if rig is None:
            cast.seen(actor, mark)
            said = error.sentence() if error is not None else ""
            self._notice.tell(
                tr(
                    "{name} changed on disk and cannot be read now. {said} {name_2} stays "
                    "as it was.",
                    name=actor.path.name,
                    said=said,
                    name_2=actor.name,
                )
            )
            return
        gone = self._workspace.exchange_rig(actor, rig, mark)
        text = tr("{name} changed on disk and was read again.", name=actor.path.name)
        if gone:
            text += tr(
                " No longer there: {names}; their values are kept.",
                names=", ".join(sorted(gone)[:4]),
            )
        self._notice.tell(text)

    # -- libraries and the demo -----------------------------------------------------------

    def open_library(self, folder: Path, *, create: str = "") -> None:
        """Put a library on the shelf, and remember it."""
        open_libraries, settings = self._workspace.open_libraries, self._workspace.settings
        text = str(folder.absolute())
        if text not in settings.libraries:
            settings.libraries.append(text)
        if open_libraries.place_at(folder.absolute()) is not None:
            self._notice.tell(tr("This library is open already."))
            return
        place = open_libraries.open(folder, create=create, failed=self._not_opened)
        if not settings.target or text == settings.target:
            open_libraries.target_number, settings.target = place.number, text
        self._sheets.refresh()

    def _not_opened(self, error: Exception) -> None:
        self._sheets.refresh()
        self._notice.tell_error(error)

    def reload_cards(self) -> None:
        """Look for what changed on disk."""
        for place in self._workspace.open_libraries.places:
            self._workspace.open_libraries.look_again(place)

    def open_crew(self) -> None:
        """The crew of the ferry and its cards, without a shot."""

        def done(result: tuple[tuple[Path, ...], Path]) -> None:
            crew, library = result
            self._workspace.settings.target = str(library)
            # one after the other: the figure is what people wait for
            self.open_cast("demo", crew, partial(self.open_library, library))

        self._services.jobs.run(lambda _: self._services.demo.open(), done, self._notice.tell_error)

    def ask_for_rig(self) -> None:
        kinds = " ".join(f"*{k}" for k in RIG_KINDS)
        path, _ = QFileDialog.getOpenFileName(
            self._window,
            tr("Open a figure"),
            "",
            tr("Figures ({kinds});;All files (*)", kinds=kinds),
        )
        if path:
            self.open_rig(Path(path))


Reading = tuple[Figure, Mark, Rig | None, FoxHandError | None]


def _read_again(actor: Figure) -> Reading:
    mark = file_mark(actor.path)
    try:
        rig = read_rig(actor.path)
        _ = rig.rest_bounds
    except FoxHandError as error:
        return actor, mark, None, error
    return actor, mark, rig, None
