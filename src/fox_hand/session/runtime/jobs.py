"""Long work beside the window: a job as an object, and who runs it."""

from __future__ import annotations

import os
import threading
from abc import ABC, abstractmethod
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from enum import StrEnum
from typing import Any, Generic, TypeVar

from fox_hand.base.work import Cancelled, Progress
from fox_hand.session.runtime.ports import Post

Result = TypeVar("Result")
# how much nicer threads are than the window, where they only work beside it; there is no nicer
BESIDE, NICEST = 10, 19


class JobState(StrEnum):
    """How far a job is."""

    WAITING = "waiting"
    RUNNING = "running"
    FINISHED = "finished"
    FAILED = "failed"
    CANCELLED = "cancelled"


class Job(Generic[Result]):
    """Work that is done elsewhere. Its outcome comes back to the session's thread: exactly one of
    ``finished`` and ``failed`` is called, none if it was cancelled on the way.

    Args:
        work: runs elsewhere; it reports how far it is, and learns there when to stop.
        finished: is given what came out.
        failed: is given why nothing did.
        progressed: is given a fraction 0...1 and a short text.
    """

    def __init__(
        self,
        work: Callable[[Progress], Result],
        finished: Callable[[Result], None],
        failed: Callable[[Exception], None],
        progressed: Callable[[float, str], None] | None = None,
    ) -> None:
        self._work, self._finished, self._failed = work, finished, failed
        self._progressed = progressed
        self._token = Progress()
        self.state = JobState.WAITING

    def cancel(self) -> None:
        """Ask it to stop at its next step."""
        self._token.cancel()

    def do(self, post: Post) -> None:
        """Do the work here and now.

        Args:
            post: brings the outcome to the session's thread.
        """

        def report(fraction: float, text: str) -> None:
            if self._progressed is not None:
                progressed = self._progressed
                post(lambda: progressed(fraction, text))

        self._token.report_to(report)
        self.state = JobState.RUNNING
        try:
            result = self._work(self._token)
        except Cancelled:
            self.state = JobState.CANCELLED
        except Exception as error:  # noqa: BLE001 - handed on to the one who asked
            problem = error
            self.state = JobState.FAILED
            post(lambda: self._failed(problem))
        else:
            self.state = JobState.FINISHED
            post(lambda: self._finished(result))


class JobRunner(ABC):
    """Does jobs, at once or later, in whatever order."""

    @abstractmethod
    def start(self, job: Job[Any]) -> None:
        """Take a job on."""

    @abstractmethod
    def finish(self) -> None:
        """Nothing more comes; what was taken on is done, without waiting for it here."""

    def run(
        self,
        work: Callable[[Progress], Result],
        finished: Callable[[Result], None],
        failed: Callable[[Exception], None],
        progressed: Callable[[float, str], None] | None = None,
    ) -> Job[Result]:
        """Make a job of some work, and start it; see :class:`Job`."""
        job = Job(work, finished, failed, progressed)
        self.start(job)
        return job


class Jobs(JobRunner):
    """Runs jobs on a few threads.

    Args:
        post: brings a function to the session's thread.
        threads: how many; with one, work is done in the order it was given.
        inline: do everything at once on the calling thread (for tests and the command line).
        beside: the threads leave a core to whoever answers people: where all cores are wanted at
            once, half of every wait of the window was for a core that a job had.
    """

    def __init__(
        self, post: Post, *, threads: int = 2, inline: bool = False, beside: bool = False
    ) -> None:
        self._post = post
        ready = _make_nice if beside else None
        self._pool = (
            None
            if inline
            else ThreadPoolExecutor(threads, thread_name_prefix="job", initializer=ready)
        )
        self._running: set[Job[Any]] = set()
        self._lock = threading.Lock()
        self._stopped = False

    def start(self, job: Job[Any]) -> None:
        with self._lock:
            if self._stopped:  # something that was still on its way when the program closed
                job.cancel()
                job.state = JobState.CANCELLED
                return
            self._running.add(job)
        if self._pool is None:
            self._do(job)
        else:
            self._pool.submit(self._do, job)

    def _do(self, job: Job[Any]) -> None:
        try:
            job.do(self._post)
        finally:
            with self._lock:
                self._running.discard(job)

    def finish(self) -> None:
        """Nothing more comes; what was taken on is done, without waiting for it here."""
        with self._lock:
            self._stopped = True
        if self._pool is not None:
            self._pool.shutdown(wait=False)

    def stop(self) -> None:
        """Ask everything to stop, and wait for what cannot."""
        with self._lock:
            self._stopped = True
            running = list(self._running)
        for job in running:
            job.cancel()
        if self._pool is not None:
            self._pool.shutdown(wait=True)


def _make_nice() -> None:
    """Of this thread alone: Linux counts it for each."""
    thread = threading.get_native_id()
    nicer = os.getpriority(os.PRIO_PROCESS, thread) + BESIDE
    os.setpriority(os.PRIO_PROCESS, thread, min(nicer, NICEST))
