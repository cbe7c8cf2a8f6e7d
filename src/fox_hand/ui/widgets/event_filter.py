"""Hears what a widget is told before the widget does."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject
from PySide6.QtWidgets import QWidget


class EventFilter(QObject):
    """Asked about every event of a widget; true from ``hear`` ends it there.

    Overriding ``event`` and handing on to the toolkit would put the widget's other handlers inside
    that call, and the binding ends the program when one of them raises there.

    Args:
        widget: whose events.
        hear: looks at an event.
    """

    def __init__(self, widget: QWidget, hear: Callable[[QEvent], bool]) -> None:
        super().__init__(widget)
        self._hear = hear
        widget.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        del watched
        # gone where the interpreter has cleared a window that the toolkit has yet to delete
        hear: Callable[[QEvent], bool] | None = self.__dict__.get("_hear")
        return hear is not None and hear(event)
