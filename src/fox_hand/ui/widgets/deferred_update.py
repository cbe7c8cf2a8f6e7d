"""Painting and work that comes a little later, so that the stage and the answers to what somebody
does come first."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer
from PySide6.QtWidgets import QWidget

AFTER = 60  # milliseconds; a hand on a slider looks at the figure, not at the numbers
BETWEEN = 2  # milliseconds; none at all would come before what somebody typed or clicked


class DeferredUpdate(QTimer):
    """Paints a widget anew once for all that happens in a short while.

    Args:
        widget: what is painted.
    """

    def __init__(self, widget: QWidget) -> None:
        super().__init__(widget)
        self.setSingleShot(True)
        self.setInterval(AFTER)
        self.timeout.connect(widget.update)

    def paint(self) -> None:
        """Something it shows has changed."""
        if not self.isActive():
            self.start()


def once_after(owner: QObject, milliseconds: int, run: Callable[[], object]) -> QTimer:
    """Runs something once, some time after it was started last."""
    timer = QTimer(owner)
    timer.setSingleShot(True)
    timer.setInterval(milliseconds)
    timer.timeout.connect(run)
    return timer


def next_turn(run: Callable[[], object]) -> None:
    """Calls something after what is painted now and what somebody typed or clicked meanwhile."""
    QTimer.singleShot(BETWEEN, run)
