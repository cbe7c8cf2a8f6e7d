"""Playing the shot at its real speed; frames that cannot be drawn in time are left out."""

from __future__ import annotations

import time
from collections import deque

from PySide6.QtCore import QObject, Qt, QTimer, Signal

from fox_hand.session.app.needs import Animating
from fox_hand.ui.stage.stage_view import Stage

SECOND = 1.0


class Playing(QObject):
    """Follows the clock, not the drawing: the frame in sight is always the one that is due.

    Args:
        parent, workspace, stage: the window's.
    """

    switched = Signal(bool)
    measured = Signal(float)  # frames a second that were really seen

    def __init__(self, parent: QObject, workspace: Animating, stage: Stage) -> None:
        super().__init__(parent)
        self._workspace, self._stage = workspace, stage
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._tick)
        self._began = 0.0
        self._from = 1.0
        self._seen: deque[float] = deque()
        self._told = 0.0
        stage.pictures.arrived.connect(self._arrived)

    @property
    def on(self) -> bool:
        return self._timer.isActive()

    def toggle(self) -> None:
        """Play, or stop where we are."""
        if self.on:
            self.stop()
        else:
            self.start()

    def start(self) -> None:
        """From here; from the beginning where we stand at the end."""
        timing = self._workspace.timing
        if self._workspace.actor is None or timing.length < 2:
            return
        self._workspace.keep_mix()
        inside = timing.first <= timing.frame < timing.last
        self._from = timing.frame if inside else float(timing.first)
        self._began = self._told = self.now()
        self._seen.clear()
        self._timer.start(max(round(500 / timing.rate), 1))
        self.switched.emit(True)

    def stop(self) -> None:
        if self.on:
            self._timer.stop()
            self.switched.emit(False)
            self._stage.refresh()

    @staticmethod
    def now() -> float:
        return time.monotonic()

    def due(self, elapsed: float) -> float | None:
        """The frame that is due some seconds after the start; None after the end."""
        timing = self._workspace.timing
        frame = self._from + int(elapsed * timing.rate + 1e-6)
        if frame <= timing.last:
            return float(frame)
        if not timing.loop:
            return None
        return float(timing.first + (frame - timing.first) % timing.length)

    def _tick(self) -> None:
        frame = self.due(self.now() - self._began)
        if frame is None:
            self._workspace.go(float(self._workspace.timing.last))
            self.stop()
        elif not self._stage.pictures.drawing:
            self._workspace.go(frame)

    def _arrived(self) -> None:
        if not self.on:
            return
        now = self.now()
        self._seen.append(now)
        while self._seen and now - self._seen[0] > SECOND:
            self._seen.popleft()
        if now - self._told > SECOND / 2 and now - self._began > SECOND / 2:
            self._told = now
            self.measured.emit(len(self._seen) / min(now - self._began, SECOND))
