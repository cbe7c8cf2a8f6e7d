"""How the lanes of a performance are painted."""

from __future__ import annotations

from typing import Protocol

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPaintDevice, QPainter, QPainterPath, QPen

from fox_hand.base.language import tr
from fox_hand.core.maths.rotations import Array
from fox_hand.core.retarget.stand_edits import Spans
from fox_hand.session.animating.performance_draft import PerformanceDraft
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import draw_focus

RULER, LANE, FOOT, LABELS = 28, 60, 24, 112
STEPS = (1, 2, 5, 6, 10, 12, 20, 25, 50, 100, 200, 500, 1000, 2000, 5000)
APART = 44  # pixels between two numbers of the ruler, at least
MIDDLE = Qt.AlignmentFlag.AlignVCenter
HINT = tr(
    "A band holds the foot where it stands: drag an end, double click a lane to add one, Del."
)


class Lanes(Protocol):
    """What is painted."""

    @property
    def draft(self) -> PerformanceDraft | None: ...
    @property
    def frame(self) -> int: ...
    @property
    def chosen(self) -> tuple[str, int] | None: ...
    @property
    def span(self) -> tuple[int, int]: ...
    @property
    def count(self) -> int: ...
    @property
    def view(self) -> tuple[float, float]: ...
    def spans(self, side: str) -> Spans: ...
    def x_of(self, frame: float) -> float: ...
    def top_of(self, side: str) -> int: ...
    def band_rect(self, side: str, span: tuple[int, int]) -> QRectF: ...
    def width(self) -> int: ...
    def height(self) -> int: ...
    def hasFocus(self) -> bool: ...


class LanesPainter:
    """Paints rulers, bands, curves and the line of the frame in sight."""

    def __init__(self, theme: Theme) -> None:
        self._theme = theme

    def paint(self, lanes: Lanes) -> None:
        """Everything, from the ground up."""
        assert isinstance(lanes, QPaintDevice)
        painter = QPainter(lanes)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if lanes.draft is None:
            return
        for side in ("left", "right"):
            self._label(painter, lanes, side, lanes.draft)
        painter.setClipRect(QRectF(LABELS, 0, lanes.width() - LABELS, lanes.height()))
        self._ruler(painter, lanes)
        for side in ("left", "right"):
            self._lane(painter, lanes, side, lanes.draft)
        self._outside(painter, lanes)
        self._now(painter, lanes)
        painter.setClipping(False)
        painter.setFont(self._theme.font(11))
        painter.setPen(self._theme.colour("quiet"))
        foot = QRectF(12, lanes.height() - FOOT, lanes.width() - 24, FOOT)
        words = HINT if self._stands(lanes) else tr("Where its feet stand is not known.")
        short = painter.fontMetrics().elidedText(
            words, Qt.TextElideMode.ElideRight, round(foot.width())
        )
        painter.drawText(foot, MIDDLE, short)
        if lanes.hasFocus():
            draw_focus(painter, self._theme, QRectF(0, 0, lanes.width(), lanes.height()), 6)

    @staticmethod
    def _stands(lanes: Lanes) -> bool:
        made = lanes.draft.fit.made if lanes.draft is not None else None
        return made is not None and made.stands is not None

    def _ruler(self, painter: QPainter, lanes: Lanes) -> None:
        theme, count = self._theme, lanes.count
        first, last = lanes.view
        pitch = lanes.x_of(1) - lanes.x_of(0) if count > 1 else 1.0
        step = next((s for s in STEPS if s * pitch >= APART), STEPS[-1])
        every = next((s for s in STEPS if s * pitch >= 4), step)
        painter.setFont(theme.font(12))
        for frame in range(int(first) // every * every, min(int(last) + 2, count), every):
            x, long = lanes.x_of(frame), frame % step == 0
            tall = 8 if long else 4
            painter.fillRect(QRectF(x - 0.5, RULER - tall, 1, tall), theme.colour("line"))
            if long:
                painter.setPen(theme.colour("quiet"))
                box = QRectF(x - 22, 0, 44, RULER - 8)
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(frame + 1))

    def _lane(self, painter: QPainter, lanes: Lanes, side: str, draft: PerformanceDraft) -> None:
        for number, span in enumerate(lanes.spans(side)):
            self._band(painter, lanes, side, number, span)
        heights = _heights(draft, side)
        if heights is not None:
            self._curve(painter, lanes, side, heights)

    def _label(self, painter: QPainter, lanes: Lanes, side: str, draft: PerformanceDraft) -> None:
        theme, top, heights = self._theme, lanes.top_of(side), _heights(draft, side)
        painter.fillRect(QRectF(0, top, lanes.width(), 1), theme.colour("line"))
        for font, token, box, text in (
            (theme.font(12, 600), side, QRectF(12, top + 8, 16, 44), side[0].upper()),
            (theme.font(12, 500), "text", QRectF(28, top + 12, LABELS - 28, 18), tr("foot")),
            (theme.font(12), "quiet", QRectF(28, top + 30, LABELS - 28, 18), _up_to(heights)),
        ):
            painter.setFont(font)
            painter.setPen(theme.colour(token))
            painter.drawText(box, MIDDLE, text)

    def _band(
        self, painter: QPainter, lanes: Lanes, side: str, number: int, span: tuple[int, int]
    ) -> None:
        theme, rect = self._theme, lanes.band_rect(side, span)
        chosen = lanes.chosen == (side, number)
        painter.setPen(QPen(theme.colour("text"), 1.5) if chosen else Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("high"))
        painter.drawRoundedRect(rect, 3, 3)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour(side))
        painter.drawRoundedRect(QRectF(rect.left(), rect.bottom() - 4, rect.width(), 4), 2, 2)
        if rect.width() > 14:
            painter.setBrush(theme.colour("text"))
            for x in (rect.left() + 1, rect.right() - 3):
                painter.drawRect(QRectF(x, rect.center().y() - 8, 2, 16))
        painter.setFont(theme.font(12))
        words = tr("{span} to {span_2}", span=span[0] + 1, span_2=span[1])
        if painter.fontMetrics().horizontalAdvance(words) < rect.width() - 14:
            painter.setPen(theme.colour("text"))
            painter.drawText(QRectF(rect.left() + 8, rect.top(), rect.width(), 20), MIDDLE, words)

    def _curve(self, painter: QPainter, lanes: Lanes, side: str, heights: Array) -> None:
        """How high the foot is over the ground."""
        most = max(float(heights.max()), 1e-6)
        low, tall = lanes.top_of(side) + LANE - 8, LANE - 20
        first, last = (int(x) for x in lanes.view)
        every = max((last - first) // 1200, 1)
        frames = np.arange(max(first - 1, 0), min(last + 2, len(heights)), every)
        path = QPainterPath()
        for number, frame in enumerate(frames.tolist()):
            y = low - tall * min(max(float(heights[frame]) / most, 0.0), 1.0)
            at = QPointF(lanes.x_of(frame), y)
            path.lineTo(at) if number else path.moveTo(at)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(self._theme.colour(side), 1.5))
        painter.drawPath(path)

    def _outside(self, painter: QPainter, lanes: Lanes) -> None:
        """What does not go in is dimmed."""
        theme, (first, last) = self._theme, lanes.span
        bottom = RULER + 2 * LANE
        for left, right in (
            (lanes.x_of(0) - 4, lanes.x_of(first)),
            (lanes.x_of(last), lanes.x_of(lanes.count - 1) + 4),
        ):
            if right - left > 4.5:
                box = QRectF(left, 0, right - left, bottom)
                painter.fillRect(box, theme.colour("window", 0.62))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("text"))
        for frame in (first, last):
            x = lanes.x_of(frame)
            painter.fillRect(QRectF(x - 0.5, 4, 1, bottom - 4), theme.colour("text", 0.6))
            painter.drawRoundedRect(QRectF(x - 3, RULER - 14, 6, 14), 2, 2)

    def _now(self, painter: QPainter, lanes: Lanes) -> None:
        theme, x = self._theme, lanes.x_of(lanes.frame)
        painter.setPen(QPen(theme.colour("text"), 2))
        painter.drawLine(QPointF(x, 20), QPointF(x, RULER + 2 * LANE))
        text = str(lanes.frame + 1)
        painter.setFont(theme.font(12, 600))
        wide = max(painter.fontMetrics().horizontalAdvance(text) + 10, 28)
        box = QRectF(x - wide / 2, 0, wide, 20)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("text"))
        painter.drawRoundedRect(box, 3, 3)
        painter.setPen(theme.colour("window"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)


def _heights(draft: PerformanceDraft, side: str) -> Array | None:
    """How high a foot is over the ground, as large as the character, metres ``(F,)``."""
    made = draft.fit.made
    found = made.heights.get(side) if made is not None else None
    return found * made.legs if made is not None and found is not None else None


def _up_to(heights: Array | None) -> str:
    return (
        ""
        if heights is None
        else tr("up to {value:.0f} cm", value=max(float(heights.max()), 0.0) * 100)
    )
