"""Asks whether a large size of the interface stays; without an answer it goes back."""

from __future__ import annotations

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind

SECONDS = 10


class KeepSize(QWidget):
    """Floats in the middle of the window and counts down."""

    kept = Signal()
    refused = Signal()

    def __init__(self, theme: Theme, window: QWidget, size: int, before: int) -> None:
        super().__init__(window)
        self._over, self._size, self._before, self._left = window, size, before, SECONDS
        self.setProperty("floating", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._said = Words()
        self._said.setProperty("role", "title")
        self.keep = Button(theme, tr("Keep it"), kind=Kind.MAIN)
        self.back = Button(theme, tr("Back to {before} %", before=before))
        self.keep.clicked.connect(self._keep)
        self.back.clicked.connect(self._refuse)
        buttons = QHBoxLayout()
        buttons.setSpacing(8)
        buttons.addStretch(1)
        buttons.addWidget(self.back)
        buttons.addWidget(self.keep)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 16, 16, 12)
        column.setSpacing(12)
        column.addWidget(self._said)
        column.addLayout(buttons)
        self._timer = QTimer(self)
        self._timer.setInterval(1000)
        self._timer.timeout.connect(self.count)
        self._timer.start()
        self._say()

    def _say(self) -> None:
        self._said.setText(
            tr(
                "Does {size} % fit your screen? Back to {before} % in {left} s.",
                size=self._size,
                before=self._before,
                left=self._left,
            )
        )
        self.setAccessibleName(self._said.text())
        self.adjustSize()
        over = self._over
        self.move((over.width() - self.width()) // 2, (over.height() - self.height()) // 2)

    def count(self) -> None:
        """One second less."""
        self._left -= 1
        if self._left <= 0:
            self._refuse()
        else:
            self._say()

    def _keep(self) -> None:
        self._end()
        self.kept.emit()

    def _refuse(self) -> None:
        self._end()
        self.refused.emit()

    def _end(self) -> None:
        self._timer.stop()
        self.hide()
        self.deleteLater()
