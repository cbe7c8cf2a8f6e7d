"""A small sheet over the window's lower right, closed by a click elsewhere."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QFrame, QLineEdit, QWidget


class Popup(QFrame):
    """Floating ground, one width; a field, if there is one, has the keyboard.

    Args:
        parent: the window.
        width: pixels.
    """

    field: QLineEdit | None = None

    def __init__(self, parent: QWidget, width: int) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setProperty("floating", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setFixedWidth(width)

    def open_above(self, widget: QWidget) -> None:
        """Show it over a widget's upper edge."""
        self.adjustSize()
        corner = widget.mapToGlobal(QPoint(0, 0))
        self.move(corner.x() + widget.width() - self.width() - 8, corner.y() - self.height() - 8)
        self._show()

    def open_at(self, corner: QPoint) -> None:
        """Show it with its lower left corner at a place of the screen."""
        self.adjustSize()
        self.move(corner.x(), corner.y() - self.height())
        self._show()

    def open_below(self, widget: QWidget) -> None:
        """Show it under a widget's lower edge."""
        self.adjustSize()
        corner = widget.mapToGlobal(QPoint(0, widget.height() + 8))
        self.move(corner)
        self._show()

    def _show(self) -> None:
        self.show()
        if self.field is not None:
            self.field.setFocus(Qt.FocusReason.PopupFocusReason)
