"""What is still missing in the charts that are shown, one after the other."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import QEvent, QPoint, QRect, QRectF, Qt, Signal
from PySide6.QtGui import (
    QAccessible,
    QFocusEvent,
    QFontMetrics,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fox_hand.base.language import tr, tr_n
from fox_hand.session.charts.chart_board import ChartBoard
from fox_hand.ui.screens.charts.chart_layout import At
from fox_hand.ui.screens.charts.chart_paint import paint_round
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.accessible_parts import AccessiblePart, PartsOwner
from fox_hand.ui.widgets.buttons import Button
from fox_hand.ui.widgets.key_map import ENTER, KeyMap, LocalKey

CHIP, GAP = 32, 8
Gap = tuple[At, str, ChartBoard]  # the slot, its name, its chart


class GapChips(QWidget, PartsOwner):
    """A chip for every empty slot that has room, and how many more there are."""

    pressed = Signal(object)  # At

    def __init__(self, theme: Theme, face: Callable[[ChartBoard, str], QImage | None]) -> None:
        super().__init__()
        self._theme, self._face = theme, face
        self._gaps: Sequence[Gap] = ()
        self.at: At | None = None
        self._over = self._current = -1
        self.setFixedHeight(CHIP)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(tr("Still missing"))
        self.keys = KeyMap(
            [
                LocalKey(("Left",), partial(self._walk, -1)),
                LocalKey(("Right",), partial(self._walk, 1)),
                LocalKey((*ENTER, "Space"), self._press),
            ]
        )

    def show_gaps(self, gaps: Sequence[Gap], at: At | None) -> None:
        """Show these, one of them chosen."""
        self._gaps, self.at = gaps, at
        self._current = min(self._current, len(gaps) - 1)
        self.update()

    def rects(self) -> list[QRect]:
        """Where the chips are; as many as there is room for."""
        metrics, found, x = QFontMetrics(self._theme.font(12)), list[QRect](), 0
        for _, name, _ in self._gaps:
            wide = min(metrics.horizontalAdvance(name), 96) + 44
            if x + wide > self.width() - 88:
                break
            found.append(QRect(x, 0, wide, CHIP))
            x += wide + GAP
        return found

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter, theme = QPainter(self), self._theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        rects = self.rects()
        for number, rect in enumerate(rects):
            self._paint_chip(painter, number, QRectF(rect))
        rest = len(self._gaps) - len(rects)
        if rest:
            x = rects[-1].right() + 12 if rects else 0
            painter.setFont(theme.font(12))
            painter.setPen(theme.colour("quiet"))
            words = tr("and {rest} more", rest=rest)
            painter.drawText(QRectF(x, 0, 96, CHIP), Qt.AlignmentFlag.AlignVCenter, words)

    def _paint_chip(self, painter: QPainter, number: int, rect: QRectF) -> None:
        theme, (at, name, board) = self._theme, self._gaps[number]
        chosen = at == self.at
        painter.setPen(QPen(theme.colour("accent"), 2) if chosen else Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("high" if number == self._over or chosen else "raised"))
        painter.drawRoundedRect(rect.adjusted(1, 1, -1, -1), 6, 6)
        ring = QRectF(rect.left() + 6, rect.top() + 6, 20, 20)
        face = self._face(board, at[2])
        known = face if face is not None and not face.isNull() else None
        paint_round(painter, theme, ring, at[2], known)
        painter.setFont(theme.font(12))
        painter.setPen(theme.colour("text"))
        room = round(rect.width()) - 40
        words = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, room)
        at_ = QRectF(rect.left() + 32, rect.top(), room + 4, CHIP)
        painter.drawText(at_, Qt.AlignmentFlag.AlignVCenter, words)
        if number == self._current and self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(theme.colour("text"), 2))
            painter.drawRoundedRect(rect.adjusted(2, 2, -2, -2), 5, 5)

    def _chip_at(self, at: QPoint) -> int:
        return next((n for n, rect in enumerate(self.rects()) if rect.contains(at)), -1)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        over = self._chip_at(event.position().toPoint())
        if over != self._over:
            self._over = over
            self.update()

    def leaveEvent(self, event: QEvent) -> None:
        self._over = -1
        self.update()
        super().leaveEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() is not Qt.MouseButton.LeftButton:
            event.ignore()
            return
        number = self._chip_at(event.position().toPoint())
        event.accept()
        if number >= 0:
            self.pressed.emit(self._gaps[number][0])

    def _walk(self, step: int) -> None:
        self._current = min(max(self._current + step, 0), len(self.rects()) - 1)
        self.update()

    def _press(self) -> bool:
        if 0 <= self._current < len(self._gaps):
            self.pressed.emit(self._gaps[self._current][0])
            return True
        return False

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            event.ignore()

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self._current = max(self._current, 0)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.update()

    def accessible_parts(self) -> list[AccessiblePart]:
        return [
            AccessiblePart(
                at,
                tr("{at}, {name}, missing", at=at[2], name=name),
                rect,
                QAccessible.Role.Button,
                selected=at == self.at,
                current=number == self._current and self.hasFocus(),
                press=partial(self.pressed.emit, at),
            )
            for number, ((at, name, _), rect) in enumerate(
                zip(self._gaps, self.rects(), strict=False)
            )
        ]


class MissingBar(QWidget):
    """Title, chips, and a way to make all of them at once."""

    frames_asked = Signal()

    def __init__(self, theme: Theme, face: Callable[[ChartBoard, str], QImage | None]) -> None:
        super().__init__()
        self.setObjectName("missing")
        self.setProperty("panel", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._title, self._count = Words(tr("Still missing")), Words("")
        self._title.setProperty("role", "title")
        self._count.setProperty("quiet", True)
        self.frames = Button(
            theme, tr("Make empty frames"), tip=tr("A frame for each, to pose in a row")
        )
        self.frames.clicked.connect(self.frames_asked)
        self.chips = GapChips(theme, face)
        self._said = Words("")
        self._said.setProperty("quiet", True)
        self._said.setWordWrap(True)
        head = QHBoxLayout()
        head.setSpacing(10)
        head.addWidget(self._title)
        head.addWidget(self._count, 1)
        head.addWidget(self.frames)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 8, 16, 8)
        column.setSpacing(8)
        column.addLayout(head)
        column.addWidget(self.chips)
        column.addWidget(self._said)

    def show_gaps(
        self, gaps: Sequence[Gap], at: At | None, charts: int, frames: tuple[str, int]
    ) -> None:
        """Show what is missing.

        Args:
            gaps: the empty slots.
            at: the chosen one.
            charts: how many charts they are of.
            frames: whose gaps frames can be made for, and how many these are.
        """
        of = tr_n("this chart", "these {number} charts", charts)
        self._count.setText(
            tr("{count} in {of}", count=len(gaps), of=of) if gaps else tr("nothing in {of}", of=of)
        )
        self.chips.show_gaps(gaps, at)
        self.chips.setVisible(bool(gaps))
        who, count = frames
        self.frames.setText(
            tr("Make empty frames for {who}'s {count}", who=who, count=count)
            if count
            else tr("Make frames")
        )
        self.frames.updateGeometry()
        self.frames.setEnabled(count > 0)
        self._said.setText(
            tr(
                "Lays the missing shapes on frames of their own, held still, in chart order. "
                "Pose each"
                " one, then capture them all, pictures included, in one go."
            )
            if count
            else tr("Put a character on the stage whose shapes are missing to pose them in a row.")
            if gaps
            else tr("Every slot has a card.")
        )
