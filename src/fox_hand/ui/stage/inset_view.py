"""The lens: a second, small view that stays on one part of the figure."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

import numpy as np
from PySide6.QtCore import QPoint, QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import (
    QContextMenuEvent,
    QImage,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from fox_hand.base.language import tr
from fox_hand.core.maths.rotations import Array
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Picture, Quality, View
from fox_hand.session.app.needs import Posing
from fox_hand.session.figures.figure import Figure
from fox_hand.session.runtime.ports import Pictures, Post
from fox_hand.ui.picker.close_ups import parts_of
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.passing_menu import passing_menu
from fox_hand.ui.widgets.pinch import follow_pinch
from fox_hand.ui.widgets.screen_pixels import follow_screen

SIZE, SMALL = 180, 132
CAPTION = 28
TURN = float(np.radians(0.6))
FINE_DELAY = 160  # milliseconds of rest before the fine picture


class InsetView(QWidget):
    """Drag turns it, the wheel zooms, a double click frames anew, the name chooses the part."""

    def __init__(
        self, theme: Theme, workspace: Posing, stage: QWidget, pictures: Pictures, post: Post
    ) -> None:
        super().__init__(stage)
        self._stage = stage
        self._theme, self._workspace, self._pictures, self._post = theme, workspace, pictures, post
        self._image: QImage | None = None
        self._camera: Camera | None = None
        self._middle: Array = np.zeros(3)
        self._press: tuple[QPointF, Camera] | None = None
        self._asked = False
        self.part = ""
        self.on = workspace.settings.lens
        self.setProperty("floating", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAccessibleName(tr("Lens"))
        follow_pinch(self, self.zoom)
        follow_screen(self, self.refresh)
        self.setToolTip(tr("Drag turns, the wheel zooms, a double click frames again"))
        self.choose = Button(
            theme, "", kind=Kind.FLAT, height=24, menu=True, tip=tr("What the lens looks at")
        )
        self.choose.setParent(self)
        self.choose.clicked.connect(self._show_parts)
        self.close_button = Button(
            theme, icon="x", kind=Kind.FLAT, height=24, icon_size=14, tip=tr("Close the lens")
        )
        self.close_button.setParent(self)
        self._fine = QTimer(self)
        self._fine.setSingleShot(True)
        self._fine.setInterval(FINE_DELAY)
        self._fine.timeout.connect(partial(self._ask, Quality.CARD))
        self.setVisible(False)
        workspace.actor_changed.connect(self._on_actor)
        workspace.mix_changed.connect(self.refresh)

    def _on_actor(self) -> None:
        actor = self._workspace.actor
        if actor is not None:
            actor.posed.connect(self.refresh, unique=True)
            names = list(parts_of(actor))
            if self.part not in names and names:
                self.part = names[0]
        self.frame()

    def set_on(self, on: bool) -> None:
        """Show or hide it."""
        self.on = self._workspace.settings.lens = on
        self.frame()

    def place(self, bottom: int) -> None:
        """At the lower right of the stage, above what covers its lower edge."""
        stage = self._stage
        size = SIZE if stage.width() > 560 else SMALL
        self.resize(size, size + CAPTION)
        self.move(stage.width() - size - 12, stage.height() - size - CAPTION - 12 - bottom)
        self.choose.adjustSize()
        self.choose.move(4, size + 2)
        self.close_button.move(size - 28, size + 2)
        self.setVisible(self.on and self._workspace.actor is not None)
        self.raise_()

    # -- camera ---------------------------------------------------------------------------

    def look_at(self, part: str) -> None:
        """Look at another part of the figure."""
        self.part = part
        self.frame()

    def frame(self) -> None:
        """Bring the part into the picture from its own direction."""
        actor = self._workspace.actor
        self.setVisible(self.on and actor is not None)
        if not self.on or actor is None or self.part not in parts_of(actor):
            return
        yaw, pitch, rows = parts_of(actor)[self.part]
        nodes = actor.flesh_nodes(rows)
        camera = Camera(yaw=float(np.radians(yaw)), pitch=float(np.radians(pitch)))
        self._camera = camera.framing(actor.rig.flesh(actor.at, nodes), 1.0, 1.2)
        self._middle = self._now_middle(actor)
        self.choose.setText(self.part)
        self.choose.adjustSize()
        self.refresh()

    def _now_middle(self, actor: Figure) -> Array:
        rows = parts_of(actor)[self.part][2]
        return np.asarray(actor.handles()[rows].mean(0))

    @property
    def camera(self) -> Camera | None:
        """Its camera, moved along with the part."""
        actor = self._workspace.actor
        if self._camera is None or actor is None or self.part not in parts_of(actor):
            return None
        step = self._now_middle(actor) - self._middle
        x, y, z = (float(v) for v in np.asarray(self._camera.target) + step)
        return replace(self._camera, target=(x, y, z))

    # -- pictures -------------------------------------------------------------------------

    def refresh(self) -> None:
        """The figure or the camera moved: draw soon, and finely at rest."""
        if not self.on or self._workspace.actor is None:
            return
        self._fine.start()
        if not self._asked:
            self._ask(Quality.DRAFT)

    def _ask(self, quality: Quality) -> None:
        camera = self.camera
        if camera is None or not self.on:
            return
        self._asked = quality is Quality.DRAFT
        ratio = self.devicePixelRatioF() if quality is Quality.CARD else 1.0
        side = max(round(self.width() * ratio), 32)
        figures = tuple(a.standing for a in self._workspace.cast.actors)
        view = View(figures, camera, side, side, quality)
        self._pictures.submit("lens", view, lambda result: self._post(lambda: self._came(result)))

    def _came(self, result: Picture | Exception) -> None:
        self._asked = False
        if isinstance(result, Exception):
            return  # the stage says what is wrong with pictures
        height, width = result.pixels.shape[:2]
        format_ = QImage.Format.Format_RGBA8888_Premultiplied
        self._image = QImage(result.pixels.data, width, height, width * 4, format_).copy()
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        box = QRectF(1, 1, self.width() - 2, self.width() - 2)
        if self._image is None:
            painter.fillRect(box, self._theme.colour("stage_middle"))
        else:
            painter.drawImage(box, self._image)
        painter.setPen(QPen(self._theme.colour("line"), 1))
        painter.drawLine(1, self.width(), self.width() - 2, self.width())

    # -- pointer --------------------------------------------------------------------------

    def _show_parts(self) -> None:
        self._menu(self.choose.mapToGlobal(QPoint(0, 0)))

    def _menu(self, at: QPoint) -> None:
        actor = self._workspace.actor
        if actor is None:
            return
        menu = passing_menu(self)
        for name in parts_of(actor):
            menu.addAction(name, partial(self.look_at, name))
        menu.popup(at)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self._menu(event.globalPos())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        camera = self.camera
        actor = self._workspace.actor
        if camera is not None and actor is not None:
            self._camera, self._middle = camera, self._now_middle(actor)
            self._press = (event.position(), camera)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._press is not None:
            d = event.position() - self._press[0]
            self._camera = self._press[1].orbit(-d.x() * TURN, d.y() * TURN)
            self.refresh()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        del event
        self._press = None

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        del event
        self.frame()

    def wheelEvent(self, event: QWheelEvent) -> None:
        steps = event.angleDelta().y() / 120
        if steps:
            self.zoom(0.88**-steps)
        event.accept()

    def zoom(self, nearer: float, at: QPointF | None = None) -> None:
        """Go nearer (above 1) or farther, to its middle wherever the fingers are."""
        del at
        camera, actor = self.camera, self._workspace.actor
        if camera is not None and actor is not None:
            self._camera, self._middle = camera.zoom(1 / nearer), self._now_middle(actor)
            self.refresh()
