"""Puts the rooms together: session, renderer, window."""

from __future__ import annotations

import gc
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

from fox_hand.cli import Wish, make_app

if TYPE_CHECKING:
    from fox_hand.base.places import Places
    from fox_hand.ui.window import Window


@contextmanager
def assembled(places: Places) -> Iterator[Window]:
    """A window with everything behind it; afterwards all of it is stopped. Needs a QApplication.

    Args:
        places: the user's folders.
    """
    from fox_hand.demo.project import prepare
    from fox_hand.render.renderer import Renderer
    from fox_hand.session.desk import Desk
    from fox_hand.session.jobs import Jobs
    from fox_hand.session.watching import Watching
    from fox_hand.ui.bridge import Bridge
    from fox_hand.ui.doors import Doors
    from fox_hand.ui.look import Look
    from fox_hand.ui.tokens import DUSK
    from fox_hand.ui.window import Window

    # jobs that compute hand the interpreter back to the window ten times sooner than usual
    sys.setswitchinterval(0.0005)
    pictures, bridge = Renderer(), Bridge()  # drawing gets ready while the window is built
    jobs, files = Jobs(bridge.post), Jobs(bridge.post, threads=1)
    doors = Doors(pictures, bridge, jobs, lambda: prepare(places))
    desk = Desk(places, jobs, files)
    watching = Watching(desk.shelf, bridge.post)
    window = Window(Look(DUSK), desk, doors)
    window.show()
    try:
        yield window
    finally:
        window.close()
        watching.stop()
        files.stop()  # what is being written is written
        bridge.close()
        pictures.stop()
        jobs.stop()


def set_aside_what_stays() -> None:
    """Modules and widgets stay until the end. The collector need not look through them each time,
    for which the window would stand still."""
    gc.collect()
    gc.freeze()


def show(wish: Wish) -> int:
    """Open the window and stay until it is closed."""
    from PySide6.QtCore import QTimer
    from PySide6.QtWidgets import QApplication

    from fox_hand.base.places import Places

    application = QApplication(sys.argv[:1])
    application.setApplicationName("fox-hand")
    application.setApplicationDisplayName("Fox Hand")
    application.setDesktopFileName("fox-hand")
    with assembled(Places.of_user()) as window:
        set_aside_what_stays()
        QTimer.singleShot(0, lambda: begin(window, wish))
        return application.exec()


def begin(window: Window, wish: Wish) -> None:
    """Open what was asked for, else what was open last."""
    desk, opener = window.desk, window.opener
    if wish.demo:
        window.shot_opener.open_demo()
        return
    shot = wish.shot or (Path(desk.settings.shot) if desk.settings.shot else None)
    if shot is not None and wish.rig is None:
        window.shot_opener.open(shot, lambda: open_libraries(window, wish))
        return
    key = "desk" if wish.rig is not None else desk.settings.stage
    rigs = (wish.rig,) if wish.rig is not None else ()
    opener.open_cast(key, rigs, lambda: open_libraries(window, wish))


def open_libraries(window: Window, wish: Wish) -> None:
    """Those that were open last, and the one that was asked for; the first time one's own."""
    desk, opener = window.desk, window.opener
    settings = desk.settings
    if settings.library and settings.library not in settings.libraries:
        settings.libraries.append(settings.library)  # an earlier version knew only one
    settings.library = ""
    wanted = [Path(p) for p in settings.libraries]
    if wish.library is not None:
        wanted = [wish.library, *(p for p in wanted if p != wish.library.absolute())]
        settings.target = str(wish.library.absolute())
    for folder in wanted:
        makes = folder is wish.library and not (folder / "library.toml").is_file()
        opener.open_library(folder, create=folder.name if makes else "")
    if not wanted:
        opener.open_library(desk.places.data / "library", create="My cards")


def main() -> None:
    """The console command."""
    make_app(show)()


if __name__ == "__main__":
    main()
