"""Parts of the capture panel: the live picture and the warnings."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import (
    QDragEnterEvent,
    QDropEvent,
    QImage,
    QPainter,
    QPainterPath,
    QPaintEvent,
)
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.ui.cards.card_drag import picture_in
from fox_hand.ui.theme.plain_text import Words, plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button
from fox_hand.ui.widgets.sign import Sign

LIVE = 96


class RoundedPicture(QWidget):
    """A picture, or an empty place for one.

    Args:
        theme: colours.
        edge: pixels.
        name: what it is called.
    """

    def __init__(self, theme: Theme, edge: int, name: str) -> None:
        super().__init__()
        self._theme = theme
        self.image = QImage()
        self.setFixedSize(edge, edge)
        self.setAccessibleName(name)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        path = QPainterPath()
        path.addRoundedRect(QRectF(self.rect()), 6, 6)
        painter.setClipPath(path)
        painter.fillRect(self.rect(), self._theme.colour("raised"))
        if not self.image.isNull():
            painter.drawImage(QRectF(self.rect()), self.image)


class LivePicture(RoundedPicture):
    """What the card's picture will be, 96 px; a picture file can be dropped on it."""

    dropped = Signal(object)  # path

    def __init__(self, theme: Theme) -> None:
        super().__init__(theme, LIVE, tr("Live picture"))
        self.setAcceptDrops(True)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if picture_in(event.mimeData()) is not None:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        path = picture_in(event.mimeData())
        if path is not None:
            event.acceptProposedAction()
            self.dropped.emit(path)


class WarningRow(QWidget):
    """Something a person must decide, 44 px or as many lines as a narrow panel makes of it, with
    the button that does it."""

    def __init__(self, theme: Theme, icon: str, action: str) -> None:
        super().__init__()
        self.setMinimumHeight(44)
        self.setProperty("plate", "warning")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        mark = Sign(theme, icon, 16, "warning")
        self._title = Words()
        self._title.setProperty("tone", "warned")
        self._names = Words()
        for label in (self._title, self._names):
            label.setWordWrap(True)
        self.button = Button(theme, action)
        words = QVBoxLayout()
        words.setSpacing(0)
        words.addWidget(self._title)
        words.addWidget(self._names)
        line = QHBoxLayout(self)
        line.setContentsMargins(8, 4, 8, 4)
        line.setSpacing(8)
        line.addWidget(mark)
        line.addLayout(words, 1)
        line.addWidget(self.button)

    def tell(self, title: str, names: Sequence[str]) -> None:
        """Show it, or hide it where there are no names."""
        self.setVisible(bool(names))
        self._title.setText(title)
        text = ", ".join(names[:3]) + (
            tr(" and {count} more", count=len(names) - 3) if len(names) > 3 else ""
        )
        self._names.setText(text)
        self.setToolTip(plain_tip(", ".join(names)))
