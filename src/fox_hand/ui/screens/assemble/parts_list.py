"""The parts of one view, what is in front on top; dragged into another order."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QMouseEvent, QPainter, QPen

from fox_hand.base.language import tr, tr_n
from fox_hand.core.model.controls import Side
from fox_hand.core.naming.part_words import region_word
from fox_hand.core.puppet.drawn import PartDrawing
from fox_hand.core.puppet.puppet import PuppetPart
from fox_hand.ui.screens.assemble.part_images import PartImage
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.key_map import KeyMap, LocalKey
from fox_hand.ui.widgets.painted_list import PaintedList, PaintedRow

ROW, PICTURE = 36, 28
MIDDLE = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
LETTERS = {Side.LEFT: ("L", "left"), Side.RIGHT: ("R", "right")}
Images = Callable[[PartDrawing], PartImage | None]


class PartsList(PaintedList):
    """Rows of 36 px; Alt+Up and Alt+Down bring a part forwards and back."""

    chosen = Signal(str)  # name of a part
    placed = Signal(str, int)  # name of a part and its new place

    def __init__(self, theme: Theme, images: Images) -> None:
        super().__init__(tr("Parts, in front on top"))
        self._theme, self._images = theme, images
        self.parts: tuple[PuppetPart, ...] = ()
        self._doubtful: frozenset[str] = frozenset()
        self._dragged = self._gap = -1
        self.walked.connect(lambda row: self.chosen.emit(self.parts[row].name))
        self.keys = KeyMap(
            [
                LocalKey(("Alt+Up",), partial(self._bring, -1), tr("Bring a part forwards")),
                LocalKey(("Alt+Down",), partial(self._bring, 1), tr("Bring a part back")),
            ]
        )

    def show_parts(
        self, parts: tuple[PuppetPart, ...], doubtful: frozenset[str], chosen: str
    ) -> None:
        """Show other parts.

        Args:
            parts: in front first.
            doubtful: names of those of which something is only guessed.
            chosen: the one that is looked at.
        """
        self.parts, self._doubtful = parts, doubtful
        rows = [PaintedRow(self._words(part), ROW) for part in parts]
        names = [part.name for part in parts]
        self.show_painted(rows, names.index(chosen) if chosen in names else -1)

    def _words(self, part: PuppetPart) -> str:
        words = [part.called, region_word(part.region)]
        if part.side in LETTERS:
            words.append(LETTERS[part.side][1])
        words.append(tr_n("1 drawing", "{number} drawings", len(part.drawings)))
        if part.name in self._doubtful:
            words.append(tr("guessed"))
        return ", ".join(words)

    def paint_row(self, painter: QPainter, row: int) -> None:
        theme, part, width = self._theme, self.parts[row], self.viewport().width()
        if row in (self.row, self.over):
            painter.fillRect(
                QRectF(0, 0, width, ROW), theme.colour("raised" if row == self.row else "panel")
            )
        if row == self.row:
            painter.fillRect(QRectF(0, 0, 2, ROW), theme.colour("text"))
        self._paint_grip(painter)
        square = QRectF(24, 4, PICTURE, PICTURE)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("stage_middle"))
        painter.drawRoundedRect(square, 4, 4)
        image = self._images(part.seen)
        if image is not None:
            draw_within(painter, image.image, square.adjusted(2, 2, -2, -2))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.tokens.region(part.region)))
        painter.drawRoundedRect(QRectF(60, 15, 14, 6), 3, 3)
        self._paint_words(painter, part, width)
        if self._dragged >= 0 and row in (self._gap, self._gap - 1):
            y = 0.0 if row == self._gap else float(ROW - 2)
            painter.fillRect(QRectF(8, y, width - 16, 2), theme.colour("accent"))

    def _paint_grip(self, painter: QPainter) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._theme.colour("quiet"))
        for x in (8, 13):
            for y in (12, 17, 22):
                painter.drawEllipse(QRectF(x, y, 2, 2))

    def _paint_words(self, painter: QPainter, part: PuppetPart, width: int) -> None:
        theme = self._theme
        painter.setFont(theme.font(12, 600))
        painter.setPen(theme.colour("text"))
        metrics = painter.fontMetrics()
        end = width - 12
        count = str(len(part.drawings))
        painter.setPen(theme.colour("quiet"))
        painter.drawText(QRectF(end - 12, 0, 16, ROW), MIDDLE, count)
        if len(part.drawings) > 1:
            paint_swaps(painter, theme, QRectF(end - 32, 12, 12, 12))
        room = end - 40 - 82 - 40
        name = metrics.elidedText(part.called, Qt.TextElideMode.ElideRight, room)
        painter.setPen(theme.colour("text"))
        painter.drawText(QRectF(82, 0, room + 4, ROW), MIDDLE, name)
        x = 82 + metrics.horizontalAdvance(name) + 8
        if part.side in LETTERS:
            letter, colour = LETTERS[part.side]
            painter.setPen(theme.colour(colour))
            painter.drawText(QRectF(x, 0, 14, ROW), MIDDLE, letter)
            x += 16
        if part.name in self._doubtful:
            icon = theme.pixmap("circle-alert", 14, "warning", self.devicePixelRatioF())
            painter.drawPixmap(round(x), 11, icon)

    # -- order ----------------------------------------------------------------------------

    def _bring(self, way: int) -> bool:
        row = self.row
        if not 0 <= row < len(self.parts) or not 0 <= row + way < len(self.parts):
            return False
        self.placed.emit(self.parts[row].name, row + way)
        return True

    def mousePressEvent(self, event: QMouseEvent) -> None:
        row = self.row_at(event.position().toPoint().y())
        event.accept()
        if row >= 0 and event.button() is Qt.MouseButton.LeftButton:
            self.go_to(row)
            self._dragged, self._gap = row, -1

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        super().mouseMoveEvent(event)
        if self._dragged < 0 or not event.buttons() & Qt.MouseButton.LeftButton:
            return
        y = event.position().y() + self.verticalScrollBar().value()
        gap = max(0, min(round(y / ROW), len(self.parts)))
        self._gap = -1 if gap in (self._dragged, self._dragged + 1) else gap
        self.viewport().update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        del event
        row, gap = self._dragged, self._gap
        self._dragged = self._gap = -1
        if row >= 0 and gap >= 0:
            self.placed.emit(self.parts[row].name, gap - (gap > row))
        self.viewport().update()


def draw_within(painter: QPainter, image: QImage, square: QRectF) -> None:
    """What is drawn of a picture, as large as it fits."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    scale = min(square.width() / image.width(), square.height() / image.height())
    wide, high = image.width() * scale, image.height() * scale
    middle = square.center()
    painter.drawImage(QRectF(middle.x() - wide / 2, middle.y() - high / 2, wide, high), image)
    painter.restore()


def paint_swaps(painter: QPainter, theme: Theme, box: QRectF) -> None:
    """Two stacked sheets: the sign of a part that has several drawings."""
    painter.save()
    painter.setPen(QPen(theme.colour("quiet"), 1.25))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    side = box.width() * 0.68
    painter.drawRect(QRectF(box.right() - side, box.top(), side, side))
    painter.setBrush(theme.colour("panel"))
    painter.drawRect(QRectF(box.left(), box.bottom() - side, side, side))
    painter.restore()
