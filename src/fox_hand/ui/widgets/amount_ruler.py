"""The ruler of the mix bar: how much of a card is on."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QImage, QPainter, QPaintEvent, QPen, QPolygonF

from fox_hand.base.language import tr
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import draw_focus
from fox_hand.ui.widgets.painted_slider import PaintedSlider

SNAP = 0.012  # a pull this near to a stop lands on it
SMALL = 36


class AmountRuler(PaintedSlider):
    """Percent with a small live picture at every stop. Drag, wheel, arrows.

    Args:
        theme: colours and type.
        ends: lowest and highest amount.
        stops: amounts with a number, on which a pull lands when it comes near.
        pictures: whether a small one stands at every stop.
        usual: the amount a double click goes back to.
    """

    def __init__(
        self,
        theme: Theme,
        ends: tuple[float, float],
        stops: tuple[float, ...],
        *,
        pictures: bool = False,
        usual: float = 1.0,
    ) -> None:
        super().__init__(ends, tr("Amount"), usual)
        self._theme, self._stops, self._pictures = theme, stops, pictures
        self._images: dict[float, QImage] = {}
        self._steps = False
        self.show_amount(1.0)
        self.setMinimumWidth(150)
        self._above = SMALL if pictures else 0
        self.setFixedHeight(40 + self._above)

    def sizeHint(self) -> QSize:
        return QSize(330, 40 + self._above)

    def show_image(self, stop: float, image: QImage) -> None:
        self._images[stop] = image
        self.update()

    def show_step(self, step: bool) -> None:
        """Whether something changes at once at the half, as drawings do."""
        if step != self._steps:
            self._steps = step
            self.update()

    def clear_images(self) -> None:
        self._images.clear()
        self.update()

    def x_of(self, amount: float) -> float:
        """Where an amount is, in widget pixels."""
        low, high = self._ends
        return 20 + (amount - low) / (high - low) * (self.width() - 40)

    def amount_at(self, x: float) -> float:
        """The amount that a pull to a place means; near to a stop, the stop."""
        low, high = self._ends
        amount = low + (x - 20) / max(self.width() - 40, 1) * (high - low)
        amount = min(max(amount, low), high)
        near = min(self._stops, key=lambda stop: abs(stop - amount))
        return near if abs(near - amount) < SNAP else round(amount, 2)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        theme, painter = self._theme, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        size = min(SMALL, (self.x_of(0.5) - self.x_of(0.0)) - 4)
        for stop in self._stops if self._pictures else ():
            at = QRectF(self.x_of(stop) - size / 2, SMALL - size, size, size)
            image = self._images.get(stop)
            painter.setOpacity(1.0 if 0 <= stop <= 1 else 0.6)
            if image is None:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(theme.colour("raised"))
                painter.drawRoundedRect(at, 4, 4)
            else:
                painter.drawImage(at, image)
        painter.setOpacity(1.0)
        painter.translate(0, self._above)
        self._paint_track(painter)
        if self.shows_focus:
            draw_focus(painter, theme, QRectF(2, 4, self.width() - 4, 36), 6)

    def _paint_step(self, painter: QPainter, y: float) -> None:
        """A step at the half: low before it, high behind it."""
        middle = self.x_of(0.5)
        painter.setPen(QPen(self._theme.colour("text"), 1.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(
            [
                QPointF(middle - 5, y + 6),
                QPointF(middle, y + 6),
                QPointF(middle, y - 6),
                QPointF(middle + 5, y - 6),
            ]
        )

    def _paint_track(self, painter: QPainter) -> None:
        theme, y = self._theme, 12.0
        low, high, zero, full = (self.x_of(v) for v in (*self._ends, 0.0, 1.0))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("line"))
        painter.drawRect(QRectF(low, y - 1, high - low, 2))
        painter.drawRoundedRect(QRectF(zero, y - 3, full - zero, 6), 3, 3)
        painter.setBrush(theme.colour("accent"))
        here = self.x_of(self.amount)
        painter.drawRoundedRect(QRectF(min(zero, here), y - 3, abs(here - zero), 6), 3, 3)
        if self._steps:
            self._paint_step(painter, y)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("quiet"))
        for tick in range(round(self._ends[0] * 100), round(self._ends[1] * 100) + 1, 5):
            if tick % 10 and tick / 100 not in self._stops:
                continue
            tall = 6 if tick / 100 in self._stops else 4
            painter.drawRect(QRectF(self.x_of(tick / 100) - 0.5, y + 7, 1, tall))
        painter.setFont(theme.font(11))
        for stop in self._stops:
            on = abs(stop - self.amount) < 1e-6
            painter.setPen(theme.colour("text" if on else "quiet"))
            rect = QRectF(self.x_of(stop) - 24, y + 13, 48, 14)
            painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, f"{stop * 100:.0f}")
        pointer = QPolygonF(
            [
                QPointF(here, y - 12),
                QPointF(here + 7, y - 5),
                QPointF(here + 7, y + 10),
                QPointF(here - 7, y + 10),
                QPointF(here - 7, y - 5),
            ]
        )
        painter.setPen(theme.colour("panel"))
        painter.setBrush(theme.colour("accent"))
        painter.drawPolygon(pointer)
