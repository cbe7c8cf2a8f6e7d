"""Icons that stay where they are put, in the colours that are worn."""

from __future__ import annotations

from PySide6.QtCore import QObject
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QLineEdit, QWidget

from fox_hand.ui.theme.theme import Theme


class Sign(QWidget):
    """One icon.

    Args:
        theme: colours.
        icon: its name.
        size: pixels along both edges.
        tone: the token it is drawn in.
    """

    def __init__(self, theme: Theme, icon: str, size: int = 16, tone: str = "text") -> None:
        super().__init__()
        self._theme, self._icon, self._tone = theme, icon, tone
        self.setFixedSize(size, size)

    def show_icon(self, icon: str, tone: str) -> None:
        """Another icon in the same place."""
        self._icon, self._tone = icon, tone
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        ratio = self.devicePixelRatioF()
        pixmap = self._theme.pixmap(self._icon, self.width(), self._tone, ratio)
        QPainter(self).drawPixmap(0, 0, pixmap)


class SearchSign(QObject):
    """The sign of a field in which something is looked for; it goes with the field."""

    def __init__(self, field: QLineEdit, theme: Theme) -> None:
        super().__init__(field)
        self._theme = theme
        leading = QLineEdit.ActionPosition.LeadingPosition
        self._action = field.addAction(theme.icon("search", 16, "quiet"), leading)
        theme.changed.connect(self._wear)

    def _wear(self) -> None:
        self._action.setIcon(self._theme.icon("search", 16, "quiet"))
