"""Linking to a program that animates, and going back to what was there before."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QMenu, QWidget

from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.figures.gathering import Arrival, gather
from fox_hand.session.figures.snapshot import KeptMember
from fox_hand.session.link.host_link import HostLink, listening_hosts
from fox_hand.ui.exchange.opening import Opener
from fox_hand.ui.exchange.shot_opening import ShotOpener
from fox_hand.ui.services.services import Services
from fox_hand.ui.theme.plain_text import menu_word
from fox_hand.ui.widgets.notice import Notice
from fox_hand.ui.widgets.passing_menu import passing_menu

TICK = 1000  # milliseconds
LOOK, LOOKS = 500, 60  # milliseconds between two looks for a host that was started, and how many


class LinkOpener(QObject):
    """Finds hosts, links to one, hangs up.

    Args:
        window: parent of menus.
        workspace: whose stage becomes the host's.
        services: starts the simulated host.
        opener, shot_opener: bring back what stood there before.
        notice: says what happened.
    """

    linked = Signal()  # a host's figures stand on the stage
    hung_up = Signal()

    def __init__(
        self,
        window: QWidget,
        workspace: Workspace,
        services: Services,
        opener: Opener,
        shot_opener: ShotOpener,
        notice: Notice,
    ) -> None:
        super().__init__(window)
        self._window, self._workspace, self._services = window, workspace, services
        self._opener, self._shot_opener, self._notice = opener, shot_opener, notice
        self._tick = QTimer(self)
        self._tick.setInterval(TICK)
        self._tick.timeout.connect(workspace.linking.tick)
        self._tick.start()
        self._looks, self._known = 0, list[Path]()
        self._starting = QTimer(self)
        self._starting.setInterval(LOOK)
        self._starting.timeout.connect(self._look_for_started)
        linking = workspace.linking
        linking.told.connect(notice.tell)
        linking.set_up.connect(self._set_up)
        linking.left.connect(self._left)

    # -- menus ------------------------------------------------------------------------------

    def show_menu(self, button: QWidget) -> None:
        """Which hosts there are."""
        menu = passing_menu(self._window)
        self.fill(menu)
        menu.popup(button.mapToGlobal(button.rect().bottomLeft()))

    def fill(self, menu: QMenu) -> None:
        """One line for each host that listens, and the simulated one."""
        link, found = self._workspace.linking.link, listening_hosts()
        for path in found:
            action = menu.addAction(menu_word(path.stem), partial(self.open, path))
            action.setCheckable(True)
            action.setChecked(link is not None and link.path == path)
        if not found:
            menu.addAction(tr("No program listens")).setEnabled(False)
        menu.addSeparator()
        menu.addAction(tr("Start the simulated host"), self.start_simulated)
        if link is not None:
            name = link.name or link.path.stem
            menu.addAction(menu_word(tr("Hang up on {name}", name=name)), self.hang_up)

    # -- doing ------------------------------------------------------------------------------

    def open(self, path: Path) -> None:
        """Link to a host; its figures come when they have been read."""
        linking = self._workspace.linking
        if linking.link is not None and linking.link.path == path:
            return
        if linking.stands:
            self._workspace.put_back()
        linking.open(path)

    def start_simulated(self) -> None:
        """Start the program that stands in for an animation program, and link to it."""
        if self._starting.isActive():
            return
        self._known, self._looks = listening_hosts(), LOOKS
        self._services.demo.start_host()
        self._notice.tell(tr("The simulated host starts. It is linked when it listens."))
        self._starting.start()

    def _look_for_started(self) -> None:
        fresh = [path for path in listening_hosts() if path not in self._known]
        self._looks -= 1
        if fresh or not self._looks:
            self._starting.stop()
        if fresh:
            self.open(fresh[0])
        elif not self._looks:
            self._notice.tell(tr("The simulated host did not start."))

    def hang_up(self) -> None:
        """Put back what is shown there, and go back to what stood on the stage before."""
        stood = self._workspace.linking.stands
        self._workspace.linking.end()
        if stood:
            self.go_back()

    def go_back(self) -> None:
        """The shot or the stage from before the link."""
        settings = self._workspace.settings
        if settings.shot and Path(settings.shot).is_file():
            self._shot_opener.open(Path(settings.shot))
        else:
            self._opener.open_cast(settings.stage or "desk", ())

    # -- following --------------------------------------------------------------------------

    def _set_up(self, link: HostLink) -> None:
        self._opener.stay()
        self._opener.boards_found.emit(list(self._workspace.shots.boards))
        self.linked.emit()
        guests = self._workspace.linking.guests
        if guests:
            self._bring(guests, partial(self._arrived, link))

    def _bring(self, guests: list[KeptMember], done: Callable[[tuple[Arrival, ...]], None]) -> None:
        paths = [(Path(kept.path), kept) for kept in guests]

        def work(progress: Progress) -> tuple[Arrival, ...]:
            return gather(paths, progress)

        self._services.jobs.run(work, done, self._notice.tell_error)

    def _arrived(self, link: HostLink, arrivals: tuple[Arrival, ...]) -> None:
        """Those who stood beside the host's figures the last time stand there again."""
        workspace = self._workspace
        if workspace.linking.link is not link:
            return
        workspace.shots.sleeping = False
        for arrival in arrivals:
            if arrival.actor is not None:
                workspace.arrive(arrival, acts=False)
            elif arrival.kept is not None:
                workspace.place_absent(arrival.kept, arrival.error)

    def _left(self, link: HostLink) -> None:
        self._workspace.shots.sleeping = False
        self.hung_up.emit()
        self._notice.tell(tr("The link to {name} is closed.", name=link.name))
