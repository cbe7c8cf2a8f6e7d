"""The columns of the window: figure, stage over strip, sheets; their widths are remembered."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QSplitter, QStackedWidget, QWidget

from fox_hand.session.runtime.settings import Settings
from fox_hand.ui.main.timeline_area import TimelineArea

NARROW = 1200  # pixels of the window, below which the right column stays small
HEADER = 44


class WindowColumns(QSplitter):
    """Left of its handle figure and stage over the strip, right of it the sheets.

    Args:
        figure, stage, timeline: the left part.
        sheets, capture: one of the two is at the right.
        settings: where widths are kept.
    """

    moved = Signal()

    def __init__(
        self,
        figure: QWidget,
        stage: QWidget,
        timeline: TimelineArea,
        sheets: QWidget,
        capture: QWidget,
        settings: Settings,
    ) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self._figure, self._timeline, self._settings = figure, timeline, settings
        self._sheets, self._capture = sheets, capture
        self.right = QStackedWidget()
        self.right.addWidget(sheets)
        self.right.addWidget(capture)
        self.right.setMinimumWidth(256)
        figure.setMinimumWidth(232)
        self._inner = QSplitter(Qt.Orientation.Horizontal)
        self._inner.addWidget(figure)
        self._inner.addWidget(stage)
        self.upright = QSplitter(Qt.Orientation.Vertical)
        self.upright.addWidget(self._inner)
        timeline.lie_in(self.upright)
        self.addWidget(self.upright)
        self.addWidget(self.right)
        for splitter, keeps in ((self._inner, 1), (self, 0), (self.upright, 0)):
            splitter.setHandleWidth(1)
            splitter.setChildrenCollapsible(False)
            splitter.setStretchFactor(keeps, 1)
            splitter.setStretchFactor(1 - keeps, 0)
            splitter.splitterMoved.connect(self._moved)

    def show_capture(self, on: bool) -> None:
        """The capture panel at the right, or the sheets."""
        self.right.setCurrentWidget(self._capture if on else self._sheets)

    def restore(self, width: int, height: int) -> None:
        """As they were last, in a window of this size."""
        settings = self._settings
        right = settings.sheets_width if width >= NARROW else min(settings.sheets_width, 256)
        self.setSizes([width - right - 1, right])
        self._inner.setSizes([settings.figure_width, width - right - settings.figure_width - 2])
        strip = settings.strip_height or (212 if height >= 760 else 152)
        self.upright.setSizes([height - HEADER - strip, strip])

    def _moved(self) -> None:
        self._settings.figure_width = self._figure.width()
        self._settings.sheets_width = self.right.width()
        if not self._timeline.of_review:
            self._settings.strip_height = self._timeline.height()
        self.moved.emit()
