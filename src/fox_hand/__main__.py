"""Puts the rooms together: session, renderer, window."""

from __future__ import annotations

import gc
import os
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import partial
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING

from fox_hand.base.language import tr
from fox_hand.base.system.log import LogFiles, note_fault, start_log, words_of

if TYPE_CHECKING:
    from PySide6.QtWidgets import QApplication

    from fox_hand.base.places import Places
    from fox_hand.base.work import Progress
    from fox_hand.cli import Wish
    from fox_hand.demo.host.simulated_host import SimulatedHost
    from fox_hand.session.runtime.jobs import Jobs
    from fox_hand.session.runtime.settings import Settings
    from fox_hand.ui.main.window import Window
    from fox_hand.ui.services.bridge import Bridge
    from fox_hand.ui.services.first_frame import FirstFrame


@contextmanager
def assembled(
    places: Places,
    log_files: LogFiles | None = None,
    restart: Callable[[], None] = lambda: None,
    door_at: Path | None = None,
) -> Iterator[Window]:
    """A window with everything behind it; afterwards all of it is stopped. Needs a QApplication.

    Args:
        places: the user's folders.
        log_files: where the log lies.
        restart: closes the window and opens it anew.
        door_at: the socket by which it takes files that are opened elsewhere; None for none.
    """
    from fox_hand.base.system.memory import give_back_large_blocks
    from fox_hand.demo.demo_project import FIRST_FRAME, demo_performance, first_shot, prepare
    from fox_hand.render.renderer import Renderer
    from fox_hand.session.app.workspace import Workspace
    from fox_hand.session.libraries.watching import Watching
    from fox_hand.session.runtime.door import Door
    from fox_hand.session.runtime.jobs import Jobs
    from fox_hand.ui.main.choices.things_coming import take
    from fox_hand.ui.main.window import Window
    from fox_hand.ui.services.bridge import Bridge
    from fox_hand.ui.services.first_frame import tokens_for
    from fox_hand.ui.services.services import Demo, Services
    from fox_hand.ui.services.support import Support
    from fox_hand.ui.theme.theme import Theme

    give_back_large_blocks()
    # jobs that compute hand the interpreter back to the window ten times sooner than usual
    sys.setswitchinterval(0.0005)
    words = None if log_files is None else log_files.crashes
    pictures, bridge = Renderer(words), Bridge()  # drawing gets ready while the window is built
    jobs, files = Jobs(bridge.post, beside=True), Jobs(bridge.post, threads=1)
    support = Support(log_files, lambda: pictures.name)
    demo = Demo(lambda: prepare(places), first_shot, demo_performance(), FIRST_FRAME, start_host)
    services = Services(pictures, bridge, jobs, demo, support, restart)
    workspace = Workspace(places, jobs, files, bridge.post)
    watching = Watching(workspace.open_libraries, bridge.post)
    chosen = workspace.settings
    theme = Theme(tokens_for(chosen.theme, stronger=chosen.stronger))
    window = Window(theme, workspace, services)
    window.show()
    door = None if door_at is None else Door(door_at, bridge.post, partial(take, window.home))
    look_at_folders(places, jobs, window)
    try:
        with faults_told(window, bridge):
            yield window
    finally:
        if door is not None:
            door.close()
        window.ending = True
        window.close()
        forget_clipboard()
        watching.stop()
        files.stop()  # what is being written is written
        bridge.close()
        pictures.stop()
        jobs.stop()


NO_CLIPBOARD = ("offscreen", "minimal", "vnc", "linuxfb", "eglfs")  # platforms of the toolkit


def forget_clipboard() -> None:
    """Cards on the clipboard are numbers of this window. Where there is no clipboard but the
    toolkit's own, no object of Python may be left on it: the toolkit cleans up after Python has
    ended."""
    from PySide6.QtGui import QGuiApplication

    from fox_hand.ui.cards.card_drag import CARDS

    clipboard = QGuiApplication.clipboard()
    held = clipboard.mimeData()
    ours = held is not None and held.hasFormat(CARDS)
    if ours or QGuiApplication.platformName() in NO_CLIPBOARD:
        clipboard.clear()


FRAME_STAYS = 150  # milliseconds, in which the window comes over it
SCREENS_AFTER = 3000  # milliseconds until those nobody has opened are built
SAID_BY_DESKTOP = os.environ.get("LANGUAGE")  # the command line says there what it speaks itself
AGAIN = 75  # exit code of a window that opens anew
SCALE, SIZE_BY_US = "QT_SCALE_FACTOR", "FOX_HAND_SIZE"
FAULT_PAUSE = 60.0  # seconds after which the same fault is told again


@contextmanager
def faults_told(window: Window, bridge: Bridge) -> Iterator[None]:
    """Errors that nobody expected are written down and told calmly; the work goes on, and is
    written down at once."""

    before = sys.excepthook, threading.excepthook
    known: dict[str, float] = {}

    def told(error: Exception) -> None:
        words, now = words_of(error), time.monotonic()
        if now - known.get(words, -FAULT_PAUSE) < FAULT_PAUSE:
            return  # the same fault at every painting is one
        known[words] = now
        bridge.post(lambda: window.notice.tell_error(error))
        bridge.post(window.workspace.shots.write_down)

    def hook(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        if isinstance(error, Exception):
            told(error)
        else:
            before[0](kind, error, trace)  # somebody who stops the program

    def thread_hook(args: threading.ExceptHookArgs) -> None:
        if isinstance(args.exc_value, Exception):
            told(args.exc_value)

    sys.excepthook, threading.excepthook = hook, thread_hook
    try:
        yield
    finally:
        sys.excepthook, threading.excepthook = before


def set_aside_what_stays() -> None:
    """Modules and widgets stay until the end. The collector need not look through them each time,
    for which the window would stand still."""
    gc.collect()
    gc.freeze()


def screen_problem() -> str:
    """Why no window can be opened here; empty where one can."""
    if any(os.environ.get(n) for n in ("QT_QPA_PLATFORM", "DISPLAY", "WAYLAND_DISPLAY")):
        return ""
    return tr(
        "There is no screen here to open a window on (neither DISPLAY nor WAYLAND_DISPLAY is set). "
        "Start it at the machine, or by ssh -X; --help lists what works without a window. "
        "QT_QPA_PLATFORM=offscreen opens one that nobody sees."
    )


def application_of_user() -> QApplication:
    """The toolkit's application, in the size and language of the user. There is one."""
    from PySide6.QtWidgets import QApplication

    from fox_hand.ui.services.spoken import speak

    there = QApplication.instance()
    if isinstance(there, QApplication):
        return there
    size_interface()
    application = QApplication(sys.argv[:1])
    application.setApplicationName("fox-hand")
    application.setApplicationDisplayName("Fox Hand")
    application.setDesktopFileName("fox-hand")
    speak(application)
    return application


def first_frame(words: list[str]) -> FirstFrame | None:
    """The window's ground, at once, where no more is asked for than the window: what it takes to
    build it is loaded behind. None for every other command."""
    if words not in ([], ["demo"]) or screen_problem():
        return None
    application = application_of_user()
    from fox_hand.ui.services.first_frame import FirstFrame

    frame = FirstFrame()
    frame.show()
    application.processEvents()
    return frame


def show(wish: Wish, frame: FirstFrame | None = None) -> int:
    """Open the window, where a first frame stands in its place, and stay until it is closed."""
    problem = screen_problem()
    if problem:
        sys.stderr.write(f"{problem}\n")
        return 1
    from PySide6.QtCore import QTimer

    from fox_hand.base.places import Places
    from fox_hand.session.runtime.door import door_path

    application = application_of_user()
    again = partial(application.exit, AGAIN)
    with assembled(Places.of_user(), started_log(), again, door_path()) as window:
        set_aside_what_stays()
        QTimer.singleShot(0, lambda: begin(window, wish))
        QTimer.singleShot(SCREENS_AFTER, window.screens.build_in_turns)
        if frame is not None:
            QTimer.singleShot(FRAME_STAYS, frame.close)
        code = application.exec()
    if code == AGAIN:
        start_again()
    return code


def show_host(host: SimulatedHost) -> int:
    """Open the window of the simulated host, and stay until it is closed."""
    problem = screen_problem()
    if problem:
        sys.stderr.write(f"{problem}\n")
        return 1
    from fox_hand.demo.host.host_desk import HostDesk
    from fox_hand.ui.host.host_window import HostWindow
    from fox_hand.ui.services.bridge import Bridge

    application, desk, bridge = application_of_user(), HostDesk(host), Bridge()
    application.setApplicationDisplayName(tr("Simulated host"))
    desk.start()
    window = HostWindow(desk, bridge.post, application.quit)
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, lambda *_: application.quit())
    window.show()
    try:
        return application.exec()
    finally:
        bridge.close()
        desk.stop()


def start_host() -> None:
    """The simulated host as a program of its own, which stays when we end."""
    words = [sys.executable, "-m", "fox_hand", "demo", "host"]
    subprocess.Popen(words, start_new_session=True)


def size_interface() -> None:
    """The size a person chose for everything, on top of the screen's own; whoever sets the
    toolkit's variable is left alone."""
    from fox_hand.base.early_settings import early

    if SIZE_BY_US in os.environ:
        os.environ.pop(SCALE, None)
    size = min(max(early("interface", 100), 80), 200)
    if SCALE not in os.environ and size != 100:
        os.environ[SCALE], os.environ[SIZE_BY_US] = f"{size / 100:g}", "1"


def start_again() -> None:
    """The same program in the same process, without what it was told to open: it opens what was
    open."""
    os.environ.pop("LANGUAGE", None)
    if SAID_BY_DESKTOP is not None:
        os.environ["LANGUAGE"] = SAID_BY_DESKTOP
    words = len(sys.orig_argv) - len(sys.argv) + 1
    os.execv(sys.executable, [sys.executable, *sys.orig_argv[1:words]])


def look_at_folders(places: Places, jobs: Jobs, window: Window) -> None:
    """Beside the window: what killed programs left behind goes, and it is said at once if nothing
    can be kept. What days are written by is loaded meanwhile."""
    from fox_hand.base import language
    from fox_hand.base.errors import FoxHandError
    from fox_hand.base.files.scratch import not_writable, sweep

    own = (places.config, places.state, places.data, places.cache)

    def work(progress: Progress) -> tuple[Path, str] | None:
        progress.report(0.0)
        sweep(own)
        language.make_ready()
        return not_writable(own)

    def done(found: tuple[Path, str] | None) -> None:
        if found is not None:
            window.notice.tell_error(
                FoxHandError(
                    "home.read_only",
                    tr(
                        "Nothing can be kept in {found} ({found_2}).",
                        found=found[0],
                        found_2=found[1],
                    ),
                    tr(
                        "Settings, favourites and unsaved work last until the window is closed; "
                        "shots and cards can be saved elsewhere."
                    ),
                    tr("Make that folder writable, or set HOME to one that is, and start again."),
                )
            )

    jobs.run(work, done, lambda _: None)


def begin(window: Window, wish: Wish) -> None:
    """Open what was asked for, else what was open last."""
    from fox_hand.cli import Wish

    workspace, opener = window.workspace, window.opener
    if wish.demo:
        window.shot_opener.open_demo()
        return
    if wish.project is not None:
        window.shot_opener.open_project(wish.project)
        return
    settings = workspace.settings
    nothing = wish == Wish() and not window.preference_effects.resized
    asks = settings.opens == "start" and bool(settings.recent_shots)
    if nothing and (asks or never_here(settings)):
        open_libraries(window, wish)
        window.start_work.show()
        return
    shot = wish.shot or (Path(workspace.settings.shot) if workspace.settings.shot else None)
    if shot is not None and wish.rig is None:
        window.shot_opener.open(shot, lambda: open_libraries(window, wish))
        return
    key = "desk" if wish.rig is not None else workspace.settings.stage
    rigs = (wish.rig,) if wish.rig is not None else ()
    opener.open_cast(key, rigs, lambda: open_libraries(window, wish))


def never_here(settings: Settings) -> bool:
    """Whether this person has opened nothing yet."""
    return not settings.recent_shots and not settings.recent


def open_libraries(window: Window, wish: Wish) -> None:
    """Those that were open last, and the one that was asked for; the first time one's own."""
    workspace, opener = window.workspace, window.opener
    settings = workspace.settings
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
        opener.open_library(workspace.places.data / "library", create=tr("My cards"))
    if wish.card is not None and wish.library is not None:
        window.sheets.bring_into_sight(wish.card)
    elif wish.card is not None:
        window.notice.tell(
            tr(
                "{name} lies in no library. Drag it onto the sheets to take a copy of it.",
                name=wish.card.name,
            )
        )
    if wish.pack is not None:
        window.home.export.open_pack(wish.pack)


def started_log() -> LogFiles:
    """The log of this user, from now on written."""
    from fox_hand.base.places import Places

    return start_log(Places.of_user().state / "log")


def main() -> None:
    """The console command."""
    frame = first_frame(sys.argv[1:])
    from fox_hand.cli import NAME, make_app

    try:
        make_app(partial(show, frame=frame), show_host)(prog_name=NAME)
    except Exception as error:  # noqa: BLE001 - the last place that can say it in words
        files = started_log()
        note_fault(error, "main")
        sys.stderr.write(
            tr(
                "Something went wrong that should not have. What was written is whole. "
                "The details are in {log}.\n",
                log=files.log,
            )
        )
        sys.exit(70)  # as sysexits.h says of a fault inside a program


if __name__ == "__main__":
    main()
