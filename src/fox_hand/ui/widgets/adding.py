"""Widgets that come into a layout that people look at."""

from __future__ import annotations

from PySide6.QtWidgets import QLayout, QWidget


def add_shown(layout: QLayout, widget: QWidget) -> None:
    """Add a widget and show it. A layout would show it by a message of its own, and lay out
    everything in it anew for each: of twenty that come together twenty times."""
    parent = layout.parentWidget()
    if parent is not None:
        widget.setParent(parent)
        widget.show()
    layout.addWidget(widget)
