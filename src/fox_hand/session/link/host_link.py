"""A host that is linked: its figures, its time, and what becomes of the link."""

from __future__ import annotations

import datetime
import time
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import StrEnum
from pathlib import Path
from typing import Any

import msgspec
from psygnal import Signal

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.interchange.described import shown_rig
from fox_hand.interchange.link import hosts
from fox_hand.interchange.link.connection import Connection, HostFacts, LinkError
from fox_hand.interchange.link.messages import CurveSaid, LayerSaid, TimeSaid, ValuesSaid
from fox_hand.session.figures.figure import Figure
from fox_hand.session.link.kept_rigs import keep_description
from fox_hand.session.link.linked_figure import LinkedFigure
from fox_hand.session.link.steps_there import RigFacts
from fox_hand.session.runtime.history import History
from fox_hand.session.runtime.jobs import JobRunner
from fox_hand.session.runtime.ports import Post

NO_SENSE = -1  # a number of ours for answers that make none
SLOW_FOR = 3  # previews in a row that a host calls slow, or that came late
ODD = (KeyError, TypeError, ValueError, msgspec.ValidationError)  # of what a host may say
LATE = 1 / 12  # seconds; previews that come later do not look like moving
MEASURED = 1.0  # seconds over which previews are counted
Done = Callable[[dict[str, Any]], None]
Failed = Callable[[LinkError], None]


class LinkState(StrEnum):
    """What is known of a link."""

    OPENING = "opening"
    LIVE = "live"
    SLOW = "slow"
    WATCHING = "watching"  # another window leads
    PAUSED = "paused"  # nothing goes there for now
    LOST = "lost"
    CLOSED = "closed"


def listening_hosts() -> list[Path]:
    """Sockets of this person's programs that can be linked to, those that were started last
    first."""
    return hosts()


@dataclass(frozen=True)
class _Everything:
    """What a host said when it was asked for everything."""

    connection: Connection
    rigs: tuple[RigFacts, ...]
    wrong: tuple[tuple[str, str], ...]
    names: dict[str, str]
    time: TimeSaid | None


class HostLink:
    """One host. All signals come on the session's thread.

    Args:
        path: its socket.
        jobs: runs one thing after the other, beside the session.
        post: brings what the host tells to the session's thread.
        history: whose steps are kept there, too.
        folder: where descriptions of its rigs are written down.
    """

    changed = Signal()  # the state
    figures_changed = Signal()  # figures came or went
    told = Signal(str)  # a sentence
    moved = Signal()  # another frame, range or rate there
    selected = Signal(str, list)  # the host's id of a rig, names of controls

    def __init__(
        self, path: Path, jobs: JobRunner, post: Post, history: History, folder: Path
    ) -> None:
        self.path, self._jobs, self._post, self._history = path, jobs, post, history
        self._folder = folder
        self.state = LinkState.OPENING
        self.host: HostFacts | None = None
        self.linked: list[LinkedFigure] = []
        self.last_seen: datetime.datetime | None = None
        self.time: TimeSaid | None = None
        self._going: float | None = None  # on the way to this frame
        self._next_frame: float | None = None  # and then to this one
        self._connection: Connection | None = None
        self._known: dict[str, RigFacts] = {}  # by the host's ids
        self._slow, self._opening = 0, False
        self._previews: deque[tuple[float, float]] = deque()  # when they were there, how late

    @property
    def name(self) -> str:
        """The host's."""
        return self.host.name if self.host is not None else ""

    @property
    def can(self) -> frozenset[str]:
        """What it can do beyond the least."""
        return self.host.can if self.host is not None else frozenset()

    @property
    def ready(self) -> bool:
        """Whether values may go there."""
        return self.state in (LinkState.LIVE, LinkState.SLOW)

    @property
    def watches(self) -> bool:
        """Whether another window leads, and nothing may go there."""
        return self.state is LinkState.WATCHING

    @property
    def frame(self) -> float | None:
        """The host's frame in sight; None where it does not say."""
        return self.time.frame if self.time is not None else None

    @property
    def settled(self) -> bool:
        """Whether the host has answered where it is, and is not asked to go elsewhere."""
        return self._going is None

    @property
    def heading(self) -> float | None:
        """The frame that was asked for last, else the host's."""
        asked = self._next_frame if self._next_frame is not None else self._going
        return asked if asked is not None else self.frame

    @property
    def there(self) -> bool:
        """Whether it can be asked anything."""
        return self._connection is not None

    @property
    def figures(self) -> tuple[Figure, ...]:
        return tuple(one.figure for one in self.linked)

    @property
    def speed(self) -> tuple[int, float]:
        """Previews in the last second, and how many seconds late the last of them was."""
        since = time.monotonic() - MEASURED
        while self._previews and self._previews[0][0] < since:
            self._previews.popleft()
        return len(self._previews), self._previews[-1][1] if self._previews else 0.0

    def linked_to(self, figure: object) -> LinkedFigure | None:
        """What follows a figure; None for one that is not of this host."""
        return next((one for one in self.linked if one.figure is figure), None)

    def open(self) -> None:
        """Link to the host, or to the same again after it was lost; once at a time, or the second
        would only watch the first."""
        if self._opening:
            return
        self._opening = True
        lost = self.state is LinkState.LOST

        def work(_: Progress) -> _Everything:
            path = _again_at(self.path) if lost else self.path
            connection = Connection(path, self._heard, self._gone)
            try:
                return self._everything(connection)
            except (LinkError, *ODD):
                connection.close()
                raise

        self._jobs.run(work, self._opened, self._not_opened)

    def look_again(self) -> None:
        """Ask for everything anew: rigs came, went or have other controls."""
        connection = self._connection
        if connection is not None:
            self._jobs.run(lambda _: self._everything(connection), self._opened, self._not_looked)

    def pause(self, on: bool) -> None:
        """Let nothing go to the host for now, or go on."""
        if on and self.ready:
            for one in self.linked:
                one.hide()
            self._enter(LinkState.PAUSED)
        elif not on and self.state is LinkState.PAUSED:
            self._enter(LinkState.LIVE)
            for one in self.linked:
                one.linked_again()

    def close(self) -> None:
        """Hang up; what is shown there is put back."""
        for one in self.linked:
            one.leave()
        self._enter(LinkState.CLOSED)
        connection, self._connection = self._connection, None
        if connection is not None:
            self._jobs.run(lambda _: connection.close(), lambda _: None, lambda _: None)

    def tick(self) -> None:
        """To be called about once a second: says that we are there, and looks for a host that was
        lost."""
        if self.state is LinkState.LOST:
            self.open()
        elif self.ready:
            self.ask("still", {}, lambda _: None, lambda _: None)

    def go(self, frame: float) -> None:
        """Look at another frame there, and see how everybody stands in it. While it is on its way
        to one, of several others that are asked for only the last counts."""
        if self.ready and "time" in self.can:
            self._next_frame = frame
            if self.settled:
                self._go_on()

    def _go_on(self) -> None:
        self._going, self._next_frame = self._next_frame, None
        if self._going is None:
            return
        self.ask("go", {"frame": self._going}, self._went, self._did_not_go)
        for one in self.linked:
            one.moved_in_time()

    def _went(self, answer: dict[str, Any]) -> None:
        asked, self._going = self._going, None
        said = _time_of(answer)
        self.time = said or self.time
        if self._next_frame is not None:
            self._go_on()
        elif self.frame != asked:
            self.moved.emit()  # it has a range of its own

    def _did_not_go(self, error: LinkError) -> None:
        self._going = None
        self._say(error)
        self._go_on()

    def select(self, rig: str, controls: list[str]) -> None:
        """Select controls there."""
        if self.ready and "select" in self.can:
            more = {"rig": rig, "controls": controls}
            self.ask("select", more, lambda _: None, lambda _: None)

    def ask(self, method: str, params: dict[str, Any], done: Done, failed: Failed) -> None:
        """Ask the host, one thing after the other."""
        connection = self._connection
        if connection is None:
            return

        def not_done(error: Exception) -> None:
            if not isinstance(error, LinkError):
                raise error
            failed(error)

        began = time.monotonic()

        def work(_: Progress) -> Any:
            answer = connection.ask(method, params)
            if not isinstance(answer, dict):
                raise LinkError(tr("The host speaks in a way that is not understood."), NO_SENSE)
            if method == "show" and not answer.get("skipped"):
                now = time.monotonic()
                self._previews.append((now, now - began))
            return answer

        self._jobs.run(work, done, not_done)

    def soon(self, run: Callable[[], None]) -> None:
        """Do something on the session's thread, after what is done there now."""
        self._post(run)

    def note_speed(self, answer: dict[str, Any]) -> None:
        """What a preview said of how quick the host is."""
        late = answer.get("slow") or self.speed[1] > LATE
        self._slow = self._slow + 1 if late else 0
        if self.ready:
            self._enter(LinkState.SLOW if self._slow >= SLOW_FOR else LinkState.LIVE)

    # -- inner ------------------------------------------------------------------------------

    def _everything(self, connection: Connection) -> _Everything:
        """On the thread of the jobs."""
        can, rigs = connection.host.can, list(connection.ask("rigs")["rigs"])
        names = {str(facts["id"]): str(facts.get("name", "")) for facts in rigs}
        said, wrong = list[RigFacts](), list[tuple[str, str]]()
        for facts in rigs:
            try:
                said.append(self._read(connection, facts))
            except LinkError:
                raise
            except (FoxHandError, *ODD) as error:
                why = error.happened if isinstance(error, FoxHandError) else str(error)
                wrong.append((names[str(facts["id"])], why))
        now = msgspec.convert(connection.ask("time"), TimeSaid) if "time" in can else None
        return _Everything(connection, tuple(said), tuple(wrong), names, now)

    def _read(self, connection: Connection, facts: dict[str, Any]) -> RigFacts:
        asked, can = {"rig": str(facts["id"])}, connection.host.can
        described = connection.ask("describe", asked)["rig"]
        values = msgspec.convert(connection.ask("values", asked), ValuesSaid)
        curves, layers = [], []
        if "keys" in can:
            found = connection.ask("keys", {**asked, "layer": None})["curves"]
            curves = msgspec.convert(found, list[CurveSaid])
        if "layers" in can:
            layers = msgspec.convert(connection.ask("layers", asked)["layers"], list[LayerSaid])
        known = self._known.get(asked["rig"])
        if known is not None and known.description == described:  # its mesh is not read again
            return replace(
                known,
                values=values.values,
                revision=values.revision,
                curves=tuple(curves),
                layers=tuple(layers),
            )
        prefix = str(facts.get("prefix", ""))
        word = prefix or str(facts.get("name", "")) or asked["rig"]
        told = (word, asked["rig"])
        path, sidecar = keep_description(self._folder, connection.host.name, told, described)
        made = shown_rig(sidecar, prefix.rstrip(":|") or word, path)
        _ = made.rest_bounds  # measured here, not in the window
        return RigFacts(
            asked["rig"],
            prefix,
            described,
            sidecar,
            made,
            path,
            values.values,
            values.revision,
            tuple(curves),
            tuple(layers),
        )

    def _opened(self, found: _Everything) -> None:
        again, self._opening = self._connection is not None, False
        connection = found.connection
        if self.state is LinkState.CLOSED:
            connection.close()
            return
        self._connection, self.host, self.path = connection, connection.host, connection.path
        self._known = {facts.rig: facts for facts in found.rigs}
        gone = [one for one in self.linked if one.rig not in found.names]
        for one in gone:
            one.leave()
        known = {one.rig: one for one in self.linked if one not in gone}
        self.linked = []
        for facts in found.rigs:
            old = known.get(facts.rig)
            if old is not None and old.described == facts.description:
                old.layers = facts.layers
                old.linked_again()
                self.linked.append(old)
                continue
            if old is not None:
                old.leave()
            self.linked.append(self._made(facts))
        for name, why in found.wrong:
            self.told.emit(tr("{name} cannot be linked: {why}", name=name, why=why))
        if not again:
            self._enter(LinkState.LIVE if connection.host.leads else LinkState.WATCHING)
        self.figures_changed.emit()
        if found.time is not None and found.time != self.time:
            self.time = found.time
            self.moved.emit()

    def _made(self, facts: RigFacts) -> LinkedFigure:
        made = LinkedFigure(self, facts, self._history)
        made.told.connect(self._tell)
        return made

    def _tell(self, sentence: str) -> None:
        self.told.emit(sentence)

    def _say(self, error: LinkError) -> None:
        if error.number:
            self.told.emit(error.sentence())

    def _not_looked(self, error: Exception) -> None:
        if not isinstance(error, LinkError) or error.number:
            self.told.emit(tr("The host speaks in a way that is not understood."))

    def _took_time(self, answer: dict[str, Any]) -> None:
        """Where somebody went there; where it is going because we asked counts more."""
        said = _time_of(answer)
        if said is not None and said != self.time and self.settled:
            self.time = said
            self.moved.emit()

    def _not_opened(self, error: Exception) -> None:
        self._opening = False
        if self.state is LinkState.LOST:
            return  # it is tried again
        self._enter(LinkState.CLOSED)
        if isinstance(error, LinkError):
            self.told.emit(error.sentence())
        else:
            self.told.emit(tr("The host speaks in a way that is not understood."))

    def _enter(self, state: LinkState) -> None:
        if state is not self.state:
            self.state = state
            self.changed.emit()

    def _heard(self, method: str, params: dict[str, Any]) -> None:
        self._post(lambda: self._take(method, params))

    def _take(self, method: str, params: dict[str, Any]) -> None:
        """What the host tells."""
        if method == "values":
            for one in self.linked:
                if one.rig == params.get("rig"):
                    one.heard(int(params.get("revision", 0)))
        elif method in ("scene", "rigs"):
            self.look_again()
        elif method == "time":
            self._took_time(params)
        elif method == "selection":
            controls = params.get("controls")
            names = [str(name) for name in controls] if isinstance(controls, list) else []
            self.selected.emit(str(params.get("rig")), names)
        elif method == "role" and params.get("role") == "leads":
            self._enter(LinkState.LIVE)

    def _gone(self) -> None:
        self._post(self._lose)

    def _lose(self) -> None:
        if self.state is not LinkState.CLOSED:
            self.last_seen = datetime.datetime.now().astimezone()
            self._connection = None
            self._going = self._next_frame = None
            self._enter(LinkState.LOST)


def _time_of(answer: dict[str, Any]) -> TimeSaid | None:
    """What a host says of its time; None where it makes no sense."""
    try:
        return msgspec.convert(answer, TimeSaid)
    except msgspec.ValidationError:
        return None


def _again_at(path: Path) -> Path:
    """Where a host that was lost may listen now: a program that was started again has another
    number behind its name."""
    found, name = hosts(), path.stem.rpartition("-")[0]
    same = [one for one in found if one.stem.rpartition("-")[0] == name]
    return same[0] if same and path not in found else path
