"""What is done from the start screen, and the pictures of shots it shows."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Qt, QTimer
from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import QFileDialog

from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.core.view.render_request import Picture, Pixels, Quality
from fox_hand.library.files.atomic import make_folder, write_atomically
from fox_hand.session.app.stage_composition import compose_view
from fox_hand.session.runtime.ports import Post
from fox_hand.session.shots.recent import RecentShot, known_of, look, portrait_path
from fox_hand.ui.commands.actions import run
from fox_hand.ui.main.home import Home
from fox_hand.ui.services.picture_files import encoded
from fox_hand.ui.services.services import Services

PORTRAIT = 864, 594  # pixels
SOON = 500  # milliseconds after the last fine picture


class StartWork(QObject):
    """Opens what is chosen.

    Args:
        home: the window's parts.
        post: brings answers to the window's thread.
        menu: shows the main menu at a button.
    """

    def __init__(self, home: Home, post: Post, menu: Callable[[], None]) -> None:
        super().__init__(home.window)
        self._home, self._post = home, post
        self._menu = menu
        home.screens.when("start", self._connect)
        home.shot_opener.opened.connect(self._was_opened)
        home.workspace.actor_changed.connect(self._on_actor)

    def _connect(self) -> None:
        home = self._home
        screen, table = home.screens.start, home.actions_table
        screen.opened.connect(self._open)
        screen.find_asked.connect(self.ask_where)
        screen.forgotten.connect(self._forget)
        screen.demo_asked.connect(lambda: self._leave(home.shot_opener.open_demo))
        screen.open_asked.connect(lambda: run(table["open_project"]))
        screen.new_asked.connect(lambda: run(table["new_project"]))
        screen.skipped.connect(self._skip)
        screen.help_asked.connect(lambda: run(table["manual"]))
        screen.menu_asked.connect(self._menu)

    def show(self) -> None:
        """The screen, with what is known; every place answers when it can."""
        workspace, screen = self._home.workspace, self._home.screens.start
        paths = [Path(p) for p in workspace.settings.recent_shots]
        known = [known_of(workspace.places, path) for path in paths]
        self._home.screens.show_start()
        screen.begin(known, skips=workspace.settings.opens == "last")
        look(workspace.places, paths, self._post, screen.came)

    def _leave(self, go: Callable[[], None]) -> None:
        self._home.screens.close()
        go()

    def _open(self, path: Path) -> None:
        self._leave(lambda: self._home.shot_opener.open(path))

    def _forget(self, path: Path) -> None:
        settings = self._home.workspace.settings
        settings.recent_shots = [p for p in settings.recent_shots if p != str(path)]
        self._home.workspace.save_settings()

    def _was_opened(self) -> None:
        """By a menu, a dialog or a drop."""
        if self._home.screens.starting:
            self._home.screens.close()

    def _on_actor(self) -> None:
        if self._home.workspace.actor is not None:
            self._was_opened()

    def _skip(self, on: bool) -> None:
        self._home.workspace.preferences.set("opens", "last" if on else "start")

    def ask_where(self, shot: RecentShot) -> None:
        """The file of a shot that is not where it was."""
        name, _ = QFileDialog.getOpenFileName(
            self._home.window,
            tr("Where is {name}?", name=shot.path.name),
            str(Path.home()),
            "Shots (*.foxshot)",
        )
        if not name:
            return
        settings = self._home.workspace.settings
        settings.recent_shots = [p for p in settings.recent_shots if p != str(shot.path)]
        self._open(Path(name))


class ShotPortraits(QObject):
    """Keeps a picture of the shot that is open, in the user's own cache.

    Args:
        home: the window's parts.
        services: draw and write it beside the window.
    """

    def __init__(self, home: Home, services: Services) -> None:
        super().__init__(home.window)
        self._home, self._services = home, services
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON)
        self._soon.timeout.connect(self._draw)
        home.stage.pictures.arrived.connect(self._arrived)

    def _arrived(self, fine: bool) -> None:
        if fine and self._home.workspace.shots.path is not None:
            self._soon.start()

    def _draw(self) -> None:
        """As the stage is seen, however narrow it is."""
        workspace, path = self._home.workspace, self._home.workspace.shots.path
        if path is None or workspace.actor is None:
            return
        camera = self._home.stage.camera
        view = compose_view(workspace, camera, PORTRAIT, Quality.FULL, ghost=False, plain=True)
        where, post = portrait_path(workspace.places, path), self._services.bridge.post

        def drawn(result: Picture | Exception) -> None:
            if isinstance(result, Picture):
                post(lambda: self._write(where, result))

        self._services.pictures.submit("portrait", view, drawn)

    def _write(self, where: Path, picture: Picture) -> None:
        def work(progress: Progress) -> None:
            progress.report(0.0)
            make_folder(where.parent)
            write_atomically(where, jpeg_of(picture.pixels))

        # a picture that cannot be kept is only missed
        self._services.jobs.run(work, lambda _: None, lambda _: None)


def jpeg_of(pixels: Pixels) -> bytes:
    """A picture on white as a file: premultiplied RGBA ``(H, W, 4)``."""
    height, width = pixels.shape[:2]
    kind = QImage.Format.Format_RGBA8888_Premultiplied
    ground = QImage(width, height, QImage.Format.Format_RGB32)
    ground.fill(Qt.GlobalColor.white)
    painter = QPainter(ground)
    painter.drawImage(0, 0, QImage(pixels.data, width, height, width * 4, kind))
    painter.end()
    return encoded(ground)
