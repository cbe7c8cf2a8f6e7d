"""A runner of jobs whose answers a test releases."""

from __future__ import annotations

from typing import Any

from fox_hand.session.runtime.jobs import Job, JobRunner


class HeldJobs(JobRunner):
    """Nothing is done before the test says so, in whichever order.

    Args:
        holds: whether that is so from the beginning; until then all is done at once.
    """

    def __init__(self, *, holds: bool = True) -> None:
        self.held: list[Job[Any]] = []
        self.holds = holds

    def start(self, job: Job[Any]) -> None:
        if self.holds:
            self.held.append(job)
        else:
            job.do(lambda answer: answer())

    def finish(self) -> None:
        """The test says when it is over."""

    def release(self, *order: int) -> None:
        """Do the held jobs of these numbers, in this order; without numbers all."""
        for number in order or range(len(self.held)):
            self.held[number].do(lambda answer: answer())
