"""Asks for pictures and hands them back. The newest request of a channel replaces an older one."""

from __future__ import annotations

import logging
import os
import subprocess
import sys
import threading
from collections import OrderedDict
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from multiprocessing import Pipe
from multiprocessing.connection import Connection
from pathlib import Path
from typing import IO

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.core.view.render_request import Picture, Ready, View
from fox_hand.render.no_memory import ENDED_BY_SYSTEM, no_memory
from fox_hand.render.wire import Sender, receive

URGENT = "stage"
PATIENCE = 60.0  # seconds; even a huge rig on a slow machine draws faster
DEATHS = 3  # in a row, after which something is wrong that starting again does not mend

# isolated from the folder and the variables of whoever started us; the path is handed on instead
LAUNCH = "import sys; sys.path[:] = sys.argv[2:]; from fox_hand.render.worker import main; main()"
# the driver's cache lies in the user's cache folder and kills the process where that is full
QUIET = {"MESA_SHADER_CACHE_DISABLE": "true", "MESA_GLSL_CACHE_DISABLE": "true"}
log = logging.getLogger(__name__)


class Renderer:
    """Draws views in a process of its own.

    Requests wait by *channel*: the stage, the lens and each card picture have their own. A newer
    request on a channel replaces one that has not begun. The stage goes before everything else.
    If the drawing process ends, it is started again and the view is drawn once more; a view that
    ends it twice fails with a sentence. After three ends in a row every view fails with another
    one, until :meth:`try_again`.

    Args:
        words: a file that takes what the drawing process and its driver print; None for the
            terminal.
    """

    def __init__(self, words: Path | None = None) -> None:
        self._waiting: OrderedDict[str, tuple[View, Ready]] = OrderedDict()
        self._wake = threading.Condition()
        self._stopping = False
        self._process: subprocess.Popen[bytes] | None = None
        self._connection: Connection | None = None
        self._sender: Sender | None = None
        self._words = words
        self._deaths, self._noted = 0, ""
        self.name = ""
        self._start()  # at once, so that it gets ready while the window is built
        self._thread = threading.Thread(target=self._run, name="renderer", daemon=True)
        self._thread.start()

    def submit(self, channel: str, view: View, ready: Ready) -> None:
        """Ask for a picture. ``ready`` is called on another thread with it, or with the error
        that prevented it."""
        with self._wake:
            if not self._stopping:
                self._waiting[channel] = (view, ready)
                self._wake.notify()
                return
        ready(_closing())

    def forget(self, prefix: str) -> None:
        """Drop waiting requests whose channel starts with ``prefix``."""
        with self._wake:
            for channel in [c for c in self._waiting if c.startswith(prefix)]:
                del self._waiting[channel]

    def picture(self, view: View) -> Picture:
        """Draw and wait for it.

        Raises:
            FoxHandError: ``render.no_context`` where OpenGL is missing.
        """
        done = threading.Event()
        result: list[Picture | Exception] = []

        def ready(answer: Picture | Exception) -> None:
            result.append(answer)
            done.set()

        self.submit(f"wait:{id(done)}", view, ready)
        done.wait()
        if isinstance(result[0], Exception):
            raise result[0]
        return result[0]

    def stop(self) -> None:
        """End; what still waits is told that it will not be drawn."""
        with self._wake:
            self._stopping = True
            waiting = list(self._waiting.values())
            self._waiting.clear()
            self._wake.notify()
        for _, ready in waiting:
            ready(_closing())
        if self._process is not None:
            self._process.terminate()
        self._thread.join(timeout=10)
        self._end()

    def try_again(self) -> None:
        """Start the drawing process again with the next view, although it ended so often."""
        self._deaths = 0

    @property
    def process_id(self) -> int | None:
        """The drawing process, None while there is none."""
        return None if self._process is None else self._process.pid

    def _start(self) -> None:
        mine, theirs = Pipe()
        path = [entry for entry in sys.path if entry]
        with self._printed() as words:
            self._process = subprocess.Popen(
                [sys.executable, "-I", "-X", "utf8", "-X", "faulthandler", "-c", LAUNCH]
                + [str(theirs.fileno()), *path],
                pass_fds=(theirs.fileno(),),
                stdin=subprocess.DEVNULL,
                stdout=words,
                stderr=words,
                env={**os.environ, **QUIET},
            )
        theirs.close()
        self._connection, self._sender = mine, Sender(mine)
        self.name = ""

    @contextmanager
    def _printed(self) -> Iterator[IO[bytes] | None]:
        if self._words is None:
            yield None
            return
        try:
            file = self._words.open("ab")
        except OSError as error:
            log.warning("what the drawing process prints is not kept: %s", error.strerror)
            yield None
            return
        with file:
            yield file

    def _end(self) -> int | None:
        """The exit status, negative for a signal; None if it had to be ended."""
        if self._connection is not None:
            self._connection.close()
        status = None
        if self._process is not None:
            with suppress(subprocess.TimeoutExpired):
                status = self._process.wait(0.5)
            self._process.kill()
            self._process.wait()
        self._process = self._connection = self._sender = None
        return status

    def _next(self) -> tuple[View, Ready] | None:
        with self._wake:
            while not self._waiting and not self._stopping:
                self._wake.wait()
            if self._stopping:
                return None
            if URGENT in self._waiting:
                return self._waiting.pop(URGENT)
            return self._waiting.popitem(last=False)[1]

    def _run(self) -> None:
        while (job := self._next()) is not None:
            view, ready = job
            result = self._drawn(view)
            ready(result or _closing())  # a job may be waiting for it, and the end for the job
            if result is None:
                return

    def _drawn(self, view: View) -> Picture | FoxHandError | None:
        """The picture or why there is none; None while the program closes."""
        status = None
        for _ in range(2):
            if self._deaths >= DEATHS:
                return _gave_up()
            try:
                picture = self._draw(view)
            except FoxHandError as error:
                self._note(error)
                return error
            except Exception as error:
                status = self._end()  # whatever was half-said between the two processes is over
                if self._stopping:
                    return None
                self._deaths += 1
                log.exception("the drawing process ended, status %s", status)
                if isinstance(error, TimeoutError):
                    break
            else:
                self._deaths = 0
                return picture
        if status == ENDED_BY_SYSTEM:
            return no_memory(tr("ended with status {status}", status=status))
        return _gave_up() if self._deaths >= DEATHS else _ended()

    def _note(self, error: FoxHandError) -> None:
        if error.detail and error.detail != self._noted:
            self._noted = error.detail  # the same for every picture: once is enough
            log.error("%s\n%s", error.code, error.detail)

    def _draw(self, view: View) -> Picture:
        if self._connection is None:
            self._start()
        assert self._connection is not None
        assert self._sender is not None
        if not self.name:
            if not self._connection.poll(PATIENCE):
                raise TimeoutError
            kind, word = self._connection.recv()
            if kind == "error":
                # the process stays and answers every view with this same reason
                self.name = "none"
            else:
                self.name = str(word)
        self._sender.send(view)
        if not self._connection.poll(PATIENCE):
            raise TimeoutError  # a driver that hangs is ended like one that crashed
        return receive(self._connection, view)


def _ended() -> FoxHandError:
    return FoxHandError(
        "render.ended",
        tr("A picture could not be drawn: the drawing process ended at it twice."),
        tr("The figure and its pose are untouched."),
        tr("It starts again with the next picture."),
    )


def _gave_up() -> FoxHandError:
    return FoxHandError(
        "render.gave_up",
        tr(
            "Drawing ended {deaths} times in a row, so it is not started again by itself.",
            deaths=DEATHS,
        ),
        tr("Nothing is lost: poses, cards and shots can still be saved."),
        tr("Try again, or look into Help > About: its details say which driver draws."),
    )


def _closing() -> FoxHandError:
    return FoxHandError("render.stopped", tr("The program is closing."))
