"""Handles on the stage: where they are, which are shown, what is under the pointer."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPixmap, QPolygonF

from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.controls import FACE_REGIONS, Control, ControlKind, Region, Side
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera
from fox_hand.ui.theme.theme import Theme

REACH = 9.0  # how near the pointer must be to a handle, pixels
CROWDED = 24.0  # fingers whose joints are nearer to each other than this show only the wrist
CROWDED_FACE = 44.0  # face controls with less room each than this show only the head


@dataclass(frozen=True, eq=False)
class HandleLayout:
    """Handles of one figure on one picture.

    Args:
        points: x, y in widget pixels and depth, ``(C, 3)``.
        shown: which are drawn and can be picked, ``(C,)``.
    """

    points: Array
    shown: np.ndarray

    def nearest(self, at: QPointF) -> int | None:
        """The control under the pointer: among those in reach, the nearest; None for none."""
        if not self.shown.any():
            return None
        distance = np.hypot(self.points[:, 0] - at.x(), self.points[:, 1] - at.y())
        distance = np.where(self.shown, distance, np.inf)
        best = int(np.argmin(distance))
        return best if distance[best] <= REACH else None

    def through(self, at: QPointF, after: int | None) -> int | None:
        """Among the controls under the pointer, from front to back, the one behind ``after``."""
        distance = np.hypot(self.points[:, 0] - at.x(), self.points[:, 1] - at.y())
        under = np.flatnonzero(self.shown & (distance <= REACH))
        under = under[np.argsort(self.points[under, 2], kind="stable")].tolist()
        if not under:
            return None
        return under[(under.index(after) + 1) % len(under)] if after in under else under[0]

    def inside(self, rect: QRectF) -> list[int]:
        """Controls whose handles lie in a rectangle."""
        x, y = self.points[:, 0], self.points[:, 1]
        hit = (x >= rect.left()) & (x <= rect.right()) & (y >= rect.top()) & (y <= rect.bottom())
        return np.flatnonzero(hit & self.shown).tolist()


def lay_out(
    rig: Rig,
    places: Array,
    camera: Camera,
    size: tuple[int, int],
    chosen: set[int],
    idle: Collection[int] = (),
) -> HandleLayout:
    """Project handles and leave out those of a hand or face that would only be a heap.

    Args:
        rig, places: controls and their world places ``(C, 3)``.
        camera, size: the picture, its width and height in pixels.
        chosen: controls that are selected or touched by a card; their part is always shown.
        idle: controls that move nothing now; shown only when chosen.
    """
    points = camera.project(places, *size)
    shown = np.array([not c.helper for c in rig.controls], dtype=bool) & (points[:, 2] > 0)
    shown[[r for r in idle if r not in chosen]] = False
    for rows, face in [] if rig.flat else _clusters(rig):  # what is drawn has few parts
        if chosen & set(rows) or len(rows) < 4:
            continue
        if face:
            spread = points[rows, :2].max(0) - points[rows, :2].min(0)
            crowded = float(np.hypot(*spread)) / np.sqrt(len(rows)) < CROWDED_FACE
            kept = {r for r in rows if _is_neck_or_head(rig.controls[r])}
        else:
            inner = [r for r in rows if rig.parents[r] in rows]
            steps = points[inner, :2] - points[[rig.parents[r] for r in inner], :2]
            crowded = bool(inner) and float(np.median(np.hypot(*steps.T))) < CROWDED
            kept = {r for r in rows if r not in inner}
        if crowded:
            shown[[r for r in rows if r not in kept]] = False
    return HandleLayout(points, shown)


def _is_neck_or_head(control: Control) -> bool:
    return control.region is Region.HEAD and control.kind is ControlKind.JOINT


def _clusters(rig: Rig) -> list[tuple[list[int], bool]]:
    """Controls that stand close together: each hand, and (True) the face."""
    groups: dict[tuple[bool, Side], list[int]] = {}
    for row, control in enumerate(rig.controls):
        if control.kind not in (ControlKind.JOINT, ControlKind.HOLDER):
            continue
        if control.region is Region.HANDS:
            groups.setdefault((False, control.side), []).append(row)
        elif control.region in FACE_REGIONS:
            groups.setdefault((True, Side.CENTRE), []).append(row)
    return [(rows, key[0]) for key, rows in groups.items()]


@dataclass(frozen=True)
class HandleState:
    """How one handle is drawn."""

    kind: ControlKind = ControlKind.JOINT
    selected: bool = False
    moved: bool = False
    pointed: bool = False
    touched: float = 0.0  # how far a card moves it, 0...1
    small: bool = False  # one of many, where full rings would cover each other
    locked: bool = False
    swaps: bool = False  # its drawings take turns


class HandleStamps:
    """Every look of a handle, drawn once and stamped after that; there are many on a stage."""

    HALF = 12  # logical pixels from the middle to the edge of a stamp

    def __init__(self, theme: Theme) -> None:
        self._theme = theme
        self._stamps: dict[tuple[HandleState, float, int], QPixmap] = {}

    def draw(self, painter: QPainter, x: float, y: float, state: HandleState) -> None:
        """Stamp a handle with its middle at a point."""
        ratio = painter.device().devicePixelRatioF()
        state = replace(state, touched=round(state.touched * 12) / 12 if state.touched else 0.0)
        key = state, ratio, self._theme.age
        if key not in self._stamps:
            size = round(2 * self.HALF * ratio)
            stamp = QPixmap(size, size)
            stamp.setDevicePixelRatio(ratio)
            stamp.fill(Qt.GlobalColor.transparent)
            inner = QPainter(stamp)
            inner.setRenderHint(QPainter.RenderHint.Antialiasing)
            draw_handle(inner, self._theme, self.HALF, self.HALF, state)
            inner.end()
            self._stamps[key] = stamp
        painter.drawPixmap(QPointF(x - self.HALF, y - self.HALF), self._stamps[key])


def draw_handle(painter: QPainter, theme: Theme, x: float, y: float, state: HandleState) -> None:
    """A handle: paper with an ink edge, so that it reads on skin and cloth alike. Joints and
    holders are dots, goals squares, poles diamonds, look-at targets rings with a middle."""
    ink, paper = theme.colour("ink"), theme.colour("paper")
    at = QPointF(x, y)
    if state.selected:
        painter.setPen(QPen(ink, 1.5))
        painter.setBrush(paper)
        _shape(painter, at, 6.0 if state.small else 9.0, state.kind)
    radius = 6.0 if state.pointed else (3.0 if state.small else 4.0)
    if state.swaps:
        _sheets(painter, theme, at, state)
        return
    if state.kind is not ControlKind.JOINT and state.kind is not ControlKind.HOLDER:
        radius += 1.0
    if state.touched > 0:
        radius = max(radius - 0.5, 2.5 + 2.5 * state.touched)
        painter.setPen(QPen(ink, 1.25))
        painter.setBrush(theme.colour("accent"))
        _shape(painter, at, radius, state.kind)
        return
    painter.setPen(QPen(ink, 1.5))
    painter.setBrush(ink if state.selected else paper)
    _shape(painter, at, radius, state.kind)
    if state.locked:
        painter.setPen(QPen(paper if state.selected else ink, 1.5))
        painter.drawLine(at + QPointF(-2.5, 0), at + QPointF(2.5, 0))
    elif (state.moved and not state.selected) or state.kind is ControlKind.LOOK:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(paper if state.selected else ink)
        painter.drawEllipse(at, 1.6, 1.6)


def _sheets(painter: QPainter, theme: Theme, at: QPointF, state: HandleState) -> None:
    """Two sheets, one on the other: the part swaps drawings."""
    ink, paper = theme.colour("ink"), theme.colour("paper")
    side = 10.0 if state.pointed else 8.0
    on = ink if state.selected else paper
    if state.touched > 0:
        on = theme.colour("accent")
    painter.setPen(QPen(ink, 1.5))
    for shift, ground in ((2.5, paper), (-1.5, on)):
        painter.setBrush(ground)
        corner = at + QPointF(shift - side / 2, -shift - side / 2)
        painter.drawRoundedRect(QRectF(corner.x(), corner.y(), side, side), 1.5, 1.5)
    if (state.moved and not state.selected and state.touched <= 0) or state.locked:
        painter.setPen(QPen(paper if state.selected else ink, 1.5))
        middle = at + QPointF(-1.5, 1.5)
        if state.locked:
            painter.drawLine(middle + QPointF(-2, 0), middle + QPointF(2, 0))
        else:
            painter.drawPoint(middle)


def _shape(painter: QPainter, at: QPointF, radius: float, kind: ControlKind) -> None:
    if kind is ControlKind.GOAL:
        side = radius * 0.92
        painter.drawRect(QRectF(at.x() - side, at.y() - side, side * 2, side * 2))
    elif kind is ControlKind.POLE:
        r = radius * 1.25
        corners = (QPointF(0, -r), QPointF(r, 0), QPointF(0, r), QPointF(-r, 0))
        painter.drawPolygon(QPolygonF([at + c for c in corners]))
    else:
        painter.drawEllipse(at, radius, radius)
