"""A host that is linked: its figures on our stage, and what becomes of the link."""

from __future__ import annotations

import datetime
from collections.abc import Callable
from enum import StrEnum
from pathlib import Path
from typing import Any

from psygnal import Signal

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.interchange.link.connection import Connection, HostFacts, LinkError
from fox_hand.session.figures.figure import Figure
from fox_hand.session.link.linked_figure import LinkedFigure
from fox_hand.session.runtime.history import History
from fox_hand.session.runtime.jobs import JobRunner
from fox_hand.session.runtime.ports import Post

SLOW_FOR = 3  # previews in a row that a host calls slow
Done = Callable[[dict[str, Any]], None]
Failed = Callable[[LinkError], None]


class LinkState(StrEnum):
    """What is known of a link."""

    OPENING = "opening"
    LIVE = "live"
    SLOW = "slow"
    WATCHING = "watching"  # another window leads
    LOST = "lost"
    CLOSED = "closed"


class HostLink:
    """One host. All signals come on the session's thread.

    Args:
        path: its socket.
        jobs: runs one thing after the other, beside the session.
        post: brings what the host tells to the session's thread.
        history: whose steps are kept there, too.
    """

    changed = Signal()  # the state
    figures_changed = Signal()  # figures came or went
    told = Signal(str)  # a sentence

    def __init__(self, path: Path, jobs: JobRunner, post: Post, history: History) -> None:
        self.path, self._jobs, self._post, self._history = path, jobs, post, history
        self.state = LinkState.OPENING
        self.host: HostFacts | None = None
        self.linked: list[LinkedFigure] = []
        self.last_seen: datetime.datetime | None = None
        self._connection: Connection | None = None
        self._slow, self._opening = 0, False

    @property
    def ready(self) -> bool:
        """Whether values may go there."""
        return self.state in (LinkState.LIVE, LinkState.SLOW)

    @property
    def figures(self) -> tuple[Figure, ...]:
        return tuple(one.figure for one in self.linked)

    def open(self) -> None:
        """Link to the host, or to the same again after it was lost; once at a time, or the second
        would only watch the first."""
        if self._opening:
            return
        self._opening = True

        def work(_: Progress) -> tuple[Connection, list[dict[str, Any]]]:
            connection = Connection(self.path, self._heard, self._gone)
            try:
                return connection, [self._read(connection, r) for r in _rigs(connection)]
            except (LinkError, KeyError, TypeError):
                connection.close()
                raise

        self._jobs.run(work, self._opened, self._not_opened)

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

    def ask(self, method: str, params: dict[str, Any], done: Done, failed: Failed) -> None:
        """Ask the host, one thing after the other."""
        connection = self._connection
        if connection is None:
            return

        def not_done(error: Exception) -> None:
            if not isinstance(error, LinkError):
                raise error
            failed(error)

        self._jobs.run(lambda _: connection.ask(method, params), done, not_done)

    def soon(self, run: Callable[[], None]) -> None:
        """Do something on the session's thread, after what is done there now."""
        self._post(run)

    def note_speed(self, answer: dict[str, Any]) -> None:
        """What a preview said of how quick the host is."""
        self._slow = self._slow + 1 if answer.get("slow") else 0
        if self.ready:
            self._enter(LinkState.SLOW if self._slow >= SLOW_FOR else LinkState.LIVE)

    # -- inner ------------------------------------------------------------------------------

    @staticmethod
    def _read(connection: Connection, facts: dict[str, Any]) -> dict[str, Any]:
        asked = {"rig": facts["id"]}
        return {
            **facts,
            "description": connection.ask("describe", asked)["rig"],
            **connection.ask("values", asked),
        }

    def _opened(self, found: tuple[Connection, list[dict[str, Any]]]) -> None:
        self._opening = False
        connection, rigs = found
        if self.state is LinkState.CLOSED:
            connection.close()
            return
        self._connection, self.host = connection, connection.host
        known = {one.rig: one for one in self.linked}
        for facts in rigs:
            if facts["id"] in known:
                known[facts["id"]].look()
                continue
            try:
                self.linked.append(self._made(facts))
            except (FoxHandError, KeyError, TypeError, ValueError) as error:
                why = error.happened if isinstance(error, FoxHandError) else str(error)
                name = facts.get("name", "")
                self.told.emit(tr("{name} cannot be linked: {why}", name=name, why=why))
        self._enter(LinkState.LIVE if connection.host.leads else LinkState.WATCHING)
        self.figures_changed.emit()

    def _made(self, facts: dict[str, Any]) -> LinkedFigure:
        made = LinkedFigure(
            self,
            str(facts["id"]),
            str(facts.get("prefix", "")),
            facts["description"],
            facts["values"],
            int(facts["revision"]),
            self._history,
        )
        made.told.connect(self._tell)
        return made

    def _tell(self, sentence: str) -> None:
        self.told.emit(sentence)

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
        elif method == "scene":
            for one in self.linked:
                one.look()
        elif method == "role" and params.get("role") == "leads":
            self._enter(LinkState.LIVE)

    def _gone(self) -> None:
        self._post(self._lose)

    def _lose(self) -> None:
        if self.state is not LinkState.CLOSED:
            self.last_seen = datetime.datetime.now().astimezone()
            self._connection = None
            self._enter(LinkState.LOST)


def _rigs(connection: Connection) -> list[dict[str, Any]]:
    return list(connection.ask("rigs")["rigs"])
