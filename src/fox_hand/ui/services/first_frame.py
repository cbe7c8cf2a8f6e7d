"""What stands on the screen while the window is being built: its ground, in its place."""

from __future__ import annotations

from importlib.resources import as_file, files
from typing import Any

from PySide6.QtCore import QByteArray, QRectF, Qt
from PySide6.QtGui import QColor, QGuiApplication, QPainter, QPaintEvent, QPixmap, QRadialGradient
from PySide6.QtWidgets import QWidget

from fox_hand.base.early_settings import early
from fox_hand.ui.theme.tokens import THEMES, Tokens

HEADER, MARK, FIGURE, SHEETS, STRIP = 44, 24, 232, 348, 212
NAME = "Fox Hand"


def tokens_for(theme: str, *, stronger: bool) -> Tokens:
    """The colours of a choice; "desktop" asks what the desktop says."""
    if theme == "desktop":
        scheme = QGuiApplication.styleHints().colorScheme()
        theme = "paper" if scheme is Qt.ColorScheme.Light else "dusk"
    return THEMES[theme][stronger]


def screens_there() -> str:
    """The sizes and scales of all screens from left to right, such as ``1920x1080@1
    2560x1440@1.5``: by these it is remembered how large the window was."""
    screens = sorted(QGuiApplication.screens(), key=lambda one: one.geometry().topLeft().toTuple())
    return " ".join(
        f"{one.size().width()}x{one.size().height()}@{one.devicePixelRatio():g}" for one in screens
    )


class FirstFrame(QWidget):
    """The header, the columns and the stage, with nothing on them. The window takes its place."""

    def __init__(self) -> None:
        super().__init__()
        theme = early("theme", "dusk")
        theme = theme if theme in ("desktop", *THEMES) else "dusk"
        self._colours = tokens_for(theme, stronger=early("stronger", False))
        self.setWindowTitle(NAME)
        self.setAccessibleName(NAME)
        self.resize(1280, 800)
        shape = _said("window", "").encode(errors="replace")
        self.restoreGeometry(QByteArray.fromBase64(shape))
        with as_file(files("fox_hand.base").joinpath("desktop", "fox-hand-48.png")) as path:
            self._mark = QPixmap(str(path))

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter, colours = QPainter(self), self._colours
        width, height = self.width(), self.height()
        painter.fillRect(self.rect(), QColor(colours.panel))
        left, right = _wide("figure", FIGURE, width), _wide("sheets", SHEETS, width)
        if early("sheets_left", False):
            left, right = left + right, 0
        low = height - min(max(_said("strip_height", 0), 0) or STRIP, height)
        stage = QRectF(left, HEADER, width - left - right, low - HEADER)
        light = QRadialGradient(stage.center(), max(stage.width(), stage.height()) * 0.7)
        light.setColorAt(0, QColor(colours.stage_middle))
        light.setColorAt(1, QColor(colours.stage_edge))
        painter.fillRect(stage, light)
        painter.fillRect(QRectF(0, 0, width, HEADER), QColor(colours.window))
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        mark = QRectF(12, (HEADER - MARK) / 2, MARK, MARK)
        painter.drawPixmap(mark, self._mark, QRectF(self._mark.rect()))


def _said(name: str, otherwise: Any) -> Any:
    """A size as it was on these screens, else as it was last."""
    sizes = early("screens", {}).get(screens_there())
    found = sizes.get(name) if isinstance(sizes, dict) else None
    return found if isinstance(found, type(otherwise)) else early(name, otherwise)


def _wide(column: str, otherwise: int, most: int) -> int:
    """How wide a column is; what the file says is not checked yet."""
    if early(f"{column}_hidden", False):
        return 0
    return min(max(_said(f"{column}_width", otherwise), 0), most)
