"""The list of pairs: own right, own left, how they were found, how far off."""

from __future__ import annotations

from PySide6.QtCore import QMimeData, QPoint, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QDrag,
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QApplication, QSizePolicy, QWidget

from fox_hand.core.naming.mirror_partners import FoundBy, Pair
from fox_hand.core.rig.rig import Rig
from fox_hand.ui.theme.theme import Theme

ROW = 24
MIDDLE = Qt.AlignmentFlag.AlignVCenter
RIGHT_X, LEFT_SHARE, HOW_SHARE = 36, 0.50, 0.76
DRAG_TYPE = "application/x-fox-hand-control"


class PairsTable(QWidget):
    """Rows of 24 px; click chooses, dropping one name on another pairs them."""

    chosen = Signal(int)
    paired = Signal(str, str)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._rig: Rig | None = None
        self.pairs: list[Pair] = []
        self.current = -1
        self._pointed = -1
        self._press: QPoint | None = None
        self.setMouseTracking(True)
        self.setAcceptDrops(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Pairs")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_pairs(self, rig: Rig, pairs: list[Pair]) -> None:
        """What is listed now; the chosen control stays chosen."""
        name = self._name(self.current) if self._rig is not None else ""
        self._rig, self.pairs = rig, pairs
        self.current = next((i for i in range(len(pairs)) if self._name(i) == name), -1)
        self.setFixedHeight(max(len(pairs) * ROW, 1))
        self.update()

    def _name(self, index: int) -> str:
        if self._rig is None or not 0 <= index < len(self.pairs):
            return ""
        return self._rig.controls[self.pairs[index].row].name

    def sizeHint(self) -> QSize:
        return QSize(400, len(self.pairs) * ROW)

    def choose(self, index: int) -> None:
        """Make a row the chosen one."""
        if 0 <= index < len(self.pairs):
            self.current = index
            self.chosen.emit(index)
            self.update()

    # -- pointer and keys -----------------------------------------------------------------

    def name_at(self, at: QPointF) -> str:
        """The control whose name is under a point."""
        index = int(at.y() // ROW)
        if self._rig is None or not 0 <= index < len(self.pairs):
            return ""
        pair = self.pairs[index]
        left = at.x() >= self.width() * LEFT_SHARE
        row = pair.row if left or pair.row == pair.other else pair.other
        return self._rig.controls[row].name

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() is Qt.MouseButton.LeftButton:
            self._press = event.position().toPoint()
            self.choose(int(event.position().y() // ROW))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        pointed = int(event.position().y() // ROW)
        if pointed != self._pointed:
            self._pointed = pointed
            self.update()
        if self._press is None:
            return
        far = (event.position().toPoint() - self._press).manhattanLength()
        name = self.name_at(QPointF(self._press))
        if far >= QApplication.startDragDistance() and name:
            self._press = None
            data = QMimeData()
            data.setData(DRAG_TYPE, name.encode())
            drag = QDrag(self)
            drag.setMimeData(data)
            drag.exec(Qt.DropAction.LinkAction)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        del event
        self._press = None

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasFormat(DRAG_TYPE):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        self._pointed = int(event.position().y() // ROW)
        self.update()
        event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        name = bytes(event.mimeData().data(DRAG_TYPE).data()).decode()
        other = self.name_at(event.position())
        if name and other and name != other:
            event.acceptProposedAction()
            self.paired.emit(name, other)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}
        key = Qt.Key(event.key())
        if key in steps and self.pairs:
            self.choose(min(max(self.current + steps[key], 0), len(self.pairs) - 1))
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        if self.current < 0:
            self.choose(0)

    # -- painting -------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._rig is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        first, last = event.rect().top() // ROW, event.rect().bottom() // ROW
        for index in range(max(first, 0), min(last + 1, len(self.pairs))):
            self._paint_row(painter, index)

    def _paint_row(self, painter: QPainter, index: int) -> None:
        assert self._rig is not None
        theme, pair, top = self._theme, self.pairs[index], index * ROW
        line = QRectF(0, top, self.width(), ROW)
        if index in (self.current, self._pointed):
            painter.fillRect(line, theme.colour("raised"))
        if index == self.current:
            painter.fillRect(QRectF(0, top, 2, ROW), theme.colour("text"))
        painter.fillRect(QRectF(0, top + ROW - 1, self.width(), 1), theme.colour("line2"))
        one, two = self._rig.controls[pair.row], self._rig.controls[pair.other]
        half, how = self.width() * LEFT_SHARE, self.width() * HOW_SHARE
        if pair.row != pair.other:
            self._paint_name(painter, "R", "right", two.name, 12, top, half - 96)
            self._paint_arrow(painter, QPointF(half - 44, top + 12), pair.found)
        else:
            word = "onto itself" if pair.found is FoundBy.MIDDLE else "stays alone"
            painter.setFont(theme.font(12))
            painter.setPen(theme.colour("quiet"))
            painter.drawText(QRectF(RIGHT_X, top, half - 60, ROW), MIDDLE, word)
        side = {"left": ("L", "left"), "right": ("R", "right")}.get(one.side.value, ("", "centre"))
        self._paint_name(painter, *side, one.name, half, top, how - half - 28)
        painter.setFont(theme.font(12))
        painter.setPen(theme.colour("warning" if pair.found is FoundBy.ALONE else "quiet"))
        painter.drawText(QRectF(how, top, 110, ROW), MIDDLE, pair.found.value)
        if pair.row != pair.other:
            right = MIDDLE | Qt.AlignmentFlag.AlignRight
            text = f"{pair.off * 1000:.1f} mm"
            painter.drawText(QRectF(self.width() - 80, top, 68, ROW), right, text)

    def _paint_name(
        self,
        painter: QPainter,
        letter: str,
        token: str,
        name: str,
        x: float,
        top: int,
        room: float,
    ) -> None:
        theme = self._theme
        painter.setFont(theme.font(11, 600))
        painter.setPen(theme.colour(token))
        painter.drawText(QRectF(x, top, 16, ROW), MIDDLE, letter)
        painter.setFont(theme.font(12, 500))
        painter.setPen(theme.colour("text"))
        metrics = painter.fontMetrics()
        shown = metrics.elidedText(name, Qt.TextElideMode.ElideMiddle, round(room))
        painter.drawText(QRectF(x + 24, top, room, ROW), MIDDLE, shown)

    def _paint_arrow(self, painter: QPainter, at: QPointF, found: FoundBy) -> None:
        pen = QPen(self._theme.colour("quiet"), 1.25)
        if found in (FoundBy.PLACE, FoundBy.NAME):
            pen.setDashPattern([2.0, 2.0])
        painter.setPen(pen)
        painter.drawLine(at - QPointF(28, 0), at + QPointF(28, 0))
        painter.setPen(QPen(self._theme.colour("quiet"), 1.25))
        for end in (-28.0, 28.0):
            tip = at + QPointF(end, 0)
            back = -4.0 if end > 0 else 4.0
            painter.drawLine(tip, tip + QPointF(back, -3))
            painter.drawLine(tip, tip + QPointF(back, 3))
        painter.drawLine(at + QPointF(0, -7), at + QPointF(0, 7))
