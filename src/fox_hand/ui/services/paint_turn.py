"""Painting leaves a turn to keys and clicks where much was done before it."""

from __future__ import annotations

import time
from collections.abc import Callable

from PySide6.QtCore import QAbstractEventDispatcher, QCoreApplication, QEvent, QObject, Qt, QTimer
from PySide6.QtWidgets import QWidget

LONG, TURNS = 0.008, 2  # seconds of work after which painting waits, and for how many turns


class PaintTurn(QObject):
    """Answers, layouts and the painting after them follow each other, and nothing that somebody
    types or clicks is heard before the last of them. Where they have taken long already, the
    window is painted in the next turn of the event loop, or where timers have taken as long there
    in the one after that: never later, and never left out. So is what asks to be painted at once:
    Qt asks in the same way for both.

    Args:
        window: a window of its own; lives as long as it.
        clock: seconds for which this thread has worked; waiting for something to do is no work.
    """

    def __init__(self, window: QWidget, clock: Callable[[], float] = time.thread_time) -> None:
        super().__init__(window)
        self._window, self._clock = window, clock
        self._asked: list[QWidget] = [window]
        self._before = self._began = clock()
        self._waited = 0
        self._painting: float | None = None
        self._next = QTimer(self)
        self._next.setSingleShot(True)
        self._next.setInterval(0)
        self._next.timeout.connect(self._ask)
        QAbstractEventDispatcher.instance().awake.connect(self._begin)
        window.installEventFilter(self)

    def hear(self, child: QWidget) -> None:
        """Where a layout moves a child, the toolkit asks it instead of the window."""
        self._asked.append(child)
        child.installEventFilter(self)

    def _begin(self) -> None:
        """A turn begins. What it hears was ready when it began: what comes during a long one is
        heard at the end of the next, so that two of them count."""
        self._before, self._began = self._began, self._clock()

    def _ask(self) -> None:
        self._waited += 1
        request = QEvent(QEvent.Type.UpdateRequest)
        first = Qt.EventPriority.HighEventPriority.value  # before answers that have come meanwhile
        QCoreApplication.postEvent(self._window, request, first)

    @property
    def painted_for(self) -> float:
        """Seconds for which the window has been painted in this turn; 0 while it is not."""
        return 0.0 if self._painting is None else self._clock() - self._painting

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() is not QEvent.Type.UpdateRequest or watched not in self._asked:
            return False
        if self._waited < TURNS and self._clock() - self._before > LONG:
            if not self._next.isActive():
                self._next.start()
            return True
        if self._waited:  # it came before layouts that were asked for meanwhile
            QCoreApplication.sendPostedEvents(None, QEvent.Type.LayoutRequest.value)
        self._waited = 0
        self._painting = self._clock()
        try:
            watched.event(event)
        finally:
            self._painting = None
        return True


def painted_for(widget: QWidget) -> float:
    """Seconds for which the window of a widget has been painted in this turn; 0 where it is
    painted otherwise, such as for a picture of it."""
    direct = Qt.FindChildOption.FindDirectChildrenOnly
    turn = widget.window().findChild(PaintTurn, options=direct)
    return 0.0 if turn is None else turn.painted_for
