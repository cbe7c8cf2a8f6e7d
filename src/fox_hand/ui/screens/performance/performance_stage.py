"""Both figures of a performance: its own as lines, and the character that follows it."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import (
    QColor,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from fox_hand.base.language import tr
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.controls import Side
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Picture, Quality, View
from fox_hand.session.animating.motion_import import frame_of
from fox_hand.session.animating.performance_draft import PerformanceDraft
from fox_hand.session.animating.stick_figure import StickFigure
from fox_hand.session.runtime.ports import Pictures, Post
from fox_hand.ui.picker.figure_drawing import is_long
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Segments, draw_focus
from fox_hand.ui.widgets.key_map import KeyMap, LocalKey
from fox_hand.ui.widgets.pinch import follow_pinch
from fox_hand.ui.widgets.screen_pixels import follow_screen

STILL = 140  # milliseconds without a change until the fine picture is asked for
ASIDE = 0.9  # radians from its front from where it is looked at
ROUND = 0.8  # of its length: as much of a long body is room enough
NEARBY = 2.5  # of a figure's height: how far away it is looked at from
APART = 0.62  # of a figure's height: how far either stands from the middle
WAYS = {"Left": (-0.15, 0.0), "Right": (0.15, 0.0), "Up": (0.0, 0.1), "Down": (0.0, -0.1)}
SIDES = {Side.LEFT: "left", Side.RIGHT: "right"}


class PerformanceStage(QWidget):
    """Drag or the arrow keys turn the view, the wheel comes nearer. It goes along with the
    figures, which stand on one ground and are as large as one another."""

    def __init__(self, theme: Theme, pictures: Pictures, post: Post) -> None:
        super().__init__()
        self._theme, self._pictures, self._post = theme, pictures, post
        self._draft: PerformanceDraft | None = None
        self.frame = 0
        self._long = False  # whether the character is an animal or the like
        self.camera = Camera(yaw=ASIDE, pitch=0.04)
        self._image: QImage | None = None
        self._from: QPointF | None = None
        self._asked = 0
        self._settled = QTimer(self, singleShot=True, interval=STILL)
        self._settled.timeout.connect(partial(self._ask, Quality.FULL))
        self.placing = Segments(
            theme, (("beside", tr("Beside")), ("over", tr("Over it"))), tr("Lines")
        )
        self.placing.setParent(self)
        self.placing.chosen.connect(lambda _: self._show(Quality.FULL))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumHeight(200)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName(tr("The performance and who follows it"))
        follow_pinch(self, self.zoom)
        follow_screen(self, partial(self._show, Quality.FULL))
        self.setCursor(Qt.CursorShape.OpenHandCursor)
        self.keys = KeyMap(
            [LocalKey((k,), partial(self._turn, *way), loose=True) for k, way in WAYS.items()]
        )

    def sizeHint(self) -> QSize:
        return QSize(824, 376)

    # -- what is shown --------------------------------------------------------------------

    def begin(self, draft: PerformanceDraft | None) -> None:
        """Show another performance; None shows nothing."""
        self._draft, self.frame, self._image = draft, 0, None
        if draft is not None:
            self._long = is_long(draft.actor.rig)
            tall = self._tall(draft)
            front = draft.actor.rig.body.heading
            self.camera = replace(self.camera, distance=tall * NEARBY, yaw=front + ASIDE)
        self.update()

    def show_frame(self, frame: int, *, moving: bool = False) -> None:
        """Look at a frame; ``moving`` while others follow at once."""
        self.frame = frame
        self._show(Quality.DRAFT if moving else Quality.FULL)

    def _show(self, quality: Quality) -> None:
        self._settled.stop()
        self._ask(quality)
        if quality is Quality.DRAFT:
            self._settled.start()

    def _ask(self, quality: Quality) -> None:
        draft = self._draft
        if draft is None or draft.fit.made is None or self.width() < 32:
            self._image = None
            self.update()
            return
        standing = draft.actor.standing_in(frame_of(draft.fit.made.state, self.frame))
        self._follow()
        self._asked += 1
        ratio = self.devicePixelRatioF() if quality is Quality.FULL else 1.0
        wide, high = round(self.width() * ratio), round(self.height() * ratio)
        view = View((standing,), self._camera(1.0), wide, high, quality)
        number = self._asked
        self._pictures.submit(
            "performance", view, lambda found: self._post(partial(self._came, number, found))
        )
        self.update()

    def _came(self, number: int, result: Picture | Exception) -> None:
        if isinstance(result, Exception) or self._draft is None or number < self._asked - 1:
            return
        height, width = result.pixels.shape[:2]
        kind = QImage.Format.Format_RGBA8888_Premultiplied
        self._image = QImage(result.pixels.data, width, height, width * 4, kind).copy()
        self.update()

    # -- where things are -----------------------------------------------------------------

    @property
    def _over(self) -> bool:
        return self.placing.value == "over"

    def _follow(self) -> None:
        """The camera goes along the ground with the figures."""
        stick, draft = self._stick, self._draft
        if stick is None or draft is None:
            return
        middle = stick.places[self.frame].mean(0) + draft.actor.ground
        up = float(draft.actor.rig.rest_bounds[0][1] + 0.5 * self._tall(draft))
        self.camera = replace(self.camera, target=(float(middle[0]), up, float(middle[2])))

    def _tall(self, draft: PerformanceDraft) -> float:
        """How high both stand on any frame, or a long one reaches far, metres."""
        low, high = draft.actor.rig.rest_bounds
        wide = float(np.hypot(high[0] - low[0], high[2] - low[2])) if self._long else 0.0
        found, stick = max(float(high[1] - low[1]), ROUND * wide), draft.fit.stick
        if stick is not None:
            found = max(found, float(stick.places[:, :, 1].max() - low[1]))
        return found

    @property
    def _stick(self) -> StickFigure | None:
        return self._draft.fit.stick if self._draft is not None else None

    def _camera(self, side: float) -> Camera:
        """The camera as it sees the character (1) or the lines (-1), either beside the middle."""
        if self._over:
            return self.camera
        across = side * APART * self.camera.distance / NEARBY
        right = self.camera.view()[0, :3]
        target = np.array(self.camera.target) - right * across
        return replace(self.camera, target=(float(target[0]), float(target[1]), float(target[2])))

    def _projected(self, points: Array, side: float) -> Array:
        return self._camera(side).project(points, self.width(), self.height())

    # -- pointer and keys -----------------------------------------------------------------

    def _turn(self, yaw: float, pitch: float) -> None:
        pitch = min(max(self.camera.pitch + pitch, -0.2), 1.4)
        self.camera = replace(self.camera, yaw=self.camera.yaw + yaw, pitch=pitch)
        self._show(Quality.DRAFT)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._from = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._from is not None:
            gone, self._from = event.position() - self._from, event.position()
            self._turn(-gone.x() * 0.01, gone.y() * 0.006)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._from = None
        super().mouseReleaseEvent(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.zoom(0.9 ** (-event.angleDelta().y() / 120))
        event.accept()

    def zoom(self, nearer: float, at: QPointF | None = None) -> None:
        """Go nearer (above 1) or farther."""
        del at
        far = self.camera.distance / nearer
        self.camera = replace(self.camera, distance=min(max(far, 0.05), 200.0))
        self._show(Quality.DRAFT)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            super().keyPressEvent(event)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        hint = self.placing.sizeHint()
        self.placing.setGeometry(self.width() - hint.width() - 12, 12, hint.width(), hint.height())
        self._show(Quality.FULL)

    # -- painting -------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        theme, painter = self._theme, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        box = QRectF(self.rect())
        clip = QPainterPath()
        clip.addRoundedRect(box, 8, 8)
        painter.setClipPath(clip)
        painter.fillRect(box, theme.colour("stage_middle"))
        if self._image is not None:
            painter.drawImage(box, self._image)
        stick, draft = self._stick, self._draft
        if stick is not None and draft is not None:
            self._paint_ground(painter, draft)
            self._paint_stick(painter, draft, stick)
            self._paint_feet(painter, draft, stick)
            self._paint_names(painter, draft)
        else:
            painter.setFont(theme.font(12))
            painter.setPen(theme.colour("ink"))
            words = tr("Nothing of it fits yet. Say at the right which joint is which.")
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words if draft is not None else "")
        if self.hasFocus():
            draw_focus(painter, theme, box, 8)

    def _paint_ground(self, painter: QPainter, draft: PerformanceDraft) -> None:
        under = np.array(self.camera.target)
        under[1] = draft.actor.rig.rest_bounds[0][1]
        y = self.camera.project(under, self.width(), self.height())[0, 1]
        pen = QPen(self._theme.colour("ink", 0.5), 1)
        pen.setDashPattern([4, 4])
        painter.setPen(pen)
        painter.drawLine(QPointF(24, y), QPointF(self.width() - 24, y))

    def _paint_stick(self, painter: QPainter, draft: PerformanceDraft, stick: StickFigure) -> None:
        theme = self._theme
        points = self._projected(stick.places[self.frame] + draft.actor.ground, -1.0)
        far = np.argsort(-points[:, 2])
        depth = points[:, 2].max() - points[:, 2].min()
        for joint in far.tolist():
            above = stick.above[joint]
            if above < 0:
                continue
            behind = (points[joint, 2] - points[:, 2].min()) / max(depth, 1e-6) > 0.6
            painter.setPen(QPen(theme.colour("ink", 0.55 if behind else 1.0), 2 if behind else 3))
            painter.drawLine(QPointF(*points[above, :2]), QPointF(*points[joint, :2]))
        painter.setPen(QPen(theme.colour("ink"), 1.5))
        for joint in far.tolist():
            token = SIDES.get(stick.sides[joint])
            painter.setBrush(theme.colour(token) if token is not None else QColor(255, 255, 255))
            painter.drawEllipse(QPointF(*points[joint, :2]), 3.5, 3.5)

    def _paint_feet(self, painter: QPainter, draft: PerformanceDraft, stick: StickFigure) -> None:
        """A bracket under every foot that stands, on both figures."""
        made, ground = draft.fit.made, draft.actor.rig.rest_bounds[0][1]
        if made is None or made.stands is None:
            return
        rig = draft.actor.rig
        nodes = draft.actor.standing_in(frame_of(made.state, self.frame)).at.nodes
        here = {c.role: c.node for c in rig.controls if c.role is not None}
        for side in made.stands.heels:
            if not made.stands.feet(side)[self.frame]:
                continue
            places = []
            if side in stick.feet:
                places.append((stick.places[self.frame, stick.feet[side]], -1.0))
            if f"{side}Foot" in here and not self._over:
                places.append((nodes[here[f"{side}Foot"], :3, 3] - draft.actor.ground, 1.0))
            for place, which in places:
                spot = np.array([place[0], ground, place[2]]) + draft.actor.ground
                x, y = self._projected(spot, which)[0, :2]
                self._paint_bracket(painter, side, QPointF(x, y))

    def _paint_bracket(self, painter: QPainter, side: str, at: QPointF) -> None:
        theme = self._theme
        painter.setPen(QPen(theme.colour("ink"), 2.5))
        painter.drawLine(at - QPointF(11, 0), at + QPointF(11, 0))
        for x in (-11, 11):
            painter.drawLine(at + QPointF(x, 0), at + QPointF(x, -5))
        box = QRectF(at.x() - 8, at.y() + 6, 16, 16)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("ink"))
        painter.drawRoundedRect(box, 3, 3)
        painter.setPen(theme.colour(side))
        painter.setFont(theme.font(11, 600))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, side[0].upper())

    def _paint_names(self, painter: QPainter, draft: PerformanceDraft) -> None:
        words: tuple[tuple[str, str], ...] = (
            (draft.name, tr("as it was recorded")),
            (draft.actor.name, tr("fitted")),
        )
        if self._over:
            words = (
                (
                    tr("{name} over {name_2}", name=draft.name, name_2=draft.actor.name),
                    tr("as it was recorded, and fitted"),
                ),
            )
        for number, (name, what) in enumerate(words):
            left = 12.0 + number * self.width() / 2
            self._paint_label(painter, left, name, what)

    def _paint_label(self, painter: QPainter, left: float, name: str, what: str) -> None:
        theme = self._theme
        bold, plain = theme.font(12, 600), theme.font(12)
        painter.setFont(bold)
        room = self.width() / 2 - 160
        short = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, int(room))
        wide = painter.fontMetrics().horizontalAdvance(short)
        painter.setFont(plain)
        more = painter.fontMetrics().horizontalAdvance(what)
        box = QRectF(left, 12, wide + more + 26, 24)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("panel"))
        painter.drawRoundedRect(box, 4, 4)
        middle = Qt.AlignmentFlag.AlignVCenter
        for x, font, token, text in (
            (left + 8, bold, "text", short),
            (left + 16 + wide, plain, "quiet", what),
        ):
            painter.setFont(font)
            painter.setPen(theme.colour(token))
            painter.drawText(QRectF(x, 12, 400, 24), middle, text)
