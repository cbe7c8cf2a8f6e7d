"""Brings work from other threads to the window's thread."""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Callable

from PySide6.QtCore import QObject, Qt, QTimer, Signal

# how long answers are handed over before keys, clicks and paint get their turn, in seconds
TURN = 0.008


class Bridge(QObject):
    """``post`` may be called on any thread; the function runs on the window's thread, later, in
    the order of posting. Many answers at once do not hold the window: after ``turn`` seconds the
    rest waits until what somebody typed or clicked in the meantime has been heard."""

    _woken = Signal()

    def __init__(self, turn: float = TURN) -> None:
        super().__init__()
        self._turn_lasts = turn
        self._closed = False
        self._waiting: deque[Callable[[], None]] = deque()
        self._woken.connect(self._wake, Qt.ConnectionType.QueuedConnection)
        self._next = QTimer(self)
        self._next.setSingleShot(True)
        self._next.setInterval(0)
        self._next.timeout.connect(self._turn)

    def post(self, function: Callable[[], None]) -> None:
        if not self._closed:
            self._waiting.append(function)
            self._woken.emit()

    def close(self) -> None:
        """Nothing that is still on its way is run any more."""
        self._closed = True
        self._next.stop()
        self._waiting.clear()

    def _wake(self) -> None:
        if not self._next.isActive():  # else the rest comes after what was typed meanwhile
            self._turn()

    def _turn(self) -> None:
        until = time.perf_counter() + self._turn_lasts
        try:
            while self._waiting:
                self._waiting.popleft()()
                if time.perf_counter() >= until:
                    break
        finally:
            if self._waiting and not self._closed:
                self._next.start()
