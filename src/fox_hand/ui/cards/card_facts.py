"""What is known about one card, at the foot of the sheets."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QWidget

from fox_hand.base.language import tr
from fox_hand.library.format.entry import Entry
from fox_hand.library.index.picture_cache import PictureCache
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.ui.cards.card_pictures import CardPictures
from fox_hand.ui.cards.card_words import describe, signed
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind

HEIGHT = 108


class Facts(QWidget):
    """Picture, words and tags of a card, its star and its menu."""

    menu_asked = Signal(object, QPoint)
    favourite = Signal(object)

    def __init__(self, theme: Theme, open_libraries: OpenLibraries, cache: PictureCache) -> None:
        super().__init__()
        self._theme, self._open_libraries = theme, open_libraries
        self._entry: Entry | None = None
        self._pictures = CardPictures(open_libraries.jobs, cache, self.update)
        self.star = Button(theme, icon="star", kind=Kind.FLAT, tip=tr("Favourite"), height=24)
        self.star.setCheckable(True)
        self.star.clicked.connect(lambda: self.favourite.emit(self._entry))
        self.more = Button(
            theme, icon="ellipsis", kind=Kind.FLAT, tip=tr("What can be done with it"), height=24
        )
        self.more.clicked.connect(self._ask_menu)
        for button in (self.star, self.more):
            button.setParent(self)
            button.hide()
        self.setFixedHeight(HEIGHT)

    def sizeHint(self) -> QSize:
        return QSize(256, HEIGHT)

    @property
    def entry(self) -> Entry | None:
        return self._entry

    def show_entry(self, entry: Entry | None) -> None:
        self._entry = entry
        self.setAccessibleName(
            tr("Facts of {name}", name=entry.name) if entry is not None else tr("Facts")
        )
        self.star.setVisible(entry is not None and entry.readable)
        self.more.setVisible(entry is not None)
        if entry is not None:
            self.star.setChecked(self._open_libraries.personal.favourite(entry.identity))
        self.update()

    def _ask_menu(self) -> None:
        if self._entry is not None:
            at = self.more.mapToGlobal(self.more.rect().bottomLeft())
            self.menu_asked.emit(self._entry, at)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.more.move(self.width() - 8 - 24, 8)
        self.star.move(self.width() - 8 - 52, 8)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        theme, painter = self._theme, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme.colour("panel"))
        painter.fillRect(0, 0, self.width(), 1, theme.colour("line"))
        entry = self._entry
        if entry is None:
            painter.setFont(theme.font(12))
            painter.setPen(theme.colour("quiet"))
            text = tr("Point at a card to read about it. Click it to put it on.")
            flags = Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(QRectF(12, 12, self.width() - 24, 84), flags, text)
            return
        x = 12.0
        image = self._pictures.get(entry, round(84 * self.devicePixelRatioF()))
        if self.width() >= 320 and image is not None and not image.isNull():
            painter.drawImage(QRectF(12, 12, 84, 84), image)
            x = 108.0
        self._paint_words(painter, x, entry)

    def _paint_words(self, painter: QPainter, x: float, entry: Entry) -> None:
        theme, width = self._theme, self.width() - x - 12

        def line(y: float, text: str, size: int, weight: int, token: str, room: float) -> None:
            painter.setFont(theme.font(size, weight))
            painter.setPen(theme.colour(token))
            short = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, round(room))
            painter.drawText(QRectF(x, y, room, 18), Qt.AlignmentFlag.AlignVCenter, short)

        line(10, entry.name, 13, 600, "text", width - 52)
        if entry.error is not None:
            painter.setFont(theme.font(12))
            painter.setPen(theme.colour("warning"))
            rect = QRectF(x, 30, width, 70)
            painter.drawText(rect, Qt.TextFlag.TextWordWrap, entry.error.sentence())
            return
        line(29, describe(entry), 12, 400, "quiet", width)
        line(47, entry.note, 12, 400, "text", width)
        self._paint_tags(painter, x, width, entry)

    def _paint_tags(self, painter: QPainter, x: float, width: float, entry: Entry) -> None:
        theme, start, sign = self._theme, x, signed(entry)
        painter.setFont(theme.font(11))
        room = width - painter.fontMetrics().horizontalAdvance(sign) - 12
        for tag in entry.tags:
            painter.setFont(theme.font(11, 500))
            wide = painter.fontMetrics().horizontalAdvance(tag) + 16
            if x - start + wide > room:
                break
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour("high"))
            painter.drawRoundedRect(QRectF(x, 74, wide, 20), 4, 4)
            painter.setPen(theme.colour("text"))
            painter.drawText(QRectF(x, 74, wide, 20), Qt.AlignmentFlag.AlignCenter, tag)
            x += wide + 4
        painter.setFont(theme.font(11))
        painter.setPen(theme.colour("quiet"))
        right = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        painter.drawText(QRectF(start, 74, width, 20), right, sign)
