"""The shot that was open last, large, with the button that goes on."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.session.shots.recent import PlaceState, RecentShot
from fox_hand.ui.screens.start.recent_list import paint_portrait
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind

FOOT = 72  # pixels below the picture


class Portrait(QWidget):
    """A picture as large as there is room."""

    clicked = Signal()

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme, self._image, self._name = theme, QImage(), ""
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(320, 200)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def show_image(self, image: QImage, name: str) -> None:
        """Another picture."""
        self._image, self._name = image, name
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if event.button() is Qt.MouseButton.LeftButton:
            self.clicked.emit()

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_portrait(painter, self._theme, QRectF(self.rect()), self._image, self._name, 8.0)


class LastShot(QWidget):
    """Picture, words, and Go on."""

    go_on = Signal()

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.setProperty("plate", "raised")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.portrait = Portrait(theme)
        self._name, self._said = Words(), Words()
        self._name.setProperty("role", "title")
        self._said.setProperty("quiet", True)
        self.button = Button(theme, tr("Go on"), kind=Kind.MAIN, key="Enter", height=36)
        self.button.clicked.connect(self.go_on)
        self.portrait.clicked.connect(self.go_on)
        words = QVBoxLayout()
        words.setSpacing(0)
        words.addStretch(1)
        words.addWidget(self._name)
        words.addWidget(self._said)
        words.addStretch(1)
        foot = QWidget()
        foot.setFixedHeight(FOOT)
        line = QHBoxLayout(foot)
        line.setContentsMargins(16, 0, 16, 0)
        line.setSpacing(12)
        line.addLayout(words, 1)
        line.addWidget(self.button)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.portrait, 1)
        column.addWidget(foot)

    def show_shot(self, shot: RecentShot, image: QImage) -> None:
        """Which one it is."""
        self.portrait.show_image(image, shot.path.stem)
        self._name.setText(shot.name)
        gone = shot.state is PlaceState.MOVED
        self._said.setText(
            tr("Not at {parent} any more.", parent=shot.path.parent) if gone else shot.said
        )
        self.button.setText(tr("Find it") if gone else tr("Go on"))
        self.button.setAccessibleName(f"{self.button.text()}: {shot.name}")

    @staticmethod
    def asks_for_file(shot: RecentShot) -> bool:
        """Whether its file must be found before it can be opened."""
        return shot.state is PlaceState.MOVED
