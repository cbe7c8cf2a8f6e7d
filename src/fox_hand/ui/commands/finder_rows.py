"""How the rows of the finder are painted."""

from __future__ import annotations

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QPainter
from PySide6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem

from fox_hand.base.key_words import key_words
from fox_hand.ui.commands.finding import FoundWord
from fox_hand.ui.theme.theme import Theme

FINDER_ROW = 28
HIT = Qt.ItemDataRole.UserRole
TEXT_X = 46
MIDDLE = Qt.AlignmentFlag.AlignVCenter
RIGHT = MIDDLE | Qt.AlignmentFlag.AlignRight


class RowDelegate(QStyledItemDelegate):
    """A heading, or an icon, words with the letters that were found underlined, and keys."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme

    def sizeHint(
        self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> QSize:
        del index
        return QSize(option.rect.width(), FINDER_ROW)

    def paint(
        self,
        painter: QPainter,
        option: QStyleOptionViewItem,
        index: QModelIndex | QPersistentModelIndex,
    ) -> None:
        row, rect = index.data(HIT), QRectF(option.rect)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if isinstance(row, FoundWord):
            chosen = bool(option.state & QStyle.StateFlag.State_Selected)
            pointed = bool(option.state & QStyle.StateFlag.State_MouseOver)
            self._row(painter, rect, row, chosen=chosen, pointed=pointed and row.of.ready)
        else:
            self._heading(painter, rect, *row)
        painter.restore()

    def _heading(self, painter: QPainter, rect: QRectF, title: str, count: int) -> None:
        theme, inside = self._theme, rect.adjusted(16, 0, -16, 0)
        painter.setFont(theme.font(12))
        painter.setPen(theme.colour("quiet"))
        painter.drawText(inside, MIDDLE, title)
        painter.drawText(inside, RIGHT, str(count))
        left = inside.left() + QFontMetricsF(theme.font(12)).horizontalAdvance(title) + 8
        line = QRectF(left, rect.center().y(), inside.right() - left - 20, 1)
        painter.fillRect(line, theme.colour("line2"))

    def _row(
        self, painter: QPainter, rect: QRectF, hit: FoundWord, *, chosen: bool, pointed: bool
    ) -> None:
        theme, of = self._theme, hit.of
        if chosen or pointed:
            painter.fillRect(rect, theme.colour("high" if chosen else "raised"))
        if chosen:
            painter.fillRect(
                QRectF(rect.left(), rect.top(), 2, rect.height()), theme.colour("text")
            )
        ink = "text" if of.ready else "quiet"
        if of.icon:
            ratio = painter.device().devicePixelRatioF()
            pixmap = theme.pixmap(of.icon, 16, ink, ratio)
            painter.drawPixmap(round(rect.left()) + 16, round(rect.top()) + 6, pixmap)
        right = self._keys(painter, rect, of.keys, of.state)
        bold, plain = theme.font(13, 600), theme.font(12)
        wide = QFontMetricsF(bold)
        room = right - rect.left() - TEXT_X - 8
        words = wide.elidedText(of.words, Qt.TextElideMode.ElideRight, room)
        painter.setFont(bold)
        painter.setPen(theme.colour(ink))
        text = QRectF(rect.left() + TEXT_X, rect.top(), room, rect.height())
        painter.drawText(text, MIDDLE, words)
        if hit.end > hit.start:
            start = text.left() + wide.horizontalAdvance(of.words[: hit.start])
            length = wide.horizontalAdvance(of.words[hit.start : hit.end])
            painter.fillRect(QRectF(start, rect.center().y() + 8, length, 1), theme.colour("text"))
        left = text.left() + wide.horizontalAdvance(words) + 8
        painter.setFont(plain)
        painter.setPen(theme.colour("quiet"))
        more = QFontMetricsF(plain).elidedText(
            of.more, Qt.TextElideMode.ElideRight, max(right - left - 8, 0)
        )
        painter.drawText(
            QRectF(left, rect.top(), max(right - left, 0), rect.height()), MIDDLE, more
        )

    def _keys(self, painter: QPainter, rect: QRectF, keys: str, state: str) -> float:
        """Keys as caps at the right, or a state; returns where the room for words ends."""
        theme, right = self._theme, rect.right() - 16
        painter.setFont(theme.font(11))
        metrics = QFontMetricsF(theme.font(11))
        if not keys:
            painter.setPen(theme.colour("quiet"))
            painter.drawText(rect.adjusted(0, 0, -16, 0), RIGHT, state)
            return right - metrics.horizontalAdvance(state)
        for word in reversed(key_words(keys.replace("++", "+Plus")).split("+")):
            cap = QRectF(0, rect.top() + 5, metrics.horizontalAdvance(word) + 12, 18)
            cap.moveRight(right)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour("window"))
            painter.drawRoundedRect(cap, 3, 3)
            painter.setPen(theme.colour("text"))
            painter.drawText(cap, Qt.AlignmentFlag.AlignCenter, word)
            right = cap.left() - 4
        return right
