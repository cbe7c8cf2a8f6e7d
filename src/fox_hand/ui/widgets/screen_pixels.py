"""Pictures as fine as the screen that a widget is on, which the next one may be finer than."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent
from PySide6.QtWidgets import QWidget

from fox_hand.ui.widgets.event_filter import EventFilter


def in_pixels(widget: QWidget, room: tuple[int, int]) -> tuple[int, int]:
    """A width and a height of a widget in pixels of its screen."""
    ratio = widget.devicePixelRatioF()
    return round(room[0] * ratio), round(room[1] * ratio)


def follow_screen(widget: QWidget, draw: Callable[[], object]) -> EventFilter:
    """Draw anew when a widget has come to a screen that is finer or coarser."""

    def hear(event: QEvent) -> bool:
        if event.type() is QEvent.Type.DevicePixelRatioChange:
            draw()
        return False

    return EventFilter(widget, hear)
