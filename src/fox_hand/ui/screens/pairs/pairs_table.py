"""The list of pairs: own right, own left, how they were found, how far off."""

from __future__ import annotations

from PySide6.QtCore import QMimeData, QPoint, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QDrag,
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QFocusEvent,
    QMouseEvent,
    QPainter,
    QPen,
)
from PySide6.QtWidgets import QApplication

from fox_hand.base.language import tr
from fox_hand.core.naming.mirror_partners import FoundBy, Pair
from fox_hand.core.rig.rig import Rig
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.painted_list import PaintedList, PaintedRow

ROW = 24
MIDDLE = Qt.AlignmentFlag.AlignVCenter
RIGHT_X, LEFT_SHARE, HOW_SHARE = 36, 0.50, 0.76
DRAG_TYPE = "application/x-fox-hand-control"


class PairsTable(PaintedList):
    """Click chooses, dropping one name on another pairs them."""

    chosen = Signal(int)
    paired = Signal(str, str)

    def __init__(self, theme: Theme) -> None:
        super().__init__(tr("Pairs"))
        self._theme = theme
        self._rig: Rig | None = None
        self.pairs: list[Pair] = []
        self._press: QPoint | None = None
        self.setAcceptDrops(True)
        self.walked.connect(self.chosen)

    def show_pairs(self, rig: Rig, pairs: list[Pair]) -> None:
        """What is listed now; the chosen control stays chosen."""
        name = self._name(self.row) if self._rig is not None else ""
        self._rig, self.pairs = rig, pairs
        current = next((i for i in range(len(pairs)) if self._name(i) == name), -1)
        self.show_painted([PaintedRow(self._words(rig, pair), ROW) for pair in pairs], current)

    def forget(self) -> None:
        """Nothing is listed any more."""
        self._rig, self.pairs = None, []
        self.show_painted([])

    @staticmethod
    def _words(rig: Rig, pair: Pair) -> str:
        one, two = rig.controls[pair.row].name, rig.controls[pair.other].name
        if pair.row == pair.other:
            return f"{one}, {_alone(pair)}"
        return tr(
            "{two} and {one}, {value}, {off:.1f} millimetres off",
            two=two,
            one=one,
            value=pair.found.word,
            off=pair.off * 1000,
        )

    def _name(self, index: int) -> str:
        if self._rig is None or not 0 <= index < len(self.pairs):
            return ""
        return self._rig.controls[self.pairs[index].row].name

    def sizeHint(self) -> QSize:
        return QSize(400, len(self.pairs) * ROW)

    # -- pointer and keys -----------------------------------------------------------------

    def name_at(self, at: QPointF) -> str:
        """The control whose name is under a point."""
        index = self.row_at(int(at.y()))
        if self._rig is None or not 0 <= index < len(self.pairs):
            return ""
        pair = self.pairs[index]
        left = at.x() >= self.viewport().width() * LEFT_SHARE
        row = pair.row if left or pair.row == pair.other else pair.other
        return self._rig.controls[row].name

    def mousePressEvent(self, event: QMouseEvent) -> None:
        super().mousePressEvent(event)
        if event.button() is Qt.MouseButton.LeftButton:
            self._press = event.position().toPoint()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        super().mouseMoveEvent(event)
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
        super().mouseReleaseEvent(event)
        self._press = None

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasFormat(DRAG_TYPE):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        self._point(self.row_at(int(event.position().y())))
        event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        name = bytes(event.mimeData().data(DRAG_TYPE).data()).decode()
        other = self.name_at(event.position())
        if name and other and name != other:
            event.acceptProposedAction()
            self.paired.emit(name, other)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        if self.row < 0 and self.pairs:
            self.go_to(0)

    # -- painting -------------------------------------------------------------------------

    def paint_row(self, painter: QPainter, row: int) -> None:
        if self._rig is None:
            return
        theme, pair, top, wide = self._theme, self.pairs[row], 0, self.viewport().width()
        if row in (self.row, self.over):
            painter.fillRect(QRectF(0, 0, wide, ROW), theme.colour("raised"))
        if row == self.row:
            painter.fillRect(QRectF(0, 0, 2, ROW), theme.colour("text"))
        painter.fillRect(QRectF(0, ROW - 1, wide, 1), theme.colour("line2"))
        one, two = self._rig.controls[pair.row], self._rig.controls[pair.other]
        half, how = wide * LEFT_SHARE, wide * HOW_SHARE
        if pair.row != pair.other:
            self._paint_name(painter, "R", "right", two.name, 12, top, half - 96)
            self._paint_arrow(painter, QPointF(half - 44, top + 12), pair.found)
        else:
            word = _alone(pair)
            painter.setFont(theme.font(12))
            painter.setPen(theme.colour("quiet"))
            painter.drawText(QRectF(RIGHT_X, top, half - 60, ROW), MIDDLE, word)
        side = {"left": ("L", "left"), "right": ("R", "right")}.get(one.side.value, ("", "centre"))
        self._paint_name(painter, *side, one.name, half, top, how - half - 28)
        painter.setFont(theme.font(12))
        painter.setPen(theme.colour("warning" if pair.found is FoundBy.ALONE else "quiet"))
        painter.drawText(QRectF(how, top, 110, ROW), MIDDLE, pair.found.word)
        if pair.row != pair.other:
            right = MIDDLE | Qt.AlignmentFlag.AlignRight
            text = tr("{off:.1f} mm", off=pair.off * 1000)
            painter.drawText(QRectF(wide - 80, top, 68, ROW), right, text)

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


def _alone(pair: Pair) -> str:
    """What is said of a control without a partner."""
    return tr("onto itself") if pair.found is FoundBy.MIDDLE else tr("stays alone")
