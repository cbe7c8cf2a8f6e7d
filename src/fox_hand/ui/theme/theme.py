"""Colours, type and icons as Qt objects."""

from __future__ import annotations

from importlib import resources
from pathlib import Path

from PySide6.QtCore import QByteArray, QObject, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFont, QFontDatabase, QFontMetrics, QIcon, QPainter, QPixmap
from PySide6.QtSvg import QSvgRenderer

from fox_hand.ui.theme.tokens import Tokens

# plain files, as in the style sheet: a package's resources are looked through anew for each
ICONS = Path(__file__).parents[1] / "icons"
FAMILY = "Atkinson Hyperlegible Next"
WEIGHTS = (400, 500, 600)
MOST_WIDTHS = 2000  # words whose width is kept


class Theme(QObject):
    """What is worn now: colours, type and icons. Needs a running QGuiApplication."""

    changed = Signal()  # other colours; what paints asks anew, what holds a picture makes it anew

    def __init__(self, tokens: Tokens) -> None:
        super().__init__()
        self.tokens = tokens
        self.age = 0  # how often other colours were put on; part of the key of what is kept drawn
        self._colours: dict[tuple[str, float], QColor] = {}
        self._fonts: dict[tuple[int, int], QFont] = {}
        self._pixmaps: dict[tuple[str, int, str, float], QPixmap] = {}
        self._widths: dict[tuple[str, int, int], int] = {}
        self._sources: dict[str, str] = {}
        folder = resources.files("fox_hand.base.fonts")
        for weight in WEIGHTS:
            data = folder.joinpath(f"AtkinsonHyperlegibleNext-{weight}.ttf").read_bytes()
            QFontDatabase.addApplicationFontFromData(QByteArray(data))

    def wear(self, tokens: Tokens) -> None:
        """Other colours from now on."""
        if tokens == self.tokens:
            return
        self.tokens = tokens
        self.age += 1
        self._colours.clear()
        self._pixmaps.clear()
        self.changed.emit()

    def colour(self, name: str, alpha: float = 1.0) -> QColor:
        """A token as a colour."""
        if (name, alpha) not in self._colours:
            colour = QColor(getattr(self.tokens, name))
            colour.setAlphaF(alpha)
            self._colours[name, alpha] = colour
        return self._colours[name, alpha]

    def font(self, pixels: int = 12, weight: int = 400) -> QFont:
        """The family at a size, with figures that line up in columns."""
        if (pixels, weight) not in self._fonts:
            self._fonts[pixels, weight] = self._made_font(pixels, weight)
        return self._fonts[pixels, weight]

    def width_of(self, words: str, pixels: int = 12, weight: int = 400) -> int:
        """How wide words are, in pixels; layouts ask for the same ones again and again."""
        key = words, pixels, weight
        if key not in self._widths:
            if len(self._widths) >= MOST_WIDTHS:
                self._widths.clear()
            self._widths[key] = QFontMetrics(self.font(pixels, weight)).horizontalAdvance(words)
        return self._widths[key]

    @staticmethod
    def _made_font(pixels: int, weight: int) -> QFont:
        font = QFont(FAMILY)
        font.setPixelSize(pixels)
        font.setWeight(QFont.Weight(weight))
        font.setHintingPreference(QFont.HintingPreference.PreferVerticalHinting)
        font.setFeature(QFont.Tag("tnum"), 1)
        return font

    def pixmap(self, icon: str, size: int, colour: str = "text", ratio: float = 1.0) -> QPixmap:
        """An icon drawn in a token's colour; ``size`` in logical pixels."""
        key = (icon, size, colour, ratio)
        if key not in self._pixmaps:
            self._pixmaps[key] = self._drawn(
                icon, size, QColor(getattr(self.tokens, colour)), ratio
            )
        return self._pixmaps[key]

    def _drawn(self, icon: str, size: int, colour: QColor, ratio: float) -> QPixmap:
        if icon not in self._sources:
            source = (ICONS / f"{icon}.svg").read_text("utf-8")
            # the set is drawn on 24 units; the line is to be 1.5 px at every size
            self._sources[icon] = source
        line = 1.5 * 24 / size
        source = self._sources[icon].replace("currentColor", colour.name())
        source = source.replace('stroke-width="2"', f'stroke-width="{line:.3f}"')
        pixmap = QPixmap(QSize(round(size * ratio), round(size * ratio)))
        pixmap.fill(Qt.GlobalColor.transparent)
        painter = QPainter(pixmap)
        QSvgRenderer(QByteArray(source.encode())).render(
            painter, QRectF(0, 0, pixmap.width(), pixmap.height())
        )
        painter.end()
        pixmap.setDevicePixelRatio(ratio)
        return pixmap

    def icon(self, name: str, size: int = 16, colour: str = "text") -> QIcon:
        """An icon for standard widgets, with a dimmed form for disabled ones."""
        icon = QIcon()
        for ratio in (1.0, 2.0):
            icon.addPixmap(self.pixmap(name, size, colour, ratio), QIcon.Mode.Normal)
            icon.addPixmap(self.pixmap(name, size, "line", ratio), QIcon.Mode.Disabled)
        return icon
