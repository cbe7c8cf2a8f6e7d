"""Two figures beside each other that are turned together."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace
from functools import partial

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import (
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QResizeEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Contour, Picture, Quality, Standing, View
from fox_hand.session.runtime.ports import Pictures, Post
from fox_hand.ui.stage.stage_paint import outline_path, paint_outlines
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import draw_focus
from fox_hand.ui.widgets.key_map import KeyMap, LocalKey
from fox_hand.ui.widgets.screen_pixels import follow_screen, in_pixels

FOOT = 44
ASIDE = 0.42  # radians from its front from where a figure is looked at
WAYS = {"Left": (-0.15, 0.0), "Right": (0.15, 0.0), "Up": (0.0, 0.1), "Down": (0.0, -0.1)}


class FigurePair(QWidget):
    """Drag or the arrow keys turn both."""

    def __init__(self, theme: Theme, pictures: Pictures, post: Post, name: str) -> None:
        super().__init__()
        self._theme, self._pictures, self._post, self._name = theme, pictures, post, name
        self._figures: list[Standing] = []
        self._nodes: Collection[int] | None = None
        self._words: list[tuple[str, str]] = []
        self._images: dict[int, QImage] = {}
        self._outlined: frozenset[int] = frozenset()
        self._lines: dict[int, QPainterPath] = {}
        self._from: QPointF | None = None
        self.camera = Camera(yaw=ASIDE, pitch=0.05)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumHeight(240)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName(name)
        self.keys = KeyMap(
            [LocalKey((k,), partial(self._turn, *way), loose=True) for k, way in WAYS.items()]
        )
        self.setCursor(Qt.CursorShape.OpenHandCursor)
        follow_screen(self, self._draw)

    def show_figures(self, figures: list[Standing], words: list[tuple[str, str]]) -> None:
        """Two figures, and a title and a line for each."""
        first = len(self._figures) != len(figures)
        self._figures, self._words = figures, words
        if first:
            front = figures[0].rig.body.heading if figures else 0.0
            self.camera = replace(self.camera, yaw=front + ASIDE)
            self.frame()
        else:
            self._draw()

    def frame(self, nodes: Collection[int] | None = None) -> None:
        """Bring the whole figure, or what follows some nodes, into the pictures."""
        self._nodes = nodes if nodes is not None else self._nodes
        if not self._figures:
            return
        width, height = self.room()
        points = [f.rig.flesh(f.at, self._nodes or None, every=6) for f in self._figures]
        self.camera = self.camera.framing(np.concatenate(points), width / height, 1.15)
        self._draw()

    def outline(self, nodes: Collection[int]) -> None:
        """Draw a line around what follows some nodes, on both."""
        if frozenset(nodes) != self._outlined:
            self._outlined = frozenset(nodes)
            self._draw()

    def room(self) -> tuple[int, int]:
        """Width and height of one picture."""
        return max((self.width() - 4) // 2, 32), max(self.height() - FOOT, 32)

    def _draw(self) -> None:
        size = in_pixels(self, self.room())
        for number, standing in enumerate(self._figures):
            marked = (Contour("outlined", standing, self._outlined),) if self._outlined else ()
            view = View((standing,), self.camera, *size, Quality.CARD, contours=marked)
            self._pictures.submit(f"{self._name} {number}", view, partial(self._came, number))
        self.update()

    def _came(self, number: int, result: Picture | Exception) -> None:
        self._post(lambda: self._arrived(number, result))

    def _arrived(self, number: int, result: Picture | Exception) -> None:
        if isinstance(result, Exception):
            return
        height, width = result.pixels.shape[:2]
        kind = QImage.Format.Format_RGBA8888_Premultiplied
        self._images[number] = QImage(result.pixels.data, width, height, width * 4, kind).copy()
        self._lines[number] = outline_path(
            result.contours.get("outlined", ()), self.room()[0] / width
        )
        self.update()

    def _turn(self, yaw: float, pitch: float) -> None:
        self.camera = replace(
            self.camera,
            yaw=self.camera.yaw + yaw,
            pitch=min(max(self.camera.pitch + pitch, -1.4), 1.4),
        )
        self._draw()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._from = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._from is not None:
            gone, self._from = event.position() - self._from, event.position()
            self._turn(-gone.x() * 0.01, gone.y() * 0.006)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._from = None
        super().mouseReleaseEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            super().keyPressEvent(event)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.frame()

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        theme, painter = self._theme, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        width, height = self.room()
        for number, (title, text) in enumerate(self._words):
            box = QRectF(number * (width + 4), 0, width, height)
            painter.fillRect(box, theme.colour("stage_middle"))
            image = self._images.get(number)
            if image is not None:
                painter.drawImage(box, image)
            if self._outlined and number in self._lines:
                lines = self._lines[number].translated(box.topLeft())
                paint_outlines(painter, theme, lines, None, None)
            foot = QRectF(box.left(), height, width, FOOT)
            painter.fillRect(foot, theme.colour("raised"))
            for row, (words, token, font) in enumerate(
                ((title, "text", theme.font(12, 600)), (text, "quiet", theme.font(11)))
            ):
                painter.setFont(font)
                painter.setPen(theme.colour(token))
                short = painter.fontMetrics().elidedText(
                    words, Qt.TextElideMode.ElideRight, width - 16
                )
                line = QRectF(foot.left() + 8, height + 4 + 18 * row, width - 16, 18)
                painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, short)
        if self.hasFocus():
            draw_focus(painter, theme, QRectF(self.rect()), 6)
