"""The one thread that draws. The newest request of a channel replaces an older one."""

from __future__ import annotations

import threading
from collections import OrderedDict

from fox_hand.base.errors import FoxHandError
from fox_hand.core.view import Picture, Ready, View
from fox_hand.render.engine import Engine

URGENT = "stage"


class RenderThread:
    """Draws views in the background.

    Requests wait by *channel*: the stage, the lens and each card picture have their own. A newer
    request on a channel replaces one that has not begun. The stage goes before everything else.
    """

    def __init__(self) -> None:
        self._waiting: OrderedDict[str, tuple[View, Ready]] = OrderedDict()
        self._wake = threading.Condition()
        self._stopping = False
        self._failure: FoxHandError | None = None
        self._ready = threading.Event()
        self.renderer = ""
        self._thread = threading.Thread(target=self._run, name="render", daemon=True)
        self._thread.start()

    def submit(self, channel: str, view: View, ready: Ready) -> None:
        """Ask for a picture. ``ready`` is called on the render thread with it, or with the
        error that prevented it."""
        with self._wake:
            self._waiting[channel] = (view, ready)
            self._wake.notify()

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
        answer: list[Picture | Exception] = []

        def ready(result: Picture | Exception) -> None:
            answer.append(result)
            done.set()

        self.submit(f"wait:{id(done)}", view, ready)
        done.wait()
        if isinstance(answer[0], Exception):
            raise answer[0]
        return answer[0]

    def failure(self) -> FoxHandError | None:
        """Waits until the context is open; the error if it could not be opened."""
        self._ready.wait()
        return self._failure

    def stop(self) -> None:
        """End the thread; what still waits is not drawn."""
        with self._wake:
            self._stopping = True
            self._waiting.clear()
            self._wake.notify()
        self._thread.join(timeout=10)

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
        engine: Engine | None = None
        try:
            engine = Engine()
            self.renderer = engine.renderer
        except FoxHandError as error:
            self._failure = error
        self._ready.set()
        while (job := self._next()) is not None:
            view, ready = job
            if engine is None:
                assert self._failure is not None
                ready(self._failure)
                continue
            try:
                result: Picture | Exception = engine.draw(view)
            except Exception as error:  # noqa: BLE001 - one bad view must not end the thread
                result = error
            ready(result)
