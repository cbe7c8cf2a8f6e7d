"""Puts the rooms together: session, renderer, window."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
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
    from fox_hand.ui.bridge import Bridge
    from fox_hand.ui.doors import Doors
    from fox_hand.ui.look import Look
    from fox_hand.ui.tokens import DUSK
    from fox_hand.ui.window import Window

    # jobs that compute hand the interpreter back to the window ten times sooner than usual
    sys.setswitchinterval(0.0005)
    pictures, bridge = Renderer(), Bridge()  # drawing gets ready while the window is built
    jobs = Jobs(bridge.post)
    doors = Doors(pictures, bridge, jobs, lambda: prepare(places))
    window = Window(Look(DUSK), Desk(places), doors)
    window.show()
    try:
        yield window
    finally:
        window.close()
        bridge.close()
        pictures.stop()
        jobs.stop()


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
        QTimer.singleShot(0, lambda: begin(window, wish))
        return application.exec()


def begin(window: Window, wish: Wish) -> None:
    """Open what was asked for, else what was open last."""
    desk, opener = window.desk, window.opener
    if wish.demo:
        opener.open_demo()
        return
    library = wish.library or (Path(desk.settings.library) if desk.settings.library else None)
    if library is not None and (library / "library.toml").is_file():
        open_library = partial(opener.open_library, library)
    else:
        own = library or desk.places.data / "library"
        open_library = partial(opener.open_library, own, create="My cards")
    key = "desk" if wish.rig is not None else desk.settings.stage
    opener.open_cast(key, (wish.rig,) if wish.rig is not None else (), open_library)


def main() -> None:
    """The console command."""
    make_app(show)()


if __name__ == "__main__":
    main()
