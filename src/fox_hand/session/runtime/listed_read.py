"""Reading that takes a while, in the list of long jobs while it goes on."""

from __future__ import annotations

from collections.abc import Callable
from typing import Generic, TypeVar

from fox_hand.base.work import Progress
from fox_hand.session.runtime.jobs import JobRunner, JobState
from fox_hand.session.runtime.long_work import LongWork

Result = TypeVar("Result")


class ListedRead(Generic[Result]):
    """A job that changes nothing. Of ``finished``, ``failed`` and ``stopped`` one is called, none
    if it was cancelled.

    Args:
        long_work: the list.
        jobs: who runs it.
        label: what it is.
        work, finished, failed, progressed: see :class:`Job`.
        stopped: called where a person stopped it in the list, also when its answer was under way.
        again: begins it anew once it was stopped.
    """

    def __init__(
        self,
        long_work: LongWork,
        jobs: JobRunner,
        label: str,
        work: Callable[[Progress], Result],
        finished: Callable[[Result], None],
        failed: Callable[[Exception], None],
        *,
        progressed: Callable[[float, str], None] = lambda _share, _item: None,
        stopped: Callable[[], None] = lambda: None,
        again: Callable[[], None] | None = None,
    ) -> None:
        self._long_work, self._stopped, self._again = long_work, stopped, again
        self._finished, self._failed, self._progressed = finished, failed, progressed
        self._shown = long_work.begin(label, self._stop, reads=True)
        self._job = jobs.run(work, self._done, self._not_done, self._report)

    @property
    def under_way(self) -> bool:
        """Whether its outcome is to come."""
        return self._shown.going and self._job.state in (JobState.WAITING, JobState.RUNNING)

    def cancel(self) -> None:
        """Nobody waits for it any more."""
        self._job.cancel()
        self._long_work.drop(self._shown)

    @property
    def _awaited(self) -> bool:
        return self._shown.going and self._shown in self._long_work.jobs

    def _done(self, result: Result) -> None:
        if self._awaited:
            self._long_work.end(self._shown, worked=1)
            self._finished(result)

    def _not_done(self, error: Exception) -> None:
        if self._awaited:
            self._long_work.fail(self._shown, error)
            self._failed(error)

    def _report(self, share: float, item: str) -> None:
        if self._awaited:
            self._long_work.report(self._shown, share, item)
            self._progressed(share, item)

    def _stop(self) -> None:
        self._job.cancel()
        if self._awaited:
            self._long_work.end(self._shown, left=1, again=self._again)
            self._stopped()
