"""Two fingers that spread or close: on a touchpad, and on a screen that is touched."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QNativeGestureEvent
from PySide6.QtWidgets import QGestureEvent, QPinchGesture, QWidget

from fox_hand.ui.widgets.event_filter import EventFilter


def follow_pinch(widget: QWidget, zoom: Callable[[float, QPointF], None]) -> None:
    """Zoom by what two fingers do.

    Args:
        widget: over which they are.
        zoom: is told by how much nearer (above 1) or farther, and around which point of the widget.
    """

    def hear(event: QEvent) -> bool:
        if isinstance(event, QNativeGestureEvent):
            if event.gestureType() is not Qt.NativeGestureType.ZoomNativeGesture:
                return False
            zoom(max(1.0 + event.value(), 0.1), event.position())
            return True
        if isinstance(event, QGestureEvent):
            pinch = event.gesture(Qt.GestureType.PinchGesture)
            if not isinstance(pinch, QPinchGesture):
                return False
            if pinch.scaleFactor() > 0:
                middle = widget.mapFromGlobal(pinch.hotSpot().toPoint())
                zoom(pinch.scaleFactor(), QPointF(middle))
            event.accept(pinch)
            return True
        return False

    widget.grabGesture(Qt.GestureType.PinchGesture)
    EventFilter(widget, hear)
