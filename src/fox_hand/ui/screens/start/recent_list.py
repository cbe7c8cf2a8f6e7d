"""Shots that were open, each with its picture, place and how that place is."""

from __future__ import annotations

import datetime
from functools import partial
from pathlib import Path

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QImage, QMouseEvent, QPainter, QPainterPath, QPen

from fox_hand.base.language import tr
from fox_hand.session.shots.recent import PlaceState, RecentShot, day_words
from fox_hand.ui.services.desktop import show_file
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.key_map import ENTER, KeyMap, LocalKey
from fox_hand.ui.widgets.painted_list import PaintedList, PaintedRow
from fox_hand.ui.widgets.passing_menu import passing_menu

ROW, PICTURE = 96, (144, 80)
MIDDLE = Qt.AlignmentFlag.AlignVCenter
SIGNS = {
    PlaceState.SHARE: ("server", tr("share reached"), "good"),
    PlaceState.MOVED: ("folder-search", tr("not there any more: find it"), "warning"),
    PlaceState.LOOKING: ("clock", tr("looking"), "quiet"),
}


class RecentList(PaintedList):
    """Click or Enter opens one; of one that is gone it asks where it is."""

    opened = Signal(object)  # RecentShot
    find_asked = Signal(object)  # RecentShot
    forget_asked = Signal(object)  # RecentShot

    def __init__(self, theme: Theme) -> None:
        super().__init__(tr("Shots that were open before"))
        self._theme = theme
        self._shots: list[RecentShot] = []
        self._images: dict[Path, QImage] = {}
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.keys = KeyMap([LocalKey(ENTER, lambda: self._open(self.row))])

    def show_shots(self, shots: list[RecentShot]) -> None:
        """Show these."""
        self._shots = shots
        said = [PaintedRow(_said(shot), ROW) for shot in shots]
        self.show_painted(said, min(self.row, len(shots) - 1))

    def _open(self, row: int) -> bool:
        if not 0 <= row < len(self._shots):
            return False
        shot = self._shots[row]
        (self.find_asked if shot.state is PlaceState.MOVED else self.opened).emit(shot)
        return True

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        super().mouseReleaseEvent(event)
        if event.button() is Qt.MouseButton.LeftButton:
            self._open(self.row_at(event.position().toPoint().y()))

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """What can be done with the shot there."""
        row = self.row_at(event.pos().y())
        if not 0 <= row < len(self._shots):
            return
        shot, menu = self._shots[row], passing_menu(self)
        gone = shot.state is PlaceState.MOVED
        menu.addAction(tr("Find it") if gone else tr("Open it"), partial(self._open, row))
        folder = menu.addAction(tr("Show its folder"), partial(show_file, shot.path))
        folder.setEnabled(not gone)
        menu.addSeparator()
        menu.addAction(tr("Forget (its files stay)"), partial(self.forget_asked.emit, shot))
        menu.popup(event.globalPos())

    def _image(self, shot: RecentShot) -> QImage:
        if shot.picture is None:
            return QImage()
        if shot.picture not in self._images:
            self._images[shot.picture] = QImage(str(shot.picture))
        return self._images[shot.picture]

    # -- painting -------------------------------------------------------------------------

    def paint_row(self, painter: QPainter, row: int) -> None:
        theme, shot, wide = self._theme, self._shots[row], self.viewport().width()
        if row in (self.over, self.row if self.hasFocus() else -1):
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour("raised"))
            painter.drawRoundedRect(QRectF(0, 0, wide, ROW - 4), 8, 8)
        if row == self.row and self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(theme.colour("text"), 2))
            painter.drawRoundedRect(QRectF(1, 1, wide - 2, ROW - 6), 7, 7)
        gone = shot.state is PlaceState.MOVED
        if gone:
            painter.setOpacity(0.5)
        paint_portrait(
            painter, theme, QRectF(8, 6, *PICTURE), self._image(shot), shot.path.stem, 4.0
        )
        painter.setOpacity(1.0)
        left, right = PICTURE[0] + 24.0, wide - 8.0
        self._paint_words(painter, shot, left, right)

    def _paint_words(self, painter: QPainter, shot: RecentShot, left: float, right: float) -> None:
        theme = self._theme
        when = day_words(shot.when, datetime.datetime.now().astimezone()) if shot.when else ""
        painter.setFont(theme.font(11))
        painter.setPen(theme.colour("quiet"))
        room = painter.fontMetrics().horizontalAdvance(when) + 8
        top = QRectF(left, 8, right - left, 16)
        painter.drawText(top, MIDDLE | Qt.AlignmentFlag.AlignRight, when)
        for y, text, size, weight, tone, short in (
            (12, shot.name, 13, 600, "text", room),
            (34, shot.said, 12, 400, "text", 0),
        ):
            painter.setFont(theme.font(size, weight))
            painter.setPen(theme.colour(tone))
            line = QRectF(left, y, right - left - short, 20)
            words = painter.fontMetrics().elidedText(
                text, Qt.TextElideMode.ElideRight, round(line.width())
            )
            painter.drawText(line, MIDDLE, words)
        self._paint_place(painter, shot, left, right)

    def _paint_place(self, painter: QPainter, shot: RecentShot, left: float, right: float) -> None:
        theme = self._theme
        icon, said, tone = SIGNS.get(shot.state, ("", "", ""))
        painter.setFont(theme.font(11, 600))
        room = painter.fontMetrics().horizontalAdvance(said) + 28 if said else 0
        painter.setFont(theme.font(11))
        painter.setPen(theme.colour("quiet"))
        metrics = painter.fontMetrics()
        where = metrics.elidedText(
            short_place(shot.path), Qt.TextElideMode.ElideMiddle, round(right - left - room)
        )
        painter.drawText(QRectF(left, 56, right - left, 20), MIDDLE, where)
        if said:
            x = left + metrics.horizontalAdvance(where) + 8
            ratio = self.devicePixelRatioF()
            painter.drawPixmap(round(x), 60, theme.pixmap(icon, 12, tone, ratio))
            painter.setFont(theme.font(11, 600))
            painter.setPen(theme.colour(tone))
            painter.drawText(QRectF(x + 16, 56, room, 20), MIDDLE, said)


def _said(shot: RecentShot) -> str:
    place = SIGNS.get(shot.state, ("", "", ""))[1]
    return ", ".join(word for word in (shot.name, shot.said, short_place(shot.path), place) if word)


def short_place(path: Path) -> str:
    """The folder of a shot's project or of the shot, below the home folder as ``~``."""
    folder = path.parent.parent if path.parent.name == "shots" else path.parent
    home = Path.home()
    if folder == home or not folder.is_relative_to(home):
        return "~" if folder == home else str(folder)
    return f"~/{folder.relative_to(home)}"


def paint_portrait(
    painter: QPainter, theme: Theme, rect: QRectF, image: QImage, name: str, radius: float
) -> None:
    """How a shot looked, its middle filling a place; without a picture its name on paper."""
    path = QPainterPath()
    path.addRoundedRect(rect, radius, radius)
    painter.save()
    painter.setClipPath(path)
    if image.isNull():
        painter.fillRect(rect, theme.colour("stage_middle"))
        painter.setPen(theme.colour("ink", 0.6))
        painter.setFont(theme.font(13, 600))
        painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, name)
    else:
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        scale = max(rect.width() / image.width(), rect.height() / image.height())
        wide, high = rect.width() / scale, rect.height() / scale
        source = QRectF((image.width() - wide) / 2, (image.height() - high) / 2, wide, high)
        painter.drawImage(rect, image, source)
    painter.restore()
