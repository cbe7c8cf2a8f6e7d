"""Frames to look through, with marks to capture: a performance or a set of poses."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt
from PySide6.QtGui import (
    QAccessible,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QWidget

from fox_hand.base.language import tr
from fox_hand.session.animating.frame_sequence import FrameSequence
from fox_hand.session.app.needs import Animating
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.timeline.strip_paint import heat_line
from fox_hand.ui.widgets.accessible_parts import (
    AccessibleAmount,
    AccessiblePart,
    PartsOwner,
)
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.key_map import KeyMap, LocalKey

RULER, ROW = 40, 44
STEPS = (1, 2, 5, 6, 10, 12, 20, 25, 50, 100, 200, 500, 1000, 2000, 5000)
APART = 44  # pixels between two numbers of the ruler, at least


class FrameStrip(QWidget, PartsOwner):
    """A ruler and a row of frames. Pull along it to look; M marks, the arrows step."""

    def __init__(self, theme: Theme, workspace: Animating) -> None:
        super().__init__()
        self._theme, self._workspace = theme, workspace
        self.label_width = 232
        self.setFixedHeight(RULER + ROW)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Frames of a performance"))
        self.keys = self._keys()
        self.propose = Button(theme, tr("Key poses"), kind=Kind.FLAT, height=24, padding=6)
        self.propose.setToolTip(tr("Mark the frames where the body comes to rest"))
        self.propose.clicked.connect(self._propose)
        self.mark = Button(theme, tr("Mark"), kind=Kind.FLAT, key="M", height=24, padding=6)
        self.mark.clicked.connect(self.toggle_mark)
        self.lay = Button(theme, tr("Lay in"), kind=Kind.FLAT, height=24, padding=6)
        self.lay.setToolTip(tr("Make keys of all frames, the first at the shot's frame in sight"))
        self.lay.clicked.connect(self._lay_in)
        self.close_button = Button(
            theme, icon="x", kind=Kind.FLAT, tip=tr("Take the frames away"), height=24, icon_size=14
        )
        self.close_button.clicked.connect(workspace.review.close)
        self.feet = Button(theme, icon="footprints", kind=Kind.SWITCH, height=24, icon_size=14)
        self.feet.setParent(self)
        self.feet.setCheckable(True)
        self.feet.setAccessibleName(tr("Feet hold the ground"))
        self.feet.setToolTip(tr("Feet hold the ground where the recording's do"))
        self.feet.clicked.connect(self._hold_feet)
        self.feet.hide()
        self._tools = QWidget(self)
        line = QHBoxLayout(self._tools)
        line.setContentsMargins(4, 0, 4, 0)
        line.setSpacing(0)
        line.addWidget(self.propose)
        line.addWidget(self.mark)
        line.addWidget(self.lay)
        line.addStretch(1)
        line.addWidget(self.close_button)
        self._tools.hide()
        self._place_tools()
        workspace.actor_changed.connect(self._repaint)
        workspace.review.changed.connect(self._on_motion)

    def _repaint(self) -> None:
        self.update()

    def _on_motion(self) -> None:
        sequence = self._workspace.review.sequence
        self._tools.setVisible(sequence is not None)
        self.feet.setVisible(sequence is not None and sequence.can_hold)
        self.feet.setChecked(sequence is not None and sequence.feet_hold)
        self.setCursor(
            Qt.CursorShape.PointingHandCursor
            if sequence is not None
            else Qt.CursorShape.ArrowCursor
        )
        if sequence is not None:
            sequence.changed.connect(self._repaint)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(600, RULER + ROW)

    def set_label_width(self, width: int) -> None:
        """Frames line up under the stage."""
        if width != self.label_width:
            self.label_width = width
            self._place_tools()
            self.update()

    def _place_tools(self) -> None:
        self._tools.setGeometry(0, RULER + 4, self.label_width, ROW - 8)
        self.feet.setGeometry(self.label_width - 36, (RULER - 24) // 2, 28, 24)

    # -- frames ---------------------------------------------------------------------------

    def _pitch(self, sequence: FrameSequence) -> float:
        return (self.width() - self._start - 24) / max(len(sequence) - 1, 1)

    @property
    def _start(self) -> float:
        return self.label_width + 16.0

    def x_of(self, frame: int) -> float:
        """Where a frame of the sequence is."""
        sequence = self._workspace.review.sequence
        return self._start + (frame * self._pitch(sequence) if sequence is not None else 0.0)

    def frame_at(self, x: float) -> int:
        """The frame of the sequence at a place."""
        sequence = self._workspace.review.sequence
        if sequence is None:
            return 0
        return min(max(round((x - self._start) / self._pitch(sequence)), 0), len(sequence) - 1)

    def toggle_mark(self) -> None:
        """Mark the frame in sight, or take its mark away."""
        sequence = self._workspace.review.sequence
        if sequence is not None and sequence.frame is not None:
            sequence.mark([sequence.frame])

    def _propose(self) -> None:
        sequence = self._workspace.review.sequence
        if sequence is not None:
            sequence.mark_held() if sequence.stepped else sequence.propose()

    def _hold_feet(self) -> None:
        sequence = self._workspace.review.sequence
        if sequence is not None:
            sequence.hold_feet(not sequence.feet_hold)
            self.feet.setChecked(sequence.feet_hold)

    def _lay_in(self) -> None:
        self._workspace.review.lay()

    def step(self, by: int) -> None:
        """Look at another frame."""
        sequence = self._workspace.review.sequence
        if sequence is not None:
            sequence.show((sequence.frame or 0) + by)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        sequence = self._workspace.review.sequence
        if sequence is None or event.position().x() < self.label_width:
            return
        if event.button() is Qt.MouseButton.LeftButton:
            sequence.show(self.frame_at(event.position().x()))
            self.setFocus(Qt.FocusReason.MouseFocusReason)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        sequence = self._workspace.review.sequence
        if sequence is not None and event.buttons() & Qt.MouseButton.LeftButton:
            sequence.show(self.frame_at(event.position().x()))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        sequence = self._workspace.review.sequence
        if sequence is not None and event.position().x() >= self.label_width:
            sequence.mark([self.frame_at(event.position().x())])

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self._workspace.review.sequence is None or not self.keys.do(event):
            super().keyPressEvent(event)

    def _keys(self) -> KeyMap:
        return KeyMap(
            [
                LocalKey(
                    ("Left",),
                    partial(self.step, -1),
                    tr("look at a frame"),
                    tr("Pull along the strip, Left, Right"),
                    loose=True,
                ),
                LocalKey(("Right",), partial(self.step, 1), loose=True),
                LocalKey(
                    ("Up",),
                    partial(self._to_mark, -1),
                    tr("the mark before, after"),
                    tr("Up, Down"),
                    loose=True,
                ),
                LocalKey(("Down",), partial(self._to_mark, 1), loose=True),
            ]
        )

    def _to_mark(self, way: int) -> None:
        sequence = self._workspace.review.sequence
        assert sequence is not None
        here = sequence.frame or 0
        further = [m for m in sequence.marks if (m - here) * way > 0]
        if further:
            sequence.show(min(further, key=lambda m: abs(m - here)))

    def accessible_parts(self) -> list[AccessiblePart]:
        sequence = self._workspace.review.sequence
        if sequence is None:
            return []
        here = sequence.frame or 0
        frame = AccessibleAmount(
            here + 1, 1, len(sequence), 1, lambda number: sequence.show(round(number) - 1)
        )
        found = [
            AccessiblePart(
                "frame",
                tr("Current frame"),
                self._part_rect(here),
                QAccessible.Role.Slider,
                tr("of {count}, {name}", count=len(sequence), name=sequence.name),
                frame,
                current=self.hasFocus(),
            )
        ]
        for mark in sorted(sequence.marks):
            name, press = tr("Mark at {mark}", mark=mark + 1), partial(sequence.show, mark)
            found.append(AccessiblePart(("mark", mark), name, self._part_rect(mark), press=press))
        return found

    def _part_rect(self, frame: int) -> QRect:
        return QRect(round(self.x_of(frame)) - 6, 0, 12, RULER + 22)

    # -- painting -------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        theme, painter = self._theme, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.colour("panel"))
        left, width = self.label_width, self.width()
        painter.fillRect(0, 0, width, 1, theme.colour("line"))
        painter.fillRect(left, 0, 1, self.height(), theme.colour("line"))
        painter.fillRect(0, RULER, width, 1, theme.colour("line2"))
        sequence = self._workspace.review.sequence
        if sequence is None:
            return
        frame = "-" if sequence.frame is None else str(sequence.frame + 1)
        self._paint_words(
            painter,
            tr("Frame {frame} of {count}", frame=frame, count=len(sequence)),
            tr("{rate:.0f} fps", rate=sequence.rate),
        )
        pitch = self._pitch(sequence)
        self._paint_ruler(painter, len(sequence), pitch)
        if sequence.ground is not None:
            wide = (len(sequence) - 1) * pitch
            line = QRectF(self._start, RULER + ROW - 5, wide, 4)
            heat_line(painter, line, sequence.ground, theme.colour("good"))
        self._paint_marks(painter, sequence, pitch)
        if sequence.frame is not None:
            self._paint_now(painter, sequence.frame, pitch)

    def _paint_words(self, painter: QPainter, frame: str, rate: str) -> None:
        theme, middle = self._theme, Qt.AlignmentFlag.AlignVCenter
        painter.setFont(theme.font(12, 600))
        painter.setPen(theme.colour("text"))
        painter.drawText(QRectF(12, 0, 140, RULER), middle, frame)
        painter.setFont(theme.font(12))
        painter.setPen(theme.colour("quiet"))
        right = middle | Qt.AlignmentFlag.AlignRight
        room = 36 if self.feet.isVisible() else 0
        painter.drawText(QRectF(self.label_width - 92 - room, 0, 80, RULER), right, rate)

    def _paint_ruler(self, painter: QPainter, count: int, pitch: float) -> None:
        theme = self._theme
        painter.setFont(theme.font(12))
        step = next((s for s in STEPS if s * pitch >= APART), STEPS[-1])
        every = next((s for s in STEPS if s * pitch >= 4), step)
        for frame in range(0, count, every):
            x = self._start + frame * pitch
            if x > self.width():
                break
            long = frame % step == 0
            tall = 10 if long else 6
            painter.fillRect(QRectF(x - 0.5, RULER - tall, 1, tall), theme.colour("line"))
            if long and frame:
                painter.setPen(theme.colour("quiet"))
                painter.drawText(
                    QRectF(x - 22, 8, 44, 18), Qt.AlignmentFlag.AlignCenter, str(frame + 1)
                )

    def _paint_marks(self, painter: QPainter, sequence: FrameSequence, pitch: float) -> None:
        """Flags at marked frames, and the name of what is looked at."""
        theme = self._theme
        for frame in sorted(sequence.marks):
            x = self._start + frame * pitch
            flag = QPainterPath(QPointF(x, RULER + 5))
            flag.lineTo(x + 9, RULER + 9)
            flag.lineTo(x, RULER + 13)
            painter.fillPath(flag, theme.colour("text"))
            painter.fillRect(QRectF(x - 0.5, RULER + 5, 1.5, 16), theme.colour("text"))
        painter.setFont(theme.font(12))
        painter.setPen(theme.colour("quiet"))
        count = len(sequence.marks)
        text = (
            tr("{name}: {count} marked", name=sequence.name, count=count)
            if count
            else tr("{name}: nothing marked yet", name=sequence.name)
        )
        if sequence.ground is not None and sequence.frame is not None:
            text += tr(
                ", feet moved {ground:.1f} cm here",
                ground=100 * float(sequence.ground[sequence.frame]),
            )
        rect = QRectF(self._start, RULER + 20, self.width() - self._start - 12, 18)
        painter.drawText(rect, Qt.AlignmentFlag.AlignVCenter, text)

    def _paint_now(self, painter: QPainter, frame: int, pitch: float) -> None:
        theme, x = self._theme, self._start + frame * pitch
        flag = QPainterPath()
        flag.addRoundedRect(QRectF(x - 17, 6, 34, 22), 3, 3)
        painter.fillPath(flag, theme.colour("text"))
        painter.setPen(QPen(theme.colour("text"), 2))
        painter.drawLine(QPointF(x, 28), QPointF(x, self.height()))
        painter.setFont(theme.font(12, 600))
        painter.setPen(theme.colour("window"))
        rect = QRectF(x - 17, 6, 34, 22)
        painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, str(frame + 1))
