"""What is being done, how far it is, and a way to stop it."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QRectF, Qt, QTimer
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.session.libraries.file_jobs import FileJobs
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button

PATIENCE = 300  # milliseconds; what is done sooner is not worth a bar


class WorkBar(QWidget):
    """Over the stage's upper edge while long work goes on."""

    def __init__(self, theme: Theme, stage: QWidget, file_jobs: FileJobs) -> None:
        super().__init__(stage)
        self._theme, self._stage = theme, stage
        self._share = 0.0
        self.setProperty("floating", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedSize(360, 40)
        self._label = Words()
        self.cancel = Button(theme, tr("Stop"), height=24)
        self.cancel.setToolTip(tr("What is done stays done; Undo takes it back"))
        self._stop: Callable[[], object] = file_jobs.cancel
        self._file_jobs = file_jobs
        self.cancel.clicked.connect(self._stopped)
        line = QHBoxLayout(self)
        line.setContentsMargins(12, 4, 8, 6)
        line.addWidget(self._label, 1)
        line.addWidget(self.cancel)
        self._wait = QTimer(self)
        self._wait.setSingleShot(True)
        self._wait.setInterval(PATIENCE)
        self._wait.timeout.connect(self._show)
        file_jobs.working.connect(self._on_work)
        self.hide()

    def _on_work(self, label: str, share: float) -> None:
        self._stop = self._file_jobs.cancel
        self.show_work(label, share)

    def follow(self, label: str, stop: Callable[[], object]) -> None:
        """Other work has begun; ``stop`` ends it early."""
        self._stop = stop
        self.show_work(label, 0.0)

    def end(self) -> None:
        """It is done."""
        self.show_work("", 1.0)

    def _stopped(self) -> None:
        self._stop()
        self.end()

    def show_work(self, label: str, share: float) -> None:
        """How far it is."""
        self._share = share
        words = f"{label}, {share * 100:.0f} %"
        room = self.width() - 100
        self._label.setText(
            self._label.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, room)
        )
        self.setAccessibleName(words)
        if share >= 1.0:
            self._wait.stop()
            self.hide()
        elif not self.isVisible() and not self._wait.isActive():
            self._wait.start()
        self.update()

    def _show(self) -> None:
        self.move((self._stage.width() - self.width()) // 2, 56)
        self.show()
        self.raise_()

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._theme.colour("line"))
        painter.drawRoundedRect(QRectF(12, self.height() - 6, self.width() - 24, 2), 1, 1)
        painter.setBrush(self._theme.colour("accent"))
        width = (self.width() - 24) * self._share
        painter.drawRoundedRect(QRectF(12, self.height() - 6, width, 2), 1, 1)
