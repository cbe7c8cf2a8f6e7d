"""The stage while a host is linked: its figures stand there, time and selection go both ways."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

from psygnal import Signal, SignalInstance

from fox_hand.base.language import tr
from fox_hand.core.model.controls import Region
from fox_hand.interchange.link.messages import TimeSaid
from fox_hand.library.format.entry import Entry
from fox_hand.session.app.apply_controller import ApplyController
from fox_hand.session.app.stage_needs import Mixing, OnStage
from fox_hand.session.figures.cast import Member
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.snapshot import KeptMember
from fox_hand.session.figures.snapshot_keys import KeptTime, wake_time
from fox_hand.session.link.host_link import HostLink, LinkState
from fox_hand.session.link.linked_figure import LinkedFigure
from fox_hand.session.runtime.history import History
from fox_hand.session.runtime.jobs import JobRunner
from fox_hand.session.runtime.ports import Post
from fox_hand.session.shots.shots import Shots

STAGE = "linked"  # under which those are kept who stand beside the host's figures


@dataclass(frozen=True)
class ComingKey:
    """What a key that is about to be set is called, on how many controls of each part of the body,
    of which card."""

    title: str
    regions: Mapping[Region, int]
    entry: Entry


class OwnStage(OnStage, Mixing, Protocol):
    """What of the workspace a link works on."""

    @property
    def stage_left(self) -> SignalInstance: ...
    @property
    def history(self) -> History: ...
    @property
    def shots(self) -> Shots: ...
    @property
    def applying(self) -> ApplyController: ...
    def save_figure(self) -> None: ...
    def leave_stage(self) -> None: ...
    def act(self, actor: Figure) -> None: ...
    def begin_with(self, actor: Figure) -> None: ...
    def place(self, actor: Figure, *, acts: bool = True) -> Figure: ...


class LinkedStage:
    """At most one host at a time.

    Args:
        workspace: whose stage it is.
        folder: where descriptions of rigs of hosts are written down.
        runner: makes what runs one thing after the other, for each host a new one.
        post: brings what a host tells to the session's thread.
    """

    changed = Signal()  # another state of the link, or other choices
    keys_changed = Signal()  # of a figure of the host
    set_up = Signal(HostLink)  # the host's figures stand there
    left = Signal(HostLink)
    told = Signal(str)
    shown_there = Signal()  # something is seen in the host that was not
    coming_changed = Signal()

    def __init__(
        self, workspace: OwnStage, folder: Path, runner: Callable[[], JobRunner], post: Post
    ) -> None:
        self._workspace, self._runner, self._post = workspace, runner, post
        self._folder = folder
        self.guests: list[KeptMember] = []  # who stood beside the host's figures last time
        self.link: HostLink | None = None
        self._jobs: JobRunner | None = None
        self._stands = self._following = False
        self._selected: tuple[str, list[str]] = ("", [])
        workspace.stage_left.connect(self.end)
        workspace.cast.timing.moved.connect(self._moved_here)
        workspace.selection.changed.connect(self._selected_here)
        workspace.actor_changed.connect(self._on_actor)
        workspace.mix_changed.connect(self._on_mix)

    # -- beginning and end ------------------------------------------------------------------

    def open(self, path: Path) -> None:
        """Link to a host; its figures come onto a stage of their own when they have been read."""
        self._hang_up()
        self._jobs = self._runner()
        link = HostLink(path, self._jobs, self._post, self._workspace.history, self._folder)
        self.link, self._stands = link, False
        link.changed.connect(self._changed)
        link.figures_changed.connect(self._on_figures)
        link.told.connect(self._tell)
        link.moved.connect(self._moved_there)
        link.selected.connect(self._selected_there)
        link.open()
        self.changed.emit()

    def end(self) -> None:
        """Another stage begins, or the window closes: what is being put on is put back first."""
        if self._stands:
            self._workspace.put_back()
        self._hang_up()

    def _hang_up(self) -> None:
        link, jobs = self.link, self._jobs
        self.link = self._jobs = None
        if link is not None:
            stood, self._stands = self._stands, False
            if any(one.waiting for one in link.linked):
                self.told.emit(tr("What waited for {name} is not kept there.", name=link.name))
            link.close()
            if jobs is not None:
                jobs.finish()
            self.changed.emit()
            if stood:
                self.left.emit(link)

    def tick(self) -> None:
        """To be called about once a second."""
        if self.link is not None and (self._stands or self.link.state is LinkState.LOST):
            self.link.tick()
            self.changed.emit()

    def _tell(self, sentence: str) -> None:
        self.told.emit(sentence)

    def _changed(self) -> None:
        link, frame = self.link, self._workspace.cast.timing.frame
        if link is not None and link.state is LinkState.CLOSED:
            self._hang_up()
        elif link is not None and link.ready and link.settled and link.frame not in (None, frame):
            self._moved_there()  # we went elsewhere while nothing went there
        self.changed.emit()

    # -- figures ------------------------------------------------------------------------------

    @property
    def stands(self) -> bool:
        """Whether the stage is a host's."""
        return self._stands

    def of(self, member: Member | None) -> LinkedFigure | None:
        """What follows a member of the cast; None where it is ours."""
        return self.link.linked_to(member) if self.link is not None else None

    @property
    def acting(self) -> LinkedFigure | None:
        """What follows the one who acts."""
        return self.of(self._workspace.actor)

    def _on_figures(self) -> None:
        link, workspace = self.link, self._workspace
        if link is None:
            return
        for one in link.linked:
            one.keyed = workspace.settings.key_cards is not False
            one.keys_changed.connect(self._keys_seen, unique=True)
            one.shown.connect(self._seen, unique=True)
        if not self._stands:
            self._set_stage(link)
            return
        there = {m.path: m for m in workspace.cast if isinstance(m, Figure) and m.host}
        for figure in link.figures:
            old = there.pop(figure.path, None)
            if old is None:
                workspace.place(figure, acts=False)
            elif old is not figure:
                self._exchange(old, figure)
        for figure in there.values():
            self._take_away(figure)

    def _take_away(self, figure: Figure) -> None:
        """A rig is gone there: no step of ours brings it back."""
        workspace = self._workspace
        others = [actor for actor in workspace.cast.actors if actor is not figure]
        if workspace.actor is figure:
            workspace.put_back()
            if others:
                workspace.act(others[0])
        workspace.cast.remove(figure)
        if not others:
            workspace.leave_stage()

    def _exchange(self, old: Figure, new: Figure) -> None:
        """A rig was read again there."""
        workspace = self._workspace
        new.stand_at(old.ground)
        acts = workspace.actor is old
        if acts:
            workspace.put_back()
        workspace.cast.replace(old, new)
        if acts:
            workspace.begin_with(new)

    def _set_stage(self, link: HostLink) -> None:
        """The stage becomes the host's. What stood on the one before is written down."""
        workspace = self._workspace
        if not link.linked:
            self.told.emit(tr("{name} has no rig that can be linked.", name=link.name))
            self._hang_up()
            return
        workspace.save_figure()
        workspace.leave_stage()
        self._furnish()
        self._stands = True
        self._take_time(link.time)
        for figure in link.figures:
            workspace.place(figure, acts=False)
        workspace.begin_with(link.figures[0])
        workspace.history.clear()
        self.set_up.emit(link)
        self.changed.emit()

    def _furnish(self) -> None:
        """What lies on a linked stage beside the host's figures comes back."""
        shots, timing = self._workspace.shots, self._workspace.cast.timing
        kept = shots.kept_at(shots.seat_at(STAGE), lambda error: self.told.emit(error.sentence()))
        self.guests = kept.members if kept is not None else []
        shots.leave(STAGE)
        shots.sleeping = bool(self.guests)  # until they stand there again
        shots.boards = list(kept.boards) if kept is not None else []
        shots.hold(kept.at_hand if kept is not None else [])
        shots.backdrops.show(list(kept.backdrops) if kept is not None else [])
        wake_time(timing, KeptTime())

    # -- time ---------------------------------------------------------------------------------

    def _take_time(self, said: TimeSaid | None) -> None:
        timing = self._workspace.cast.timing
        if said is not None:
            timing.set_range(round(said.first), round(said.last))
            timing.set_rate(said.rate)
            self._workspace.cast.go(said.frame)

    def _moved_here(self) -> None:
        link, frame = self.link, self._workspace.cast.timing.frame
        if link is None or not self._stands or self._following:
            return
        if link.heading != frame:
            link.go(frame)

    def _moved_there(self) -> None:
        """What is being put on goes along: it is put back at the frame it was on, and put on
        again at the other."""
        link, workspace = self.link, self._workspace
        if link is None or not self._stands or link.time is None:
            return
        on = workspace.mix_commands.carried() if workspace.mix is not None else None
        self._following = True
        try:
            self._take_time(link.time)
        finally:
            self._following = False
        for one in link.linked:
            one.moved_in_time()
        if on is not None:
            workspace.applying.carry_on(on)

    # -- selection ----------------------------------------------------------------------------

    def _selected_here(self) -> None:
        linked, link = self.acting, self.link
        if linked is None or link is None or not self._stands:
            return
        controls = linked.figure.rig.controls
        now = linked.rig, [controls[row].name for row in self._workspace.selection.rows]
        if now != self._selected:
            self._selected = now
            link.soon(lambda: self._tell_selection(link, now))

    def _tell_selection(self, link: HostLink, selected: tuple[str, list[str]]) -> None:
        if selected is self._selected:  # of many in a row the last
            link.select(*selected)

    def _selected_there(self, rig: str, controls: list[str]) -> None:
        link, workspace = self.link, self._workspace
        linked = next((x for x in link.linked if x.rig == rig), None) if link is not None else None
        if linked is None or linked.figure not in workspace.cast.actors:
            return
        names = [name for name in controls if name in linked.figure.rig.control_row]
        if (rig, names) == self._selected:
            return
        if workspace.actor is not linked.figure:
            if workspace.mix is not None or not names:
                return  # whoever pulls a card here is not taken away from it
            workspace.act(linked.figure)
        self._selected = rig, names
        rows = linked.figure.rig.control_row
        workspace.selection.set(rows[name] for name in names)

    def _on_actor(self) -> None:
        self.changed.emit()

    def _keys_seen(self) -> None:
        self.keys_changed.emit()

    def _seen(self) -> None:
        self.shown_there.emit()

    # -- what goes there ----------------------------------------------------------------------

    @property
    def keyed(self) -> bool:
        """Whether what is being put on, or is to be, sets keys there."""
        workspace = self._workspace
        return workspace.mix.keyed if workspace.mix else workspace.mix_commands.sets_keys

    @property
    def coming(self) -> ComingKey | None:
        """The key that would be set if what is put on were kept now."""
        mix, linked = self._workspace.mix, self.acting
        if mix is None or linked is None or not mix.keyed:
            return None
        regions = Counter(mix.actor.rig.controls[row].region for row in mix.rows)
        alone = len(mix.cards) == 1
        title = f"{mix.title} {mix.amount * 100:.0f} %" if alone else mix.title
        return ComingKey(title, regions, mix.entry)

    def _on_mix(self) -> None:
        mix = self._workspace.mix
        if mix is not None:
            mix.changed.connect(self._coming, unique=True)
        self.changed.emit()
        self._coming()

    def _coming(self) -> None:
        self.coming_changed.emit()

    # -- choices ------------------------------------------------------------------------------

    def set_keyed(self, on: bool) -> None:
        """Whether what is kept sets keys there."""
        self._workspace.mix_commands.set_keyed(on)
        for one in self.link.linked if self.link is not None else ():
            one.keyed = on
        self.changed.emit()

    def set_layer(self, name: str) -> None:
        """On which layer of the one who acts keys go; empty for the host's usual one."""
        linked = self.acting
        if linked is not None:
            linked.layer = name
            self.changed.emit()
