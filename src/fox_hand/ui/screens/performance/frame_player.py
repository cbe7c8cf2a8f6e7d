"""Frames of a performance at their real speed; those that cannot be drawn in time are left out."""

from __future__ import annotations

from PySide6.QtCore import QElapsedTimer, QObject, Qt, QTimer, Signal

TICK = 16  # milliseconds


class FramePlayer(QObject):
    """Follows the clock from the frame in sight, round and round through a span."""

    due = Signal(int)
    switched = Signal(bool)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.frame = 0
        self._first, self._last, self._rate = 0, 0, 24.0
        self._from = 0
        self._clock = QElapsedTimer()
        self._timer = QTimer(self, interval=TICK)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._tick)

    @property
    def on(self) -> bool:
        return self._timer.isActive()

    def set_span(self, first: int, last: int, rate: float) -> None:
        """Which frames are played, and how many a second."""
        self._first, self._last, self._rate = first, last, rate

    def toggle(self) -> bool:
        """Play, or stop."""
        if self.on:
            self.stop()
        else:
            inside = self._first <= self.frame < self._last
            self._from = self.frame if inside else self._first
            self._clock.start()
            self._timer.start()
            self.switched.emit(True)
        return True

    def stop(self) -> None:
        if self.on:
            self._timer.stop()
            self.switched.emit(False)

    def frame_after(self, seconds: float) -> int:
        """Which frame is due so long after it began."""
        count = self._last - self._first + 1
        gone = int(seconds * self._rate)
        return self._first + (self._from - self._first + gone) % max(count, 1)

    def _tick(self) -> None:
        frame = self.frame_after(self._clock.elapsed() / 1000.0)
        if frame != self.frame:
            self.due.emit(frame)
