"""Brings work from other threads to the window's thread."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, Qt, Signal


class Bridge(QObject):
    """``post`` may be called on any thread; the function runs on the window's thread, later."""

    _posted = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self._closed = False
        self._posted.connect(self._run, Qt.ConnectionType.QueuedConnection)

    def post(self, function: Callable[[], None]) -> None:
        if not self._closed:
            self._posted.emit(function)

    def close(self) -> None:
        """Nothing that is still on its way is run any more."""
        self._closed = True

    def _run(self, function: Callable[[], None]) -> None:
        if not self._closed:
            function()
