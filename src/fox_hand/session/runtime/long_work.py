"""Everything that takes a while, in one place: how far it is, what came of each item."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

from psygnal import Signal

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr

KEPT = 20  # that are over
SHORT = 1.0  # seconds; what took less and worked leaves nothing behind
GUESS_AFTER = 3.0  # seconds until it is said how long it takes


class WorkState(StrEnum):
    """How far a piece of work is."""

    GOING = "going"
    DONE = "done"
    STOPPED = "stopped"
    FAILED = "failed"


@dataclass(eq=False)
class LongJob:
    """A piece of work.

    Args:
        label: what it is, as its undo step is called.
        stop: asks it to stop; what is done stays done.
        began: seconds of the clock that only goes forwards.
        share: how much of it is done, 0...1.
        item: what it is at.
        state: see :class:`WorkState`.
        took: seconds, once it is over.
        total, worked: items, where it has some.
        problems: name and sentence of each item that did not work.
        left: items that were not begun.
        again: tries those again that did not work; None where that is no use.
        seen: whether somebody has looked at what came of it.
        reads: it changes nothing: it is listed once it lasts, closing does not ask about it, and
            that it worked is no news.
    """

    label: str
    stop: Callable[[], object]
    began: float
    share: float = 0.0
    item: str = ""
    state: WorkState = WorkState.GOING
    took: float = 0.0
    total: int = 0
    worked: int = 0
    problems: tuple[tuple[str, str], ...] = ()
    left: int = 0
    again: Callable[[], None] | None = None
    seen: bool = False
    reads: bool = False

    @property
    def going(self) -> bool:
        return self.state is WorkState.GOING

    def seconds_left(self, now: float) -> float | None:
        """How long it will take about; None while nobody can say."""
        gone = now - self.began
        if not self.going or gone < GUESS_AFTER or self.share <= 0.01:
            return None
        return gone * (1.0 - self.share) / self.share


@dataclass(eq=False)
class LongWork:
    """All of it, the newest first. Signals come on the session's thread.

    Attributes:
        jobs: that go on, and the last that are over.
    """

    changed = Signal()
    ended = Signal(LongJob)

    clock: Callable[[], float] = time.monotonic
    jobs: list[LongJob] = field(default_factory=list)

    def begin(self, label: str, stop: Callable[[], object], *, reads: bool = False) -> LongJob:
        """Something has begun."""
        job = LongJob(label, stop, self.clock(), reads=reads)
        self.jobs.insert(0, job)
        self.changed.emit()
        return job

    def drop(self, job: LongJob) -> None:
        """Nobody waits for it any more."""
        if job in self.jobs:
            self.jobs.remove(job)
            self.changed.emit()

    def report(self, job: LongJob, share: float, item: str = "") -> None:
        """How far it is; what comes after its end is passed over."""
        if job.going:
            job.share, job.item = min(max(share, 0.0), 1.0), item
            self.changed.emit()

    def end(
        self,
        job: LongJob,
        *,
        worked: int = 0,
        problems: Sequence[tuple[str, str]] = (),
        left: int = 0,
        again: Callable[[], None] | None = None,
    ) -> None:
        """It is over."""
        if not job.going:
            return
        job.took = self.clock() - job.began
        job.worked, job.problems, job.left = worked, tuple(problems), left
        job.total = worked + len(job.problems) + left
        job.again = again if job.problems or left else None
        job.state = WorkState.STOPPED if left else WorkState.DONE
        if job.problems and not worked:
            job.state = WorkState.FAILED
        self._over(job)

    def fail(self, job: LongJob, error: Exception) -> None:
        """It came to nothing."""
        if not job.going:
            return
        said = error.sentence() if isinstance(error, FoxHandError) else str(error)
        job.took, job.state = self.clock() - job.began, WorkState.FAILED
        job.problems = ((job.label, said),)
        self._over(job)

    def _over(self, job: LongJob) -> None:
        short, worked = job.took < SHORT, job.state is WorkState.DONE and not job.problems
        if (short and (worked or job.reads)) or (worked and job.reads):
            self.jobs.remove(job)
        over = [one for one in self.jobs if not one.going]
        for one in over[KEPT:]:
            self.jobs.remove(one)
        self.changed.emit()
        self.ended.emit(job)

    @property
    def going(self) -> list[LongJob]:
        """What is not over."""
        return [job for job in self.jobs if job.going]

    @property
    def lasting(self) -> list[LongJob]:
        """What goes on for a while already and changes something; the rest is over in a moment, or
        nothing is lost with it."""
        return [job for job in self.changing if self._old(job)]

    @property
    def changing(self) -> list[LongJob]:
        """What is not over and changes something."""
        return [job for job in self.going if not job.reads]

    @property
    def listed(self) -> list[LongJob]:
        """What there is to see, the newest first: reading only once it lasts."""
        return [job for job in self.jobs if not (job.reads and job.going) or self._old(job)]

    def _old(self, job: LongJob) -> bool:
        return self.clock() - job.began >= SHORT

    @property
    def unseen(self) -> list[LongJob]:
        """What is over and nobody has looked at."""
        return [job for job in self.jobs if not job.going and not job.seen]

    def look(self) -> None:
        """Somebody looks at all of it."""
        for job in self.jobs:
            job.seen = job.seen or not job.going
        self.changed.emit()

    def clear(self) -> None:
        """What is over goes."""
        self.jobs[:] = self.going
        self.changed.emit()


def time_words(seconds: float) -> str:
    """About how long: in fives of seconds, then in minutes."""
    if seconds < 55:
        return f"{max(round(seconds / 5) * 5, 5)} s"
    minutes = max(round(seconds / 60), 1)
    return tr("{minutes} min", minutes=minutes) if minutes < 90 else f"{round(minutes / 60)} h"
