"""Doing things to cards: in a job, item by item, as one step that can be undone."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from psygnal import Signal

from fox_hand.base.errors import FoxHandError
from fox_hand.base.work import Progress
from fox_hand.library.moves import Done
from fox_hand.session.history import History
from fox_hand.session.jobs import Jobs
from fox_hand.session.shelf import Shelf

Task = Callable[[], Done]


@dataclass
class Outcome:
    """What became of a number of things to do.

    Args:
        done: those that worked, in order.
        failed: those that did not, with what they were for and why.
        left: how many were not begun, because somebody cancelled.
    """

    done: list[Done] = field(default_factory=list)
    failed: list[tuple[str, FoxHandError]] = field(default_factory=list)
    left: int = 0


class Tidying:
    """Works through card files one job after the other.

    Args:
        shelf: the libraries.
        history: where steps go.
        jobs: must do its work in the order it was given.
    """

    told = Signal(FoxHandError)
    working = Signal(str, float)  # what is being done and how far; 1.0 at the end

    def __init__(self, shelf: Shelf, history: History, jobs: Jobs) -> None:
        self._shelf, self._history, self._jobs = shelf, history, jobs
        self._token: Progress | None = None

    def cancel(self) -> None:
        """Stop what is under way; what is done stays done and is one step."""
        if self._token is not None:
            self._token.cancel()

    def do(
        self,
        label: str,
        tasks: Sequence[tuple[str, Task]],
        then: Callable[[Outcome], None] | None = None,
    ) -> None:
        """Do some things to files; one undo step for those that worked.

        Args:
            label: of the step.
            tasks: name of the card, and what to do; it may raise FoxHandError.
            then: called afterwards, before the step is pushed.
        """

        def finished(outcome: Outcome) -> None:
            self._look(outcome.done)
            if then is not None:
                then(outcome)
            if outcome.done:
                self._history.push(FileStep(label, self, outcome.done))
            self.tell(label, outcome)

        self.run(label, tasks, finished)

    def run(
        self,
        label: str,
        tasks: Sequence[tuple[str, Task]],
        finished: Callable[[Outcome], None],
    ) -> None:
        """The same without a step of the history."""

        def work(token: Progress) -> Outcome:
            outcome = Outcome()
            for number, (name, task) in enumerate(tasks):
                if token.cancelled:
                    outcome.left = len(tasks) - number
                    break
                token.report(number / len(tasks), name)
                try:
                    outcome.done.append(task())
                except FoxHandError as error:
                    outcome.failed.append((name, error))
            return outcome

        def done(outcome: Outcome) -> None:
            self._token = None
            self.working.emit(label, 1.0)
            finished(outcome)

        def failed(error: Exception) -> None:
            self._token = None
            self.working.emit(label, 1.0)
            raise error

        self._token = self._jobs.run(
            work, done, failed, lambda fraction, _: self.working.emit(label, fraction)
        )

    def _look(self, done: Sequence[Done]) -> None:
        touched: dict[Path, list[Path]] = {}
        for one in done:
            touched.setdefault(one.library.folder, []).extend(one.touched)
        everywhere = {one.library.folder for one in done if one.whole}
        for folder, paths in touched.items():
            place = self._shelf.place_at(folder)
            if place is not None and folder in everywhere:
                self._shelf.look_again(place)
            elif place is not None:
                self._shelf.look(place, paths)

    def tell(self, label: str, outcome: Outcome) -> None:
        """Say what did not work, if anything."""
        failed, total = outcome.failed, len(outcome.done) + len(outcome.failed) + outcome.left
        if len(failed) == 1:
            self.told.emit(failed[0][1])
        elif failed:
            name, first = failed[0]
            self.told.emit(
                FoxHandError(
                    "tidy.some_failed",
                    f"{label}: {len(failed)} of {total} did not work. {name}: {first.happened}",
                    "Those are as they were.",
                    first.todo,
                )
            )
        elif outcome.left:
            self.told.emit(
                FoxHandError(
                    "tidy.cancelled",
                    f"{label} was stopped after {len(outcome.done)} of {total}.",
                    "Undo takes those back.",
                )
            )

    def turn_back(self, step: FileStep, done: list[Done]) -> None:
        """Undo, or do again, what a step holds."""
        tasks = [(step.label, one.undo) for one in reversed(done)]

        def finished(outcome: Outcome) -> None:
            step.done = outcome.done
            self._look(outcome.done)
            self.tell(step.label, outcome)

        self.run(step.label, tasks, finished)


@dataclass
class FileStep:
    """Some files that were changed, for the history."""

    label: str
    tidying: Tidying
    done: list[Done]

    def undo(self) -> None:
        self.tidying.turn_back(self, self.done)

    def redo(self) -> None:
        self.tidying.turn_back(self, self.done)
