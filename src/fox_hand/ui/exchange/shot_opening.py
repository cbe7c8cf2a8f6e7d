"""Opening and making shots and projects beside the window."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.figures.gathering import Arrival, gather
from fox_hand.session.figures.playhead import Playhead
from fox_hand.session.figures.snapshot import cast_path
from fox_hand.session.figures.snapshot_keys import KeptTime, wake_time
from fox_hand.session.runtime.listed_read import ListedRead
from fox_hand.session.shots.project import SHOTS, Project, read_project, write_project
from fox_hand.session.shots.shot_file import SUFFIX, write_shot
from fox_hand.session.shots.shots import Opening, open_shot, shot_of_now, stage_key
from fox_hand.ui.exchange.opening import Opener, Then
from fox_hand.ui.services.services import Services
from fox_hand.ui.widgets.deferred_update import next_turn
from fox_hand.ui.widgets.notice import Notice

RECENT = 8


class ShotOpener(QObject):
    """Reads shots in jobs and sets the stage.

    Args:
        window, workspace, services, opener, notice: the window's.
    """

    opened = Signal()

    def __init__(
        self,
        window: QWidget,
        workspace: Workspace,
        services: Services,
        opener: Opener,
        notice: Notice,
    ) -> None:
        super().__init__(window)
        self._workspace, self._services, self._opener, self._notice = (
            workspace,
            services,
            opener,
            notice,
        )

    def open(self, path: Path, then: Then | None = None) -> None:
        """Read a shot and set its stage; what is open is written down first.

        Args:
            path: the shot's file.
            then: follows in any case.
        """
        workspace = self._workspace
        workspace.keep_mix()
        if len(workspace.cast):
            workspace.save_figure()

        def work(progress: Progress) -> tuple[Opening, tuple[Arrival, ...]]:
            progress.report(0.0)
            opening = open_shot(workspace.places, path, workspace.shots.seat_at(stage_key(path)))
            return opening, gather([(Path(m.path), m) for m in opening.cast.members], progress)

        def done(found: tuple[Opening, tuple[Arrival, ...]]) -> None:
            self._set_stage(turn, *found, then)

        def failed(error: Exception) -> None:
            self._opener.not_opened(turn)
            self._notice.tell_error(error)
            if then is not None:
                then()

        def stopped() -> None:
            self._opener.not_opened(turn)
            if then is not None:
                then()

        turn = self._opener.next_turn()
        # after what is being written down, which may be this very shot
        label = tr("Open {name}", name=path.stem)
        long_work, jobs = workspace.long_work, self._services.jobs
        ListedRead(long_work, jobs, label, work, done, failed, stopped=stopped)

    def _set_stage(
        self, turn: int, opening: Opening, arrivals: tuple[Arrival, ...], then: Then | None
    ) -> None:
        said: list[str] = []

        def begin() -> None:
            said.extend(self._begin(opening))

        if self._opener.set_stage(turn, arrivals, begin, opening.cast.acting):
            self._workspace.history.clear()
            self.opened.emit()
            if opening.problem is not None:
                self._notice.tell_error(opening.problem)
            elif said:
                self._notice.tell(" ".join(said))
        if then is not None:
            next_turn(then)  # so much was done already that somebody may have to be heard

    def _begin(self, opening: Opening) -> list[str]:
        """The stage becomes this shot's; what is to be said about it."""
        workspace, opener = self._workspace, self._opener
        workspace.clear_stage()
        holder = workspace.shots.begin(opening, workspace.settings.author)
        self.remember(opening.path)
        wake_time(workspace.timing, opening.cast.time or KeptTime())
        opener.boards_found.emit(list(opening.cast.boards))
        if opening.project is not None:
            self._open_libraries(opening.project)
        said = []
        if holder is not None:
            said.append(
                tr(
                    "{stem} is open in another window of yours. Both can save; the other's "
                    "is then kept beside. Save as keeps them apart.",
                    stem=opening.path.stem,
                )
                if holder.this_account
                else tr(
                    "{who} has {stem} open on {host}. Both of you can save; the other's is "
                    "then kept beside yours. Save as keeps yours apart.",
                    who=holder.who,
                    stem=opening.path.stem,
                    host=holder.host,
                )
            )
        if workspace.shots.forsaken():
            said.append(
                tr(
                    "Another window left work on it that was not saved. Open it in a second window "
                    "to"
                    " see that work."
                )
            )
        if opening.recovered is not None:
            said.append(
                tr(
                    "Work on {stem} of {recovered:%d %b, %H:%M} that was not saved is "
                    "back. Save keeps it; the menu has the way back to the file.",
                    stem=opening.path.stem,
                    recovered=opening.recovered,
                )
            )
        if opening.aside is not None:
            said.append(
                tr(
                    "{stem} was changed by somebody since you left it. Your unsaved work "
                    "lies in {aside}.",
                    stem=opening.path.stem,
                    aside=opening.aside,
                )
            )
        return said

    def _open_libraries(self, project: Project) -> None:
        open_libraries = self._workspace.open_libraries
        for number, text in enumerate(project.libraries):
            folder = project.path(text)
            if open_libraries.place_at(folder) is None:
                if number == 0:
                    self._workspace.settings.target = str(folder)
                self._opener.open_library(folder)

    def remember(self, path: Path) -> None:
        """The next start opens this shot."""
        settings, text = self._workspace.settings, str(path.absolute())
        settings.shot = text
        others = [p for p in settings.recent_shots if p != text]
        settings.recent_shots = [text, *others][:RECENT]

    def go_back(self) -> None:
        """The shot as it is in its file; work that was not saved is put away."""
        self._workspace.keep_mix()

        self._workspace.shots.forget(self.open)

    def open_demo(self) -> None:
        """The first shot of the ferry, and there something to see."""
        workspace, demo = self._workspace, self._services.demo

        def done(made: tuple[tuple[Path, ...], Path]) -> None:
            workspace.settings.target = str(made[1])
            shot = demo.first_shot(made[1])
            never_there = not cast_path(workspace.places, stage_key(shot)).is_file()
            self.open(shot, (lambda: there(shot)) if never_there else None)

        def there(shot: Path) -> None:
            if workspace.shots.path == shot:
                workspace.go(demo.first_frame)

        self._services.jobs.run(lambda _: self._services.demo.open(), done, self._notice.tell_error)

    # -- projects -------------------------------------------------------------------------

    def open_project(self, folder: Path) -> None:
        """Open the first shot of a project, or make one."""

        def done(project: Project) -> None:
            shots = [p for p in project.shot_paths() if p.is_file()]
            if shots:
                self.open(shots[0])
            else:
                self._first_shot(project)

        self._services.jobs.run(lambda _: read_project(folder), done, self._notice.tell_error)

    def make_project(self, folder: Path, name: str) -> None:
        """Make a folder a project with one shot: what is on the stage now."""
        workspace = self._workspace
        where = folder.absolute()
        libraries = tuple(
            str(p.folder.relative_to(where)) if p.folder.is_relative_to(where) else str(p.folder)
            for p in workspace.open_libraries.places
        )
        keyed = any(actor.keys for actor in workspace.cast.actors)
        said = keyed or workspace.timing.rate != Playhead().rate  # somebody chose it here
        rate = workspace.timing.rate if said else workspace.settings.new_rate
        project = Project(where, name, rate, libraries)
        own = [actor for actor in workspace.cast.actors if not actor.host]
        rigs = dict.fromkeys(project.relative(actor.path) for actor in own)
        project = replace(project, rigs=tuple(rigs))
        if (folder / "project.toml").is_file():
            self._notice.tell(tr("{name} is a project already; it is opened.", name=folder.name))
            self.open_project(folder)
            return
        try:
            write_project(project)
        except FoxHandError as error:
            self._notice.tell_error(error)
            return
        self._first_shot(project)

    def _first_shot(self, project: Project) -> None:
        self._write_shot(project, f"{project.folder.name}_010".replace(" ", "_"))

    def make_shot(self, name: str) -> None:
        """A new shot of the project that is open, with the cast as it stands and no keys."""
        project = self._workspace.shots.project
        if project is not None:
            self._write_shot(project, name)

    def _write_shot(self, project: Project, name: str) -> None:
        path = project.folder / SHOTS / f"{name.removesuffix(SUFFIX)}{SUFFIX}"
        if path.exists():
            self._notice.tell(
                tr("There is a shot {stem} already; it was left as it is.", stem=path.stem)
            )
            return
        cast = shot_of_now(self._workspace.shots.document(), self._workspace.cast, project.rate)

        def work(progress: Progress) -> Path:
            progress.report(0.0)
            path.parent.mkdir(parents=True, exist_ok=True)
            write_shot(path, cast, project.folder)
            write_project(project.with_shot(path))
            return path

        self._services.jobs.run(work, self.open, self._notice.tell_error)
