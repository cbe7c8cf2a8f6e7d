"""The pictures of the stage: when one is asked for, how fine, and what came of it."""

from __future__ import annotations

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtGui import QImage, QPainter, QPainterPath
from PySide6.QtWidgets import QWidget

from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Picture, Quality
from fox_hand.session.app.needs import PosingInTime
from fox_hand.session.app.stage_composition import GHOST, PEEK, SELECTED, compose_view
from fox_hand.session.applying.preview import Preview
from fox_hand.session.runtime.ports import Pictures, Post
from fox_hand.ui.stage.draft_size import DraftSize
from fox_hand.ui.stage.onion_skin import OnionSkin
from fox_hand.ui.stage.stage_paint import outline_path, paint_outlines
from fox_hand.ui.theme.theme import Theme

REST_DELAY = 70  # milliseconds without a change before the fine picture is drawn
GhostKey = tuple[object, Camera, int, int]


class StagePictures(QObject):
    """Asks for a quick picture at every change and for a fine one at rest, and keeps the newest.

    Args:
        theme, workspace: what is drawn, and the colours of outlines.
        pictures, post: who draws, and the way back from there.
        canvas: whose size the pictures have.
    """

    arrived = Signal(bool)  # whether it is a fine one
    failed = Signal(object)

    def __init__(
        self,
        theme: Theme,
        workspace: PosingInTime,
        pictures: Pictures,
        post: Post,
        canvas: QWidget,
    ) -> None:
        super().__init__(canvas)
        self._theme, self._workspace, self._pictures, self._post = theme, workspace, pictures, post
        self._canvas = canvas
        self.camera = Camera()
        self.ghost_on = True
        self.plain = False  # while a card is captured: nothing but the figures
        self.image: QImage | None = None
        self.latest: Picture | None = None
        self._outline = QPainterPath()
        self._ghost: tuple[GhostKey, QPainterPath] | None = None
        self._peek: tuple[Preview, QPainterPath] | None = None
        self._neighbours = OnionSkin(theme, workspace)
        self._draft_size = DraftSize()
        self._drafts = 0  # quick pictures that were asked for since the last one came
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(REST_DELAY)
        self._rest.timeout.connect(self._rested)

    @property
    def drawing(self) -> bool:
        """Whether a quick picture is on its way."""
        return self._drafts > 0

    def forget(self, *, everything: bool) -> None:
        """Outlines are of somebody who does not act any more; or nobody stands there at all."""
        self._ghost, self._outline = None, QPainterPath()
        if everything:
            self.image = self.latest = None

    # -- asking ---------------------------------------------------------------------------

    def ask(self) -> None:
        """Something changed: draw soon, and finely at rest."""
        self._ask(Quality.DRAFT)
        self._rest.start()

    def _rested(self) -> None:
        """Nothing moves: the fine picture, but never instead of the first quick one."""
        if self._drafts:
            self._rest.start()
        else:
            self._ask(Quality.FULL)

    def _ask(self, quality: Quality) -> None:
        if self._workspace.actor is None:
            return
        fine = quality is Quality.FULL
        share = self._canvas.devicePixelRatioF() if fine else self._draft_size.share
        size = (
            max(round(self._canvas.width() * share), 2),
            max(round(self._canvas.height() * share), 2),
        )
        ghost = self.ghost_on and not self._ghost_known
        view = compose_view(
            self._workspace, self.camera, size, quality, ghost=ghost, plain=self.plain
        )
        key, peek = self._ghost_key(), self._workspace.mix_commands.peek
        if not fine:
            self._drafts += 1
        since = None if fine else self._draft_size.now()
        self._pictures.submit(
            "stage",
            view,
            lambda result: self._post(lambda: self._arrived(result, key, peek, since)),
        )

    def _ghost_key(self) -> GhostKey | None:
        mix = self._workspace.mix
        if mix is None:
            return None
        return (mix, mix.how), self.camera, self._canvas.width(), self._canvas.height()

    @property
    def _ghost_known(self) -> bool:
        return self._ghost is not None and self._ghost[0] == self._ghost_key()

    # -- arriving -------------------------------------------------------------------------

    def _arrived(
        self,
        result: Picture | Exception,
        key: GhostKey | None,
        peek: Preview | None,
        since: float | None,
    ) -> None:
        if since is not None:
            self._drafts = 0
            self._draft_size.took(self._draft_size.now() - since)
            self._rest.start()  # a hand that follows what it sees moves on first
        if isinstance(result, Exception):
            self.failed.emit(result)
            return
        if self._workspace.actor is None:  # everybody left meanwhile
            return
        pixels = result.pixels
        height, width = pixels.shape[:2]
        self.image = QImage(
            pixels.data, width, height, width * 4, QImage.Format.Format_RGBA8888_Premultiplied
        )
        self.latest = result
        self._take_outlines(result, self._canvas.width() / width, key, peek)
        fine = result.view.quality is Quality.FULL
        if fine and result.unfinished:
            self._rest.start()  # whoever pulls meanwhile does not wait for all of it
        self.arrived.emit(fine)

    def _take_outlines(
        self, result: Picture, scale: float, key: GhostKey | None, peek: Preview | None
    ) -> None:
        found = result.contours
        self._outline = outline_path(found.get(SELECTED, ()), scale)
        self._neighbours.take(found, scale)
        # what came late is of no use, and would hold a figure that may have left
        self._peek = None
        if peek is not None and peek is self._workspace.mix_commands.peek and PEEK in found:
            self._peek = peek, outline_path(found[PEEK], scale)
        if GHOST in found and key is not None and key == self._ghost_key():
            self._ghost = key, outline_path(found[GHOST], scale)

    def paint_outlines(self, painter: QPainter) -> None:
        """What lies over the newest picture: only what still belongs to it."""
        latest = self.latest
        fine = latest is not None and latest.view.quality is Quality.FULL
        current = fine and latest is not None and latest.view.camera == self.camera
        ghost = peek = None
        if self.ghost_on and self._ghost is not None and self._ghost_known:
            ghost = self._ghost[1]
        if self._peek is not None and self._peek[0] is self._workspace.mix_commands.peek:
            peek = self._peek[1]
        if current:
            self._neighbours.paint(painter)
        paint_outlines(painter, self._theme, self._outline if current else None, ghost, peek)
