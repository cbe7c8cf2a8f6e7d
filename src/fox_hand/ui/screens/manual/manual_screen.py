"""The manual inside the window: pages at the left, words looked for, the page itself."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.base.manual import ManualHit, ManualPage, found_in, pages
from fox_hand.ui.screens.manual.page_view import PageView
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button
from fox_hand.ui.widgets.fields.completing import clearable
from fox_hand.ui.widgets.painted_list import PaintedList, PaintedRow
from fox_hand.ui.widgets.screen_parts import back_to_stage, screen_panel, screen_top
from fox_hand.ui.widgets.sign import SearchSign

LEFT, ROW, HIT = 248, 28, 52
MIDDLE = Qt.AlignmentFlag.AlignVCenter


class ManualList(PaintedList):
    """Pages, or where words were found."""

    def __init__(self, theme: Theme) -> None:
        super().__init__(tr("Pages of the manual"))
        self._theme = theme
        self._entries: list[ManualHit] = []
        self.setFixedWidth(LEFT)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def show_entries(self, entries: list[ManualHit], current: int) -> None:
        """Pages; those without a line are only named."""
        self._entries = entries
        rows = [
            PaintedRow(f"{e.page.title} {e.line}".strip(), HIT if e.line else ROW) for e in entries
        ]
        self.show_painted(rows, current)

    def paint_row(self, painter: QPainter, row: int) -> None:
        theme, entry, wide = self._theme, self._entries[row], self.viewport().width()
        height = HIT if entry.line else ROW
        if row in (self.row, self.over):
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour("high" if row == self.row else "raised"))
            painter.drawRoundedRect(QRectF(0, 1, wide, height - 2), 6, 6)
        painter.setFont(theme.font(12, 600 if row == self.row or entry.line else 400))
        painter.setPen(theme.colour("text"))
        metrics = painter.fontMetrics()
        title = metrics.elidedText(entry.page.title, Qt.TextElideMode.ElideRight, wide - 24)
        painter.drawText(QRectF(12, 0, wide - 24, ROW), MIDDLE, title)
        if entry.line:
            painter.setFont(theme.font(11))
            painter.setPen(theme.colour("text" if row == self.row else "quiet"))
            line = painter.fontMetrics().elidedText(
                entry.line, Qt.TextElideMode.ElideRight, wide - 24
            )
            painter.drawText(QRectF(12, 24, wide - 24, 22), MIDDLE, line)


class ManualScreen(QWidget):
    """All pages."""

    closed = Signal()
    keys_asked = Signal()

    def __init__(self, theme: Theme, folder: Path) -> None:
        super().__init__()
        self._folder = folder
        self._entries: list[ManualHit] = []
        self.back_button = back_to_stage(theme)
        self.keys_button = Button(theme, tr("Keys and pointer"), icon="keyboard")
        self.search = QLineEdit()
        self.search.setPlaceholderText(tr("Find in the manual"))
        self.search.setAccessibleName(tr("Find in the manual"))
        self.search.setFixedSize(LEFT, 28)
        clearable(self.search)
        SearchSign(self.search, theme)
        self.list = ManualList(theme)
        self.view = PageView(theme)
        left = QVBoxLayout()
        left.setSpacing(8)
        left.addWidget(self.search)
        left.addWidget(self.list, 1)
        panel = screen_panel()
        inside = QHBoxLayout(panel)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.addWidget(self.view, 10)
        inside.addStretch(1)
        body = QHBoxLayout()
        body.setContentsMargins(12, 8, 12, 12)
        body.setSpacing(12)
        body.addLayout(left)
        body.addWidget(panel, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(screen_top(self.back_button, tr("Manual"), self.keys_button))
        column.addLayout(body, 1)
        self.back_button.clicked.connect(self.closed)
        self.keys_button.clicked.connect(self.keys_asked)
        self.search.textChanged.connect(self._find)
        self.list.walked.connect(self._show_row)
        self.view.asked.connect(self.show_page)

    @property
    def page(self) -> ManualPage | None:
        """The one that is read."""
        row = self.list.row
        return self._entries[row].page if 0 <= row < len(self._entries) else None

    def begin(self, name: str) -> None:
        """Open it at a page."""
        self.search.clear()
        self.show_page(name)
        self.list.setFocus(Qt.FocusReason.OtherFocusReason)

    def show_page(self, name: str) -> None:
        """A page by its name, such as ``3-pose``; the first where there is none of that name."""
        if self.search.text():
            self.search.clear()
        self._entries = [ManualHit(page, "", 0) for page in pages(self._folder)]
        names = [entry.page.name for entry in self._entries]
        row = names.index(name) if name in names else 0
        self.list.show_entries(self._entries, row if names else -1)
        self._show_row(row)

    def _find(self, text: str) -> None:
        page = self.page
        if not text.strip():
            self.show_page(page.name if page is not None else "")
            return
        self._entries = found_in(self._folder, text)
        self.list.show_entries(self._entries, 0 if self._entries else -1)
        self._show_row(0)

    def _show_row(self, row: int) -> None:
        if 0 <= row < len(self._entries):
            self.view.show_page(self._entries[row].page, self.search.text().strip())
