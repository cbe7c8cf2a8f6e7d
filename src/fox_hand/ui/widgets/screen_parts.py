"""What the full screens (Fit, Compare, Care) have in common."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QScrollArea, QWidget

from fox_hand.base.language import tr
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind


def back_to_stage(theme: Theme) -> Button:
    """The button that every full screen begins with."""
    return Button(theme, tr("Back to the stage"), icon="arrow-left", key="Esc")


def screen_top(back: Button, title: str, *right: QWidget) -> QHBoxLayout:
    """The first row of a screen: the way back, its name, and what belongs at the right."""
    label = Words(title)
    label.setProperty("role", "screen")
    row = QHBoxLayout()
    row.setContentsMargins(12, 8, 12, 0)
    row.setSpacing(12)
    row.addWidget(back)
    row.addWidget(label)
    row.addStretch(1)
    for widget in right:
        row.addWidget(widget)
    return row


def undo_and_redo(theme: Theme) -> tuple[Button, Button]:
    """The two buttons of a screen with undo of its own; the window's keys press them."""
    return (
        Button(theme, icon="undo-2", kind=Kind.FLAT, tip=tr("Undo")),
        Button(theme, icon="redo-2", kind=Kind.FLAT, tip=tr("Redo")),
    )


def screen_panel() -> QWidget:
    """A ground for one subject of a screen."""
    panel = QWidget()
    panel.setProperty("panel", True)
    panel.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
    return panel


def scrolled(widget: QWidget) -> QScrollArea:
    """A list that scrolls up and down and takes the keyboard itself."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setWidget(widget)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    area.setAlignment(Qt.AlignmentFlag.AlignTop)
    return area
