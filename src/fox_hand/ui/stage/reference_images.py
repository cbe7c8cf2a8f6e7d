"""Boards: reference pictures pinned to the stage."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial
from pathlib import Path

from PySide6.QtCore import (
    QObject,
    QPointF,
    QRectF,
    QSize,
    Qt,
    Signal,
)
from PySide6.QtGui import (
    QContextMenuEvent,
    QImageReader,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.inputs import CARD, open_file
from fox_hand.base.language import tr
from fox_hand.session.figures.snapshot import KeptBoard
from fox_hand.ui.services.picture_files import SUFFIXES
from fox_hand.ui.theme.plain_text import plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.key_map import KeyMap, LocalKey
from fox_hand.ui.widgets.passing_menu import passing_menu

LARGEST = 2048  # pixels a picture is read with at most
SMALLEST, FIRST = 64, 240
CORNER = 16
FAINTEST = 0.15


def can_pin(path: Path) -> bool:
    """Whether a file looks like a picture."""
    return path.suffix.lower() in SUFFIXES


@dataclass
class ImageGrip:
    """What a press on a board holds: the board, or its corner."""

    at: QPointF
    left: int
    top: int
    width: int
    corner: bool


class ReferenceImage(QWidget):
    """Drag moves it, its corner scales, the wheel fades, Delete takes it off."""

    changed = Signal()
    taken_off = Signal()

    def __init__(self, theme: Theme, stage: QWidget, kept: KeptBoard, picture: QPixmap) -> None:
        super().__init__(stage)
        self.keys = KeyMap([LocalKey(("Del", "Backspace"), self.taken_off.emit, loose=True)])
        self._theme, self._stage, self._picture = theme, stage, picture
        self.path = Path(kept.path)
        self.fade = kept.fade
        self._held: ImageGrip | None = None
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setCursor(Qt.CursorShape.SizeAllCursor)
        self.setMouseTracking(True)
        self.setAccessibleName(tr("Reference {name}", name=self.path.name))
        hint = tr("drag moves, the corner scales, the wheel fades")
        self.setToolTip(plain_tip(f"{self.path.name}: {hint}"))
        self._resize(kept.width or FIRST)
        self.move(kept.x, kept.y)
        self.show()

    def kept(self) -> KeptBoard:
        """What is remembered of it."""
        return KeptBoard(str(self.path), self.x(), self.y(), self.width(), round(self.fade, 3))

    def _resize(self, width: int) -> None:
        width = min(max(width, SMALLEST), max(self._stage.width(), SMALLEST))
        ratio = self._picture.height() / max(self._picture.width(), 1)
        self.resize(width, max(round(width * ratio), 24))

    def set_fade(self, fade: float) -> None:
        """How solid it is, 0.15 ... 1."""
        self.fade = min(max(fade, FAINTEST), 1.0)
        self.update()
        self.changed.emit()

    def _on_corner(self, at: QPointF) -> bool:
        return at.x() > self.width() - CORNER and at.y() > self.height() - CORNER

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() is Qt.MouseButton.LeftButton:
            self.raise_()
            corner = self._on_corner(event.position())
            at = event.globalPosition()
            self._held = ImageGrip(at, self.x(), self.y(), self.width(), corner)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is None:
            corner = self._on_corner(event.position())
            shape = Qt.CursorShape.SizeFDiagCursor if corner else Qt.CursorShape.SizeAllCursor
            self.setCursor(shape)
            return
        d = event.globalPosition() - self._held.at
        if self._held.corner:
            self._resize(round(self._held.width + d.x()))
            return
        stage = self._stage
        x = min(max(self._held.left + d.x(), 24 - self.width()), stage.width() - 24)
        y = min(max(self._held.top + d.y(), 0), stage.height() - 24)
        self.move(round(x), round(y))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        del event
        if self._held is not None:
            self._held = None
            self.changed.emit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.set_fade(self.fade + event.angleDelta().y() / 120 * 0.1)
        event.accept()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            super().keyPressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        menu = passing_menu(self)
        for percent in (100, 60, 30):
            menu.addAction(
                tr("{percent} % solid", percent=percent), partial(self.set_fade, percent / 100)
            )
        menu.addSeparator()
        menu.addAction(tr("Take off the stage"), self.taken_off.emit)
        menu.popup(event.globalPos())

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setOpacity(self.fade)
        painter.drawPixmap(QRectF(self.rect()), self._picture, QRectF(self._picture.rect()))
        painter.setOpacity(1.0)
        focus = self.hasFocus()
        painter.setPen(QPen(self._theme.colour("ink"), 2 if focus else 1))
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
        if focus or self.underMouse():
            x, y = self.width(), self.height()
            for step in (4, 8, 12):
                painter.drawLine(x - step, y - 2, x - 2, y - step)


class ReferenceImages(QObject):
    """All boards of a stage."""

    changed = Signal()  # any of them came, went or moved

    def __init__(self, theme: Theme, stage: QWidget) -> None:
        super().__init__(stage)
        self._theme, self._stage = theme, stage
        self.boards: list[ReferenceImage] = []
        self.lost: list[KeptBoard] = []

    def pin(self, kept: KeptBoard) -> ReferenceImage:
        """Pin a picture; whoever does says that it changed.

        Raises:
            FoxHandError: ``board.unreadable``.
        """
        board = ReferenceImage(self._theme, self._stage, kept, _read(Path(kept.path)))
        board.changed.connect(self.changed)
        board.taken_off.connect(lambda: self._take_off(board))
        self.boards.append(board)
        return board

    def show(self, kept: list[KeptBoard]) -> list[FoxHandError]:
        """Pin what was pinned when the stage was last seen; pictures that cannot be read are
        remembered and told about."""
        for board in self.boards:
            board.deleteLater()
        self.boards.clear()
        self.lost.clear()
        problems = []
        for one in kept:
            try:
                self.pin(one)
            except FoxHandError as error:
                self.lost.append(one)
                problems.append(error)
        return problems

    def kept(self) -> list[KeptBoard]:
        """What is remembered of all of them."""
        return [b.kept() for b in self.boards] + self.lost

    def _take_off(self, board: ReferenceImage) -> None:
        self.boards.remove(board)
        board.deleteLater()
        self.changed.emit()


def _read(path: Path) -> QPixmap:
    try:
        open_file(path, CARD).close()  # so it is a file, of a size that can be read
    except OSError as error:
        raise _unreadable(path, error.strerror or tr("the system gives no reason")) from error
    reader = QImageReader(str(path))
    reader.setAutoTransform(True)
    size = reader.size()
    if size.isValid() and max(size.width(), size.height()) > LARGEST:
        reader.setScaledSize(
            size.scaled(QSize(LARGEST, LARGEST), Qt.AspectRatioMode.KeepAspectRatio)
        )
    image = reader.read()
    if image.isNull():
        raise _unreadable(path, reader.errorString())
    return QPixmap.fromImage(image)


def _unreadable(path: Path, why: str) -> FoxHandError:
    return FoxHandError(
        "board.unreadable",
        tr("The reference picture {name} cannot be shown ({why}).", name=path.name, why=why),
        tr("Everything else on the stage is as it was."),
        tr("It was expected at {path}.", path=path),
    )
