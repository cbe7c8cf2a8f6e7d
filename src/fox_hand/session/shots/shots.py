"""The shot on the stage: written down all the time, saved when asked, found again after a crash."""

from __future__ import annotations

import datetime
import hashlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

from psygnal import Signal

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.places import Places
from fox_hand.base.system.clock import written
from fox_hand.base.work import Progress
from fox_hand.library.format.lines_file import LineBook
from fox_hand.session.figures.animation import Animation
from fox_hand.session.figures.cast import Absent, Cast
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.selection import Selection
from fox_hand.session.figures.snapshot import (
    VERSION,
    KeptBoard,
    KeptCast,
    KeptMember,
    cast_path,
    kept_member,
    read_cast,
    write_cast,
)
from fox_hand.session.figures.snapshot_keys import KeptTime, kept_time
from fox_hand.session.runtime.history import History
from fox_hand.session.runtime.jobs import JobRunner
from fox_hand.session.shots.backdrops import Backdrops
from fox_hand.session.shots.project import Project, project_of, write_project
from fox_hand.session.shots.seats import Seats
from fox_hand.session.shots.shot_file import content_id, read_shot, write_shot
from fox_hand.session.shots.shot_lock import Holder, ShotLock
from fox_hand.session.shots.shot_meeting import (
    OWN_WINDOW,
    Mark,
    content_of,
    mark_of,
    set_aside,
    told_aside,
    told_changed,
)

DESK = "desk"


@dataclass(frozen=True)
class Opening:
    """A shot as it was read.

    Args:
        path: its file.
        cast: what is to stand on the stage: as saved, or with work that was not saved.
        saved: tells whether it differs from the file.
        recovered: when the work was done that came back; None where the file is all there is.
        aside: where work was put that belongs to an older state of the file.
        project: what it lies in.
        mark: the file as it was when it was read.
        problem: what is wrong with work that was written down and could not be read.
    """

    path: Path
    cast: KeptCast
    saved: str
    recovered: datetime.datetime | None = None
    aside: Path | None = None
    project: Project | None = None
    mark: Mark | None = None
    problem: FoxHandError | None = None


class Shots:
    """Knows which shot is open and what of it is not saved.

    Args:
        places: the user's folders.
        cast, selection, history: the workspace's.
        files: where files are written, one after the other.
        jobs: where pictures are read; None for the same.

    ``settled`` says what a figure does without what is only being tried.
    """

    changed = Signal()
    failed = Signal(FoxHandError)
    hand_changed = Signal()

    def __init__(
        self,
        places: Places,
        cast: Cast,
        selection: Selection,
        history: History,
        files: JobRunner,
        jobs: JobRunner | None = None,
    ) -> None:
        self._places, self._cast, self._selection = places, cast, selection
        self._history, self._files = history, files
        self._seats = Seats(places)
        self.key = self._seats.take(DESK)
        self.path: Path | None = None
        self.project: Project | None = None
        self.edited = False
        self.boards: list[KeptBoard] = []
        self.at_hand: list[str] = []
        self.backdrops = Backdrops(history, jobs or files)
        self.sleeping = False  # while a stage is being set nothing is written down
        self._saved = ""
        self._lock: ShotLock | None = None
        self.who = ""  # how the person signs
        self._book = LineBook()
        self.settled: Callable[[Figure], Animation] = _own_take
        self._turn = 0  # goes up with every shot that begins
        self._mark: Mark | None = None  # the file as it was opened or saved here
        self._written = ""  # by the last save; known to the next before the window hears of it
        self._looking = False
        self._not_written = ""  # why work could not be written down, as it was told
        self._on_its_way: dict[str, KeptCast] = {}  # what is being written down, by its place

    @property
    def name(self) -> str:
        """What it is called; empty on the workspace."""
        return self.path.stem if self.path is not None else ""

    # -- writing down ---------------------------------------------------------------------

    def document(self) -> KeptCast:
        """Everybody as they are in the shot now."""
        members: list[KeptMember] = []
        acting = self._cast.acting
        for member in self._cast:
            if isinstance(member, Absent):
                members.append(member.kept)
            elif not member.host:  # those of another program are kept there
                acts = member is acting
                rows = self._selection.rows if acts else self._cast.selected(member)
                members.append(kept_member(member, rows, self.settled(member), book=self._book))
        self._book.turn()
        prefix = acting.prefix if acting is not None else ""
        return KeptCast(
            VERSION,
            prefix,
            members,
            list(self.boards),
            kept_time(self._cast.timing),
            self._saved,
            list(self.at_hand),
            list(self.backdrops.kept),
        )

    def know(self, book: LineBook) -> None:
        """What was written down beside the window need not be written down here again."""
        self._book.learn(book)

    def hold(self, identities: Sequence[str]) -> None:
        """Lay cards on the number keys, those of this shot; an empty word leaves a key free."""
        held = list(identities)
        while held and not held[-1]:
            held.pop()
        self.at_hand = held
        self.hand_changed.emit()

    def write_down(self) -> None:
        """Keep everything in the user's own folder, beside the window; problems are told."""
        if self.sleeping:
            return
        if self._lock is not None:
            self._lock.renew()
        document, key, path, turn = self.document(), self.key, self.path, self._turn
        self._on_its_way[key] = document

        def work(progress: Progress) -> str:
            progress.report(0.0)
            write_cast(self._places, key, document)
            return content_id(document) if path is not None else ""

        def done(content: str) -> None:
            self._not_written = ""
            self._arrived(key, document)
            if path is not None and turn == self._turn:  # else another shot began meanwhile
                self._set_edited(content != self._saved)

        def failed(error: Exception) -> None:
            """It is tried again within a second, and told once until it works."""
            if not isinstance(error, FoxHandError) or error.happened != self._not_written:
                self._not_written = str(error)
                self._failed(error)

        self._files.run(work, done, failed)

    def _arrived(self, key: str, document: KeptCast) -> None:
        if self._on_its_way.get(key) is document:
            del self._on_its_way[key]

    def kept_at(self, key: str, told: Callable[[FoxHandError], None]) -> KeptCast | None:
        """Everybody of a stage as they were left there, also a moment ago; None where nobody
        was."""
        return self._on_its_way.get(key) or read_cast(self._places, key, told)

    def _failed(self, error: Exception) -> None:
        if not isinstance(error, FoxHandError):
            raise error
        self.failed.emit(error)

    def _set_edited(self, edited: bool) -> None:
        if edited != self.edited:
            self.edited = edited
            self.changed.emit()

    # -- saving ---------------------------------------------------------------------------

    def save(self, path: Path | None = None, then: Callable[[Path], None] | None = None) -> None:
        """Write the shot into its file, or into another, which is the shot's own from then on.

        Args:
            path: where; None for where it is.
            then: called with the path when it is on disk.
        """
        where = path or self.path
        if where is None:
            return
        where = where.absolute()
        project = self.project if where == self.path else project_of(where)
        document, turn, own = self.document(), self._turn, where == self.path
        known, who = self._saved, self._other()
        root = project.folder if project is not None else None

        def work(progress: Progress) -> tuple[str, Path | None, Mark | None]:
            progress.report(0.0)
            content = content_id(document)
            aside = set_aside(where, (known, self._written, content)) if own else None
            write_shot(where, document, root)
            self._written = content
            if project is not None and project.with_shot(where) is not project:
                write_project(project.with_shot(where))
            return content, aside, mark_of(where)

        def done(written: tuple[str, Path | None, Mark | None]) -> None:
            content, aside, mark = written
            if aside is not None:
                self.failed.emit(told_aside(where, aside, who))
            if turn == self._turn:  # else another shot began meanwhile, which this says nothing of
                self._mark = mark
                if where != self.path:
                    self._settle(where, content, project)
                self._saved = content
                self._set_edited(False)
                self.write_down()
            if then is not None:
                then(where)

        self._files.run(work, done, self._failed)

    def _other(self) -> str:
        """Who else has it open; empty where nobody is known."""
        holder = self._lock.holder() if self._lock is not None else None
        if holder is None:
            return ""
        return OWN_WINDOW if holder.this_account else holder.who

    def look_at_file(self) -> None:
        """Whether somebody else has saved the shot that is open; it is told once."""
        path, mark, known, turn = self.path, self._mark, self._saved, self._turn
        if path is None or self._looking or self.sleeping:
            return
        self._looking = True

        def work(progress: Progress) -> tuple[Mark | None, bool]:
            progress.report(0.0)
            now = mark_of(path)
            if now is None or now == mark:
                return now, False
            try:
                return now, content_of(path) != known
            except FoxHandError:
                return now, True

        def done(found: tuple[Mark | None, bool]) -> None:
            self._looking = False
            if turn == self._turn and path == self.path and mark == self._mark:
                self._mark = found[0] or self._mark
                if found[1]:
                    self.failed.emit(told_changed(path, self._other()))

        def failed(error: Exception) -> None:
            self._looking = False
            self._failed(error)

        self._files.run(work, done, failed)

    def _settle(self, path: Path, saved: str, project: Project | None) -> None:
        self.close()
        self.path, self._saved = path, saved
        self.key = self._seats.take(stage_key(path))
        self.project = project_of(path) if project is not None else None
        self._lock = ShotLock(path, self.who)
        self._lock.take()
        self.changed.emit()

    def seat_at(self, stage: str) -> str:
        """Where this window keeps, or would keep, unsaved work of a stage."""
        return self._seats.free(stage)

    def forsaken(self) -> int:
        """How many other windows left unsaved work of this stage behind."""
        return self._seats.forsaken(self.key.partition("~")[0])

    # -- opening --------------------------------------------------------------------------

    def begin(self, opening: Opening, who: str = "") -> Holder | None:
        """From now on this is the shot on the stage; somebody else who has it open is returned."""
        self._turn += 1
        self.close()
        self.path, self.key = opening.path, self._seats.take(stage_key(opening.path))
        self.project, self._saved = opening.project, opening.saved
        self.boards = list(opening.cast.boards)
        self.hold(opening.cast.at_hand)
        self.backdrops.show(opening.cast.backdrops)
        self.who = who
        self._lock = ShotLock(opening.path, who)
        holder = self._lock.take()
        self._mark = opening.mark
        self.edited = opening.recovered is not None
        self.changed.emit()
        return holder

    def leave(self, key: str = DESK) -> None:
        """No shot's file is open any more; what stands on the stage is kept under a word."""
        self._turn += 1
        self.close()
        self.path, self.project = None, None
        self._saved, self.edited = "", False
        self.key = self._seats.take(key)
        self.changed.emit()

    def forget(self, then: Callable[[Path], None]) -> None:
        """Put away what was not saved, after all that is being written; the file counts again."""
        path, key = self.path, self.key
        if path is None:
            return
        self.sleeping = True
        self._turn += 1

        def work(progress: Progress) -> Path:
            progress.report(0.0)
            forget_unsaved(self._places, key, path.stem)
            return path

        def failed(error: Exception) -> None:
            self.sleeping = False
            self._failed(error)

        self._files.run(work, then, failed)

    def close(self) -> None:
        """Nobody is warned of us any more; work that was not saved waits in the user's folder."""
        if self._lock is not None:
            self._lock.release()
            self._lock = None

    def _forget_seat(self, key: str) -> None:
        def work(progress: Progress) -> None:
            progress.report(0.0)
            cast_path(self._places, key).unlink(missing_ok=True)

        def left(_: object) -> None:
            """If it stays, somebody is told of it who need not be; nothing is lost."""

        self._files.run(work, left, left)

    def end(self) -> None:
        """The window closes: another may sit where this one sat."""
        self.close()
        if self.path is not None and not self.edited and "~" in self.key:
            self._forget_seat(self.key)  # all of it is saved
        self._seats.leave()


def _own_take(actor: Figure) -> Animation:
    return actor.take


def stage_key(path: Path) -> str:
    """The word under which unsaved work of a shot is kept."""
    text = str(path.absolute()).encode()
    return f"shot-{hashlib.sha1(text, usedforsecurity=False).hexdigest()[:16]}"


def open_shot(places: Places, path: Path, seat: str = "") -> Opening:
    """Read a shot, and work on it that was not saved.

    If the file has changed since that work began, the file counts; the work is put aside as a
    shot of its own, so that neither is lost.

    Args:
        places: the user's folders.
        path: the shot.
        seat: where unsaved work of it is kept, where that is not the first seat.

    Raises:
        FoxHandError: as :func:`read_shot`.
    """
    path = path.absolute()
    mark = mark_of(path)
    saved = read_shot(path)
    known, project = content_id(saved), project_of(path)
    key = seat or stage_key(path)
    problems: list[FoxHandError] = []
    kept = read_cast(places, key, problems.append)
    if kept is None or content_id(kept) == known:
        problem = problems[0] if problems else None
        return Opening(path, saved, known, project=project, mark=mark, problem=problem)
    stamp = written(cast_path(places, key))
    if kept.saved == known:
        return Opening(path, kept, known, recovered=stamp, project=project, mark=mark)
    aside = places.state / "kept" / f"{path.stem} ({stamp:%Y-%m-%d %H.%M.%S}).foxshot"
    aside.parent.mkdir(parents=True, exist_ok=True)
    write_shot(aside, kept)
    return Opening(path, saved, known, aside=aside, project=project, mark=mark)


def forget_unsaved(places: Places, key: str, name: str) -> None:
    """Work that was not saved is put away; the file counts again.

    Raises:
        FoxHandError: ``shot.not_dropped``.
    """
    kept = cast_path(places, key)
    try:
        if kept.is_file():
            kept.replace(kept.with_suffix(".dropped.json"))
    except OSError as error:
        raise FoxHandError(
            "shot.not_dropped",
            tr(
                "What was not saved of {name} could not be put away ({strerror}).",
                name=name,
                strerror=error.strerror,
            ),
            tr("Nothing was changed."),
        ) from error


def shot_of_now(document: KeptCast, cast: Cast, rate: float) -> KeptCast:
    """A new shot: the cast as it stands at this frame, without keys."""
    states = {actor.prefix: actor for actor in cast.actors}
    members = []
    for member in document.members:
        actor = states.get(member.prefix)
        if actor is None:
            members.append(member)
        else:
            members.append(kept_member(actor, (), Animation(actor.rig, actor.state)))
    return KeptCast(
        VERSION,
        document.acting,
        members,
        document.boards,
        KeptTime(rate=rate),
        at_hand=document.at_hand,
        backdrops=document.backdrops,
    )
