"""The workspace: the cast on the stage, the open libraries, and everything done with them."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from pathlib import Path

import numpy as np
from psygnal import Signal

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.places import Places
from fox_hand.core.model.state import State
from fox_hand.core.pose.pose import ChannelFilter, Pose, take
from fox_hand.core.rig.locks_limits import Lock
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera
from fox_hand.interchange.readers import read_rig
from fox_hand.library.format.entry import Entry
from fox_hand.library.store.store import login_name
from fox_hand.session.animating.clip_placement import ClipPlacements
from fox_hand.session.animating.frame_review import FrameReview
from fox_hand.session.animating.keying import Keying
from fox_hand.session.app.apply_controller import ApplyController
from fox_hand.session.app.card_updates import CardUpdates
from fox_hand.session.app.linked_stage import LinkedStage
from fox_hand.session.app.puppet_drawings import PuppetDrawings
from fox_hand.session.app.shot_settings import ShotSettings
from fox_hand.session.applying.mix import Mix
from fox_hand.session.applying.mix_commands import MixCommands
from fox_hand.session.capturing.capture_controller import CaptureController
from fox_hand.session.charts.chart_book import ChartBook
from fox_hand.session.charts.gap_filling import GapFilling
from fox_hand.session.figures.cast import Absent, Cast, Mark, Member
from fox_hand.session.figures.channels import at_rest
from fox_hand.session.figures.figure import ChangeStep, Edit, Figure
from fox_hand.session.figures.gathering import Arrival
from fox_hand.session.figures.kept_views import view_step
from fox_hand.session.figures.playhead import Playhead
from fox_hand.session.figures.selection import Selection
from fox_hand.session.figures.snapshot import KeptMember, wake
from fox_hand.session.libraries.card_commands import CardCommands
from fox_hand.session.libraries.file_jobs import FileJobs
from fox_hand.session.libraries.kept_searches import KeptSearches
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.sheet_commands import SheetCommands
from fox_hand.session.libraries.storing import Storing
from fox_hand.session.preferences.preferences import Preferences, mended
from fox_hand.session.runtime.history import History, Step
from fox_hand.session.runtime.jobs import JobRunner, Jobs
from fox_hand.session.runtime.long_work import LongWork
from fox_hand.session.runtime.ports import Post
from fox_hand.session.runtime.settings import read_settings, settings_file
from fox_hand.session.shots.backdrops import Backdrops
from fox_hand.session.shots.shots import Shots


class Workspace:
    """The application's state. Signals are emitted once per change."""

    actor_changed = Signal()
    mix_changed = Signal()
    left_loose = Signal(str)  # names of figures whose changes were not keyed
    failed = Signal(FoxHandError)
    stage_left = Signal()  # soon somebody else stands there; it is not written down any more

    def __init__(
        self,
        places: Places,
        jobs: JobRunner | None = None,
        files: JobRunner | None = None,
        post: Post | None = None,
    ) -> None:
        """
        Args:
            places: the user's folders.
            jobs: for long work; without, it is done at once.
            files: the same for changing card files, one after the other.
            post: brings what other programs say to the session's thread; without, it is at once.
        """
        self.places = places
        self.settings, self.settings_problem = read_settings(places)
        self._settings_file = settings_file(places)
        self._settings_file.known(self.settings)
        self.settings_problem = self.settings_problem or mended(self.settings)
        self.preferences = Preferences(self.settings, self.save_settings)
        self.history, self.selection, self.cast = History(), Selection(), Cast()
        at_once = Jobs(lambda run: run(), inline=True)
        self.shots = Shots(
            places, self.cast, self.selection, self.history, files or at_once, jobs or at_once
        )
        self.long_work = LongWork()
        self.open_libraries = OpenLibraries(places, jobs or at_once, self._who, self.long_work)
        self.file_jobs = FileJobs(
            self.open_libraries, self.history, files or at_once, self.long_work
        )
        self.storing = Storing(places, self.open_libraries, self.file_jobs, files or at_once)
        self.card_commands = CardCommands(self.open_libraries, self.file_jobs, self.history)
        self.sheet_commands = SheetCommands(self.open_libraries, self.file_jobs)
        self.charts = ChartBook(self.open_libraries, self.file_jobs, self.cast)
        self.kept_searches = KeptSearches(self.open_libraries, self.file_jobs, self.history)
        self.mix_commands = MixCommands(
            self.cast, self.selection, self.open_libraries, self.history, self.settings
        )
        self.shot_settings = ShotSettings(self.cast.timing, self.history)
        self.keying = Keying(self.cast, self.selection, self.history)
        self.placements = ClipPlacements(self.cast, self.history)
        self.puppet_drawings = PuppetDrawings(
            self.cast, self.history, self.exchange_rig, files or at_once
        )
        self.shots.settled = self.placements.settled
        self.review = FrameReview(self.cast, self.keying, self.keep_mix, self._leave_capture)
        self._build_controllers(jobs or at_once)
        brought: Post = post or (lambda run: run())
        self.linking = LinkedStage(
            self, places.state / "hosts", lambda: Jobs(brought, threads=1), brought
        )

    def _preferred(self, name: str) -> None:
        """A preference that the session itself follows is otherwise now."""
        if name.startswith("undo"):
            megabytes = self.preferences["undo_megabytes"]
            self.history.make_room(self.preferences["undo_steps"], megabytes << 20)
        elif name == "control_names":
            self._name_controls()
            self.actor_changed.emit()

    def _name_controls(self) -> None:
        for actor in self.cast.actors:
            actor.rig.naming.spoken = self.settings.control_names == "spoken"

    def _build_controllers(self, jobs: JobRunner) -> None:
        """What works on all that is there."""
        self.capturing = CaptureController(
            self.cast,
            self.selection,
            self.open_libraries,
            self.shots,
            self.settings,
            self.review,
            self.storing,
            self.card_commands,
            self.keep_mix,
        )
        self.gap_filling = GapFilling(
            self.charts,
            self.capturing,
            self.cast,
            self.selection,
            self.history,
            self.open_libraries,
            self.act,
        )
        self.applying = ApplyController(
            self.cast,
            self.open_libraries,
            self.shots,
            self.history,
            self.mix_commands,
            self.placements,
            jobs,
            lambda: self.capturing.draft is not None,
        )
        self.card_updates = CardUpdates(
            self.cast, self.keying, self.open_libraries, self.mix_commands.fits, jobs
        )
        for part in (
            *(
                self.puppet_drawings,
                self.shots,
                self.shots.backdrops,
                self.open_libraries,
                self.file_jobs,
            ),
            *(self.card_updates, self.applying, self.mix_commands),
        ):
            part.failed.connect(self.failed.emit)
        self.mix_commands.changed.connect(self.mix_changed.emit)
        self.preferences.changed.connect(self._preferred)
        self.cast.changed.connect(self._name_controls)
        self._preferred("undo_steps")

    # -- time -----------------------------------------------------------------------------

    @property
    def timing(self) -> Playhead:
        """Where in the shot we are."""
        return self.cast.timing

    def go(self, frame: float) -> bool:
        """Look at another frame. What is being put on is kept first; changes that nobody keyed
        stay behind, undo and redo bring them back."""
        if frame == self.timing.frame:
            return False
        self.mix_commands.keep()
        loose = [a.name for a in self.cast.actors if a.loose]
        moved = self.cast.go(frame)
        if moved and loose:
            self.left_loose.emit(", ".join(loose))
        return moved

    @property
    def backdrops(self) -> Backdrops:
        """The pictures behind everybody and in front."""
        return self.shots.backdrops

    # -- cast -----------------------------------------------------------------------------

    @property
    def actor(self) -> Figure | None:
        """The member of the cast that edits go to."""
        return self.cast.acting

    def open_rig(self, path: Path) -> Figure:
        """Put a character on the stage. Raises FoxHandError, and leaves the workspace as it was, if
        the file cannot be read."""
        return self.place(Figure(read_rig(path), path))

    def arrive(self, arrival: Arrival, *, acts: bool = True) -> None:
        """Put a character that was read in a job on the stage, where it stood, else beside the
        others; nobody comes where its file could not be read.

        Args:
            arrival: who was read.
            acts: false where one of those who come with it begins; see :meth:`begin_with`.
        """
        if arrival.actor is None:
            return
        if arrival.kept is None:
            self.place(arrival.actor, acts=acts)
        else:
            self.shots.know(arrival.book)
            self._join(arrival.actor, arrival.selected, acts)

    def place(self, actor: Figure, *, acts: bool = True) -> Figure:
        """Put a newcomer on the stage beside the others; it acts, or for ``acts`` false waits."""
        actor.stand_at(self.cast.free_ground(actor.rig))
        return self._join(actor, (), acts)

    def _join(self, actor: Figure, selected: tuple[int, ...], acts: bool) -> Figure:
        if acts:
            self._leave()
        actor.prefix = self.cast.free_prefix(actor.prefix)
        self.cast.add(actor, selected)
        if not actor.host:
            text, recent = str(actor.path.resolve()), self.settings.recent
            self.settings.recent = [text, *(p for p in recent if p != text)][:8]
        if acts:
            self._enter(actor)
        return actor

    def place_absent(self, kept: KeptMember, reason: FoxHandError | None = None) -> Absent:
        """Keep a place with its keys for one whose file is not there, or cannot be read: why."""
        member = Absent.of(kept, reason)
        self.cast.add(member)
        return member

    def bring_back(self, member: Absent, actor: Figure) -> None:
        """The file of an absent member was found: it stands as it stood."""
        if member not in list(self.cast):
            return  # it came back by another way meanwhile
        selected = wake(actor, member.kept)
        self.cast.replace(member, actor, selected)
        if self.actor is actor:
            self._enter(actor)
        self.save_figure()

    def keep_view(self, name: str, camera: Camera | None) -> None:
        """Keep a view of the acting figure under a name, or with None forget it."""
        actor = self.actor
        if actor is None:
            return
        step = view_step(actor, name, camera, self.save_figure)
        step.redo()
        self.history.push(step)

    def rename_member(self, actor: Figure, prefix: str) -> None:
        """Give a member another prefix; one undo step."""
        step = self.cast.renaming(actor, prefix, self.save_figure)
        if step is not None:
            step.redo()
            self.history.push(step)

    def act(self, actor: Figure) -> None:
        """Let another member of the cast act; somebody who has just left it does not."""
        if actor is not self.actor and actor in self.cast.actors:
            self._leave()
            self._enter(actor)

    def begin_with(self, actor: Figure) -> None:
        """Let one of those who were placed act first."""
        self._enter(actor)

    def take_off(self, member: Member) -> None:
        """Take a member off the stage; one undo step."""
        label = tr("Take {name} off the stage", name=member.name)
        forth, back = self._coming_and_going(member)
        back()
        self.history.push(ChangeStep(label, forth, back))

    def welcome(self, actor: Figure) -> Figure:
        """Put a newcomer on the stage; one undo step."""
        self.place(actor)
        forth, back = self._coming_and_going(actor)
        self.history.push(ChangeStep(tr("Put {name} on the stage", name=actor.name), back, forth))
        return actor

    def _coming_and_going(self, member: Member) -> tuple[Callable[[], None], Callable[[], None]]:
        """Putting a member in its place on the stage, and taking it off."""
        place = self.cast.index(member)

        def come() -> None:
            self._leave()
            self.cast.insert(place, member)
            if isinstance(member, Figure):
                self._enter(member)

        def go() -> None:
            self._leave()
            self.cast.remove(member)
            self._enter(self.cast.acting)

        return come, go

    def clear_stage(self) -> None:
        """Everybody goes, and with them what could be undone: another shot begins."""
        self.stage_left.emit()
        self.leave_stage()

    def leave_stage(self) -> None:
        """The same; a link stays."""
        self._leave()
        self.selection.set(())
        self.cast.clear()
        self.history.clear()
        self.actor_changed.emit()

    def exchange_rig(self, actor: Figure, rig: Rig, mark: Mark) -> frozenset[str]:
        """A rig file changed on disk and was read again: values follow by name. Returns the names
        of controls and settings that are gone."""
        self.keep_mix()
        self.mix_commands.look_away()
        self.capturing.cancel()
        names = [actor.rig.controls[r].name for r in self.selection.rows]
        gone = actor.exchange(rig)
        self._name_controls()
        self.cast.seen(actor, mark)
        if actor is self.actor:
            self.selection.set(rig.control_row[n] for n in names if n in rig.control_row)
            self.actor_changed.emit()
        self.cast.changed.emit()
        return gone

    def _leave(self) -> None:
        """Finish what is under way with the acting member."""
        self.review.close()
        self.keep_mix()
        self.capturing.cancel()
        if self.actor is not None:
            self.cast.remember_selected(self.actor, self.selection.rows)

    def _enter(self, actor: Figure | None) -> None:
        if actor is not None:
            self.cast.act(actor)
        self.mix_commands.look_away()
        self.selection.set(())
        self.actor_changed.emit()
        if actor is not None:
            self.selection.set(self.cast.selected(actor))
        self.save_figure()

    def save_figure(self) -> None:
        """Write down how everybody stands and what they do; problems are told, never raised."""
        self.shots.write_down()

    # -- figure ---------------------------------------------------------------------------

    def edit(self, label: str, *, free: bool = False) -> Edit:
        """Begin a change of the figure. A card being put on is kept first.

        Args:
            label: what the step is called.
            free: partners do not follow, and locks and limits do not hold (the figure stays).

        Raises:
            ValueError: if there is no figure.
        """
        if self.actor is None:
            raise ValueError("there is no figure to edit")
        self.keep_mix()
        symmetric = self.settings.symmetric and not free
        return Edit(self.actor, self.history, label, symmetric=symmetric, free=free)

    def apply(self, label: str, state: State) -> None:
        """One finished change of the figure as one undo step."""
        edit = self.edit(label)
        edit.preview(state)
        edit.commit()

    def set_locks(self, locks: frozenset[Lock], label: str) -> None:
        """Lock exactly these channels of the acting figure; one undo step."""
        actor = self.actor
        if actor is None or locks == actor.locks:
            return
        before = actor.locks
        actor.set_locks(locks)
        step = ChangeStep(label, lambda: actor.set_locks(before), lambda: actor.set_locks(locks))
        self.history.push(step)

    def reset(self, rows: Iterable[int] | None, label: str) -> None:
        """Put controls back to rest; None means all of them."""
        if self.actor is None:
            return
        rows = range(len(self.actor.rig.controls)) if rows is None else rows
        self.keep_mix()
        self.apply(label, at_rest(self.actor.rig, self.actor.state, rows))

    def undo(self) -> None:
        """Take back the card being put on, else the last step. Problems are told."""
        if self.mix is not None or self.placements.now is not None:
            self.put_back()
            return
        self._step(self.history.undo, self.history.undo_step)

    def redo(self) -> None:
        self.keep_mix()
        self._step(self.history.redo, self.history.redo_step)

    def _step(self, move: Callable[[], bool], step: Step | None) -> None:
        frame = getattr(step, "frame", None)
        if isinstance(frame, float):
            self.cast.go(frame)  # where the change is seen
        try:
            move()
        except FoxHandError as error:
            self.failed.emit(error)

    # -- putting on -----------------------------------------------------------------------

    @property
    def mix(self) -> Mix | None:
        """What is being put on."""
        return self.mix_commands.mix

    def keep_mix(self) -> None:
        """What is being put on or laid in becomes one undo step."""
        self.mix_commands.keep()
        self.placements.keep()

    def put_back(self) -> None:
        """What is being put on or laid in is taken off, bit for bit."""
        self.mix_commands.put_back()
        self.placements.put_back()

    def mix_for(self, actor: Figure) -> None:
        """Let another member of the cast act, and put on there what is being put on here."""
        carried = self.mix_commands.carried()
        self.act(actor)
        if carried is not None:
            self.applying.carry_on(carried)

    def _leave_capture(self) -> None:
        self.capturing.cancel()

    # -- poses and cards -----------------------------------------------------------------

    def _who(self) -> str:
        """Who signs changes: the name on new cards, else the one on this machine."""
        return self.settings.author or login_name()

    def figure_pose(self) -> Pose:
        """What is selected of the acting figure as it stands, else all that is away from rest.

        Raises:
            ValueError: if there is no figure.
        """
        actor = self.actor
        if actor is None:
            raise ValueError("there is no figure")
        rows = self.selection.rows or tuple(np.flatnonzero(actor.differs()).tolist())
        return take(actor.rig, actor.state, ChannelFilter.of(actor.rig, rows))

    def take_out(self, entries: Sequence[Entry]) -> None:
        """Move cards into their libraries' keeps; one undo step. Problems are told."""
        if self.mix is not None and self.mix.entry.path in [e.path for e in entries]:
            self.keep_mix()
        self.card_commands.take_out(entries)

    # -- memory ---------------------------------------------------------------------------

    def save_settings(self) -> None:
        """Problems are told, never raised."""
        try:
            self._settings_file.write(self.settings)
            self.open_libraries.personal.save()
        except FoxHandError as error:
            self.failed.emit(error)
