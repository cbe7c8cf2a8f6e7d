"""The drawings as they lie on each other, with pivots and what hangs on what."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QRadialGradient,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.core.puppet.puppet import Puppet, PuppetPart
from fox_hand.session.puppets.assembly import Key, PuppetAssembly
from fox_hand.ui.screens.assemble.limit_arc import LimitArc
from fox_hand.ui.screens.assemble.parts_list import Images
from fox_hand.ui.screens.assemble.trying import Trying, angle_about, between
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import draw_focus
from fox_hand.ui.widgets.key_map import KeyMap, LocalKey
from fox_hand.ui.widgets.pinch import follow_pinch

MARGIN, REACH, APART, OTHER = 48.0, 9.0, 0.3, 104.0
WAYS = {"Left": (-1, 0), "Right": (1, 0), "Up": (0, -1), "Down": (0, 1)}


@dataclass
class _Pull:
    """What is being pulled: a pivot, a whole part, or the line a part hangs by."""

    what: str
    name: str
    start: QPointF
    before: tuple[float, float]
    moved: bool = False
    at: QPointF | None = None
    end: int | None = None  # of limits


class AssembleCanvas(QWidget):
    """Pivots are pulled, lines are pulled onto other parts, whole parts with Shift; arrows move the
    pivot of the chosen part by one pixel, with Shift by ten."""

    chosen = Signal(str)
    refused = Signal(object)  # an error, in words

    def __init__(self, theme: Theme, images: Images) -> None:
        super().__init__()
        self._theme, self._images = theme, images
        self.assembly: PuppetAssembly | None = None
        self.view, self.part = "", ""
        self.apart = False
        self.posing = False  # parts swing, and nothing is said of them
        self.limits = True
        self.others = False  # the other views are shown, small
        self.trying = Trying()
        self._zoom, self._shift = 1.0, QPointF()
        self._pull: _Pull | None = None
        self._drags = 0
        self._by_keys = False  # whether the keyboard came by Tab
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Drawings and pivots"))
        follow_pinch(self, self.zoom_at)
        self.setMinimumSize(280, 240)
        keys = []
        for word, (dx, dy) in WAYS.items():
            keys.append(LocalKey((word,), partial(self._step, dx, dy)))
            keys.append(LocalKey((f"Shift+{word}",), partial(self._step, dx * 10, dy * 10)))
        keys[0] = replace(
            keys[0], words=tr("Move the pivot by 1, with Shift by 10"), shown=tr("Arrows")
        )
        self.keys = KeyMap(keys)

    # -- places ---------------------------------------------------------------------------

    @property
    def puppet(self) -> Puppet | None:
        return self.assembly.puppet if self.assembly is not None else None

    def _fit(self) -> tuple[float, QPointF]:
        """Widget pixels of one canvas pixel, and where the canvas begins."""
        puppet = self.puppet
        if puppet is None:
            return 1.0, QPointF()
        scale = min(
            (self.width() - 2 * MARGIN) / puppet.width, (self.height() - 2 * MARGIN) / puppet.height
        )
        scale = max(scale * (1 - APART / 2 if self.apart else 1.0), 1e-3)
        scale *= self._zoom
        corner = QPointF(
            (self.width() - puppet.width * scale) / 2, (self.height() - puppet.height * scale) / 2
        )
        return scale, corner + self._shift

    def look_at_all(self) -> None:
        """The whole canvas again."""
        self._zoom, self._shift = 1.0, QPointF()
        self.update()

    def set_posing(self, on: bool) -> None:
        """Try pivots and limits; all goes back when that ends."""
        self.posing = on
        self.trying.reset()
        self._pull = None
        self.update()

    def _arc(self) -> LimitArc | None:
        """The limits of the chosen part, where it has some."""
        puppet = self.puppet
        part = (
            None if puppet is None else next((p for p in self.parts() if p.name == self.part), None)
        )
        if part is None or part.limits is None or not self.limits or self.apart:
            return None
        rect, middle = self._rect(part), self.pivot_place(part)
        rest = angle_about(middle, rect.center()) if not rect.isEmpty() else 0.0
        if self.posing and puppet is not None:
            rest += self.trying.above(puppet, part)
        return LimitArc(middle, rest, *part.limits)

    def _off(self, part: PuppetPart) -> QPointF:
        """How far a part is drawn from where it is, canvas pixels."""
        puppet = self.puppet
        if puppet is None or not self.apart:
            return QPointF()
        x, y = puppet.root(self.view).pivot
        return QPointF((part.pivot[0] - x) * APART, (part.pivot[1] - y) * APART)

    def pivot_place(self, part: PuppetPart) -> QPointF:
        """Where a pivot is in the widget."""
        scale, corner = self._fit()
        at = QPointF(*part.pivot)
        if self.posing and self.puppet is not None:
            at = self.trying.way(self.puppet, part).map(at)
        return corner + (at + self._off(part)) * scale

    def _rect(self, part: PuppetPart) -> QRectF:
        image = self._images(part.seen)
        if image is None:
            return QRectF()
        scale, corner = self._fit()
        box = image.on_canvas(part.seen).translated(self._off(part))
        return QRectF(corner + box.topLeft() * scale, box.size() * scale)

    def parts(self) -> tuple[PuppetPart, ...]:
        """Of the view that is shown, in front first."""
        return self.puppet.of_view(self.view) if self.puppet is not None else ()

    def part_at(self, at: QPointF) -> PuppetPart | None:
        """What is drawn there, in front first."""
        asked = at
        for part in self.parts():
            rect, image = self._rect(part), self._images(part.seen)
            at = self._back(part, asked)
            if image is None or not rect.contains(at):
                continue
            x = int((at.x() - rect.x()) / rect.width() * image.image.width())
            y = int((at.y() - rect.y()) / rect.height() * image.image.height())
            x, y = min(x, image.image.width() - 1), min(y, image.image.height() - 1)
            if image.image.pixelColor(x, y).alpha() > 40:
                return part
        return None

    def _back(self, part: PuppetPart, at: QPointF) -> QPointF:
        """A place of the widget where it would be if nothing were tried."""
        if not self.posing or self.puppet is None:
            return at
        scale, corner = self._fit()
        way, _ = self.trying.way(self.puppet, part).inverted()
        return corner + way.map((at - corner) / scale) * scale

    def _pivot_at(self, at: QPointF) -> PuppetPart | None:
        near = [(_far(self.pivot_place(part), at), part) for part in self.parts()]
        near = [one for one in near if one[0] <= REACH]
        mine = [one for one in near if one[1].name == self.part]
        return min(mine or near, key=lambda one: one[0])[1] if near else None

    def _line_at(self, at: QPointF) -> PuppetPart | None:
        for part in self.parts():
            if part.above is None or self.puppet is None:
                continue
            start = self.pivot_place(part)
            end = self.pivot_place(self.puppet.part(part.above, self.view))
            if _beside(start, end, at) <= 5.0:
                return part
        return None

    # -- painting -------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter, theme = QPainter(self), self._theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        ground = QRadialGradient(
            QRectF(self.rect()).center(), max(self.width(), self.height()) / 1.6
        )
        ground.setColorAt(0, theme.colour("stage_middle"))
        ground.setColorAt(1, theme.colour("stage_edge"))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(ground)
        painter.drawRoundedRect(QRectF(self.rect()), 8, 8)
        painter.setClipRect(self.rect())
        self._paint_parts(painter)
        self._paint_lines(painter)
        for part in self.parts():
            self._paint_pivot(painter, part)
        arc = self._arc()
        if arc is not None:
            held = self._pull.end if self._pull is not None else None
            arc.paint(painter, theme, held)
        if self.others:
            self._paint_others(painter)
        if self.posing:
            painter.setPen(theme.colour("ink"))
            painter.setFont(theme.font(12))
            painter.drawText(QPointF(16, self.height() - 16), tr("Tried only: all goes back."))
        if self.apart:
            painter.setPen(theme.colour("ink"))
            painter.setFont(theme.font(12))
            words = tr("Drawn apart; the puppet itself is put together.")
            painter.drawText(QPointF(16, self.height() - 16), words)
        if self.hasFocus() and self._by_keys:
            draw_focus(painter, theme, QRectF(self.rect()), 8)

    def _paint_parts(self, painter: QPainter) -> None:
        scale, corner = self._fit()
        for part in reversed(self.parts()):
            image = self._images(part.seen)
            if image is None:
                continue
            painter.save()
            painter.setOpacity(part.seen.opacity)
            if self.posing and self.puppet is not None:
                painter.translate(corner)
                painter.scale(scale, scale)
                painter.setTransform(self.trying.way(self.puppet, part), combine=True)
                painter.drawImage(image.on_canvas(part.seen), image.image)
            else:
                painter.drawImage(self._rect(part), image.image)
            painter.restore()

    def _paint_others(self, painter: QPainter) -> None:
        """The other views, small, beside each other at the lower right."""
        puppet, theme = self.puppet, self._theme
        if puppet is None:
            return
        right = self.width() - 12.0
        for view in reversed([v for v in puppet.views if v != self.view]):
            box = QRectF(right - OTHER, self.height() - OTHER - 32, OTHER, OTHER)
            painter.setPen(QPen(theme.colour("line"), 1))
            painter.setBrush(theme.colour("paper", 0.6))
            painter.drawRoundedRect(box, 6, 6)
            scale = OTHER / max(puppet.width, puppet.height)
            for part in reversed(puppet.of_view(view)):
                image = self._images(part.seen)
                if image is not None:
                    at = image.on_canvas(part.seen)
                    place = QRectF(box.topLeft() + at.topLeft() * scale, at.size() * scale)
                    painter.drawImage(place, image.image)
            painter.setPen(theme.colour("ink"))
            painter.setFont(theme.font(11, 600))
            words = QRectF(box.left(), box.bottom() + 2, OTHER, 18)
            painter.drawText(words, Qt.AlignmentFlag.AlignCenter, view)
            right -= OTHER + 8

    def _paint_lines(self, painter: QPainter) -> None:
        puppet, ink = self.puppet, self._theme.colour("ink")
        if puppet is None:
            return
        for part in self.parts():
            if part.above is None:
                continue
            pulled = self._pull is not None and self._pull.what == "line"
            mine = part.name == self.part
            pen = QPen(ink, 1.75 if mine else 1.0, Qt.PenStyle.DashLine)
            painter.setPen(pen)
            end = self.pivot_place(puppet.part(part.above, self.view))
            if pulled and self._pull is not None and self._pull.name == part.name:
                end = self._pull.at or end
                painter.setPen(QPen(self._theme.colour("accent"), 2.0))
            painter.drawLine(self.pivot_place(part), end)

    def _paint_pivot(self, painter: QPainter, part: PuppetPart) -> None:
        theme, at = self._theme, self.pivot_place(part)
        mine = part.name == self.part
        radius = 7.0 if mine else 5.0
        painter.setPen(QPen(theme.colour("ink"), 1.5))
        painter.setBrush(theme.colour("accent" if mine else "paper"))
        painter.drawEllipse(at, radius, radius)
        arm = radius - 2.5
        painter.drawLine(at - QPointF(arm, 0), at + QPointF(arm, 0))
        painter.drawLine(at - QPointF(0, arm), at + QPointF(0, arm))

    # -- pointer and keys -----------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at, assembly = event.position(), self.assembly
        if assembly is None:
            return
        if event.button() is not Qt.MouseButton.LeftButton:
            self._pull = _Pull("pan", "", at, (self._shift.x(), self._shift.y()))
            return
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if self._take_hold(at):
            return
        pivot, line = self._pivot_at(at), self._line_at(at)
        found = pivot or (None if shift else line) or self.part_at(at)
        if found is None:
            return
        self.chosen.emit(found.name)
        what = "part" if shift else "pivot" if pivot is not None else "line" if line else ""
        self._drags += 1
        self._pull = _Pull(what, found.name, at, found.pivot) if what else None

    def _take_hold(self, at: QPointF) -> bool:
        """Of an end of the limits, or of a part that is tried."""
        arc = self._arc()
        end = None if arc is None else arc.hit(at)
        if end is not None:
            self._drags += 1
            self._pull = _Pull("limit", self.part, at, (0.0, 0.0), end=end)
            return True
        if not self.posing:
            return False
        part = self._pivot_at(at) or self.part_at(at)
        if part is not None:
            self.chosen.emit(part.name)
            begun = self.trying.angles.get(part.name, 0.0)
            self._pull = _Pull("swing", part.name, at, (begun, 0.0))
        return True

    def _follow(self, pull: _Pull, at: QPointF) -> None:
        """What is held by an angle goes with the pointer."""
        assembly, puppet = self.assembly, self.puppet
        if assembly is None or puppet is None:
            return
        part = puppet.part(pull.name, self.view)
        middle = self.pivot_place(part)
        if pull.what == "swing":
            turned = between(angle_about(middle, at) - angle_about(middle, pull.start))
            self.trying.swing(part, pull.before[0] + turned)
            self.update()
            return
        arc = self._arc()
        if arc is None or part.limits is None:
            return
        angle = between(angle_about(middle, at) - arc.rest)
        low, high = part.limits
        limits = (min(angle, high), high) if pull.end == 0 else (low, max(angle, low))
        degrees = tuple(float(np.radians(round(np.degrees(a)))) for a in limits)
        key = (self.view, pull.name)
        assembly.set_limits(key, (degrees[0], degrees[1]), f"limit {self._drags}")

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.zoom_at(1.15 ** (event.angleDelta().y() / 120), event.position())

    def zoom_at(self, nearer: float, at: QPointF) -> None:
        """Go nearer (above 1) or farther; the place there stays where it is."""
        before = self._zoom
        self._zoom = min(max(self._zoom * nearer, 0.5), 16.0)
        factor = self._zoom / before
        away = at - QPointF(self.width() / 2, self.height() / 2)
        self._shift = away + (self._shift - away) * factor
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self.part_at(event.position()) is None:
            self.look_at_all()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        pull, assembly, at = self._pull, self.assembly, event.position()
        if pull is None or assembly is None:
            over = self._pivot_at(at) or self._line_at(at) or self.part_at(at)
            self.setCursor(
                Qt.CursorShape.PointingHandCursor if over else Qt.CursorShape.ArrowCursor
            )
            self.setToolTip(self._tip(at))
            return
        if not pull.moved and _far(pull.start, at) < 4:
            return
        pull.moved = True
        if pull.what == "pan":
            self._shift = QPointF(*pull.before) + at - pull.start
            self.update()
            return
        if pull.what in ("swing", "limit"):
            self._follow(pull, at)
            return
        scale, _ = self._fit()
        dx, dy = (at.x() - pull.start.x()) / scale, (at.y() - pull.start.y()) / scale
        key, joined = (self.view, pull.name), f"pull {self._drags}"
        if pull.what == "pivot":
            ratio = 1 + APART if self.apart else 1.0
            x, y = pull.before[0] + dx / ratio, pull.before[1] + dy / ratio
            assembly.set_pivot(key, round(x, 1), round(y, 1), joined)
        elif pull.what == "part":
            x, y = assembly.part(key).pivot
            assembly.shift(key, pull.before[0] + dx - x, pull.before[1] + dy - y, joined)
        else:
            pull.at = at
            self.update()

    def _tip(self, at: QPointF) -> str:
        pivot = self._pivot_at(at)
        if pivot is not None:
            return tr(
                "{called} turns here. Pull it elsewhere; with Shift the whole part.",
                called=pivot.called,
            )
        line = self._line_at(at)
        if line is not None:
            return tr(
                "{called} hangs on {above}. Pull the line onto another part.",
                called=line.called,
                above=line.above,
            )
        part = self.part_at(at)
        return part.called if part is not None else ""

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pull, self._pull = self._pull, None
        self.update()
        if pull is None or self.assembly is None or pull.what != "line" or not pull.moved:
            return
        target = self._pivot_at(event.position()) or self.part_at(event.position())
        if target is None or target.name == pull.name:
            return
        hung(self.assembly, (self.view, pull.name), target.name, self.refused.emit)

    def leaveEvent(self, event: QEvent) -> None:
        self.unsetCursor()
        super().leaveEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        tabs = Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason
        self._by_keys = event.reason() in tabs
        super().focusInEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            super().keyPressEvent(event)

    def _step(self, dx: int, dy: int) -> bool:
        if self.assembly is None or not self.part:
            return False
        key = self.view, self.part
        x, y = self.assembly.part(key).pivot
        self.assembly.set_pivot(key, x + dx, y + dy, f"keys {self.view} {self.part}")
        return True


def hung(
    assembly: PuppetAssembly, key: Key, above: str, refused: Callable[[Exception], None]
) -> None:
    """Hang a part on another one, or say why not.

    Args:
        assembly: the puppet.
        key: the part.
        above: what it is to hang on.
        refused: told why not.
    """
    try:
        assembly.hang(key, above)
    except FoxHandError as error:
        refused(error)


def _far(a: QPointF, b: QPointF) -> float:
    return float(np.hypot(a.x() - b.x(), a.y() - b.y()))


def _beside(start: QPointF, end: QPointF, at: QPointF) -> float:
    """How far a point is from the middle part of a line; pivots are at its ends."""
    dx, dy = end.x() - start.x(), end.y() - start.y()
    size = dx * dx + dy * dy
    if size < 600:
        return float("inf")
    along = ((at.x() - start.x()) * dx + (at.y() - start.y()) * dy) / size
    along = min(max(along, 0.2), 0.8)
    return _far(QPointF(start.x() + along * dx, start.y() + along * dy), at)
