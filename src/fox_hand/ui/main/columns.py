"""The columns of the window: figure, stage over strip, sheets; their widths are remembered."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QSplitter, QStackedWidget, QWidget

from fox_hand.base.language import tr
from fox_hand.session.runtime.settings import Settings
from fox_hand.ui.commands.actions import Command
from fox_hand.ui.main.timeline_area import TimelineArea

NARROW = 1200  # pixels of the window, below which the right column stays small
HEADER = 44


class WindowColumns(QSplitter):
    """Left of its handle figure and stage over the strip, right of it the sheets.

    Args:
        figure, stage, timeline: the left part.
        sheets, capture: one of the two is at the right.
        settings: where widths are kept.
        beside: how much room the sheets take for something beside them, in pixels.
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
        beside: Callable[[], int],
    ) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self._figure, self._timeline, self._settings = figure, timeline, settings
        self._sheets, self._capture, self._beside = sheets, capture, beside
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
        self.right.setVisible(on or not self._settings.sheets_hidden)

    def commands(self) -> list[Command]:
        """Hiding columns, and the side of the sheets."""
        said = self._settings
        return [
            Command(
                "hide_figure",
                tr("Figure column"),
                partial(self._toggle, "figure_hidden"),
                ("F6",),
                tr("Everywhere"),
                checked=lambda: not said.figure_hidden,
            ),
            Command(
                "hide_sheets",
                tr("Sheets column"),
                partial(self._toggle, "sheets_hidden"),
                ("F7",),
                tr("Everywhere"),
                checked=lambda: not said.sheets_hidden,
            ),
            Command(
                "sheets_left",
                tr("Sheets on the left"),
                partial(self._toggle, "sheets_left"),
                group=tr("Everywhere"),
                checked=lambda: said.sheets_left,
            ),
        ]

    def _toggle(self, name: str) -> None:
        setattr(self._settings, name, not getattr(self._settings, name))
        self.restore(self.width(), self.height() + HEADER)
        self.moved.emit()

    @property
    def left_width(self) -> int:
        """Pixels of the figure's column; of its usual width while it is hidden."""
        return self._settings.figure_width if self._figure.isHidden() else self._figure.width()

    @property
    def _beside_now(self) -> int:
        return self._beside() if self.right.currentWidget() is self._sheets else 0

    def make_room(self) -> None:
        """The sheets need more room, or less; a window that is not laid out yet does it then."""
        if self.width() > self.right.minimumWidth() + 232:
            self.restore(self.width(), self.height() + HEADER)
            self.moved.emit()

    def show_sheets(self) -> None:
        """Something is looked for in the sheets: they come back if they were hidden."""
        if self._settings.sheets_hidden:
            self._toggle("sheets_hidden")

    def _arrange(self) -> None:
        said, capturing = self._settings, self.right.currentWidget() is self._capture
        self._figure.setVisible(not said.figure_hidden)
        self.right.setVisible(capturing or not said.sheets_hidden)
        wanted = 0 if said.sheets_left else 1
        if self.indexOf(self.right) != wanted:
            self.insertWidget(wanted, self.right)
            for number, widget in enumerate((self.widget(0), self.widget(1))):
                self.setStretchFactor(number, int(widget is self.upright))

    def restore(self, width: int, height: int) -> None:
        """As they were last, in a window of this size."""
        settings = self._settings
        self._arrange()
        right = settings.sheets_width if width >= NARROW else min(settings.sheets_width, 256)
        right += self._beside_now
        sizes = [width - right - 1, right]
        self.setSizes(sizes[::-1] if settings.sheets_left else sizes)
        self._inner.setSizes([settings.figure_width, width - right - settings.figure_width - 2])
        strip = settings.strip_height or (212 if height >= 760 else 152)
        self.upright.setSizes([height - HEADER - strip, strip])

    def _moved(self) -> None:
        if self._figure.isVisible():
            self._settings.figure_width = self._figure.width()
        if self.right.isVisible():
            self._settings.sheets_width = max(self.right.width() - self._beside_now, 256)
        if not self._timeline.of_review:
            self._settings.strip_height = self._timeline.height()
        self.moved.emit()
