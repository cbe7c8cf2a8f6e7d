"""When each foot of a performance stands: a lane for either, to be corrected by hand."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

import numpy as np
from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QAccessible,
    QKeyEvent,
    QMouseEvent,
    QPaintEvent,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from fox_hand.base.language import tr
from fox_hand.core.retarget.stand_edits import Spans
from fox_hand.session.animating.performance_draft import PerformanceDraft
from fox_hand.ui.screens.performance.lanes_paint import LanesPainter
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.accessible_parts import AccessibleAmount, AccessiblePart, PartsOwner
from fox_hand.ui.widgets.key_map import KeyMap, LocalKey
from fox_hand.ui.widgets.pinch import follow_pinch

RULER, LANE, FOOT = 28, 60, 24
LABELS, MARGIN = 112, 16
NEAR = 6  # pixels from an end of a stretch that still take hold of it
CLOSEST = 20.0  # frames that are shown at least
FRESH = 0.25  # seconds of a stretch that is added
SIDES = ("left", "right")
TEN = 10  # frames at once, with Shift
LEFT_RIGHT, UP_DOWN = tr("Left, Right"), tr("Up, Down")  # as the sheet of keys writes them


@dataclass(frozen=True)
class LaneHold:
    """What the pointer holds.

    Args:
        what: ``now``, ``in``, ``out``, or an end of a stretch: ``first``, ``last``.
        side, number: which stretch.
    """

    what: str
    side: str = ""
    number: int = 0


class PerformanceLanes(QWidget, PartsOwner):
    """Pull along it to look; the wheel comes nearer. A band holds the foot where it stands: its
    ends are dragged, a double click on a lane adds one, Delete takes the chosen one out."""

    frame_asked = Signal(int, bool)  # frame, whether more follow at once

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.draft: PerformanceDraft | None = None
        self.frame = 0
        self.chosen: tuple[str, int] | None = None  # a stretch: side, number
        self.pulled: tuple[str, Spans] | None = None  # how the stretches of a side are now
        self.pulled_span: tuple[int, int] | None = None
        self._hold: LaneHold | None = None
        self._view: tuple[float, float] | None = None
        self._paint = LanesPainter(theme)
        self.setFixedHeight(RULER + 2 * LANE + FOOT)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName(tr("When the feet stand"))
        follow_pinch(self, self.zoom_at)
        self.keys = KeyMap(
            [
                LocalKey(("Shift+Left",), partial(self.step, -TEN)),
                LocalKey(("Shift+Right",), partial(self.step, TEN)),
                LocalKey(("Left",), partial(self.step, -1), loose=True),
                LocalKey(
                    ("Right",),
                    partial(self.step, 1),
                    tr("a frame, with Shift ten"),
                    LEFT_RIGHT,
                    True,
                ),
                LocalKey(("Up",), partial(self._choose_next, -1), loose=True),
                LocalKey(
                    ("Down",),
                    partial(self._choose_next, 1),
                    tr("the bar before, after"),
                    UP_DOWN,
                    True,
                ),
                LocalKey(
                    ("Del", "Backspace"),
                    self.take_out,
                    tr("the foot does not stand there"),
                    "Del",
                    True,
                ),
            ]
        )

    def sizeHint(self) -> QSize:
        return QSize(824, RULER + 2 * LANE + FOOT)

    # -- what is shown --------------------------------------------------------------------

    def begin(self, draft: PerformanceDraft | None) -> None:
        """Show another performance; None shows nothing."""
        self.draft, self.frame = draft, 0
        self.chosen = self.pulled = self.pulled_span = self._hold = self._view = None
        self.update()

    def show_frame(self, frame: int) -> None:
        """Where the line stands; it stays in sight."""
        self.frame = frame
        first, last = self.view
        if not first <= frame <= last:
            self.look_at(frame - (last - first) / 2, frame + (last - first) / 2)
        self.update()

    def spans(self, side: str) -> Spans:
        """On which frames a foot stands, also while an end is being pulled."""
        if self.pulled is not None and self.pulled[0] == side:
            return self.pulled[1]
        return self.draft.spans(side) if self.draft is not None else ()

    @property
    def span(self) -> tuple[int, int]:
        """The frames that go in, also while they are being pulled."""
        if self.pulled_span is not None:
            return self.pulled_span
        return self.draft.span if self.draft is not None else (0, 0)

    @property
    def count(self) -> int:
        return len(self.draft) if self.draft is not None else 1

    # -- places ---------------------------------------------------------------------------

    def x_of(self, frame: float) -> float:
        """Where a frame is."""
        first, last = self.view
        wide = self.width() - LABELS - 2 * MARGIN
        return LABELS + MARGIN + (frame - first) * wide / max(last - first, 1e-6)

    def frame_at(self, x: float) -> int:
        """The frame at a place."""
        return min(max(round(self._frames_at(x)), 0), self.count - 1)

    def _frames_at(self, x: float) -> float:
        first, last = self.view
        wide = self.width() - LABELS - 2 * MARGIN
        return first + (x - LABELS - MARGIN) * (last - first) / max(wide, 1)

    @property
    def view(self) -> tuple[float, float]:
        """The frames at the left and the right end."""
        return self._view or (0.0, float(max(self.count - 1, 1)))

    def look_at(self, first: float, last: float) -> None:
        """Show only some of the frames, as many as can be told apart at least."""
        most = float(max(self.count - 1, 1))
        wide = min(max(last - first, min(CLOSEST, most)), most)
        first = min(max(first, 0.0), most - wide)
        self._view = None if wide >= most else (first, first + wide)
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Nearer or further away about the pointer; with Shift, or sideways, along."""
        turn, (first, last) = event.angleDelta(), self.view
        aside = turn.x() or (
            turn.y() if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 0
        )
        if aside:
            gone = -aside / 120 * (last - first) * 0.1
            self.look_at(first + gone, last + gone)
        else:
            self.zoom_at(0.8 ** (-turn.y() / 120), event.position())
        event.accept()

    def zoom_at(self, nearer: float, at: QPointF) -> None:
        """Fewer frames (above 1) or more; the one there stays where it is."""
        (first, last), here = self.view, self._frames_at(at.x())
        self.look_at(here - (here - first) / nearer, here + (last - here) / nearer)

    @staticmethod
    def top_of(side: str) -> int:
        """Where the lane of a foot begins."""
        return RULER + LANE * SIDES.index(side)

    def band_rect(self, side: str, span: tuple[int, int]) -> QRectF:
        """Where a stretch is painted."""
        left, right = self.x_of(span[0]), self.x_of(max(span[1] - 1, span[0]))
        return QRectF(left, self.top_of(side) + 4, max(right - left, 2.0), LANE - 8)

    def _side_at(self, y: float) -> str | None:
        number = int((y - RULER) // LANE) if y >= RULER else -1
        return SIDES[number] if 0 <= number < len(SIDES) else None

    def _band_at(self, at: QPointF) -> tuple[str, int] | None:
        side = self._side_at(at.y())
        if side is None:
            return None
        rects = [self.band_rect(side, span) for span in self.spans(side)]
        found = (i for i, r in enumerate(rects) if r.left() - 1 <= at.x() <= r.right() + 1)
        number = next(found, None)
        return None if number is None else (side, number)

    def hold_at(self, at: QPointF) -> LaneHold | None:
        """What a press there would take hold of."""
        if self.draft is None or at.x() < LABELS:
            return None
        if at.y() < RULER:
            first, last = self.span
            ends = (("in", first), ("out", last))
            far = [(abs(self.x_of(f) - at.x()), what) for what, f in ends]
            near = min(far)
            whole = (first, last) == (0, self.count - 1)
            inner = near[0] < NEAR and abs(self.x_of(self.frame) - at.x()) > NEAR
            return LaneHold(near[1]) if inner or (near[0] < NEAR and whole) else LaneHold("now")
        side = self._side_at(at.y())
        if side is None:
            return None
        for number, span in enumerate(self.spans(side)):
            rect = self.band_rect(side, span)
            for what, x in (("first", rect.left()), ("last", rect.right())):
                if abs(x - at.x()) < NEAR:
                    return LaneHold(what, side, number)
        return LaneHold("now")

    # -- pointer --------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.draft is None or event.button() is not Qt.MouseButton.LeftButton:
            return
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        at = event.position()
        self._hold = self.hold_at(at)
        band = self._band_at(at)
        if at.y() >= RULER:
            self.chosen = band
        if self._hold is not None and self._hold.what == "now":
            self.frame_asked.emit(self.frame_at(at.x()), True)
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._hold is None or not event.buttons() & Qt.MouseButton.LeftButton:
            hold = self.hold_at(at)
            ends = hold is not None and hold.what != "now"
            self.setCursor(Qt.CursorShape.SizeHorCursor if ends else Qt.CursorShape.ArrowCursor)
            return
        frame = self.frame_at(at.x())
        if self._hold.what == "now":
            self.frame_asked.emit(frame, True)
        elif self._hold.what in ("in", "out"):
            first, last = self.span
            inside = self._hold.what == "in"
            self.pulled_span = (min(frame, last), last) if inside else (first, max(frame, first))
        else:
            self._pull_end(self._hold, frame)
        self.update()

    def _pull_end(self, hold: LaneHold, frame: int) -> None:
        assert self.draft is not None
        spans = list(self.draft.spans(hold.side))
        if hold.number >= len(spans):
            return  # it was found again meanwhile
        first, last = spans[hold.number]
        if hold.what == "first":
            spans[hold.number] = min(frame, last - 1), last
        else:
            spans[hold.number] = first, max(frame + 1, first + 1)
        self.pulled = hold.side, tuple(spans)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        hold, self._hold = self._hold, None
        pulled, self.pulled = self.pulled, None
        span, self.pulled_span = self.pulled_span, None
        if self.draft is None or hold is None:
            return
        if pulled is not None:
            self.draft.set_spans(*pulled)
            self._choose_at(hold.side, self.frame_at(event.position().x()))
        elif span is not None:
            self.draft.set_span(*span)
        elif hold.what == "now":
            self.frame_asked.emit(self.frame_at(event.position().x()), False)
        self.update()

    def _choose_at(self, side: str, frame: int) -> None:
        spans = self.spans(side)
        near = [i for i, (first, last) in enumerate(spans) if first - 1 <= frame <= last]
        self.chosen = (side, near[0]) if near else None

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        side = self._side_at(event.position().y())
        if self.draft is None or side is None or event.position().x() < LABELS:
            return
        if self._band_at(event.position()) is None:
            self.add(side, self.frame_at(event.position().x()))

    # -- keys -----------------------------------------------------------------------------

    def add(self, side: str, frame: int) -> None:
        """Let a foot stand around a frame."""
        if self.draft is None:
            return
        half = max(round(FRESH * self.draft.performance.rate / 2), 1)
        fresh = max(frame - half, 0), min(frame + half, self.count)
        self.draft.set_spans(side, (*self.draft.spans(side), fresh))
        self._choose_at(side, frame)
        self.update()

    def take_out(self) -> bool:
        """Let the foot go free where the chosen band held it."""
        if self.draft is None or self.chosen is None:
            return False
        side, number = self.chosen
        spans = self.draft.spans(side)
        self.chosen = None
        self.draft.set_spans(side, spans[:number] + spans[number + 1 :])
        return True

    def step(self, by: int) -> None:
        """Look at another frame."""
        frame = min(max(self.frame + by, 0), self.count - 1)
        self.frame_asked.emit(frame, False)

    def _choose_next(self, way: int) -> None:
        """Choose the band before or after, and look at where it begins."""
        bands = sorted(
            (span[0], side, number)
            for side in SIDES
            for number, span in enumerate(self.spans(side))
        )
        if not bands:
            return
        names = [(side, number) for _, side, number in bands]
        if self.chosen in names:
            at = min(max(names.index(self.chosen) + way, 0), len(names) - 1)
        else:
            starts = np.array([first for first, _, _ in bands])
            at = int(np.argmin(np.abs(starts - self.frame)))
        self.chosen = names[at]
        self.frame_asked.emit(bands[at][0], False)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.draft is None or not self.keys.do(event):
            super().keyPressEvent(event)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.update()

    def accessible_parts(self) -> list[AccessiblePart]:
        if self.draft is None:
            return []
        now = AccessibleAmount(
            self.frame + 1,
            1,
            self.count,
            1,
            lambda number: self.frame_asked.emit(round(number) - 1, False),
        )
        here = round(self.x_of(self.frame))
        found = [
            AccessiblePart(
                "frame",
                tr("Current frame"),
                QRect(here - 8, 0, 16, RULER),
                QAccessible.Role.Slider,
                tr("of {count}", count=self.count),
                now,
                current=self.hasFocus() and self.chosen is None,
            )
        ]
        for side in SIDES:
            for number, span in enumerate(self.spans(side)):
                found.append(
                    AccessiblePart(
                        (side, number),
                        tr(
                            "{foot} stands, {first} to {last}",
                            foot=tr("Left foot") if side == "left" else tr("Right foot"),
                            first=span[0] + 1,
                            last=span[1],
                        ),
                        self.band_rect(side, span).toRect(),
                        selected=self.chosen == (side, number),
                        current=self.hasFocus() and self.chosen == (side, number),
                        press=partial(self._press, side, number),
                    )
                )
        return found

    def _press(self, side: str, number: int) -> None:
        self.chosen = side, number
        self.frame_asked.emit(self.spans(side)[number][0], False)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        self._paint.paint(self)
