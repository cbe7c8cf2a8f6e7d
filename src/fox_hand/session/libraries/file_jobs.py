"""Doing things to cards: in a job, item by item, as one step that can be undone."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path

from psygnal import Signal

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.library.store.moves import Done
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.runtime.history import History
from fox_hand.session.runtime.jobs import JobRunner
from fox_hand.session.runtime.long_work import LongWork

Task = Callable[[], Done]


@dataclass
class Outcome:
    """What became of a number of things to do.

    Args:
        done: those that worked, in order.
        failed: those that did not, with what they were for and why.
        left: how many were not begun, because somebody cancelled.
        missed: numbers of the tasks that failed or were not begun.
    """

    done: list[Done] = field(default_factory=list)
    failed: list[tuple[str, FoxHandError]] = field(default_factory=list)
    left: int = 0
    missed: list[int] = field(default_factory=list)


class FileJobs:
    """Works through card files one job after the other.

    Args:
        shelf: the libraries.
        history: where steps go.
        jobs: must do its work in the order it was given.
    """

    failed = Signal(FoxHandError)
    touched = Signal(list)  # paths of files that were changed just now
    working = Signal(str, float)  # what is being done and how far; 1.0 at the end

    def __init__(
        self,
        open_libraries: OpenLibraries,
        history: History,
        jobs: JobRunner,
        work: LongWork | None = None,
    ) -> None:
        self._open_libraries, self._history, self._jobs = open_libraries, history, jobs
        self._long_work = work or LongWork()
        self._running: Progress | None = None  # set by the job that is at work

    def cancel(self) -> None:
        """Stop what is under way; what is done stays done and is one step."""
        running = self._running
        if running is not None:
            running.cancel()

    def do(
        self,
        label: str,
        tasks: Sequence[tuple[str, Task]],
        then: Callable[[Outcome], None] | None = None,
    ) -> None:
        """Do some things to files; one undo step for those that worked. The step is there at
        once: undoing it early is done as soon as the files are.

        Args:
            label: of the step.
            tasks: name of the card, and what to do; it may raise FoxHandError.
            then: called afterwards.
        """
        step = FileStep(label, self)

        def again(numbers: Sequence[int]) -> None:
            self.do(label, [tasks[number] for number in numbers], then)

        def finished(outcome: Outcome) -> None:
            self._look(outcome.done)
            if then is not None:
                then(outcome)
            if not outcome.done:
                self._history.drop(step)
            self.tell(label, outcome)

        self._history.push(step)
        self._run(label, lambda: tasks, step, finished, again)

    def run(
        self,
        label: str,
        tasks: Sequence[tuple[str, Task]],
        finished: Callable[[Outcome], None],
    ) -> None:
        """The same without a step of the history."""
        self._run(label, lambda: tasks, None, finished)

    def _run(
        self,
        label: str,
        what: Callable[[], Sequence[tuple[str, Task]]],
        step: FileStep | None,
        finished: Callable[[Outcome], None],
        again: Callable[[Sequence[int]], None] | None = None,
    ) -> None:
        """Work through some tasks, which are asked for when it is their turn; the step then holds
        what was done, for the next job."""

        def work(token: Progress) -> Outcome:
            self._running = token
            try:
                outcome = _work_through(what(), token)
            finally:
                self._running = None
            if step is not None:
                step.settle(outcome)
            return outcome

        def done(outcome: Outcome) -> None:
            self.working.emit(label, 1.0)
            self._long_work.end(
                shown,
                worked=len(outcome.done),
                problems=[(name, error.sentence()) for name, error in outcome.failed],
                left=outcome.left,
                again=None if again is None else partial(again, list(outcome.missed)),
            )
            finished(outcome)

        def failed(error: Exception) -> None:
            self.working.emit(label, 1.0)
            self._long_work.fail(shown, error)
            if step is not None:
                self._history.drop(step)
            raise error

        def report(fraction: float, item: str) -> None:
            self.working.emit(label, fraction)
            self._long_work.report(shown, fraction, item)

        def stop() -> None:
            job.cancel()

        shown = self._long_work.begin(label, stop)
        job = self._jobs.run(work, done, failed, report)

    def _look(self, done: Sequence[Done]) -> None:
        touched: dict[Path, list[Path]] = {}
        for one in done:
            touched.setdefault(one.library.folder, []).extend(one.touched)
        everywhere = {one.library.folder for one in done if one.whole}
        self.touched.emit([path for paths in touched.values() for path in paths])
        for folder, paths in touched.items():
            place = self._open_libraries.place_at(folder)
            if place is not None and folder in everywhere:
                self._open_libraries.look_again(place)
            elif place is not None:
                self._open_libraries.look(place, paths)

    def tell(self, label: str, outcome: Outcome) -> None:
        """Say what did not work, if anything."""
        failed, total = outcome.failed, len(outcome.done) + len(outcome.failed) + outcome.left
        if len(failed) == 1:
            self.failed.emit(failed[0][1])
        elif failed and all(error.code == "outbox.waiting" for _, error in failed):
            first = failed[0][1]
            self.failed.emit(
                FoxHandError(
                    "outbox.waiting",
                    tr(
                        "{count} of {total} cards could not be written now. {happened}",
                        count=len(failed),
                        total=total,
                        happened=first.happened,
                    ),
                    tr("They are kept on this machine."),
                    tr("They are written by themselves as soon as the library can be."),
                )
            )
        elif failed:
            name, first = failed[0]
            self.failed.emit(
                FoxHandError(
                    "tidy.some_failed",
                    tr(
                        "{label}: {count} of {total} did not work. {name}: {happened}",
                        label=label,
                        count=len(failed),
                        total=total,
                        name=name,
                        happened=first.happened,
                    ),
                    tr("Those are as they were."),
                    first.todo,
                )
            )
        elif outcome.left:
            self.failed.emit(
                FoxHandError(
                    "tidy.cancelled",
                    tr(
                        "{label} was stopped after {count} of {total}.",
                        label=label,
                        count=len(outcome.done),
                        total=total,
                    ),
                    tr("Undo takes those back."),
                )
            )

    def turn_back(self, step: FileStep, *, undo: bool) -> None:
        """Undo, or do again, what a step holds once everything before it is done. What does not
        work (a full disk, a share that is away) stays the next thing to be undone."""

        def finished(outcome: Outcome) -> None:
            self._look(outcome.done)
            if outcome.missed:
                self._history.again(step, undo=undo)
            self.tell(step.label, outcome)

        def tasks() -> list[tuple[str, Task]]:
            return [(step.label, one.undo) for one in step.begin()]

        self._run(step.label, tasks, step, finished)


def _work_through(tasks: Sequence[tuple[str, Task]], token: Progress) -> Outcome:
    outcome = Outcome()
    for number, (name, task) in enumerate(tasks):
        if token.cancelled:
            outcome.left = len(tasks) - number
            outcome.missed += range(number, len(tasks))
            break
        token.report(number / len(tasks), name)
        try:
            outcome.done.append(task())
        except FoxHandError as error:
            outcome.failed.append((name, error))
            outcome.missed.append(number)
    return outcome


@dataclass(eq=False)
class FileStep:
    """Some files that are changed, for the history. What was done belongs to the jobs."""

    label: str
    file_jobs: FileJobs
    done: list[Done] = field(default_factory=list)
    _trying: list[Done] = field(default_factory=list)
    _turned: list[Done] = field(default_factory=list)  # by tries of which not all worked

    def begin(self) -> list[Done]:
        """What is to be turned back now, last done first."""
        self._trying = self.done[::-1]
        return self._trying

    def settle(self, outcome: Outcome) -> None:
        """Hold what was done; of a try that did not work whole, what is left to be tried."""
        missed = [self._trying[number] for number in outcome.missed if self._trying]
        if missed:
            self.done, self._turned = missed[::-1], [*self._turned, *outcome.done]
        else:
            self.done, self._turned = [*self._turned, *outcome.done], []
        self._trying = []

    def undo(self) -> None:
        self.file_jobs.turn_back(self, undo=True)

    def redo(self) -> None:
        self.file_jobs.turn_back(self, undo=False)
