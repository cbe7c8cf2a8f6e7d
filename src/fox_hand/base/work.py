"""Progress and cancelling of long work, without threads or windows."""

from __future__ import annotations

import threading
from collections.abc import Callable


class Cancelled(Exception):  # noqa: N818 - an outcome, not an error
    """Raised inside a job when the person asked to stop it."""


class Progress:
    """Handed to a long job: it reports how far it is and learns when to stop.

    Args:
        report: called with a fraction 0...1 and a short text.
    """

    def __init__(self, report: Callable[[float, str], None] | None = None) -> None:
        self._report = report
        self._stop = threading.Event()

    def report_to(self, report: Callable[[float, str], None]) -> None:
        """From now on report there."""
        self._report = report

    def cancel(self) -> None:
        """Ask the job to stop at its next step."""
        self._stop.set()

    @property
    def cancelled(self) -> bool:
        return self._stop.is_set()

    def report(self, fraction: float, text: str = "") -> None:
        """Report progress of work that looks for itself whether it was cancelled."""
        if self._report is not None:
            self._report(fraction, text)

    def step(self, fraction: float, text: str = "") -> None:
        """Report progress.

        Raises:
            Cancelled: if somebody called :meth:`cancel`.
        """
        if self._stop.is_set():
            raise Cancelled
        self.report(fraction, text)
