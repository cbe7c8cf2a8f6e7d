"""Something to begin with: a sheet with a tab, a few words and one button."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button
from fox_hand.ui.widgets.sign import Sign

TAB, HIGH = 10, 122


class StartTile(QWidget):
    """One of three."""

    chosen = Signal()

    def __init__(self, theme: Theme, icon: str, title: str, text: str, action: str) -> None:
        super().__init__()
        self._theme = theme
        self.setFixedHeight(HIGH)
        name, words = Words(title), Words(text)
        name.setProperty("role", "title")
        words.setProperty("quiet", True)
        words.setWordWrap(True)
        self.button = Button(theme, action)
        self.button.setAccessibleName(f"{title}: {action}")
        self.button.clicked.connect(self.chosen)
        column = QVBoxLayout()
        column.setSpacing(0)
        column.addStretch(1)
        column.addWidget(name)
        column.addWidget(words)
        column.addStretch(1)
        line = QHBoxLayout(self)
        line.setContentsMargins(32, TAB, 16, 0)
        line.setSpacing(28)
        line.addWidget(Sign(theme, icon, 18))
        line.addLayout(column, 1)
        line.addWidget(self.button)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        theme, painter = self._theme, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("high"))
        painter.drawRoundedRect(QRectF(16, 0, 40, TAB + 8), 4, 4)
        painter.setPen(QPen(theme.colour("line"), 1))
        painter.setBrush(theme.colour("panel"))
        painter.drawRoundedRect(QRectF(0.5, TAB + 0.5, self.width() - 1, HIGH - TAB - 1), 8, 8)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("raised"))
        painter.drawRoundedRect(QRectF(16, TAB + (HIGH - TAB) / 2 - 24, 48, 48), 6, 6)
