"""Asks for pictures and hands them back. The newest request of a channel replaces an older one."""

from __future__ import annotations

import subprocess
import sys
import threading
from collections import OrderedDict
from multiprocessing import Pipe
from multiprocessing.connection import Connection

from fox_hand.base.errors import FoxHandError
from fox_hand.core.view import Picture, Ready, View
from fox_hand.render.wire import Sender, receive

URGENT = "stage"
PATIENCE = 60.0  # seconds; even a huge rig on a slow machine draws faster


class Renderer:
    """Draws views in a process of its own.

    Requests wait by *channel*: the stage, the lens and each card picture have their own. A newer
    request on a channel replaces one that has not begun. The stage goes before everything else.
    If the drawing process ends, the view it was drawing fails with a sentence and the next one
    starts a new process.
    """

    def __init__(self) -> None:
        self._waiting: OrderedDict[str, tuple[View, Ready]] = OrderedDict()
        self._wake = threading.Condition()
        self._stopping = False
        self._process: subprocess.Popen[bytes] | None = None
        self._connection: Connection | None = None
        self._sender: Sender | None = None
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

    @property
    def process_id(self) -> int | None:
        """The drawing process, None while there is none."""
        return None if self._process is None else self._process.pid

    def _start(self) -> None:
        mine, theirs = Pipe()
        self._process = subprocess.Popen(
            [sys.executable, "-m", "fox_hand.render.worker", str(theirs.fileno())],
            pass_fds=(theirs.fileno(),),
            stdin=subprocess.DEVNULL,
        )
        theirs.close()
        self._connection, self._sender = mine, Sender(mine)
        self.name = ""

    def _end(self) -> None:
        if self._connection is not None:
            self._connection.close()
        if self._process is not None:
            self._process.kill()
            self._process.wait()
        self._process = self._connection = self._sender = None

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
            try:
                result: Picture | Exception = self._draw(view)
            except FoxHandError as error:
                result = error
            except Exception as error:  # noqa: BLE001 - this thread must go on in any case
                reason = str(error) or type(error).__name__
                self._end()  # whatever was half-said between the two processes is over
                if self._stopping:
                    return
                result = FoxHandError(
                    "render.ended",
                    f"The picture could not be drawn: the drawing process ended ({reason}).",
                    "The figure and its pose are untouched.",
                    "It starts again with the next picture.",
                )
            ready(result)

    def _draw(self, view: View) -> Picture:
        if self._connection is None:
            self._start()
        assert self._connection is not None
        assert self._sender is not None
        if not self.name:
            if not self._connection.poll(PATIENCE):
                raise EOFError
            kind, word = self._connection.recv()
            if kind == "error":
                # the process stays and answers every view with this same reason
                self.name = "none"
            else:
                self.name = str(word)
        self._sender.send(view)
        if not self._connection.poll(PATIENCE):
            raise EOFError  # a driver that hangs is ended like one that crashed
        return receive(self._connection, view)


def _closing() -> FoxHandError:
    return FoxHandError("render.stopped", "The program is closing.")
