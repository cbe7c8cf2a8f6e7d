"""Layouts: widgets in lines, as words in a text, and widgets that come while people look."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRect, QSize
from PySide6.QtWidgets import QLayout, QLayoutItem, QWidget


class Flow(QLayout):
    """Key groups in as many lines as they need."""

    def __init__(self, gap: int = 4) -> None:
        super().__init__()
        self._items: list[QLayoutItem] = []
        self._gap = gap

    def addItem(self, item: QLayoutItem) -> None:
        self._items.append(item)

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self._arrange(QRect(0, 0, width, 0), False)

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        self._arrange(rect, True)

    def sizeHint(self) -> QSize:
        return QSize(100, self.heightForWidth(208))

    def minimumSize(self) -> QSize:
        return QSize(60, 24)

    def _arrange(self, rect: QRect, move: bool) -> int:
        margins = self.contentsMargins()
        inner = rect.adjusted(margins.left(), margins.top(), -margins.right(), 0)
        x, y, line = inner.left(), inner.top(), 0
        for item in self._items:
            size = item.sizeHint()
            if x > inner.left() and x + size.width() > inner.right() + 1:
                x, y, line = inner.left(), y + line + self._gap, 0
            if move:
                item.setGeometry(QRect(QPoint(x, y), size))
            x += size.width() + self._gap
            line = max(line, size.height())
        return y + line - rect.top() + margins.bottom()


def add_shown(layout: QLayout, widget: QWidget) -> None:
    """Add a widget and show it. A layout would show it by a message of its own, and lay out
    everything in it anew for each: of twenty that come together twenty times."""
    parent = layout.parentWidget()
    if parent is not None:
        widget.setParent(parent)
        widget.show()
    layout.addWidget(widget)
