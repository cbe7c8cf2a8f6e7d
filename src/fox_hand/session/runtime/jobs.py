"""Long work beside the window."""

from __future__ import annotations

import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

from fox_hand.base.work import Cancelled, Progress
from fox_hand.session.runtime.ports import Post

Result = TypeVar("Result")


class Jobs:
    """Runs plain functions on a few threads and posts their outcome back.

    Args:
        post: brings a function to the session's thread.
        threads: how many; with one, work is done in the order it was given.
        inline: do everything at once on the calling thread (for tests and the command line).
    """

    def __init__(self, post: Post, *, threads: int = 2, inline: bool = False) -> None:
        self._post = post
        self._pool = None if inline else ThreadPoolExecutor(threads, thread_name_prefix="job")
        self._running: set[Progress] = set()
        self._lock = threading.Lock()
        self._stopped = False

    def run(
        self,
        work: Callable[[Progress], Result],
        done: Callable[[Result], None],
        failed: Callable[[Exception], None],
        progress: Callable[[float, str], None] | None = None,
    ) -> Progress:
        """Start work; exactly one of ``done`` and ``failed`` is posted, none if cancelled."""

        def report(fraction: float, text: str) -> None:
            if progress is not None:
                self._post(lambda: progress(fraction, text))

        token = Progress(report)

        def task() -> None:
            try:
                result = work(token)
            except Cancelled:
                pass
            except Exception as error:  # noqa: BLE001 - handed on to the one who asked
                problem = error
                self._post(lambda: failed(problem))
            else:
                self._post(lambda: done(result))
            finally:
                with self._lock:
                    self._running.discard(token)

        with self._lock:
            if self._stopped:  # something that was still on its way when the program closed
                token.cancel()
                return token
            self._running.add(token)
        if self._pool is None:
            task()
        else:
            self._pool.submit(task)
        return token

    def stop(self) -> None:
        """Ask everything to stop, and wait for what cannot."""
        with self._lock:
            self._stopped = True
            running = list(self._running)
        for token in running:
            token.cancel()
        if self._pool is not None:
            self._pool.shutdown(wait=True)
