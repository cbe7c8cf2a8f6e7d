"""The strip: for now one frame, what the stage shows."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from fox_hand.session.desk import Desk
from fox_hand.ui.look import Look

RULER, ROW = 40, 36


class Strip(QWidget):
    """A ruler and an empty row; keys have their place here once shots exist."""

    def __init__(self, look: Look, desk: Desk) -> None:
        super().__init__()
        self._look, self._desk = look, desk
        self.label_width = 232
        self.setFixedHeight(RULER + ROW)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Strip")
        desk.actor_changed.connect(self._repaint)

    def _repaint(self) -> None:
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(600, RULER + ROW)

    def set_label_width(self, width: int) -> None:
        """Frames line up under the stage."""
        if width != self.label_width:
            self.label_width = width
            self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        look, painter = self._look, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), look.colour("panel"))
        left, width = self.label_width, self.width()
        painter.fillRect(0, 0, width, 1, look.colour("line"))
        painter.fillRect(left, 0, 1, self.height(), look.colour("line"))
        painter.fillRect(0, RULER, width, 1, look.colour("line2"))
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setFont(look.font(12, 600))
        painter.setPen(look.colour("text"))
        painter.drawText(QRectF(12, 0, 120, RULER), middle, "Frame 1 of 1")
        painter.setFont(look.font(12))
        painter.setPen(look.colour("quiet"))
        right = middle | Qt.AlignmentFlag.AlignRight
        painter.drawText(QRectF(left - 92, 0, 80, RULER), right, "24 fps")
        pixmap = look.pixmap("person-standing", 16, "text", self.devicePixelRatioF())
        painter.drawPixmap(12, RULER + 10, pixmap)
        actor = self._desk.actor
        name = actor.rig.name if actor is not None else "No figure"
        painter.setFont(look.font(12, 500))
        painter.setPen(look.colour("text"))
        painter.drawText(QRectF(36, RULER, left - 140, ROW), middle, name)
        count = sum(not c.helper for c in actor.rig.controls) if actor is not None else 0
        painter.setFont(look.font(12))
        painter.setPen(look.colour("quiet"))
        painter.drawText(QRectF(left - 112, RULER, 100, ROW), right, f"{count} controls")
        self._paint_ruler(painter, left + 16)
        text = "No frames yet: the figure stands as you see it, and stays so when you close."
        painter.drawText(QRectF(left + 44, RULER, width - left - 56, ROW), middle, text)

    def _paint_ruler(self, painter: QPainter, start: float) -> None:
        look = self._look
        painter.setFont(look.font(12))
        frame, x = 1, start
        while x < self.width():
            long = frame % 6 == 1
            painter.fillRect(
                QRectF(x - 0.5, RULER - (10 if long else 6), 1, 10 if long else 6),
                look.colour("line"),
            )
            if long and frame > 1:
                painter.setPen(look.colour("quiet"))
                painter.drawText(
                    QRectF(x - 20, 8, 40, 18), Qt.AlignmentFlag.AlignCenter, str(frame)
                )
            frame, x = frame + 1, x + 9.4
        flag = QPainterPath()
        flag.addRoundedRect(QRectF(start - 14, 6, 28, 22), 3, 3)
        painter.fillPath(flag, look.colour("text"))
        painter.setPen(QPen(look.colour("text"), 2))
        painter.drawLine(round(start), 28, round(start), self.height())
        painter.setFont(look.font(12, 600))
        painter.setPen(look.colour("window"))
        painter.drawText(QRectF(start - 14, 6, 28, 22), Qt.AlignmentFlag.AlignCenter, "1")
        painter.setPen(look.colour("quiet"))
        painter.setFont(look.font(12))
