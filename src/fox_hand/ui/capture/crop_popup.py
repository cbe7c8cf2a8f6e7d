"""Which square of a picture becomes the picture of a card."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QFocusEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QWheelEvent,
)
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.library.format.thumb import Square
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind, draw_focus
from fox_hand.ui.widgets.key_map import ENTER, KeyMap, LocalKey
from fox_hand.ui.widgets.popup import Popup

WIDTH, TALLEST = 344, 320
LEAST = 16  # pixels of the picture
STEP, GROW = 0.02, 1.1
CORNER = 12  # pixels around a corner that size the square


class CropView(QWidget):
    """The whole picture with a square on it. Drag it to move, a corner or the wheel to size;
    arrows move, + and - size.

    Args:
        theme: colours.
        image: the picture.
    """

    def __init__(self, theme: Theme, image: QImage) -> None:
        super().__init__()
        self._theme, self._image = theme, image
        width, height = image.width(), image.height()
        edge = min(width, height)
        self.square = Square((width - edge) / 2, (height - edge) / 2, edge)
        scale = min((WIDTH - 24) / width, TALLEST / height)
        self.setFixedSize(QSize(max(round(width * scale), 1), max(round(height * scale), 1)))
        self._scale = scale
        self._held: tuple[QPointF, Square, bool] | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Part of the picture that is taken"))
        self.setCursor(Qt.CursorShape.SizeAllCursor)
        moves = {"Left": (-STEP, 0), "Right": (STEP, 0), "Up": (0, -STEP), "Down": (0, STEP)}
        self.keys = KeyMap(
            [
                *(LocalKey((name,), partial(self._step, *way)) for name, way in moves.items()),
                LocalKey(("+", "="), partial(self._grow, GROW)),
                LocalKey(("-",), partial(self._grow, 1 / GROW)),
            ]
        )

    def _step(self, across: float, down: float) -> None:
        edge = self.square.edge
        self._set(self.square.left + across * edge, self.square.top + down * edge, edge)

    def _grow(self, factor: float) -> None:
        """About its middle."""
        now = self.square
        edge = min(max(now.edge * factor, LEAST), self._image.width(), self._image.height())
        shift = (now.edge - edge) / 2
        self._set(now.left + shift, now.top + shift, edge)

    def _set(self, left: float, top: float, edge: float) -> None:
        left = min(max(left, 0.0), self._image.width() - edge)
        top = min(max(top, 0.0), self._image.height() - edge)
        self.square = Square(left, top, edge)
        self.update()

    def _shown(self) -> QRectF:
        now, scale = self.square, self._scale
        return QRectF(now.left * scale, now.top * scale, now.edge * scale, now.edge * scale)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at, shown = event.position(), self._shown()
        corner = (at - shown.bottomRight()).manhattanLength() < 2 * CORNER
        self._held = at, self.square, corner

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is None:
            return
        start, before, corner = self._held
        gone = (event.position() - start) / self._scale
        if not corner:
            self._set(before.left + gone.x(), before.top + gone.y(), before.edge)
            return
        room = min(self._image.width() - before.left, self._image.height() - before.top)
        edge = min(max(before.edge + max(gone.x(), gone.y()), LEAST), room)
        self._set(before.left, before.top, edge)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        del event
        self._held = None

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._grow(GROW if event.angleDelta().y() > 0 else 1 / GROW)
        event.accept()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter, shown = QPainter(self), self._shown()
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), self._theme.colour("raised"))
        painter.drawImage(QRectF(self.rect()), self._image)
        outside = QPainterPath()
        outside.setFillRule(Qt.FillRule.OddEvenFill)
        outside.addRect(QRectF(self.rect()))
        outside.addRect(shown)
        shade = self._theme.colour("panel", 0.6)
        painter.fillPath(outside, shade)
        painter.setPen(QPen(self._theme.colour("accent"), 2))
        painter.drawRect(shown.adjusted(1, 1, -1, -1))
        grip = QRectF(0, 0, 8, 8)
        grip.moveCenter(shown.bottomRight() - QPointF(4, 4))
        painter.fillRect(grip, self._theme.colour("accent"))
        if self.hasFocus():
            draw_focus(painter, self._theme, QRectF(self.rect()).adjusted(2, 2, -2, -2), 4)


class CropPopup(Popup):
    """Shows a picture and asks which square of it is taken.

    Args:
        theme, parent: as of other popups.
        image: the picture.
        name: of the card it is for.
    """

    agreed = Signal(object)  # Square

    def __init__(self, theme: Theme, parent: QWidget, image: QImage, name: str) -> None:
        super().__init__(parent, WIDTH)
        title = Words(tr("Picture of {name}", name=name))
        title.setProperty("role", "title")
        self.view = CropView(theme, image)
        said = Words(tr("Drag the square, size it by its corner or the wheel."))
        said.setProperty("quiet", True)
        self.take = Button(theme, tr("Take this part"), kind=Kind.MAIN, key="Enter")
        self.take.clicked.connect(self._agree)
        stop = Button(theme, tr("Cancel"), key="Esc")
        stop.clicked.connect(self.close)
        foot = QHBoxLayout()
        foot.addStretch(1)
        foot.addWidget(stop)
        foot.addWidget(self.take)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 12)
        column.setSpacing(8)
        column.addWidget(title)
        column.addWidget(self.view, 0, Qt.AlignmentFlag.AlignHCenter)
        column.addWidget(said)
        column.addLayout(foot)
        self.keys = KeyMap([LocalKey(ENTER, self._agree)])
        self.view.setFocus(Qt.FocusReason.PopupFocusReason)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            super().keyPressEvent(event)

    def _agree(self) -> None:
        self.agreed.emit(self.view.square)
        self.close()
