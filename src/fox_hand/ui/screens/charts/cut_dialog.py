"""A sheet of reference drawings, cut into a cell for each slot by lines that are dragged."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from itertools import pairwise

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QDialog, QHBoxLayout, QVBoxLayout, QWidget

from fox_hand.base.language import tr, tr_n
from fox_hand.library.charts.chart import Slot
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.fields.number_field import NumberField
from fox_hand.ui.widgets.key_map import KeyMap, LocalKey

NEAR, LEAST, STEP = 6.0, 0.01, 0.005  # pixels to a line; shares of a side


class CutView(QWidget):
    """The sheet with its lines; a click on a cell leaves it out, or takes it in again.

    Args:
        theme: colours and type.
        image: the sheet.
        names: of the slots, in order.
    """

    changed = Signal()

    def __init__(self, theme: Theme, image: QImage, names: Sequence[str]) -> None:
        super().__init__()
        self._theme, self._image, self._names = theme, image, names
        self.xs, self.ys = [0.0, 1.0], [0.0, 1.0]
        self.left_out: set[int] = set()
        self._held: tuple[list[float], int] | None = None
        self._last: tuple[list[float], int] | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(320, 240)
        self.setAccessibleName(tr("Sheet of drawings; arrows move the last line"))
        ways = {"Left": (0, -STEP), "Right": (0, STEP), "Up": (1, -STEP), "Down": (1, STEP)}
        self.keys = KeyMap(
            LocalKey((name,), partial(self._nudge, *way)) for name, way in ways.items()
        )

    def set_grid(self, columns: int, rows: int) -> None:
        """As many cells as wanted, all of one size; the outer lines stay where they are."""
        for line, count in ((self.xs, columns), (self.ys, rows)):
            first, last = line[0], line[-1]
            line[:] = [first + (last - first) * n / count for n in range(count + 1)]
        self.left_out.clear()
        self._last = None
        self.update()
        self.changed.emit()

    @property
    def cells(self) -> int:
        """How many cells there are, those left out too."""
        return (len(self.xs) - 1) * (len(self.ys) - 1)

    def taken(self) -> list[int]:
        """Numbers of the cells that become pictures, row by row, one for each slot at most."""
        found = [number for number in range(self.cells) if number not in self.left_out]
        return found[: len(self._names)]

    def area(self) -> QRectF:
        """Where the picture is."""
        scale = min(
            self.width() / max(self._image.width(), 1), self.height() / max(self._image.height(), 1)
        )
        wide, high = self._image.width() * scale, self._image.height() * scale
        return QRectF((self.width() - wide) / 2, (self.height() - high) / 2, wide, high)

    def cell_rect(self, number: int) -> QRectF:
        """Where a cell is, in pixels of the widget."""
        area = self.area()
        row, column = divmod(number, len(self.xs) - 1)
        left, right = list(pairwise(self.xs))[column]
        top, bottom = list(pairwise(self.ys))[row]
        return QRectF(
            area.left() + left * area.width(),
            area.top() + top * area.height(),
            (right - left) * area.width(),
            (bottom - top) * area.height(),
        )

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter, theme, area = QPainter(self), self._theme, self.area()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme.colour("window"))
        painter.drawImage(area, self._image)
        names = dict(zip(self.taken(), self._names, strict=False))
        painter.setFont(theme.font(12, 600))
        for number in range(self.cells):
            rect = self.cell_rect(number)
            name = names.get(number)
            if name is None:
                painter.fillRect(rect, theme.colour("window", 0.72))
                continue
            wide = min(painter.fontMetrics().horizontalAdvance(name) + 12, rect.width())
            plate = QRectF(rect.left() + 2, rect.top() + 2, wide, 20)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour("window"))
            painter.drawRoundedRect(plate, 4, 4)
            painter.setPen(theme.colour("text"))
            words = painter.fontMetrics().elidedText(
                name, Qt.TextElideMode.ElideRight, round(wide) - 8
            )
            painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, words)
        for lines, along in ((self.xs, 0), (self.ys, 1)):
            for number, share in enumerate(lines):
                held = self._last == (lines, number) and self.hasFocus()
                painter.setPen(QPen(theme.colour("accent"), 3 if held else 1.5))
                if along == 0:
                    x = area.left() + share * area.width()
                    painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()))
                else:
                    y = area.top() + share * area.height()
                    painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))

    def _line_at(self, at: QPointF) -> tuple[list[float], int] | None:
        area, best, found = self.area(), NEAR, None
        for number, share in enumerate(self.xs):
            far = abs(area.left() + share * area.width() - at.x())
            if far < best:
                best, found = far, (self.xs, number)
        for number, share in enumerate(self.ys):
            far = abs(area.top() + share * area.height() - at.y())
            if far < best:
                best, found = far, (self.ys, number)
        return found

    def mousePressEvent(self, event: QMouseEvent) -> None:
        event.accept()
        self._held = self._last = self._line_at(event.position())
        if self._held is None:
            for number in range(self.cells):
                if self.cell_rect(number).contains(event.position()):
                    self.left_out ^= {number}
                    self.changed.emit()
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        event.accept()
        line = self._held or self._line_at(event.position())
        shape = Qt.CursorShape.PointingHandCursor
        if line is not None:
            across = line[0] is self.xs
            shape = Qt.CursorShape.SplitHCursor if across else Qt.CursorShape.SplitVCursor
        self.setCursor(shape)
        if self._held is not None:
            area, at = self.area(), event.position()
            across = self._held[0] is self.xs
            share = (
                (at.x() - area.left()) / area.width()
                if across
                else (at.y() - area.top()) / area.height()
            )
            self._move(*self._held, share)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        event.accept()
        self._held = None

    def _move(self, lines: list[float], number: int, share: float) -> None:
        """A line stays between its neighbours."""
        low = lines[number - 1] + LEAST if number else 0.0
        high = lines[number + 1] - LEAST if number + 1 < len(lines) else 1.0
        lines[number] = min(max(share, low), high)
        self.update()
        self.changed.emit()

    def _nudge(self, along: int, step: float) -> bool:
        if self._last is None or (self._last[0] is self.ys) != bool(along):
            return False
        self._move(*self._last, self._last[0][self._last[1]] + step)
        return True

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            super().keyPressEvent(event)


class CutDialog(QDialog):
    """How many columns and rows, where the lines are, and which cells count.

    Args:
        theme, parent: how it looks, and over what.
        image: the sheet.
        slots: which get pictures, in order.
    """

    done_with = Signal(object, object, object)  # shares across, shares down, cells by slot

    def __init__(self, theme: Theme, parent: QWidget, image: QImage, slots: Sequence[Slot]) -> None:
        super().__init__(parent)
        self._slots = slots
        self.setWindowTitle(tr("Pictures for the slots"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(760, 600)
        self.view = CutView(theme, image, [slot.name for slot in slots])
        self.columns = NumberField(tr("columns"), 1, 24)
        self.rows = NumberField(tr("rows"), 1, 24)
        columns = max(round((len(slots) * image.width() / max(image.height(), 1)) ** 0.5), 1)
        self.columns.show_value(columns)
        self.rows.show_value(-(-len(slots) // columns))
        for field in (self.columns, self.rows):
            field.changed.connect(self._set_grid)
        self.take = Button(theme, tr("Take them"), kind=Kind.MAIN, key="Enter")
        self.take.clicked.connect(self._finish)
        leave = Button(theme, tr("Cancel"), key="Esc")
        leave.clicked.connect(self.reject)
        said = Words(tr("Drag the lines between the drawings. Click a cell to leave it out."))
        said.setProperty("quiet", True)
        line = QHBoxLayout()
        line.setSpacing(12)
        for part in (self.columns, self.rows):
            line.addWidget(part)
        line.addWidget(said, 1)
        line.addWidget(leave)
        line.addWidget(self.take)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 16, 16, 16)
        column.setSpacing(12)
        column.addWidget(self.view, 1)
        column.addLayout(line)
        self.view.changed.connect(self._say)
        self._set_grid()

    def _set_grid(self) -> None:
        self.view.set_grid(int(self.columns.value), int(self.rows.value))

    def _say(self) -> None:
        count = len(self.view.taken())
        self.take.setText(
            tr("Take {counted}", counted=tr_n("{number:,} picture", "{number:,} pictures", count))
        )
        self.take.setEnabled(count > 0)
        self.take.updateGeometry()

    def _finish(self) -> None:
        cells = self.view.taken()
        keys = {slot.key: cell for slot, cell in zip(self._slots, cells, strict=False)}
        self.done_with.emit(list(self.view.xs), list(self.view.ys), keys)
        self.accept()
